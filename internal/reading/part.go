package reading

import "slices"

// partFrames gives the frames of a block: one, or several where a second header
// stands among its rows and so another table begins that touches the first.
func partFrames(g *Grid, b Range) []*frame {
	f := frameOf(g, b)
	at := f.secondHeader(g)
	if at < 0 {
		return []*frame{f}
	}
	above, below := Range{b.Top, b.Left, at - 1, b.Right}, Range{at, b.Left, b.Bottom, b.Right}
	return append([]*frame{frameOf(g, g.shrink(above))}, partFrames(g, g.shrink(below))...)
}

// secondHeader gives the row of another header below a table's, or -1: words in
// bold as the first header is and the rows between are not, over a column that
// held no words, and other words than the first header's.
func (f *frame) secondHeader(g *Grid) int {
	if f.why != "" || f.name != "" || f.rows == 0 || !g.bold(f.block, f.body()-1) {
		return -1
	}
	for row := f.body() + 1; row < f.block.Bottom; row++ {
		filled := g.filled(f.block, row)
		if len(filled) < 2 || !g.bold(f.block, row) || g.bold(f.block, row-1) || g.bold(f.block, row+1) ||
			isTotal(g, f.block, row) || g.repeats(f.block, f.body()-1, row) {
			continue
		}
		words := !slices.ContainsFunc(filled, func(col int) bool { return looksLike(g.At(row, col), true) != isText })
		typed := slices.ContainsFunc(filled, func(col int) bool {
			k := g.sample(f.body(), row-1, col)
			return k != isText && k != isNothing
		})
		if words && typed {
			return row
		}
	}
	return -1
}

// shrink takes from a range the columns at its sides that hold nothing in it.
func (g *Grid) shrink(r Range) Range {
	holds := func(col int) bool {
		for row := r.Top; row <= r.Bottom; row++ {
			if solid(g.At(row, col)) {
				return true
			}
		}
		return false
	}
	for r.Left < r.Right && !holds(r.Left) {
		r.Left++
	}
	for r.Right > r.Left && !holds(r.Right) {
		r.Right--
	}
	return r
}
