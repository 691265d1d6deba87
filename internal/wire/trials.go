package wire

// Trial is a definition that is not saved, to be tried.
type Trial struct {
	Body     Document `json:"body" doc:"As the setup file writes it"`
	Replaces string   `json:"replaces,omitempty" doc:"Id or name of the one whose place it takes"`
}

// Tried is what a definition that is not saved would be like.
type Tried struct {
	Says       string       `json:"says" doc:"What it does, as a sentence"`
	Matched    *int         `json:"matched,omitempty" doc:"Rows that it matches now; absent of what matches none"`
	Considered int          `json:"considered,omitempty" doc:"Rows that were looked at"`
	Rows       []TriedRow   `json:"rows" doc:"The first of them"`
	Skipped    int          `json:"skipped,omitempty" doc:"Rows that could not be judged"`
	PassedOver []PassedOver `json:"passed_over" doc:"The first of those, with why"`
	Starts     []string     `json:"starts,omitempty" doc:"Other rules that it may start"`
	Loops      []string     `json:"loops,omitempty" doc:"Circles of rules that it is part of"`
	Next       []string     `json:"next,omitempty" doc:"When it would run by itself next, in the tracker's zone (RFC 3339)"`
}

// TriedRow is a row that a definition matches.
type TriedRow struct {
	ID    string   `json:"id"`
	Tab   string   `json:"tab"`
	TabID string   `json:"tab_id"`
	Label string   `json:"label"`
	To    []string `json:"to,omitempty" doc:"Who would be told of it"`
}

// TriedEmails are the emails that a reminder or round would send that is not saved.
type TriedEmails struct {
	Emails []Letter `json:"emails" doc:"The first of them, in order of address"`
	More   int      `json:"more" doc:"How many there are beyond those"`
}

// ListSample is what the records of a list hold.
type ListSample struct {
	Items  string        `json:"items,omitempty" doc:"Where the records were found, if the list did not say"`
	Total  int           `json:"total"`
	ID     string        `json:"id,omitempty" doc:"The field that tells records apart, as far as it can be guessed"`
	Fields []SampleField `json:"fields"`
	Pages  int           `json:"pages,omitempty" doc:"How many pages were fetched; not there where such a list has none"`
	Offers string        `json:"offers,omitempty" enum:"link,cursor" doc:"By what the list, fetched as one page, says that there are more: the Link header, or a cursor"`
	Cursor string        `json:"cursor,omitempty" doc:"JSON Pointer to the cursor"`
}

// SampleField is a field of a list's records.
type SampleField struct {
	At      string   `json:"at" doc:"As syncs name it"`
	Samples []string `json:"samples"`
	Filled  int      `json:"filled" doc:"Records that have it"`
}
