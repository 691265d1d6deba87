package outbound

import "example.org/kavlo/internal/value"

// Page is a sheet laid out around one row, to be read and printed.
type Page struct {
	Title string
	Where string // the tab that the row is in
	About string // the same as a sentence, or that there is no row any more
	Parts []Part
	Lists []List
}

// Part is some fields below one another.
type Part struct {
	Name   string // may be blank
	Fields []Field
}

// Field is a name with what stands beside it.
type Field struct {
	Name  string
	Type  value.Type
	Value value.Value
	Note  string
	Style string // as value.CellStyle writes it
	// Formula computes the field: its Columns are places among the fields of the page,
	// counted through its parts; nil: the value is written alone.
	Formula *Formula
}

// List is a small table on a page.
type List struct {
	Name    string
	Says    string // how many rows there are
	Columns []Column
	Rows    [][]value.Value
}
