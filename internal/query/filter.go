// Package query reads the rows of a tab: which fit a condition, which could not be judged,
// their cells with computed columns worked out, and figures of their groups. The grid,
// exports, written files, tallies, reminders and rules all read by it, so that they agree.
// Part of the core: no I/O, no clock.
package query

import (
	"fmt"
	"iter"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// Filter is a compiled condition on the rows of a tab. A nil Filter lets all rows through.
type Filter struct {
	holds   clause.Condition
	columns *clause.ColumnFilter // what of the condition can be told from columns; may be nil
}

// Compile compiles a condition; a blank one gives a nil Filter.
func Compile(where string, scope *clause.Scope) (*Filter, error) {
	if strings.TrimSpace(where) == "" {
		return nil, nil //nolint:nilnil // nil lets all rows through
	}
	expr, err := clause.CheckCondition(where, scope)
	if err != nil {
		return nil, err
	}
	return &Filter{expr.Condition(), expr.ColumnFilter()}, nil
}

// Judge tells whether the condition holds for what is laid before env.
func (f *Filter) Judge(env *clause.Env) clause.Tri {
	if f == nil {
		return clause.Yes
	}
	return f.holds(env)
}

// Candidates gives the rows of a tab, in order, for which the condition holds or may hold
// as far as their columns tell, whether each must still be judged, and the most that there
// are. Rows for which it cannot hold are not looked at.
func (f *Filter) Candidates(env *clause.Env, t *sheet.Tracker, tab sheet.TabID) (rows iter.Seq2[*sheet.Row, bool], most int) {
	if f != nil && f.columns != nil {
		m := mark(f.columns, env, t, tab)
		return m.all(), m.most
	}
	return func(yield func(*sheet.Row, bool) bool) {
		for row := range t.Rows(tab) {
			if !yield(row, f != nil) {
				return
			}
		}
	}, t.Count(tab)
}

// ByColumn reports whether most rows are told apart without being looked at.
func (f *Filter) ByColumn() bool { return f != nil && f.columns != nil }

// Passed is a row, record or file that was passed over because it could not be judged.
type Passed struct {
	Row    string `json:"row"`
	Label  string `json:"label"`
	Tab    string `json:"tab"`
	Column string `json:"column,omitempty"`
	Why    string `json:"why"`
}

// PassedOver tells of a row that env could not judge.
func PassedOver(t *sheet.Tracker, row *sheet.Row, env *clause.Env) Passed {
	p := Passed{Row: row.ID.String(), Label: t.Label(row), Tab: t.TabOf(row).Name}
	p.Column, p.Why = Fault(t, env)
	return p
}

// Fault tells why env could not judge what was laid before it, and by which column.
func Fault(t *sheet.Tracker, env *clause.Env) (column, why string) {
	if env.Fault != "" {
		return "", env.Fault
	}
	if c := t.ColumnByID(sheet.ColumnID(env.OddColumn)); c != nil {
		return c.Name, fmt.Sprintf("%s is not %s", c.Name, c.Type.Kind.Phrase())
	}
	return "", "a cell that counts is odd"
}

// scopeOf gives what names mean in a condition on a tab.
func scopeOf(p *program.Program, tab *sheet.TabShape) *clause.Scope { return p.Scope(tab.ID, false) }
