package setup

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/setup/schema"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"go.yaml.in/yaml/v3"
)

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
func (f *Format) Parse(text []byte, old *sheet.Shape, ids IDs) (*sheet.Shape, error) {
	if len(text) > MaxSize {
		return nil, fmt.Errorf("the setup file is larger than %d MB", MaxSize>>20)
	}
	doc, err := document(text)
	if err != nil {
		return nil, err
	}
	if len(doc.Content) == 0 {
		return nil, errors.New("the setup file is empty")
	}
	d := &Reader{Shape: &sheet.Shape{}, old: old, ids: ids, kinds: f.kinds}
	if old != nil {
		d.Shape.Place = old.Place // which is not the file's to say
	}
	m, err := At{node: doc.Content[0]}.Mapping()
	if err != nil {
		return nil, err
	}
	if d.Shape.Name, err = m.Get("tracker").Text(); err != nil {
		return nil, err
	}
	d.Shape.Name = strings.TrimSpace(d.Shape.Name)
	if d.Shape.Dates, err = m.Get("dates").Text(); err != nil {
		return nil, err
	}
	if d.Shape.Dates != "" && !slices.Contains(value.DateStyles, d.Shape.Dates) {
		return nil, m.Get("dates").Fail("%q is not a way to write dates: write the last of March 2026 as one of %s", d.Shape.Dates, strings.Join(value.DateStyles, ", "))
	}
	if d.Shape.Numbers, err = m.Get("numbers").Text(); err != nil {
		return nil, err
	}
	if d.Shape.Numbers != "" && !slices.Contains(value.NumberStyles, d.Shape.Numbers) {
		return nil, m.Get("numbers").Fail("%q is not a way to write numbers: write 1234.5 as one of %s", d.Shape.Numbers, strings.Join(value.NumberStyles, "; "))
	}
	if d.Shape.Zone, err = m.Get("zone").Text(); err != nil {
		return nil, err
	}
	if d.Shape.Zone == "" {
		d.Shape.Zone = "UTC"
	}
	if err := d.readWorking(m.Get("working days")); err != nil {
		return nil, err
	}
	if err := d.readTabs(m.Get("tabs")); err != nil {
		return nil, err
	}
	if err := d.bind(m.Get("tabs")); err != nil {
		return nil, err
	}
	if err := d.readAccess(m.Get("access")); err != nil {
		return nil, err
	}
	for i := range f.kinds {
		if err := d.readDefinitions(&f.kinds[i], m.Get(f.kinds[i].Plural)); err != nil {
			return nil, err
		}
	}
	if err := m.Done(); err != nil {
		return nil, err
	}
	if err := d.Shape.Check(); err != nil {
		return nil, err
	}
	return d.Shape, nil
}

// bind finds the types of computed columns and stores their clauses by id.
func (d *Reader) bind(a At) error {
	if err := d.Shape.Check(); err != nil {
		return a.Wrap(err)
	}
	bound, err := program.Store(d.Shape)
	if err != nil {
		return a.Wrap(err)
	}
	d.bound = bound
	return nil
}

// Definition is what the definitions of a kind say of themselves for setup files.
type Definition interface {
	program.Definition
	ReadSetup(d *Reader, m *Mapping) error // all but the name; the caller refuses keys nobody asked for
	WriteSetup(e *Writer, b Builder)       // the same
	SetupSchema() schema.Object            // JSON Schema of one
	Sentence(e *Writer) string             // what it does, as people would say it
}

// Format reads and writes setup files with definitions of some kinds.
type Format struct{ kinds program.Kinds }

// With gives the format of setup files with definitions of some kinds, in the order in
// which files have them.
func With(kinds program.Kinds) *Format { return &Format{kinds} }

// Kinds gives the kinds of definition.
func (f *Format) Kinds() program.Kinds { return f.kinds }

// definition gives what a part of a kind says of itself, in stored form.
func (f *Format) definition(p *sheet.Definition) (Definition, error) {
	d, err := f.kinds.Decode(p)
	if err != nil {
		return nil, err
	}
	return d.(Definition), nil
}

func (d *Reader) readDefinitions(kind *program.Kind, a At) error {
	return a.Each(func(v At) error {
		p, err := d.readDefinition(kind, v)
		if err != nil {
			return err
		}
		if d.Shape.Definitions = append(d.Shape.Definitions, *p); len(d.Shape.Definitions) > MaxParts {
			return v.Fail("a tracker has at most %d rules, lists, syncs, reminders and rounds together", MaxParts)
		}
		return nil
	})
}

func (d *Reader) readDefinition(kind *program.Kind, a At) (*sheet.Definition, error) {
	m, err := a.Mapping()
	if err != nil {
		return nil, err
	}
	p := &sheet.Definition{Kind: kind.Name}
	if p.Name, err = m.Get("name").Text(); err != nil {
		return nil, err
	}
	if p.Name = strings.TrimSpace(p.Name); p.Name == "" {
		return nil, m.Fail("a %s needs a name", kind.Name)
	}
	m.path = kind.Plural + " / " + p.Name
	before := d.before(p)
	if before != nil {
		p.ID = before.ID
	}
	if p.ID == 0 {
		p.ID = sheet.DefinitionID(d.ids.next())
	}
	d.own = ownTabs{of: p, before: before}
	body := kind.New().(Definition)
	if err := body.ReadSetup(d, m); err != nil {
		return nil, err
	}
	if err := m.Done(); err != nil {
		return nil, err
	}
	if p.Body, err = json.Marshal(body); err != nil {
		return nil, m.Wrap(err)
	}
	return p, m.Wrap(d.bound.CheckDefinition(p, d.kinds))
}

// ParseDefinition reads one definition, written as YAML or JSON, against a tracker's shape.
// It takes the place of replace, or of the one of its name.
func (f *Format) ParseDefinition(kind sheet.DefinitionKind, text []byte, shape *sheet.Shape, ids IDs, replace sheet.DefinitionID) (*sheet.Definition, error) {
	k := f.kinds.Of(kind)
	if k == nil {
		return nil, fmt.Errorf("there is no kind of definition %q", kind)
	}
	doc, err := document(text)
	if err != nil {
		return nil, err
	}
	if len(doc.Content) == 0 {
		return nil, fmt.Errorf("the %s is empty", kind)
	}
	bound, err := program.Bind(shape)
	if err != nil {
		return nil, err
	}
	if bytes.HasPrefix(bytes.TrimSpace(text), []byte{'{'}) { // JSON of a program has no lines to speak of
		forgetLines(doc)
	}
	d := &Reader{Shape: shape.Clone(), old: shape, ids: ids, kinds: f.kinds, bound: bound, replace: replace}
	return d.readDefinition(k, At{node: doc.Content[0]})
}

func forgetLines(n *yaml.Node) {
	n.Line = 0
	for _, c := range n.Content {
		forgetLines(c)
	}
}

// Encode writes a shape as a setup file: reading it back gives the same shape.
func (f *Format) Encode(shape *sheet.Shape) ([]byte, error) {
	bound, err := program.Bind(shape)
	if err != nil {
		return nil, err
	}
	e := &Writer{Shape: shape, bound: bound}
	b := Build().Text("tracker", shape.Name).Text("zone", shape.Zone).Text("dates", shape.Dates).Text("numbers", shape.Numbers)
	if w := e.working(); len(w.Content) > 0 {
		b.Put("working days", w)
	}
	b.Put("tabs", e.tabs()).Put("access", e.access())
	for i := range f.kinds {
		parts := Sequence()
		for j := range shape.Definitions {
			if p := &shape.Definitions[j]; p.Kind == f.kinds[i].Name {
				n, err := f.node(e, p)
				if err != nil {
					return nil, err
				}
				parts.Content = append(parts.Content, n)
			}
		}
		if len(parts.Content) > 0 {
			b.Put(f.kinds[i].Plural, parts)
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

// EncodeDefinition gives one part as the setup file writes it, as JSON, in its order.
func (f *Format) EncodeDefinition(p *sheet.Definition, shape *sheet.Shape) (json.RawMessage, error) {
	bound, err := program.Bind(shape)
	if err != nil {
		return nil, err
	}
	e := &Writer{Shape: shape, bound: bound}
	n, err := f.node(e, p)
	if err != nil {
		return nil, err
	}
	out, err := JSON(n)
	if err != nil {
		return nil, fmt.Errorf("writing %s %s: %w", p.Kind, p.Name, err)
	}
	return out, nil
}

func (f *Format) node(e *Writer, p *sheet.Definition) (*yaml.Node, error) {
	d, err := f.definition(p)
	if err != nil {
		return nil, err
	}
	b := Build().Text("name", p.Name)
	d.WriteSetup(e, b)
	return b.Node(), nil
}

// Sentence says what a definition does, as people would say it.
func (f *Format) Sentence(p *sheet.Definition, shape *sheet.Shape) (string, error) {
	bound, err := program.Bind(shape)
	if err != nil {
		return "", err
	}
	d, err := f.definition(p)
	if err != nil {
		return "", err
	}
	return d.Sentence(&Writer{Shape: shape, bound: bound}), nil
}

// Check says what of a shape would fail later, or nil.
func (f *Format) Check(shape *sheet.Shape) error { return program.Check(shape, f.kinds) }

// Needers names what is right in one shape and no longer is in another.
func (f *Format) Needers(before, after *sheet.Shape) []string {
	return program.Needers(before, after, f.kinds)
}

func sortDays(days []int64) { slices.Sort(days) }

// Name gives the tracker's name that a setup file gives.
func Name(text []byte) (string, error) {
	var head struct {
		Tracker string `yaml:"tracker"`
	}
	if err := yaml.Unmarshal(text, &head); err != nil {
		return "", syntax(string(text), err)
	}
	if strings.TrimSpace(head.Tracker) == "" {
		return "", errors.New("the setup file does not say the tracker's name: tracker: NAME")
	}
	return strings.TrimSpace(head.Tracker), nil
}
