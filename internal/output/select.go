package output

import (
	"context"
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Select gives rows of a tab as a table to be written, computed columns worked
// out, and how many rows could not be judged. The meter is asked for its error
// once the table's rows have been had.
func (files *Files) Select(t *sheet.Tracker, q query.Query, m *clause.Meter) (table outbound.Table, passedOver int, err error) {
	ready, err := files.Program(t.Shape)
	if err != nil {
		return table, 0, err
	}
	return tableOf(ready, t, q, files.Now(), m, nil)
}

// SelectKnown is Select for a workbook that may come back: its rows take along which they
// are.
func (files *Files) SelectKnown(ctx context.Context, t *sheet.Tracker, q query.Query, m *clause.Meter) (table outbound.Table, passedOver int, err error) {
	ready, err := files.Program(t.Shape)
	if err != nil {
		return table, 0, err
	}
	workspace, err := files.Store().OwnKey(ctx, "workspace")
	if err != nil {
		return table, 0, err
	}
	return tableOf(ready, t, q, files.Now(), m, &outbound.Identity{Workspace: workspace, Tracker: int64(t.ID), Tab: int64(q.Tab.ID)})
}

// formulaOf gives what computes a column, where that is simple and from columns that are
// written too; else nil.
func formulaOf(p *program.Program, tab *sheet.TabShape, slot int, written []int) *outbound.Formula {
	c := &tab.Columns[slot]
	if !c.Computed() || c.Type.Kind != value.Number && c.Type.Kind != value.Date {
		return nil
	}
	var a *clause.Arithmetic
	for _, known := range p.Scope(tab.ID, false).Columns {
		if known.ID == int64(c.ID) && known.Computed != nil {
			a = known.Computed.Arithmetic()
		}
	}
	if a == nil {
		return nil
	}
	f := &outbound.Formula{Parts: a.Parts, Divides: a.Divides()}
	for _, id := range a.Columns {
		at := slices.IndexFunc(written, func(slot int) bool { return int64(tab.Columns[slot].ID) == id })
		if at < 0 {
			return nil
		}
		f.Columns = append(f.Columns, at)
	}
	return f
}

// tableOf lays the rows that a query finds out as a table.
func tableOf(p *program.Program, t *sheet.Tracker, q query.Query, now time.Time, m *clause.Meter, of *outbound.Identity) (table outbound.Table, passedOver int, err error) {
	found, err := query.Select(p, t, q, now, m)
	if err != nil {
		return table, 0, err
	}
	if len(found.Slots) == 0 {
		return table, 0, fmt.Errorf("tab %s has no columns to write", q.Tab.Name)
	}
	table.Name, table.Count = q.Tab.Name, len(found.Rows)
	for _, slot := range found.Slots {
		c := q.Tab.Columns[slot]
		table.Columns = append(table.Columns, outbound.Column{Name: c.Name, Type: c.Type, Formula: formulaOf(p, q.Tab, slot, found.Slots)})
		if of != nil && !c.Computed() {
			of.Columns = append(of.Columns, int64(c.ID))
		}
	}
	table.Identity = of
	table.Rows = func(yield func(outbound.Row) bool) {
		for _, r := range found.Rows {
			if !m.Use(1) {
				return
			}
			row := outbound.Row{Cells: found.Cells(r), Notes: inSlots(r.Notes(), q.Tab, found.Slots), Styles: inSlots(r.Styles(), q.Tab, found.Slots)}
			if of != nil {
				row.Identity = identityOf(r, q.Tab, found.Slots)
			}
			if !yield(row) {
				return
			}
		}
	}
	return table, found.Odd, nil
}

// identityOf says which row it is, and marks its cells.
func identityOf(r *sheet.Row, tab *sheet.TabShape, slots []int) string {
	marks := make([]reconcile.CellMark, 0, len(slots))
	notes, styles := r.Notes(), r.Styles()
	for _, slot := range slots {
		if c := &tab.Columns[slot]; !c.Computed() {
			marks = append(marks, reconcile.CellMarkOf(r.At(slot), notes[c.ID], styles[c.ID]))
		}
	}
	return reconcile.IdentityOf(r.ID, marks)
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
