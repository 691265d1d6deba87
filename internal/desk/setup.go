package desk

import (
	"bytes"
	"encoding/json"
	"slices"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// reshape alters a tracker's shape; alter gets a copy.
func (d *Desk) reshape(by policy.Principal, tracker sheet.TrackerID, alter func(*sheet.Shape) error) Request {
	return Request{By: by, Tracker: tracker, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *Turn) error {
		tr := t.Draft.Tracker(tracker)
		if tr == nil {
			return &sheet.NotFound{What: "tracker", Name: tracker.String()}
		}
		after := tr.Clone()
		if err := alter(after); err != nil {
			return err
		}
		return applyShape(t.Draft, tr, after)
	}}
}

func applyShape(d *sheet.Draft, t *sheet.Tracker, after *sheet.Shape) error {
	if _, err := setup.Bind(after); err != nil {
		return err
	}
	before := t.Shape
	if sameJSON(before, after) {
		return nil
	}
	if err := d.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: t.ID, ShapeBefore: before, ShapeAfter: after}); err != nil {
		return err
	}
	return refit(d, t.ID, before)
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
	v := r.Get(tab, from)
	at := sheet.Cell{Tracker: tracker, Row: r.ID, Column: c.ID}
	if v.Kind() != value.Blank {
		free := *c
		free.BadInput = sheet.Mark // what is there is kept, whatever the column refuses from now on
		fitted, err := free.Accept(v)
		if err != nil {
			return err
		}
		if err := d.Put(at, fitted, 0); err != nil {
			return err
		}
	}
	if from != c.ID {
		at.Column = from
		return d.Put(at, value.Value{}, 0)
	}
	return nil
}

func sameJSON(a, b any) bool {
	x, errA := json.Marshal(a)
	y, errB := json.Marshal(b)
	return errA == nil && errB == nil && bytes.Equal(x, y)
}

// LoadSetup makes a tracker as a setup file has it, or brings the tracker of
// that name into line with it.
func (d *Desk) LoadSetup(by policy.Principal, text []byte) Request {
	return Request{By: by, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *Turn) error {
		name, err := setup.Name(text)
		if err != nil {
			return err
		}
		tr, _ := t.Draft.Now().Find(name) // a new one, where there is none
		if tr == nil {
			shape, err := d.Setup.Parse(text, nil, d.NewID)
			if err != nil {
				return err
			}
			return t.Draft.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: sheet.TrackerID(d.NewID()), ShapeAfter: shape})
		}
		shape, err := d.Setup.Parse(text, tr.Shape, d.NewID)
		if err != nil {
			return err
		}
		return applyShape(t.Draft, tr, shape)
	}}
}

// PutPart adds a rule, reminder, round, list or sync, or replaces the one of
// that name (or of id replace, which may so be renamed).
func (d *Desk) PutPart(by policy.Principal, tracker sheet.TrackerID, kind sheet.PartKind, text []byte, replace sheet.PartID) Request {
	return d.reshape(by, tracker, func(s *sheet.Shape) error {
		p, err := d.Setup.ParsePart(kind, text, s, d.NewID)
		if err != nil {
			return err
		}
		if replace != 0 {
			p.ID = replace
		}
		for i := range s.Parts {
			if s.Parts[i].ID == p.ID {
				s.Parts[i] = *p
				return nil
			}
		}
		s.Parts = append(s.Parts, *p)
		return nil
	})
}

// DropPart removes a part.
func (d *Desk) DropPart(by policy.Principal, tracker sheet.TrackerID, part sheet.PartID) Request {
	return d.reshape(by, tracker, func(s *sheet.Shape) error {
		s.Parts = slices.DeleteFunc(s.Parts, func(p sheet.Part) bool { return p.ID == part })
		return nil
	})
}

// NewTracker makes a tracker without tabs.
func (d *Desk) NewTracker(by policy.Principal, name, zone string) Request {
	return Request{By: by, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *Turn) error {
		return t.Draft.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: sheet.TrackerID(d.NewID()), ShapeAfter: &sheet.Shape{Name: name, Zone: zone}})
	}}
}

// RenameTracker gives a tracker another name.
func (d *Desk) RenameTracker(by policy.Principal, tracker sheet.TrackerID, name string) Request {
	return d.reshape(by, tracker, func(s *sheet.Shape) error {
		s.Name = name
		return nil
	})
}

// DropTracker removes a tracker with all its rows. Undo brings it back.
func (d *Desk) DropTracker(by policy.Principal, tracker sheet.TrackerID) Request {
	return Request{By: by, Tracker: tracker, Alone: true, Cause: sheet.Cause{Kind: sheet.BySetup}, Work: func(t *Turn) error {
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
