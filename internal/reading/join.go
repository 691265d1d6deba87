package reading

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

func readSheet(g *Grid) Sheet {
	g.fillMerged()
	s := Sheet{Name: g.Name, Hidden: g.Hidden, Tables: []Table{}, LeftOut: []LeftOut{}, grid: g}
	frames := joinFrames(g, findBlocks(g))
	for _, b := range g.madeBlocks(frames) {
		for _, f := range partFrames(g, b) {
			f.made = true
			frames = append(frames, f)
		}
	}
	for _, f := range frames {
		if f.why != "" || g.over() {
			continue
		}
		t := f.table(g)
		t.Doubts = append(t.Doubts, g.Doubts...)
		if g.crowd {
			t.Doubts = append(t.Doubts, fmt.Sprintf("the sheet falls into more than %d parts with gaps between them: it was taken as one table", mostBlocks))
		}
		s.Tables = append(s.Tables, t)
	}
	for _, f := range frames {
		switch {
		case f.why == "":
		case len(s.Tables) == 0 && f.listAlone(g):
			t := f.table(g)
			t.Doubts = append(t.Doubts, "it is one column alone: it was taken as a table with one column")
			s.Tables = append(s.Tables, t)
		default:
			s.LeftOut = append(s.LeftOut, LeftOut{f.block, f.why})
		}
	}
	s.leaveOutAsides(g)
	s.account()
	return s
}

// joinFrames joins to a table what goes on below it after a blank row or after
// hollow rows.
func joinFrames(g *Grid, blocks []Range) []*frame {
	var frames []*frame
	for _, b := range blocks {
		if g.over() {
			break
		}
		joined := false
		for i := len(frames) - 1; i >= 0 && !joined; i-- {
			above := frames[i]
			switch {
			case above.why != "":
			case above.block.meets(b): // it lies in what has been joined already
				above.block, above.kinds, joined = above.block.join(b), nil, true
			case above.goesOnWith(g, b) && !crosses(frames, above, b):
				above.block.Bottom, joined = b.Bottom, true
			}
		}
		if !joined {
			frames = append(frames, partFrames(g, b)...)
		}
	}
	for _, f := range frames {
		f.typed = f.block.Bottom
		f.stretch(g, frames)
	}
	return joinBeside(g, frames)
}

// crosses reports whether a table that went on with a block would run through
// another.
func crosses(frames []*frame, f *frame, b Range) bool {
	whole := f.block
	whole.Bottom = b.Bottom
	return slices.ContainsFunc(frames, func(o *frame) bool { return o != f && o.why == "" && o.block.meets(whole) })
}

// goesOnWith reports whether a block below holds more rows of the same table.
func (f *frame) goesOnWith(g *Grid, b Range) bool {
	if b.Left < f.block.Left || b.Right > f.block.Right || b.Top <= f.block.Bottom {
		return false
	}
	blank := 0
	for row := f.block.Bottom + 1; row < b.Top; row++ {
		if g.empty(f.block, row) {
			if blank++; blank > 2 {
				return false
			}
		}
	}
	if slices.ContainsFunc(g.Declared, func(d Declared) bool { return d.Range.Top == b.Top && d.Range.meets(b) }) {
		return false
	}
	switch {
	case f.body() > f.block.Bottom: // a header alone so far
		return blank < 2 && f.rows > 0 && b.width()*10 >= f.block.width()*6 && (frameOf(g, b).rows == 0 || f.heads(g, b))
	case isTotal(g, f.block, b.Top):
		return blank < 2 && b.height() == 1
	}
	same, other := 0, 0
	for col := b.Left; col <= b.Right; col++ {
		c := g.At(b.Top, col)
		k := f.kind(g, col)
		switch {
		case c.Value.IsBlank() || k == isNothing:
		case k == isText:
		case looksLike(c, g.Texts) == k:
			same++
		default:
			other++
		}
	}
	filled := g.filled(b, b.Top)
	switch {
	case blank == 2: // it takes more to see rows of the same table in them
		return same > 0 && other == 0 && b.Left == f.block.Left && b.height() >= 3 && frameOf(g, b).rows == 0
	case same > 0:
		return same >= other
	case blank == 0 && other == 0 && len(filled) > 0 && filled[0] == f.block.Left:
		return true
	case other > 0 || len(filled) < 2:
		return false
	case g.repeats(f.block, f.header, b.Top):
		return true
	case g.bold(b, b.Top) && !g.bold(f.block, f.body()):
		return false
	case f.rows == 0 || blank == 0:
		return true
	case g.plainer(b, filled):
		return false
	}
	// words under words: more rows, unless they are narrower and name something
	return b.Left == f.block.Left && len(filled)*10 >= f.block.width()*6
}

// heads reports whether a header alone is that of a block of words a blank row below it:
// they are equally wide, and the block's first row is not set off as a header is.
func (f *frame) heads(g *Grid, b Range) bool {
	if b.Left != f.block.Left || b.Right != f.block.Right || len(g.filled(f.block, f.body()-1)) != b.width() || g.bold(b, b.Top) && !g.bold(b, b.Top+1) {
		return false
	}
	for col := b.Left; col <= b.Right; col++ { // words over other kinds name them
		if k := g.sample(b.Top+1, b.Bottom, col); k != isText && k != isNothing {
			return false
		}
	}
	return true
}

// plainer reports whether the first row of a block has no digits where the rows
// below it have them: then it names columns.
func (g *Grid) plainer(b Range, filled []int) bool {
	coded := 0
	for _, col := range filled {
		if hasDigit(g.At(b.Top, col)) {
			return false
		}
		all := b.Bottom > b.Top
		for row := b.Top + 1; row <= min(b.Bottom, b.Top+sampleRows); row++ {
			all = all && hasDigit(g.At(row, col))
		}
		if all {
			coded++
		}
	}
	return coded > 0
}

func hasDigit(c Cell) bool { return strings.ContainsAny(c.Value.String(), "0123456789") }

// kind gives what the cells of a column look like.
func (f *frame) kind(g *Grid, col int) guess {
	if f.kinds == nil {
		for c := f.block.Left; c <= f.block.Right; c++ {
			f.kinds = append(f.kinds, g.sample(f.body(), f.block.Bottom, c))
		}
	}
	return f.kinds[col-f.block.Left]
}

// listAlone reports whether a single column reads as a list under a name; it
// then makes it a table.
func (f *frame) listAlone(g *Grid) bool {
	b := f.block
	if b.width() != 1 || b.height() < 4 || looksLike(g.At(b.Top, b.Left), true) != isText {
		return false
	}
	for row := b.Top; row <= b.Bottom; row++ {
		if s := g.At(row, b.Left).Value.String(); len([]rune(s)) > 60 || strings.HasSuffix(s, ".") {
			return false
		}
	}
	f.header, f.rows, f.why = b.Top, 1, ""
	return true
}

// leaveOutAsides takes out of the tables what only looks like one beside a real
// table: a key or legend, labels with values, and a line for a signature.
func (s *Sheet) leaveOutAsides(g *Grid) {
	tables := s.Tables
	s.Tables = slices.DeleteFunc(slices.Clone(tables), func(t Table) bool {
		why := ""
		switch {
		case t.Name != "":
			return false
		case isRecord(g, &t):
			why = "labels with their values: one record, not a table"
		case t.Rows == 0 && slices.ContainsFunc(tables, func(o Table) bool { return o.Rows > 0 }):
			why = "a line of words with no rows below it"
		case isLegend(g, &t) && slices.ContainsFunc(tables, func(o Table) bool { return besides(&t, &o) }):
			why = "a key or legend beside a table"
		case slices.ContainsFunc(tables, func(o Table) bool {
			return o.Range != t.Range && o.Rows >= t.Rows && isLabels(g, &t, o.Range.width() > t.Range.width())
		}):
			why = "labels with their values"
		default:
			return false
		}
		whole := t.Range
		for _, l := range t.LeftOut {
			whole = whole.join(l.Range)
		}
		s.LeftOut = append(s.LeftOut, LeftOut{whole, why})
		return true
	})
}

// isLegend reports whether a table is a caption over pairs of words.
func isLegend(g *Grid, t *Table) bool {
	if t.Range.width() != 2 || len(t.LeftOut) == 0 || t.LeftOut[0].Range.Bottom != t.Range.Top-1 {
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

// isLabels reports whether a table is really a few labels, each with its value
// beside it, as they stand above and below tables; beside a wider one, values
// of several kinds are enough to tell.
func isLabels(g *Grid, t *Table, narrow bool) bool {
	if t.Range.width() != 2 || t.Range.height() > 8 {
		return false
	}
	colons, rows := 0, 0
	kinds := map[guess]bool{}
	for row := t.Range.Top; row <= t.Range.Bottom; row++ {
		rows++
		if strings.HasSuffix(strings.TrimSpace(g.At(row, t.Range.Left).Value.String()), ":") {
			colons++
		}
		kinds[looksLike(g.At(row, t.Range.Right), g.Texts)] = true
	}
	if narrow && t.HeaderRows == 0 && rows <= 6 && t.Columns[0].Kind.Kind == value.Text {
		return true
	}
	return colons*2 > rows || narrow && (rows <= 4 && len(kinds) > 2 || rows <= 2 && len(kinds) > 1 && !g.At(t.Range.Top, t.Range.Left).Bold)
}

// besides reports whether t stands beside a table that is wider and longer.
func besides(t, other *Table) bool {
	a, b := t.Range, other.Range
	return (a.Left > b.Right || a.Right < b.Left) && a.Top <= b.Bottom && a.Bottom >= b.Top &&
		b.width() > a.width() && other.Rows >= t.Rows
}

func hiddenRows(g *Grid, t *Table) {
	n := 0
	for _, row := range t.lines {
		if _, hidden := slices.BinarySearch(g.HiddenAt, row); hidden {
			n++
		}
	}
	if n > 0 {
		t.Doubts = append(t.Doubts, fmt.Sprintf("%d of its rows are hidden in the file: they were taken as rows", n))
	}
}
