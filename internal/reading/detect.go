package reading

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

// solid reports whether somebody put the cell there: not a default, not what a
// formula gave, not white space.
func solid(c Cell) bool {
	if c.Formula {
		return false
	}
	switch c.Value.Kind() {
	case value.Blank:
		return false
	case value.Checkbox:
		return c.Value.IsTrue()
	case value.Number:
		return !value.Equal(c.Value, value.OfInt(0))
	}
	return !c.Value.IsBlank()
}

func readSheet(g *Grid) Sheet {
	s := Sheet{Name: g.Name, Hidden: g.Hidden, Tables: []Table{}, grid: g}
	blocks := findBlocks(g)
	for _, b := range blocks {
		t, why := readBlock(g, b)
		if t == nil {
			s.LeftOut = append(s.LeftOut, LeftOut{b, why})
			continue
		}
		s.Tables = append(s.Tables, *t)
	}
	s.leaveOutAsides(g)
	slices.SortStableFunc(s.Tables, func(a, b Table) int {
		if a.Range.Top != b.Range.Top {
			return a.Range.Top - b.Range.Top
		}
		return a.Range.Left - b.Range.Left
	})
	return s
}

// leaveOutAsides takes out of the tables what only looks like one beside a real
// table: a key or legend, and a line for a signature.
func (s *Sheet) leaveOutAsides(g *Grid) {
	tables := s.Tables
	s.Tables = slices.DeleteFunc(slices.Clone(tables), func(t Table) bool {
		why := ""
		switch {
		case t.Rows == 0 && slices.ContainsFunc(tables, func(o Table) bool { return o.Rows > 0 }):
			why = "a line of words with no rows below it"
		case isLegend(g, &t) && slices.ContainsFunc(tables, func(o Table) bool { return besides(&t, &o) }):
			why = "a key or legend beside a table"
		default:
			return false
		}
		whole := t.Range
		for _, l := range t.LeftOut {
			whole.Top, whole.Bottom = min(whole.Top, l.Range.Top), max(whole.Bottom, l.Range.Bottom)
		}
		s.LeftOut = append(s.LeftOut, LeftOut{whole, why})
		return true
	})
}

// isLegend reports whether a table is a caption over pairs of words.
func isLegend(g *Grid, t *Table) bool {
	if t.Range.Right-t.Range.Left != 1 || len(t.LeftOut) == 0 || t.LeftOut[0].Range.Bottom != t.Range.Top-1 {
		return false
	}
	for _, c := range t.Columns {
		if c.Kind.Kind != value.Text {
			return false
		}
	}
	caption := t.Range.Top - 1
	return solid(g.At(caption, t.Range.Left)) && !solid(g.At(caption, t.Range.Right))
}

// besides reports whether t stands beside a table that is wider and longer.
func besides(t, other *Table) bool {
	a, b := t.Range, other.Range
	return (a.Left > b.Right || a.Right < b.Left) && a.Top <= b.Bottom && a.Bottom >= b.Top &&
		b.Right-b.Left > a.Right-a.Left && other.Rows >= t.Rows
}

// findBlocks joins solid cells that touch, corner to corner too, into blocks
// and gives each block's bounds. Blocks whose bounds overlap are one.
func findBlocks(g *Grid) []Range {
	var open, done []Range
	for row := range g.Rows {
		var runs []Range
		for col, c := range g.Rows[row] {
			if !solid(c) {
				continue
			}
			if n := len(runs); n > 0 && runs[n-1].Right == col-1 {
				runs[n-1].Right = col
			} else {
				runs = append(runs, Range{row, col, row, col})
			}
		}
		var next []Range
		for _, b := range open {
			if b.Bottom < row-1 {
				done = append(done, b)
			} else {
				next = append(next, b)
			}
		}
		for _, run := range runs {
			next = mergeInto(next, run)
		}
		open = next
	}
	return append(done, open...)
}

// mergeInto adds a run to the open blocks, joining it with all that it touches.
func mergeInto(open []Range, run Range) []Range {
	var out []Range
	for _, b := range open {
		if b.Left <= run.Right+1 && run.Left <= b.Right+1 {
			run = Range{min(b.Top, run.Top), min(b.Left, run.Left), max(b.Bottom, run.Bottom), max(b.Right, run.Right)}
		} else {
			out = append(out, b)
		}
	}
	return append(out, run)
}

// readBlock makes a table of a block, or says why it is none.
func readBlock(g *Grid, b Range) (*Table, string) {
	width := b.Right - b.Left + 1
	if width < 2 {
		return nil, "a single column of remarks"
	}
	header := -1
	for row := b.Top; row <= b.Bottom && header < 0; row++ {
		if isHeader(g, b, row) {
			header = row
		}
	}
	if header < 0 {
		return nil, "no row in it reads as a header"
	}
	t := &Table{HeaderRows: 1, Range: Range{header, b.Left, b.Bottom, b.Right}}
	if header > b.Top {
		t.LeftOut = append(t.LeftOut, LeftOut{Range{b.Top, b.Left, header - 1, b.Right}, "stands above the header"})
	}
	for t.Range.Bottom > header && isTotal(g, t.Range, t.Range.Bottom) {
		t.LeftOut = append(t.LeftOut, LeftOut{Range{t.Range.Bottom, b.Left, t.Range.Bottom, b.Right}, "a total"})
		t.Range.Bottom--
	}
	for row := header + 1; row <= t.Range.Bottom; row++ {
		if hollow(g, t.Range, row) {
			t.LeftOut = append(t.LeftOut, LeftOut{Range{row, b.Left, row, b.Right}, "a hollow row"})
			continue
		}
		t.lines = append(t.lines, row)
	}
	t.Rows = len(t.lines)
	if n := hollowBelow(g, t.Range); n > 0 {
		below := Range{t.Range.Bottom + 1, b.Left, t.Range.Bottom + n, b.Right}
		t.LeftOut = append(t.LeftOut, LeftOut{below, "hollow rows: nothing but unticked boxes, zeros or formula results"})
	}
	t.name(g)
	for i := range t.Columns {
		t.infer(g, i)
	}
	return t, ""
}

// isHeader reports whether a row names columns: at least two cells, nearly all
// of the block's width, and every one of them text.
func isHeader(g *Grid, b Range, row int) bool {
	named := 0
	for col := b.Left; col <= b.Right; col++ {
		c := g.At(row, col)
		if c.Value.IsBlank() {
			continue
		}
		if c.Value.Kind() != value.Text || c.Formula || len(c.Value.Raw()) > 200 {
			return false
		}
		named++
	}
	return named >= 2 && named*10 >= (b.Right-b.Left+1)*6
}

var totalWords = []string{"total", "totals", "sum", "grand total", "subtotal", "sub-total"}

// isTotal reports whether a row sums up those above: it says so, beside a
// formula or with cells left empty.
func isTotal(g *Grid, r Range, row int) bool {
	said, computed, filled := false, false, 0
	for col := r.Left; col <= r.Right; col++ {
		c := g.At(row, col)
		if c.Value.IsBlank() {
			continue
		}
		filled++
		computed = computed || c.Formula
		if c.Value.Kind() == value.Text {
			word := strings.TrimRight(value.Fold(c.Value.Raw()), ": ")
			said = said || slices.Contains(totalWords, word)
		}
	}
	return said && (computed || filled < r.Right-r.Left+1)
}

func hollow(g *Grid, r Range, row int) bool {
	for col := r.Left; col <= r.Right; col++ {
		if solid(g.At(row, col)) {
			return false
		}
	}
	return true
}

// hollowBelow counts the hollow rows that hang below a table.
func hollowBelow(g *Grid, r Range) int {
	n := 0
	for row := r.Bottom + 1; row < len(g.Rows); row++ {
		any := false
		for col := r.Left; col <= r.Right; col++ {
			c := g.At(row, col)
			if solid(c) {
				return n
			}
			any = any || c.Value.Kind() != value.Blank || c.Formula
		}
		if !any {
			return n
		}
		n++
	}
	return n
}

// name gives every column a name of its own.
func (t *Table) name(g *Grid) {
	seen := map[string]int{}
	for col := t.Range.Left; col <= t.Range.Right; col++ {
		name := strings.Join(strings.Fields(strings.NewReplacer("[", "(", "]", ")").Replace(g.At(t.Range.Top, col).Value.String())), " ")
		if name == "" {
			name = "Column " + strings.TrimRight(CellName(0, col), "1")
			t.Doubts = append(t.Doubts, fmt.Sprintf("column %s has no header: it is called %s", CellName(t.Range.Top, col), name))
		}
		seen[value.Fold(name)]++
		if n := seen[value.Fold(name)]; n > 1 {
			plain := name
			name = fmt.Sprintf("%s (%d)", plain, n)
			t.Doubts = append(t.Doubts, fmt.Sprintf("the header %s is there twice: the one at %s is called %s", plain, CellName(t.Range.Top, col), name))
		}
		t.Headers = append(t.Headers, name)
		t.Columns = append(t.Columns, Column{Name: name})
	}
}
