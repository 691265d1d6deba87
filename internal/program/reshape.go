package program

import (
	"bytes"
	"encoding/json"
	"slices"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Store compiles a shape's computed columns as they were written, finds their types and
// rewrites their clauses to the stored form, altering the shape.
func Store(shape *sheet.Shape) (*Program, error) {
	bound, err := Bind(shape)
	if err != nil {
		return nil, err
	}
	for i := range shape.Tabs {
		t := &shape.Tabs[i]
		for j := range t.Columns {
			c := &t.Columns[j]
			if !c.Computed() {
				continue
			}
			expr, err := clause.CheckValue(c.Clause, bound.Scope(t.ID, false))
			if err != nil {
				return nil, &ColumnError{Tab: t.Name, Column: c.Name, Err: err}
			}
			c.Clause = expr.Print(clause.ByID)
			display := c.Type.Display
			c.Type = value.Type{Kind: expr.Type().Kind(), Display: display}
		}
	}
	return Bind(shape)
}

// Reshape gives a tracker another shape, and fits what its rows hold to it.
func Reshape(d *sheet.Draft, t *sheet.Tracker, after *sheet.Shape) error {
	after.Settle()
	if _, err := Store(after); err != nil {
		return err
	}
	before := t.Shape
	if err := dropOwn(d, t, after); err != nil {
		return err
	}
	if sameJSON(before, after) {
		return nil
	}
	if err := d.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: t.ID, ShapeBefore: before, ShapeAfter: after}); err != nil {
		return err
	}
	return refit(d, t.ID, before)
}

// dropOwn removes the rows that definitions kept in tabs of their own which are no more.
func dropOwn(d *sheet.Draft, t *sheet.Tracker, after *sheet.Shape) error {
	for i := range t.Tabs {
		tab := &t.Tabs[i]
		if tab.Listed() || after.TabByID(tab.ID) != nil {
			continue
		}
		for _, r := range slices.Collect(t.Rows(tab.ID)) {
			if err := d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: t.ID, Tab: tab.ID, Row: r.ID}); err != nil {
				return err
			}
		}
	}
	return nil
}

// refit reads anew the values of columns whose type has changed, whether the
// column kept its id or a namesake took its place. What does not fit is kept,
// as an odd cell.
func refit(d *sheet.Draft, tracker sheet.TrackerID, before *sheet.Shape) error {
	t := d.Own(tracker)
	for i := range t.Tabs {
		tab := &t.Tabs[i]
		old := before.TabByID(tab.ID)
		if old == nil {
			continue
		}
		for j := range tab.Columns {
			c := &tab.Columns[j]
			was := old.ByID(c.ID)
			if was == nil {
				was, _ = old.Column(c.Name)
			}
			if was == nil || was.Computed() || c.Computed() || was.ID == c.ID && sameJSON(was.Type, c.Type) {
				continue
			}
			for _, r := range slices.Collect(t.Rows(tab.ID)) {
				if err := refitCell(d, t.ID, tab, r, was.ID, c); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// refitCell fits what stands in a row's column from into the column c.
func refitCell(d *sheet.Draft, tracker sheet.TrackerID, tab *sheet.TabShape, r *sheet.Row, from sheet.ColumnID, c *sheet.Column) error {
	if err := CopyCell(d, tracker, tab, r, from, c); err != nil || from == c.ID {
		return err
	}
	return d.Put(sheet.Cell{Tracker: tracker, Row: r.ID, Column: from}, value.Value{}, 0)
}

// CopyCell puts what stands in a row's column from into the column c. What does not fit is
// kept as an odd cell, whatever the column refuses from now on.
func CopyCell(d *sheet.Draft, tracker sheet.TrackerID, tab *sheet.TabShape, r *sheet.Row, from sheet.ColumnID, c *sheet.Column) error {
	v := r.Get(tab, from)
	if v.Kind() == value.Blank {
		return nil
	}
	free := *c
	free.BadInput = sheet.Mark
	fitted, err := free.Accept(v, d.Form(d.Tracker(tracker)))
	if err != nil {
		return err
	}
	return d.Put(sheet.Cell{Tracker: tracker, Row: r.ID, Column: c.ID}, fitted, 0)
}

func sameJSON(a, b any) bool {
	x, errA := json.Marshal(a)
	y, errB := json.Marshal(b)
	return errA == nil && errB == nil && bytes.Equal(x, y)
}
