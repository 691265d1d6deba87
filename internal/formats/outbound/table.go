// Package outbound says what is written to files: tables of typed values, as
// the writers of the several forms take them.
package outbound

import (
	"iter"

	"example.org/kavlo/internal/value"
)

// Column is a column of a table.
type Column struct {
	Name string
	Type value.Type
	// Formula computes the column in workbooks; nil: its values are written alone.
	Formula *Formula
}

// Formula is arithmetic with the cells of a row: the cell of Columns[i], a place in the
// table, stands between Parts[i] and Parts[i+1].
type Formula struct {
	Parts   []string
	Columns []int
	Divides bool // perhaps by zero
}

// Row is one row; all lists are as long as the columns.
type Row struct {
	Cells  []value.Value
	Notes  []string // nil where there are none
	Styles []string // how cells are set off, as value.CellStyle writes it; nil where all are plain
	// Identity says which row it is and how it stood, see Table.Identity.
	Identity string
}

// Table is a table to be written.
type Table struct {
	Name    string
	Columns []Column
	Rows    iter.Seq[Row]
	Count   int // of rows
	Totals  bool
	// Identity says that a workbook keeps which rows these are, so that they are known when
	// it comes back; nil: it does not.
	Identity *Identity
	Chart    *Chart
}

// Chart draws one column of numbers against one of names.
type Chart struct {
	Title  string
	Names  string // a column
	Values string // a column of numbers
}
