package reading

import (
	"cmp"
	"fmt"
	"slices"

	"example.org/kavlo/internal/value"
)

// Every cell that holds something is in a table or is named as left out: what none of the
// steps before has named, is named here.

// mostNamed is how many further parts of a sheet are named one by one.
const mostNamed = 200

// span is part of a row that is accounted for, from one row to another.
type span struct{ top, bottom, left, right int }

// account names what is neither in a table nor left out by name.
func (s *Sheet) account() {
	g := s.grid
	spans, lines := s.spans()
	slices.SortFunc(spans, func(a, b span) int { return cmp.Compare(a.top, b.top) })
	var open []span
	var found []LeftOut
	next := 0
	for row := range g.Height() {
		if row%1024 == 0 && g.over() {
			return
		}
		open = slices.DeleteFunc(open, func(p span) bool { return p.bottom < row })
		for next < len(spans) && spans[next].top <= row {
			if spans[next].bottom >= row {
				open = append(open, spans[next])
			}
			next++
		}
		for col := 0; col < g.Width(row); col++ {
			if end, in := coveredTo(open, col); in {
				col = end
				continue
			}
			if end, in := lines.covers(row, col); in {
				col = end
				continue
			}
			if c := g.At(row, col); !c.Value.IsBlank() {
				found = nameCell(found, row, col, whatStands(c))
			}
		}
	}
	if len(found) > mostNamed {
		rest := found[mostNamed].Range
		for _, l := range found[mostNamed+1:] {
			rest = rest.join(l.Range)
		}
		found = append(found[:mostNamed], LeftOut{rest, fmt.Sprintf("%d more cells or blocks outside the tables", len(found)-mostNamed)})
	}
	s.LeftOut = append(s.LeftOut, found...)
}

func coveredTo(open []span, col int) (int, bool) {
	for _, p := range open {
		if p.left <= col && col <= p.right {
			return p.right, true
		}
	}
	return 0, false
}

// tableLines are the rows of tables.
type tableLines []struct {
	left, right int
	rows        map[int]bool
	from, to    int // where all rows between are lines, and rows is nil
}

func (t tableLines) covers(row, col int) (int, bool) {
	for i := range t {
		if l := &t[i]; l.left <= col && col <= l.right && (l.rows == nil && l.from <= row && row <= l.to || l.rows[row]) {
			return l.right, true
		}
	}
	return 0, false
}

// spans gives what is accounted for: headers, what is left out, and the lines of tables.
func (s *Sheet) spans() ([]span, tableLines) {
	var out []span
	var lines tableLines
	of := func(r Range) span { return span{r.Top, r.Bottom, r.Left, r.Right} }
	for _, l := range s.LeftOut {
		out = append(out, of(l.Range))
	}
	for i := range s.Tables {
		t := &s.Tables[i]
		out = append(out, span{t.Range.Top, t.Range.Top + t.HeaderRows - 1, t.Range.Left, t.Range.Right})
		for _, l := range t.LeftOut {
			out = append(out, of(l.Range))
		}
		if id := t.Identity; id != nil && id.Column >= len(t.Columns) { // which rows they are, which nobody is to see
			at := t.Range.Left + id.Column
			out = append(out, span{t.Range.Top, t.Range.Bottom, at, at})
		}
		n := len(t.lines)
		if n == 0 {
			continue
		}
		lines = append(lines, tableLines{{left: t.Range.Left, right: t.Range.Right, from: t.lines[0], to: t.lines[n-1]}}...)
		if l := &lines[len(lines)-1]; l.to-l.from+1 != n {
			l.rows = make(map[int]bool, n)
			for _, row := range t.lines {
				l.rows[row] = true
			}
		}
	}
	return out, lines
}

func whatStands(c Cell) string {
	switch {
	case c.Formula:
		return "formula results outside the tables"
	case !solid(c) && c.Value.Kind() == value.Checkbox:
		return "unticked boxes outside the tables"
	}
	return "outside the tables"
}

// nameCell adds a cell to the part that it goes on with, below or to the right.
func nameCell(found []LeftOut, row, col int, why string) []LeftOut {
	if n := len(found); n > 0 {
		if last := &found[n-1]; last.Reason == why && last.Range.Bottom == row && last.Range.Right == col-1 {
			last.Range.Right = col
			return joinAbove(found)
		}
	}
	return joinAbove(append(found, LeftOut{Range{row, col, row, col}, why}))
}

// joinAbove joins the last part to one of the same columns that ends right above it.
func joinAbove(found []LeftOut) []LeftOut {
	last := found[len(found)-1]
	for i := len(found) - 2; i >= 0 && i >= len(found)-50; i-- {
		f := &found[i]
		if f.Reason == last.Reason && f.Range.Bottom == last.Range.Top-1 && f.Range.Left <= last.Range.Left && f.Range.Right >= last.Range.Right {
			f.Range.Bottom = last.Range.Bottom
			return found[:len(found)-1]
		}
	}
	return found
}
