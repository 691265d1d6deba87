package api

import (
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/wire"
)

// What answers say of texts that do not fit, or that could be read in two ways.

// readings adds to an answer what there is to say, of cells that the asker sees.
func (v *view) readings(said *sheet.Readings, out *wire.ChangeSet) {
	for _, r := range said.Said {
		t := v.state.Tracker(r.Tracker)
		if t == nil || t.Row(r.Row) == nil || t.Hides(r.Column) {
			continue
		}
		row := t.Row(r.Row)
		tab := t.TabOf(row)
		column := columnName(t, tab, r.Column)
		switch {
		case r.Misfit != nil:
			out.Odd = append(out.Odd, wire.OddCell{Row: row.ID.String(), Label: t.Label(row), Tab: tab.Name, Column: column, Value: r.Text, Why: r.Misfit.Reason, Hint: r.Misfit.Hint})
		default:
			out.Read = append(out.Read, wire.ReadAs{Row: row.ID.String(), Label: t.Label(row), Column: column, Value: r.Text, As: r.Taken})
		}
	}
}

// oddWhy says why a cell's content does not fit its column, and what would.
func (v *view) oddWhy(t *sheet.Tracker, c *sheet.Column, cell value.Value) string {
	if c.Computed() {
		return ""
	}
	if m := t.Form(v.writing).Why(cell.Raw(), c.Type); m != nil {
		if m.Hint != "" {
			return m.Reason + ": " + m.Hint
		}
		return m.Reason
	}
	return "is not " + c.Type.Kind.Phrase()
}

// oddFit gives what would fit in the place of an odd cell's content; nil: nothing is near.
func (v *view) oddFit(t *sheet.Tracker, c *sheet.Column, cell value.Value) any {
	if c.Computed() {
		return nil
	}
	fit := t.Form(v.writing).Fit(cell, c.Type)
	if fit.IsBlank() {
		return nil
	}
	return fit.JSON(c.Type)
}

func overwritten(over *edit.Overwrites) []wire.OddCell {
	out := make([]wire.OddCell, 0, len(over.Cells))
	for _, o := range over.Cells {
		out = append(out, wire.OddCell{Row: o.Row.String(), Label: o.Label, Column: o.Column, Value: o.Misfit.Text, Before: o.Before, Why: o.Misfit.Reason, Hint: o.Misfit.Hint})
	}
	return out
}
