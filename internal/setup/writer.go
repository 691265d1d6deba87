package setup

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"go.yaml.in/yaml/v3"
)

// Writer writes a shape as a setup file, with names for ids.
type Writer struct {
	Shape *sheet.Shape
	Facts []clause.Column // what names mean where there is no row but a file; nil: columns
	bound *program.Program
}

// Clause gives a stored clause with names; one that no longer checks is given as stored.
func (e *Writer) Clause(tab sheet.TabID, stored string) string {
	scope := e.bound.Scope(tab, true)
	return e.print(stored, scope, clause.CheckValue)
}

// Across gives a stored clause of a part that works on several tabs.
func (e *Writer) Across(tabs []sheet.TabID, stored string) string {
	return e.print(stored, e.scope(tabs), clause.CheckValue)
}

func (e *Writer) scope(tabs []sheet.TabID) *clause.Scope {
	if e.Facts != nil {
		return e.bound.ScopeOfFile(e.Facts)
	}
	return e.bound.ScopeOfAll(tabs, true)
}

// Template gives a stored text with holes, with names for ids.
func (e *Writer) Template(tabs []sheet.TabID, stored string) string {
	return e.print(stored, e.scope(tabs), clause.CheckTemplate)
}

// Scope gives what names mean in tabs.
func (e *Writer) Scope(tabs []sheet.TabID) *clause.Scope { return e.scope(tabs) }

// Print gives a stored clause of a scope with names for ids; check says what it is.
func (e *Writer) Print(stored string, scope *clause.Scope, check func(string, *clause.Scope) (*clause.Expr, error)) string {
	return e.print(stored, scope, check)
}

func (e *Writer) print(stored string, scope *clause.Scope, check func(string, *clause.Scope) (*clause.Expr, error)) string {
	if stored == "" {
		return ""
	}
	expr, err := check(stored, scope)
	if err != nil {
		return stored
	}
	return expr.Print(clause.ByName)
}

// TabNames gives the names of tabs: one text, or a list.
func (e *Writer) TabNames(ids []sheet.TabID) *yaml.Node {
	names := make([]string, len(ids))
	for i, id := range ids {
		names[i] = id.String()
		if t := e.Shape.TabByID(id); t != nil {
			names[i] = t.Name
		}
	}
	if len(names) == 1 {
		return Scalar(names[0])
	}
	return Scalars(names)
}

// ColumnName gives the name of a column.
func (e *Writer) ColumnName(id sheet.ColumnID) string {
	if c := e.Shape.ColumnByID(id); c != nil {
		return c.Name
	}
	return id.String()
}

// KindList gives the names of parts as a list, or nil for none.
func (e *Writer) KindList(ids []sheet.DefinitionID) *yaml.Node {
	var names []string
	for _, id := range ids {
		for i := range e.Shape.Definitions {
			if e.Shape.Definitions[i].ID == id {
				names = append(names, e.Shape.Definitions[i].Name)
			}
		}
	}
	if names == nil {
		return nil
	}
	return Scalars(names)
}

// CellNode writes the new values of columns.
func (e *Writer) CellNode(in []sheet.TabID, cells []Cell) *yaml.Node {
	b := Build()
	for _, c := range cells {
		b.Put(e.ColumnName(c.Column), Scalar(e.Template(in, c.To)))
	}
	return Flow(b.n)
}

// Capital gives a text with a capital in front.
func Capital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[n:]
}

// OrWords joins names as in "A, B or C".
func OrWords(names []string) string {
	if n := len(names); n > 1 {
		return strings.Join(names[:n-1], ", ") + " or " + names[n-1]
	}
	return strings.Join(names, "")
}

// TabWords names tabs in a sentence.
func (e *Writer) TabWords(ids []sheet.TabID) string {
	names := make([]string, len(ids))
	for i, id := range ids {
		names[i] = id.String()
		if t := e.Shape.TabByID(id); t != nil {
			names[i] = t.Name
		}
	}
	return OrWords(names)
}

// DefinitionNames names definitions in a sentence.
func (e *Writer) DefinitionNames(ids []sheet.DefinitionID) string {
	var names []string
	for _, id := range ids {
		for i := range e.Shape.Definitions {
			if e.Shape.Definitions[i].ID == id {
				names = append(names, e.Shape.Definitions[i].Name)
			}
		}
	}
	return strings.Join(names, ", ")
}

// ClauseText gives a stored clause of a tab with names for ids.
func ClauseText(p *program.Program, tab sheet.TabID, stored string) string {
	e := &Writer{Shape: p.Shape, bound: p}
	return e.Clause(tab, stored)
}
