package desk

import (
	"errors"
	"fmt"
	"slices"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Stale says that a row was changed by somebody else since it was read.
type Stale struct {
	Row     sheet.RowID
	Tracker *sheet.Tracker
	Current *sheet.Row
}

func (e *Stale) Error() string {
	return fmt.Sprintf("row %s was changed by somebody else in the meantime", e.Row)
}

// RowEdit is an edit of one row: new contents by column name or id, as JSON
// values or text. Version is the row's version that the editor saw; 0 edits
// whatever is there.
type RowEdit struct {
	Row     sheet.RowID
	Version int64
	Cells   map[string]any
	Notes   map[string]string
	Looks   map[string]string // as value.ParseLook reads them
}

func editCause() sheet.Cause { return sheet.Cause{Kind: sheet.ByEdit} }

// SetRows edits rows, all or none.
func (d *Desk) SetRows(who string, tracker sheet.TrackerID, edits []RowEdit) Request {
	return Request{Who: who, Cause: editCause(), Tracker: tracker, Make: func(t *Turn) error {
		tr := t.Draft.Own(tracker)
		if tr == nil {
			return &sheet.NotFound{What: "tracker", Name: tracker.String()}
		}
		for _, e := range edits {
			row := tr.Row(e.Row)
			if row == nil {
				return &sheet.NotFound{What: "row", Name: e.Row.String(), In: tr.Name}
			}
			if e.Version != 0 && e.Version != row.Version {
				return &Stale{Row: row.ID, Tracker: tr, Current: row}
			}
			if err := setRow(t.Draft, tr, row, e); err != nil {
				return err
			}
		}
		return nil
	}}
}

func setRow(d *sheet.Draft, t *sheet.Tracker, row *sheet.Row, e RowEdit) error {
	tab := t.TabOf(row)
	for _, name := range sortedKeys(e.Cells) {
		c, err := tab.Column(name)
		if err != nil {
			return err
		}
		after, err := c.Read(e.Cells[name])
		if err != nil {
			return refusalIn(err, t, row)
		}
		before := t.Row(row.ID).Get(tab, c.ID)
		if before == after {
			continue
		}
		err = d.Apply(sheet.Change{Kind: sheet.Set, Tracker: t.ID, Tab: tab.ID, Row: row.ID, Column: c.ID, Before: before, After: after})
		if err != nil {
			return err
		}
	}
	if err := setTexts(d, t, row, sheet.Note, e.Notes); err != nil {
		return err
	}
	looks := map[string]string{}
	for name, text := range e.Looks {
		look, err := value.ParseLook(text)
		if err != nil {
			return refusalIn(&sheet.Refusal{Column: name, Reason: err.Error()}, t, row)
		}
		looks[name] = look.String()
	}
	return setTexts(d, t, row, sheet.Look, looks)
}

// setTexts sets the notes or the looks of a row's cells.
func setTexts(d *sheet.Draft, t *sheet.Tracker, row *sheet.Row, kind sheet.Kind, texts map[string]string) error {
	tab := t.TabOf(row)
	for _, name := range sortedKeys(texts) {
		c, err := tab.Column(name)
		if err != nil {
			return err
		}
		before := t.Row(row.ID).Texts(kind)[c.ID]
		if before == texts[name] {
			continue
		}
		err = d.Apply(sheet.Change{Kind: kind, Tracker: t.ID, Tab: tab.ID, Row: row.ID, Column: c.ID, Before: value.OfText(before), After: value.OfText(texts[name])})
		if err != nil {
			return err
		}
	}
	return nil
}

func refusalIn(err error, t *sheet.Tracker, row *sheet.Row) error {
	var r *sheet.Refusal
	if errors.As(err, &r) && row != nil {
		r.Row, r.Label, r.Tab = row.ID, t.Label(row), t.TabOf(row).Name
	}
	return err
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// AddRows adds rows to the end of a tab, all or none.
func (d *Desk) AddRows(who string, tracker sheet.TrackerID, tab sheet.TabID, rows []map[string]any) Request {
	return Request{Who: who, Cause: editCause(), Tracker: tracker, Make: func(t *Turn) error {
		tr := t.Draft.Own(tracker)
		if tr == nil || tr.TabByID(tab) == nil {
			return &sheet.NotFound{What: "tab", Name: tab.String()}
		}
		shape := tr.TabByID(tab)
		for _, cells := range rows {
			img, err := readRow(tr, shape, cells)
			if err != nil {
				return err
			}
			if err := t.Draft.Apply(sheet.Change{Kind: sheet.Add, Tracker: tracker, Tab: tab, Row: t.Draft.NewRow(), Image: img}); err != nil {
				return err
			}
		}
		return nil
	}}
}

func readRow(t *sheet.Tracker, tab *sheet.TabShape, cells map[string]any) (*sheet.Image, error) {
	laid := make([]value.Value, len(tab.Columns))
	given := map[sheet.ColumnID]bool{}
	for _, name := range sortedKeys(cells) {
		c, err := tab.Column(name)
		if err != nil {
			return nil, err
		}
		v, err := c.Read(cells[name])
		if err != nil {
			return nil, err
		}
		given[c.ID] = true
		if !v.IsBlank() {
			laid[tab.Slot(c.ID)] = v
		}
	}
	for i := range tab.Columns {
		c := &tab.Columns[i]
		switch {
		case given[c.ID]:
		case c.AutoNo:
			laid[i] = value.OfInt(t.NextNumber(tab.ID, i))
		case c.Default != "":
			if v, err := value.Parse(c.Default, c.Type); err == nil {
				laid[i] = v
			}
		}
	}
	return sheet.LaidOut(tab, laid, sheet.Besides{}), nil
}

// MoveRows moves rows to another tab of their tracker, all or none.
func (d *Desk) MoveRows(who string, tracker sheet.TrackerID, to sheet.TabID, rows []sheet.RowID) Request {
	return d.eachRow(who, tracker, rows, func(t *sheet.Tracker, row *sheet.Row) *sheet.Change {
		if row.Tab == to {
			return nil
		}
		return &sheet.Change{Kind: sheet.Move, Tracker: tracker, Tab: row.Tab, Row: row.ID, ToTab: to}
	})
}

// RemoveRows removes rows, all or none. Undo brings them back.
func (d *Desk) RemoveRows(who string, tracker sheet.TrackerID, rows []sheet.RowID) Request {
	return d.eachRow(who, tracker, rows, func(t *sheet.Tracker, row *sheet.Row) *sheet.Change {
		return &sheet.Change{Kind: sheet.Remove, Tracker: tracker, Tab: row.Tab, Row: row.ID}
	})
}

func (d *Desk) eachRow(who string, tracker sheet.TrackerID, rows []sheet.RowID, change func(*sheet.Tracker, *sheet.Row) *sheet.Change) Request {
	return Request{Who: who, Cause: editCause(), Tracker: tracker, Make: func(t *Turn) error {
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
