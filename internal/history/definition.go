package history

import (
	"bytes"
	"context"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Reshaped is one change of a definition: in which change set, and the shape before and after.
type Reshaped struct {
	Set           *sheet.ChangeSet
	Before, After *sheet.Shape // nil: the tracker was not there
}

// setsLookedAt is how many change sets are looked through for changes of a definition.
const setsLookedAt = 5000

// OfDefinition gives the changes of a definition, newest first: who added it, changed it or
// gave it another name.
func (h *History) OfDefinition(ctx context.Context, tracker sheet.TrackerID, id sheet.DefinitionID, limit int) ([]Reshaped, error) {
	var out []Reshaped
	before := int64(0)
	for looked := 0; looked < setsLookedAt && len(out) < limit; {
		sets, err := h.store.Journaled(ctx, store.Which{Tracker: tracker, Before: before, Limit: 200})
		if err != nil || len(sets) == 0 {
			return out, err
		}
		for _, set := range sets {
			looked++
			before = set.Seq
			if set.Counts[string(sheet.Reshape)] == 0 {
				continue
			}
			whole, err := h.store.ChangeSet(ctx, set.Seq)
			if err != nil {
				return nil, err
			}
			for i := range whole.Changes {
				c := &whole.Changes[i]
				if c.Kind == sheet.Reshape && c.Tracker == tracker && !sameDefinition(c.ShapeBefore, c.ShapeAfter, id) && len(out) < limit {
					out = append(out, Reshaped{whole, c.ShapeBefore, c.ShapeAfter})
				}
			}
		}
	}
	return out, nil
}

// sameDefinition reports whether a change of shape left a definition as it was.
func sameDefinition(before, after *sheet.Shape, id sheet.DefinitionID) bool {
	find := func(s *sheet.Shape) *sheet.Definition {
		if s == nil {
			return nil
		}
		return s.DefinitionByID(id)
	}
	a, b := find(before), find(after)
	if a == nil || b == nil {
		return a == b
	}
	return a.Name == b.Name && bytes.Equal(a.Body, b.Body)
}
