package wire

import "time"

// Reading is what was found in a file, with a picture of its sheets.
type Reading struct {
	File   string      `json:"file"`
	Sheets []ReadSheet `json:"sheets"`
}

// ReadSheet is what was found on one sheet.
type ReadSheet struct {
	Name    string      `json:"name"`
	Hidden  bool        `json:"hidden,omitempty"`
	Rows    int         `json:"rows" doc:"Of the sheet"`
	Columns int         `json:"columns" doc:"Of the sheet"`
	Cells   [][]string  `json:"cells" doc:"What stands in the first rows and columns, from A1 on"`
	Tables  []ReadTable `json:"tables"`
	LeftOut []LeftOut   `json:"left_out"`
}

// ReadTable is a table that was found.
type ReadTable struct {
	Range      string       `json:"range"`
	HeaderRows int          `json:"header_rows"`
	Rows       int          `json:"rows"`
	Columns    []ReadColumn `json:"columns"`
	LeftOut    []LeftOut    `json:"left_out"`
	Doubts     []string     `json:"doubts"`
}

// ReadColumn is a column of a table that was found.
type ReadColumn struct {
	Name    string   `json:"name"`
	Type    string   `json:"type"`
	Display string   `json:"display,omitempty"`
	Reason  string   `json:"reason"`
	Choices []string `json:"choices,omitempty"`
	Odd     []OddAt  `json:"odd"`
	Order   string   `json:"day_order,omitempty" enum:"day first,month first" doc:"What comes first in its dates in digits"`
	Clause  string   `json:"clause,omitempty" doc:"What all of the column's formulas say: it can be a computed column"`
	Why     string   `json:"no_clause,omitempty" doc:"Why a column of formulas cannot be one"`
}

// OddAt is a cell that does not fit its column.
type OddAt struct {
	Cell string `json:"cell"`
	Text string `json:"text"`
}

// LeftOut is a part of a sheet that no table holds.
type LeftOut struct {
	Range  string `json:"range"`
	Reason string `json:"reason"`
}

// FileVersion is what a file was before it was written over.
type FileVersion struct {
	Version int       `json:"version"`
	At      time.Time `json:"at" doc:"When it was written over"`
	Run     string    `json:"run,omitempty" doc:"That wrote over it; absent where a person put another there"`
}

// PutFile says where a file was put.
type PutFile struct {
	Path string `json:"path"`
}
