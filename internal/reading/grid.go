package reading

import (
	"fmt"
	"hash/maphash"
	"strings"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/value"
)

// Cell is a cell as a file holds it.
type Cell struct {
	Value   value.Value
	Formula bool  // its value is what a formula gave
	Bold    bool  // it is set off in bold
	More    *More // what few cells have; nil for most, and shared between cells
}

// More is what a cell holds besides its value.
type More struct {
	Note    string
	Link    string
	Choices []string // of the dropdown on the cell
	Display string   // how a number is shown: percent or a currency code
	Style   value.CellStyle
	Clock   bool // a text that is a time of day
}

func (c Cell) note() string {
	if c.More == nil {
		return ""
	}
	return c.More.Note
}

func (c Cell) link() string {
	if c.More == nil {
		return ""
	}
	return c.More.Link
}

// Declared is a range that the file itself says is a table: a defined table, or
// a filter, whose first row is the header.
type Declared struct {
	Name     string // of a defined table; "" of a filter
	Range    Range
	NoHeader bool
	Totals   int  // rows of totals at its end
	Exact    bool // every row of it that is not empty is a row: Kavlo wrote it
}

// Grid is a sheet: rows of cells from A1 on; rows may differ in length. It is
// filled by one goroutine and may then be read by many.
type Grid struct {
	Name     string
	Hidden   bool
	Texts    bool // every value came as text, as in CSV
	Merged   []Range
	Declared []Declared
	HiddenAt []int // rows that are not shown
	Missing  []Uncomputed
	Asks     []Asked
	Formats  []Formatted
	Colours  []Coloured
	Doubts   []string // what was odd about the file itself, in words

	ended func() error // says why reading is to end; may be nil
	why   error        // what it said
	crowd bool         // it holds too many blocks to tell tables apart

	rows   [][]packed
	slab   []packed // room for cells to come
	texts  []string
	recent []int32 // texts met lately, by hash; see text
	seed   maphash.Seed
	mores  []*More
	moreAt map[*More]int // from 1
	wholes []Cell

	formulas  []*formula.Formula
	formulaNo map[string]int32 // by key, from 1
	formulaAt [][]int32        // by row and column
}

// GridOf makes a grid of cells.
func GridOf(name string, rows ...[]Cell) *Grid {
	g := &Grid{Name: name}
	for i, cells := range rows {
		g.Grow(i + 1)
		for j, c := range cells {
			g.Put(i, j, c)
		}
	}
	return g
}

// over reports whether reading is to end before it is done: whoever asked for it
// has left, or its time is up. What has been found then is worth nothing.
func (g *Grid) over() bool {
	if g.why == nil && g.ended != nil {
		g.why = g.ended()
	}
	return g.why != nil
}

// Height gives how many rows the grid has.
func (g *Grid) Height() int { return len(g.rows) }

// Width gives how many cells a row has; 0 beyond the grid.
func (g *Grid) Width(row int) int {
	if row >= 0 && row < len(g.rows) {
		return len(g.rows[row])
	}
	return 0
}

// At gives a cell; outside the grid it is empty.
func (g *Grid) At(row, col int) Cell {
	if row >= 0 && row < len(g.rows) && col >= 0 && col < len(g.rows[row]) {
		if p := g.rows[row][col]; p != 0 {
			return g.unpack(p)
		}
	}
	return Cell{}
}

// Grow gives the grid at least so many rows.
func (g *Grid) Grow(height int) {
	for len(g.rows) < height {
		g.rows = append(g.rows, nil)
	}
}

const slabCells = 8192

// Put puts a cell in its place; the grid grows as it must.
func (g *Grid) Put(row, col int, c Cell) {
	g.Grow(row + 1)
	cells := g.rows[row]
	if n := len(cells); n <= col {
		if cap(cells) <= col {
			wide := max(col+1, g.Width(row-1)) // most rows are as wide as the one above
			if len(g.slab) < wide {
				g.slab = make([]packed, max(slabCells, wide))
			}
			room := g.slab[:n:wide]
			g.slab = g.slab[wide:]
			copy(room, cells)
			cells = room
		}
		g.rows[row] = cells[:col+1]
	}
	g.rows[row][col] = g.pack(c)
}

// Range is a block of cells, zero-based and inclusive.
type Range struct{ Top, Left, Bottom, Right int }

// String gives the range in A1 form.
func (r Range) String() string {
	a, b := CellName(r.Top, r.Left), CellName(r.Bottom, r.Right)
	if a == b {
		return a
	}
	return a + ":" + b
}

// MarshalText gives the range in A1 form.
func (r Range) MarshalText() ([]byte, error) { return []byte(r.String()), nil }

// UnmarshalText reads a range in A1 form.
func (r *Range) UnmarshalText(text []byte) error {
	got, err := ParseRange(string(text))
	if err == nil {
		*r = got
	}
	return err
}

func (r Range) width() int { return r.Right - r.Left + 1 }

func (r Range) height() int { return r.Bottom - r.Top + 1 }

func (r Range) meets(o Range) bool {
	return r.Left <= o.Right && o.Left <= r.Right && r.Top <= o.Bottom && o.Top <= r.Bottom
}

func (r Range) holds(o Range) bool {
	return r.Left <= o.Left && o.Right <= r.Right && r.Top <= o.Top && o.Bottom <= r.Bottom
}

func (r Range) join(o Range) Range {
	return Range{min(r.Top, o.Top), min(r.Left, o.Left), max(r.Bottom, o.Bottom), max(r.Right, o.Right)}
}

// The bounds of a sheet, as ECMA-376 has them.
const (
	MaxRows    = 1 << 20
	MaxColumns = 1 << 14
)

// CellName gives the A1 name of a cell.
func CellName(row, col int) string {
	return fmt.Sprintf("%s%d", ColumnName(col), row+1)
}

// ColumnName gives the letters of a column: A, Z, AA.
func ColumnName(col int) string {
	name := ""
	for col++; col > 0; col = (col - 1) / 26 {
		name = string(rune('A'+(col-1)%26)) + name
	}
	return name
}

// ParseCell reads the A1 name of a cell, with or without dollar signs.
func ParseCell(name string) (row, col int, err error) {
	s := strings.ToUpper(strings.ReplaceAll(strings.TrimSpace(name), "$", ""))
	i := 0
	for ; i < len(s) && s[i] >= 'A' && s[i] <= 'Z' && i < 4; i++ {
		col = col*26 + int(s[i]-'A') + 1
	}
	digits := s[i:]
	for _, d := range digits {
		if d < '0' || d > '9' || row > MaxRows {
			return 0, 0, fmt.Errorf("%q is not the name of a cell: write it like B2", name)
		}
		row = row*10 + int(d-'0')
	}
	if col < 1 || row < 1 || col > MaxColumns || row > MaxRows {
		return 0, 0, fmt.Errorf("%q is not the name of a cell: write it like B2", name)
	}
	return row - 1, col - 1, nil
}

// ParseRange reads a range in A1 form: B2:D9, or B2 alone.
func ParseRange(text string) (Range, error) {
	from, to, isRange := strings.Cut(text, ":")
	if !isRange {
		to = from
	}
	top, left, err := ParseCell(from)
	if err != nil {
		return Range{}, err
	}
	bottom, right, err := ParseCell(to)
	if err != nil {
		return Range{}, err
	}
	return Range{min(top, bottom), min(left, right), max(top, bottom), max(left, right)}, nil
}
