package formula

import (
	"fmt"
	"strings"
)

// Growth is a block of rows on a sheet that has become longer.
type Growth struct {
	Sheet       string
	Top, Bottom int // the first and last row of the block before, zero-based
	Left, Right int // its columns
	Rows        int // by how many it is longer
	// Free is how many of these were there below it already, with nothing in them: only the
	// others were put in between, and move what is below.
	Free int
}

// Moves gives by how many rows what is below goes down.
func (g Growth) Moves() int { return max(0, g.Rows-g.Free) }

// Follow gives a formula's text, as it stands on a sheet, with its references following a
// growth: those to rows below go along, and a range over all of the block, or from its
// midst to its end, reaches to its new end.
func (g Growth) Follow(text, sheet string) string {
	if g.Rows == 0 {
		return text
	}
	tokens := lex(text)
	var b strings.Builder
	last := 0
	put := func(t token, row int) {
		if row == t.at.row {
			return
		}
		b.WriteString(text[last:t.start])
		b.WriteString(withRow(text[t.start:t.end], row))
		last = t.end
	}
	for i := 0; i < len(tokens); i++ {
		t := tokens[i]
		if t.kind != tokRef && t.kind != tokRow {
			continue
		}
		on := sheet
		if t.sheet != "" {
			on = t.sheet
		}
		ends := i+2 < len(tokens) && tokens[i+1].text == ":" && tokens[i+2].kind == t.kind
		if !sameSheet(on, g.Sheet) {
			if ends {
				i += 2
			}
			continue
		}
		if !ends {
			put(t, g.Row(t.at.row))
			continue
		}
		to := tokens[i+2]
		left, right := t.at.col, to.at.col
		if t.kind == tokRow {
			left, right = 0, maxColumns-1
		}
		from, end := g.Range(t.at.row, to.at.row, left, right)
		put(t, from)
		put(to, end)
		i += 2
	}
	b.WriteString(text[last:])
	return b.String()
}

// Range gives where a range, of rows and columns, lies after the growth.
func (g Growth) Range(top, bottom, left, right int) (int, int) {
	whole := (top < bottom || top == g.Top) && left <= g.Right && right >= g.Left // and not one cell alone
	if whole && top <= g.Bottom && bottom >= g.Bottom && bottom <= g.Bottom+g.Free {
		return top, max(bottom, g.Bottom+g.Rows)
	}
	return g.Row(top), g.Row(bottom)
}

// Row gives where a row is after the growth.
func (g Growth) Row(n int) int {
	if n > g.Bottom+g.Free {
		return n + g.Moves()
	}
	return n
}

// Moved gives a formula's text as it is when it is filled down and across by so many rows
// and columns: what is not held to its place goes along. What would leave the sheet is left
// as it is.
func Moved(text string, rows, cols int) string {
	var b strings.Builder
	last := 0
	for _, t := range lex(text) {
		if t.kind != tokRef && t.kind != tokRow && t.kind != tokColumn {
			continue
		}
		row, col := t.at.row, t.at.col
		if !t.at.held && t.kind != tokColumn {
			row += rows
		}
		if !t.at.heldAt && t.kind != tokRow {
			col += cols
		}
		if row < 0 || col < 0 || row == t.at.row && col == t.at.col {
			continue
		}
		b.WriteString(text[last:t.start])
		b.WriteString(t.moved(text[t.start:t.end], row, col))
		last = t.end
	}
	b.WriteString(text[last:])
	return b.String()
}

// moved gives the text of a reference at another place, with its sheet and its marks.
func (t token) moved(text string, row, col int) string {
	before := text[:strings.LastIndexByte(text, '!')+1]
	mark := func(held bool) string {
		if held {
			return "$"
		}
		return ""
	}
	switch t.kind {
	case tokColumn:
		return before + mark(t.at.heldAt) + letters(col)
	case tokRow:
		return before + mark(t.at.held) + fmt.Sprint(row+1)
	}
	return before + mark(t.at.heldAt) + letters(col) + mark(t.at.held) + fmt.Sprint(row+1)
}

func letters(col int) string {
	name := ""
	for col++; col > 0; col = (col - 1) / 26 {
		name = string(rune('A'+(col-1)%26)) + name
	}
	return name
}

func sameSheet(a, b string) bool { return strings.EqualFold(a, b) }

// withRow gives the text of a reference with another row number at its end.
func withRow(text string, row int) string {
	end := len(text)
	for end > 0 && text[end-1] >= '0' && text[end-1] <= '9' {
		end--
	}
	return fmt.Sprintf("%s%d", text[:end], row+1)
}
