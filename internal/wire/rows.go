package wire

import "time"

// Row is a row of a tab.
type Row struct {
	ID      string            `json:"id"`
	Tab     string            `json:"tab"`
	TabID   string            `json:"tab_id"`
	Version int64             `json:"version"`
	Pos     int64             `json:"pos" doc:"Order within the tab"`
	Label   string            `json:"label" doc:"What names the row in messages"`
	Cells   map[string]any    `json:"cells" doc:"Values by column name"`
	Odd     []string          `json:"odd,omitempty" doc:"Columns whose cell does not fit its type"`
	OddFit  map[string]any    `json:"odd_fit,omitempty" doc:"What would fit in its place, by column name, where something is near"`
	OddWhy  map[string]string `json:"odd_why,omitempty" doc:"Why it does not, and what would, by column name"`
	Notes   map[string]string `json:"notes,omitempty" doc:"Remarks by column name"`
	Styles  map[string]string `json:"looks,omitempty" doc:"How cells are set off, by column name, as in: fill #F6E7CC, ink #7A4C06, bold, italic, struck"`
	Carried map[string]any    `json:"carried,omitempty" doc:"What the row holds for columns that its tab lacks"`
}

// Rows is a page of a tab's rows.
type Rows struct {
	Rows       []Row        `json:"rows"`
	Total      int          `json:"total" doc:"Rows that match, on all pages"`
	PassedOver []PassedOver `json:"passed_over,omitempty"`
	Columns    []string     `json:"columns,omitempty" doc:"Names of the columns in the order asked for; absent where all are given as the tab has them"`
}

// RowOrder is the ids of rows, in order.
type RowOrder struct {
	Rows       []string     `json:"rows"`
	PassedOver []PassedOver `json:"passed_over,omitempty" doc:"Rows that the clause could not judge, the first of them"`
	Odd        int          `json:"odd,omitempty" doc:"How many those are"`
}

// RowEdit is new contents, notes and looks of a row's cells.
type RowEdit struct {
	Row     string            `json:"row,omitempty" doc:"Id, where the address does not say it"`
	Version int64             `json:"version,omitempty" doc:"The version that was seen; 0 edits whatever is there"`
	Cells   map[string]any    `json:"cells,omitempty"`
	Notes   map[string]string `json:"notes,omitempty" doc:"Remarks by column name; empty text takes one off"`
	KeepOdd bool              `json:"keep_odd,omitempty" doc:"Lets a value that does not fit its column take the place of one that does"`
	Styles  map[string]string `json:"looks,omitempty" doc:"Styles by column name, as in: fill amber, bold; colours are #F6E7CC and the like, or grey, blue, teal, green, amber, brick, violet, rose; plain takes one off"`
}

// NewRows are rows to add.
type NewRows struct {
	Rows []map[string]any `json:"rows" doc:"Values by column name" minItems:"1" maxItems:"10000"`
	RowSpot
}

// RowSpot is where rows go in a tab.
type RowSpot struct {
	Before string `json:"before,omitempty" doc:"The row, by id or label, before which they go"`
	After  string `json:"after,omitempty" doc:"The row after which they go"`
}

// PlaceRows says which rows of a tab go where in it.
type PlaceRows struct {
	Rows []string `json:"rows" doc:"Ids of rows of the tab, in the order in which they are to stand" minItems:"1" maxItems:"10000"`
	RowSpot
}

// RowEdits are edits of several rows, made all or none.
type RowEdits struct {
	Edits []RowEdit `json:"edits" minItems:"1" maxItems:"10000"`
}

// SameCells are contents that several rows get alike.
type SameCells struct {
	Rows    []string       `json:"rows" doc:"Ids of rows, whatever tabs they are in" minItems:"1" maxItems:"250000"`
	Cells   map[string]any `json:"cells" doc:"By column name" minProperties:"1"`
	KeepOdd bool           `json:"keep_odd,omitempty" doc:"Lets a value that does not fit its column take the place of one that does"`
}

// MoveRow says where a row goes.
type MoveRow struct {
	To string `json:"to" doc:"Name or id of a tab"`
}

// MoveRows says which rows go where.
type MoveRows struct {
	Rows []string `json:"rows" doc:"Ids of rows, whatever tabs they are in" minItems:"1" maxItems:"10000"`
	To   string   `json:"to" doc:"Name or id of a tab"`
}

// RemoveRows says which rows go.
type RemoveRows struct {
	Rows []string `json:"rows" doc:"Ids of rows, whatever tabs they are in" minItems:"1" maxItems:"10000"`
}

// Change is one alteration.
type Change struct {
	Kind    string `json:"kind" enum:"add,remove,set,note,look,move,reshape,access"`
	Tab     string `json:"tab,omitempty"`
	Row     string `json:"row,omitempty"`
	Label   string `json:"label,omitempty"`
	Column  string `json:"column,omitempty"`
	Before  any    `json:"before"`
	After   any    `json:"after"`
	Because string `json:"because"`
	// Differences say, of a reshape, what differs in the setup.
	Differences []string `json:"differences,omitempty"`
}

// PassedOver is a row that could not be judged.
type PassedOver struct {
	Row    string `json:"row"`
	Label  string `json:"label"`
	Tab    string `json:"tab"`
	Column string `json:"column,omitempty"`
	Why    string `json:"why"`
}

// ChangeSet is what was changed, or with a preview would be.
type ChangeSet struct {
	Seq        int64          `json:"seq,omitempty" doc:"Number in the journal; absent in a preview and where nothing changed"`
	Run        string         `json:"run,omitempty" doc:"The run on record"`
	Outcome    string         `json:"outcome,omitempty" doc:"How it ended: done, nothing to do, watched, or partly done where something should have happened and has not"`
	Preview    bool           `json:"preview,omitempty"`
	At         time.Time      `json:"at"`
	Who        string         `json:"who"`
	Undoes     int64          `json:"undoes,omitempty"`
	Changes    []Change       `json:"changes"`
	More       int            `json:"more,omitempty" doc:"Changes left out of the list"`
	PassedOver []PassedOver   `json:"passed_over"`
	Counts     map[string]int `json:"counts"`
	Followed   []string       `json:"followed" doc:"What followed from it, in words"`
	Warnings   []string       `json:"warnings,omitempty" doc:"What a change of setup may bring, such as rules that could chase each other"`
	Odd        []OddCell      `json:"odd,omitempty" doc:"What was written and does not fit its column; it is kept as written"`
	Read       []ReadAs       `json:"read,omitempty" doc:"What could be read in two ways, and how it was read"`
	Rows       []Row          `json:"rows,omitempty" doc:"The edited rows as they stand now"`
	Detail     any            `json:"detail,omitempty" doc:"What an import or undo reports"`
	Sync       *SyncDetail    `json:"sync,omitempty" doc:"What a sync did on both sides"`
}

// PartlyDone is the outcome of what should have done more than it did.
const PartlyDone = "partly done"

// OddCell is what was written into a cell that it does not fit.
type OddCell struct {
	Row    string `json:"row"`
	Label  string `json:"label"`
	Tab    string `json:"tab"`
	Column string `json:"column"`
	Value  string `json:"value" doc:"As written"`
	Before string `json:"before,omitempty" doc:"What it would take the place of"`
	Why    string `json:"why" doc:"What it is not"`
	Hint   string `json:"hint,omitempty" doc:"What would fit"`
}

// ReadAs is how a text was read that could be read in another way.
type ReadAs struct {
	Row    string `json:"row"`
	Label  string `json:"label"`
	Column string `json:"column"`
	Value  string `json:"value" doc:"As written"`
	As     string `json:"as"`
}

// JournalEntry is a change set of the journal, by its heading.
type JournalEntry struct {
	Seq    int64          `json:"seq"`
	At     time.Time      `json:"at"`
	Who    string         `json:"who"`
	Says   string         `json:"says"`
	Run    string         `json:"run,omitempty"`
	Undoes int64          `json:"undoes,omitempty"`
	Undone int64          `json:"undone,omitempty" doc:"The change set that has taken it back; absent: it stands"`
	Counts map[string]int `json:"counts"`
}

// Why is a chain of causes; the first link is the change itself.
type Why struct {
	Row    string    `json:"row"`
	Label  string    `json:"label"`
	Tab    string    `json:"tab"`
	Column string    `json:"column,omitempty"`
	Chain  []WhyLink `json:"chain"`
}

// CellsWhy tells of several cells what changed them.
type CellsWhy struct {
	Cells     int            `json:"cells" doc:"How many they are"`
	Untouched int            `json:"untouched" doc:"How many hold what nothing has changed"`
	Sets      []CellsTouched `json:"sets" doc:"What changed them, newest first"`
}

// CellsTouched is what one change set did to cells, for one cause.
type CellsTouched struct {
	Seq     int64     `json:"seq"`
	At      time.Time `json:"at"`
	Who     string    `json:"who"`
	By      string    `json:"by" doc:"What made the changes: a person, a rule, a file"`
	Run     string    `json:"run,omitempty"`
	Says    []string  `json:"says" doc:"The first of the changes"`
	Changed int       `json:"changed" doc:"How many of the cells it changed"`
	Stand   int       `json:"stand" doc:"How many of them hold what it put there"`
}

// WhyLink is one link of the chain.
type WhyLink struct {
	Says string    `json:"says"`
	Who  string    `json:"who"`
	At   time.Time `json:"at"`
	Seq  int64     `json:"seq"`
	Run  string    `json:"run,omitempty"`
	Rule string    `json:"rule,omitempty"`
}
