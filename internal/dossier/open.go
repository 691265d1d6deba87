package dossier

import (
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// PageOf gives the row that a row's page is, or nil where it has none.
func (c *Compiled) PageOf(t *sheet.Tracker, row sheet.RowID) *sheet.Row {
	for r := range t.From(sheet.PageOrigin(c.ID, row, "")) {
		return r
	}
	return nil
}

// Address gives the address of a row's page in the console.
func (c *Compiled) Address(t sheet.TrackerID, row sheet.RowID) string {
	return c.program.PageAddress(t, c.ID, row)
}

// Wants reports whether a row should have a page. One that cannot be judged should not;
// why tells of it.
func (c *Compiled) Wants(t *sheet.Tracker, row *sheet.Row, now time.Time, m *clause.Meter) (wants bool, why *query.Passed) {
	on := c.tabs[row.Tab]
	if on == nil {
		return false, nil
	}
	if on.where == nil {
		return true, nil
	}
	env := c.program.Env(t, on.tab, now, m)
	program.Look(env, row)
	switch on.where.Judge(env) {
	case clause.Yes:
		return true, nil
	case clause.Odd:
		passed := query.PassedOver(t, row, env)
		return false, &passed
	}
	return false, nil
}

// Wanting is what of a tracker's rows should have a page.
type Wanting struct {
	Rows   []*sheet.Row // those that have none, in the order of their tabs
	There  int          // that have one
	Passed []query.Passed
	Odd    int // how many could not be judged
}

// Wanting looks through the pattern's tabs.
func (c *Compiled) Wanting(t *sheet.Tracker, now time.Time, m *clause.Meter) (Wanting, error) {
	var out Wanting
	for _, id := range c.For {
		found, err := query.Select(c.program, t, query.Query{Tab: t.TabByID(id), Where: c.Where}, now, m)
		if err != nil {
			return out, err
		}
		for _, row := range found.Rows {
			if c.PageOf(t, row.ID) != nil {
				out.There++
			} else {
				out.Rows = append(out.Rows, row)
			}
		}
		out.Passed, out.Odd = append(out.Passed, found.Passed...), out.Odd+found.Odd
	}
	return out, nil
}

// Open opens the page of a row that has none: it keeps what it is to keep, and what it
// keeps is cleared in the row where the pattern says so.
func (c *Compiled) Open(d *sheet.Draft, tracker sheet.TrackerID, row *sheet.Row, because int) error {
	t := d.Tracker(tracker)
	from, tab := t.TabOf(row), t.TabByID(c.Pages)
	cells, spoken := make([]value.Value, len(tab.Columns)), make([]bool, len(tab.Columns))
	var notes map[sheet.ColumnID]string
	for _, f := range c.Facts {
		slot := tab.Slot(f.Kept)
		if f.Kept == 0 || slot < 0 {
			continue
		}
		cells[slot], spoken[slot] = row.Get(from, f.Column), true
		if note := row.Notes()[f.Column]; note != "" {
			if notes == nil {
				notes = map[sheet.ColumnID]string{}
			}
			notes[f.Kept] = note
		}
	}
	if _, err := d.AddLaid(sheet.Place{Tracker: tracker, Tab: c.Pages}, cells, spoken, sheet.Besides{Notes: notes, Origin: sheet.PageOrigin(c.ID, row.ID, "")}, because); err != nil {
		return err
	}
	for _, id := range c.Clear {
		if from.Slot(id) < 0 {
			continue
		}
		at := sheet.Cell{Tracker: tracker, Row: row.ID, Column: id}
		if err := d.Put(at, value.Value{}, because); err != nil {
			return err
		}
		if err := d.Annotate(at, sheet.Note, "", because); err != nil {
			return err
		}
	}
	return nil
}

// Close removes a page with the entries of its log. Undo brings both back.
func (c *Compiled) Close(d *sheet.Draft, tracker sheet.TrackerID, row sheet.RowID, because int) error {
	t := d.Own(tracker)
	gone := slices.Collect(t.From(sheet.PageOrigin(c.ID, row, entry)))
	if page := c.PageOf(t, row); page != nil {
		gone = append(gone, page)
	}
	for _, r := range gone {
		if err := d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: tracker, Tab: r.Tab, Row: r.ID, Because: because}); err != nil {
			return err
		}
	}
	return nil
}

// Follow opens the pages that a draft's changes call for, of patterns whose pages open by
// themselves. because gives the cause for a pattern.
func Follow(d *sheet.Draft, patterns func(sheet.TrackerID) ([]*Compiled, error), because func(*Compiled) int, now time.Time, m *clause.Meter) error {
	done := map[sheet.RowID]bool{}
	for i := 0; i < len(d.Changes()); i++ {
		ch := d.Changes()[i]
		tracker := ch.Tracker
		if ch.Kind == sheet.Move {
			tracker = ch.ToTracker
		}
		if ch.Row == 0 || ch.Kind == sheet.Remove || ch.Kind == sheet.Note || ch.Kind == sheet.Style || done[ch.Row] {
			continue
		}
		done[ch.Row] = true
		all, err := patterns(tracker)
		if err != nil {
			return err
		}
		for _, c := range all {
			t := d.Own(tracker)
			row := t.Row(ch.Row)
			if !c.Auto || row == nil || c.tabs[row.Tab] == nil || c.PageOf(t, row.ID) != nil {
				continue
			}
			if wants, _ := c.Wants(t, row, now, m); wants {
				if err := c.Open(d, tracker, row, because(c)); err != nil {
					return err
				}
			}
		}
	}
	return nil
}
