package reading

import (
	"slices"

	"example.org/kavlo/internal/value"
)

// table makes a table of a frame: its rows, its names, its types.
func (f *frame) table(g *Grid) Table {
	b := f.block
	t := Table{Name: f.name, HeaderRows: f.rows, Range: Range{f.header, b.Left, b.Bottom, b.Right}, Doubts: f.doubts}
	if f.header > b.Top {
		t.leaveOut(b.Top, f.header-1, "stands above the header")
	}
	f.findRows(g, &t)
	last := f.body() - 1
	if len(t.lines) > 0 {
		last = t.lines[len(t.lines)-1]
	}
	t.Range.Bottom = max(last, f.header)
	t.LeftOut = slices.DeleteFunc(t.LeftOut, func(l LeftOut) bool { return l.Reason == blankRow && l.Range.Top > last })
	t.Rows = len(t.lines)
	if n := hollowBelow(g, Range{t.Range.Top, b.Left, max(b.Bottom, last), b.Right}); n > 0 {
		t.leaveOut(max(b.Bottom, last)+1, max(b.Bottom, last)+n, "hollow rows: nothing but unticked boxes, zeros or formula results")
	}
	f.headers(g, &t)
	for i := range t.Columns {
		t.infer(g, i)
	}
	t.sayAll(g)
	hiddenRows(g, &t)
	return t
}

const blankRow = "a blank row"

func (t *Table) leaveOut(top, bottom int, why string) {
	if n := len(t.LeftOut); n > 0 && t.LeftOut[n-1].Reason == why && t.LeftOut[n-1].Range.Bottom == top-1 {
		t.LeftOut[n-1].Range.Bottom = bottom
		return
	}
	t.LeftOut = append(t.LeftOut, LeftOut{Range{top, t.Range.Left, bottom, t.Range.Right}, why})
}

// findRows tells the rows of a table from what stands between and below them.
func (f *frame) findRows(g *Grid, t *Table) {
	bottom := f.block.Bottom
	if f.totals > 0 {
		for _, d := range g.Declared {
			if d.Name == f.name && d.Range.Bottom <= bottom {
				from := d.Range.Bottom - f.totals + 1
				t.leaveOut(from, d.Range.Bottom, "a total, as the defined table says")
				if d.Range.Bottom == bottom {
					bottom = from - 1
				}
			}
		}
	}
	defaults, counted := f.defaultsFrom(g, bottom), f.countedFrom(g, bottom)
	var made []int // rows that hold nothing but what formulas gave, words among it
	for _, d := range g.Declared {
		if d.Exact && d.Name == f.name {
			bottom = max(bottom, d.Range.Bottom)
		}
	}
	for row := f.body(); row <= bottom; row++ {
		switch why := f.aside(g, t, row); {
		case why != blankRow && g.exactly(f.name, row):
			t.lines = append(t.lines, row)
		case row >= defaults && why != blankRow:
			t.leaveOut(row, row, "rows that hold only the same default")
		case row >= counted && why != blankRow:
			t.leaveOut(row, row, "rows that hold only their number")
		case f.totals > 0 && slices.ContainsFunc(t.LeftOut, func(l LeftOut) bool { return l.Range.Top <= row && row <= l.Range.Bottom }):
		case why != "":
			t.leaveOut(row, row, why)
			if why == hollowRow && f.computed(g, row) {
				made = append(made, row)
			}
		default:
			t.lines = append(t.lines, row)
		}
	}
	if len(t.lines) == 0 && len(made) > 0 {
		t.lines = made
		t.LeftOut = slices.DeleteFunc(t.LeftOut, func(l LeftOut) bool { return l.Reason == hollowRow })
	}
	if len(t.lines) > 0 && !slices.ContainsFunc(t.lines, func(row int) bool { return !g.hollow(f.block, row) || f.zeros(g, row) }) {
		t.Doubts = append(t.Doubts, "every row is made by formulas: those that give something were taken as rows")
	}
	for len(t.lines) > 0 && f.footnote(g, t) {
		last := t.lines[len(t.lines)-1]
		t.lines = t.lines[:len(t.lines)-1]
		t.leaveOut(last, last, "a remark below the table")
	}
}

// exactly reports whether a row stands in a table of which every row counts.
func (g *Grid) exactly(name string, row int) bool {
	return name != "" && slices.ContainsFunc(g.Declared, func(d Declared) bool {
		return d.Exact && d.Name == name && d.Range.Top < row && row <= d.Range.Bottom
	})
}

const hollowRow = "a hollow row"

// aside says why a row of the block is no row of the table, or "".
func (f *frame) aside(g *Grid, t *Table, row int) string {
	switch {
	case g.empty(f.block, row):
		return blankRow
	case g.hollow(f.block, row):
		if f.countsAnyway(g, row) {
			return ""
		}
		return hollowRow
	case f.sumsUpAbove(g, t, row), row == f.block.Bottom && f.sumsUp(g, row):
		f.totalled = append(f.totalled, row)
		return "total row"
	case f.rows > 0 && g.repeats(f.block, f.body()-1, row):
		return "the header again"
	case len(g.filled(f.block, row)) == 1 && g.mergedAcross(f.block, row, max(2, f.block.width()*6/10), f.block.width()):
		return "a heading between rows"
	}
	return ""
}

// sumsUp reports whether the last row holds, in two columns or more, the sums of
// all numbers above it, and no other numbers.
func (f *frame) sumsUp(g *Grid, row int) bool {
	if row-f.body() < 3 {
		return false
	}
	sums := 0
	for col := f.block.Left; col <= f.block.Right; col++ {
		last := g.At(row, col).Value
		if last.Kind() != value.Number {
			continue
		}
		var total value.Sum
		for above := f.body(); above < row; above++ {
			if v := g.At(above, col).Value; v.Kind() == value.Number {
				total.Add(v)
			}
		}
		sum, err := total.Value()
		if err != nil || !value.Equal(sum, last) {
			return false
		}
		if !value.Equal(sum, zero) {
			sums++
		}
	}
	return sums >= 2
}

// computed reports whether formulas gave words or dates in a row.
func (f *frame) computed(g *Grid, row int) bool {
	for col := f.block.Left; col <= f.block.Right; col++ {
		if c := g.At(row, col); c.Formula && !c.Value.IsBlank() && (c.Value.Kind() == value.Text || c.Value.Kind() == value.Date) {
			return true
		}
	}
	return false
}

// defaultsFrom gives the row from which on all rows hold the same few values
// and nothing in the first column: what somebody filled down beforehand.
func (f *frame) defaultsFrom(g *Grid, bottom int) int {
	b := f.block
	set := g.solidIn(b, bottom)
	if len(set) == 0 || set[0] == b.Left || len(set)*3 > b.width() {
		return bottom + 1
	}
	same := func(row int) bool {
		if !slices.Equal(g.solidIn(b, row), set) {
			return false
		}
		return !slices.ContainsFunc(set, func(col int) bool { return !value.Equal(g.At(row, col).Value, g.At(bottom, col).Value) })
	}
	from := bottom
	for from > f.body() && same(from-1) {
		from--
	}
	if bottom-from+1 < 5 {
		return bottom + 1
	}
	return from
}

// countedFrom gives the row from which on all rows hold nothing but a number, one
// more than that of the row above: rows that somebody numbered beforehand.
func (f *frame) countedFrom(g *Grid, bottom int) int {
	set := g.solidIn(f.block, bottom)
	if len(set) != 1 || f.block.width() < 2 {
		return bottom + 1
	}
	counts := func(row int) bool { // and the row above goes before it
		if !slices.Equal(g.solidIn(f.block, row), set) {
			return false
		}
		above, here := g.At(row-1, set[0]).Value, g.At(row, set[0]).Value
		if above.Kind() != value.Number || here.Kind() != value.Number {
			return false
		}
		next, err := value.Add(above, value.OfInt(1))
		return err == nil && value.Equal(next, here)
	}
	from := bottom + 1
	for from > f.body()+1 && counts(from-1) {
		from--
	}
	if bottom-from+1 < 5 || len(g.solidIn(f.block, from-1)) < 2 {
		return bottom + 1
	}
	return from
}

// hollowBelow counts the hollow rows that hang below a table.
func hollowBelow(g *Grid, r Range) int {
	n := 0
	for row := r.Bottom + 1; row < g.Height() && g.hollow(r, row) && !g.empty(r, row); row++ {
		n++
	}
	return n
}
