package reconcile

import (
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Direction says which way values go between a list and a tab.
type Direction string

// The directions. With In the list is the truth, with Out the tab is.
const (
	In   Direction = "in"
	Out  Direction = "out"
	Both Direction = "both"
)

// Winner says which side a conflict is decided for.
type Winner string

// The ways to decide a conflict: for a side, for whichever changed last, or by
// a person (Hold).
const (
	ByList Winner = "list"
	ByTab  Winner = "tab"
	Newest Winner = "newest"
	Hold   Winner = "hold"
)

// Gone says what happens to what one side has and the other has lost.
type Gone string

// The ways to treat what is gone: leave it, leave it marked, move it to another
// tab, remove it. A list can neither mark nor move, so there both mean Keep.
const (
	Keep   Gone = "keep"
	Mark   Gone = "mark"
	Move   Gone = "move"
	Remove Gone = "remove"
)

// Policy says how a list and a tab are kept in step.
type Policy struct {
	Direction Direction
	Conflict  Winner
	Gone      Gone
	// Decided holds a person's word on conflicts that were held, by folded key.
	Decided map[string]Decision
}

// Decision is a person's word on one held conflict. It counts only while the
// conflict is still the one that was seen.
type Decision struct {
	Winner Winner // ByList or ByTab
	Seen   string // Outcome.Seen as it was shown
}

// Item is one record of a list or one row of a tab: its key and the values of
// the fields that are kept in step, in the order of the sync.
type Item struct {
	Key     value.Value
	Fields  []value.Value
	Row     sheet.RowID // of a row
	Away    bool        // of a row: it stands in another tab than the sync's
	ID      string      // of a record: how its list names it
	At      int         // of a record: its place among the list's entries, or -1
	Version string      // of a record: what a write must match, or ""
	Changed int64       // Unix seconds of the last change; 0: not known
}

// Base is what both sides were after the last sync.
type Base struct {
	Key    string // as text
	Fields []value.Value
	Row    sheet.RowID
	ID     string
	// Left says from which side the record has gone while the other keeps it.
	Left Winner // "", ByList or ByTab
}

// Kind says what is to happen to a record or row.
type Kind string

// The kinds of outcome.
const (
	AddToTab  Kind = "add to tab"
	AddToList Kind = "add to list"
	Update    Kind = "update"
	Conflict  Kind = "conflict"       // held for a person; fields without conflict are still updated
	GoneList  Kind = "gone from list" // what becomes of the row is the policy's
	GoneTab   Kind = "gone from tab"  // what becomes of the record is the policy's
	Settled   Kind = "settled"        // nothing to do but to remember
)

// Outcome is what one sync finds about one key.
type Outcome struct {
	Kind      Kind
	Key       value.Value
	List, Tab *Item
	Base      *Base
	ToTab     []int // fields whose value the row takes from the list
	ToList    []int // fields whose value the list takes from the row
	Clash     []int // fields changed on both sides, held for a person
	Rekey     Winner
	// Lost, of a conflict, says which side has lost what the other changed.
	Lost Winner
	Seen string // of a conflict: a mark of the very values that clash
	// Leave says which side has lost the record while the other is to keep it.
	Leave Winner
	Row   sheet.RowID // of a row that Apply added
}

// same reports whether two values are the same to both sides: a number is its
// amount, and white space alone is blank.
func same(a, b *value.Value) bool {
	if *a == *b {
		return true
	}
	if a.Kind() == value.Number && b.Kind() == value.Number {
		return value.Equal(*a, *b)
	}
	return a.IsBlank() && b.IsBlank()
}

var blank value.Value

func (b *Base) field(i int) *value.Value {
	if b == nil || i >= len(b.Fields) {
		return &blank
	}
	return &b.Fields[i]
}

// Fold gives the text under which equal keys meet.
func Fold(key value.Value) string { return value.Fold(key.String()) }
