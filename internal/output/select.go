package output

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Selection says which rows and columns of a tab are meant.
type Selection struct {
	Tab     *sheet.TabShape
	Where   string   // a clause; "": all rows
	Columns []string // names; none: all
}

// Select gives rows of a tab as a table to be written, computed columns worked
// out, and how many rows could not be judged. The meter is asked for its error
// once the table's rows have been had.
func (files *Files) Select(t *sheet.Tracker, s Selection, m *clause.Meter) (table outbound.Table, passedOver int, err error) {
	ready, err := files.Program(t.Shape)
	if err != nil {
		return table, 0, err
	}
	return selectRows(ready, t, s, files.Now(), m)
}

func selectRows(bound *program.Program, t *sheet.Tracker, s Selection, now time.Time, m *clause.Meter) (table outbound.Table, passedOver int, err error) {
	slots, err := slotsOf(s)
	if err != nil {
		return table, 0, err
	}
	table.Name = s.Tab.Name
	for _, i := range slots {
		c := s.Tab.Columns[i]
		table.Columns = append(table.Columns, outbound.Column{Name: c.Name, Type: c.Type})
	}
	env := bound.Env(t, s.Tab, now, m)
	rows := slices.Collect(t.Rows(s.Tab.ID))
	if strings.TrimSpace(s.Where) != "" {
		expr, err := clause.CheckCondition(s.Where, bound.Scope(s.Tab.ID, false))
		if err != nil {
			return table, 0, err
		}
		holds := expr.Condition()
		rows = slices.DeleteFunc(rows, func(r *sheet.Row) bool {
			if !m.Use(1) {
				return true
			}
			program.Look(env, r)
			truth := holds(env)
			if truth == clause.Odd {
				passedOver++
			}
			return truth != clause.Yes
		})
	}
	if err := m.Err(); err != nil {
		return table, 0, err
	}
	table.Count = len(rows)
	cells := make([]value.Value, len(slots))
	table.Rows = func(yield func(outbound.Row) bool) {
		for _, r := range rows {
			if !m.Use(1) {
				return
			}
			program.Look(env, r)
			for n, i := range slots {
				cells[n] = bound.Value(env, r, i)
			}
			if !yield(outbound.Row{Cells: cells, Notes: inSlots(r.Notes(), s.Tab, slots), Looks: inSlots(r.Looks(), s.Tab, slots)}) {
				return
			}
		}
	}
	return table, passedOver, nil
}

// inSlots lays texts by column out as the columns chosen are; nil for none.
func inSlots(texts map[sheet.ColumnID]string, tab *sheet.TabShape, slots []int) []string {
	if len(texts) == 0 {
		return nil
	}
	out := make([]string, len(slots))
	for n, i := range slots {
		out[n] = texts[tab.Columns[i].ID]
	}
	return out
}

func slotsOf(s Selection) ([]int, error) {
	var slots []int
	for _, name := range s.Columns {
		c, err := s.Tab.Column(name)
		if err != nil {
			return nil, err
		}
		slots = append(slots, s.Tab.Slot(c.ID))
	}
	if len(s.Columns) == 0 {
		for i := range s.Tab.Columns {
			slots = append(slots, i)
		}
	}
	if len(slots) == 0 {
		return nil, fmt.Errorf("tab %s has no columns to write", s.Tab.Name)
	}
	return slots, nil
}
