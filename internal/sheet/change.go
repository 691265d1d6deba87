package sheet

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/value"
)

// Kind tells changes apart.
type Kind string

// The kinds of change. A change set is made of nothing else.
const (
	Add     Kind = "add"     // a row comes into being; Image
	Remove  Kind = "remove"  // a row goes; Image
	Set     Kind = "set"     // a cell; Before, After
	Note    Kind = "note"    // the note on a cell; Before, After as text
	Style   Kind = "look"    // the look of a cell; Before, After as value.CellStyle writes it
	Move    Kind = "move"    // a row goes to another tab or place
	Grant   Kind = "access"  // who may come in, what lists may reach: told in After, as text; no tracker is altered
	Reshape Kind = "reshape" // a tracker's tabs, columns, rules and the rest; ShapeBefore, ShapeAfter
)

// Change is one alteration with what was there before, so that it can be
// checked, described and taken back.
type Change struct {
	Kind    Kind
	Tracker TrackerID
	Tab     TabID // where the row stands; for a move: where it stood
	Row     RowID
	Column  ColumnID

	Before, After value.Value // of a set, note or look

	ToTracker  TrackerID // of a move; the same tracker unless it says otherwise
	ToTab      TabID
	Pos, ToPos int64

	Image                   *Image
	ShapeBefore, ShapeAfter *Shape

	Because int // index into ChangeSet.Causes
}

// CauseKind says what set a change off.
type CauseKind string

// The kinds of cause.
const (
	ByEdit   CauseKind = "edit"   // a person changed something
	ByRule   CauseKind = "rule"   // a rule's step
	ByClock  CauseKind = "clock"  // the hour came
	ByHand   CauseKind = "hand"   // a person asked for a run
	ByCall   CauseKind = "call"   // a signed request from outside
	BySync   CauseKind = "sync"   // a list was taken in
	ByImport CauseKind = "import" // a file was taken in
	ByUndo   CauseKind = "undo"   // something was taken back
	BySetup  CauseKind = "setup"  // a setup file was loaded
	ByAccess CauseKind = "access" // somebody changed who may come in, a secret, or what lists may reach
	ByFile   CauseKind = "file"   // a file arrived or changed
	ByForm   CauseKind = "form"   // somebody filled a form in
	ByPages  CauseKind = "pages"  // a dossier's pages were opened or closed
)

// Cause is why changes happened. The first cause of a change set is what set
// the whole off; a rule's cause names what woke it.
type Cause struct {
	Kind       CauseKind    `json:"kind"`
	Name       string       `json:"name,omitempty"` // the rule's, sync's or file's name
	Definition DefinitionID `json:"part,omitempty"`
	Step       int          `json:"step,omitempty"` // counted from 1, of a rule
	Woke       int          `json:"woke"`           // index of the cause that woke this one; -1 for the first
	Says       string       `json:"says,omitempty"` // more, in words
}

// ChangeSet is all that one transaction alters.
type ChangeSet struct {
	Seq     int64 // number in the journal; 0 while not committed
	At      time.Time
	Who     string // the person or service on whose word it happened
	Run     string // id of the run it belongs to, or ""
	Undoes  int64  // number of the change set that it takes back, or 0
	Causes  []Cause
	Changes []Change
}

// Conflict says that what a change expected to find is not there.
type Conflict struct {
	Change  Change
	Current value.Value
	Reason  string
}

func (c *Conflict) Error() string {
	return fmt.Sprintf("row %s: %s", c.Change.Row, c.Reason)
}

// Ambiguous says that a label names several rows.
type Ambiguous struct {
	Label, Tab string
	Rows       []RowID
}

func (e *Ambiguous) Error() string {
	ids := make([]string, 0, 6)
	for i, id := range e.Rows {
		if i == 5 {
			ids = append(ids, "...")
			break
		}
		ids = append(ids, id.String())
	}
	return fmt.Sprintf("%d rows in %s are called %q: use one of the ids %s", len(e.Rows), e.Tab, e.Label, strings.Join(ids, ", "))
}

// Invert gives the change that takes c back.
func (c Change) Invert() Change {
	i := c
	switch c.Kind {
	case Add:
		i.Kind = Remove
	case Remove:
		i.Kind = Add
	case Set, Note, Style:
		i.Before, i.After = c.After, c.Before
	case Move:
		i.Tracker, i.ToTracker = c.ToTracker, c.Tracker
		i.Tab, i.ToTab = c.ToTab, c.Tab
		i.Pos, i.ToPos = c.ToPos, c.Pos
	case Reshape:
		i.ShapeBefore, i.ShapeAfter = c.ShapeAfter, c.ShapeBefore
	}
	i.Because = 0
	return i
}

// Invert gives the changes that take the whole set back, last change first.
func (s *ChangeSet) Invert() []Change {
	out := make([]Change, 0, len(s.Changes))
	for _, c := range slices.Backward(s.Changes) {
		out = append(out, c.Invert())
	}
	return out
}

// Counts gives how many changes of each kind the set holds. What a row that goes to another
// tracker takes along into columns of that is part of its move.
func (s *ChangeSet) Counts() map[Kind]int {
	n := map[Kind]int{}
	along := takenAlong(s.Changes)
	for i := range s.Changes {
		if along == nil || !along[i] {
			n[s.Changes[i].Kind]++
		}
	}
	return n
}

// Trackers gives the trackers that the set touches, each once, in order of first touch.
func (s *ChangeSet) Trackers() []TrackerID {
	return touched(s, func(c *Change) [2]TrackerID { return [...]TrackerID{c.Tracker, c.ToTracker} })
}

// Tabs gives the tabs that the set touches, each once: those that rows stood in, left or came to.
func (s *ChangeSet) Tabs() []TabID {
	return touched(s, func(c *Change) [2]TabID { return [...]TabID{c.Tab, c.ToTab} })
}

// touched gives what the changes concern, from and to, each once.
func touched[T ~int64](s *ChangeSet, of func(*Change) [2]T) []T {
	var out []T
	for i := range s.Changes {
		for _, id := range of(&s.Changes[i]) {
			if id != 0 && !slices.Contains(out, id) {
				out = append(out, id)
			}
		}
	}
	return out
}

// Rows gives the rows that the set touches, each once, in order of first touch.
func (s *ChangeSet) Rows() []RowID {
	seen := make(map[RowID]bool, len(s.Changes))
	var out []RowID
	for i := range s.Changes {
		if id := s.Changes[i].Row; id != 0 && !seen[id] {
			seen[id] = true
			out = append(out, id)
		}
	}
	return out
}
