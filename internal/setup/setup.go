package setup

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/derive"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"go.yaml.in/yaml/v3"
)

// IDs gives ids that no tab, column or part of the workspace has had.
type IDs func() int64

func (f IDs) next() int64 { return f() }

type decoder struct {
	shape *sheet.Shape
	old   *sheet.Shape // nil for a new tracker
	ids   IDs
	bound *derive.Bound
	file  bool // reading a rule that files wake
}

// MaxSize is how many bytes a setup file may have.
const MaxSize = 4 << 20

// What a tracker may have at most. Parts of a setup file can stand for one another,
// so a small file can ask for much.
const (
	MaxTabs    = 200
	MaxColumns = 500 // of a tab
	MaxParts   = 1000
	maxCells   = 10_000 // columns of all tabs together
)

// Parse reads a setup file into a shape. What is there already in old keeps
// its ids by name. Everything is checked: a shape that Parse gives compiles.
func Parse(text []byte, old *sheet.Shape, ids IDs) (*sheet.Shape, error) {
	if len(text) > MaxSize {
		return nil, fmt.Errorf("the setup file is larger than %d MB", MaxSize>>20)
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, fmt.Errorf("reading the setup file: %w", err)
	}
	if len(doc.Content) == 0 {
		return nil, errors.New("the setup file is empty")
	}
	d := &decoder{shape: &sheet.Shape{}, old: old, ids: ids}
	m, err := at{node: doc.Content[0]}.mapping()
	if err != nil {
		return nil, err
	}
	if d.shape.Name, err = m.get("tracker").text(); err != nil {
		return nil, err
	}
	d.shape.Name = strings.TrimSpace(d.shape.Name)
	if d.shape.Dates, err = m.get("dates").text(); err != nil {
		return nil, err
	}
	if d.shape.Dates != "" && !slices.Contains(value.DateStyles, d.shape.Dates) {
		return nil, m.get("dates").fail("%q is not a way to write dates: write the last of March 2026 as one of %s", d.shape.Dates, strings.Join(value.DateStyles, ", "))
	}
	if d.shape.Zone, err = m.get("zone").text(); err != nil {
		return nil, err
	}
	if d.shape.Zone == "" {
		d.shape.Zone = "UTC"
	}
	if err := d.readWorking(m.get("working days")); err != nil {
		return nil, err
	}
	if err := d.readTabs(m.get("tabs")); err != nil {
		return nil, err
	}
	if err := d.bind(m.get("tabs")); err != nil {
		return nil, err
	}
	for _, section := range sections {
		if err := d.readParts(section, m.get(section.key)); err != nil {
			return nil, err
		}
	}
	if err := m.done(); err != nil {
		return nil, err
	}
	if err := d.shape.Check(); err != nil {
		return nil, err
	}
	return d.shape, nil
}

// bind finds the types of computed columns and stores their clauses by id.
func (d *decoder) bind(a at) error {
	if err := d.shape.Check(); err != nil {
		return a.wrap(err)
	}
	bound, err := Bind(d.shape)
	if err != nil {
		return a.wrap(err)
	}
	d.bound = bound
	return nil
}

// Bind compiles a shape's computed columns, finds their types and rewrites
// their clauses to the stored form, altering the shape.
func Bind(shape *sheet.Shape) (*derive.Bound, error) {
	bound, err := derive.Bind(shape)
	if err != nil {
		return nil, err
	}
	for i := range shape.Tabs {
		t := &shape.Tabs[i]
		for j := range t.Columns {
			c := &t.Columns[j]
			if !c.Computed() {
				continue
			}
			expr, err := clause.CheckValue(c.Clause, bound.Scope(t.ID, false))
			if err != nil {
				return nil, &derive.ColumnError{Tab: t.Name, Column: c.Name, Err: err}
			}
			c.Clause = expr.Print(clause.ByID)
			display := c.Type.Display
			c.Type = value.Type{Kind: expr.Type().Kind(), Display: display}
		}
	}
	return derive.Bind(shape)
}

// section is a kind of part as the setup file has it.
type section struct {
	key   string
	kind  sheet.PartKind
	named bool // a mapping of names rather than a list with name keys
	read  func(d *decoder, m *mapping) (any, error)
	write func(e *encoder, p *sheet.Part) (*yaml.Node, error)
}

var sections []section

func init() {
	sections = []section{ // each may name what stands above it
		{"lists", sheet.PartList, false, (*decoder).readList, (*encoder).list},
		{"reminders", sheet.PartReminder, false, (*decoder).readReminder, (*encoder).reminder},
		{"rules", sheet.PartRule, false, (*decoder).readRule, (*encoder).rule},
		{"syncs", sheet.PartSync, false, (*decoder).readSync, (*encoder).sync},
		{"rounds", sheet.PartRound, false, (*decoder).readRound, (*encoder).round},
	}
}

func (d *decoder) readParts(s section, a at) error {
	return a.each(func(v at) error {
		p, err := d.readPart(s, v)
		if err != nil {
			return err
		}
		if d.shape.Parts = append(d.shape.Parts, *p); len(d.shape.Parts) > MaxParts {
			return v.fail("a tracker has at most %d rules, lists, syncs, reminders and rounds together", MaxParts)
		}
		return nil
	})
}

func (d *decoder) readPart(s section, a at) (*sheet.Part, error) {
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	p := &sheet.Part{Kind: s.kind}
	if p.Name, err = m.get("name").text(); err != nil {
		return nil, err
	}
	if p.Name = strings.TrimSpace(p.Name); p.Name == "" {
		return nil, m.fail("a %s needs a name", s.kind)
	}
	m.path = s.key + " / " + p.Name
	body, err := s.read(d, m)
	if err != nil {
		return nil, err
	}
	if err := m.done(); err != nil {
		return nil, err
	}
	if p.Body, err = json.Marshal(body); err != nil {
		return nil, m.wrap(err)
	}
	if d.old != nil {
		if old, err := d.old.Part(s.kind, p.Name); err == nil {
			p.ID = old.ID
		}
	}
	if p.ID == 0 {
		p.ID = sheet.PartID(d.ids.next())
	}
	return p, m.wrap(checkPart(p, d.bound, d.shape))
}

// ParsePart reads one part, written as YAML or JSON, against a tracker's shape.
func ParsePart(kind sheet.PartKind, text []byte, shape *sheet.Shape, ids IDs) (*sheet.Part, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, fmt.Errorf("reading the %s: %w", kind, err)
	}
	if len(doc.Content) == 0 {
		return nil, fmt.Errorf("the %s is empty", kind)
	}
	bound, err := derive.Bind(shape)
	if err != nil {
		return nil, err
	}
	if bytes.HasPrefix(bytes.TrimSpace(text), []byte{'{'}) { // JSON of a program has no lines to speak of
		forgetLines(&doc)
	}
	d := &decoder{shape: shape, old: shape, ids: ids, bound: bound}
	for _, s := range sections {
		if s.kind == kind {
			return d.readPart(s, at{node: doc.Content[0]})
		}
	}
	return nil, fmt.Errorf("there is no kind of part %q", kind)
}

func forgetLines(n *yaml.Node) {
	n.Line = 0
	for _, c := range n.Content {
		forgetLines(c)
	}
}

type encoder struct {
	shape *sheet.Shape
	bound *derive.Bound
	file  bool // writing a rule that files wake
}

// Encode writes a shape as a setup file: reading it back gives the same shape.
func Encode(shape *sheet.Shape) ([]byte, error) {
	bound, err := derive.Bind(shape)
	if err != nil {
		return nil, err
	}
	e := &encoder{shape: shape, bound: bound}
	b := build().text("tracker", shape.Name).text("zone", shape.Zone).text("dates", shape.Dates)
	if w := e.working(); len(w.Content) > 0 {
		b.put("working days", w)
	}
	b.put("tabs", e.tabs())
	for _, s := range sections {
		parts := list()
		for i := range shape.Parts {
			if p := &shape.Parts[i]; p.Kind == s.kind {
				n, err := s.write(e, p)
				if err != nil {
					return nil, err
				}
				parts.Content = append(parts.Content, n)
			}
		}
		if len(parts.Content) > 0 {
			b.put(s.key, parts)
		}
	}
	var out bytes.Buffer
	enc := yaml.NewEncoder(&out)
	enc.SetIndent(2)
	if err := enc.Encode(b.n); err != nil {
		return nil, fmt.Errorf("writing the setup file: %w", err)
	}
	return out.Bytes(), nil
}

// EncodePart gives one part as the setup file writes it, as plain maps and lists.
func EncodePart(p *sheet.Part, shape *sheet.Shape) (map[string]any, error) {
	bound, err := derive.Bind(shape)
	if err != nil {
		return nil, err
	}
	e := &encoder{shape: shape, bound: bound}
	for _, s := range sections {
		if s.kind != p.Kind {
			continue
		}
		n, err := s.write(e, p)
		if err != nil {
			return nil, err
		}
		out := map[string]any{}
		if err := n.Decode(&out); err != nil {
			return nil, fmt.Errorf("writing %s %s: %w", p.Kind, p.Name, err)
		}
		return out, nil
	}
	return nil, fmt.Errorf("there is no kind of part %q", p.Kind)
}

func sortDays(days []int64) { slices.Sort(days) }

// clause gives a stored clause with names; one that no longer checks is given as stored.
func (e *encoder) clause(tab sheet.TabID, stored string) string {
	scope := e.bound.Scope(tab, true)
	return e.print(stored, scope, clause.CheckValue)
}

// across gives a stored clause of a part that works on several tabs.
func (e *encoder) across(tabs []sheet.TabID, stored string) string {
	return e.print(stored, e.scope(tabs), clause.CheckValue)
}

func (e *encoder) scope(tabs []sheet.TabID) *clause.Scope {
	if e.file {
		return e.bound.ScopeOfFile(rule.FileNames)
	}
	return e.bound.ScopeOfAll(tabs, true)
}

func (e *encoder) template(tabs []sheet.TabID, stored string) string {
	return e.print(stored, e.scope(tabs), clause.CheckTemplate)
}

func (e *encoder) print(stored string, scope *clause.Scope, check func(string, *clause.Scope) (*clause.Expr, error)) string {
	if stored == "" {
		return ""
	}
	expr, err := check(stored, scope)
	if err != nil {
		return stored
	}
	return expr.Print(clause.ByName)
}

func (e *encoder) tabNames(ids []sheet.TabID) *yaml.Node {
	names := make([]string, len(ids))
	for i, id := range ids {
		names[i] = id.String()
		if t := e.shape.TabByID(id); t != nil {
			names[i] = t.Name
		}
	}
	if len(names) == 1 {
		return scalar(names[0])
	}
	return scalars(names)
}

func (e *encoder) columnName(id sheet.ColumnID) string {
	if c := e.shape.ColumnByID(id); c != nil {
		return c.Name
	}
	return id.String()
}

// Name gives the tracker's name that a setup file gives.
func Name(text []byte) (string, error) {
	var head struct {
		Tracker string `yaml:"tracker"`
	}
	if err := yaml.Unmarshal(text, &head); err != nil {
		return "", fmt.Errorf("reading the setup file: %w", err)
	}
	if strings.TrimSpace(head.Tracker) == "" {
		return "", errors.New("the setup file does not say the tracker's name: tracker: NAME")
	}
	return strings.TrimSpace(head.Tracker), nil
}
