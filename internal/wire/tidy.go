package wire

// Untidy is one thing that is not right, in some cells of a column.
type Untidy struct {
	ID     string       `json:"id"`
	Kind   string       `json:"kind" enum:"odd,doubled,blank,spelling,out of bounds,impossible date"`
	Tab    string       `json:"tab"`
	TabID  string       `json:"tab_id"`
	Column string       `json:"column"`
	Says   string       `json:"says"`
	Count  int          `json:"count"`
	Mended int          `json:"mended" doc:"How many of the cells have a fix"`
	Cells  []UntidyCell `json:"cells" doc:"The first of them"`
}

// UntidyCell is a cell that is not right.
type UntidyCell struct {
	Row    string `json:"row"`
	Label  string `json:"label"`
	Before any    `json:"before"`
	After  any    `json:"after" doc:"Its fix; null: there is none"`
	Why    string `json:"why,omitempty"`
}

// Mend says what is to be put right.
type Mend struct {
	ID   string   `json:"id" doc:"Of what was found"`
	To   any      `json:"to,omitempty" doc:"A value for all of its cells, in place of their fixes"`
	Rows []string `json:"rows,omitempty" maxItems:"10000" doc:"Ids: these rows alone"`
}
