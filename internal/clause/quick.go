package clause

import "example.org/kavlo/internal/value"

// This file holds shorter ways for what conditions do most: comparing a column
// of the row at hand in order, asking whether it is blank, and days counted
// from today. They give what the general ways in compile.go give.

// plainColumn gives the slot and id of a column of the row at hand that is not
// computed.
func plainColumn(n Node) (slot int, id int64, ok bool) {
	x, isName := n.(*nameNode)
	if !isName || x.level != levelRow || x.column.Computed != nil || x.column.Slot < 0 {
		return 0, 0, false
	}
	return x.column.Slot, x.column.ID, true
}

func blankTest(slot int, not bool) Condition {
	return func(e *Env) Tri {
		blank := uint(slot) >= uint(len(e.Cells)) || e.Cells[slot].IsBlank()
		return tri(blank != not)
	}
}

// ordered gives, for a comparison in order, which outcomes of Compare it wants.
var ordered = map[string]struct{ less, same, more bool }{
	"<": {less: true}, "before": {less: true},
	">=": {same: true, more: true}, "on or after": {same: true, more: true},
}

// columnCompare compiles a comparison in order of a plain column, or gives nil
// where it is another. Those that treat a day as a whole (on or before, after)
// go the general way.
func columnCompare(x *compareNode) Condition {
	wants, known := ordered[x.op]
	slot, id, plain := plainColumn(x.l)
	if !known || !plain {
		return nil
	}
	r := valueOf(x.r)
	return func(e *Env) Tri {
		if uint(slot) >= uint(len(e.Cells)) {
			return No
		}
		a := &e.Cells[slot]
		if a.IsOdd() {
			e.OddColumn = id
			return Odd
		}
		b := r(e)
		if b.IsOdd() {
			return Odd
		}
		if a.IsBlank() || b.IsBlank() {
			return No
		}
		var order int
		if a.Kind() == value.Date && b.Kind() == value.Date {
			order = int(a.Days() - b.Days())
		} else {
			order = inOrder(*a, b)
		}
		return tri(order < 0 && wants.less || order == 0 && wants.same || order > 0 && wants.more)
	}
}

// dayFromToday compiles today plus or minus so many days or weeks, or gives nil.
func dayFromToday(x *arithmeticNode) ValueFunc {
	clock, isClock := x.l.(*clockNode)
	d, isDuration := x.r.(*durationNode)
	if !isClock || clock.now || !isDuration {
		return nil
	}
	days := map[string]int64{"days": d.n, "weeks": 7 * d.n}[d.unit]
	if days == 0 || days > 1_000_000 {
		return nil
	}
	sign := int64(1)
	if x.op == '-' {
		days, sign = -days, -1
	}
	return func(e *Env) value.Value { return e.onCalendar(value.OfDays(e.Today.Days()+days), e.Today, d, sign) }
}
