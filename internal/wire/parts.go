package wire

// Tracker is a tracker without its rows.
type Tracker struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Zone    string `json:"zone"`
	Version int64  `json:"version"`
	Tabs    []Tab  `json:"tabs"`
}

// Tab is a tab without its rows.
type Tab struct {
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	Label   string   `json:"label" doc:"The column that names a row"`
	Rows    int      `json:"rows"`
	Overdue int      `json:"overdue" doc:"Rows that a reminder holds"`
	Columns []Column `json:"columns"`
}

// Column is a column of a tab.
type Column struct {
	ID       string   `json:"id"`
	Name     string   `json:"name"`
	Type     string   `json:"type"`
	Options  []Option `json:"options,omitempty"`
	Several  bool     `json:"several,omitempty"`
	Format   string   `json:"format,omitempty" doc:"How a number is shown: plain, percent, rating or a currency code"`
	Clause   string   `json:"clause,omitempty" doc:"Of a computed column, which is read only"`
	Required bool     `json:"required,omitempty"`
	Unique   bool     `json:"unique,omitempty"`
	BadInput string   `json:"bad_input" enum:"mark,refuse"`
}

// Option is one choice of a choice column.
type Option struct {
	Name   string `json:"name"`
	Colour string `json:"colour,omitempty"`
}

// NewTracker names a tracker to make.
type NewTracker struct {
	Name string `json:"name" minLength:"1" maxLength:"200"`
	Zone string `json:"zone,omitempty" doc:"IANA time zone; UTC unless set"`
}

// Rename gives another name.
type Rename struct {
	Name string `json:"name" minLength:"1" maxLength:"200"`
}

// Part is a rule, list, sync, reminder or round.
type Part struct {
	ID     string         `json:"id"`
	Kind   string         `json:"kind" enum:"rule,list,sync,reminder,round"`
	Name   string         `json:"name"`
	Says   string         `json:"says" doc:"What it does, as a sentence"`
	Paused bool           `json:"paused,omitempty"`
	Body   map[string]any `json:"body" doc:"As the setup file writes it"`
}

// Setup is a setup file.
type Setup struct {
	Text string `json:"text" doc:"YAML"`
}
