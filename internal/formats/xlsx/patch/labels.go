package patch

import (
	"fmt"
	"io"
	"strings"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// Figure is a value that stands beside a label.
type Figure struct {
	Label string
	Value value.Value
}

// Labelled tells what became of figures.
type Labelled struct {
	Sheet string
	Set   int
	Added []string // labels that were put in
	Unmet []string // labels that the sheet does not hold
}

// Says tells it in words.
func (l Labelled) Says() string {
	says := fmt.Sprintf("%s: %d figures set by their labels", l.Sheet, l.Set)
	if len(l.Added) > 0 {
		says += ", added " + strings.Join(l.Added, ", ")
	}
	if len(l.Unmet) > 0 {
		says += "; no cell says " + strings.Join(l.Unmet, ", ")
	}
	return says
}

// Label puts figures right beside the cells of a sheet that say their labels, wherever
// those are. With add, a label that is not there is put in below the last one met.
func Label(w io.Writer, workbook []byte, sheet string, figures []Figure, add bool) (Labelled, error) {
	b, err := open(workbook)
	if err != nil {
		return Labelled{}, err
	}
	s, err := b.findSheet(sheet)
	if err != nil {
		return Labelled{}, err
	}
	g, err := b.gridOf(s)
	if err != nil {
		return Labelled{}, err
	}
	done := Labelled{Sheet: s.name}
	p := newPlan(s)
	last, column := -1, 0
	var unmet []Figure
	for _, f := range figures {
		row, col, ok := labelAt(g, f.Label)
		if !ok {
			unmet = append(unmet, f)
			continue
		}
		if row > last {
			last, column = row, col
		}
		p.set(row, besides(g, row, col), cell{value: f.Value})
		done.Set++
	}
	for _, f := range unmet {
		if !add || last < 0 {
			done.Unmet = append(done.Unmet, f.Label)
			continue
		}
		for last++; !g.At(last, column).Value.IsBlank() || !g.At(last, column+1).Value.IsBlank(); last++ {
		}
		p.set(last, column, cell{value: value.OfText(f.Label)})
		p.set(last, column+1, cell{value: f.Value})
		done.Added = append(done.Added, f.Label)
	}
	p.across = bounds(p)
	if err := b.carryOut(p); err != nil {
		return done, err
	}
	return done, b.write(w)
}

// labelAt finds the first cell that says a label, with or without a colon.
func labelAt(g *reading.Grid, label string) (row, col int, ok bool) {
	wanted := value.Fold(strings.TrimRight(label, ": "))
	for row := range g.Height() {
		for col := range g.Width(row) {
			c := g.At(row, col)
			if c.Value.Kind() == value.Text && value.Fold(strings.TrimRight(strings.TrimSpace(c.Value.Raw()), ": ")) == wanted {
				return row, col, true
			}
		}
	}
	return 0, 0, false
}

// besides gives the column right beside a label, past the cells merged with it.
func besides(g *reading.Grid, row, col int) int {
	for _, m := range g.Merged {
		if m.Top <= row && row <= m.Bottom && m.Left <= col && col <= m.Right {
			return m.Right + 1
		}
	}
	return col + 1
}

// bounds gives the range of all that a plan writes.
func bounds(p *plan) reading.Range {
	r := reading.Range{Top: reading.MaxRows, Left: reading.MaxColumns, Bottom: -1, Right: -1}
	for row, cells := range p.rows {
		for col := range cells {
			r = reading.Range{Top: min(r.Top, row), Left: min(r.Left, col), Bottom: max(r.Bottom, row), Right: max(r.Right, col)}
		}
	}
	return r
}
