package wire

// Attached is a file that was kept for a cell.
type Attached struct {
	Value string `json:"value" doc:"What to set the cell to"`
	Name  string `json:"name"`
	Size  int64  `json:"size" doc:"In bytes"`
}
