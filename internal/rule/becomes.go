package rule

import (
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// A rule may wait for a condition to become true of a row, whatever makes it so: an edit of
// the row, a change in a tab that the condition looks into, or the day that has come. It is
// told from what was, before the change or when the clock last asked; nothing is kept for it.

// comesTrue gives events for rows of which a rule's condition holds since the draft began,
// because of what has changed in the tabs that it looks into.
func (c *cascade) comesTrue(changes []sheet.Change, from int, events []event) []event {
	if !c.anyRule(changes[from:], (*Compiled).waitsElsewhere) {
		return events
	}
	changed := map[sheet.TrackerID][]sheet.TabID{}
	note := func(tracker sheet.TrackerID, tab sheet.TabID) {
		if tab != 0 && !slices.Contains(changed[tracker], tab) {
			changed[tracker] = append(changed[tracker], tab)
		}
	}
	for i := from; i < len(changes); i++ {
		ch := &changes[i]
		note(ch.Tracker, ch.Tab)
		if was := c.draft.Was(i); was != nil {
			note(ch.Tracker, was.Tab)
		}
		if ch.Kind == sheet.Move {
			note(ch.ToTracker, ch.ToTab)
		} else if t := c.draft.Tracker(ch.Tracker); t != nil {
			if row := t.Row(ch.Row); row != nil {
				note(ch.Tracker, row.Tab)
			}
		}
	}
	there := map[sheet.RowID]bool{}
	for i := range events {
		there[events[i].row] = true
	}
	for id, tabs := range changed {
		t := c.draft.Tracker(id)
		if t == nil {
			continue
		}
		rules, err := c.rules(t.Shape)
		if err != nil {
			continue // level tells of it
		}
		for _, r := range rules {
			if !r.waitsElsewhere() || !slices.ContainsFunc(tabs, func(tab sheet.TabID) bool { return r.looks[tab] }) {
				continue
			}
			for _, tab := range r.Tabs() {
				env := r.bound.Env(t, t.TabByID(tab), c.Now, c.Meter)
				for row := range t.Rows(tab) {
					if !there[row.ID] && r.hasComeTrue(c.draft, t, row, env, c) {
						there[row.ID] = true
						events = append(events, event{tracker: id, row: row.ID, before: row, tabWas: t.TabByID(tab)})
					}
				}
			}
		}
	}
	return events
}

// waitsElsewhere reports whether a change in another tab may wake the rule.
func (r *Compiled) waitsElsewhere() bool { return r.waits() && len(r.looks) > 0 }

// hasComeTrue reports whether the condition for which a rule waits holds of a row, and did
// not when the draft began.
func (r *Compiled) hasComeTrue(d *sheet.Draft, t *sheet.Tracker, row *sheet.Row, env *clause.Env, c *cascade) bool {
	tr := r.tabs[row.Tab]
	if tr == nil {
		return false
	}
	program.Look(env, row)
	if tr.becomes.Judge(env) != clause.Yes {
		return false
	}
	before := d.Before(t.ID)
	if before == nil {
		return true
	}
	if before.Shape != t.Shape { // another setup is no event of the row
		return false
	}
	was := before.Row(row.ID)
	if was == nil || r.tabs[was.Tab] == nil {
		return true
	}
	return !r.held(before, was, c.Now, c)
}

// held reports whether the condition held of a row as it was, at a time.
func (r *Compiled) held(t *sheet.Tracker, row *sheet.Row, at time.Time, c *cascade) bool {
	env := r.bound.Env(t, t.TabOf(row), at, c.Meter)
	program.Look(env, row)
	return r.tabs[row.Tab].becomes.Judge(env) == clause.Yes
}

// since keeps the rows of which the condition has come true since a time, by the clock alone.
func (c *cascade) since(r *Compiled, t *sheet.Tracker, rows []*sheet.Row) []*sheet.Row {
	if r.Wake.Becomes == "" || c.Since.IsZero() {
		return rows
	}
	return slices.DeleteFunc(rows, func(row *sheet.Row) bool { return r.held(t, row, c.Since, c) })
}
