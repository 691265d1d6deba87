package reconcile

import "time"

// Entry is one record as a list gave it.
type Entry struct {
	Doc     any       // decoded as encoding/json does, with numbers as json.Number
	ID      string    // the list's own id of it, or ""
	Version string    // what a write must match, or ""
	Changed time.Time // zero: not known
	Where   string    // for messages: "record 12", "Lenders!A14"
}

// Write is one thing to be written to a list.
type Write struct {
	Kind    Kind // AddToList, Update or GoneTab
	Key     string
	ID      string
	Version string
	Fields  map[string]any // new values as JSON, by JSON Pointer; of an add all there are, the key among them
	Entry   any            // the record as it was given, or nil; not to be altered
	Once    string         // the same whenever the same write is tried again
}

// Written tells how a list names what was written.
type Written struct {
	ID string
}

// Declined says that a list refused one write for good; the others may go on.
type Declined struct{ Why string }

func (e *Declined) Error() string { return e.Why }
