package desk

import (
	"context"
	"errors"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Access is what somebody may do; each includes those before it.
type Access int

// A reader reads, an editor changes rows, a keeper changes the setup and access.
const (
	Reader Access = iota + 1
	Editor
	Keeper
)

// AccessOf gives what a person may do.
func AccessOf(p store.Person) Access {
	return map[string]Access{"reader": Reader, "editor": Editor, "keeper": Keeper}[p.Access]
}

// ErrForbidden says that somebody may not do what was asked.
var ErrForbidden = errors.New("this needs more access than you have: ask a keeper of the workspace")

// permitted asks of every change whether whoever wants it may make it. It is
// asked at the door, so that no way to a change goes past it.
func permitted(req *Request, set *sheet.ChangeSet) error {
	if req.By == nil { // the service itself, at its setup's word
		return nil
	}
	needs := max(Editor, req.Needs)
	for i := range set.Changes {
		needs = max(needs, neededFor(set, &set.Changes[i]))
	}
	if AccessOf(*req.By) < needs {
		return ErrForbidden
	}
	return nil
}

// neededFor gives the access that a change needs. What a rule or an import makes
// of a shape on its way is in the word of whoever set the rule up, or of the
// editors who may import; trackers come and go by keepers alone.
func neededFor(set *sheet.ChangeSet, c *sheet.Change) Access {
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

// neededToUndo gives the access that undoing a change set needs: what making it
// needed, through however many undos.
func (d *Desk) neededToUndo(ctx context.Context, set *sheet.ChangeSet) (Access, error) {
	needs := Editor
	for i := range set.Changes {
		needs = max(needs, neededFor(set, &set.Changes[i]))
	}
	if set.Undoes == 0 || needs == Keeper {
		return needs, nil
	}
	before, err := d.store.ChangeSet(ctx, set.Undoes)
	if err != nil {
		return 0, err
	}
	return d.neededToUndo(ctx, before)
}
