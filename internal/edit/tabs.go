package edit

import (
	"slices"
	"strings"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
)

// NewTab says what a new tab is to be.
type NewTab struct {
	Name  string
	Like  string // the tab whose columns it has too; "": it begins without any
	After string // the tab that it comes after; "": last
}

// AddTab adds a tab to a tracker.
func (ed *Editor) AddTab(by policy.Principal, tracker sheet.TrackerID, to NewTab) engine.Request {
	return ed.reshape(by, tracker, func(s *sheet.Shape) error {
		tab := sheet.TabShape{ID: sheet.TabID(ed.NewID()), Name: strings.TrimSpace(to.Name)}
		if known, err := s.Tab(tab.Name); err == nil {
			return &sheet.Refusal{Column: known.Name, Reason: "is already a tab of " + s.Name, Hint: "choose another name"}
		}
		if to.Like != "" {
			like, err := s.Tab(to.Like)
			if err != nil {
				return err
			}
			tab.Label, tab.Columns = like.Label, slices.Clone(like.Columns)
		}
		at, err := placeOfTab(s, to.After, len(s.Tabs))
		if err != nil {
			return err
		}
		s.Tabs = slices.Insert(s.Tabs, at, tab)
		return nil
	})
}

func placeOfTab(s *sheet.Shape, after string, otherwise int) (int, error) {
	if after == "" {
		return otherwise, nil
	}
	tab, err := s.Tab(after)
	if err != nil {
		return 0, err
	}
	return slices.IndexFunc(s.Tabs, func(t sheet.TabShape) bool { return t.ID == tab.ID }) + 1, nil
}

// ChangeTab gives a tab another name, which rules follow, or another place: after a tab,
// or with first before all others.
func (ed *Editor) ChangeTab(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID, name, after string, first bool) engine.Request {
	return ed.reshape(by, tracker, func(s *sheet.Shape) error {
		t := s.TabByID(tab)
		if t == nil {
			return &sheet.NotFound{What: "tab", Name: tab.String(), In: s.Name}
		}
		if name = strings.TrimSpace(name); name != "" && name != t.Name {
			was := t.Name
			t.Name = name
			if err := ed.tabRenamed(s, was, name); err != nil {
				return err
			}
		}
		if after == "" && !first {
			return nil
		}
		from := slices.IndexFunc(s.Tabs, func(t sheet.TabShape) bool { return t.ID == tab })
		moved := s.Tabs[from]
		s.Tabs = slices.Delete(s.Tabs, from, from+1)
		at, err := placeOfTab(s, after, 0)
		if err != nil {
			return err
		}
		s.Tabs = slices.Insert(s.Tabs, at, moved)
		return nil
	})
}

// tabRenamed lets the definitions follow that name tabs by their names.
func (ed *Editor) tabRenamed(s *sheet.Shape, was, is string) error {
	for i := range s.Definitions {
		d := &s.Definitions[i]
		def, err := ed.Setup.Kinds().Decode(d)
		if err != nil {
			return err
		}
		if namer, names := def.(program.TabNamer); names {
			namer.TabRenamed(was, is)
			d.Body = engine.MustJSON(def)
		}
	}
	return nil
}

// DropTab removes a tab with its rows. It is refused while something needs it; undo
// brings both back.
func (ed *Editor) DropTab(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID) engine.Request {
	return engine.Request{By: by, Tracker: tracker, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *engine.Turn) error {
		tr := t.Draft.Own(tracker)
		if tr == nil || tr.TabByID(tab) == nil {
			return &sheet.NotFound{What: "tab", Name: tab.String()}
		}
		after := tr.Clone()
		after.Tabs = slices.DeleteFunc(after.Tabs, func(t sheet.TabShape) bool { return t.ID == tab })
		if needers := ed.Setup.Needers(tr.Shape, after); len(needers) > 0 {
			return &sheet.Needed{Name: tr.TabByID(tab).Name, By: needers}
		}
		for _, r := range slices.Collect(tr.Rows(tab)) {
			if err := t.Draft.Apply(sheet.Change{Kind: sheet.Remove, Tracker: tracker, Tab: tab, Row: r.ID}); err != nil {
				return err
			}
		}
		return program.Reshape(t.Draft, tr, after)
	}}
}

// RemoveWhere removes the rows of a tab for which a clause holds. Those that cannot be
// judged stay, and are warned of.
func (ed *Editor) RemoveWhere(by policy.Principal, tracker sheet.TrackerID, tab sheet.TabID, where string) engine.Request {
	return engine.Request{By: by, Cause: editCause(), Tracker: tracker, Work: func(t *engine.Turn) error {
		tr := t.Draft.Own(tracker)
		if tr == nil || tr.TabByID(tab) == nil {
			return &sheet.NotFound{What: "tab", Name: tab.String()}
		}
		ready, err := t.Program(tr.Shape)
		if err != nil {
			return err
		}
		found, err := query.Select(ready, tr, query.Query{Tab: tr.TabByID(tab), Where: where}, t.Now, t.Meter())
		if err != nil {
			return err
		}
		for _, p := range found.Passed {
			t.Warnings = append(t.Warnings, p.Label+" was skipped: "+p.Why)
		}
		for _, r := range slices.Clone(found.Rows) {
			if err := t.Draft.Apply(sheet.Change{Kind: sheet.Remove, Tracker: tracker, Tab: tab, Row: r.ID}); err != nil {
				return err
			}
		}
		return nil
	}}
}
