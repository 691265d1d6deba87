package policy

import (
	"errors"

	"example.org/kavlo/internal/sheet"
)

// ErrForbidden says that somebody may not do what was asked.
var ErrForbidden = errors.New("this needs more access than you have: ask a keeper of the workspace")

// Permitted asks of every change whether whoever wants it may make it; needs is what
// is asked besides. It is asked at the door, so that no way to a change goes past it.
func Permitted(by Principal, needs Access, set *sheet.ChangeSet) error {
	needs = max(Editor, needs)
	for i := range set.Changes {
		needs = max(needs, NeededFor(set, &set.Changes[i]))
	}
	if by.Access < needs {
		return ErrForbidden
	}
	return nil
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
