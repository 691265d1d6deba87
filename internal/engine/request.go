package engine

import (
	"context"
	"errors"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Request asks for a change. Its work is done on the newest state, in the request's
// turn; what follows from it is worked out after it. Work may be done several times,
// for previews and where a turn has to be taken again, so it keeps nothing outside its
// Turn.
type Request struct {
	By      policy.Principal
	Needs   policy.Access // at least, besides what its changes need
	Cause   sheet.Cause   // what sets it off
	Tracker sheet.TrackerID
	Kind    string // of the run that is always recorded; "": one is recorded only where something followed
	Name    string
	Undoes  int64
	Key     Key

	Alone    bool // nothing follows, and rows are not checked: setup and undo
	Rehearse bool // known to need what is slow: that is got before the turn

	Work func(*Turn) error
	// Release gives up what Work worked on, before what came of it is written. Such a
	// request has a transaction of its own.
	Release func()

	provided []func(have map[any]any)
}

// Key lets a request that is sent again be known: it gets the first answer and
// changes nothing.
type Key struct {
	ID   string // whose it is, and the key; "": none
	Hash string // of the request that it came with
}

// ErrOtherRequest says that an idempotency key came before with another request.
var ErrOtherRequest = errors.New("this Idempotency-Key was sent before with another request: give each request a key of its own")

// KeysKept is how long keys are remembered.
const KeysKept = 24 * time.Hour

// Turn is a request's turn at the newest state.
type Turn struct {
	Draft    *sheet.Draft
	Now      time.Time
	By       policy.Principal
	Cause    sheet.Cause
	Tracker  sheet.TrackerID
	Final    bool     // what Work works on is not needed again
	Run      Note     // for the run's record
	Warnings []string // for the answer
	Settled  bool     // what follows has been worked out already
	Causes   []sheet.Cause

	engine     *Engine
	ctx        context.Context
	meter      *clause.Meter
	state      programs // of the state that the turn works on
	made       programs // and those made for shapes that it alters
	have       map[any]any
	provided   bool // what it needs came with its request
	loading    bool // what is needed may be got now
	rehearsing bool
	before     *sheet.Workspace
	store      []func(context.Context, *store.Batch, *Result) error
	place      []func(*Result) (undo func() error, err error)
	after      []func(*Result)
}

// Note is what a turn says for the record of its run.
type Note struct {
	Outcome string // "": done, or nothing to do
	Detail  any
	Report  Report // of the rules that ran; nil: none
}

// Report is what rules say they did. The engine knows nothing more of them.
type Report interface {
	Ran() bool     // any found a row to work on or to skip
	Watched() bool // one that only watches found something to do
	Wrote() bool   // files were asked for
	Unmet() bool   // something should have happened and has not
	First() string // the name of the first that ran
	Record() any   // what is kept of it, as JSON
}

// Store does more in the request's transaction, before its run is recorded.
func (t *Turn) Store(do func(context.Context, *store.Batch, *Result) error) {
	t.store = append(t.store, do)
}

// Place puts something outside the database in its place, such as a file, once all is
// worked out and before the transaction; undo takes it back if that fails.
func (t *Turn) Place(do func(*Result) (undo func() error, err error)) { t.place = append(t.place, do) }

// After does something once the request is durable; nothing may rest on it.
func (t *Turn) After(do func(*Result)) { t.after = append(t.after, do) }

// Engine gives the engine whose turn it is.
func (t *Turn) Engine() *Engine { return t.engine }

// Context ends with whoever asked.
func (t *Turn) Context() context.Context { return t.ctx }

// Result is what a request came to.
type Result struct {
	Set  *sheet.ChangeSet
	Run  string // id of the run, or ""
	Note Note
	// Warnings say what a change of setup may bring, such as rules that could
	// chase each other.
	Warnings []string
	Readings sheet.Readings // what is to be said of what was read
	Before   *sheet.Workspace
	After    *sheet.Workspace
	Again    string // the answer given before under the same idempotency key

	nextRow sheet.RowID
	turn    *Turn
}

// Program gives the program of a shape as the turn had it.
func (r *Result) Program(s *sheet.Shape) (*program.Program, error) { return r.turn.Program(s) }

// ErrClosed says that the engine is closing and takes nothing more.
var ErrClosed = errors.New("the service is stopping")

// Failure says that a change could not be written: the fault is the service's,
// and nothing was changed.
type Failure struct{ Err error }

func (e *Failure) Error() string { return "nothing was changed: " + e.Err.Error() }

func (e *Failure) Unwrap() error { return e.Err }

// RunError says that the rules which followed failed, with what they had
// come to; nothing was changed.
type RunError struct {
	Report Report
	Err    error
	Run    string
}

func (e *RunError) Error() string { return "nothing was changed: " + e.Err.Error() }

func (e *RunError) Unwrap() error { return e.Err }
