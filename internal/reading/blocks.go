package reading

import (
	"cmp"
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
		return !value.Equal(c.Value, zero)
	case value.Text:
		return !c.Value.IsBlank() && !strings.EqualFold(strings.TrimSpace(c.Value.Raw()), "false") // an unticked box, as text
	}
	return !c.Value.IsBlank()
}

var zero = value.OfInt(0)

// empty reports whether there is nothing at all in a row of a range.
func (g *Grid) empty(r Range, row int) bool {
	for col := r.Left; col <= r.Right; col++ {
		if c := g.At(row, col); c.Formula || c.Value.Kind() != value.Blank {
			return false
		}
	}
	return true
}

func (g *Grid) hollow(r Range, row int) bool {
	for col := r.Left; col <= r.Right; col++ {
		if solid(g.At(row, col)) {
			return false
		}
	}
	return true
}

// filled gives the columns of a row of a range that hold something.
func (g *Grid) filled(r Range, row int) []int {
	var out []int
	for col := r.Left; col <= r.Right; col++ {
		if !g.At(row, col).Value.IsBlank() {
			out = append(out, col)
		}
	}
	return out
}

// solidIn gives the columns of a row of a range in which somebody put something.
func (g *Grid) solidIn(r Range, row int) []int {
	var out []int
	for col := r.Left; col <= r.Right; col++ {
		if solid(g.At(row, col)) {
			out = append(out, col)
		}
	}
	return out
}

// fillMerged gives every cell of a merged column of cells its value, in rows
// that hold something of their own: each of them belongs to what is merged.
func (g *Grid) fillMerged() {
	for _, m := range g.Merged {
		if m.width() > 1 || m.height() < 2 {
			continue
		}
		from := g.At(m.Top, m.Left)
		if from.Value.IsBlank() {
			continue
		}
		for row := m.Top + 1; row <= m.Bottom && row < g.Height(); row++ {
			if !g.hollow(Range{row, 0, row, g.Width(row) - 1}, row) {
				g.Put(row, m.Left, from)
			}
		}
	}
}

// findBlocks joins solid cells that touch, corner to corner too, into blocks
// and gives each block's bounds. Blocks whose bounds overlap are one. A range
// that the file declares a table is one block, whatever is in it.
func findBlocks(g *Grid) []Range {
	blocks := g.blocksOf(func(row, col int) bool { return solid(g.At(row, col)) })
	if g.crowd {
		blocks = []Range{g.whole()}
	}
	g.clampDeclared()
	for _, d := range g.Declared {
		if !d.NoHeader {
			blocks = g.gatherDeclared(blocks, d)
		}
	}
	return g.widen(joinOverlaps(blocks))
}

// blocksOf joins cells that hold something, and touch, into blocks.
func (g *Grid) blocksOf(holds func(row, col int) bool) []Range {
	var open, done []Range
	var runs []Range
	for row := range g.Height() {
		if len(done)+len(open) > mostBlocks || row%1024 == 0 && g.over() {
			g.crowd = g.why == nil
			break
		}
		runs = runs[:0]
		for col := range g.Width(row) {
			if !holds(row, col) {
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
	return joinOverlaps(append(done, open...))
}

// mostBlocks is how many blocks of cells a sheet may fall into. In more of them
// nobody would see tables; the sheet is then one block, with gaps in it.
const mostBlocks = 1000

// whole gives the range of everything that somebody put there.
func (g *Grid) whole() Range {
	out := Range{Top: g.Height(), Left: MaxColumns, Bottom: -1, Right: -1}
	for row := range g.Height() {
		for col := range g.Width(row) {
			if solid(g.At(row, col)) {
				out = Range{min(out.Top, row), min(out.Left, col), max(out.Bottom, row), max(out.Right, col)}
			}
		}
	}
	return out
}

// joinOverlaps makes one of blocks whose bounds overlap, and gives them from
// the top.
func joinOverlaps(blocks []Range) []Range {
	for changed := true; changed; {
		changed = false
		slices.SortStableFunc(blocks, func(a, b Range) int { return cmp.Or(a.Top-b.Top, a.Left-b.Left) })
		var done, open []Range // open: those that reach down to where the next begins
		for _, b := range blocks {
			still := open[:0:0]
			for _, o := range open {
				switch {
				case o.meets(b):
					b, changed = b.join(o), true
				case o.Bottom < b.Top:
					done = append(done, o)
				default:
					still = append(still, o)
				}
			}
			open = append(still, b)
		}
		blocks = append(done, open...)
	}
	slices.SortStableFunc(blocks, func(a, b Range) int { return cmp.Or(a.Top-b.Top, a.Left-b.Left) })
	return blocks
}

// clampDeclared holds declared ranges to where the sheet holds anything, and
// drops those without a header: some files declare whole columns, or all that a
// sheet can hold.
func (g *Grid) clampDeclared() {
	width := 0
	for row := range g.Height() {
		width = max(width, g.Width(row))
	}
	g.Declared = slices.DeleteFunc(g.Declared, func(d Declared) bool { return d.Range.Top >= g.Height() || d.Range.Left >= width })
	g.Declared = slices.DeleteFunc(g.Declared, func(d Declared) bool { return !d.NoHeader && g.hollow(d.Range, d.Range.Top) })
	for i := range g.Declared {
		r := &g.Declared[i].Range
		r.Bottom, r.Right = min(r.Bottom, g.Height()-1), min(r.Right, width-1)
	}
}

// mergeInto adds a run to the open blocks, joining it with all that it touches.
func mergeInto(open []Range, run Range) []Range {
	var out []Range
	for _, b := range open {
		if b.Left <= run.Right+1 && run.Left <= b.Right+1 {
			run = run.join(b)
		} else {
			out = append(out, b)
		}
	}
	return append(out, run)
}

// gatherDeclared joins the blocks that a declared table covers.
func (g *Grid) gatherDeclared(blocks []Range, d Declared) []Range {
	whole := Range{d.Range.Top, d.Range.Left, d.Range.Top, d.Range.Right}
	var out []Range
	for _, b := range blocks {
		if b.meets(d.Range) {
			whole = whole.join(b)
		} else {
			out = append(out, b)
		}
	}
	return append(out, whole)
}
