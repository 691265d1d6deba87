package sheet

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"
	_ "time/tzdata" // zones where the machine has none

	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/value"
)

// Shape is all that a tracker is besides its rows. A Shape in use is never
// altered: a change of shape replaces it whole.
type Shape struct {
	Name        string            `json:"name"`
	Place       int               `json:"place,omitempty"`   // among the trackers: one of a less comes before; 0: after all that have one
	Zone        string            `json:"zone"`              // IANA name, such as Europe/Lisbon
	Dates       string            `json:"dates,omitempty"`   // how mails write 31 March 2026: one of value.DateStyles; "": ISO
	Numbers     string            `json:"numbers,omitempty"` // how mails write 1234.5: one of value.NumberStyles; "": the first
	Working     recur.WorkingDays `json:"working"`
	Tabs        []TabShape        `json:"tabs"`
	Definitions []Definition      `json:"parts,omitempty"`
	Access      *Access           `json:"access,omitempty"` // never altered: a change replaces it whole; nil: nobody is barred
}

// TabShape is a tab without its rows.
type TabShape struct {
	ID      TabID    `json:"id"`
	Name    string   `json:"name"`
	Label   ColumnID `json:"label,omitempty"` // the column that names a row; 0: the first text column
	Columns []Column `json:"columns"`
	// Of is the definition that keeps rows of its own in the tab, which no list shows; 0: a
	// tab of the tracker's people.
	Of DefinitionID `json:"of,omitempty"`
	// About are the tabs whose rows such a tab tells of: whoever may not see one of these
	// sees nothing of it.
	About []TabID `json:"about,omitempty"`
}

// Column is one column of a tab.
type Column struct {
	ID       ColumnID   `json:"id"`
	Name     string     `json:"name"`
	Type     value.Type `json:"type"`
	Clause   string     `json:"clause,omitempty"` // of a computed column, stored form; such a column is read only
	Required bool       `json:"required,omitempty"`
	Unique   bool       `json:"unique,omitempty"`
	Default  string     `json:"default,omitempty"` // canonical text
	Min      string     `json:"min,omitempty"`     // canonical text
	Max      string     `json:"max,omitempty"`     // canonical text
	Longest  int        `json:"longest,omitempty"` // most characters of a text
	AutoNo   bool       `json:"auto,omitempty"`    // the next whole number is given to new rows
	BadInput BadInput   `json:"bad,omitempty"`
	From     ColumnID   `json:"from,omitempty"` // of one that keeps what rows held in another: that one, which hides it too
}

// Computed reports whether the column's values come from its clause.
func (c Column) Computed() bool { return c.Clause != "" }

// BadInput says what happens to input that does not fit a column.
type BadInput uint8

// Refuse rejects the edit; Mark keeps the text as an odd cell.
const (
	Mark BadInput = iota
	Refuse
)

// DefinitionKind tells a tracker's parts apart.
type DefinitionKind string

// The kinds of part.
const (
	KindRule     DefinitionKind = "rule"
	KindList     DefinitionKind = "list"
	KindSync     DefinitionKind = "sync"
	KindReminder DefinitionKind = "reminder"
	KindRound    DefinitionKind = "round"
	KindDossier  DefinitionKind = "dossier"
	KindTally    DefinitionKind = "tally"
	KindForm     DefinitionKind = "form"
	KindView     DefinitionKind = "view"
)

// Definition is a rule, list, sync, reminder, round or dossier. Its body is kept in the
// stored form of the setup file, with clauses that hold ids; this package
// carries it and does not look inside.
type Definition struct {
	ID   DefinitionID    `json:"id"`
	Kind DefinitionKind  `json:"kind"`
	Name string          `json:"name"`
	Body json.RawMessage `json:"body"`
	Tabs []TabShape      `json:"tabs,omitempty"` // in which it keeps rows of its own; see Shape.Settle
}

// Location gives the tracker's time zone; a shape that passed Check has one.
func (s *Shape) Location() *time.Location {
	loc, err := zone(s.Zone)
	if err != nil {
		return time.UTC
	}
	return loc
}

// Style gives how the tracker's people write dates and numbers.
func (s *Shape) Style() value.Style { return value.Style{Dates: s.Dates, Numbers: s.Numbers} }

var zones sync.Map // by name: the time zones in use, which never change

// zone gives a time zone by its name, read once. Zones are part of the program:
// not every machine has files of them.
func zone(name string) (*time.Location, error) {
	if known, is := zones.Load(name); is {
		return known.(*time.Location), nil
	}
	loc, err := time.LoadLocation(name)
	if err == nil {
		zones.Store(name, loc)
	}
	return loc, err
}

// Tab finds a tab by name (without letter case) or id.
func (s *Shape) Tab(name string) (*TabShape, error) {
	id, isID := ParseTabID(strings.TrimSpace(name))
	names := make([]string, len(s.Tabs))
	for i := range s.Tabs {
		t := &s.Tabs[i]
		if value.EqualText(t.Name, name) {
			return t, nil
		}
		names[i] = t.Name
	}
	if isID {
		if t := s.TabByID(id); t != nil {
			return t, nil
		}
	}
	return nil, &NotFound{What: "tab", Name: name, In: s.Name, Nearest: value.Nearest(name, names)}
}

// TabByID gives the tab, or nil.
func (s *Shape) TabByID(id TabID) *TabShape {
	for i := range s.Tabs {
		if s.Tabs[i].ID == id {
			return &s.Tabs[i]
		}
	}
	return nil
}

// Definition finds a definition of a kind by name (without letter case) or id.
func (s *Shape) Definition(kind DefinitionKind, name string) (*Definition, error) {
	id, isID := ParseDefinitionID(strings.TrimSpace(name))
	var names []string
	for i := range s.Definitions {
		p := &s.Definitions[i]
		if p.Kind != kind {
			continue
		}
		if value.EqualText(p.Name, name) || isID && p.ID == id {
			return p, nil
		}
		names = append(names, p.Name)
	}
	return nil, &NotFound{What: string(kind), Name: name, In: s.Name, Nearest: value.Nearest(name, names)}
}

// DefinitionByID gives the part, or nil.
func (s *Shape) DefinitionByID(id DefinitionID) *Definition {
	for i := range s.Definitions {
		if s.Definitions[i].ID == id {
			return &s.Definitions[i]
		}
	}
	return nil
}

// ColumnByID gives the column as the first tab that has it defines it, or nil.
func (s *Shape) ColumnByID(id ColumnID) *Column {
	for i := range s.Tabs {
		if c := s.Tabs[i].ByID(id); c != nil {
			return c
		}
	}
	return nil
}

// Column finds a column by name (without letter case and outer spaces) or id.
func (t *TabShape) Column(name string) (*Column, error) {
	id, isID := ParseColumnID(strings.TrimSpace(name))
	names := make([]string, len(t.Columns))
	for i := range t.Columns {
		if value.EqualText(t.Columns[i].Name, name) {
			return &t.Columns[i], nil
		}
		names[i] = t.Columns[i].Name
	}
	if isID {
		if c := t.ByID(id); c != nil {
			return c, nil
		}
	}
	return nil, &NotFound{What: "column", Name: name, In: t.Name, Nearest: value.Nearest(name, names)}
}

// ByID gives the column, or nil.
func (t *TabShape) ByID(id ColumnID) *Column {
	if i := t.Slot(id); i >= 0 {
		return &t.Columns[i]
	}
	return nil
}

// Slot gives the place of a column in the tab's rows, or -1.
func (t *TabShape) Slot(id ColumnID) int {
	for i := range t.Columns {
		if t.Columns[i].ID == id {
			return i
		}
	}
	return -1
}

// LabelColumn gives the column whose value names a row: the one set, or the
// first text column, or the first column; nil in a tab without columns.
func (t *TabShape) LabelColumn() *Column {
	if c := t.ByID(t.Label); c != nil {
		return c
	}
	for i := range t.Columns {
		if t.Columns[i].Type.Kind == value.Text && !t.Columns[i].Computed() {
			return &t.Columns[i]
		}
	}
	if len(t.Columns) > 0 {
		return &t.Columns[0]
	}
	return nil
}

// Clone gives a copy that can be altered freely.
func (s *Shape) Clone() *Shape {
	c := *s
	c.Tabs = slices.Clone(s.Tabs)
	for i := range c.Tabs {
		c.Tabs[i].Columns = slices.Clone(c.Tabs[i].Columns)
	}
	c.Definitions = slices.Clone(s.Definitions)
	c.Working.Closed = slices.Clone(s.Working.Closed)
	return &c
}

// MaxColumns is how many columns a tab may have.
const MaxColumns = 1000

// Check says what is wrong with a shape: a zone that is not there, names blank
// or doubled, a column that differs in type between the tabs that share it.
func (s *Shape) Check() error {
	if strings.TrimSpace(s.Name) == "" {
		return fmt.Errorf("a tracker needs a name")
	}
	if _, err := zone(s.Zone); err != nil || s.Zone == "" {
		return fmt.Errorf("there is no time zone %q: write one like Europe/Lisbon", s.Zone)
	}
	kinds := map[ColumnID]value.Type{}
	tabs := map[string]bool{}
	for i := range s.Tabs {
		t := &s.Tabs[i]
		if key := value.Fold(t.Name); key == "" || tabs[key] {
			return fmt.Errorf("tab name %q is blank or used twice", t.Name)
		} else {
			tabs[key] = true
		}
		if len(t.Columns) > MaxColumns {
			return fmt.Errorf("tab %s has %d columns: %d is the most", t.Name, len(t.Columns), MaxColumns)
		}
		names := map[string]bool{}
		for _, c := range t.Columns {
			if key := value.Fold(c.Name); key == "" || names[key] {
				return fmt.Errorf("in tab %s, column name %q is blank or used twice", t.Name, c.Name)
			} else {
				names[key] = true
			}
			if strings.ContainsAny(c.Name, "[]\n") {
				return fmt.Errorf("in tab %s, column name %q holds a bracket or a line break", t.Name, c.Name)
			}
			if k, ok := kinds[c.ID]; ok && !c.Computed() && (k.Kind != c.Type.Kind || k.Several != c.Type.Several) {
				return fmt.Errorf("column %s is %s in one tab and %s in %s", c.Name, k.Kind, c.Type.Kind, t.Name)
			}
			kinds[c.ID] = c.Type
		}
	}
	parts := map[string]bool{}
	for _, p := range s.Definitions {
		key := string(p.Kind) + "\x00" + value.Fold(p.Name)
		if value.Fold(p.Name) == "" || parts[key] {
			return fmt.Errorf("%s name %q is blank or used twice", p.Kind, p.Name)
		}
		parts[key] = true
	}
	return nil
}
