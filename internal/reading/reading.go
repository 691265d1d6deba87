// Package reading finds the tables in raw grids of cells, so that nobody types
// a range: where a table's header is and where its last real row, what type
// each column has and why, what was left out, and what it is unsure of.
//
// A row that holds only unticked boxes, zeros or formula results is hollow: it
// is not a row, however far down such rows go. Titles above, legends beside and
// totals below a table are left out and said to be. detect.go finds tables,
// infer.go the types of their columns, local.go reads dates and numbers as
// people write them. Part of the core: no I/O and no clock.
package reading

import (
	"fmt"

	"example.org/kavlo/internal/value"
)

// Cell is a cell as a file holds it.
type Cell struct {
	Value   value.Value
	Formula bool
	Note    string
	Link    string
	Choices []string // of the dropdown on the cell
}

// Grid is a sheet: rows of cells from A1 on; rows may differ in length.
type Grid struct {
	Name   string
	Hidden bool
	Rows   [][]Cell
	Texts  bool // every value came as text, as in CSV
}

// At gives a cell; outside the grid it is empty.
func (g *Grid) At(row, col int) Cell {
	if row < len(g.Rows) && col < len(g.Rows[row]) {
		return g.Rows[row][col]
	}
	return Cell{}
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

// CellName gives the A1 name of a cell.
func CellName(row, col int) string {
	name := ""
	for col++; col > 0; col = (col - 1) / 26 {
		name = string(rune('A'+(col-1)%26)) + name
	}
	return fmt.Sprintf("%s%d", name, row+1)
}

// Column is a column of a table as read.
type Column struct {
	Name    string     `json:"name"`
	Type    string     `json:"type"`
	Reason  string     `json:"reason"`
	Choices []string   `json:"choices,omitempty"`
	Odd     []OddCell  `json:"odd,omitempty"`
	Kind    value.Type `json:"-"`
	parse   parser
}

// OddCell is a cell that does not fit its column.
type OddCell struct {
	Cell string `json:"cell"`
	Text string `json:"text"`
}

// LeftOut is a part of the sheet that no table holds.
type LeftOut struct {
	Range  Range  `json:"range"`
	Reason string `json:"reason"`
}

// Table is one table found on a sheet.
type Table struct {
	Range      Range     `json:"range"`
	HeaderRows int       `json:"header_rows"`
	Headers    []string  `json:"headers"`
	Rows       int       `json:"rows"`
	Columns    []Column  `json:"columns"`
	LeftOut    []LeftOut `json:"left_out,omitempty"`
	Doubts     []string  `json:"doubts,omitempty"`
	lines      []int     // grid rows that are rows of the table
}

// Sheet is what was found on one sheet.
type Sheet struct {
	Name    string    `json:"name"`
	Hidden  bool      `json:"hidden,omitempty"`
	Tables  []Table   `json:"tables"`
	LeftOut []LeftOut `json:"left_out,omitempty"`
	grid    *Grid
}

// Reading is what was found in a file.
type Reading struct {
	File   string  `json:"file"`
	Sheets []Sheet `json:"sheets"`
}

// Read finds the tables of every grid.
func Read(file string, grids []*Grid) *Reading {
	r := &Reading{File: file}
	for _, g := range grids {
		r.Sheets = append(r.Sheets, readSheet(g))
	}
	return r
}

// Record is one row of a table, read into its columns' types.
type Record struct {
	Row   int // zero-based row of the sheet
	Cells []value.Value
	Notes []string
}

// Records gives a table's rows. What does not fit a column is odd.
func (s *Sheet) Records(t *Table) []Record {
	out := make([]Record, 0, len(t.lines))
	for _, line := range t.lines {
		rec := Record{Row: line, Cells: make([]value.Value, len(t.Columns)), Notes: make([]string, len(t.Columns))}
		for i := range t.Columns {
			c := s.grid.At(line, t.Range.Left+i)
			rec.Cells[i] = t.Columns[i].read(c)
			rec.Notes[i] = c.Note
		}
		out = append(out, rec)
	}
	return out
}
