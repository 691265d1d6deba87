package formula

import (
	"fmt"
	"strings"
)

// Growth is rows put in between on a sheet, right below a block of rows.
type Growth struct {
	Sheet       string
	Top, Bottom int // the first and last row of the block before, zero-based
	Rows        int // how many were put in below it
}

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
			put(t, g.row(t.at.row))
			continue
		}
		to := tokens[i+2]
		from, end := g.Range(t.at.row, to.at.row)
		put(t, from)
		put(to, end)
		i += 2
	}
	b.WriteString(text[last:])
	return b.String()
}

// Range gives where a range of rows lies after the growth.
func (g Growth) Range(top, bottom int) (int, int) {
	if bottom == g.Bottom && (top < bottom || top == g.Top) && top <= g.Bottom {
		return top, bottom + g.Rows
	}
	return g.row(top), g.row(bottom)
}

func (g Growth) row(n int) int {
	if n > g.Bottom {
		return n + g.Rows
	}
	return n
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
