package clause

import (
	"cmp"
	"iter"
	"strings"
	"sync"

	"example.org/kavlo/internal/value"
)

// Tri is the outcome of a condition.
type Tri uint8

// No, Yes, or Odd: the outcome hangs on a cell that does not fit its column.
const (
	No Tri = iota
	Yes
	Odd
)

func tri(b bool) Tri {
	if b {
		return Yes
	}
	return No
}

// Days counts and adds working days.
type Days interface {
	Between(a, b int64) int64
	Add(day, n int64) int64
}

// Env is what a compiled clause looks at. One Env serves one goroutine; the
// caller sets Cells (and Before) for each row.
type Env struct {
	Cells  []value.Value // of the row at hand, by slot
	Before []value.Value // the same before the edit that woke the rule; nil: as now
	Tab    string        // name of the row's tab
	Extra  []value.Value // what Scope.Extra names, by slot
	Now    value.Value   // date-time in the tracker's zone
	Today  value.Value   // date
	Days   Days
	Own    func() iter.Seq[[]value.Value]                     // cells of the rows of the row's own tab, in order; may be nil
	Rows   func(table int64) iter.Seq2[string, []value.Value] // rows of a tab; may be nil
	Stamp  func(table int64) any                              // is another as soon as the rows of a tab are; may be nil
	// Parts gives the rows of a tab in parts, in order; not ok where nothing can be kept with
	// them. It may be nil.
	Parts func(table int64) ([]Part, bool)
	Meter *Meter                      // what looking at rows of tabs may cost
	Row   int64                       // the row at hand, where it is known; 0: it is not
	Page  func(row int64) value.Value // the address of a row's page, blank where it has none; may be nil

	// OddColumn is the column whose odd cell the last Odd outcome hung on, or 0;
	// Fault says what else went wrong, such as a division by zero.
	OddColumn int64
	Fault     string
	// Missed is the tab in which the last look for a first row found none.
	Missed string

	running  map[int]map[*value.Value]value.Value // by slot: the sums down to each row, by its first cell
	looked   map[*tableNode]*looked               // by the look: the tab's rows by key
	table    []value.Value                        // the row looked at inside "in TAB where"
	tableTab string
	tableID  int64
	others   map[int64]*otherTab // tabs whose computed columns are worked out
	inTable  *Env                // in which computed columns of that row are worked out
	of       uint32              // the turn of the environment that this one is in
	worked   []worked            // by slot: the computed columns of the row at hand
	turn     uint32              // of the row at hand; another row, another turn
}

// worked is what a computed column of a row came to.
type worked struct {
	turn      uint32 // in which it did; 0: never
	v         value.Value
	oddColumn int64
	fault     string
}

// Next lets the environment go on to another row, or to the same one anew.
func (e *Env) Next(cells []value.Value) {
	e.Cells, e.Before, e.OddColumn, e.Fault = cells, nil, 0, ""
	e.turn++
}

// Condition is a compiled condition. It allocates nothing for comparisons.
type Condition func(*Env) Tri

// ValueFunc is a compiled value. An odd result means that it hung on an odd cell
// or could not be worked out: see Env.OddColumn and Env.Fault.
type ValueFunc func(*Env) value.Value

// Condition compiles a checked condition.
func (e *Expr) Condition() Condition { return logic(e.root) }

// Value compiles a checked clause or template into the value it yields.
func (e *Expr) Value() ValueFunc {
	return e.compile.value(e)
}

// compiled is an expression's value, compiled when it is first asked for: a
// computed column that others name is compiled once for all of them.
type compiled struct {
	once sync.Once
	f    ValueFunc
}

func (c *compiled) value(e *Expr) ValueFunc {
	c.once.Do(func() {
		root := e.root
		if t, ok := root.(*templateNode); ok && t.single() {
			root = t.holes[0]
		}
		c.f = valueOf(root)
	})
	return c.f
}

func logic(n Node) Condition {
	switch x := n.(type) {
	case *joinNode:
		list := make([]Condition, len(x.list))
		for i, o := range x.list {
			list[i] = logic(o)
		}
		if x.or {
			return anyOf(list)
		}
		return allOf(list)
	case *notNode:
		c := logic(x.x)
		return func(e *Env) Tri {
			switch c(e) {
			case Yes:
				return No
			case No:
				return Yes
			}
			return Odd
		}
	case *compareNode:
		return compare(x)
	case *betweenNode:
		low := compare(&compareNode{op: ">=", l: x.x, r: x.low})
		high := compare(&compareNode{op: "<=", l: x.x, r: x.high})
		return allOf([]Condition{low, high})
	case *oneOfNode:
		list := make([]Condition, len(x.list))
		for i, o := range x.list {
			list[i] = compare(&compareNode{op: "is", l: x.x, r: o})
		}
		if x.not {
			return logic(&notNode{x: logicNode{anyOf(list)}})
		}
		return anyOf(list)
	case *testNode:
		if slot, _, ok := plainColumn(x.x); ok && x.what == "blank" {
			return blankTest(slot, x.not)
		}
		v, not, odd := valueOf(x.x), x.not, x.what == "odd"
		return func(e *Env) Tri {
			got := v(e)
			if odd {
				return tri(got.IsOdd() != not)
			}
			return tri(got.IsBlank() != not)
		}
	case *changedNode:
		slot := x.name.column.Slot
		return func(e *Env) Tri { return tri(e.Before != nil && cell(e.Before, slot) != cell(e.Cells, slot)) }
	case *wasNode:
		return was(x)
	case logicNode:
		return x.c
	}
	v := valueOf(n)
	return func(e *Env) Tri {
		got := v(e)
		if got.IsOdd() {
			return Odd
		}
		return tri(got.IsTrue())
	}
}

// logicNode lets a compiled condition stand where a node is wanted.
type logicNode struct{ c Condition }

func (logicNode) span() (int, int) { return 0, 0 }

func allOf(list []Condition) Condition {
	if len(list) == 2 {
		a, b := list[0], list[1]
		return func(e *Env) Tri {
			x := a(e)
			if x == No {
				return No
			}
			if y := b(e); y != Yes {
				return y
			}
			return x
		}
	}
	return func(e *Env) Tri {
		out := Yes
		for _, c := range list {
			switch c(e) {
			case No:
				return No
			case Odd:
				out = Odd
			}
		}
		return out
	}
}

func anyOf(list []Condition) Condition {
	return func(e *Env) Tri {
		out := No
		for _, c := range list {
			switch c(e) {
			case Yes:
				return Yes
			case Odd:
				out = Odd
			}
		}
		return out
	}
}

func was(x *wasNode) Condition {
	slot, id, not := x.name.column.Slot, x.name.column.ID, x.not
	var want ValueFunc
	if x.v != nil {
		want = valueOf(x.v)
	}
	return func(e *Env) Tri {
		before := cell(e.Before, slot)
		if e.Before == nil {
			before = cell(e.Cells, slot)
		}
		if want == nil {
			return tri(before.IsBlank() != not)
		}
		if before.IsOdd() {
			e.OddColumn = id
			return Odd
		}
		wanted := want(e)
		if wanted.IsOdd() {
			return Odd
		}
		return tri(same(before, wanted) != not)
	}
}

func cell(cells []value.Value, slot int) value.Value {
	if uint(slot) < uint(len(cells)) {
		return cells[slot]
	}
	return value.Value{}
}

// compare compiles a comparison. The tests of order and sameness share one form:
// compare, then see whether the sign is wanted.
func compare(x *compareNode) Condition {
	if x.op == "within" {
		return within(x)
	}
	if c := columnCompare(x); c != nil {
		return c
	}
	l, r := valueOf(x.l), valueOf(x.r)
	binary := func(test func(a, b value.Value) bool, blankToo bool) Condition {
		return func(e *Env) Tri {
			a, b := l(e), r(e)
			if a.IsOdd() || b.IsOdd() {
				return Odd
			}
			if !blankToo && (a.IsBlank() || b.IsBlank()) {
				return No
			}
			return tri(test(a, b))
		}
	}
	switch x.op {
	case "is":
		return binary(same, true)
	case "is not":
		return binary(func(a, b value.Value) bool { return !same(a, b) }, true)
	case "is exactly":
		return binary(func(a, b value.Value) bool { return a.String() == b.String() }, true)
	case "is not exactly":
		return binary(func(a, b value.Value) bool { return a.String() != b.String() }, true)
	case "<", "before":
		return binary(func(a, b value.Value) bool { return inOrder(a, b) < 0 }, false)
	case "<=", "on or before":
		return binary(func(a, b value.Value) bool { return inOrder(a, b) <= 0 }, false)
	case ">", "after":
		return binary(func(a, b value.Value) bool { return inOrder(a, b) > 0 }, false)
	case ">=", "on or after":
		return binary(func(a, b value.Value) bool { return inOrder(a, b) >= 0 }, false)
	case "contains":
		return binary(func(a, b value.Value) bool { return strings.Contains(value.Fold(a.Raw()), value.Fold(b.Raw())) }, false)
	case "starts with":
		return binary(func(a, b value.Value) bool { return strings.HasPrefix(value.Fold(a.Raw()), value.Fold(b.Raw())) }, false)
	case "ends with":
		return binary(func(a, b value.Value) bool { return strings.HasSuffix(value.Fold(a.Raw()), value.Fold(b.Raw())) }, false)
	case "matches":
		re := x.re
		return binary(func(a, _ value.Value) bool { return re.MatchString(strings.TrimSpace(a.Raw())) }, false)
	}
	panic("clause: comparison without code: " + x.op) // the parser makes no other
}

// within compiles "within DURATION": from today on, or with hours from now on.
func within(x *compareNode) Condition {
	v, d := valueOf(x.l), x.r.(*durationNode)
	return func(e *Env) Tri {
		a := v(e)
		if a.IsOdd() {
			return Odd
		}
		from := e.Today
		if d.unit == "hours" || d.unit == "minutes" {
			from = e.Now
		}
		if a.IsBlank() || inOrder(a, from) < 0 {
			return No
		}
		until := shift(e, from, d, 1)
		if until.IsOdd() {
			return Odd
		}
		return tri(inOrder(a, until) <= 0)
	}
}

// inOrder orders two values. A date stands for its whole day: beside it, a date-time is
// what its day is.
func inOrder(a, b value.Value) int {
	if aDayAndATime(a, b) {
		return cmp.Compare(a.Days(), b.Days())
	}
	return value.Compare(a, b)
}

// same reports whether two values are the same; see inOrder.
func same(a, b value.Value) bool {
	if aDayAndATime(a, b) {
		return a.Days() == b.Days()
	}
	return value.Equal(a, b)
}

func aDayAndATime(a, b value.Value) bool {
	return a.Kind() == value.Date && b.Kind() == value.DateTime || a.Kind() == value.DateTime && b.Kind() == value.Date
}
