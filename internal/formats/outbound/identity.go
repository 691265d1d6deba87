package outbound

// IdentityColumn is the name of the column, not shown, in which a workbook keeps which row
// of which tracker each of its rows is.
const IdentityColumn = "Kavlo row"

// Identity says whose the rows of a table are.
type Identity struct {
	Workspace string  `json:"workspace"`
	Tracker   int64   `json:"tracker"`
	Tab       int64   `json:"tab"`
	Columns   []int64 `json:"columns"` // ids, of those whose cells are marked, in order
}
