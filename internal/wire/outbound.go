package wire

import "time"

// WrittenFile is a file that a rule wrote.
type WrittenFile struct {
	Path string    `json:"path" doc:"Below the folder outbound"`
	Rule string    `json:"rule"`
	At   time.Time `json:"at"`
	Rows int       `json:"rows"`
	Size int64     `json:"size"`
	Keep int       `json:"keep,omitempty" doc:"Days for which it stays; absent: for good"`
	Gone bool      `json:"gone,omitempty" doc:"Somebody has taken it away"`
}

// Comparison tells what is different in the later of two files.
type Comparison struct {
	Key     string       `json:"key" doc:"The column by which rows were found again"`
	Added   []string     `json:"added"`
	Removed []string     `json:"removed"`
	Changed []CellChange `json:"changed"`
	Same    int          `json:"same"`
}

// CellChange is one cell that differs.
type CellChange struct {
	Row    string `json:"row"`
	Column string `json:"column"`
	Before string `json:"before"`
	After  string `json:"after"`
}
