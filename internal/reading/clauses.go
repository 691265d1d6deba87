package reading

import (
	"fmt"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/value"
)

// sayAll tells of each column what its formulas say.
func (t *Table) sayAll(g *Grid) {
	for i := range t.Columns {
		t.Columns[i].Clause, t.Columns[i].Why = "", ""
		t.said(g, i)
	}
}

// said tells what a column's formulas say as a clause, or why they cannot be said so. Most
// of its rows must hold the same formula; the first may differ, as running totals begin.
func (t *Table) said(g *Grid, i int) {
	col := t.Range.Left + i
	if len(t.lines) == 0 || g.FormulaAt(t.lines[len(t.lines)-1], col) == nil && g.FormulaAt(t.lines[0], col) == nil {
		return
	}
	c := &t.Columns[i]
	formulas := map[string]*formula.Formula{}
	count := map[string]int{}
	with := 0
	for n, row := range t.lines {
		f := g.FormulaAt(row, col)
		if f == nil {
			if g.At(row, col).Formula {
				c.Why = "a formula in it is not understood"
			}
			continue
		}
		with++
		if n > 0 || len(t.lines) == 1 {
			formulas[f.Key()] = f
			count[f.Key()]++
		}
	}
	if with*2 < len(t.lines) || c.Why != "" {
		return
	}
	if len(formulas) != 1 || with < len(t.lines)-1 {
		c.Why = "its rows hold different formulas, or none"
		return
	}
	in := formula.Beside{Sheet: g.Name, First: t.Range.Top + t.HeaderRows, Col: col, Name: func(right int) (string, bool) {
		at := i + right
		if at < 0 || at >= len(t.Columns) || at == i || t.Columns[at].LeaveOut {
			return "", false
		}
		return t.Headers[at], true
	}, Date: func(right int) bool {
		at := i + right
		return at >= 0 && at < len(t.Columns) && t.Columns[at].Kind.Kind == value.Date
	}}
	for _, f := range formulas {
		var err error
		if c.Clause, err = f.Clause(in); err != nil {
			c.Why, c.Clause = fmt.Sprintf("its formula cannot be said as a clause: %v", err), ""
		}
	}
}
