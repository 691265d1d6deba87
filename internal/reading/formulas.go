package reading

import "example.org/kavlo/internal/formula"

// Uncomputed is a cell with a formula whose result is not known: the file does not store
// it, and it is not computed here.
type Uncomputed struct {
	Row, Col int
	Why      string
}

// PutFormula notes the formula that gave a cell's value.
func (g *Grid) PutFormula(row, col int, f *formula.Formula) {
	n, known := g.formulaNo[f.Key()]
	if !known {
		if len(g.formulas) >= mostFormulas {
			return
		}
		if g.formulaNo == nil {
			g.formulaNo = map[string]int32{}
		}
		g.formulas = append(g.formulas, f)
		n = int32(len(g.formulas)) //nolint:gosec // there are at most mostFormulas
		g.formulaNo[f.Key()] = n
	}
	for len(g.formulaAt) <= row {
		g.formulaAt = append(g.formulaAt, nil)
	}
	for len(g.formulaAt[row]) <= col {
		g.formulaAt[row] = append(g.formulaAt[row], 0)
	}
	g.formulaAt[row][col] = n
}

// mostFormulas is how many different formulas of a sheet are kept; one that was filled
// down a column is one.
const mostFormulas = 20_000

// FormulaAt gives the formula that gave a cell's value; nil where there is none, or it is
// not understood.
func (g *Grid) FormulaAt(row, col int) *formula.Formula {
	if row >= 0 && row < len(g.formulaAt) && col >= 0 && col < len(g.formulaAt[row]) {
		if n := g.formulaAt[row][col]; n > 0 {
			return g.formulas[n-1]
		}
	}
	return nil
}

// uncomputed gives the cells of a column, among rows of a table, whose formulas have no
// result, and why the first has none.
func (g *Grid) uncomputed(t *Table, col int) (n int, why string) {
	if len(g.Missing) == 0 {
		return 0, ""
	}
	lines := make(map[int]bool, len(t.lines))
	for _, l := range t.lines {
		lines[l] = true
	}
	for _, m := range g.Missing {
		if m.Col == col && lines[m.Row] {
			if n++; n == 1 {
				why = m.Why
			}
		}
	}
	return n, why
}
