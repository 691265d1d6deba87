package clause

import (
	"fmt"
	"iter"
	"strings"
	"time"

	"example.org/kavlo/internal/value"
)

// This file compiles what yields a value; compile.go compiles conditions.

func valueOf(n Node) ValueFunc {
	switch x := n.(type) {
	case *nameNode:
		return nameValue(x)
	case *literalNode:
		v := x.v
		return func(*Env) value.Value { return v }
	case *tabNode:
		return func(e *Env) value.Value { return value.OfText(e.Tab) }
	case *clockNode:
		if x.now {
			return func(e *Env) value.Value { return e.Now }
		}
		return func(e *Env) value.Value { return e.Today }
	case *templateNode:
		if x.single() { // it is what the hole is
			return valueOf(x.holes[0])
		}
		return templateValue(x)
	case *arithmeticNode:
		return arithmeticValue(x)
	case *negateNode:
		return arithmeticValue(&arithmeticNode{op: '-', l: &literalNode{v: value.OfInt(0)}, r: x.x, typ: Number})
	case *ifNode:
		cond, then, other := logic(x.cond), valueOf(x.then), valueOf(x.other)
		return func(e *Env) value.Value {
			switch cond(e) {
			case Yes:
				return then(e)
			case No:
				return other(e)
			}
			return oddResult
		}
	case *callNode:
		return callValue(x)
	case *runningNode:
		return runningValue(x)
	case *spanNode:
		return spanValue(x)
	case *tableNode:
		return tableValue(x)
	case *joinNode, *notNode, *compareNode, *betweenNode, *oneOfNode, *testNode, *changedNode, *wasNode, logicNode:
		return truthValue(n)
	}
	panic(fmt.Sprintf("clause: %T yields no value", n)) // the checker lets no other through
}

// truthValue compiles what comes out as yes or no.
func truthValue(n Node) ValueFunc {
	c := logic(n)
	return func(e *Env) value.Value {
		switch c(e) {
		case Yes:
			return value.OfBool(true)
		case No:
			return value.OfBool(false)
		}
		return oddResult
	}
}

// oddResult stands for a value that could not be worked out; Env says why.
var oddResult = value.OfOdd("?")

func (e *Env) fault(format string, args ...any) value.Value {
	e.Fault = fmt.Sprintf(format, args...)
	return oddResult
}

func nameValue(x *nameNode) ValueFunc {
	slot, id := x.column.Slot, x.column.ID
	if sub := x.column.Computed; sub != nil {
		compute := sub.Value()
		if x.level == levelTable {
			return func(e *Env) value.Value {
				inner := e.forTable()
				v := inner.workOut(slot, compute)
				e.OddColumn, e.Fault = inner.OddColumn, inner.Fault
				return v
			}
		}
		return func(e *Env) value.Value { return e.workOut(slot, compute) }
	}
	switch x.level {
	case levelExtra:
		return func(e *Env) value.Value { return cell(e.Extra, slot) }
	case levelTable:
		return func(e *Env) value.Value {
			v := cell(e.table, slot)
			if v.IsOdd() {
				e.OddColumn = id
			}
			return v
		}
	}
	return func(e *Env) value.Value {
		if uint(slot) >= uint(len(e.Cells)) {
			return value.Value{}
		}
		v := e.Cells[slot]
		if v.IsOdd() {
			e.OddColumn = id
		}
		return v
	}
}

// workOut gives what a computed column of the row at hand comes to, worked out
// once a row however often it is named.
func (e *Env) workOut(slot int, compute ValueFunc) value.Value {
	if e.turn == 0 || slot < 0 { // nobody says when the row is another one
		return compute(e)
	}
	if slot >= len(e.worked) {
		e.worked = append(e.worked, make([]worked, slot+1-len(e.worked))...)
	}
	if w := &e.worked[slot]; w.turn == e.turn {
		if w.v.IsOdd() {
			e.OddColumn, e.Fault = w.oddColumn, w.fault
		}
		return w.v
	}
	v := compute(e)
	e.worked[slot] = worked{e.turn, v, e.OddColumn, e.Fault}
	return v
}

// Computed gives what a computed column comes to of the row that Next laid before
// the environment.
func (e *Env) Computed(slot int, compute ValueFunc) value.Value { return e.workOut(slot, compute) }

// forTable gives the environment in which computed columns of the row looked at
// are worked out.
func (e *Env) forTable() *Env {
	inner := e.inTable
	if inner == nil {
		inner = &Env{}
		e.inTable = inner
	}
	if e.turn == 0 || inner.of != e.turn || len(inner.Cells) != len(e.table) || len(e.table) == 0 || &inner.Cells[0] != &e.table[0] || inner.Tab != e.tableTab {
		kept, turn := inner.worked, inner.turn
		nested := inner.inTable
		*inner = *e
		inner.worked, inner.turn, inner.inTable, inner.of = kept, turn, nested, e.turn
		inner.table, inner.tableTab, inner.Tab, inner.Row = nil, "", e.tableTab, 0
		inner.Own, inner.running = e.ownOf(e.tableID)
		inner.Next(e.table)
	}
	return inner
}

// ownOf gives the rows of another tab as a row of it sees them, and their running sums.
func (e *Env) ownOf(table int64) (func() iter.Seq[[]value.Value], map[int]map[*value.Value]value.Value) {
	if e.Rows == nil {
		return nil, nil
	}
	if e.others == nil {
		e.others = map[int64]*otherTab{}
	}
	o := e.others[table]
	if o == nil {
		rows := e.Rows
		o = &otherTab{sums: map[int]map[*value.Value]value.Value{}, own: func() iter.Seq[[]value.Value] {
			return func(yield func([]value.Value) bool) {
				for _, cells := range rows(table) {
					if !yield(cells) {
						return
					}
				}
			}
		}}
		e.others[table] = o
	}
	return o.own, o.sums
}

// otherTab is what an environment keeps of a tab whose computed columns it works out.
type otherTab struct {
	own  func() iter.Seq[[]value.Value]
	sums map[int]map[*value.Value]value.Value
}

func templateValue(x *templateNode) ValueFunc {
	holes := make([]ValueFunc, len(x.holes))
	for i, h := range x.holes {
		holes[i] = valueOf(h)
	}
	return func(e *Env) value.Value {
		var b strings.Builder
		for i, h := range holes {
			b.WriteString(x.texts[i])
			v := h(e)
			if v == oddResult {
				return v
			}
			b.WriteString(v.Show(x.types[i]))
		}
		b.WriteString(x.texts[len(holes)])
		return value.OfText(b.String())
	}
}

func arithmeticValue(x *arithmeticNode) ValueFunc {
	if v := dayFromToday(x); v != nil {
		return v
	}
	l := valueOf(x.l)
	if d, ok := x.r.(*durationNode); ok {
		sign := int64(1)
		if x.op == '-' {
			sign = -1
		}
		return func(e *Env) value.Value {
			a := l(e)
			if a.IsOdd() || a.IsBlank() {
				return a
			}
			return shift(e, a, d, sign)
		}
	}
	r := valueOf(x.r)
	op := map[byte]func(a, b value.Value) (value.Value, error){'+': value.Add, '-': value.Sub, '*': value.Mul, '/': value.Div}[x.op]
	return func(e *Env) value.Value {
		a, b := l(e), r(e)
		switch {
		case a.IsOdd() || b.IsOdd():
			return oddResult
		case a.IsBlank() || b.IsBlank():
			return value.Value{}
		case a.Kind() != value.Number: // a date less a date
			return value.OfInt(a.Days() - b.Days())
		case x.op == '/' && value.Equal(b, value.OfInt(0)):
			return e.fault("%s is divided by zero", a)
		}
		v, err := op(a, b)
		if err != nil {
			return e.fault("%v", err)
		}
		return v
	}
}

// shift adds a duration to a date or date-time. Months and years keep the day
// of the month, or take the month's last where it has no such day.
func shift(e *Env, v value.Value, d *durationNode, sign int64) value.Value {
	n := sign * d.n
	days := int64(0)
	switch d.unit {
	case "hours":
		return e.onCalendar(value.OfSeconds(v.Seconds()+n*3600), v, d, sign)
	case "minutes":
		return e.onCalendar(value.OfSeconds(v.Seconds()+n*60), v, d, sign)
	case "days":
		days = n
	case "weeks":
		days = 7 * n
	case "workdays":
		to := value.OfDays(e.Days.Add(v.Days(), n))
		if to.IsOdd() {
			return e.onCalendar(to, v, d, sign)
		}
		days = to.Days() - v.Days()
	case "months":
		days = addMonths(v.Time(), n)
	case "years":
		days = addMonths(v.Time(), 12*n)
	}
	if v.Kind() == value.DateTime {
		return e.onCalendar(value.OfSeconds(v.Seconds()+days*86400), v, d, sign)
	}
	return e.onCalendar(value.OfDays(v.Days()+days), v, d, sign)
}

// onCalendar gives a day that was worked out, or says that there is no such day.
func (e *Env) onCalendar(v, from value.Value, d *durationNode, sign int64) value.Value {
	if !v.IsOdd() {
		return v
	}
	op := '+'
	if sign < 0 {
		op = '-'
	}
	return e.fault("%s %c %s is outside the years 0 to 9999", from, op, d)
}

// addMonths gives how many days lie between t and the same day n months on.
func addMonths(t time.Time, n int64) int64 {
	y, m, d := t.Date()
	first := time.Date(y, m+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1).Day()
	to := first.AddDate(0, 0, min(d, last)-1)
	from := time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
	return (to.Unix() - from.Unix()) / 86400
}

func callValue(x *callNode) ValueFunc {
	if x.fn.ofRow != nil {
		return x.fn.ofRow
	}
	args := make([]ValueFunc, len(x.args))
	for i, a := range x.args {
		args[i] = valueOf(a)
	}
	return func(e *Env) value.Value {
		got := make([]value.Value, len(args))
		for i, a := range args {
			if got[i] = a(e); got[i].IsOdd() || got[i].IsBlank() {
				return got[i]
			}
		}
		v, err := x.fn.call(got)
		if err != nil {
			return e.fault("%s: %v", x.fn.name, err)
		}
		return v
	}
}

func spanValue(x *spanNode) ValueFunc {
	a, b := valueOf(x.a), valueOf(x.b)
	return func(e *Env) value.Value {
		from, to := a(e), b(e)
		switch {
		case from.IsOdd() || to.IsOdd():
			return oddResult
		case from.IsBlank() || to.IsBlank():
			return value.Value{}
		case x.work:
			return value.OfInt(e.Days.Between(from.Days(), to.Days()))
		}
		return value.OfInt(to.Days() - from.Days())
	}
}
