package query

import (
	"cmp"
	"iter"
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Query says which rows and columns of a tab are meant.
type Query struct {
	Tab           *sheet.TabShape
	Where         string               // a condition; "": all rows
	Words         string               // that a row holds, in whatever cells; "": all rows
	Names         map[string]string    // by which Words find people, by address
	Only          map[sheet.RowID]bool // these rows alone; nil: all
	Columns       []string             // names, or ids; none: all
	Order         Order                // none: as the tab has them
	Offset, Limit int                  // of the rows that fit; a Limit of 0: all from Offset on
}

// Rows are the rows that a query found.
type Rows struct {
	Rows   []*sheet.Row
	Total  int      // rows that fit, before Offset and Limit
	Passed []Passed // rows that could not be judged, the first of them
	Odd    int      // how many those are
	Slots  []int    // of the columns asked for, in their order

	program *program.Program
	env     *clause.Env
	cells   []value.Value
}

// named is how many rows that could not be judged are named; all are counted.
const named = 200

// Select reads rows of a tab. m bounds what conditions and computed columns may cost: it
// is asked for its error once the cells have been had.
func Select(p *program.Program, t *sheet.Tracker, q Query, now time.Time, m *clause.Meter) (*Rows, error) {
	slots, err := q.slots()
	if err != nil {
		return nil, err
	}
	if len(q.Order) > 0 {
		return ordered(p, t, q, now, m)
	}
	filter, err := Compile(q.Where, scopeOf(p, q.Tab))
	if err != nil {
		return nil, err
	}
	out := &Rows{Slots: slots, program: p, env: p.Env(t, q.Tab, now, m), cells: make([]value.Value, len(slots))}
	words := q.words(t)
	if filter == nil && q.Only == nil && words == nil {
		out.Total = t.Count(q.Tab.ID)
		limit := q.Limit
		if limit == 0 {
			limit = out.Total
		}
		out.Rows = t.Page(q.Tab.ID, q.Offset, limit)
		return out, nil
	}
	candidates, _ := filter.Candidates(out.env, t, q.Tab.ID)
	if q.Only != nil && len(q.Only) < t.Count(q.Tab.ID)/fewRows {
		candidates = q.few(t, filter != nil)
	}
	for row, ask := range candidates {
		if !m.Use(1) {
			break
		}
		if q.Only != nil && !q.Only[row.ID] {
			continue
		}
		if ask {
			program.Look(out.env, row)
			switch filter.Judge(out.env) {
			case clause.No:
				continue
			case clause.Odd:
				if out.Odd++; len(out.Passed) < named {
					out.Passed = append(out.Passed, PassedOver(t, row, out.env))
				}
				continue
			case clause.Yes:
			}
		}
		if words != nil && !words.in(out, row) {
			continue
		}
		if out.Total >= q.Offset && (q.Limit == 0 || len(out.Rows) < q.Limit) {
			out.Rows = append(out.Rows, row)
		}
		out.Total++
	}
	return out, m.Err()
}

// fewRows is the part of a tab up to which its rows are looked up one by one.
const fewRows = 8

// few gives those rows alone that are asked for, in the order of the tab.
func (q *Query) few(t *sheet.Tracker, ask bool) iter.Seq2[*sheet.Row, bool] {
	rows := make([]*sheet.Row, 0, len(q.Only))
	for id, wanted := range q.Only {
		if row := t.Row(id); wanted && row != nil && row.Tab == q.Tab.ID {
			rows = append(rows, row)
		}
	}
	slices.SortFunc(rows, func(a, b *sheet.Row) int { return cmp.Or(cmp.Compare(a.Pos, b.Pos), cmp.Compare(a.ID, b.ID)) })
	return func(yield func(*sheet.Row, bool) bool) {
		for _, row := range rows {
			if !yield(row, ask) {
				return
			}
		}
	}
}

// ordered finds all rows that a query means, sorts them, and gives those from Offset on.
func ordered(p *program.Program, t *sheet.Tracker, q Query, now time.Time, m *clause.Meter) (*Rows, error) {
	all := q
	all.Order, all.Offset, all.Limit = nil, 0, 0
	out, err := Select(p, t, all, now, m)
	if err != nil {
		return nil, err
	}
	rows, err := q.Order.sort(q.Tab, out.Rows, func(row *sheet.Row, slot int) value.Value {
		if !q.Tab.Columns[slot].Computed() {
			return row.At(slot)
		}
		program.Look(out.env, row)
		return p.Value(out.env, row, slot)
	}, m)
	if err != nil {
		return nil, err
	}
	from := min(q.Offset, len(rows))
	to := len(rows)
	if q.Limit > 0 {
		to = min(to, from+q.Limit)
	}
	out.Rows = rows[from:to]
	return out, m.Err()
}

// Cells gives a row's cells of the columns asked for, computed ones worked out. They are
// good until the next call.
func (r *Rows) Cells(row *sheet.Row) []value.Value {
	program.Look(r.env, row)
	for n, slot := range r.Slots {
		r.cells[n] = r.program.Value(r.env, row, slot)
	}
	return r.cells
}

func (q *Query) slots() ([]int, error) {
	slots := make([]int, 0, len(q.Tab.Columns))
	for _, name := range q.Columns {
		c, err := q.Tab.Column(name)
		if err != nil {
			return nil, err
		}
		slots = append(slots, q.Tab.Slot(c.ID))
	}
	if len(q.Columns) == 0 {
		for i := range q.Tab.Columns {
			slots = append(slots, i)
		}
	}
	return slots, nil
}
