// Package trigger says when things run: at a change, by the clock, by hand, on a signed
// call, for a file. It runs rules, and hands the other clocked kinds to their runners.
package trigger

import (
	"context"
	"sync"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Fetcher fetches the records of a list.
type Fetcher interface {
	Fetch(ctx context.Context, l *reconcile.List) ([]reconcile.Entry, error)
}

// Writer lets a turn write the files that its rules ask for.
type Writer func(t *engine.Turn, out *rule.Outcome) error

// Mailer lets a turn tell people what its rules ask for.
type Mailer func(t *engine.Turn, out *rule.Outcome) error

// Runner runs a definition for an occurrence of its clock. What it does marks the
// occurrence in the same transaction.
type Runner func(ctx context.Context, c *Clocked, occurrence time.Time, mark Mark) error

// Triggers runs what is to run.
type Triggers struct {
	*engine.Engine
	Limits  rule.Limits
	Lists   Fetcher // nil: lists cannot be reached
	Write   Writer
	Mail    Mailer
	Runners map[sheet.DefinitionKind]Runner // of the clocked kinds besides rules
	Beside  map[sheet.DefinitionKind]bool   // kinds that are slow, and run beside the others
	Sweep   func(ctx context.Context, now time.Time) error

	store  *store.Store
	beside sync.Map // ids of definitions that run by themselves
	aside  sync.Map // by id: those that went wrong, with the shape that they did in
}

// Attach gives the triggers their engine, for which they react.
func (tg *Triggers) Attach(e *engine.Engine) { tg.Engine, tg.store = e, e.Store() }

// FindRule finds a compiled rule by name or id.
func (tg *Triggers) FindRule(t *sheet.Tracker, name string) (*rule.Compiled, error) {
	p, err := t.Definition(sheet.KindRule, name)
	if err != nil {
		return nil, err
	}
	rules, err := tg.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	return program.Ready[*rule.Compiled](rules, p.ID)
}

// How is how a rule is run as a whole.
type How struct {
	Only      map[sheet.RowID]bool // rows that it is held to; nil: all of its tabs
	Unwatched bool                 // as if it did not only watch
	Since     time.Time            // when the clock last woke it; zero: the clock does not
	File      *rule.File           // that woke it
	Take      func(*engine.Turn) func(*sheet.Draft, sheet.TrackerID, *rule.Take, int) (string, bool, error)
}

// Run gives a request to run a rule. It is named by its id and had as it is in the
// request's turn.
func (tg *Triggers) Run(by policy.Principal, t *sheet.Tracker, r *rule.Compiled, cause sheet.Cause, how How) engine.Request {
	id := r.ID
	cause.Definition = id
	return engine.Request{By: by, Tracker: t.ID, Kind: "rule", Name: r.Name, Cause: cause, Rehearse: len(r.Lists()) > 0 || how.File != nil || r.Writes(), Work: func(t *engine.Turn) error {
		now, err := ruleOf(t, id, r.Name)
		if err != nil {
			return &engine.RunError{Err: err}
		}
		if now == nil { // it was paused since
			return tg.reacted(t, &rule.Outcome{Causes: t.Causes}, nil)
		}
		if how.Unwatched {
			now = now.Unwatched()
		}
		var out *rule.Outcome
		setting := tg.setting(t)
		setting.Since = how.Since
		if how.File != nil {
			setting.Take = how.Take(t)
			out, err = rule.RunFile(t.Draft, t.Tracker, now, how.File, t.Causes[0], setting)
		} else {
			out, err = rule.Run(t.Draft, t.Tracker, now, how.Only, t.Causes[0], setting)
		}
		if err := tg.reacted(t, out, err); err != nil {
			return &engine.RunError{Report: t.Run.Report, Err: err}
		}
		return nil
	}}
}

// ruleOf gives a rule compiled for its tracker as it is in the turn: a rule compiled
// before may look at other columns than it names, or be gone. It is nil where the rule
// was paused since, and no person asks.
func ruleOf(t *engine.Turn, id sheet.DefinitionID, name string) (*rule.Compiled, error) {
	tr := t.Draft.Tracker(t.Tracker)
	if tr == nil {
		return nil, &sheet.NotFound{What: "tracker", Name: t.Tracker.String()}
	}
	p, err := t.Program(tr.Shape)
	if err != nil {
		return nil, err
	}
	if tr.DefinitionByID(id) == nil {
		return nil, &sheet.NotFound{What: "rule", Name: name, In: tr.Name}
	}
	r, err := program.Ready[*rule.Compiled](p, id)
	if err != nil {
		return nil, err
	}
	if r.Paused && t.Cause.Kind != sheet.ByHand {
		return nil, nil
	}
	return r, nil
}

// RunRule runs a rule by hand on all rows of its tabs.
func (tg *Triggers) RunRule(by policy.Principal, t *sheet.Tracker, r *rule.Compiled) engine.Request {
	return tg.Run(by, t, r, sheet.Cause{Kind: sheet.ByHand, Name: r.Name}, How{})
}

// RunUnwatched does the same as if the rule did not only watch, for previews.
func (tg *Triggers) RunUnwatched(by policy.Principal, t *sheet.Tracker, r *rule.Compiled) engine.Request {
	return tg.Run(by, t, r, sheet.Cause{Kind: sheet.ByHand, Name: r.Name}, How{Unwatched: true})
}

// CallRule runs a rule that calls from outside wake, on the rows named or, with
// none, on all rows of its tabs.
func (tg *Triggers) CallRule(t *sheet.Tracker, r *rule.Compiled, rows []sheet.RowID) engine.Request {
	var how How
	if len(rows) > 0 {
		how.Only = map[sheet.RowID]bool{}
		for _, id := range rows {
			how.Only[id] = true
		}
	}
	return tg.Run(policy.Itself(policy.ByCall), t, r, sheet.Cause{Kind: sheet.ByCall, Name: r.Name}, how)
}

// With adds an effect to what a request does.
func With(req engine.Request, do func(context.Context, *store.Batch, *engine.Result) error) engine.Request {
	work := req.Work
	req.Work = func(t *engine.Turn) error {
		t.Store(do)
		return work(t)
	}
	return req
}
