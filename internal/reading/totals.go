package reading

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

var totalWords = []string{"total", "totals", "sum", "grand total", "subtotal", "sub-total", "sub total", "average", "mean", "count",
	"summe", "gesamt", "zwischensumme", "totaal", "totale", "somme", "sous-total", "soma", "suma", "totalt", "totaux"}

// isTotal reports whether a row says that it sums something up, beside a formula or with
// cells left empty. Whether it really does is for sumsUpAbove to tell.
func isTotal(g *Grid, r Range, row int) bool {
	said, computed, filled := false, false, 0
	for col := r.Left; col <= r.Right; col++ {
		c := g.At(row, col)
		if c.Value.IsBlank() {
			continue
		}
		filled++
		computed = computed || c.Formula
		said = said || SaysTotal(c)
	}
	return said && (computed || filled < r.width())
}

// SaysTotal reports whether a cell calls its row a total, whatever stands beside it.
func SaysTotal(c Cell) bool {
	if c.Value.Kind() != value.Text || len(c.Value.Raw()) >= 60 {
		return false
	}
	if !mayBeTotal(c.Value.Raw()) {
		return false
	}
	word := strings.TrimRight(value.Fold(c.Value.Raw()), ": ")
	if slices.Contains(totalWords, word) {
		return true
	}
	first, _, _ := strings.Cut(word, " ")
	last := word[strings.LastIndexByte(word, ' ')+1:]
	switch first = strings.TrimRight(first, ":"); first {
	case "total", "totals", "subtotal", "sub-total", "summe", "zwischensumme":
		return true
	}
	return last == "total" || last == "totals" || last == "subtotal" || last == "sub-total"
}

// mayBeTotal tells most texts that are no totals by their first letter and their end.
func mayBeTotal(s string) bool {
	s = strings.TrimSpace(s)
	if s == "" {
		return false
	}
	switch s[0] | 0x20 {
	case 't', 's', 'g', 'a', 'm', 'c', 'z':
		return len(s) < 18 || endsTotal(s) || strings.ContainsAny(s[:12], " :-")
	}
	return endsTotal(s) || s[0] >= utf8.RuneSelf
}

func endsTotal(s string) bool {
	s = strings.TrimRight(s, ": ")
	end := s[max(0, len(s)-6):]
	return strings.HasSuffix(strings.ToLower(end), "total") || strings.HasSuffix(strings.ToLower(end), "totals")
}

// sumsUpAbove reports whether a row sums up those above it: it says so, and its figures add up
// or are formulas over the rows above. One that says so alone is a row, with a doubt.
func (f *frame) sumsUpAbove(g *Grid, t *Table, row int) bool {
	said, plainly := false, false
	for col := f.block.Left; col <= f.block.Right && !said; col++ {
		said = SaysTotal(g.At(row, col))
	}
	if !said {
		return false
	}
	sums, others := 0, 0
	for col := f.block.Left; col <= f.block.Right; col++ {
		c := g.At(row, col)
		if SaysTotal(c) {
			plainly = plainly || slices.Contains(totalWords, strings.TrimRight(value.Fold(c.Value.Raw()), ": "))
			continue
		}
		if c.Formula {
			if fo := g.FormulaAt(row, col); fo == nil || fo.AddsUp(row) {
				sums++
			}
			continue
		}
		n, ok := g.figure(row, col)
		switch {
		case !ok:
			if !c.Value.IsBlank() && f.kind(g, col) == isText {
				plainly = false // it tells of something of its own
			}
		case value.Equal(n, zero):
		case f.addsUp(g, row, col, n):
			sums++
		default:
			others++
		}
	}
	switch {
	case sums > 0 && (others == 0 || plainly):
		return true
	case plainly && others > 0:
		t.Doubts = append(t.Doubts, fmt.Sprintf("row %d is called a total, but its figures are not the sums of those above: it was taken as a row", row+1))
	}
	return false
}

// figure gives the number of a cell, also where everything came as text.
func (g *Grid) figure(row, col int) (value.Value, bool) {
	c := g.At(row, col)
	switch {
	case c.Value.Kind() == value.Number:
		return c.Value, true
	case c.Value.Kind() != value.Text || looksLike(c, g.Texts) != isNumber:
		return value.Value{}, false
	}
	s := strings.TrimSpace(c.Value.Raw())
	if v, ok := local.ReadAmount('.')(s); ok {
		return v, true
	}
	return local.ReadAmount(',')(s)
}

// addsUp reports whether a figure is the sum, mean or number of those above it in its
// column: of all of them, or of those since the last total, or of the totals themselves.
func (f *frame) addsUp(g *Grid, row, col int, n value.Value) bool {
	var all, since, parts value.Sum
	count := 0
	for above := f.body(); above < row; above++ {
		v, ok := g.figure(above, col)
		if slices.Contains(f.totalled, above) {
			if ok {
				parts.Add(v)
			}
			since = value.Sum{}
			continue
		}
		if ok {
			all.Add(v)
			since.Add(v)
			count++
		}
	}
	if count == 0 {
		return false
	}
	is := func(v value.Value, err error) bool { return err == nil && value.Equal(v, n) }
	return is(all.Value()) || is(since.Value()) || is(parts.Value()) || is(value.OfInt(int64(count)), nil) || f.isMean(&all, int64(count), n)
}

// isMean reports whether a figure is a mean, to as many decimals as it has.
func (f *frame) isMean(s *value.Sum, count int64, n value.Value) bool {
	mean, err := s.Mean(count)
	if err != nil {
		return false
	}
	rounded, err := value.Round(mean, n.Scale())
	return err == nil && value.Equal(rounded, n)
}

// footnote reports whether the last row found is a remark: a sentence in one cell alone,
// where other rows fill most of theirs.
func (f *frame) footnote(g *Grid, t *Table) bool {
	b := f.block
	row := t.lines[len(t.lines)-1]
	filled := g.filled(b, row)
	if len(filled) != 1 || b.width() < 3 || len(t.lines) < 3 || g.exactly(f.name, row) {
		return false
	}
	s := strings.TrimSpace(g.At(row, filled[0]).Value.String())
	if looksLike(g.At(row, filled[0]), true) != isText {
		return false
	}
	full := 0
	for _, line := range t.lines[:len(t.lines)-1] {
		if len(g.filled(b, line))*2 > b.width() {
			full++
		}
	}
	if full*10 < (len(t.lines)-1)*8 {
		return false
	}
	longest := 0
	for _, line := range t.lines[:len(t.lines)-1] {
		longest = max(longest, len([]rune(g.At(line, filled[0]).Value.String())))
	}
	sentence := len([]rune(s)) > max(longest*3/2, 24) && len(strings.Fields(s)) > 3
	if sentence || strings.HasPrefix(s, "*") || strings.HasPrefix(s, "(") ||
		slices.ContainsFunc([]string{"note:", "notes:", "source:", "sources:", "remark:", "signed:", "n.b.", "end of "}, func(w string) bool { return strings.HasPrefix(value.Fold(s), w) }) {
		return true
	}
	if doubt := fmt.Sprintf("row %d holds nothing but %q: it was taken as a row", row+1, value.OneLine(s)); !slices.Contains(t.Doubts, doubt) {
		t.Doubts = append(t.Doubts, doubt)
	}
	return false
}
