// Package sheet is the tracker itself: tabs with typed columns, rows that keep
// their identity for life, and the change set, the one form in which anything
// alters a tracker.
//
// A Workspace is an immutable state of every tracker in use. To change it, a
// Draft is begun from it, changes are applied to the draft one by one, and the
// draft is finished into a new Workspace; the old one stays as it was, so
// readers hold a state as long as they like. A change copies only the chunk of
// rows it touches.
//
// Laws, held by property tests: applying a change set and then its inverse
// gives back the same tracker (row versions apart, which only go up); a row is
// in exactly one tab; a change whose "before" does not hold is refused with a
// *Conflict and nothing is altered by it.
package sheet

import (
	"fmt"
	"strconv"
	"strings"
)

// TrackerID names a tracker in a workspace, for life.
type TrackerID int64

// TabID names a tab in a tracker.
type TabID int64

// ColumnID names a column in a tracker. Columns of the same name and type in
// several tabs of one tracker share an id: they are one column.
type ColumnID int64

// RowID names a row in the workspace; it never changes, wherever the row moves.
type RowID int64

// DefinitionID names a rule, list, sync, reminder or round of a tracker.
type DefinitionID int64

func (id TrackerID) String() string    { return "t" + strconv.FormatInt(int64(id), 10) }
func (id TabID) String() string        { return "b" + strconv.FormatInt(int64(id), 10) }
func (id ColumnID) String() string     { return "c" + strconv.FormatInt(int64(id), 10) }
func (id RowID) String() string        { return "r" + strconv.FormatInt(int64(id), 10) }
func (id DefinitionID) String() string { return "p" + strconv.FormatInt(int64(id), 10) }

// ParseRowID reads a row's id as RowID.String writes it.
func ParseRowID(s string) (RowID, bool) { n, ok := parseID(s, "r"); return RowID(n), ok }

// ParseTrackerID reads a tracker's id as TrackerID.String writes it.
func ParseTrackerID(s string) (TrackerID, bool) { n, ok := parseID(s, "t"); return TrackerID(n), ok }

// ParseTabID reads a tab's id as TabID.String writes it.
func ParseTabID(s string) (TabID, bool) { n, ok := parseID(s, "b"); return TabID(n), ok }

// ParseColumnID reads a column's id as ColumnID.String writes it.
func ParseColumnID(s string) (ColumnID, bool) { n, ok := parseID(s, "c"); return ColumnID(n), ok }

// ParseDefinitionID reads a part's id as DefinitionID.String writes it.
func ParseDefinitionID(s string) (DefinitionID, bool) {
	n, ok := parseID(s, "p")
	return DefinitionID(n), ok
}

func parseID(s, prefix string) (int64, bool) {
	digits, ok := strings.CutPrefix(s, prefix)
	if !ok || digits == "" || digits[0] == '+' || digits[0] == '-' {
		return 0, false
	}
	n, err := strconv.ParseInt(digits, 10, 64)
	return n, err == nil && n > 0
}

// NotFound says that a name is not there, with the nearest one that is.
type NotFound struct {
	What    string // "tracker", "tab", "column", "row"
	Name    string
	In      string // where it was looked for, may be empty
	Nearest string
}

func (e *NotFound) Error() string {
	s := fmt.Sprintf("there is no %s %q", e.What, e.Name)
	if e.In != "" {
		s += " in " + e.In
	}
	if e.Nearest != "" {
		s += ": did you mean " + e.Nearest + "?"
	}
	return s
}
