package policy

import (
	"errors"

	"example.org/kavlo/internal/sheet"
)

// ErrForbidden says that somebody may not do what was asked.
var ErrForbidden = errors.New("you do not have permission: ask an admin")

// Permitted asks of every change whether whoever wants it may make it; needs is what is
// asked besides, of a tracker or, where there is none, of the workspace. It is asked at
// the door, so that no way to a change goes past it. What rules and syncs do, they do on
// behalf of whoever set them up, who was asked then. shapes gives the shape of a
// tracker, before or after.
func Permitted(by Principal, needs Access, tracker sheet.TrackerID, set *sheet.ChangeSet, shapes func(sheet.TrackerID) *sheet.Shape) error {
	sights := map[sheet.TrackerID]*Sight{}
	sight := func(id sheet.TrackerID) (*Sight, *sheet.Shape) {
		shape := shapes(id)
		if shape == nil {
			return &Sight{Role: by.Access}, &sheet.Shape{}
		}
		if sights[id] == nil {
			sights[id] = SightOf(by, shape)
		}
		return sights[id], shape
	}
	if own, _ := sight(tracker); own.Role < max(Editor, needs) {
		return ErrForbidden
	}
	for i := range set.Changes {
		c := &set.Changes[i]
		s, shape := sight(c.Tracker)
		if c.ShapeBefore == nil && c.ShapeAfter != nil || c.ShapeBefore != nil && c.ShapeAfter == nil { // trackers come and go by the workspace's keepers
			s = &Sight{Role: by.Access}
		}
		if onBehalf(set, c) && NeededFor(set, c) < Keeper {
			continue
		}
		if s.Role < NeededFor(set, c) || !by.Narrow.allows(shape, c) {
			return ErrForbidden
		}
		if err := s.Allows(shape, c); err != nil {
			return err
		}
		if c.Kind == sheet.Move && c.ToTracker != c.Tracker && c.ToTracker != 0 {
			if to, shape := sight(c.ToTracker); to.Role < Editor || to.Allows(shape, c) != nil {
				return ErrForbidden
			}
		}
	}
	return nil
}

// onBehalf reports whether a change was made by a definition, on behalf of whoever set
// it up, and not by the asker.
func onBehalf(set *sheet.ChangeSet, c *sheet.Change) bool {
	if c.Because >= len(set.Causes) {
		return false
	}
	switch set.Causes[c.Because].Kind {
	case sheet.ByRule, sheet.BySync, sheet.ByPages:
		return true
	}
	return false
}

// NeededFor gives the access that a change needs. What a rule or an import makes
// of a shape on its way is in the word of whoever set the rule up, or of the
// editors who may import; trackers come and go by keepers alone.
func NeededFor(set *sheet.ChangeSet, c *sheet.Change) Access {
	if c.Kind != sheet.Reshape {
		return Editor
	}
	if c.ShapeBefore == nil || c.ShapeAfter == nil {
		return Keeper
	}
	if c.Because < len(set.Causes) {
		switch set.Causes[c.Because].Kind {
		case sheet.ByRule, sheet.ByImport, sheet.ByFile, sheet.ByClock, sheet.ByCall, sheet.ByHand, sheet.BySync:
			return Editor
		case sheet.ByUndo: // what it undoes was asked about
			return Editor
		}
	}
	return Keeper
}
