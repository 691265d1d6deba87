package edit

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// reshape alters a tracker's shape; alter gets a copy.
func (ed *Editor) reshape(by policy.Principal, tracker sheet.TrackerID, alter func(*sheet.Shape) error) engine.Request {
	return engine.Request{By: by, Tracker: tracker, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *engine.Turn) error {
		tr := t.Draft.Tracker(tracker)
		if tr == nil {
			return &sheet.NotFound{What: "tracker", Name: tracker.String()}
		}
		after := tr.Clone()
		if err := alter(after); err != nil {
			return err
		}
		before := tr.Shape
		if err := program.Reshape(t.Draft, tr, after); err != nil {
			return err
		}
		return ed.follow(t, tracker, before, after)
	}}
}

// follow lets definitions of other trackers that bring rows into one call by its new name
// whatever of it has got another.
func (ed *Editor) follow(t *engine.Turn, tracker sheet.TrackerID, was, is *sheet.Shape) error {
	for _, other := range t.Draft.Now().Trackers() {
		if other.ID == tracker {
			continue
		}
		after, changed := other.Clone(), false
		for i := range after.Definitions {
			def, err := ed.Setup.Kinds().Decode(&after.Definitions[i])
			if err != nil {
				return err
			}
			reacher, reaches := def.(program.Reacher)
			if !reaches || !slices.ContainsFunc(reacher.Reaches(), func(name string) bool { return value.EqualText(name, was.Name) }) {
				continue
			}
			reacher.Follow(was, is)
			if body := engine.MustJSON(def); !bytes.Equal(body, after.Definitions[i].Body) {
				after.Definitions[i].Body, changed = body, true
			}
		}
		if !changed {
			continue
		}
		if role := policy.RoleIn(t.By, other.Shape); role < policy.Keeper {
			whose := "another tracker"
			if role > policy.Nobody {
				whose = other.Name
			}
			return fmt.Errorf("rules of %s name it, and would have to follow: %w", whose, engine.ErrForbidden)
		}
		if err := program.Reshape(t.Draft, other, after); err != nil {
			return err
		}
	}
	return nil
}

// LoadSetup makes a tracker as a setup file has it, or brings the tracker of
// that name into line with it.
func (ed *Editor) LoadSetup(by policy.Principal, text []byte) engine.Request {
	return ed.loadSetup(by, text, true)
}

// LoadSetupKeeping does the same, and refuses with a *Drops where a filled column, or a
// definition, that the file does not know of would go.
func (ed *Editor) LoadSetupKeeping(by policy.Principal, text []byte) engine.Request {
	return ed.loadSetup(by, text, false)
}

func (ed *Editor) loadSetup(by policy.Principal, text []byte, drop bool) engine.Request {
	return engine.Request{By: by, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *engine.Turn) error {
		name, err := setup.Name(text)
		if err != nil {
			return err
		}
		tr, _ := t.Draft.Now().Find(name) // a new one, where there is none
		if tr == nil {
			shape, err := ed.Setup.Parse(text, nil, ed.NewID)
			if err != nil {
				return err
			}
			return t.Draft.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: sheet.TrackerID(ed.NewID()), ShapeAfter: shape})
		}
		shape, err := ed.Setup.Parse(text, tr.Shape, ed.NewID)
		if err != nil {
			return err
		}
		if !drop {
			if err := dropped(tr, shape); err != nil {
				return err
			}
		}
		return program.Reshape(t.Draft, tr, shape)
	}}
}

// PutDefinition adds a rule, reminder, round, list or sync, or replaces the one of
// that name (or of id replace, which may so be renamed).
func (ed *Editor) PutDefinition(by policy.Principal, tracker sheet.TrackerID, kind sheet.DefinitionKind, text []byte, replace sheet.DefinitionID) engine.Request {
	return ed.reshape(by, tracker, func(s *sheet.Shape) error {
		p, err := ed.Setup.ParseDefinition(kind, text, s, ed.NewID, replace)
		if err != nil {
			return err
		}
		for i := range s.Definitions {
			if s.Definitions[i].ID == p.ID {
				s.Definitions[i] = *p
				return nil
			}
		}
		s.Definitions = append(s.Definitions, *p)
		return nil
	})
}

// DropDefinition removes a part.
func (ed *Editor) DropDefinition(by policy.Principal, tracker sheet.TrackerID, part sheet.DefinitionID) engine.Request {
	return ed.reshape(by, tracker, func(s *sheet.Shape) error {
		s.Definitions = slices.DeleteFunc(s.Definitions, func(p sheet.Definition) bool { return p.ID == part })
		return nil
	})
}

// OrderDefinitions puts definitions of one kind first among those, in the order given; the
// others keep theirs. Rules that an edit wakes run in that order.
func (ed *Editor) OrderDefinitions(by policy.Principal, tracker sheet.TrackerID, kind sheet.DefinitionKind, first []sheet.DefinitionID) engine.Request {
	return ed.reshape(by, tracker, func(s *sheet.Shape) error {
		for _, id := range first {
			if d := s.DefinitionByID(id); d == nil || d.Kind != kind {
				return &sheet.NotFound{What: string(kind), Name: id.String(), In: s.Name}
			}
		}
		place := func(d sheet.Definition) int {
			if at := slices.Index(first, d.ID); at >= 0 {
				return at
			}
			return len(first)
		}
		var of []sheet.Definition
		for _, d := range s.Definitions {
			if d.Kind == kind {
				of = append(of, d)
			}
		}
		slices.SortStableFunc(of, func(a, b sheet.Definition) int { return place(a) - place(b) })
		for i := range s.Definitions {
			if s.Definitions[i].Kind == kind {
				s.Definitions[i], of = of[0], of[1:]
			}
		}
		return nil
	})
}

// NewTracker makes a tracker without tabs.
func (ed *Editor) NewTracker(by policy.Principal, name, zone string) engine.Request {
	return engine.Request{By: by, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *engine.Turn) error {
		return t.Draft.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: sheet.TrackerID(ed.NewID()), ShapeAfter: &sheet.Shape{Name: name, Zone: zone}})
	}}
}

// CopyTracker makes a tracker with the tabs, columns, views and settings of another. It has no
// rows, and nothing that acts by itself: rules, reminders and lists stay with the one copied.
func (ed *Editor) CopyTracker(by policy.Principal, from sheet.TrackerID, name string) engine.Request {
	return engine.Request{By: by, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *engine.Turn) error {
		tr := t.Draft.Tracker(from)
		if tr == nil {
			return &sheet.NotFound{What: "tracker", Name: from.String()}
		}
		shape := tr.Clone()
		shape.Name = name
		shape.Definitions = slices.DeleteFunc(shape.Definitions, func(d sheet.Definition) bool { return d.Kind != sheet.KindView })
		// as a setup file names things, which gives all of them ids of their own
		text, err := ed.Setup.Encode(shape)
		if err != nil {
			return fmt.Errorf("copying %s: %w", tr.Name, err)
		}
		if shape, err = ed.Setup.Parse(text, nil, ed.NewID); err != nil {
			return fmt.Errorf("copying %s: %w", tr.Name, err)
		}
		return t.Draft.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: sheet.TrackerID(ed.NewID()), ShapeAfter: shape})
	}}
}

// TrackerSettings are what a tracker has of its own, besides tabs; nil: as it is.
type TrackerSettings struct {
	Name, Zone, Dates, Numbers *string
	Working                    *recur.WorkingDays
	After                      sheet.TrackerID // the tracker that it comes after; 0: where it is
	First                      bool            // it comes before all others
}

// ChangeTracker changes a tracker's own settings, and its place among the trackers.
func (ed *Editor) ChangeTracker(by policy.Principal, tracker sheet.TrackerID, to TrackerSettings) engine.Request {
	req := ed.reshape(by, tracker, func(s *sheet.Shape) error {
		if to.Name != nil {
			s.Name = *to.Name
		}
		if to.Zone != nil {
			s.Zone = *to.Zone
		}
		if to.Dates != nil {
			if *to.Dates != "" && !slices.Contains(value.DateStyles, *to.Dates) {
				return fmt.Errorf("%q is no form of dates: write the last of March 2026 as one of %s", *to.Dates, strings.Join(value.DateStyles, ", "))
			}
			if s.Dates = *to.Dates; s.Dates == value.DateStyles[0] {
				s.Dates = ""
			}
		}
		if to.Numbers != nil {
			if *to.Numbers != "" && !slices.Contains(value.NumberStyles, *to.Numbers) {
				return fmt.Errorf("%q is no form of numbers: write 1234.5 as one of %s", *to.Numbers, strings.Join(value.NumberStyles, "; "))
			}
			if s.Numbers = *to.Numbers; s.Numbers == value.NumberStyles[0] {
				s.Numbers = ""
			}
		}
		if to.Working != nil {
			s.Working = *to.Working
		}
		return nil
	})
	reshape := req.Work
	req.Work = func(t *engine.Turn) error {
		if err := reshape(t); err != nil {
			return err
		}
		if to.After == 0 && !to.First {
			return nil
		}
		return place(t.Draft, tracker, to.After)
	}
	return req
}

// place puts a tracker after another one; 0: before all others.
func place(d *sheet.Draft, tracker, after sheet.TrackerID) error {
	moved := d.Tracker(tracker)
	all := slices.DeleteFunc(d.Now().Trackers(), func(t *sheet.Tracker) bool { return t.ID == tracker })
	at := 0
	if after != 0 {
		if at = slices.IndexFunc(all, func(t *sheet.Tracker) bool { return t.ID == after }) + 1; at == 0 {
			return &sheet.NotFound{What: "tracker", Name: after.String()}
		}
	}
	for i, t := range slices.Insert(all, at, moved) {
		if t.Place == i+1 {
			continue
		}
		to := t.Clone()
		to.Place = i + 1
		if err := program.Reshape(d, t, to); err != nil {
			return err
		}
	}
	return nil
}

// RenameTracker gives a tracker another name.
func (ed *Editor) RenameTracker(by policy.Principal, tracker sheet.TrackerID, name string) engine.Request {
	return ed.ChangeTracker(by, tracker, TrackerSettings{Name: &name})
}

// DropTracker removes a tracker with all its rows. Undo brings it back.
func (ed *Editor) DropTracker(by policy.Principal, tracker sheet.TrackerID) engine.Request {
	return engine.Request{By: by, Tracker: tracker, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *engine.Turn) error {
		tr := t.Draft.Own(tracker)
		if tr == nil {
			return &sheet.NotFound{What: "tracker", Name: tracker.String()}
		}
		for i := range tr.Tabs {
			for _, r := range slices.Collect(tr.Rows(tr.Tabs[i].ID)) {
				if err := t.Draft.Apply(sheet.Change{Kind: sheet.Remove, Tracker: tracker, Tab: r.Tab, Row: r.ID}); err != nil {
					return err
				}
			}
		}
		return t.Draft.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: tracker, ShapeBefore: tr.Shape})
	}}
}

// Pause stops a definition from running by itself, or lets it again.
func (ed *Editor) Pause(by policy.Principal, tracker sheet.TrackerID, part sheet.DefinitionID, paused bool) engine.Request {
	return ed.reshape(by, tracker, func(s *sheet.Shape) error {
		for i := range s.Definitions {
			if s.Definitions[i].ID != part {
				continue
			}
			def, err := ed.Setup.Kinds().Decode(&s.Definitions[i])
			if err != nil {
				return err
			}
			pauser, can := def.(program.Pauser)
			if !can {
				return fmt.Errorf("%s %s cannot be paused", s.Definitions[i].Kind, s.Definitions[i].Name)
			}
			pauser.Pause(paused)
			s.Definitions[i].Body = engine.MustJSON(def)
			return nil
		}
		return &sheet.NotFound{What: "definition", Name: part.String(), In: s.Name}
	})
}
