package reading

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

// frame is a block with the header found in it.
type frame struct {
	block    Range
	header   int // its first row; where there is none, the first row of data
	rows     int // of the header
	name     string
	totals   int
	doubts   []string
	why      string // why it is no table, or ""
	kinds    []guess
	typed    int   // the last row that a hand has touched
	made     bool  // formulas made all of it
	totalled []int // rows that sum up others
}

// body is the first row after the header.
func (f *frame) body() int { return f.header + f.rows }

const (
	titleRows   = 40 // rows of a block in which a header is looked for
	summaryRows = 8  // rows of figures that may stand above a header and touch it
	sampleRows  = 200
)

// frameOf finds the header of a block.
func frameOf(g *Grid, b Range) *frame {
	f := &frame{block: b, header: -1}
	for _, d := range g.Declared {
		if d.Range.meets(b) && d.Range.Top >= b.Top && !d.NoHeader && (f.header < 0 || d.Name != "") {
			f.header, f.rows, f.name, f.totals = d.Range.Top, 1, d.Name, d.Totals
			if d.Name != "" && d.Range.Bottom-d.Totals < b.Bottom && d.Range.Bottom < b.Bottom {
				f.doubts = append(f.doubts, fmt.Sprintf("the defined table %s ends at row %d, and rows go on below it: they were taken as its rows", d.Name, d.Range.Bottom+1))
			}
		}
	}
	if f.header >= 0 {
		return f
	}
	if b.width() < 2 {
		f.why = "a single column of remarks"
		return f
	}
	for row := b.Top; row <= min(b.Bottom, b.Top+titleRows); row++ {
		filled := g.filled(b, row)
		if len(filled) < 2 || len(filled)*10 < b.width()*6 || row < b.Bottom && isTotal(g, b, row) {
			continue
		}
		named := g.names(b, row, filled)
		if f.header < 0 || named && g.fuller(b, f.header, row) {
			f.header, f.rows = row, 0
		}
		if named && f.header == row {
			f.rows = 1
			break
		}
		if row > f.header+summaryRows {
			break
		}
	}
	switch {
	case f.header < 0:
		f.why = "no row in it reads as a header"
	case f.rows == 0 && b.Bottom == f.header:
		f.why = "a line of values with no header and no rows"
	case f.rows == 0:
		f.doubts = append(f.doubts, "no row reads as a header: the columns were given names")
	default:
		f.widenHeader(g)
	}
	return f
}

// fuller reports whether a row that names columns is the header of a block, though a row of
// values stands above it: it has more cells, and what is below it is of other kinds.
func (g *Grid) fuller(b Range, first, row int) bool {
	if len(g.filled(b, row)) <= len(g.filled(b, first)) || row == b.Bottom {
		return false
	}
	typed := 0
	for _, col := range g.filled(b, row) {
		if k := g.sample(row+1, b.Bottom, col); k != isText && k != isNothing {
			typed++
		}
	}
	return typed > 0
}

// names reports whether a row names columns rather than holding their values.
func (g *Grid) names(b Range, row int, filled []int) bool {
	texts, periods, numbers, again, over := 0, 0, 0, 0, false
	for _, col := range filled {
		c := g.At(row, col)
		switch looksLike(c, true) {
		case isText:
			if len(c.Value.String()) > 200 {
				return false
			}
			texts++
			again += g.recurs(b, row, col)
			below := g.sample(row+1, b.Bottom, col)
			over = over || below == isNumber || below == isDate || below == isTick || below == isAddress
		case isNumber, isDate:
			switch {
			case g.namesPeriod(b, row, col):
				periods++
			case g.counts(b, row, filled), g.bold(b, row) && !g.bold(b, row+1):
				numbers++
			default:
				return false
			}
		default:
			return false
		}
	}
	if texts == 0 { // years, or numbers in bold, over a blank corner
		corner := !slices.Contains(filled, b.Left) && g.sample(row+1, b.Bottom, b.Left) == isText
		return corner && (periods == len(filled) || periods+numbers == len(filled) && g.bold(b, row)) && len(filled) > 1
	}
	return over || again < 2 || g.bold(b, row) && !g.bold(b, row+1)
}

// recurs counts how often the value of a cell comes again below it, unless the
// whole row comes again there, as headers do on paper.
func (g *Grid) recurs(b Range, row, col int) int {
	n, text := 0, value.Fold(g.At(row, col).Value.String())
	for below := row + 1; below <= min(b.Bottom, row+sampleRows); below++ {
		if value.Fold(g.At(below, col).Value.String()) == text && !g.repeats(b, row, below) {
			n++
		}
	}
	return n
}

// repeats reports whether two rows say the same.
func (g *Grid) repeats(b Range, row, other int) bool {
	for col := b.Left; col <= b.Right; col++ {
		if value.Fold(g.At(row, col).Value.String()) != value.Fold(g.At(other, col).Value.String()) {
			return false
		}
	}
	return true
}

// namesPeriod reports whether a year or date heads a column of other things.
func (g *Grid) namesPeriod(b Range, row, col int) bool {
	isPeriod := func(c Cell) bool {
		switch looksLike(c, true) {
		case isDate:
			return true
		case isNumber:
			y, err := value.ParseNumber(strings.TrimSpace(c.Value.String()))
			return err == nil && value.Compare(y, value.OfInt(1900)) >= 0 && value.Compare(y, value.OfInt(2100)) <= 0 && !strings.Contains(c.Value.String(), ".")
		}
		return false
	}
	if !isPeriod(g.At(row, col)) {
		return false
	}
	seen, periods := 0, 0
	for below := row + 1; below <= min(b.Bottom, row+sampleRows); below++ {
		if c := g.At(below, col); !c.Value.IsBlank() {
			seen++
			if isPeriod(c) {
				periods++
			}
		}
	}
	return seen > 0 && periods*2 < seen
}

// counts reports whether the numbers of a row are one, two, three and so on,
// and those of the row below are not: weeks, places, rounds.
func (g *Grid) counts(b Range, row int, filled []int) bool {
	inOrder := func(row int) bool {
		n, last := 0, value.Value{}
		for _, col := range filled {
			c := g.At(row, col)
			if looksLike(c, g.Texts) != isNumber {
				continue
			}
			v, err := value.ParseNumber(strings.TrimSpace(c.Value.String()))
			if err != nil {
				return false
			}
			if n++; n > 1 {
				if next, err := value.Add(last, value.OfInt(1)); err != nil || !value.Equal(next, v) {
					return false
				}
			}
			last = v
		}
		return n >= 3
	}
	return row < b.Bottom && inOrder(row) && !inOrder(row+1)
}

func (g *Grid) bold(b Range, row int) bool {
	filled := g.filled(b, row)
	return len(filled) > 0 && !slices.ContainsFunc(filled, func(col int) bool { return !g.At(row, col).Bold })
}

// widenHeader takes in a second row of the header: groups above the names, or
// names and units below the groups.
func (f *frame) widenHeader(g *Grid) {
	for f.rows < 3 && f.header > f.block.Top && g.groups(f.block, f.header-1) {
		f.header--
		f.rows++
	}
	for f.rows < 3 && f.body() < f.block.Bottom && f.goesOn(g, f.body()) {
		f.rows++
	}
}

// groups reports whether a row holds captions, each over several columns of
// the row below it.
func (g *Grid) groups(b Range, row int) bool {
	filled := g.filled(b, row)
	if len(filled) < 2 && !g.mergedAcross(b, row, 2, b.width()-1) {
		return false
	}
	for i, col := range filled {
		if looksLike(g.At(row, col), true) != isText {
			return false
		}
		next := i+1 < len(filled) && filled[i+1] == col+1
		if next && !g.mergedAcross(b, row, 2, b.width()-1) {
			return false
		}
	}
	return true
}

// mergedAcross reports whether a row has merged cells of so many columns.
func (g *Grid) mergedAcross(b Range, row, atLeast, atMost int) bool {
	return slices.ContainsFunc(g.Merged, func(m Range) bool {
		return m.Top <= row && m.Bottom >= row && m.Left >= b.Left && m.Right <= b.Right && m.width() >= atLeast && m.width() <= atMost
	})
}

// goesOn reports whether the row below a header belongs to it.
func (f *frame) goesOn(g *Grid, row int) bool {
	filled := g.filled(f.block, row)
	if f.units(g, row, filled) {
		return true
	}
	if len(filled) < 2 {
		return false
	}
	for _, col := range filled {
		if looksLike(g.At(row, col), true) != isText {
			return false
		}
	}
	joined := slices.ContainsFunc(g.Merged, func(m Range) bool {
		return m.Top >= f.header && m.Top < row && m.Left >= f.block.Left && m.Right <= f.block.Right && (m.Bottom >= row || m.Bottom == row-1 && m.width() > 1)
	})
	if joined {
		return true
	}
	// a row of words over columns that hold numbers and dates: units, or the
	// names below groups
	typed, words := 0, map[string]bool{}
	for col := f.block.Left; col <= f.block.Right; col++ {
		if k := g.sample(row+1, f.block.Bottom, col); k != isNothing && k != isText {
			typed++
			if c := g.At(row, col); !c.Value.IsBlank() {
				words[value.Fold(c.Value.String())] = true
			} else {
				typed = -1 << 20
			}
		}
	}
	return typed >= 2 && len(words) >= 2 && f.block.Bottom-row >= 2
}

// unit is what stands below a name to say what is counted: (kg), [cm], %.
var unit = regexp.MustCompile(`^(\(.{1,14}\)|\[.{1,14}\]|%|€|£|\$)$`)

// units reports whether a row holds nothing but units of the columns below it.
func (f *frame) units(g *Grid, row int, filled []int) bool {
	for _, col := range filled {
		k := g.sample(row+1, f.block.Bottom, col)
		if !unit.MatchString(strings.TrimSpace(g.At(row, col).Value.String())) || k != isNumber && k != isDate && k != isNothing {
			return false
		}
	}
	return len(filled) > 0
}

// headers gives every column a name of its own.
func (f *frame) headers(g *Grid, t *Table) {
	seen := map[string]int{}
	for col := f.block.Left; col <= f.block.Right; col++ {
		name := f.headerAt(g, col)
		at := CellName(f.header, col)
		if name == "" {
			name = "Column " + ColumnName(col)
			if f.rows > 0 && g.sample(f.body(), t.Range.Bottom, col) != isNothing {
				t.Doubts = append(t.Doubts, fmt.Sprintf("column %s has no header: it is called %s", at, name))
			}
		}
		seen[value.Fold(name)]++
		if n := seen[value.Fold(name)]; n > 1 {
			plain := name
			for ; seen[value.Fold(name)] > 0; n++ {
				name = fmt.Sprintf("%s (%d)", plain, n)
			}
			seen[value.Fold(name)]++
			t.Doubts = append(t.Doubts, fmt.Sprintf("the header %s is there twice: the one at %s is called %s", plain, at, name))
		}
		t.Headers = append(t.Headers, name)
		t.Columns = append(t.Columns, Column{Name: name})
	}
}

var plainName = strings.NewReplacer("[", "(", "]", ")")

// headerAt gives the name that the header's rows give a column, groups first.
func (f *frame) headerAt(g *Grid, col int) string {
	var parts []string
	for row := f.header; row < f.body(); row++ {
		c := g.At(row, col)
		switch {
		case !c.Value.IsBlank():
		case row < f.body()-1:
			c = g.At(row, f.groupOver(g, row, col))
		default: // a name over several columns is each one's
			if at := slices.IndexFunc(g.Merged, func(m Range) bool { return m.Top == row && m.Left < col && col <= m.Right && m.Left >= f.block.Left }); at >= 0 {
				c = g.At(row, g.Merged[at].Left)
			}
		}
		part := strings.Join(strings.Fields(plainName.Replace(c.Value.String())), " ")
		if part != "" && (len(parts) == 0 || value.Fold(parts[len(parts)-1]) != value.Fold(part)) {
			parts = append(parts, part)
		}
	}
	return strings.Join(parts, " ")
}

// groupOver gives the column of the caption that stands over a column: that of
// the merged cells, or where nothing is merged the nearest to the left.
func (f *frame) groupOver(g *Grid, row, col int) int {
	merged := false
	for _, m := range g.Merged {
		if m.Top <= row && m.Bottom >= row && m.Left >= f.block.Left && m.Right <= f.block.Right {
			if m.Left <= col && col <= m.Right {
				return m.Left
			}
			merged = true
		}
	}
	if merged {
		return col
	}
	for left := col - 1; left >= f.block.Left; left-- {
		if !g.At(row, left).Value.IsBlank() {
			return left
		}
	}
	return col
}
