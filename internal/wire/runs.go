package wire

import "time"

// Run is one execution of a rule, sync, round or import, or an edit from which
// rules followed.
type Run struct {
	ID         string         `json:"id"`
	At         time.Time      `json:"at"`
	Tracker    string         `json:"tracker"`
	Kind       string         `json:"kind" enum:"edit,rule,sync,round,import,undo,reminder,pages"`
	Name       string         `json:"name"`
	Who        string         `json:"who"`
	Outcome    string         `json:"outcome" enum:"done,nothing to do,watched,partly done,stopped,failed"`
	Seq        int64          `json:"seq,omitempty" doc:"Its change set"`
	Undone     bool           `json:"undone,omitempty"`
	Cause      string         `json:"cause" doc:"What set it off, in words"`
	Counts     map[string]int `json:"counts,omitempty"`
	Rules      []RuleReport   `json:"rules,omitempty"`
	Problem    string         `json:"problem,omitempty"`
	Detail     any            `json:"detail,omitempty"`
	Changes    []Change       `json:"changes,omitempty"`
	More       int            `json:"more,omitempty" doc:"Changes left out of the list"`
	PassedOver []PassedOver   `json:"passed_over,omitempty"`
}

// RuleReport tells what one rule did in a run.
type RuleReport struct {
	Rule       string       `json:"rule"`
	Considered int          `json:"considered"`
	Matched    int          `json:"matched"`
	Passed     int          `json:"passed"`
	Watching   bool         `json:"watching,omitempty"`
	Would      []string     `json:"would,omitempty" doc:"Of a watching rule: what it would have done"`
	Steps      []StepReport `json:"steps"`
}

// StepReport tells what one step did.
type StepReport struct {
	Says    string `json:"says,omitempty" doc:"What became of a file"`
	Kind    string `json:"kind"`
	Name    string `json:"name,omitempty"`
	Remark  string `json:"remark,omitempty"`
	Rows    int    `json:"rows"`
	Changed int    `json:"changed"`
	Took    int64  `json:"took" doc:"Microseconds"`
}

// Letter is one person's mail of a round.
type Letter struct {
	To      string `json:"to"`
	Name    string `json:"name,omitempty"`
	Subject string `json:"subject"`
	Count   int    `json:"count" doc:"Rows it tells of"`
	Text    string `json:"text"`
	HTML    string `json:"html"`
}

// RoundResult tells what a round sent, or with a preview would send.
type RoundResult struct {
	Run        string    `json:"run,omitempty"`
	Preview    bool      `json:"preview,omitempty"`
	Occurrence time.Time `json:"occurrence"`
	Letters    []Letter  `json:"letters"`
	Queued     int       `json:"queued" doc:"Mails put into the outbox"`
	Already    int       `json:"already" doc:"People who have had this occurrence's mail"`
	Nobody     []string  `json:"nobody,omitempty" doc:"Rows for which no address was found"`
	PassedOver []string  `json:"passed_over,omitempty" doc:"Rows that could not be judged"`
}

// OutboxMail is a mail of the outbox.
type OutboxMail struct {
	ID      string     `json:"id"`
	To      string     `json:"to"`
	Subject string     `json:"subject"`
	State   string     `json:"state" enum:"waiting,sent,given up"`
	Tries   int        `json:"tries"`
	Made    time.Time  `json:"made"`
	NextTry *time.Time `json:"next_try,omitempty"`
	Sent    *time.Time `json:"sent,omitempty"`
	Problem string     `json:"problem,omitempty"`
	Run     string     `json:"run,omitempty"`
	Text    string     `json:"text,omitempty"`
	HTML    string     `json:"html,omitempty"`
}

// ArrivedMail is a mail as the demo's stand-in post office took it in.
type ArrivedMail struct {
	ID      string    `json:"id"`
	From    string    `json:"from"`
	To      []string  `json:"to"`
	Subject string    `json:"subject"`
	Date    time.Time `json:"date"`
	Text    string    `json:"text"`
	HTML    string    `json:"html"`
	Raw     string    `json:"raw"`
}

// Today is what the first page shows.
type Today struct {
	Day     string        `json:"day" doc:"ISO date of the workspace's first tracker"`
	Overdue []DueRow      `json:"overdue"`
	People  []PersonLoad  `json:"people" doc:"Whose the overdue rows are, most first"`
	Nobody  []DueRow      `json:"nobody" doc:"Overdue rows for which no address was found"`
	Next    []Clocked     `json:"next" doc:"What is scheduled next"`
	Failed  []Run         `json:"failed" doc:"Runs of the last seven days that failed"`
	Rounds  []RoundAhead  `json:"rounds" doc:"What the next rounds would send now"`
	Waiting []OutboxMail  `json:"waiting" doc:"Mail not delivered yet or given up"`
	Held    []PendingHere `json:"held" doc:"Conflicts of syncs that wait for a person"`
	More    TodayMore     `json:"more" doc:"How many there are beyond those listed"`
	Notices []Notice      `json:"notices" doc:"What somebody should know of the service itself, and mend"`
}

// TodayMore is how many there are beyond those listed.
type TodayMore struct {
	Overdue int `json:"overdue"`
	Nobody  int `json:"nobody"`
	Waiting int `json:"waiting"`
	Held    int `json:"held"`
}

// Notice is something about the service itself that wants attention.
type Notice struct {
	About string    `json:"about"`
	Says  string    `json:"says"`
	Since time.Time `json:"since"`
}

// PendingHere is a conflict that waits, with its tracker.
type PendingHere struct {
	Tracker   string   `json:"tracker"`
	TrackerID string   `json:"tracker_id"`
	Conflict  Conflict `json:"conflict"`
}

// DueRow is a row that a reminder holds.
type DueRow struct {
	Tracker   string   `json:"tracker"`
	TrackerID string   `json:"tracker_id"`
	Tab       string   `json:"tab"`
	TabID     string   `json:"tab_id"`
	Row       string   `json:"row"`
	Label     string   `json:"label"`
	Reminder  string   `json:"reminder"`
	To        []string `json:"to" doc:"Names, or addresses of people without one"`
	Untold    []string `json:"untold,omitempty" doc:"Why some cannot be told, such as a name that nobody has"`
	Shown     []Shown  `json:"shown" doc:"What the reminder shows of it, in its order"`
}

// Shown is a title with what stands under it.
type Shown struct {
	Title string `json:"title"`
	Text  string `json:"text"`
}

// PersonLoad is how many overdue rows are a person's.
type PersonLoad struct {
	Name    string `json:"name"`
	Address string `json:"address"`
	Rows    int    `json:"rows"`
}

// Clocked is a part that the clock wakes.
type Clocked struct {
	Tracker   string     `json:"tracker"`
	TrackerID string     `json:"tracker_id"`
	Kind      string     `json:"kind"`
	Name      string     `json:"name"`
	Phrase    string     `json:"phrase"`
	Next      time.Time  `json:"next"`
	Last      *time.Time `json:"last,omitempty"`
}

// RoundAhead is what a round would send now.
type RoundAhead struct {
	Tracker   string    `json:"tracker"`
	TrackerID string    `json:"tracker_id"`
	Round     string    `json:"round"`
	Next      time.Time `json:"next"`
	Letters   []Letter  `json:"letters" doc:"The first of them"`
	More      int       `json:"more" doc:"How many mails there are beyond those"`
}

// Scheduled is a definition that runs: when it did last, and does by itself next.
type Scheduled struct {
	ID     string     `json:"id"`
	Kind   string     `json:"kind"`
	Name   string     `json:"name"`
	Phrase string     `json:"phrase,omitempty" doc:"Its schedule"`
	Next   *time.Time `json:"next,omitempty"`
	Last   *LastRun   `json:"last,omitempty" doc:"Among the tracker's recent runs"`
}

// LastRun is the run of something that came last.
type LastRun struct {
	Run     string    `json:"run"`
	At      time.Time `json:"at"`
	Outcome string    `json:"outcome"`
}

// Order is which definitions of a kind come first.
type Order struct {
	Kind  string   `json:"kind" doc:"Such as rule"`
	First []string `json:"first" maxItems:"10000" doc:"Names or ids; the others follow in the order that they have"`
}

// TestMail is a test email that the mail server took.
type TestMail struct {
	To string `json:"to"`
}
