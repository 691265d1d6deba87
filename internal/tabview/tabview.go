// Package tabview is named views of a tab: which of its rows are shown, in which order, with
// which columns. Part of the core: no I/O and no clock.
package tabview

import (
	"errors"
	"fmt"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/setup/schema"
	"example.org/kavlo/internal/sheet"
)

// View is a named view, in stored form.
type View struct {
	ID     sheet.DefinitionID `json:"-"`
	Name   string             `json:"-"`
	Remark string             `json:"remark,omitempty"`
	Tab    sheet.TabID        `json:"tab"`
	Where  string             `json:"where,omitempty"`
	// Words are looked for in every cell; a row has them all.
	Words   string           `json:"words,omitempty"`
	Order   query.Order      `json:"order,omitempty"`
	Columns []sheet.ColumnID `json:"columns,omitempty"` // shown, in this order; none: all
	// Frozen is how many of the columns stay in sight; 0: as the tab has it.
	Frozen int `json:"frozen,omitempty"`
}

// Error says which part of a view is wrong.
type Error struct {
	Name, Part string
	Err        error
}

func (e *Error) Error() string { return fmt.Sprintf("view %s, %s: %v", e.Name, e.Part, e.Err) }

func (e *Error) Unwrap() error { return e.Err }

// Identify gives the view its id and name.
func (v *View) Identify(id sheet.DefinitionID, name string) { v.ID, v.Name = id, name }

// Compile says what of the view no longer fits its tracker: a *View.
func (v *View) Compile(p *program.Program) (any, error) {
	tab := p.Shape.TabByID(v.Tab)
	if tab == nil {
		return nil, &Error{v.Name, "tab", errors.New("it is not there any more")}
	}
	gone := func(part string, id sheet.ColumnID) error {
		return &Error{v.Name, part, fmt.Errorf("the column %s of %s is not there any more", id, tab.Name)}
	}
	for _, id := range v.Columns {
		if tab.ByID(id) == nil {
			return nil, gone("columns", id)
		}
	}
	for _, by := range v.Order {
		if tab.ByID(by.Column) == nil {
			return nil, gone("order", by.Column)
		}
	}
	if v.Where != "" {
		if _, err := clause.CheckCondition(v.Where, p.Scope(v.Tab, false)); err != nil {
			return nil, &Error{v.Name, "where", err}
		}
	}
	return v, nil
}

// Narrow gives the query for the view's rows, and of these those that q asks for. What q
// says of the order and the columns goes before what the view says.
func (v *View) Narrow(q query.Query) query.Query {
	q.Where = query.Both(v.Where, q.Where)
	q.Words = strings.TrimSpace(v.Words + " " + q.Words)
	if len(q.Order) == 0 {
		q.Order = v.Order
	}
	if len(q.Columns) == 0 {
		for _, id := range v.Columns {
			q.Columns = append(q.Columns, id.String())
		}
	}
	return q
}

// ReadSetup reads a view from a setup file.
func (v *View) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	var err error
	if v.Tab, err = d.OneTab(m); err != nil {
		return err
	}
	if err := setup.ReadTexts(m, map[string]*string{"remark": &v.Remark, "words": &v.Words}); err != nil {
		return err
	}
	tabs := []sheet.TabID{v.Tab}
	if v.Where, err = d.Condition(m.Get("where"), tabs, false); err != nil {
		return err
	}
	order, err := m.Get("order").Text()
	if err != nil {
		return err
	}
	if v.Order, err = query.ParseOrder(order, d.Shape.TabByID(v.Tab)); err != nil {
		return m.Get("order").Wrap(err)
	}
	names, err := m.Get("columns").Texts()
	if err != nil {
		return err
	}
	for _, n := range names {
		id, err := d.Column(m.Get("columns"), n, tabs)
		if err != nil {
			return err
		}
		v.Columns = append(v.Columns, id)
	}
	v.Frozen, err = m.Get("frozen").Int()
	return err
}

// WriteSetup writes a view as a setup file has it.
func (v *View) WriteSetup(e *setup.Writer, b setup.Builder) {
	tabs := []sheet.TabID{v.Tab}
	b.Text("remark", v.Remark).Put("tab", e.TabNames(tabs)).Text("words", v.Words).Text("where", e.Across(tabs, v.Where))
	if tab := e.Shape.TabByID(v.Tab); tab != nil {
		b.Text("order", v.Order.String(tab))
	}
	if len(v.Columns) > 0 {
		b.Put("columns", setup.Scalars(v.names(e)))
	}
	if v.Frozen > 0 {
		b.Put("frozen", setup.Word(fmt.Sprint(v.Frozen)))
	}
}

func (v *View) names(e *setup.Writer) []string {
	var out []string
	for _, id := range v.Columns {
		out = append(out, e.ColumnName(id))
	}
	return out
}

// Sentence says what a view shows, as people would say it.
func (v *View) Sentence(e *setup.Writer) string {
	tabs := []sheet.TabID{v.Tab}
	says := "Shows rows of " + e.TabWords(tabs)
	if v.Words != "" {
		says += fmt.Sprintf(" that contain %q", v.Words)
	}
	if v.Where != "" {
		says += fmt.Sprintf(" where `%s`", e.Across(tabs, v.Where))
	}
	if tab := e.Shape.TabByID(v.Tab); tab != nil && len(v.Order) > 0 {
		says += ", sorted by " + v.Order.String(tab)
	}
	if len(v.Columns) > 0 {
		says += ", with the columns " + strings.Join(v.names(e), ", ")
	}
	return says + "."
}

// SetupSchema gives the JSON Schema of a view in a setup file.
func (*View) SetupSchema() schema.Object {
	return schema.Closed(schema.Object{"name": schema.Text("name"), "remark": schema.Text("a remark"), "tab": schema.Text("whose rows"),
		"where": schema.Text("a clause"), "words": schema.Text("words that a row contains, in any column"), "order": schema.Text("columns, as in Due, Value descending"),
		"columns": schema.OneOrMore("columns shown, in this order; none: all"), "frozen": schema.Object{"type": "integer", "description": "how many of the columns stay in sight"}}, "name", "tab")
}
