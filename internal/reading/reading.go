// Package reading finds the tables in raw grids of cells, so that nobody types
// a range: where a table's header is and where its last real row, what type
// each column has and why, what was left out, and what it is unsure of.
//
// A row that holds only unticked boxes, zeros or formula results is hollow: it
// is not a row, however far down such rows go. Titles above, legends beside and
// totals below a table are left out and said to be. grid.go says what comes in,
// packed.go how little room it takes there, and reading.go what goes out;
// blocks.go parts a sheet into blocks, header.go finds their headers, part.go and
// join.go what belongs together and what stands aside, rows.go the real rows, correct.go
// what a person says of it, infer.go and texts.go the types of the columns, and
// Part of the core: no
// I/O and no clock.
package reading

import (
	"context"
	"encoding/json"
	"fmt"
	"iter"
	"path"
	"strings"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

// Column is a column of a table as read.
type Column struct {
	Name    string     `json:"name"`
	Type    string     `json:"type"`
	Display string     `json:"display,omitempty"` // of a number: percent or a currency code
	Reason  string     `json:"reason"`
	Choices []string   `json:"choices"`
	Odd     []OddCell  `json:"odd"`
	Kind    value.Type `json:"-"`
	// Usual tells how a cell with a value looks anyway, which does not set it off;
	// nil where the file does not say.
	Usual func(value.Value) value.CellStyle `json:"-"`
	// LeaveOut says that a person wants no such column.
	LeaveOut bool `json:"leave_out,omitempty"`
	// Refuse says that the sheet refuses what does not fit, Min and Max within which
	// bounds it takes numbers.
	Refuse   bool   `json:"refuse,omitempty"`
	Min, Max string `json:"-"`
	// Clause is what the column's formulas say, where they all say the same; Why says why
	// they cannot be said so.
	Clause string `json:"clause,omitempty"`
	Why    string `json:"no_clause,omitempty"`
	// Computed says that a person wants the column computed by its clause.
	Computed bool `json:"computed,omitempty"`
	// DayOrder says what comes first in dates that are written in digits, DayFirst or
	// MonthFirst; "": there are none.
	DayOrder string `json:"day_order,omitempty"`
	ordered  bool   // a person has said so
	parse    local.Parser
	blank    bool // no cell is filled
}

// The orders of dates in digits.
const (
	DayFirst   = "day first"
	MonthFirst = "month first"
)

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
	Name       string    `json:"name,omitempty"` // of a table that the file itself defines
	Range      Range     `json:"range"`          // from the first header row to the last real row
	HeaderRows int       `json:"header_rows"`
	Headers    []string  `json:"headers"`
	Rows       int       `json:"rows"`
	Columns    []Column  `json:"columns"`
	LeftOut    []LeftOut `json:"left_out"`
	Doubts     []string  `json:"doubts"`
	Tab        string    `json:"-"` // to which a person says it goes
	Key        string    `json:"-"` // the column by which a person says its rows are found again
	lines      []int     // grid rows that are rows of the table
	// Identity says that the file knows which rows of a tracker these are; nil: it does not.
	Identity *Identity `json:"-"`
}

// Identity says in which column a table keeps which rows of a tracker it holds.
type Identity struct {
	Column    int
	Workspace string
	Tracker   int64
	Tab       int64
	Columns   []int64 // ids of the columns whose cells are marked
}

// Sheet is what was found on one sheet.
type Sheet struct {
	Name    string    `json:"name"`
	Hidden  bool      `json:"hidden,omitempty"`
	Tables  []Table   `json:"tables"`
	LeftOut []LeftOut `json:"left_out"`
	grid    *Grid
}

// Meant reports whether a table may be looked for on the sheet: it has the name
// asked for, without letter case, or none was asked for and it is in sight.
func (s *Sheet) Meant(name string) bool {
	if name == "" {
		return !s.Hidden
	}
	return value.EqualText(name, s.Name)
}

// Reading is what was found in a file.
type Reading struct {
	File   string  `json:"file"`
	Sheets []Sheet `json:"sheets"`
	Digest string  `json:"-"` // of the file, and of what a person said of it
}

// Read finds the tables of every grid.
func Read(file string, grids []*Grid) *Reading {
	r, _ := ReadContext(context.Background(), file, grids) // it ends by itself alone
	return r
}

// ReadContext does what Read does and ends early, with the context's error, once
// the context is done.
func ReadContext(ctx context.Context, file string, grids []*Grid) (*Reading, error) {
	r := &Reading{File: file, Sheets: []Sheet{}}
	for _, g := range grids {
		g.ended = ctx.Err
		r.Sheets = append(r.Sheets, readSheet(g))
		g.ended = nil
		if g.why != nil {
			return nil, g.why
		}
	}
	r.likeSiblings()
	return r, nil
}

// TabName gives the tab that a sheet's table goes to unless somebody says another: the one
// that a person has named, or that of the sheet, or of the file where it has none.
func (r *Reading) TabName(s *Sheet, table int) string {
	if t := &s.Tables[table]; t.Tab != "" {
		return t.Tab
	}
	name := s.Name
	if name == "" {
		name = strings.TrimSuffix(path.Base(r.File), path.Ext(r.File))
	}
	if len(s.Tables) > 1 {
		name = fmt.Sprintf("%s %d", name, table+1)
	}
	return name
}

// Content gives the range of all that stands on a sheet; not ok where nothing does.
func (s *Sheet) Content() (r Range, ok bool) {
	r = Range{Top: s.grid.Height(), Left: MaxColumns, Bottom: -1, Right: -1}
	for row := range s.grid.Height() {
		for col := range s.grid.Width(row) {
			if !s.grid.At(row, col).Value.IsBlank() {
				r = r.join(Range{row, col, row, col})
			}
		}
	}
	return r, r.Bottom >= 0
}

// Grid gives the sheet as it came in.
func (s *Sheet) Grid() *Grid { return s.grid }

// Record is one row of a table, read into its columns' types.
type Record struct {
	Row    int // zero-based row of the sheet
	Cells  []value.Value
	Notes  []string
	Styles []string // how cells are set off, as value.CellStyle writes it
}

// Records gives a table's rows, each lent until the next. What does not fit a
// column is odd.
func (s *Sheet) Records(t *Table) iter.Seq[*Record] { return s.records(t, false) }

// Spend is Records for the last time: where no other table may need them, a
// row's cells are given up with the record, so that they need not be held while
// something else is made of them.
func (s *Sheet) Spend(t *Table) iter.Seq[*Record] { return s.records(t, len(s.Tables) == 1) }

func (s *Sheet) records(t *Table, spend bool) iter.Seq[*Record] {
	return func(yield func(*Record) bool) {
		rec := &Record{Cells: make([]value.Value, len(t.Columns)), Notes: make([]string, len(t.Columns)), Styles: make([]string, len(t.Columns))}
		written := map[value.CellStyle]string{{}: ""}
		for _, line := range t.lines {
			rec.Row = line
			for i := range t.Columns {
				c := s.grid.At(line, t.Range.Left+i)
				rec.Cells[i], rec.Notes[i] = t.Columns[i].read(c), t.Columns[i].noteOn(c)
				look := t.Columns[i].look(c, rec.Cells[i])
				text, known := written[look]
				if !known {
					text = look.String()
					written[look] = text
				}
				rec.Styles[i] = text
			}
			if !yield(rec) {
				return
			}
			if spend {
				s.grid.rows[line] = nil
			}
		}
	}
}

// MarshalJSON writes a table with lists that are empty rather than absent.
func (t Table) MarshalJSON() ([]byte, error) {
	type plain Table
	t.Headers, t.Columns = append([]string{}, t.Headers...), append([]Column{}, t.Columns...)
	t.LeftOut, t.Doubts = append([]LeftOut{}, t.LeftOut...), append([]string{}, t.Doubts...)
	for i := range t.Columns {
		c := &t.Columns[i]
		c.Choices, c.Odd = append([]string{}, c.Choices...), append([]OddCell{}, c.Odd...)
	}
	return json.Marshal(plain(t))
}
