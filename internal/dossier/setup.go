package dossier

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/setup/schema"
	"example.org/kavlo/internal/sheet"
)

const (
	byItself   = "by itself"
	byHand     = "by hand"
	filledOnce = "filled once"
	first      = "first"
	last       = "last"
)

// What the tabs that a pattern keeps for itself are for.
const (
	pagesRole = "pages"
	logRole   = "log"
)

// ReadSetup reads a pattern from a setup file.
func (p *Pattern) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	var err error
	if p.Remark, err = m.Get("remark").Text(); err != nil {
		return err
	}
	if p.For, err = d.TabIDs(m.Get("for")); err != nil {
		return err
	}
	if len(p.For) == 0 {
		return m.Fail("say of which tab's rows the pages are: for: TAB")
	}
	for _, id := range p.For {
		if t := d.Shape.TabByID(id); !t.Listed() {
			return m.Get("for").Fail("%s holds no rows that could have pages", t.Name)
		}
	}
	open, err := setup.OneOf(m.Get("open"), byHand, byItself)
	if err != nil {
		return err
	}
	p.Auto = open == byItself
	if p.Template, err = m.Get("template").Workbook(); err != nil {
		return err
	}
	if err := p.readOwn(d, m); err != nil {
		return err
	}
	if err := p.readLog(d, m.Get("log")); err != nil {
		return err
	}
	if p.Where, err = d.Condition(m.Get("where"), p.For, false); err != nil {
		return err
	}
	scope := withLog(d.Scope(p.For), p.Log)
	if p.Title, err = d.Stored(m.Get("title"), scope, clause.CheckTemplate); err != nil {
		return err
	}
	if p.Title == "" {
		return m.Fail("say what its pages are called: title: \"{Name}\"")
	}
	err = m.Get("figures").Pairs(func(name string, v setup.At) error {
		text, err := d.Stored(v, scope, clause.CheckValue)
		p.Figures = append(p.Figures, Figure{strings.TrimSpace(name), text})
		return err
	})
	if err != nil {
		return err
	}
	return m.Get("tables").Pairs(func(name string, v setup.At) error { return p.readTable(d, strings.TrimSpace(name), v, scope) })
}

// readOwn reads the facts of a page, and the columns that it has for itself.
func (p *Pattern) readOwn(d *setup.Reader, m *setup.Mapping) error {
	own, err := d.Columns(m.Get("own"))
	if err != nil {
		return err
	}
	var kept []int // facts that the page keeps, by place
	err = m.Get("facts").Each(func(a setup.At) error {
		name, how := "", ""
		if a.IsMapping() {
			err := a.Pairs(func(n string, v setup.At) (err error) {
				name = n
				how, err = setup.OneOf(v, filledOnce)
				return err
			})
			if err != nil {
				return err
			}
		} else if name, err = a.Text(); err != nil {
			return err
		}
		id, err := d.Column(a, name, p.For)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(p.Facts, func(f Fact) bool { return f.Column == id }) {
			return a.Fail("%s stands there twice", name)
		}
		if how == filledOnce {
			kept = append(kept, len(p.Facts))
			own = append(own, keptColumn(d.Shape.ColumnByID(id)))
		}
		p.Facts = append(p.Facts, Fact{Column: id})
		return nil
	})
	if err != nil {
		return err
	}
	tab, err := d.OwnTab(pagesRole, p.For, own)
	if err != nil {
		return m.Get("own").Wrap(err)
	}
	p.Pages = tab.ID
	for i, at := range kept {
		p.Facts[at].Kept = tab.Columns[len(tab.Columns)-len(kept)+i].ID
	}
	return p.readClear(d, m.Get("clear"))
}

// keptColumn is a page's own column that keeps what a row held in a column.
func keptColumn(c *sheet.Column) sheet.Column {
	return sheet.Column{Name: c.Name, Type: c.Type, From: c.ID}
}

// readClear reads which columns of the row are emptied when its page opens: those alone
// that the page keeps.
func (p *Pattern) readClear(d *setup.Reader, a setup.At) error {
	names, err := a.Texts()
	if err != nil {
		return err
	}
	for _, name := range names {
		id, err := d.Column(a, name, p.For)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(p.Facts, func(f Fact) bool { return f.Column == id && f.Kept != 0 }) {
			return a.Fail("%s would be lost: a column can be cleared where the page keeps it, as a fact that is filled once", name)
		}
		if c := d.Shape.ColumnByID(id); c.Computed() || c.Required {
			return a.Fail("%s cannot be cleared: it is computed, or required", name)
		}
		p.Clear = append(p.Clear, id)
	}
	return nil
}

func (p *Pattern) readLog(d *setup.Reader, a setup.At) error {
	if !a.Present() {
		return nil
	}
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	p.Log = &Log{}
	columns, err := d.Columns(m.Get("columns"))
	if err != nil {
		return err
	}
	if len(columns) == 0 {
		return a.Fail("say what an entry holds: log: { columns: { What: { type: text } } }")
	}
	newest, err := setup.OneOf(m.Get("newest"), first, last)
	if err != nil {
		return err
	}
	p.Log.Oldest = newest == last
	tab, err := d.OwnTab(logRole, p.For, columns)
	if err != nil {
		return m.Get("columns").Wrap(err)
	}
	p.Log.Tab = tab.ID
	err = m.Get("choices").Pairs(func(name string, v setup.At) error {
		col, err := tab.Column(name)
		if err != nil {
			return v.Wrap(err)
		}
		text, err := v.Text()
		if err != nil {
			return err
		}
		at := strings.LastIndex(strings.ToLower(text), " in ")
		if at < 0 {
			return v.Fail("%q does not say from where: write COLUMN in TAB", text)
		}
		from, err := d.Shape.Tab(strings.TrimSpace(text[at+len(" in "):]))
		if err != nil {
			return v.Wrap(err)
		}
		of, err := from.Column(strings.TrimSpace(text[:at]))
		if err != nil {
			return v.Wrap(err)
		}
		p.Log.Choices = append(p.Log.Choices, Choices{col.ID, from.ID, of.ID})
		return nil
	})
	if err != nil {
		return err
	}
	return m.Done()
}

func (p *Pattern) readTable(d *setup.Reader, name string, a setup.At, scope *clause.Scope) error {
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	t := Table{Name: name}
	if t.Tab, err = d.OneTab(m); err != nil {
		return err
	}
	tab := d.Shape.TabByID(t.Tab)
	if t.Where, err = d.Stored(m.Get("where"), scope, func(text string, s *clause.Scope) (*clause.Expr, error) {
		return clause.CheckLook(text, s, int64(t.Tab))
	}); err != nil {
		return err
	}
	names, err := m.Get("columns").Texts()
	if err != nil {
		return err
	}
	for _, n := range names {
		c, err := tab.Column(n)
		if err != nil {
			return m.Get("columns").Wrap(err)
		}
		t.Columns = append(t.Columns, c.ID)
	}
	order, err := m.Get("order").Text()
	if err != nil {
		return err
	}
	if t.Order, err = query.ParseOrder(order, tab); err != nil {
		return m.Get("order").Wrap(err)
	}
	if t.Limit, err = m.Get("limit").Int(); err != nil {
		return err
	}
	p.Tables = append(p.Tables, t)
	return m.Done()
}

// WriteSetup writes a pattern as a setup file has it.
func (p *Pattern) WriteSetup(e *setup.Writer, b setup.Builder) {
	b.Text("remark", p.Remark).Put("for", e.TabNames(p.For)).Text("where", e.Across(p.For, p.Where))
	if p.Auto {
		b.Text("open", byItself)
	}
	scope := withLog(e.Scope(p.For), p.Log)
	b.Text("title", e.Print(p.Title, scope, clause.CheckTemplate))
	facts, kept := setup.Flow(setup.Sequence()), map[sheet.ColumnID]bool{}
	for _, f := range p.Facts {
		name := e.ColumnName(f.Column)
		if kept[f.Kept] = true; f.Kept != 0 {
			facts.Content = append(facts.Content, setup.Flow(setup.Build().Text(name, filledOnce).Node()))
		} else {
			facts.Content = append(facts.Content, setup.Scalar(name))
		}
	}
	if len(facts.Content) > 0 {
		b.Put("facts", facts)
	}
	if tab := e.Shape.TabByID(p.Pages); tab != nil {
		if own := e.ColumnsNode(tab, func(c *sheet.Column) bool { return !kept[c.ID] }); len(own.Content) > 0 {
			b.Put("own", own)
		}
	}
	var clear []string
	for _, id := range p.Clear {
		clear = append(clear, e.ColumnName(id))
	}
	if clear != nil {
		b.Put("clear", setup.Scalars(clear))
	}
	if len(p.Figures) > 0 {
		figures := setup.Build()
		for _, f := range p.Figures {
			figures.Text(f.Name, e.Print(f.Clause, scope, clause.CheckValue))
		}
		b.Put("figures", figures.Node())
	}
	p.writeTables(e, b, scope)
	p.writeLog(e, b)
	b.Text("template", p.Template)
}

func (p *Pattern) writeTables(e *setup.Writer, b setup.Builder, scope *clause.Scope) {
	if len(p.Tables) == 0 {
		return
	}
	tables := setup.Build()
	for _, t := range p.Tables {
		x := setup.Build().Put("tab", e.TabNames([]sheet.TabID{t.Tab}))
		x.Text("where", e.Print(t.Where, scope, func(text string, s *clause.Scope) (*clause.Expr, error) {
			return clause.CheckLook(text, s, int64(t.Tab))
		}))
		var names []string
		for _, id := range t.Columns {
			names = append(names, e.ColumnName(id))
		}
		if names != nil {
			x.Put("columns", setup.Scalars(names))
		}
		if tab := e.Shape.TabByID(t.Tab); tab != nil {
			x.Text("order", t.Order.String(tab))
		}
		if t.Limit > 0 {
			x.Put("limit", setup.Word(fmt.Sprint(t.Limit)))
		}
		tables.Put(t.Name, setup.Flow(x.Node()))
	}
	b.Put("tables", tables.Node())
}

func (p *Pattern) writeLog(e *setup.Writer, b setup.Builder) {
	if p.Log == nil {
		return
	}
	tab := e.Shape.TabByID(p.Log.Tab)
	if tab == nil {
		return
	}
	log := setup.Build().Put("columns", e.ColumnsNode(tab, func(*sheet.Column) bool { return true }))
	if p.Log.Oldest {
		log.Text("newest", last)
	}
	if len(p.Log.Choices) > 0 {
		choices := setup.Build()
		for _, c := range p.Log.Choices {
			choices.Text(e.ColumnName(c.Column), e.ColumnName(c.From)+" in "+e.TabWords([]sheet.TabID{c.Tab}))
		}
		log.Put("choices", setup.Flow(choices.Node()))
	}
	b.Put("log", log.Node())
}

// Sentence says what a pattern does, as people would say it.
func (p *Pattern) Sentence(e *setup.Writer) string {
	where, how := "", "opened by hand"
	if p.Where != "" {
		where = fmt.Sprintf(" where `%s`", e.Across(p.For, p.Where))
	}
	if p.Auto {
		how = "opened as soon as that is so"
	}
	return fmt.Sprintf("A page for each row of %s%s, %s.", e.TabWords(p.For), where, how)
}

// SetupSchema gives the JSON Schema of a pattern in a setup file.
func (*Pattern) SetupSchema() schema.Object {
	columns := schema.MapOf(schema.Object{"type": "object", "description": "a column, as tabs have it"})
	texts := func(what string) schema.Object { return schema.MapOf(schema.Text(what)) }
	table := schema.Closed(schema.Object{"tab": schema.Text("whose rows it shows"), "where": schema.Text("a clause over that tab; this. is the page's row"), "columns": schema.ListOf(schema.Text("a column")), "order": schema.Text("columns to sort by"), "limit": schema.Object{"type": "integer", "description": "rows shown at most"}}, "tab")
	return schema.Closed(schema.Object{
		"name": schema.Text("name"), "remark": schema.Text("a remark"),
		"for": schema.OneOrMore("the tabs whose rows have pages"), "where": schema.Text("which rows: a clause"),
		"open": schema.Words(byHand, byItself), "title": schema.Text("what a page is called, with {holes}"),
		"facts":    schema.ListOf(schema.Object{"anyOf": []any{schema.Text("a column of the row"), schema.MapOf(schema.Words(filledOnce))}}),
		"own":      columns,
		"figures":  texts("a clause, worked out whenever a page is looked at"),
		"tables":   schema.MapOf(table),
		"log":      schema.Closed(schema.Object{"columns": columns, "newest": schema.Words(first, last), "choices": texts("where a column takes its values from: COLUMN in TAB")}, "columns"),
		"template": schema.Text("a workbook below templates/, laid out for a page, of which pages are made when they are saved"),
		"clear":    schema.OneOrMore("columns of the row that are emptied when its page opens"),
	}, "name", "for", "title")
}
