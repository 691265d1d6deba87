package api

import (
	"context"
	"errors"
	"net/http"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/history"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// Handlers read states as their asker may see them, and nothing else: a test reads their
// source for that. What is written is asked about at the engine's door.

// seen gives the present state as the asker of a request sees it.
func (s *server) seen(ctx context.Context) *sheet.Workspace { return s.workspace.Seen(asker(ctx)) }

// find finds a tracker by name or id among those that the asker sees.
func (s *server) find(ctx context.Context, tracker string) (*sheet.Tracker, error) {
	return s.seen(ctx).Find(tracker)
}

// whole reports whether nothing of a tracker is hidden from the asker. A tracker that is
// gone has nobody to say who might see it: only keepers do.
func (s *server) whole(ctx context.Context, id sheet.TrackerID) bool {
	t := s.workspace.Present(id)
	if t == nil {
		return asker(ctx).Access >= policy.Keeper
	}
	return s.workspace.Sight(asker(ctx), t).Whole()
}

// wholly reports whether nothing of any tracker is hidden from the asker.
func (s *server) wholly(ctx context.Context) bool {
	for _, t := range s.workspace.Trackers() {
		if !s.whole(ctx, t.ID) {
			return false
		}
	}
	return true
}

// wholeRound reports whether nothing that a round collects is hidden from the asker.
func (s *server) wholeRound(ctx context.Context, t *sheet.Tracker, d *sheet.Definition) bool {
	def, err := s.workspace.Setup.Kinds().Decode(d)
	if err != nil {
		return false
	}
	if round := def.(*reminder.Round); round.Everywhere {
		return s.wholly(ctx)
	}
	return s.whole(ctx, t.ID)
}

// left gives what of a change set the asker may see: a row that moves to where they do
// not look is gone for them, and one that comes from there is new.
func (s *server) left(ctx context.Context, set *sheet.ChangeSet) *sheet.ChangeSet {
	by := asker(ctx)
	if by.Access >= policy.Keeper {
		return set
	}
	sights := map[sheet.TrackerID]*policy.Sight{}
	sight := func(id sheet.TrackerID) *policy.Sight {
		if sights[id] == nil {
			sights[id] = &policy.Sight{}
			if t := s.workspace.Present(id); t != nil {
				sights[id] = s.workspace.Sight(by, t)
			}
		}
		return sights[id]
	}
	out := *set
	out.Changes = nil
	for _, c := range set.Changes {
		if kept, is := leftOf(c, sight); is {
			out.Changes = append(out.Changes, kept)
		}
	}
	return &out
}

func leftOf(c sheet.Change, sight func(sheet.TrackerID) *policy.Sight) (sheet.Change, bool) {
	here := sight(c.Tracker)
	switch c.Kind {
	case sheet.Reshape:
		return c, here.Whole()
	case sheet.Move:
		there := here
		if c.ToTracker != 0 && c.ToTracker != c.Tracker {
			there = sight(c.ToTracker)
		}
		from, to := here.SeesTab(c.Tab), there.SeesTab(c.ToTab)
		switch {
		case from && to:
			return c, true
		case from:
			return sheet.Change{Kind: sheet.Remove, Tracker: c.Tracker, Tab: c.Tab, Row: c.Row, Because: c.Because}, true
		case to:
			return sheet.Change{Kind: sheet.Add, Tracker: c.ToTracker, Tab: c.ToTab, Row: c.Row, Because: c.Because}, true
		}
		return c, false
	case sheet.Set, sheet.Note, sheet.Style:
		return c, here.SeesTab(c.Tab) && here.SeesColumn(c.Column)
	}
	return c, here.SeesTab(c.Tab)
}

// errHidden stands for a mistake whose telling would tell of what is hidden.
var errHidden = problemOf(http.StatusConflict, "hidden", "Request refused", "nothing was changed: something that follows from this, or stands in its way, is in a part of the tracker that you do not see: ask an admin")

// told gives an error as its asker may be told of it.
func (s *server) told(ctx context.Context, err error) error {
	var run *engine.RunError
	var undo *history.UndoRefused
	var refusal *sheet.Refusal
	tells := errors.As(err, &run) || errors.As(err, &undo)
	if !tells && !errors.As(err, &refusal) || asker(ctx).Access >= policy.Keeper || s.wholly(ctx) {
		return err
	}
	if !tells {
		for _, t := range s.seen(ctx).Trackers() {
			if tab, missing := t.Tab(refusal.Tab); missing == nil {
				if _, missing := tab.Column(refusal.Column); missing == nil {
					return err
				}
			}
		}
	}
	return errHidden
}

// cellsByID names cells by the ids of their columns, which the asker sees.
func cellsByID[V any](tab *sheet.TabShape, cells map[string]V) (map[string]V, error) {
	if cells == nil {
		return nil, nil
	}
	out := make(map[string]V, len(cells))
	for name, v := range cells {
		c, err := tab.Column(name)
		if err != nil {
			return nil, err
		}
		out[c.ID.String()] = v
	}
	return out, nil
}

// editByID does the same for an edit of a row.
func editByID(tab *sheet.TabShape, in wire.RowEdit) (out wire.RowEdit, err error) {
	out = in
	if out.Cells, err = cellsByID(tab, in.Cells); err != nil {
		return out, err
	}
	if out.Notes, err = cellsByID(tab, in.Notes); err != nil {
		return out, err
	}
	out.Styles, err = cellsByID(tab, in.Styles)
	return out, err
}
