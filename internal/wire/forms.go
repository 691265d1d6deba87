package wire

import "time"

// EntryForm is a form as it is filled in.
type EntryForm struct {
	ID     string      `json:"id"`
	Name   string      `json:"name"`
	Says   string      `json:"says,omitempty" doc:"What stands above the fields"`
	Fields []FormField `json:"fields"`
}

// FormName is a form that one may fill in.
type FormName struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Says string `json:"says,omitempty" doc:"What stands above the fields"`
}

// FormField is a field of a form.
type FormField struct {
	Column   Column `json:"column"`
	Help     string `json:"help,omitempty"`
	Required bool   `json:"required,omitempty"`
}

// Received says that an entry has arrived, and no more.
type Received struct {
	Says string `json:"says"`
}

// ByLink is what is asked by a private link.
type ByLink struct {
	Secret string         `json:"secret" maxLength:"200"`
	Cells  map[string]any `json:"cells,omitempty" doc:"By field"`
	Key    string         `json:"key,omitempty" maxLength:"100" doc:"Lets an entry that is sent again be known"`
}

// NewLink says how long a private link lasts.
type NewLink struct {
	Days int `json:"days,omitempty" minimum:"0" maximum:"3650" doc:"0: until it is closed"`
}

// FormLink is an open private link, without its secret.
type FormLink struct {
	ID      string     `json:"id"`
	Made    time.Time  `json:"made"`
	Expires *time.Time `json:"expires,omitempty"`
}

// ClosedLinks says how many private links were closed.
type ClosedLinks struct {
	Closed int64 `json:"closed"`
}
