package wire

import "time"

// SyncDetail is what a sync did or, in a preview, would do.
type SyncDetail struct {
	AddedToTab    int         `json:"added_to_tab"`
	AddedToList   int         `json:"added_to_list"`
	UpdatedInTab  int         `json:"updated_in_tab"`
	UpdatedInList int         `json:"updated_in_list"`
	GoneFromList  int         `json:"gone_from_list"`
	GoneFromTab   int         `json:"gone_from_tab"`
	Conflicts     int         `json:"conflicts"`
	Unchanged     int         `json:"unchanged"`
	OneSided      int         `json:"on_one_side" doc:"Records and rows that only one side has, and is to have"`
	OddCells      int         `json:"odd_cells,omitempty"`
	Writes        []ListWrite `json:"writes,omitempty" doc:"What the list takes"`
	More          int         `json:"more,omitempty" doc:"Writes left out of the list"`
	Held          []Conflict  `json:"held,omitempty" doc:"Conflicts that wait for a person"`
	Troubles      []Trouble   `json:"troubles,omitempty" doc:"Records and rows about which nothing is done"`
	Stopped       string      `json:"stopped,omitempty" doc:"Why the list could not be written to the end; the next sync goes on"`
	NotSent       int         `json:"not_sent,omitempty"`
}

// ListWrite is one write to a list.
type ListWrite struct {
	Kind   string       `json:"kind" enum:"add,change,remove"`
	Key    string       `json:"key"`
	Fields []FieldWrite `json:"fields,omitempty"`
	State  string       `json:"state,omitempty" enum:"sent,refused,not sent" doc:"Absent in a preview"`
	Why    string       `json:"why,omitempty"`
}

// FieldWrite is one field of a write to a list.
type FieldWrite struct {
	Column string `json:"column"`
	Before any    `json:"before"`
	After  any    `json:"after"`
}

// Trouble is a record or row about which nothing is done.
type Trouble struct {
	Where string `json:"where,omitempty"`
	Key   string `json:"key,omitempty"`
	Why   string `json:"why"`
}

// Conflict is a record that both sides changed; it waits for a person.
type Conflict struct {
	Sync   string          `json:"sync,omitempty"`
	Key    string          `json:"key"`
	Row    string          `json:"row,omitempty"`
	Label  string          `json:"label,omitempty"`
	Lost   string          `json:"lost,omitempty" enum:"list,tab" doc:"The side that has lost what the other changed"`
	Since  time.Time       `json:"since,omitzero"`
	Fields []ConflictField `json:"fields"`
}

// ConflictField is one field that both sides changed.
type ConflictField struct {
	Column string `json:"column"`
	Before any    `json:"before" doc:"What both had after the last sync"`
	List   any    `json:"list"`
	Tab    any    `json:"tab"`
}

// Settle is a person's word on conflicts.
type Settle struct {
	Keys []string `json:"keys,omitempty" doc:"The conflicts meant; none: all of the sync"`
	Take string   `json:"take" enum:"list,tab" doc:"The side that is right"`
}

// MailServer is the server by which emails go.
type MailServer struct {
	Address    string `json:"address" maxLength:"300" doc:"host:port; empty: emails wait in the outbox"`
	Encryption string `json:"encryption,omitempty" enum:"when offered,always,never,tls" doc:"STARTTLS when offered, always or never, or a connection encrypted from its first byte"`
	SignIn     string `json:"sign_in,omitempty" enum:"PLAIN,LOGIN,XOAUTH2" doc:"How to sign in; what the server offers unless said"`
	User       string `json:"user,omitempty" maxLength:"300" doc:"Empty: without signing in"`
	From       string `json:"from,omitempty" maxLength:"300" doc:"Sender, such as Loans <loans@example.org>"`
}

// MailServerSet is a mail server to set.
type MailServerSet struct {
	MailServer
	Password *string `json:"password,omitempty" maxLength:"10000" doc:"Not given: the one there stays, as long as address and user stay"`
}

// MailServerFound is the mail server as it is set. Its password is never shown.
type MailServerFound struct {
	MailServer
	AtStart bool `json:"at_start,omitempty" doc:"It was set where the service was started, and can only be changed there"`
}

// SecretValue is a secret to keep.
type SecretValue struct {
	Value string `json:"value" minLength:"1" maxLength:"10000"`
}
