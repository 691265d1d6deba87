package desk

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/thrift"
)

// Request asks for a change. Make works out, on the newest state, what is to
// change; the rules that follow are worked out after it.
type Request struct {
	Who     string        // on whose word, as the journal says it
	By      *store.Person // who asks, whose access counts; nil: the service itself
	Needs   Access        // at least, besides what its changes need
	Cause   sheet.Cause   // what sets it off
	Tracker sheet.TrackerID
	Make    func(*Turn) error
	Alone   bool   // no rule follows: setup and undo
	Kind    string // of the run that is always recorded; "": one is recorded only where rules ran
	Name    string
	Undoes  int64
	Key     Key

	// also writes more in the same transaction.
	also effect
	// rule, where one is run as a whole, takes the place of following. It is named
	// by its id and had as it is in the request's turn.
	rule      sheet.PartID
	unwatched bool
	file      *arrived // the file that woke it, or nil
	// records gives the records of lists that the rule counts.
	records func(sheet.PartID) ([]reconcile.Entry, error)
	only    map[sheet.RowID]bool // rows that run is held to; nil: all of its tabs
	final   bool                 // it is worked out for the last time, not for a preview
	// letGo gives up what Make worked on, before what came of it is written.
	letGo func()
}

// effect writes something in a request's transaction.
type effect func(context.Context, *store.Batch, *Result) error

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
	Detail   any      // goes into the run's record
	Warnings []string // go into the result
	final    bool     // what Make works on is not needed again
	desk     *Desk
	state    programs // of the state that the turn works on
	made     programs // and those made for shapes that it alters
}

// Result is what a request came to.
type Result struct {
	Set     *sheet.ChangeSet
	Run     string // id of the run, or ""
	Outcome *rule.Outcome
	Detail  any
	// Warnings say what a change of setup may bring, such as rules that could
	// chase each other.
	Warnings []string
	Before   *sheet.Workspace
	After    *sheet.Workspace
	nextRow  sheet.RowID
	made     programs // of shapes that were altered
	Again    string   // the answer given before under the same idempotency key
}

// RunBody is what a run's record holds besides its heading.
type RunBody struct {
	Cause   sheet.Cause        `json:"cause"`
	Reports []rule.Report      `json:"reports,omitempty"`
	Counts  map[sheet.Kind]int `json:"counts,omitempty"`
	Detail  any                `json:"detail,omitempty"`
	Problem string             `json:"problem,omitempty"`
}

type pending struct {
	req    Request
	ctx    context.Context
	result *Result
	err    error
	done   chan struct{}
}

// ErrClosed says that the desk is closing and takes nothing more.
var ErrClosed = errors.New("the service is stopping")

// Failure says that a change could not be written: the fault is the service's,
// and nothing was changed.
type Failure struct{ Err error }

func (e *Failure) Error() string { return "nothing was changed: " + e.Err.Error() }

func (e *Failure) Unwrap() error { return e.Err }

// Commit works a request out against the newest state and makes it durable.
// When it returns without error, the change is kept whatever happens.
func (d *Desk) Commit(ctx context.Context, req Request) (*Result, error) {
	if req.letGo != nil || req.file != nil { // a file is taken in: memory is minded
		defer thrift.Begin()()
	}
	if err := d.fetched(ctx, &req); err != nil {
		return nil, err
	}
	if t := d.State().Tracker(req.Tracker); t != nil {
		t.Prepare() // here, and not while others wait
	}
	p := &pending{req: req, ctx: ctx, done: make(chan struct{})}
	select {
	case d.queue <- p:
	case <-ctx.Done():
		return nil, ctx.Err()
	case <-d.stopped:
		return nil, ErrClosed
	}
	select {
	case <-p.done:
	case <-d.stopped: // the writer has gone; it may have answered before
		select {
		case <-p.done:
		default:
			return nil, ErrClosed
		}
	}
	return p.result, p.err
}

// Preview works a request out against the present state and commits nothing.
func (d *Desk) Preview(ctx context.Context, req Request) (*Result, error) {
	ctx, done, err := d.Heavy(ctx)
	if err != nil {
		return nil, err
	}
	defer done()
	if err := d.fetched(ctx, &req); err != nil {
		return nil, err
	}
	return d.compute(d.Meter(ctx), d.State(), &req, 0, d.nextRow.Load())
}

// groupSize is how many waiting requests may share a transaction.
const groupSize = 64

func (d *Desk) writer(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			for {
				select {
				case p := <-d.queue:
					p.err = ErrClosed
					close(p.done)
				default:
					return
				}
			}
		case p := <-d.queue:
			group := []*pending{p}
			var after *pending
		gather:
			for len(group) < groupSize && p.req.letGo == nil {
				select {
				case q := <-d.queue:
					if q.req.letGo != nil { // it cannot be worked out twice, so it goes alone
						after = q
						break gather
					}
					group = append(group, q)
				default:
					break gather
				}
			}
			d.commitGroup(group)
			if after != nil {
				d.commitGroup([]*pending{after})
			}
		}
	}
}

// commitGroup works out and writes requests that share one transaction. Each
// stands or falls alone: one that cannot be written is taken out, and the others
// are worked out anew without it.
func (d *Desk) commitGroup(group []*pending) {
	defer func() {
		for _, p := range group {
			close(p.done)
		}
	}()
	left := group
	for len(left) > 0 {
		err := d.guarded("writing", func() error { return d.tryGroup(left) })
		if err == nil {
			return
		}
		var own *ownFault
		if !errors.As(err, &own) { // the transaction itself failed
			d.Log.Error("a transaction failed; the state before it stands", "err", err)
			d.failed(err)
			for _, p := range left {
				if p.err == nil {
					p.result, p.err = nil, &Failure{err}
				}
			}
			return
		}
		d.Log.Error("a request could not be written", "kind", own.of.req.Kind, "name", own.of.req.Name, "err", own.err)
		d.failed(own.err)
		own.of.result, own.of.err = nil, &Failure{own.err}
		left = slices.DeleteFunc(slices.Clone(left), func(p *pending) bool { return p == own.of })
		for _, p := range left {
			p.result, p.err = nil, nil
		}
	}
}

// ownFault is a failure for which one request of a group is to blame.
type ownFault struct {
	of  *pending
	err error
}

func (e *ownFault) Error() string { return e.err.Error() }

func (e *ownFault) Unwrap() error { return e.err }

// tryGroup writes a group and publishes what it comes to. Where it fails, all is
// as before.
func (d *Desk) tryGroup(group []*pending) (err error) {
	seq, nextRow := d.seq, d.nextRow.Load()
	committed := false
	defer func() {
		if !committed { // after a panic too
			d.seq = seq
			d.nextRow.Store(nextRow)
		}
	}()
	nextPart := int64(0)
	after, err := d.writeGroup(context.Background(), group, d.State(), &nextPart)
	if err != nil {
		return err
	}
	committed = true
	d.savedPart = nextPart
	d.wrote()
	made := programs{}
	for _, p := range group {
		if p.err == nil && p.result != nil {
			maps.Copy(made, p.result.made)
		}
	}
	d.state.Store(&published{after, d.seq - 1, d.state.Load().programs.following(after, made)})
	for _, p := range group {
		if p.err == nil && p.result.Set.Seq > 0 {
			d.events.publish(Event{Seq: p.result.Set.Seq, Set: p.result.Set, State: after})
		}
	}
	return nil
}

func (d *Desk) writeGroup(ctx context.Context, group []*pending, state *sheet.Workspace, nextPart *int64) (*sheet.Workspace, error) {
	b, err := d.store.Begin(ctx)
	if err != nil {
		return nil, err
	}
	defer b.Rollback()
	startRow := d.nextRow.Load()
	answers := map[string]*pending{}
	for _, p := range group {
		if p.err = p.ctx.Err(); p.err != nil {
			continue
		}
		if again, err := d.answered(ctx, p, answers); err != nil {
			return nil, err
		} else if again {
			continue
		}
		p.req.final = true
		p.err = d.guarded(p.req.doing(), func() (err error) {
			p.result, err = d.compute(d.meter(p.ctx, d.Budgets.Turn), state, &p.req, d.seq, d.nextRow.Load())
			return err
		})
		if panicked := (*Panicked)(nil); errors.As(p.err, &panicked) {
			p.err = &Failure{panicked}
		}
		if p.err == nil {
			p.err = p.ctx.Err() // whoever has left is not told, so nothing is done behind their back
		}
		err := d.guarded(p.req.doing(), func() error { return d.writeOne(ctx, b, p) })
		if err != nil {
			return nil, &ownFault{p, err}
		}
		if p.err == nil {
			state = p.result.After
		}
	}
	if next := d.nextRow.Load(); next != startRow {
		if err := b.SetCounter(ctx, "row", next); err != nil {
			return nil, err
		}
	}
	*nextPart = d.nextPart.Load()
	if *nextPart != d.savedPart {
		if err := b.SetCounter(ctx, "part", *nextPart); err != nil {
			return nil, err
		}
	}
	return state, b.Commit()
}

// doing says what a request is about, for the log.
func (r *Request) doing() string {
	switch {
	case r.Name != "":
		return r.Kind + " " + r.Name + " was under way"
	case r.Kind != "":
		return "a " + r.Kind + " was under way"
	}
	return "an edit was under way"
}

// writeOne writes what a request came to, or that it failed.
func (d *Desk) writeOne(ctx context.Context, b *store.Batch, p *pending) error {
	if p.req.letGo != nil && p.err == nil {
		p.req.letGo()
	}
	if p.err == nil {
		p.err = d.writeFiles(p.result)
	}
	if p.err == nil {
		return d.write(ctx, b, p)
	}
	if run := d.failedRun(p); run != nil {
		return b.PutRun(ctx, run)
	}
	return nil
}

// answered gives an earlier answer under the same idempotency key.
func (d *Desk) answered(ctx context.Context, p *pending, group map[string]*pending) (bool, error) {
	key := p.req.Key
	if key.ID == "" {
		return false, nil
	}
	if first := group[key.ID]; first != nil {
		p.result, p.err = first.result, first.err
		if first.req.Key.Hash != key.Hash {
			p.result, p.err = nil, ErrOtherRequest
		}
		return true, nil
	}
	group[key.ID] = p
	r, err := d.AnsweredBefore(ctx, key)
	if errors.Is(err, ErrOtherRequest) {
		p.err = err
		return true, nil
	}
	p.result = r
	return r != nil, err
}

// AnsweredBefore gives the result of the request that a key came with before, or
// nil. It serves those who do something outside before they commit.
func (d *Desk) AnsweredBefore(ctx context.Context, key Key) (*Result, error) {
	if key.ID == "" {
		return nil, nil
	}
	answer, hash, found, err := d.store.Answered(ctx, key.ID)
	if err != nil || !found {
		return nil, err
	}
	if hash != key.Hash {
		return nil, ErrOtherRequest
	}
	return &Result{Again: answer, Set: &sheet.ChangeSet{}, Before: d.State(), After: d.State()}, nil
}

func (d *Desk) write(ctx context.Context, b *store.Batch, p *pending) error {
	r := p.result
	if p.req.also != nil { // before the run's record, which tells what this did
		if err := p.req.also(ctx, b, r); err != nil {
			return err
		}
	}
	if err := keepWritten(ctx, b, r); err != nil {
		return err
	}
	run := d.runOf(&p.req, r)
	switch {
	case len(r.Set.Changes) > 0:
		if err := b.Save(ctx, r.After, r.Set.Changes); err != nil {
			return err
		}
		if err := b.Journal(ctx, r.Set, run); err != nil {
			return err
		}
		d.seq++
		d.nextRow.Store(int64(r.nextRow))
	case run != nil:
		if err := b.PutRun(ctx, run); err != nil {
			return err
		}
	}
	if p.req.Key.ID != "" {
		if err := b.Answer(ctx, p.req.Key.ID, p.req.Key.Hash, d.Now(), r.Set.Seq, fmt.Sprint(r.Set.Seq)); err != nil {
			return err
		}
	}
	return nil
}

// compute works a request out on a state. It is pure but for the clock, and
// serves previews and commits alike.
func (d *Desk) compute(meter *clause.Meter, state *sheet.Workspace, req *Request, seq int64, nextRow int64) (*Result, error) {
	now := d.Now()
	draft := state.Edit(seq, sheet.RowID(nextRow))
	turn := &Turn{Draft: draft, Now: now, final: req.final, desk: d, state: d.state.Load().programs, made: programs{}}
	cause := req.Cause
	cause.Woke = -1
	r := &Result{Before: state, Set: &sheet.ChangeSet{At: now, Who: req.Who, Undoes: req.Undoes, Causes: []sheet.Cause{cause}}}
	if err := permitted(req, r.Set); err != nil { // before anything is worked out
		return nil, err
	}
	if req.Make != nil {
		if err := req.Make(turn); err != nil {
			return nil, err
		}
	}
	var err error
	start := time.Now() // steps are timed by the machine's clock, whatever the desk's is
	setting := rule.Setting{Program: turn.Program, Now: now, Limits: d.Limits, NewID: d.newID, Elapsed: func() time.Duration { return time.Since(start) }, Records: req.records, Meter: meter}
	if req.file != nil {
		setting.Take = req.file.take
	}
	var run *rule.Compiled
	if req.rule != 0 {
		run, err = turn.ruleOf(req)
	}
	switch {
	case err != nil:
	case req.rule != 0 && run == nil: // it was paused since
		r.Outcome = &rule.Outcome{Causes: r.Set.Causes}
	case run != nil && req.file != nil:
		r.Outcome, err = rule.RunFile(draft, req.Tracker, run, &req.file.File, cause, setting)
	case run != nil:
		r.Outcome, err = rule.Run(draft, req.Tracker, run, req.only, cause, setting)
	case !req.Alone:
		r.Outcome, err = rule.Follow(draft, []sheet.Cause{cause}, setting)
	}
	if over := meter.Err(); over != nil { // what came of it is worth nothing
		err = over
	}
	if err != nil {
		return nil, &RunError{Outcome: r.Outcome, Err: err}
	}
	if !req.Alone {
		if err := sheet.CheckRows(draft); err != nil {
			return nil, err
		}
	}
	r.Set.Changes = draft.Changes()
	r.Warnings = turn.Warnings
	for i := range r.Set.Changes {
		if c := &r.Set.Changes[i]; c.Kind == sheet.Reshape && c.ShapeAfter != nil {
			if err := d.Setup.Check(c.ShapeAfter); err != nil {
				return nil, err
			}
			warnings, err := turn.warnings(c.ShapeAfter)
			if err != nil {
				return nil, err
			}
			if c.ShapeBefore != nil { // what was so before is no news
				known, err := turn.warnings(c.ShapeBefore)
				if err == nil {
					warnings = slices.DeleteFunc(warnings, func(w string) bool { return slices.Contains(known, w) })
				}
			}
			r.Warnings = append(r.Warnings, warnings...)
		}
	}
	if r.Outcome != nil {
		r.Set.Causes = r.Outcome.Causes
	}
	if err := permitted(req, r.Set); err != nil {
		return nil, err
	}
	r.Detail, r.made = turn.Detail, turn.made
	r.nextRow = draft.NextRow()
	if len(r.Set.Changes) > 0 {
		r.Set.Seq = seq
	}
	r.After = draft.Done()
	if req.Kind != "" || r.ranRules() {
		r.Run = d.store.NewRunID(now, seq)
		r.Set.Run = r.Run
	}
	return r, nil
}

// warnings says which rules of a shape could chase each other, and which go to
// a tracker that is not there.
func (t *Turn) warnings(s *sheet.Shape) ([]string, error) {
	p, err := t.Program(s)
	if err != nil {
		return nil, err
	}
	rules := rule.Of(p)
	var out []string
	for _, l := range rule.Loops(rules) {
		out = append(out, fmt.Sprintf("these rules could chase each other: %s; if they do, the cascade is stopped and put back", l))
	}
	for _, r := range rules {
		for _, step := range r.Steps {
			place := step.Place()
			if place == nil || place.Tracker == "" {
				continue
			}
			if _, err := t.Draft.Now().Find(place.Tracker); err != nil {
				out = append(out, fmt.Sprintf("rule %s: %v; until it is there, the rule fails", r.Name, err))
			}
		}
	}
	return out, nil
}
