package reconcile

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

// DefaultGuard is the share of either side that a sync may change or remove
// where it does not say.
const DefaultGuard = 0.5

// Sync pairs a list with a tab, in stored form.
type Sync struct {
	ID        sheet.DefinitionID `json:"-"`
	Name      string             `json:"-"`
	List      sheet.DefinitionID `json:"list"`
	Tab       sheet.TabID        `json:"tab"`
	Key       sheet.ColumnID     `json:"key"`
	From      string             `json:"from"` // JSON Pointer to the key in a record
	Fields    []Field            `json:"fields"`
	Direction Direction          `json:"direction,omitempty"`
	Conflict  Winner             `json:"conflict,omitempty"`
	Gone      Gone               `json:"gone,omitempty"`
	Marks     []MarkText         `json:"marks,omitempty"` // what marks a row as gone; none: a note on its key
	MoveTo    sheet.TabID        `json:"move_to,omitempty"`
	Guard     string             `json:"guard,omitempty"` // "25%"
	Clock     string             `json:"clock,omitempty"`
	Skip      bool               `json:"skip,omitempty"` // let occurrences go that passed while the service was down
	Remark    string             `json:"remark,omitempty"`
}

// Field pairs a column with a place in a record.
type Field struct {
	Column sheet.ColumnID `json:"column"`
	From   string         `json:"from"`
}

// MarkText is a value put into a column of rows that are gone from the list.
type MarkText struct {
	Column sheet.ColumnID `json:"column"`
	Value  string         `json:"value"`
}

// Policy gives how the sync keeps both sides in step, with what it does not say
// filled in: the truth wins where there is one, and a person is asked where not.
func (s *Sync) Policy() Policy {
	p := Policy{Direction: s.Direction, Conflict: s.Conflict, Gone: s.Gone}
	if p.Direction == "" {
		p.Direction = In
	}
	if p.Conflict == "" {
		p.Conflict = map[Direction]Winner{In: ByList, Out: ByTab, Both: Hold}[p.Direction]
	}
	if p.Gone == "" {
		p.Gone = Keep
	}
	return p
}

// Share gives the guard's share.
func (s *Sync) Share() float64 {
	n, err := strconv.ParseFloat(strings.TrimSuffix(s.Guard, "%"), 64)
	if err != nil {
		return DefaultGuard
	}
	return n / 100
}

// ReadSetup reads a sync from a setup file.
func (s *Sync) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	name, err := m.Get("list").Text()
	if err != nil {
		return err
	}
	part, err := d.Shape.Definition(sheet.KindList, name)
	if err != nil {
		return m.Get("list").Wrap(err)
	}
	s.List = part.ID
	l := &List{}
	if err := json.Unmarshal(part.Body, l); err != nil {
		return m.Get("list").Wrap(err)
	}
	tabs, err := d.TabIDs(m.Get("tab"))
	if err != nil {
		return err
	}
	if len(tabs) != 1 {
		return m.Fail("say which tab: tab: NAME")
	}
	s.Tab = tabs[0]
	if err := readPairs(d, m, s, l); err != nil {
		return err
	}
	if err := setup.ReadTexts(m, map[string]*string{"clock": &s.Clock, "remark": &s.Remark, "guard": &s.Guard}); err != nil {
		return err
	}
	if s.Skip, err = setup.ReadMissed(m.Get("missed")); err != nil {
		return err
	}
	if s.Direction, err = setup.OneOf(m.Get("direction"), In, Out, Both); err != nil {
		return err
	}
	if s.Direction == "" {
		s.Direction = In
	}
	if s.Conflict, err = setup.OneOf(m.Get("conflict"), ByList, ByTab, Newest, Hold); err != nil {
		return err
	}
	if err := readGone(d, m.Get("gone"), s); err != nil {
		return err
	}
	if g := m.Get("guard"); s.Guard != "" {
		if n, err := strconv.ParseFloat(strings.TrimSuffix(s.Guard, "%"), 64); err != nil || n < 0 || n > 100 || !strings.HasSuffix(s.Guard, "%") {
			return g.Fail("%q is not a share: write it such as 25%%", s.Guard)
		}
	}
	if s.Direction == Out || s.Direction == Both {
		if why := l.writable(); why != "" {
			return m.Get("direction").Fail("%s", why)
		}
		if s.Gone == Remove && l.HTTP != "" && l.Send.Remove == "" {
			return m.Get("gone").Fail("the list does not say how records are removed: give it send: { remove: DELETE ADDRESS/{id} }")
		}
	}
	return nil
}

// readPairs reads the key and the fields.
func readPairs(d *setup.Reader, m *setup.Mapping, s *Sync, l *List) error {
	tabs, keys := []sheet.TabID{s.Tab}, 0
	field := func(v setup.At) (string, error) {
		from, err := v.Text()
		if err == nil && l.Tasks != "" && !slices.Contains(TaskFields, from) {
			err = v.Fail("a task has no field %q: %s", from, nearestField(from))
		}
		return from, err
	}
	err := m.Get("key").Pairs(func(column string, v setup.At) error {
		keys++
		var err error
		if s.Key, err = d.Column(v, column, tabs); err != nil {
			return err
		}
		s.From, err = field(v)
		return err
	})
	if err != nil {
		return err
	}
	if keys != 1 {
		return m.Get("key").Fail("the key is one column and its field: key: { Lender no: id }")
	}
	return m.Get("fields").Pairs(func(column string, v setup.At) error {
		id, err := d.Column(v, column, tabs)
		if err != nil {
			return err
		}
		from, err := field(v)
		s.Fields = append(s.Fields, Field{id, from})
		return err
	})
}

func readGone(d *setup.Reader, a setup.At, s *Sync) error {
	if !a.Present() || a.IsScalar() {
		var err error
		if s.Gone, err = setup.OneOf(a, Keep, Mark, Remove); err != nil && a.Raw() == string(Move) {
			return a.Fail("say where to: gone: { move: TAB }")
		}
		return err
	}
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	if to := m.Get("move"); to.Present() {
		tabs, err := d.TabIDs(to)
		if err != nil {
			return err
		}
		if len(tabs) != 1 || tabs[0] == s.Tab {
			return to.Fail("say one other tab")
		}
		s.Gone, s.MoveTo = Move, tabs[0]
	}
	err = m.Get("mark").Pairs(func(column string, v setup.At) error {
		id, err := d.Column(v, column, []sheet.TabID{s.Tab})
		if err != nil {
			return err
		}
		text, err := v.Text()
		s.Gone, s.Marks = Mark, append(s.Marks, MarkText{id, text})
		return err
	})
	if err == nil && (s.Gone == "" || s.MoveTo != 0 && s.Marks != nil) {
		return a.Fail("write keep, mark, remove, { mark: { COLUMN: VALUE } } or { move: TAB }")
	}
	if err != nil {
		return err
	}
	return m.Done()
}

// Schedule gives when the sync runs by itself; nil if the clock does not wake it.
func (s *Sync) Schedule() (*recur.Schedule, error) {
	return recur.Scheduled(s.Clock, s.Skip, recur.Open)
}

// Identify gives the sync its id and name.
func (s *Sync) Identify(id sheet.DefinitionID, name string) { s.ID, s.Name = id, name }

// Compile holds the sync's columns against the shape.
func (s *Sync) Compile(p *program.Program) (any, error) { return s, s.check(p.Shape) }

// check holds the sync's columns against the shape.
func (s *Sync) check(shape *sheet.Shape) error {
	tab := shape.TabByID(s.Tab)
	if tab == nil {
		return fmt.Errorf("the tab %s is not there any more", s.Tab)
	}
	if shape.DefinitionByID(s.List) == nil {
		return fmt.Errorf("the list of the sync is not there any more")
	}
	seen := map[sheet.ColumnID]bool{}
	for _, f := range append([]Field{{Column: s.Key}}, s.Fields...) {
		c := tab.ByID(f.Column)
		if c == nil || c.Computed() {
			return fmt.Errorf("column %s of %s cannot be kept in step with a list: it is not stored there", f.Column, tab.Name)
		}
		if seen[f.Column] {
			return fmt.Errorf("column %s stands in the sync twice", c.Name)
		}
		seen[f.Column] = true
	}
	for _, m := range s.Marks {
		c := tab.ByID(m.Column)
		if c == nil || c.Computed() || seen[m.Column] {
			return fmt.Errorf("column %s of %s cannot mark what is gone: it is not stored there, or the list fills it", m.Column, tab.Name)
		}
		if _, _, err := shape.Form(sheet.Writing{}).Read(m.Value, c.Type); err != nil {
			return fmt.Errorf("column %s: %w", c.Name, err)
		}
	}
	if s.MoveTo != 0 && shape.TabByID(s.MoveTo) == nil {
		return fmt.Errorf("the tab to which rows move that are gone is not there")
	}
	return nil
}

// WriteSetup writes a sync as a setup file has it.
func (s *Sync) WriteSetup(e *setup.Writer, b setup.Builder) {
	b.Text("remark", s.Remark)
	for i := range e.Shape.Definitions {
		if e.Shape.Definitions[i].ID == s.List {
			b.Text("list", e.Shape.Definitions[i].Name)
		}
	}
	b.Put("tab", e.TabNames([]sheet.TabID{s.Tab}))
	b.Put("key", setup.Flow(setup.Build().Text(e.ColumnName(s.Key), s.From).Node()))
	fields := setup.Build()
	for _, f := range s.Fields {
		fields.Text(e.ColumnName(f.Column), f.From)
	}
	b.Put("fields", setup.Flow(fields.Node())).Text("direction", string(s.Policy().Direction)).Text("conflict", string(s.Conflict))
	switch {
	case s.MoveTo != 0:
		b.Put("gone", setup.Flow(setup.Build().Put("move", e.TabNames([]sheet.TabID{s.MoveTo})).Node()))
	case len(s.Marks) > 0:
		marks := setup.Build()
		for _, m := range s.Marks {
			marks.Text(e.ColumnName(m.Column), m.Value)
		}
		b.Put("gone", setup.Flow(setup.Build().Put("mark", setup.Flow(marks.Node())).Node()))
	default:
		b.Text("gone", string(s.Gone))
	}
	b.Text("guard", s.Guard).Text("clock", s.Clock).Text("missed", setup.MissedWord(s.Skip))
}

// Sentence says what a sync does, as people would say it.
func (s *Sync) Sentence(e *setup.Writer) string {
	policy := s.Policy()
	list, tab := e.DefinitionNames([]sheet.DefinitionID{s.List}), e.TabWords([]sheet.TabID{s.Tab})
	when := "When run manually"
	if s.Clock != "" {
		when = setup.Capital(s.Clock)
	}
	way := map[Direction]string{In: "from the list to the tab", Out: "from the tab to the list", Both: "in both directions"}[policy.Direction]
	says := fmt.Sprintf("%s, syncs %s with the list %s %s, matched by %s.", when, tab, list, way, e.ColumnName(s.Key))
	if policy.Direction == Both {
		says += map[Winner]string{ByList: " Where both changed, the list wins.", ByTab: " Where both changed, the tab wins.",
			Newest: " Where both changed, the newer value wins.", Hold: " Conflicts wait for a person."}[policy.Conflict]
	}
	switch policy.Gone {
	case Mark:
		says += " Rows missing from the list are marked."
	case Move:
		says += " Rows missing from the list move to " + e.TabWords([]sheet.TabID{s.MoveTo}) + "."
	case Remove:
		says += " Rows missing from the list are deleted."
	case Keep:
	}
	return says
}
