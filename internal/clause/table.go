package clause

import (
	"fmt"
)

import "example.org/kavlo/internal/value"

// tableValue compiles a look into another tab. Blanks of the column counted, added or
// sought are left out. An outcome that hangs on an odd cell is odd, and says on which;
// first and last go past odd cells of the column they seek.
func tableValue(x *tableNode) ValueFunc {
	var where Condition
	if x.where != nil {
		where = logic(x.where)
	}
	var column ValueFunc
	if x.column != nil {
		column = valueOf(x.column)
	}
	seeker, keeper := seekerOf(x.where), keeperOf(x)
	id, name := x.table.ID, ""
	if x.op == "first" || x.op == "last" {
		name = x.table.Name
	}
	return func(e *Env) value.Value {
		if e.Rows == nil {
			return e.fault("no other tab can be looked into here")
		}
		if v, ok := keeper.figure(e); ok {
			return v
		}
		outer, outerTab, outerID := e.table, e.tableTab, e.tableID
		defer func() { e.table, e.tableTab, e.tableID = outer, outerTab, outerID }()
		e.tableID = id
		g := x.gather()
		odd, ends := "", x.op == "first" || x.op == "last"
		take := func(tab string, cells []value.Value) (more bool) {
			if !e.Meter.Use(1) {
				return false
			}
			e.table, e.tableTab = cells, tab
			if where != nil {
				switch where(e) {
				case No:
					return true
				case Odd:
					odd = x.oddIn(e)
					return ends && x.op == "last"
				case Yes:
				}
			}
			if column == nil {
				g.count++
				return true
			}
			v := column(e)
			switch {
			case v.IsBlank(), v.IsOdd() && ends:
				return true
			case v.IsOdd():
				odd = x.oddIn(e)
				return false
			case x.op == "last":
				odd = "" // what came before does not matter
			}
			return g.Take(v)
		}
		if rows, tab, ok := seeker.seek(e, x); ok {
			for _, row := range rows {
				if !take(tab, row.cells) {
					break
				}
			}
		} else {
			e.Rows(id)(take)
		}
		if e.Meter != nil && e.Meter.err != nil {
			return e.fault("%v", e.Meter.err)
		}
		if odd != "" {
			return e.fault("%s", odd)
		}
		v, err := g.Result()
		if err != nil {
			return e.fault("%v", err)
		}
		if v.IsBlank() && name != "" {
			e.Missed = name
		}
		return v
	}
}

// oddIn says on which odd cell of a row of the tab a look hangs.
func (x *tableNode) oddIn(e *Env) string {
	why, name := e.Fault, ""
	for i := range x.table.Columns {
		if c := &x.table.Columns[i]; c.ID == e.OddColumn && why == "" {
			name, why = c.Name, "is not "+TypeOf(c.Type.Kind).String()
		}
	}
	label := ""
	for _, v := range e.table {
		if v.Kind() == value.Text && !v.IsBlank() {
			label = " of " + v.Raw()
			break
		}
	}
	e.OddColumn, e.Fault = 0, ""
	if name == "" {
		return fmt.Sprintf("a row%s in %s: %s", label, x.table.Name, why)
	}
	return fmt.Sprintf("%s%s in %s %s", name, label, x.table.Name, why)
}

// runningValue compiles a running sum. The sums of a tab are worked out once an
// environment, row by row: where the cell is odd so is the sum, and the rows below pass
// over it.
func runningValue(x *runningNode) ValueFunc {
	slot, id := x.column.column.Slot, x.column.column.ID
	return func(e *Env) value.Value {
		if e.Own == nil {
			return e.fault("there is no order of rows here")
		}
		sums := e.running[slot]
		if sums == nil {
			sums = runningSums(e, slot)
			if e.running == nil {
				e.running = map[int]map[*value.Value]value.Value{}
			}
			e.running[slot] = sums
		}
		if len(e.Cells) == 0 {
			return value.Value{}
		}
		v := sums[&e.Cells[0]]
		if v.IsOdd() {
			e.OddColumn = id
		}
		return v
	}
}

func runningSums(e *Env, slot int) map[*value.Value]value.Value {
	sums := map[*value.Value]value.Value{}
	var total value.Sum
	sum := value.OfInt(0)
	for cells := range e.Own() {
		if !e.Meter.Use(1) {
			break
		}
		v := cell(cells, slot)
		if !v.IsOdd() && !v.IsBlank() {
			var err error
			total.Add(v)
			if sum, err = total.Value(); err != nil {
				sum = e.fault("%v", err)
			}
		}
		if len(cells) > 0 {
			if sums[&cells[0]] = sum; v.IsOdd() {
				sums[&cells[0]] = oddResult
			}
		}
	}
	return sums
}
