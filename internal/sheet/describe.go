package sheet

import (
	"bytes"
	"encoding/json"
	"fmt"
)

func sameShape(a, b *Shape) bool {
	x, errA := json.Marshal(a)
	y, errB := json.Marshal(b)
	return errA == nil && errB == nil && bytes.Equal(x, y)
}

// Describe says what a change did, in words, with the names of the workspace
// as it stands after.
func (w *Workspace) Describe(c Change) string {
	if c.Kind == Reshape {
		switch {
		case c.ShapeBefore == nil:
			return fmt.Sprintf("made the tracker %s", c.ShapeAfter.Name)
		case c.ShapeAfter == nil:
			return fmt.Sprintf("dropped the tracker %s", c.ShapeBefore.Name)
		}
		return fmt.Sprintf("changed the setup of %s", c.ShapeAfter.Name)
	}
	row, column := c.Row.String(), c.Column.String()
	tabs := map[TabID]string{}
	for _, id := range []TrackerID{c.Tracker, c.ToTracker} {
		t := w.Tracker(id)
		if t == nil {
			continue
		}
		if r := t.Row(c.Row); r != nil {
			row = fmt.Sprintf("%q", t.Label(r))
		}
		if id == c.Tracker && c.Column != 0 {
			column = columnName(t, c.Column)
		}
		for i := range t.Tabs {
			tabs[t.Tabs[i].ID] = t.Tabs[i].Name
		}
	}
	switch c.Kind {
	case Add:
		return fmt.Sprintf("added %s to %s", row, tabs[c.Tab])
	case Remove:
		return fmt.Sprintf("removed %s from %s", row, tabs[c.Tab])
	case Move:
		return fmt.Sprintf("moved %s from %s to %s", row, tabs[c.Tab], tabs[c.ToTab])
	case Note:
		if c.After.IsBlank() {
			return fmt.Sprintf("took the note off %s of %s", column, row)
		}
		return fmt.Sprintf("put a note on %s of %s", column, row)
	case Look:
		if c.After.IsBlank() {
			return fmt.Sprintf("made %s of %s plain again", column, row)
		}
		return fmt.Sprintf("set off %s of %s: %s", column, row, c.After)
	}
	return fmt.Sprintf("set %s of %s from %s to %s", column, row, quoted(c.Before), quoted(c.After))
}
