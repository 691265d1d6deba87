package clause

import "example.org/kavlo/internal/value"

// ColumnFilter is what of a condition can be told from columns alone, many rows at a
// time: the parts joined by "and" that compare a column of the row at hand with
// something that is the same for every row, or ask whether it is blank or odd.
type ColumnFilter struct {
	tests []screenTest
	whole bool // the tests are the whole condition
}

type screenTest struct {
	slot  int
	what  string // blank, odd or "" for a comparison
	not   bool   // comparison: at or above the bound is wanted
	upTo  bool   // comparison: the bound itself counts as below
	bound ValueFunc
}

// screened gives, for a comparison in order, how it is asked of a vector.
var screened = map[string]struct{ not, upTo bool }{
	"<": {}, "before": {}, "<=": {upTo: true}, "on or before": {upTo: true},
	">": {not: true, upTo: true}, "after": {not: true, upTo: true}, ">=": {not: true}, "on or after": {not: true},
}

// ColumnFilter gives the column filter of a checked condition, or nil where no part of it
// can be told from columns.
func (e *Expr) ColumnFilter() *ColumnFilter {
	s := &ColumnFilter{whole: true}
	s.add(e.root)
	if len(s.tests) == 0 {
		return nil
	}
	return s
}

func (s *ColumnFilter) add(n Node) {
	switch x := n.(type) {
	case *joinNode:
		if !x.or {
			for _, part := range x.list {
				s.add(part)
			}
			return
		}
	case *betweenNode:
		s.add(&compareNode{op: ">=", l: x.x, r: x.low})
		s.add(&compareNode{op: "<=", l: x.x, r: x.high})
		return
	case *compareNode:
		how, ordered := screened[x.op]
		if slot, _, plain := plainColumn(x.l); plain && ordered && sameForAll(x.r) {
			s.tests = append(s.tests, screenTest{slot: slot, not: how.not, upTo: how.upTo, bound: valueOf(x.r)})
			return
		}
	case *testNode:
		if slot, _, plain := plainColumn(x.x); plain {
			s.tests = append(s.tests, screenTest{slot: slot, what: x.what, not: x.not})
			return
		}
	}
	s.whole = false
}

// sameForAll reports whether a value is the same whatever the row at hand.
func sameForAll(n Node) bool {
	switch x := n.(type) {
	case *literalNode, *clockNode, *durationNode:
		return true
	case *negateNode:
		return sameForAll(x.x)
	case *arithmeticNode:
		return sameForAll(x.l) && sameForAll(x.r)
	}
	return false
}

// Bounds works out what the filter's comparisons compare with, once for all rows.
func (s *ColumnFilter) Bounds(e *Env) []value.Value {
	out := make([]value.Value, len(s.tests))
	for i, t := range s.tests {
		if t.bound != nil {
			out[i] = t.bound(e)
		}
	}
	return out
}

// Judge looks at n rows by their columns. The condition holds for the rows marked
// yes; those marked ask must be judged one by one; for the others it does not hold.
func (s *ColumnFilter) Judge(bounds []value.Value, n int, column func(slot int) *value.Vector) (yes, ask value.Bits) {
	yes = value.FirstBits(n)
	if !s.whole {
		yes, ask = value.Bits{}, yes
	}
	for i, t := range s.tests {
		holds, unsure := t.judge(bounds[i], column(t.slot))
		ask = ask.And(holds.Or(unsure)).Or(yes.And(unsure))
		yes = yes.And(holds)
	}
	return yes, ask
}

var everyRow = value.FirstBits(value.VectorRows)

func (t *screenTest) judge(bound value.Value, v *value.Vector) (holds, unsure value.Bits) {
	switch t.what {
	case "blank":
		holds = v.Blank
	case "odd":
		holds = v.Odd
	default:
		below, ok := v.Below(bound, t.upTo)
		if !ok || bound.IsBlank() || bound.IsOdd() {
			return holds, everyRow
		}
		if t.not {
			below = everyRow.Without(below)
		}
		return below.Without(v.Blank).Without(v.Odd), v.Odd
	}
	if t.not {
		holds = everyRow.Without(holds)
	}
	return holds, unsure
}
