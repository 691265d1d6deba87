package reading

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

// joinBeside joins parts of a table that a blank column parts: they share their header's
// row and their last, and one of them has nothing by which its rows go. Where each has,
// they may be two lists, and both say so.
func joinBeside(g *Grid, frames []*frame) []*frame {
	for i := 0; i < len(frames); i++ {
		for j := 0; j < len(frames); j++ {
			a, b := frames[i], frames[j]
			if i == j || !sharesRows(g, a, b) {
				continue
			}
			if a.lists(g) && b.lists(g) {
				a.doubts = append(a.doubts, fmt.Sprintf("what stands at %s beside it has the same rows: if it is the same table, give the range of both", b.block))
				continue
			}
			a.block.Right, a.kinds, a.why = b.block.Right, nil, ""
			if a.header < 0 || b.header >= 0 && b.header < a.header { // a column alone may have none
				a.header = b.header
			}
			a.rows = max(a.rows, b.rows)
			a.doubts = append(a.doubts, fmt.Sprintf("column %s is blank: what stands on both sides of it was taken as one table", ColumnName(b.block.Left-1)))
			frames = slices.Delete(frames, j, j+1)
			if j < i {
				i--
			}
			j = -1
		}
	}
	return frames
}

// sharesRows reports whether b stands right of a, a blank column away, on the same rows.
func sharesRows(g *Grid, a, b *frame) bool {
	single := func(f *frame) bool { return f.why != "" && f.block.width() == 1 }
	switch {
	case a.name != "" || b.name != "" || a.why != "" && !single(a) || b.why != "" && !single(b) || single(a) && single(b):
		return false
	case b.block.Left != a.block.Right+2 || a.block.Top != b.block.Top || a.block.Bottom != b.block.Bottom || a.block.height() < 3:
		return false
	case !single(a) && !single(b) && (a.header != b.header || a.rows != b.rows):
		return false
	}
	between := Range{a.block.Top, a.block.Right + 1, a.block.Bottom, a.block.Right + 1}
	for row := between.Top; row <= between.Bottom; row++ {
		if !g.empty(between, row) {
			return false
		}
	}
	if a.block.Bottom+1 < g.Height() && !single(a) && !single(b) { // one goes on, and the other does not
		if g.empty(a.block, a.block.Bottom+1) != g.empty(b.block, b.block.Bottom+1) {
			return false
		}
	}
	header := max(a.header, b.header)
	names := map[string]bool{}
	for col := a.block.Left; col <= b.block.Right; col++ {
		name := value.Fold(g.At(header, col).Value.String())
		if name != "" && names[name] {
			return false
		}
		names[name] = true
	}
	return true
}

// lists reports whether a part has a column of words that are all different: what its
// rows go by.
func (f *frame) lists(g *Grid) bool {
	from := f.body()
	if f.why != "" {
		return false // one column alone: it is of the table beside it
	}
	for col := f.block.Left; col <= f.block.Right; col++ {
		if f.kind(g, col) != isText {
			continue
		}
		seen, all := map[string]bool{}, true
		for row := from; row <= f.block.Bottom; row++ {
			s := value.Fold(strings.TrimSpace(g.At(row, col).Value.String()))
			if s == "" || seen[s] {
				all = false
				break
			}
			seen[s] = true
		}
		if all {
			return true
		}
	}
	return false
}

// isRecord reports whether a table of two columns is really one record: labels, all
// different, each with a value of its own kind beside it.
func isRecord(g *Grid, t *Table) bool {
	if t.Range.width() != 2 || t.Range.height() < 3 || t.Range.height() > 60 || g.bold(t.Range, t.Range.Top) && !g.bold(t.Range, t.Range.Top+1) {
		return false
	}
	colons, rows := 0, 0
	labels, kinds := map[string]bool{}, map[guess]int{}
	for row := t.Range.Top; row <= t.Range.Bottom; row++ {
		left := g.At(row, t.Range.Left)
		name := value.Fold(left.Value.String())
		if looksLike(left, true) != isText || labels[name] || len(name) > 60 {
			return false
		}
		labels[name] = true
		rows++
		if strings.HasSuffix(strings.TrimSpace(name), ":") {
			colons++
		}
		kinds[looksLike(g.At(row, t.Range.Right), g.Texts)]++
	}
	most := 0
	for k, n := range kinds {
		if k != isNothing {
			most = max(most, n)
		}
	}
	return colons*2 > rows || len(kinds) >= 4 && most*2 <= rows
}
