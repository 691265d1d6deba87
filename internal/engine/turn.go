package engine

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// ErrForbidden says that somebody may not do what was asked.
var ErrForbidden = policy.ErrForbidden

// taken is how a turn is taken.
type taken struct {
	ctx        context.Context
	meter      *clause.Meter
	seq        int64
	nextRow    int64
	have       map[any]any
	loading    bool
	rehearsing bool // and what is prepared may be worked out
	final      bool
}

// take works a request out on a state. It is pure but for the clock and what it needs,
// and serves previews and commits alike.
func (e *Engine) take(state *published, req *Request, how taken) (*Result, error) {
	now := e.Now()
	cause := req.Cause
	cause.Woke = -1
	t := &Turn{Draft: state.Edit(how.seq, sheet.RowID(how.nextRow)), Now: now, By: req.By, Cause: cause, Tracker: req.Tracker, Final: how.final, Causes: []sheet.Cause{cause},
		engine: e, ctx: how.ctx, meter: how.meter, state: state.programs, made: programs{}, have: how.have, provided: len(req.provided) > 0, loading: how.loading, rehearsing: how.rehearsing, before: state.Workspace}
	if how.rehearsing {
		how.have[rehearsed{}] = now
	} else if moment, is := how.have[rehearsed{}].(time.Time); is {
		t.Now = moment
	}
	writing := e.Writing(how.ctx)
	writing.Now = t.Now
	t.Draft.WrittenAt(writing)
	r := &Result{Before: state.Workspace, turn: t, Set: &sheet.ChangeSet{At: now, Who: req.By.Name, Undoes: req.Undoes, Causes: t.Causes}}
	shapes := func(id sheet.TrackerID) *sheet.Shape {
		if tr := state.Tracker(id); tr != nil { // as it was: nobody lets themselves in
			return tr.Shape
		}
		if tr := t.Draft.Tracker(id); tr != nil {
			return tr.Shape
		}
		return nil
	}
	if err := policy.Permitted(req.By, req.Needs, req.Tracker, r.Set, shapes); err != nil { // before anything is worked out
		return nil, err
	}
	err := e.work(t, req)
	if over := how.meter.Err(); over != nil { // what came of it is worth nothing
		err = &RunError{Report: t.Run.Report, Err: over}
	}
	if err != nil {
		return nil, err
	}
	r.Set.Changes, r.Set.Causes = t.Draft.Changes(), t.Causes
	if err := e.checkShapes(t, r.Set.Changes); err != nil {
		return nil, err
	}
	if err := policy.Permitted(req.By, req.Needs, req.Tracker, r.Set, shapes); err != nil {
		return nil, err
	}
	r.Note, r.Warnings, r.nextRow = t.Run, t.Warnings, t.Draft.NextRow()
	if len(r.Set.Changes) > 0 {
		r.Set.Seq = how.seq
	}
	r.Readings = *t.Draft.Readings()
	r.After = t.Draft.Done()
	if req.Kind != "" || r.Note.Report != nil && r.Note.Report.Ran() {
		r.Run = e.store.NewRunID(now, how.seq)
		r.Set.Run = r.Run
	}
	return r, nil
}

func (e *Engine) work(t *Turn, req *Request) error {
	if req.Work != nil {
		if err := req.Work(t); err != nil {
			return err
		}
	}
	if req.Alone {
		return nil
	}
	if e.React != nil && !t.Settled {
		if err := e.React(t); err != nil {
			return &RunError{Report: t.Run.Report, Err: err}
		}
	}
	if e.Complete != nil {
		if err := e.Complete(t); err != nil {
			return &RunError{Report: t.Run.Report, Err: err}
		}
	}
	err := sheet.CheckRows(t.Draft)
	var refusal *sheet.Refusal
	if errors.As(err, &refusal) && refusal.Because > 0 && refusal.Because < len(t.Causes) {
		return fmt.Errorf("rule %q cannot do step %d for %s: %w", t.Causes[refusal.Because].Name, t.Causes[refusal.Because].Step, refusal.Label, err)
	}
	return err
}

// checkShapes holds every shape that a turn makes against what it is to run, and gathers
// warnings of it.
func (e *Engine) checkShapes(t *Turn, changes []sheet.Change) error {
	for i := range changes {
		c := &changes[i]
		if c.Kind != sheet.Reshape {
			continue
		}
		if err := t.checkShape(c); err != nil {
			return err
		}
		if e.Warn != nil {
			warnings, err := e.Warn(t, c)
			if err != nil {
				return err
			}
			t.Warnings = append(t.Warnings, warnings...)
		}
	}
	return nil
}

// checkShape holds a shape against what it is to run; of a tracker that goes there is none.
func (t *Turn) checkShape(c *sheet.Change) error {
	if c.ShapeAfter == nil {
		return nil
	}
	p, err := t.Program(c.ShapeAfter)
	if err != nil {
		return err
	}
	if err := p.Check(); err != nil {
		return err
	}
	return t.mayReach(c, p)
}

// mayReach asks, of the definitions that a change of setup adds or alters, whether
// whoever makes it may bring rows into the other trackers that they reach. The
// definitions act there later on their author's behalf.
func (t *Turn) mayReach(c *sheet.Change, p *program.Program) error {
	if t.By.Access >= policy.Keeper || policy.NeededFor(&sheet.ChangeSet{Causes: t.Causes}, c) < policy.Keeper {
		return nil
	}
	for i := range c.ShapeAfter.Definitions {
		d := &c.ShapeAfter.Definitions[i]
		e, err := p.Entry(d.ID)
		if err != nil {
			return err
		}
		reacher, reaches := e.Definition.(program.Reacher)
		if !reaches {
			continue
		}
		if was := c.ShapeBefore; was != nil && t.engine.sameButPaused(was.DefinitionByID(d.ID), d) {
			continue
		}
		for _, name := range reacher.Reaches() {
			there, err := t.before.Find(name)
			if err != nil || policy.RoleIn(t.By, there.Shape) == policy.Nobody {
				return &sheet.NotFound{What: "tracker", Name: name}
			}
			if !policy.SightOf(t.By, there.Shape).ChangesAll() {
				return fmt.Errorf("%s %s brings rows into tracker %s: %w", d.Kind, d.Name, name, ErrForbidden)
			}
		}
	}
	return nil
}

// sameButPaused reports whether two versions of a definition do the same when they run.
func (e *Engine) sameButPaused(was, is *sheet.Definition) bool {
	if was == nil {
		return false
	}
	body := func(d *sheet.Definition) []byte {
		def, err := e.Kinds.Decode(d)
		if err != nil {
			return d.Body
		}
		if p, can := def.(program.Pauser); can {
			p.Pause(false)
		}
		return MustJSON(def)
	}
	return bytes.Equal(body(was), body(is))
}

// Program gives the program of a shape as the turn's draft has it.
func (t *Turn) Program(s *sheet.Shape) (*program.Program, error) {
	c := t.state[s]
	if c == nil {
		if c = t.made[s]; c == nil {
			c = &compiled{}
			t.made[s] = c
		}
	}
	return t.engine.compile(s, c)
}

// doing says what a request is about, for the log.
func (r *Request) doing() string {
	switch {
	case r.Name != "":
		return fmt.Sprintf("%s %s was under way", r.Kind, r.Name)
	case r.Kind != "":
		return fmt.Sprintf("a %s was under way", r.Kind)
	}
	return "an edit was under way"
}

// Meter bounds what the clauses of the turn may cost.
func (t *Turn) Meter() *clause.Meter { return t.meter }
