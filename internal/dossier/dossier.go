// Package dossier is the page of one row: which rows have one, what stands on it, and how
// it is opened and closed.
//
// A page is a row of a tab that its pattern keeps for itself, known by the id of the row
// that it is of; what only the page has are its columns, and entries of its log are rows
// of another such tab. Facts, figures and tables are worked out where a page is looked at.
// dossier.go holds what a pattern is and compiles it, setup.go reads and writes it, open.go
// opens and closes pages, page.go lays one out, log.go takes entries. Part of the core: no
// I/O and no clock.
package dossier

import (
	"errors"
	"fmt"
	"slices"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Pattern says which rows have pages and what stands on them, in stored form.
type Pattern struct {
	ID     sheet.DefinitionID `json:"-"`
	Name   string             `json:"-"`
	Remark string             `json:"remark,omitempty"`
	For    []sheet.TabID      `json:"for"`
	Where  string             `json:"where,omitempty"` // which rows of these; "": all
	Auto   bool               `json:"auto,omitempty"`  // pages open by themselves
	Title  string             `json:"title"`           // a template
	Facts  []Fact             `json:"facts,omitempty"`
	// Figures are clauses that are worked out for the row whenever its page is looked at.
	Figures []Figure `json:"figures,omitempty"`
	Tables  []Table  `json:"tables,omitempty"`
	Log     *Log     `json:"log,omitempty"`
	// Clear are columns of the row that are emptied when its page opens, which keeps them.
	Clear []sheet.ColumnID `json:"clear,omitempty"`
	Pages sheet.TabID      `json:"pages"` // the tab whose rows the pages are
	// Template is the workbook of which pages are made when they are saved as one; "": they
	// are laid out by default.
	Template string `json:"template,omitempty"`
}

// Fact is a column of the row on its page.
type Fact struct {
	Column sheet.ColumnID `json:"column"`
	// Kept is the page's own column that has what the row held when the page was opened; 0:
	// the fact is the row's cell itself, there and back.
	Kept sheet.ColumnID `json:"kept,omitempty"`
}

// Figure is a clause under a name.
type Figure struct {
	Name   string `json:"name"`
	Clause string `json:"clause"`
}

// Table shows the rows of a tab that concern the page's row.
type Table struct {
	Name    string           `json:"name"`
	Tab     sheet.TabID      `json:"tab"`
	Where   string           `json:"where,omitempty"` // of the tab's rows; this. is the page's row
	Columns []sheet.ColumnID `json:"columns,omitempty"`
	Order   query.Order      `json:"order,omitempty"`
	Limit   int              `json:"limit,omitempty"` // rows shown at most; 0: MostShown
}

// MostShown is how many rows of a table, and entries of a log, a page shows unless told
// otherwise.
const MostShown = 100

// Log holds entries of what happened.
type Log struct {
	Tab     sheet.TabID `json:"tab"` // whose rows the entries are
	Oldest  bool        `json:"oldest,omitempty"`
	Choices []Choices   `json:"choices,omitempty"`
}

// Choices says from which column of another tab a column of the log takes its values.
type Choices struct {
	Column sheet.ColumnID `json:"column"`
	Tab    sheet.TabID    `json:"tab"`
	From   sheet.ColumnID `json:"from"`
}

// LogName is how clauses of a pattern name the log of the page at hand.
const LogName = "log"

// Error says which part of a pattern is wrong.
type Error struct {
	Name, Part string
	Err        error
}

func (e *Error) Error() string { return fmt.Sprintf("dossier %s, %s: %v", e.Name, e.Part, e.Err) }

func (e *Error) Unwrap() error { return e.Err }

// Identify gives the pattern its id and name.
func (p *Pattern) Identify(id sheet.DefinitionID, name string) { p.ID, p.Name = id, name }

// Compiled is a pattern ready to open pages and to lay them out.
type Compiled struct {
	*Pattern
	program *program.Program
	tabs    map[sheet.TabID]*onTab
}

// onTab is a pattern for the rows of one of its tabs.
type onTab struct {
	tab     *sheet.TabShape
	where   *query.Filter
	title   clause.ValueFunc
	figures []figure
	tables  []clause.Condition // nil: all rows
}

type figure struct {
	typ value.Type
	of  clause.ValueFunc
	sum *clause.Arithmetic
}

// Tabs gives the tabs on whose rows the pattern works.
func (c *Compiled) Tabs() []sheet.TabID { return c.For }

// Compile makes the pattern ready: a *Compiled.
func (p *Pattern) Compile(b *program.Program) (any, error) {
	c := &Compiled{Pattern: p, program: b}
	fail := func(part string, err error) (any, error) { return nil, &Error{p.Name, part, err} }
	if len(p.For) == 0 {
		return fail("for", errors.New("say of which tab's rows: for: TAB"))
	}
	if b.Shape.TabByID(p.Pages) == nil {
		return fail("pages", errors.New("the tab of its pages is not there any more"))
	}
	var err error
	if c.tabs, err = p.on(b); err != nil {
		return nil, err
	}
	for _, f := range p.Facts {
		if err := c.has(f.Column); err != nil {
			return fail("facts", err)
		}
	}
	for _, id := range p.Clear {
		if err := c.has(id); err != nil {
			return fail("clear", err)
		}
	}
	for _, t := range p.Tables {
		tab := b.Shape.TabByID(t.Tab)
		if tab == nil {
			return fail("tables", fmt.Errorf("%s: its tab is not there any more", t.Name))
		}
		for _, id := range t.Columns {
			if tab.ByID(id) == nil {
				return fail("tables", fmt.Errorf("%s: the column %s of %s is not there any more", t.Name, id, tab.Name))
			}
		}
	}
	if p.Log != nil {
		for _, ch := range p.Log.Choices {
			if t := b.Shape.TabByID(ch.Tab); t == nil || t.ByID(ch.From) == nil {
				return fail("log", errors.New("the column from which choices are taken is not there any more"))
			}
		}
	}
	return c, nil
}

// Trim leaves out what reads of what is not in a shape.
func (p *Pattern) Trim(b *program.Program) {
	c := &Compiled{Pattern: p, program: b}
	fine := func(alter func(*Pattern)) bool {
		one := Pattern{For: p.For, Log: p.Log}
		alter(&one)
		_, err := (&one).on(b)
		return err == nil
	}
	if !fine(func(x *Pattern) { x.Where = p.Where }) {
		p.Where = ""
	}
	if !fine(func(x *Pattern) { x.Title = p.Title }) {
		p.Title = ""
	}
	p.Facts = slices.DeleteFunc(p.Facts, func(f Fact) bool { return c.has(f.Column) != nil })
	p.Clear = slices.DeleteFunc(p.Clear, func(id sheet.ColumnID) bool { return c.has(id) != nil })
	p.Figures = slices.DeleteFunc(p.Figures, func(f Figure) bool {
		return !fine(func(x *Pattern) { x.Figures = []Figure{f} })
	})
	p.Tables = slices.DeleteFunc(p.Tables, func(t Table) bool {
		tab := b.Shape.TabByID(t.Tab)
		return tab == nil || !fine(func(x *Pattern) { x.Tables = []Table{t} }) || slices.ContainsFunc(t.Columns, func(id sheet.ColumnID) bool { return tab.ByID(id) == nil })
	})
	if p.Log != nil {
		p.Log.Choices = slices.DeleteFunc(p.Log.Choices, func(ch Choices) bool {
			tab := b.Shape.TabByID(ch.Tab)
			return tab == nil || tab.ByID(ch.From) == nil
		})
	}
}

// on compiles the pattern for each of its tabs.
func (p *Pattern) on(b *program.Program) (map[sheet.TabID]*onTab, error) {
	c := &Compiled{Pattern: p, program: b}
	out := map[sheet.TabID]*onTab{}
	for _, id := range p.For {
		t, part, err := c.on(id)
		if err != nil {
			return nil, &Error{p.Name, part, err}
		}
		out[id] = t
	}
	return out, nil
}

func (c *Compiled) has(id sheet.ColumnID) error {
	for _, tab := range c.For {
		if c.program.Shape.TabByID(tab).ByID(id) != nil {
			return nil
		}
	}
	return fmt.Errorf("the column %s is not there any more", id)
}

func (c *Compiled) on(id sheet.TabID) (*onTab, string, error) {
	tab := c.program.Shape.TabByID(id)
	if tab == nil {
		return nil, "for", fmt.Errorf("the tab %s is not there any more", id)
	}
	t := &onTab{tab: tab}
	scope := c.withLog(c.program.Scope(id, false))
	var err error
	if t.where, err = query.Compile(c.Where, scope); err != nil {
		return nil, "where", err
	}
	title, err := clause.CheckTemplate(c.Title, scope)
	if err != nil {
		return nil, "title", err
	}
	t.title = title.Value()
	for _, f := range c.Figures {
		expr, err := clause.CheckValue(f.Clause, scope)
		if err != nil {
			return nil, "figures, " + f.Name, err
		}
		typ := value.Type{Kind: expr.Type().Kind()}
		if of, is := expr.Measures(); is && of.Kind == typ.Kind { // a sum of euros is euros
			typ = of
		}
		t.figures = append(t.figures, figure{typ, expr.Value(), expr.Arithmetic()})
	}
	for _, x := range c.Tables {
		var where clause.Condition
		if x.Where != "" {
			expr, err := clause.CheckLook(x.Where, scope, int64(x.Tab))
			if err != nil {
				return nil, "tables, " + x.Name, err
			}
			where = expr.Condition()
		}
		t.tables = append(t.tables, where)
	}
	return t, "", nil
}

// withLog lets clauses name the log of the page at hand.
func (c *Compiled) withLog(s *clause.Scope) *clause.Scope { return withLog(s, c.Log) }

func withLog(s *clause.Scope, log *Log) *clause.Scope {
	if log == nil {
		return s
	}
	out := *s
	for _, t := range s.Tables {
		if t.ID == int64(log.Tab) {
			t.Name = LogName
			out.Tables = append(s.Tables[:len(s.Tables):len(s.Tables)], t)
		}
	}
	return &out
}
