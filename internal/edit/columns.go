package edit

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// ColumnChange says what a column is to be.
type ColumnChange struct {
	Name       string         // a new name; "": as it is
	After      string         // the column that it stands after; "": as it is, or for a new one last
	Definition map[string]any // what the setup file writes; in a change, keys that are absent stay and null ones go
	Fill       bool           // rows that are blank there get the default, or the next automatic number
}

// NewColumn says what a column to add is to be.
type NewColumn struct {
	ColumnChange
	Like   string // the column of the tab that it is a copy of, but for what Definition says; "": of none
	Values bool   // rows get the values of that column
}

// fill gives rows that are blank in a column what new rows get there.
func fill(d *sheet.Draft, tracker sheet.TrackerID, column sheet.ColumnID) error {
	t := d.Own(tracker)
	for i := range t.Tabs {
		tab := &t.Tabs[i]
		slot := tab.Slot(column)
		if slot < 0 {
			continue
		}
		c := &tab.Columns[slot]
		if c.Default == "" && !c.AutoNo {
			return &sheet.Refusal{Tab: tab.Name, Column: c.Name, Reason: "has nothing to fill rows with", Hint: "give it a default or an automatic number"}
		}
		for _, r := range slices.Collect(t.Rows(tab.ID)) {
			if !r.At(slot).IsBlank() {
				continue
			}
			var raw any = c.Default
			if c.AutoNo {
				raw = value.OfInt(t.NextNumber(tab.ID, slot))
			}
			if err := d.Set(sheet.Cell{Tracker: tracker, Row: r.ID, Column: column}, raw, 0); err != nil {
				return err
			}
		}
	}
	return nil
}

// filled has a request fill a column that it makes or changes, where that is asked for.
func (to *ColumnChange) filled(req engine.Request, column *sheet.ColumnID) engine.Request {
	if !to.Fill {
		return req
	}
	reshape := req.Work
	req.Work = func(t *engine.Turn) error {
		if err := reshape(t); err != nil {
			return err
		}
		return fill(t.Draft, req.Tracker, *column)
	}
	return req
}

// AddColumn gives a tab a column. Where another tab has one of that name and
// type, it is the same column.
func (ed *Editor) AddColumn(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID, name string, to NewColumn) engine.Request {
	var made, like sheet.ColumnID
	req := ed.reshape(by, tracker, func(s *sheet.Shape) error {
		t := s.TabByID(tab)
		if t == nil {
			return &sheet.NotFound{What: "tab", Name: tab.String(), In: s.Name}
		}
		definition, after := to.Definition, to.After
		if to.Like != "" {
			copied, err := t.Column(to.Like)
			if err != nil {
				return err
			}
			if definition, err = redefined(s, t, copied, to.Definition); err != nil {
				return err
			}
			like, after = copied.ID, cmp.Or(after, copied.Name)
		}
		c, err := setup.ParseColumn(strings.TrimSpace(name), engine.MustJSON(definition))
		if err != nil {
			return err
		}
		if _, err := t.Column(c.Name); err == nil {
			return &sheet.Refusal{Tab: t.Name, Column: c.Name, Reason: "is a column of " + t.Name + " already", Hint: "change that one, or choose another name"}
		}
		if c.ID = setup.Namesake(s, c); c.ID == 0 {
			c.ID = sheet.ColumnID(ed.NewID())
		}
		at, err := placeAfter(t, after, len(t.Columns))
		if err != nil {
			return err
		}
		t.Columns, made = slices.Insert(t.Columns, at, *c), c.ID
		return nil
	})
	if reshape := req.Work; to.Values {
		req.Work = func(t *engine.Turn) error {
			if err := reshape(t); err != nil {
				return err
			}
			return copyValues(t.Draft, tracker, tab, like, made)
		}
	}
	return to.filled(req, &made)
}

// copyValues gives the rows of a tab in one column what they have in another, odd values too.
func copyValues(d *sheet.Draft, tracker sheet.TrackerID, tab sheet.TabID, from, to sheet.ColumnID) error {
	t := d.Own(tracker)
	s := t.TabByID(tab)
	copied, made := s.ByID(from), s.ByID(to)
	switch {
	case copied == nil:
		return &sheet.Refusal{Tab: s.Name, Column: made.Name, Reason: "is like no other column, so that there are no values to copy", Hint: "say which column it is like"}
	case made.Computed():
		return nil // its values come of themselves
	case copied.Computed():
		return &sheet.Refusal{Tab: s.Name, Column: copied.Name, Reason: "is computed: there are no values of it to copy", Hint: "copy it without its values"}
	}
	for _, r := range slices.Collect(t.Rows(tab)) {
		if err := program.CopyCell(d, tracker, s, r, from, made); err != nil {
			return err
		}
	}
	return nil
}

func placeAfter(t *sheet.TabShape, after string, otherwise int) (int, error) {
	if after == "" {
		return otherwise, nil
	}
	c, err := t.Column(after)
	if err != nil {
		return 0, err
	}
	return t.Slot(c.ID) + 1, nil
}

// ChangeColumn changes a column, in every tab that has it: it is one column.
// Values are read anew into a new type; what does not fit is kept, as odd
// cells, and the result warns of them.
func (ed *Editor) ChangeColumn(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID, column sheet.ColumnID, to ColumnChange) engine.Request {
	req := ed.reshape(by, tracker, func(s *sheet.Shape) error {
		t := s.TabByID(tab)
		if t == nil || t.ByID(column) == nil {
			return &sheet.NotFound{What: "column", Name: column.String(), In: s.Name}
		}
		was := *t.ByID(column)
		definition, err := redefined(s, t, &was, to.Definition)
		if err != nil {
			return err
		}
		name := was.Name
		if to.Name != "" {
			name = strings.TrimSpace(to.Name)
		}
		c, err := setup.ParseColumn(name, engine.MustJSON(definition))
		if err != nil {
			return err
		}
		c.ID = was.ID
		for i := range s.Tabs {
			if own := s.Tabs[i].ByID(column); own != nil {
				*own = *c
			}
		}
		if to.After != "" {
			from := t.Slot(column)
			t.Columns = slices.Delete(t.Columns, from, from+1)
			at, err := placeAfter(t, to.After, from)
			if err != nil {
				return err
			}
			t.Columns = slices.Insert(t.Columns, at, *c)
		}
		if setup.Apart(s, c) {
			if err := ed.join(s); err != nil {
				return err
			}
			one, err := s.TabByID(tab).Column(c.Name)
			if err != nil {
				return err
			}
			column = one.ID
		}
		return nil
	})
	reshape := req.Work
	req.Work = func(t *engine.Turn) error {
		if err := reshape(t); err != nil {
			return err
		}
		t.Warnings = append(t.Warnings, becameOdd(t.Draft)...)
		return nil
	}
	return to.filled(req, &column)
}

// redefined gives the definition of a column with some of it changed: what is null goes.
func redefined(s *sheet.Shape, t *sheet.TabShape, c *sheet.Column, changed map[string]any) (map[string]any, error) {
	definition, err := setup.EncodeColumn(s, t, c)
	if err != nil {
		return nil, err
	}
	if kind, given := changed["type"]; given && kind != definition["type"] {
		definition = forType(definition, fmt.Sprint(kind))
	}
	for key, v := range changed {
		if v == nil {
			delete(definition, key)
		} else {
			definition[key] = v
		}
	}
	return definition, nil
}

// join makes columns one that are declared alike in several tabs. It goes by the setup
// file, where columns have names, so that all that reads them follows.
func (ed *Editor) join(s *sheet.Shape) error {
	text, err := ed.Setup.Encode(s)
	if err != nil {
		return err
	}
	joined, err := ed.Setup.Parse(text, s, ed.NewID)
	if err != nil {
		return fmt.Errorf("making one column of those that are alike: %w", err)
	}
	*s = *joined
	return nil
}

// forType leaves out of a definition what another type has no use for.
func forType(definition map[string]any, kind string) map[string]any {
	out := map[string]any{}
	for _, key := range []string{"required", "unique", "bad input"} {
		if v, ok := definition[key]; ok {
			out[key] = v
		}
	}
	if v, ok := definition["options"]; ok && kind == "choice" {
		out["options"] = v
	}
	return out
}

// becameOdd says which cells a change of type has made odd.
func becameOdd(d *sheet.Draft) []string {
	const named = 5
	var names []string
	n := 0
	column, kind := "", ""
	for _, c := range d.Changes() {
		if c.Kind != sheet.Set || !c.After.IsOdd() || c.Before.IsOdd() {
			continue
		}
		t := d.Tracker(c.Tracker)
		col := t.TabByID(c.Tab).ByID(c.Column)
		column, kind = col.Name, col.Type.Kind.String()
		if n++; n <= named {
			names = append(names, fmt.Sprintf("%s (%s)", t.Label(t.Row(c.Row)), c.After.Raw()))
		}
	}
	switch {
	case n == 0:
		return nil
	case n > named:
		names = append(names, fmt.Sprintf("and %d more", n-named))
	}
	return []string{fmt.Sprintf("%d cells of %s do not fit %s and are kept as odd cells: %s", n, column, kind, strings.Join(names, ", "))}
}

// DropColumn takes a column from a tab. It is refused while a rule, reminder,
// round, sync or computed column needs it. What rows hold for it stays with
// them as carried values.
func (ed *Editor) DropColumn(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID, column sheet.ColumnID) engine.Request {
	return ed.reshape(by, tracker, func(s *sheet.Shape) error {
		t := s.TabByID(tab)
		if t == nil || t.ByID(column) == nil {
			return &sheet.NotFound{What: "column", Name: column.String(), In: s.Name}
		}
		name, before := t.ByID(column).Name, s.Clone()
		t.Columns = slices.DeleteFunc(t.Columns, func(c sheet.Column) bool { return c.ID == column })
		if t.Label == column {
			t.Label = 0
		}
		if needers := ed.Setup.Needers(before, s); len(needers) > 0 {
			return &sheet.Needed{Name: name, From: t.Name, By: needers}
		}
		return nil
	})
}
