package wire

import "time"

// Tracker is a tracker without its rows.
type Tracker struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Zone    string `json:"zone"`
	Dates   string `json:"dates,omitempty" doc:"How it shows the last of March 2026; absent: 2026-03-31"`
	Numbers string `json:"numbers,omitempty" doc:"How it shows 1234.5; absent: 1 234.5"`
	Version int64  `json:"version"`
	Role    string `json:"role" enum:"reader,editor,admin" doc:"What the asker may do in it"`
	Tabs    []Tab  `json:"tabs"`

	Working *WorkingDays `json:"working_days,omitempty" doc:"For those who may change them"`
}

// Tab is a tab without its rows.
type Tab struct {
	ID       string   `json:"id"`
	Name     string   `json:"name"`
	Label    string   `json:"label" doc:"The column that names a row"`
	Rows     int      `json:"rows"`
	Overdue  int      `json:"overdue" doc:"Rows that a reminder holds"`
	ReadOnly bool     `json:"read_only,omitempty" doc:"The asker may see its rows, and not change them"`
	Columns  []Column `json:"columns"`
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
	ReadOnly bool     `json:"read_only,omitempty" doc:"The asker may see its cells, and not change them"`
	Required bool     `json:"required,omitempty"`
	Unique   bool     `json:"unique,omitempty"`
	BadInput string   `json:"bad_input" enum:"mark,refuse"`
	Default  string   `json:"default,omitempty" doc:"What new rows get"`
	Minimum  string   `json:"minimum,omitempty"`
	Maximum  string   `json:"maximum,omitempty"`
	Longest  int      `json:"longest_text,omitempty" doc:"Most characters of a text"`
	Around   bool     `json:"around,omitempty" doc:"Of a computed column: it is computed from other rows, or from what day it is, so its cells change while their rows do not"`
	AutoNo   bool     `json:"automatic_number,omitempty" doc:"New rows get the next whole number"`
}

// NewTab is a tab to add.
type NewTab struct {
	Name  string `json:"name" minLength:"1" maxLength:"200"`
	Like  string `json:"like,omitempty" doc:"A tab whose columns it has too"`
	After string `json:"after,omitempty" doc:"The tab that it comes after; last unless set"`
}

// TabChange is what a tab is to be.
type TabChange struct {
	Name  string `json:"name,omitempty" maxLength:"200" doc:"A new name; rules follow it"`
	After string `json:"after,omitempty" doc:"The tab that it comes after"`
	First bool   `json:"first,omitempty" doc:"It comes before all others"`
}

// NewColumn is a column to add.
type NewColumn struct {
	Name       string         `json:"name" minLength:"1" maxLength:"200"`
	After      string         `json:"after,omitempty" doc:"The column that it stands after; last unless set, or after the one that it is like"`
	Like       string         `json:"like,omitempty" doc:"The column of the tab that it is a copy of, but for what the definition says"`
	Values     bool           `json:"copy_values,omitempty" doc:"Rows get the values of the column that it is like"`
	Definition map[string]any `json:"definition,omitempty" doc:"As the setup file writes it, such as {\"type\": \"date\", \"required\": true}"`
	Fill       bool           `json:"fill_existing,omitempty" doc:"Rows that are blank there get the default, or the next automatic number"`
}

// ColumnChange is what a column is to be.
type ColumnChange struct {
	Name       string         `json:"name,omitempty" maxLength:"200" doc:"A new name; rules follow it"`
	After      string         `json:"after,omitempty" doc:"The column that it stands after"`
	Definition map[string]any `json:"definition,omitempty" doc:"As the setup file writes it; what is absent stays, what is null goes"`
	Fill       bool           `json:"fill_existing,omitempty" doc:"Rows that are blank there get the default, or the next automatic number"`
}

// Option is one choice of a choice column.
type Option struct {
	Name   string `json:"name"`
	Colour string `json:"colour,omitempty"`
}

// NewTracker names a tracker to make.
type NewTracker struct {
	Name string `json:"name" minLength:"1" maxLength:"200"`
	Zone string `json:"zone,omitempty" doc:"IANA time zone; UTC unless set, or that of the tracker copied"`
	Like string `json:"like,omitempty" doc:"A tracker whose tabs, columns, views and settings it has too; no rows, rules, reminders or lists"`
}

// TrackerSettings are a tracker's own settings; what is absent stays as it is.
type TrackerSettings struct {
	Name    *string      `json:"name,omitempty" minLength:"1" maxLength:"200"`
	Zone    *string      `json:"zone,omitempty" doc:"IANA time zone, such as Europe/Lisbon"`
	Dates   *string      `json:"dates,omitempty" doc:"How dates are shown: the last of March 2026 as 2026-03-31, 31.03.2026, 31/03/2026, 03/31/2026, 31 March 2026 or 31 Mar 2026"`
	Numbers *string      `json:"numbers,omitempty" doc:"How numbers are shown: 1234.5 as 1 234.5, 1,234.5, 1.234,5 or 1 234,5"`
	Working *WorkingDays `json:"working_days,omitempty"`
	After   string       `json:"after,omitempty" doc:"The tracker that it comes after"`
	First   bool         `json:"first,omitempty" doc:"It comes before all others"`
}

// WorkingDays are the days on which people work.
type WorkingDays struct {
	Week   []string `json:"week" minItems:"1" maxItems:"7" doc:"Days of the week, such as monday"`
	Closed []string `json:"closed" maxItems:"5000" doc:"Days that are none all the same, as ISO dates"`
}

// Definition is a rule, list, sync, reminder or round.
type Definition struct {
	ID       string   `json:"id"`
	Kind     string   `json:"kind" enum:"rule,list,sync,reminder,round,dossier,tally,form,view"`
	Name     string   `json:"name"`
	Version  string   `json:"version" doc:"Another one after every change of it; also its ETag"`
	Says     string   `json:"says" doc:"What it does, as a sentence"`
	Paused   bool     `json:"paused,omitempty"`
	Watching bool     `json:"watching,omitempty" doc:"A rule that records what it would do, and changes nothing"`
	Body     Document `json:"body" doc:"As the setup file writes it"`
}

// DefinitionChange is one change of a definition.
type DefinitionChange struct {
	Seq  int64     `json:"seq" doc:"The change set that made it"`
	At   time.Time `json:"at"`
	Who  string    `json:"who"`
	Says []string  `json:"says" doc:"What differs, a line each"`
}

// Setup is a setup file.
type Setup struct {
	Text string `json:"text" doc:"YAML"`
}

// ClauseQuestion is a clause being written.
type ClauseQuestion struct {
	Tracker string   `json:"tracker"`
	Tabs    []string `json:"tabs,omitempty" doc:"Whose columns its names mean; none: those of every tab"`
	Text    string   `json:"text"`
	Kind    string   `json:"kind,omitempty" enum:"condition,value,template" default:"condition"`
	Edit    bool     `json:"edit,omitempty" doc:"Whether it may ask what an edit changed"`
	At      *int     `json:"at,omitempty" doc:"Bytes into the text: give what could stand there"`
}

// ClauseAnswer says whether a clause reads, and what could stand where one types.
type ClauseAnswer struct {
	Type        string         `json:"type,omitempty" doc:"What it yields"`
	Printed     string         `json:"printed,omitempty" doc:"The clause as Kavlo writes it"`
	Mistake     *ClauseMistake `json:"mistake,omitempty"`
	Completions []Completion   `json:"completions,omitempty"`
}

// ClauseMistake is what is wrong with a clause, and where.
type ClauseMistake struct {
	Code   string `json:"code"`
	Says   string `json:"says"`
	Line   int    `json:"line" doc:"From 1"`
	Column int    `json:"column" doc:"In letters, from 1"`
	Offset int    `json:"offset" doc:"Bytes into the text"`
	Length int    `json:"length" doc:"Bytes"`
	Caret  string `json:"caret"`
}

// Completion is something that could stand where one types.
type Completion struct {
	Text string `json:"text"`
	Kind string `json:"kind" enum:"column,tab,choice,function,operator,word"`
	Says string `json:"says,omitempty"`
	From int    `json:"from" doc:"Bytes into the text: where what it replaces begins"`
}

// Call is what a call from outside asks for.
type Call struct {
	Rows []string `json:"rows,omitempty" doc:"Ids or labels; none: every row of the rule's tabs"`
}
