package wire

// PageRef leads to the page of a row.
type PageRef struct {
	Title     string `json:"title"`
	Row       string `json:"row" doc:"Id of the row that the page is of"`
	Pattern   string `json:"pattern" doc:"Name of the dossier that describes the page"`
	PatternID string `json:"pattern_id"`
	Tracker   string `json:"tracker" doc:"Id of the tracker that has the pattern"`
	Address   string `json:"address" doc:"In the console"`
	In        string `json:"in,omitempty" doc:"The tab in which the row is now"`
	InTracker string `json:"in_tracker,omitempty" doc:"Name of the tracker in which the row is now"`
	Archived  bool   `json:"archived,omitempty" doc:"The row was removed: the page is as it was then"`
}

// Page is the page of a row.
type Page struct {
	PageRef
	Facts   map[string]any    `json:"facts" doc:"Columns of the row, by name"`
	Own     map[string]any    `json:"own" doc:"What only the page has, by name"`
	Figures map[string]any    `json:"figures" doc:"What was worked out just now, by name; null where it could not be"`
	Log     []PageEntry       `json:"log" doc:"Entries, the first of them"`
	Entries int               `json:"entries" doc:"How many entries the log has"`
	Tables  []PageTable       `json:"tables" doc:"Rows of other tabs that concern the row"`
	Fields  []PageField       `json:"fields,omitempty" doc:"Facts, own fields and figures in the page's order, with what is to be known of each"`
	LogForm []PageField       `json:"log_form,omitempty" doc:"What an entry holds; absent where the page has no log"`
	Odd     map[string]string `json:"odd,omitempty" doc:"Fields that do not fit their type, or figures that could not be worked out, with the reason"`
	Prev    *PageRef          `json:"previous,omitempty"`
	Next    *PageRef          `json:"next,omitempty"`
}

// PageField is a field of a page or of an entry of its log.
type PageField struct {
	Part     string   `json:"part" enum:"fact,own,figure,log"`
	Name     string   `json:"name"`
	Column   *Column  `json:"column,omitempty" doc:"Of a fact, an own field or a field of the log"`
	Type     string   `json:"type,omitempty" doc:"Of a figure"`
	Format   string   `json:"format,omitempty" doc:"Of a figure that is a number: percent or a currency code"`
	Note     string   `json:"note,omitempty"`
	Style    string   `json:"look,omitempty"`
	InStep   bool     `json:"in_step,omitempty" doc:"The row's own cell: an edit of it edits the row"`
	ReadOnly bool     `json:"read_only,omitempty"`
	Choices  []string `json:"choices,omitempty" doc:"Values that another tab has, of which one is to be taken"`
}

// PageEntry is an entry of a page's log.
type PageEntry struct {
	ID      string         `json:"id"`
	Version int64          `json:"version"`
	Cells   map[string]any `json:"cells"`
}

// PageTable shows rows of a tab that concern a page's row.
type PageTable struct {
	Name    string           `json:"name"`
	Tab     string           `json:"tab"`
	TabID   string           `json:"tab_id"`
	Columns []string         `json:"columns"`
	Shown   []Column         `json:"shown" doc:"The columns in full"`
	Rows    []map[string]any `json:"rows"`
	IDs     []string         `json:"ids" doc:"Of the rows, in their order"`
	Total   int              `json:"total"`
	Skipped int              `json:"skipped,omitempty" doc:"Rows that could not be judged"`
}

// PageEdit is new contents of a page's facts and own fields.
type PageEdit struct {
	Cells   map[string]any    `json:"cells,omitempty" doc:"By name"`
	Notes   map[string]string `json:"notes,omitempty" doc:"By name; empty text takes one off"`
	KeepOdd bool              `json:"keep_odd,omitempty" doc:"Lets a value that does not fit take the place of one that does"`
}

// NewEntry is an entry for a page's log.
type NewEntry struct {
	Cells map[string]any `json:"cells" doc:"By column name"`
}

// Pages says which pages are opened or closed.
type Pages struct {
	Rows  []string `json:"rows,omitempty" maxItems:"10000" doc:"Ids or labels; none: all that the pattern is for"`
	Limit int      `json:"limit,omitempty" minimum:"1" doc:"New pages at most"`
}
