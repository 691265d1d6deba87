package history

import (
	"bytes"
	"context"
	"time"

	"example.org/kavlo/internal/sheet"
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
	err := h.reshapes(ctx, tracker, time.Time{}, setsLookedAt, func(set *sheet.ChangeSet, c *sheet.Change) bool {
		if !sameDefinition(c.ShapeBefore, c.ShapeAfter, id) {
			out = append(out, Reshaped{set, c.ShapeBefore, c.ShapeAfter})
		}
		return len(out) < limit
	})
	return out, err
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
