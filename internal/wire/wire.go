// Package wire holds the forms in which Kavlo speaks over HTTP: one Go type a
// JSON object. The service derives its OpenAPI document from them, the client
// package and the console's types follow from it, so all three agree.
//
// rows.go holds rows and change sets, parts.go what a tracker is made of,
// runs.go runs, rounds and the Today page, problem.go errors.
package wire

import "time"

// Person is somebody who may use the workspace or be told things by it.
type Person struct {
	ID      int64  `json:"id"`
	Name    string `json:"name"`
	Address string `json:"address" doc:"Mail address"`
	Access  string `json:"access" enum:"admin,editor,reader"`
}

// NewPerson adds a person or, by address, changes one.
type NewPerson struct {
	Name    string `json:"name,omitempty" doc:"Absent: whoever has the address keeps their name"`
	Address string `json:"address"`
	Access  string `json:"access,omitempty" enum:"admin,editor,reader,keeper" doc:"keeper: an older word for admin. Absent: as it is, and editor for somebody new"`
}

// Secret is a sign-in link's secret or a token.
type Secret struct {
	Secret string `json:"secret"`
	Link   string `json:"link,omitempty" doc:"The address that signs in, once"`
}

// Token is a secret that stands for a person, without the secret itself.
type Token struct {
	ID      string     `json:"id" doc:"By which it is revoked"`
	Kind    string     `json:"kind" enum:"token,session,link,calendar"`
	Name    string     `json:"name" doc:"What it is for"`
	Made    time.Time  `json:"made"`
	Used    *time.Time `json:"used,omitempty" doc:"When it was last used"`
	Expires *time.Time `json:"expires,omitempty" doc:"Without it: until it is revoked"`
}

// Revoked tells how many secrets stand for a person no more.
type Revoked struct {
	Revoked int64 `json:"revoked"`
}

// Session tells who is signed in.
type Session struct {
	Person Person `json:"person"`
}

// Event tells the console that a change set was committed.
type Event struct {
	Seq int64 `json:"seq"`
	// Trackers are all that it concerns, those that rows left or came to and those
	// that are there no more among them.
	Trackers []string  `json:"trackers" doc:"Ids of all trackers that it concerns"`
	Tracker  string    `json:"tracker" doc:"The first of them"`
	Tabs     []string  `json:"tabs" doc:"Ids of all tabs whose rows it touches, those that rows left among them"`
	Who      string    `json:"who"`
	At       time.Time `json:"at"`
	Says     string    `json:"says" doc:"What happened, in words"`
	Rows     []Row     `json:"rows" doc:"The touched rows as they stand now"`
	Gone     []string  `json:"gone" doc:"Ids of rows that are there no more"`
	Reload   bool      `json:"reload,omitempty" doc:"Too much changed to list: fetch again"`
}

// Soundness tells whether a workspace is sound.
type Soundness struct {
	Sound    bool     `json:"sound"`
	Found    []string `json:"found" doc:"What is wrong"`
	Trackers int      `json:"trackers"`
	Rows     int      `json:"rows"`
}
