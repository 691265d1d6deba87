// Package rule says what follows from what: a rule is woken by an edit, the
// clock or by hand, keeps the rows for which its condition holds, and runs its
// steps on them. What the steps change may wake other rules; the whole cascade
// is worked out on one draft and stands or falls as one.
//
// rule.go holds what a rule is, compile.go checks it against a tracker's shape,
// cascade.go lets one thing follow from another, steps.go runs a rule's steps,
// match.go finds the rows, place.go moves and copies, cells.go sets and puts,
// file.go runs rules on files, write.go asks for files, tally.go counts by
// group, watch.go does it in trial,
// and loops.go finds rules that could chase each other. The package is part of the core: no I/O and no clock.
package rule

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

// Rule is a rule in stored form: columns and tabs by id, clauses with ids.
type Rule struct {
	Name   string             `json:"-"`
	ID     sheet.DefinitionID `json:"-"`
	Remark string             `json:"remark,omitempty"`
	Wake   Wake               `json:"wake"`
	In     []sheet.TabID      `json:"in,omitempty"` // none: every tab that has the columns it names
	Where  string             `json:"where,omitempty"`
	Steps  []Step             `json:"steps"`
	Paused bool               `json:"paused,omitempty"`
	// Watching makes the rule record what it would have done and change nothing.
	Watching bool `json:"watching,omitempty"`
	Limit    int  `json:"limit,omitempty"` // most rows it may change in one go; 0: no limit of its own
}

// Wake is why a rule runs. A rule may be run by hand whatever its wake.
type Wake struct {
	Edit  []sheet.ColumnID `json:"edit,omitempty"`  // an edit of any of these columns
	Any   bool             `json:"any,omitempty"`   // an edit of any column
	Added bool             `json:"added,omitempty"` // a new row
	// Becomes is a condition: the rule runs on rows of which it becomes true, whatever makes
	// it so, the day that has come included.
	Becomes string `json:"becomes,omitempty"`
	Clock   string `json:"clock,omitempty"` // a clock phrase
	Skip    bool   `json:"skip,omitempty"`  // let occurrences go that passed while the service was down
	Call    bool   `json:"call,omitempty"`  // a signed request from outside
	File    string `json:"file,omitempty"`  // a pattern of files of the intake
}

// ByEdit reports whether changes to rows wake the rule.
func (w Wake) ByEdit() bool { return w.Any || w.Added || len(w.Edit) > 0 || w.Becomes != "" }

// Step is one thing that a rule does; exactly one of its kinds is set.
type Step struct {
	Name   string `json:"name,omitempty"`
	Remark string `json:"remark,omitempty"`
	Move   *Move  `json:"move,omitempty"`
	Copy   *Copy  `json:"copy,omitempty"`
	Set    []Cell `json:"set,omitempty"`
	Remove bool   `json:"remove,omitempty"`
	Put    *Put   `json:"put,omitempty"`
	Take   *Take  `json:"take,omitempty"`
	Write  *Write `json:"write,omitempty"`
	Tally  *Tally `json:"tally,omitempty"`
	// Mail tells people of the rows, one mail a person.
	Mail *reminder.Mail `json:"mail,omitempty"`
}

// Kind gives the step's name as the setup file writes it.
func (s Step) Kind() string {
	switch {
	case s.Move != nil:
		return "move"
	case s.Copy != nil:
		return "copy"
	case s.Put != nil:
		return "put"
	case s.Take != nil:
		return "take"
	case s.Write != nil:
		return "write"
	case s.Tally != nil:
		return "tally"
	case s.Mail != nil:
		return "mail"
	case s.Remove:
		return "remove"
	}
	return "set"
}

// Place is where a row goes.
type Place struct {
	To      string `json:"to"`                // template that yields a tab's name
	Tracker string `json:"tracker,omitempty"` // name of another tracker; "": the rule's own
	Create  string `json:"create,omitempty"`  // where the tab is missing: make one like the tab of this name
	Columns []Pair `json:"columns,omitempty"` // columns whose names differ; namesakes pair by themselves
}

// Reaches gives the other trackers that the rule brings rows into, by name.
func (r *Rule) Reaches() (trackers []string) {
	for i := range r.Steps {
		var place *Place
		switch s := &r.Steps[i]; {
		case s.Move != nil:
			place = &s.Move.Place
		case s.Copy != nil:
			place = &s.Copy.Place
		}
		if place != nil && place.Tracker != "" {
			trackers = append(trackers, place.Tracker)
		}
	}
	return trackers
}

// Pair says that a column's value goes to a column of another name.
type Pair struct {
	From sheet.ColumnID `json:"from"`
	To   string         `json:"to"` // name in the place's tab
}

// Move takes the row to another tab, of its tracker or of another.
type Move struct {
	Place
	Clear []sheet.ColumnID `json:"clear,omitempty"`
	Set   []Cell           `json:"set,omitempty"`
	// SetThere and ClearThere are about columns of another tracker, which are known by name.
	SetThere   []NamedCell `json:"set_there,omitempty"`
	ClearThere []string    `json:"clear_there,omitempty"`
	// Back takes a row home again once an edit makes the rule's condition fail.
	Back bool `json:"back,omitempty"`
}

// NamedCell is the new value, a template, of a column that is known by name.
type NamedCell struct {
	Column string `json:"column"`
	To     string `json:"to"`
}

// Copy adds a copy of the row to a tab. It remembers what it was copied from:
// the same step copies a row once, unless Again says otherwise.
type Copy struct {
	Place
	Set   []Cell `json:"set,omitempty"`
	Again bool   `json:"again,omitempty"`
	// SetThere is about columns of another tracker.
	SetThere []NamedCell `json:"set_there,omitempty"`
}

// Place gives where the step takes or copies rows, or nil.
func (s Step) Place() *Place {
	switch {
	case s.Move != nil:
		return &s.Move.Place
	case s.Copy != nil:
		return &s.Copy.Place
	}
	return nil
}

// Put adds a row to a tab or, where a row with the same key is there, updates it.
type Put struct {
	Tab    sheet.TabID    `json:"tab"`
	Key    sheet.ColumnID `json:"key"`
	Values []Cell         `json:"values"`
}

// Cell is the new value of a column, a template.
type Cell = setup.Cell

// Schedule gives when the rule runs by itself; nil if the clock does not wake it.
func (r *Rule) Schedule() (*recur.Schedule, error) {
	if r.Paused {
		return nil, nil
	}
	phrase := r.Wake.Clock
	if r.Wake.Becomes != "" {
		phrase = turnOfDay
	}
	return recur.Scheduled(phrase, r.Wake.Skip, recur.Open)
}

// turnOfDay is when what hangs on the day is looked at anew.
const turnOfDay = "daily at 00:00"

// Identify gives the rule its id and name.
func (r *Rule) Identify(id sheet.DefinitionID, name string) { r.ID, r.Name = id, name }

// Pause stops the rule from being woken, or lets it be woken again.
func (r *Rule) Pause(paused bool) { r.Paused = paused }

// IsPaused reports whether nothing wakes the rule.
func (r *Rule) IsPaused() bool { return r.Paused }

// OnlyWatches reports whether the rule only says what it would do.
func (r *Rule) OnlyWatches() bool { return r.Watching }

// Compile makes the rule ready to run: a *Compiled.
func (r *Rule) Compile(p *program.Program) (any, error) { return Compile(r, p) }

// Limits keep a cascade from running away.
type Limits struct {
	Rows  int // row visits of all rules together
	Depth int // rules that wake one another in a row
}

// DefaultLimits are what the service uses unless told otherwise.
var DefaultLimits = Limits{Rows: 5_000_000, Depth: 25}

// Setting is what a cascade works in.
type Setting struct {
	Program func(*sheet.Shape) (*program.Program, error) // of the shapes in the draft
	Now     time.Time
	Since   time.Time // when the clock last woke the rule that it wakes now; zero: it does not
	Limits  Limits
	Meter   *clause.Meter        // what clauses may cost; whoever gives it asks it at the end
	NewID   func() int64         // ids for tabs that a step creates
	Elapsed func() time.Duration // a stopwatch; nil: the time of steps is not taken
	// Records gives the records of a list, fetched beforehand; nil: none were.
	Records func(list sheet.DefinitionID) ([]reconcile.Entry, error)
	// Take takes rows from the file at hand and says what became of them. Not all of them
	// may have been taken as they are.
	Take func(d *sheet.Draft, tracker sheet.TrackerID, t *Take, because int) (says string, all bool, err error)
}

// LimitError says that a rule would change more rows than it may; nothing of
// the cascade stands.
type LimitError struct {
	Rule        string
	Rows, Limit int
}

func (e *LimitError) Error() string {
	return fmt.Sprintf("rule %s would change %d rows, and its limit is %d: raise the limit if that is meant", e.Rule, e.Rows, e.Limit)
}

// StepError says which step failed on which row; nothing of the cascade stands.
type StepError struct {
	Rule   string
	Step   int // from 1
	Kind   string
	Row    sheet.RowID
	Label  string
	Column string // where one is at fault
	Err    error
}

func (e *StepError) Error() string {
	s := fmt.Sprintf("rule %s, step %d (%s), ", e.Rule, e.Step, e.Kind)
	if e.Row == 0 {
		s += e.Label
	} else {
		s += fmt.Sprintf("row %s (%s)", e.Row, e.Label)
	}
	if e.Column != "" {
		s += ", column " + e.Column
	}
	return s + ": " + e.Err.Error()
}

// RunName is what the run goes by that the step failed.
func (e *StepError) RunName() string { return e.Rule }

func (e *StepError) Unwrap() error { return e.Err }

// Runaway says that rules kept waking one another; nothing of the cascade stands.
type Runaway struct {
	Rules []string // in the order in which they chased each other
	Why   string
}

func (e *Runaway) Error() string {
	s := e.Why + ": "
	for i, r := range e.Rules {
		if i > 0 {
			s += " -> "
		}
		s += r
	}
	return s
}

// RunOutcome is how a run ends whose rules were stopped.
func (e *Runaway) RunOutcome() string { return "stopped" }

// RunName is what such a run goes by.
func (e *Runaway) RunName() string {
	return strings.Join(slices.Compact(slices.Sorted(slices.Values(e.Rules))), ", ")
}

// Report tells what one rule did in a cascade.
type Report struct {
	Rule       string             `json:"rule"`
	Definition sheet.DefinitionID `json:"part"`
	Considered int                `json:"considered"`
	Matched    int                `json:"matched"`
	Steps      []StepReport       `json:"steps"`
	PassedOver []Passed           `json:"passed_over,omitempty"`
	Passed     int                `json:"passed"`          // how many rows were passed over, named or not
	Unmet      bool               `json:"unmet,omitempty"` // something that a step asks for could not be done
	Watching   bool               `json:"watching,omitempty"`
	Would      []string           `json:"would,omitempty"` // of a watching rule: what it would have done, in words
}

// StepReport tells what one step did.
type StepReport struct {
	Kind    string        `json:"kind"`
	Name    string        `json:"name,omitempty"`
	Remark  string        `json:"remark,omitempty"`
	Rows    int           `json:"rows"`           // rows it ran on
	Changed int           `json:"changed"`        // changes it made
	Took    time.Duration `json:"took,omitempty"` // in nanoseconds
	Says    string        `json:"says,omitempty"` // what became of a file
}

// Passed is a row that a rule passed over because it could not be judged.
type Passed = query.Passed

// maxNamed is how many passed-over rows a report names; all are counted.
const maxNamed = 100
