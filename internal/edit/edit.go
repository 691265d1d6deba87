// Package edit changes a workspace by hand: rows, columns, definitions, trackers.
package edit

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Editor makes requests of what people change by hand.
type Editor struct {
	*engine.Engine
	Setup *setup.Format // of the kinds of definition there are
}

// Stale says that a row was changed by somebody else since it was read.
type Stale struct {
	Row     sheet.RowID
	Tracker *sheet.Tracker
	Current *sheet.Row
}

func (e *Stale) Error() string {
	return fmt.Sprintf("someone else changed %s: reload and try again", e.Tracker.Label(e.Current))
}

// RowEdit is an edit of one row: new contents by column name or id, as JSON
// values or text. Version is the row's version that the editor saw; 0 edits
// whatever is there.
type RowEdit struct {
	Row     sheet.RowID
	Version int64
	Cells   map[string]any
	Notes   map[string]string
	Styles  map[string]string // as value.ParseCellStyle reads them
	KeepOdd bool              // lets what does not fit take the place of what does
}

// Overwrites says that good values would give way to what does not fit, which wants a
// word of whoever edits.
type Overwrites struct{ Cells []Overwrite }

// Overwrite is one such cell.
type Overwrite struct {
	Row    sheet.RowID
	Label  string
	Column string
	Before string // as people read it
	Misfit *value.Misfit
}

func (o *Overwrite) String() string {
	return fmt.Sprintf("%s of %s would lose %s: %s", o.Column, o.Label, o.Before, o.Misfit)
}

func (e *Overwrites) Error() string {
	lines := make([]string, 0, len(e.Cells))
	for i := range e.Cells {
		if i == mostOverwrites {
			lines = append(lines, fmt.Sprintf("and %d more", len(e.Cells)-i))
			break
		}
		lines = append(lines, e.Cells[i].String())
	}
	return strings.Join(lines, "; ")
}

const mostOverwrites = 10

func editCause() sheet.Cause { return sheet.Cause{Kind: sheet.ByEdit} }

// SetRows edits rows, all or none.
func (ed *Editor) SetRows(by policy.Principal, tracker sheet.TrackerID, edits []RowEdit) engine.Request {
	return engine.Request{By: by, Cause: editCause(), Tracker: tracker, Work: func(t *engine.Turn) error {
		tr := t.Draft.Own(tracker)
		if tr == nil {
			return &sheet.NotFound{What: "tracker", Name: tracker.String()}
		}
		var over Overwrites
		for _, e := range edits {
			row := tr.Row(e.Row)
			if row == nil {
				return &sheet.NotFound{What: "row", Name: e.Row.String(), In: tr.Name}
			}
			if e.Version != 0 && e.Version != row.Version {
				return &Stale{Row: row.ID, Tracker: tr, Current: row}
			}
			n, m := len(t.Draft.Readings().Said), len(t.Draft.Changes())
			if err := setRow(t.Draft, tr, row, e); err != nil {
				return err
			}
			if !e.KeepOdd {
				over.gather(tr, t.Draft.Changes()[m:], t.Draft.Readings().Said[n:])
			}
		}
		if len(over.Cells) > 0 {
			return &over
		}
		return nil
	}}
}

// gather finds, among what was just read and changed, what took the place of a good value.
func (e *Overwrites) gather(t *sheet.Tracker, changes []sheet.Change, said []sheet.Reading) {
	for i := range changes {
		c := &changes[i]
		if c.Kind != sheet.Set || !c.After.IsOdd() || c.Before.IsBlank() || c.Before.IsOdd() {
			continue
		}
		at := slices.IndexFunc(said, func(r sheet.Reading) bool { return r.Misfit != nil && r.Row == c.Row && r.Column == c.Column })
		if at < 0 {
			continue
		}
		col := t.ColumnByID(c.Column)
		e.Cells = append(e.Cells, Overwrite{Row: c.Row, Label: t.Label(t.Row(c.Row)), Column: col.Name, Before: c.Before.Show(col.Type), Misfit: said[at].Misfit})
	}
}

func setRow(d *sheet.Draft, t *sheet.Tracker, row *sheet.Row, e RowEdit) error {
	tab := t.TabOf(row)
	at := sheet.Cell{Tracker: t.ID, Row: row.ID}
	for _, name := range sortedKeys(e.Cells) {
		c, err := tab.Column(name)
		if err != nil {
			return err
		}
		at.Column = c.ID
		if err := d.Set(at, e.Cells[name], 0); err != nil {
			return err
		}
	}
	looks := map[string]string{}
	for name, text := range e.Styles {
		look, err := value.ParseCellStyle(text)
		if err != nil {
			if c, known := tab.Column(name); known == nil {
				name = c.Name
			}
			return &sheet.Refusal{Row: row.ID, Label: t.Label(row), Tab: tab.Name, Column: name, Reason: err.Error()}
		}
		looks[name] = look.String()
	}
	for _, given := range []struct {
		kind  sheet.Kind
		texts map[string]string
	}{{sheet.Note, e.Notes}, {sheet.Style, looks}} {
		for _, name := range sortedKeys(given.texts) {
			c, err := tab.Column(name)
			if err != nil {
				return err
			}
			at.Column = c.ID
			if err := d.Annotate(at, given.kind, given.texts[name], 0); err != nil {
				return err
			}
		}
	}
	return nil
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// AddRows adds rows to the end of a tab, all or none, with values by column name or id.
func (ed *Editor) AddRows(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID, rows []map[string]any) engine.Request {
	return ed.AddRowsAt(by, tracker, tab, rows, nil)
}

// AddRowsAt is AddRows at a spot; nil: at the end.
func (ed *Editor) AddRowsAt(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID, rows []map[string]any, at *sheet.Spot) engine.Request {
	return engine.Request{By: by, Cause: editCause(), Tracker: tracker, Work: func(t *engine.Turn) error {
		tr := t.Draft.Own(tracker)
		if tr == nil || tr.TabByID(tab) == nil {
			return &sheet.NotFound{What: "tab", Name: tab.String()}
		}
		shape := tr.TabByID(tab)
		places, err := roomFor(t.Draft, sheet.Place{Tracker: tracker, Tab: tab}, at, len(rows))
		if err != nil {
			return err
		}
		for i, cells := range rows {
			given := make(map[sheet.ColumnID]any, len(cells))
			for _, name := range sortedKeys(cells) {
				c, err := shape.Column(name)
				if err != nil {
					return err
				}
				given[c.ID] = cells[name]
			}
			if _, err := t.Draft.AddRow(sheet.Place{Tracker: tracker, Tab: tab, Pos: places[i]}, given, 0); err != nil {
				return err
			}
		}
		return nil
	}}
}

// roomFor gives places for rows in a tab: at a spot, or at its end.
func roomFor(d *sheet.Draft, to sheet.Place, at *sheet.Spot, n int) ([]int64, error) {
	if at == nil {
		return make([]int64, n), nil
	}
	return d.MakeRoom(to, *at, n, 0)
}

// PlaceRows puts rows of a tab in another place in it, in the order given. No rule is woken.
func (ed *Editor) PlaceRows(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID, rows []sheet.RowID, at sheet.Spot) engine.Request {
	return engine.Request{By: by, Cause: editCause(), Tracker: tracker, Work: func(t *engine.Turn) error {
		rows := slices.DeleteFunc(slices.Clone(rows), func(id sheet.RowID) bool { return id == at.Row })
		places, err := t.Draft.MakeRoom(sheet.Place{Tracker: tracker, Tab: tab}, at, len(rows), 0)
		if err != nil {
			return err
		}
		for i, id := range rows {
			tr := t.Draft.Own(tracker)
			row := tr.Row(id)
			if row == nil || row.Tab != tab {
				return &sheet.NotFound{What: "row", Name: id.String(), In: tr.TabByID(tab).Name}
			}
			if err := t.Draft.Apply(sheet.Change{Kind: sheet.Move, Tracker: tracker, Tab: tab, Row: id, ToTab: tab, ToPos: places[i]}); err != nil {
				return err
			}
		}
		return nil
	}}
}

// MoveRows moves rows to another tab of their tracker, all or none.
func (ed *Editor) MoveRows(by policy.Principal, tracker sheet.TrackerID, to sheet.TabID, rows []sheet.RowID) engine.Request {
	return ed.eachRow(by, tracker, rows, func(t *sheet.Tracker, row *sheet.Row) *sheet.Change {
		if row.Tab == to {
			return nil
		}
		return &sheet.Change{Kind: sheet.Move, Tracker: tracker, Tab: row.Tab, Row: row.ID, ToTab: to}
	})
}

// RemoveRows removes rows, all or none. Undo brings them back.
func (ed *Editor) RemoveRows(by policy.Principal, tracker sheet.TrackerID, rows []sheet.RowID) engine.Request {
	return ed.eachRow(by, tracker, rows, func(t *sheet.Tracker, row *sheet.Row) *sheet.Change {
		return &sheet.Change{Kind: sheet.Remove, Tracker: tracker, Tab: row.Tab, Row: row.ID}
	})
}

func (ed *Editor) eachRow(by policy.Principal, tracker sheet.TrackerID, rows []sheet.RowID, change func(*sheet.Tracker, *sheet.Row) *sheet.Change) engine.Request {
	return engine.Request{By: by, Cause: editCause(), Tracker: tracker, Work: func(t *engine.Turn) error {
		tr := t.Draft.Own(tracker)
		for _, id := range rows {
			if tr == nil || tr.Row(id) == nil {
				return &sheet.NotFound{What: "row", Name: id.String()}
			}
			if c := change(tr, tr.Row(id)); c != nil {
				if err := t.Draft.Apply(*c); err != nil {
					return err
				}
			}
		}
		return nil
	}}
}
