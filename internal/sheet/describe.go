package sheet

import (
	"bytes"
	"encoding/json"
	"fmt"

	"example.org/kavlo/internal/value"
)

func sameShape(a, b *Shape) bool {
	x, errA := json.Marshal(a)
	y, errB := json.Marshal(b)
	return errA == nil && errB == nil && bytes.Equal(x, y)
}

// Told gives the changes that are worth telling: a row that goes to another tracker takes
// its cells, notes and styles along, which its move says.
func Told(changes []Change) []Change {
	along := takenAlong(changes)
	if along == nil {
		return changes
	}
	out := make([]Change, 0, len(changes))
	for i := range changes {
		if !along[i] {
			out = append(out, changes[i])
		}
	}
	return out
}

// takenAlong marks the changes that take what a row holds into the columns of another
// tracker, when it goes there or comes back; nil where there are none.
func takenAlong(changes []Change) []bool {
	var along []bool
	for i := range changes {
		c := &changes[i]
		if c.Kind != Move || c.ToTracker == c.Tracker || c.ToTracker == 0 {
			continue
		}
		if along == nil {
			along = make([]bool, len(changes))
		}
		for n := i + 1; n+1 < len(changes) && handsOver(&changes[n], &changes[n+1], c); n += 2 {
			along[n], along[n+1] = true, true
		}
		for n := i - 1; n > 0 && takesBack(&changes[n-1], &changes[n], c); n -= 2 {
			along[n], along[n-1] = true, true
		}
	}
	return along
}

// handsOver reports whether two changes after a move lay something into a column of the
// new tracker, and take it out of the old one's.
func handsOver(a, b, move *Change) bool {
	return besides(a, b, move) && b.After.IsBlank() && a.After.Raw() == b.Before.Raw()
}

// takesBack reports whether two changes before a move are the same taken back.
func takesBack(a, b, move *Change) bool {
	return besides(a, b, move) && a.Before.IsBlank() && a.After.Raw() == b.Before.Raw()
}

func besides(a, b, move *Change) bool {
	return a.Row == move.Row && b.Row == move.Row && a.Because == move.Because && b.Because == move.Because &&
		a.Kind == b.Kind && (a.Kind == Set || a.Kind == Note || a.Kind == Style) && a.Column != b.Column
}

// DescribeAll says what changes did to a row, in words: several cells set off
// alike are said once.
func (w *Workspace) DescribeAll(changes []Change) []string {
	changes = Told(changes)
	var out []string
	for i := 0; i < len(changes); {
		alike := i + 1
		for alike < len(changes) && changes[i].Kind == Style && changes[alike].Kind == Style && changes[i].After == changes[alike].After {
			alike++
		}
		says := w.Describe(changes[i])
		if n := alike - i; n > 1 {
			says = setOff(fmt.Sprintf("%d cells", n), w.rowName(changes[i]), changes[i].After)
		}
		out, i = append(out, says), alike
	}
	return out
}

func setOff(what, row string, look value.Value) string {
	l, err := value.ParseCellStyle(look.Raw())
	if err != nil || l == (value.CellStyle{}) {
		return fmt.Sprintf("made %s of %s plain again", what, row)
	}
	return fmt.Sprintf("set off %s of %s: %s", what, row, l.Words())
}

// rowName names a changed row as it is called after, or by its id.
func (w *Workspace) rowName(c Change) string {
	for _, id := range []TrackerID{c.ToTracker, c.Tracker} {
		if t := w.Tracker(id); t != nil {
			if r := t.Row(c.Row); r != nil {
				return fmt.Sprintf("%q", t.Label(r))
			}
		}
	}
	if t := w.Tracker(c.Tracker); t != nil && t.TabByID(c.Tab) != nil { // it was removed
		if label := t.TabByID(c.Tab).LabelOf(c.Image); label != "" {
			return fmt.Sprintf("%q", label)
		}
	}
	return c.Row.String()
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
	row, column := w.rowName(c), c.Column.String()
	tabs := map[TabID]string{}
	for _, id := range []TrackerID{c.Tracker, c.ToTracker} {
		t := w.Tracker(id)
		if t == nil {
			continue
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
		if c.InPlace() {
			return fmt.Sprintf("moved %s within %s", row, tabs[c.Tab])
		}
		return fmt.Sprintf("moved %s from %s to %s", row, tabs[c.Tab], tabs[c.ToTab])
	case Note:
		if c.After.IsBlank() {
			return fmt.Sprintf("took the note off %s of %s", column, row)
		}
		return fmt.Sprintf("put a note on %s of %s", column, row)
	case Style:
		return setOff(column, row, c.After)
	}
	return fmt.Sprintf("set %s of %s from %s to %s", column, row, quoted(c.Before), quoted(c.After))
}
