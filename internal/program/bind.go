// Package program is a tracker's shape made ready to run, once: what the names in a
// clause mean in each tab, computed columns, and the definitions (rules, lists, syncs,
// reminders, rounds) of whatever kinds there are. The kinds say of themselves what they
// can do; this package knows none of them. It is part of the core: no I/O, and now is a
// parameter.
package program

import (
	"errors"
	"fmt"
	"iter"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Program is a shape with its computed columns checked and compiled. It is
// immutable and serves any number of goroutines.
type Program struct {
	Shape   *sheet.Shape
	Console string // the console's address, for links to it; set before the program is used
	zone    *time.Location
	tables  []clause.Table
	funcs   map[sheet.TabID][]clause.ValueFunc // by slot; nil for stored columns
	around  map[sheet.ColumnID]bool            // of computed columns: whether they hang on more than their row
	entries map[sheet.DefinitionID]*Entry
}

// ColumnError says which computed column cannot be worked out.
type ColumnError struct {
	Tab, Column string
	Err         error
}

func (e *ColumnError) Error() string {
	return fmt.Sprintf("computed column %s of %s: %v", e.Column, e.Tab, e.Err)
}

func (e *ColumnError) Unwrap() error { return e.Err }

// MaxDeep is how many computed columns may stand behind one another, each worked
// out from the next.
const MaxDeep = 50

// Bind checks and compiles a shape's computed columns. A column may use other
// computed columns, of its own tab or of others, but not in a circle.
func Bind(shape *sheet.Shape) (*Program, error) {
	b := &Program{Shape: shape, zone: shape.Location(), funcs: map[sheet.TabID][]clause.ValueFunc{}, around: map[sheet.ColumnID]bool{}}
	done := map[[2]int64]*clause.Expr{}
	for {
		b.tables = tables(shape, done)
		before := len(done)
		var failed error
		for i := range shape.Tabs {
			for j := range shape.Tabs[i].Columns {
				c := &shape.Tabs[i].Columns[j]
				key := [2]int64{int64(shape.Tabs[i].ID), int64(c.ID)}
				if !c.Computed() || done[key] != nil {
					continue
				}
				expr, err := clause.CheckValue(c.Clause, b.scope(i, false))
				if err == nil && expr.Deep() >= MaxDeep {
					return nil, &ColumnError{Tab: shape.Tabs[i].Name, Column: c.Name, Err: fmt.Errorf("computed columns stand more than %d behind one another: work some of them out from plain columns", MaxDeep)}
				}
				if err != nil {
					if failed == nil {
						failed = &ColumnError{Tab: shape.Tabs[i].Name, Column: c.Name, Err: unresolved(shape, err)}
					}
					continue
				}
				done[key] = expr
			}
		}
		if failed == nil && len(done) == before {
			break
		}
		if len(done) == before {
			return nil, failed
		}
	}
	for i := range shape.Tabs {
		t := &shape.Tabs[i]
		funcs := make([]clause.ValueFunc, len(t.Columns))
		for j := range t.Columns {
			if expr := done[[2]int64{int64(t.ID), int64(t.Columns[j].ID)}]; expr != nil {
				funcs[j] = expr.Value()
				alone, today := expr.OfItsRow()
				b.around[t.Columns[j].ID] = !alone || today
			}
		}
		b.funcs[t.ID] = funcs
	}
	return b, nil
}

// unresolved adds, to a name that was not found, that it may be in a circle.
func unresolved(shape *sheet.Shape, err error) error {
	var ce *clause.Error
	if errors.As(err, &ce) && ce.Code == clause.CodeNoName && ce.Offset+ce.Length <= len(ce.Text) {
		for i := range shape.Tabs {
			for _, c := range shape.Tabs[i].Columns {
				at := ce.Text[ce.Offset : ce.Offset+ce.Length]
				if c.Computed() && (value.EqualText(trimBrackets(at), c.Name) || trimBrackets(at) == fmt.Sprintf("#%d", c.ID)) {
					return fmt.Errorf("computed columns are worked out from one another in a circle through %s: %w", c.Name, err)
				}
			}
		}
	}
	return err
}

func trimBrackets(s string) string {
	if len(s) > 1 && s[0] == '[' {
		return s[1 : len(s)-1]
	}
	return s
}

// tables gives every tab as clauses see it; computed columns that are not
// checked yet are left out.
func tables(shape *sheet.Shape, done map[[2]int64]*clause.Expr) []clause.Table {
	out := make([]clause.Table, len(shape.Tabs))
	for i := range shape.Tabs {
		t := &shape.Tabs[i]
		out[i] = clause.Table{ID: int64(t.ID), Name: t.Name}
		for slot := range t.Columns {
			c := &t.Columns[slot]
			expr := done[[2]int64{int64(t.ID), int64(c.ID)}]
			if c.Computed() && expr == nil {
				continue
			}
			out[i].Columns = append(out[i].Columns, clause.Column{ID: int64(c.ID), Name: c.Name, Type: c.Type, Slot: slot, Computed: expr})
		}
	}
	return out
}

func (p *Program) scope(tab int, edit bool) *clause.Scope {
	t := p.tables[tab]
	return &clause.Scope{Name: t.Name, Columns: t.Columns, Tables: p.tables, Edit: edit}
}

// Scope gives what names mean in a tab. With edit, a clause may ask what changed.
func (p *Program) Scope(tab sheet.TabID, edit bool) *clause.Scope {
	for i := range p.tables {
		if p.tables[i].ID == int64(tab) {
			return p.scope(i, edit)
		}
	}
	return &clause.Scope{Tables: p.tables, Edit: edit}
}

// ScopeOfAll gives what names mean in any of several tabs, for checking a
// clause before it is compiled for each; without tabs it means all of them.
func (p *Program) ScopeOfAll(tabs []sheet.TabID, edit bool) *clause.Scope {
	s := &clause.Scope{Tables: p.tables, Edit: edit}
	wanted := map[int64]bool{}
	for _, id := range tabs {
		wanted[int64(id)] = true
	}
	seen := map[int64]bool{}
	for i, t := range p.tables {
		if len(tabs) > 0 && !wanted[t.ID] || len(tabs) == 0 && !p.Shape.Tabs[i].Listed() {
			continue
		}
		if s.Name != "" {
			s.Name += ", "
		}
		s.Name += t.Name
		for _, c := range t.Columns {
			if !seen[c.ID] {
				seen[c.ID] = true
				s.Columns = append(s.Columns, c)
				continue
			}
			for i := range s.Columns {
				if s.Columns[i].ID == c.ID {
					s.Columns[i].Type.Options = mergeOptions(s.Columns[i].Type.Options, c.Type)
				}
			}
		}
	}
	if len(tabs) == 0 {
		s.Name = p.Shape.Name
	}
	return s
}

// ScopeOfFile gives what names mean where there is no row but a file, whose
// facts have names of their own.
func (p *Program) ScopeOfFile(facts []clause.Column) *clause.Scope {
	return &clause.Scope{Name: "the file", Tables: p.tables, Extra: facts}
}

func mergeOptions(options []value.Option, t value.Type) []value.Option {
	out := options[:len(options):len(options)]
	for _, o := range t.Options {
		if _, ok := (value.Type{Options: out}).Option(o.Name); !ok {
			out = append(out, o)
		}
	}
	return out
}

// Env gives what clauses of a tab look at, with now as the present moment. It
// is for one goroutine; call Look for each row. The meter bounds what looking into
// tabs may cost; nil: nothing.
func (p *Program) Env(t *sheet.Tracker, tab *sheet.TabShape, now time.Time, m *clause.Meter) *clause.Env {
	local := now.In(p.zone)
	e := &clause.Env{Meter: m, Now: value.DateTimeOf(local), Today: value.DateOf(local), Days: p.Shape.Working}
	if tab != nil {
		e.Tab = tab.Name
	}
	if tab != nil {
		e.Own = func() iter.Seq[[]value.Value] {
			return func(yield func([]value.Value) bool) {
				for r := range t.Rows(tab.ID) {
					if !yield(r.Cells()) {
						return
					}
				}
			}
		}
	}
	e.Parts = func(table int64) ([]clause.Part, bool) {
		blocks, ok := t.Blocks(sheet.TabID(table))
		parts := make([]clause.Part, len(blocks))
		for i := range blocks {
			parts[i] = part{&blocks[i]}
		}
		return parts, ok
	}
	e.Page = func(row int64) value.Value { return p.page(t, sheet.RowID(row)) }
	e.Stamp = func(table int64) any { return t.Stamp(sheet.TabID(table)) }
	e.Rows = func(table int64) iter.Seq2[string, []value.Value] {
		name := ""
		if other := t.TabByID(sheet.TabID(table)); other != nil {
			name = other.Name
		}
		return func(yield func(string, []value.Value) bool) {
			for r := range t.Rows(sheet.TabID(table)) {
				if !yield(name, r.Cells()) {
					return
				}
			}
		}
	}
	return e
}

// part is a block of rows as clauses see it.
type part struct{ *sheet.Block }

func (p part) Leaves() []clause.Leaf {
	chunks := p.Chunks()
	out := make([]clause.Leaf, len(chunks))
	for i := range chunks {
		out[i] = &chunks[i]
	}
	return out
}

// Look lays a row before the environment.
func Look(e *clause.Env, r *sheet.Row) {
	e.Next(r.Cells())
	e.Row = int64(r.ID)
}

// page gives the address of the page that one of a tracker's dossiers gives a row.
func (p *Program) page(t *sheet.Tracker, row sheet.RowID) value.Value {
	for i := range p.Shape.Definitions {
		d := &p.Shape.Definitions[i]
		if d.Kind != sheet.KindDossier {
			continue
		}
		for range t.From(sheet.PageOrigin(d.ID, row, "")) {
			return value.OfText(p.PageAddress(t.ID, d.ID, row))
		}
	}
	return value.Value{}
}

// PageAddress gives the address of a row's page in the console.
func (p *Program) PageAddress(t sheet.TrackerID, of sheet.DefinitionID, row sheet.RowID) string {
	return fmt.Sprintf("%s/t/%s/pages/%s/%s", p.Console, t, of, row)
}

// Value gives what a column of the row's tab shows: the stored value, or the
// computed one. The row has been laid before the environment.
func (p *Program) Value(e *clause.Env, r *sheet.Row, slot int) value.Value {
	if funcs := p.funcs[r.Tab]; slot < len(funcs) && funcs[slot] != nil {
		v := e.Computed(slot, funcs[slot])
		if v.IsOdd() && e.Fault != "" {
			return value.OfOdd(e.Fault)
		}
		return v
	}
	return r.At(slot)
}

// Around reports whether a column is computed from more than the stored cells of its row:
// from other rows, or from what day it is.
func (p *Program) Around(column sheet.ColumnID) bool { return p.around[column] }

// HasComputed reports whether the tab has any computed column.
func (p *Program) HasComputed(tab sheet.TabID) bool {
	for _, f := range p.funcs[tab] {
		if f != nil {
			return true
		}
	}
	return false
}
