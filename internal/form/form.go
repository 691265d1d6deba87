// Package form is entry forms: which columns of a tab somebody fills in who may not change
// the tab otherwise, with what is asked of them. Part of the core: no I/O and no clock.
package form

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/setup/schema"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Form is an entry form, in stored form.
type Form struct {
	ID     sheet.DefinitionID `json:"-"`
	Name   string             `json:"-"`
	Remark string             `json:"remark,omitempty"`
	Tab    sheet.TabID        `json:"tab"`
	Says   string             `json:"says,omitempty"` // above the fields
	Fields []Field            `json:"fields"`
	// Set are values that every entry gets besides, templates without a row.
	Set    []setup.Cell `json:"set,omitempty"`
	Thanks string       `json:"thanks,omitempty"` // after an entry
	Hourly int          `json:"hourly,omitempty"` // entries an hour at most; 0: MostHourly
	// By are people who may fill it in though they may not see its tab.
	By sheet.Who `json:"by,omitempty"`
}

// Field is a column that is filled in.
type Field struct {
	Column   sheet.ColumnID `json:"column"`
	Help     string         `json:"help,omitempty"`
	Required bool           `json:"required,omitempty"`
}

// MostHourly is how many entries a form takes an hour unless told otherwise.
const MostHourly = 60

// Error says which part of a form is wrong.
type Error struct {
	Name, Part string
	Err        error
}

func (e *Error) Error() string { return fmt.Sprintf("form %s, %s: %v", e.Name, e.Part, e.Err) }

func (e *Error) Unwrap() error { return e.Err }

// Identify gives the form its id and name.
func (f *Form) Identify(id sheet.DefinitionID, name string) { f.ID, f.Name = id, name }

// Compiled is a form ready to take entries.
type Compiled struct {
	*Form
	program *program.Program
	set     []clause.ValueFunc
}

// Compile makes the form ready: a *Compiled.
func (f *Form) Compile(p *program.Program) (any, error) {
	c := &Compiled{Form: f, program: p}
	tab := p.Shape.TabByID(f.Tab)
	if tab == nil {
		return nil, &Error{f.Name, "tab", errors.New("it is not there any more")}
	}
	if len(f.Fields) == 0 {
		return nil, &Error{f.Name, "fields", errors.New("say which columns are filled in")}
	}
	for _, x := range f.Fields {
		col := tab.ByID(x.Column)
		if col == nil {
			return nil, &Error{f.Name, "fields", fmt.Errorf("the column %s of %s is not there any more", x.Column, tab.Name)}
		}
		if col.Computed() {
			return nil, &Error{f.Name, "fields", fmt.Errorf("%s is computed and cannot be filled in", col.Name)}
		}
	}
	scope := p.Scope(0, false)
	for _, s := range f.Set {
		if col := tab.ByID(s.Column); col == nil || col.Computed() {
			return nil, &Error{f.Name, "set", fmt.Errorf("the column %s of %s cannot be set", s.Column, tab.Name)}
		}
		expr, err := clause.CheckTemplate(s.To, scope)
		if err != nil {
			return nil, &Error{f.Name, "set", err}
		}
		c.set = append(c.set, expr.Value())
	}
	return c, nil
}

// Grant gives what whoever fills the form in may do: add rows to its tab with its columns.
func (c *Compiled) Grant(tracker sheet.TrackerID) *policy.Grant {
	g := &policy.Grant{Tracker: tracker, Tab: c.Tab, Columns: map[sheet.ColumnID]bool{}}
	for _, f := range c.Fields {
		g.Columns[f.Column] = true
	}
	for _, s := range c.Set {
		g.Columns[s.Column] = true
	}
	return g
}

// Entry reads what somebody filled in, by column name or id. What does not fit is refused,
// and so is what the form does not ask for.
func (c *Compiled) Entry(d *sheet.Draft, t *sheet.Tracker, env *clause.Env, given map[string]any) (map[sheet.ColumnID]any, error) {
	out, err := c.read(d, t, given)
	if err != nil {
		return nil, &Invalid{err}
	}
	for i, s := range c.Set {
		out[s.Column] = c.set[i](env)
	}
	return out, nil
}

// Field gives the column of a field, by name or id.
func (c *Compiled) Field(t *sheet.Tracker, name string) (*sheet.Column, error) {
	if t != nil && t.TabByID(c.Tab) != nil {
		tab := t.TabByID(c.Tab)
		col, err := tab.Column(name)
		if err == nil && slices.ContainsFunc(c.Fields, func(f Field) bool { return f.Column == col.ID }) {
			return col, nil
		}
		return nil, &sheet.NotFound{What: "field", Name: name, In: c.Name, Nearest: value.Nearest(name, c.names(tab))}
	}
	return nil, &sheet.NotFound{What: "field", Name: name, In: c.Name}
}

// Invalid says what is wrong with an entry; it tells of nothing but the form's own fields.
type Invalid struct{ Err error }

func (e *Invalid) Error() string { return e.Err.Error() }

func (e *Invalid) Unwrap() error { return e.Err }

func (c *Compiled) read(d *sheet.Draft, t *sheet.Tracker, given map[string]any) (map[sheet.ColumnID]any, error) {
	tab := t.TabByID(c.Tab)
	out := map[sheet.ColumnID]any{}
	for name, raw := range given {
		col, err := c.Field(t, name)
		if err != nil {
			return nil, err
		}
		strict := *col
		strict.BadInput = sheet.Refuse
		v, err := d.Read(t, &strict, raw)
		if err != nil {
			return nil, err
		}
		if !v.IsBlank() {
			out[col.ID] = v
		}
	}
	for _, f := range c.Fields {
		if _, filled := out[f.Column]; !filled && f.Required {
			return nil, &sheet.Refusal{Tab: tab.Name, Column: tab.ByID(f.Column).Name, Reason: "must be filled in"}
		}
	}
	if len(out) == 0 {
		return nil, errors.New("nothing is filled in")
	}
	return out, nil
}

func (c *Compiled) names(tab *sheet.TabShape) []string {
	var out []string
	for _, f := range c.Fields {
		out = append(out, tab.ByID(f.Column).Name)
	}
	return out
}

// ReadSetup reads a form from a setup file.
func (f *Form) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	var err error
	if f.Tab, err = d.OneTab(m); err != nil {
		return err
	}
	if err := setup.ReadTexts(m, map[string]*string{"remark": &f.Remark, "says": &f.Says, "thanks": &f.Thanks}); err != nil {
		return err
	}
	tabs := []sheet.TabID{f.Tab}
	err = m.Get("fields").Each(func(a setup.At) error {
		if a.IsMapping() {
			return a.Pairs(func(name string, v setup.At) error { return f.readField(d, name, v) })
		}
		name, err := a.Text()
		if err != nil {
			return err
		}
		id, err := d.Column(a, name, tabs)
		f.Fields = append(f.Fields, Field{Column: id})
		return err
	})
	if err != nil {
		return err
	}
	if len(f.Fields) == 0 {
		return m.Fail("say which columns are filled in: fields: [COLUMN]")
	}
	err = m.Get("set").Pairs(func(name string, v setup.At) error {
		id, err := d.Column(v, name, tabs)
		if err != nil {
			return err
		}
		to, err := d.Stored(v, &clause.Scope{Name: "a form's value"}, clause.CheckTemplate)
		f.Set = append(f.Set, setup.Cell{Column: id, To: to})
		return err
	})
	if err != nil {
		return err
	}
	if f.By, err = setup.ReadWho(m.Get("filled in by")); err != nil {
		return err
	}
	if f.Hourly, err = m.Get("hourly").Int(); err != nil {
		return err
	}
	if f.Hourly < 0 {
		return m.Get("hourly").Fail("a form takes at least one entry an hour")
	}
	return nil
}

func (f *Form) readField(d *setup.Reader, name string, a setup.At) error {
	id, err := d.Column(a, name, []sheet.TabID{f.Tab})
	if err != nil {
		return err
	}
	x := Field{Column: id}
	if a.IsScalar() {
		x.Help, err = a.Text()
		f.Fields = append(f.Fields, x)
		return err
	}
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	if x.Help, err = m.Get("help").Text(); err != nil {
		return err
	}
	if x.Required, err = m.Get("required").Yes(); err != nil {
		return err
	}
	f.Fields = append(f.Fields, x)
	return m.Done()
}

// WriteSetup writes a form as a setup file has it.
func (f *Form) WriteSetup(e *setup.Writer, b setup.Builder) {
	b.Text("remark", f.Remark).Put("tab", e.TabNames([]sheet.TabID{f.Tab})).Text("says", f.Says)
	fields := setup.Sequence()
	for _, x := range f.Fields {
		name := e.ColumnName(x.Column)
		switch {
		case x.Required:
			fields.Content = append(fields.Content, setup.Flow(setup.Build().Put(name, setup.Flow(setup.Build().Text("help", x.Help).Yes("required", true).Node())).Node()))
		case x.Help != "":
			fields.Content = append(fields.Content, setup.Flow(setup.Build().Text(name, x.Help).Node()))
		default:
			fields.Content = append(fields.Content, setup.Scalar(name))
		}
	}
	b.Put("fields", fields)
	if len(f.Set) > 0 {
		set := setup.Build()
		for _, s := range f.Set {
			set.Text(e.ColumnName(s.Column), e.Print(s.To, &clause.Scope{Name: "a form's value"}, clause.CheckTemplate))
		}
		b.Put("set", setup.Flow(set.Node()))
	}
	if f.By != nil {
		b.Put("filled in by", setup.Scalars(f.By))
	}
	b.Text("thanks", f.Thanks)
	if f.Hourly > 0 {
		b.Put("hourly", setup.Word(fmt.Sprint(f.Hourly)))
	}
}

// Sentence says what a form does, as people would say it.
func (f *Form) Sentence(e *setup.Writer) string {
	var names []string
	for _, x := range f.Fields {
		names = append(names, e.ColumnName(x.Column))
	}
	return fmt.Sprintf("Adds rows to %s, from %s.", e.TabWords([]sheet.TabID{f.Tab}), strings.Join(names, ", "))
}

// SetupSchema gives the JSON Schema of a form in a setup file.
func (*Form) SetupSchema() schema.Object {
	field := schema.Object{"anyOf": []any{schema.Text("a column"), schema.MapOf(schema.Object{"anyOf": []any{schema.Text("a help text"), schema.Closed(schema.Object{"help": schema.Text("a help text"), "required": schema.Truth("it must be filled in")})}})}}
	return schema.Closed(schema.Object{"name": schema.Text("name"), "remark": schema.Text("a remark"), "tab": schema.Text("to which rows are added"), "says": schema.Text("what stands above the fields"),
		"fields": schema.ListOf(field), "set": schema.MapOf(schema.Plain()), "thanks": schema.Text("what is said after an entry"), "filled in by": schema.OneOrMore("people who may fill it in though they may not see the tab: addresses, or readers, editors, admins"), "hourly": schema.Object{"type": "integer", "description": "entries an hour at most"}}, "name", "tab", "fields")
}
