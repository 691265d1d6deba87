package rule

import (
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// run is one rule's steps being run on the rows it matched.
type run struct {
	rule    *Compiled
	tracker sheet.TrackerID
	step    int
	because int
	envs    map[sheet.TabID]*clause.Env
	routes  map[route][]pairing
}

// errPassOver makes a step pass over a row; what follows the colon says why.
type errPassOver struct{ column, why string }

func (e *errPassOver) Error() string { return e.why }

// runSteps runs a rule's steps in order, each on all rows before the next.
func (c *cascade) runSteps(r *Compiled, tracker sheet.TrackerID, rows []candidate) error {
	first := len(c.draft.Changes())
	causes := map[[2]int]int{}
	for i := range r.Steps {
		u := &run{rule: r, tracker: tracker, step: i, envs: map[sheet.TabID]*clause.Env{}, routes: map[route][]pairing{}}
		start := c.elapsed()
		if r.Steps[i].Write != nil {
			if err := c.askWrite(u, i, r.bound.Env(c.draft.Own(tracker), nil, c.Now, c.Meter), rows); err != nil {
				return err
			}
			continue
		}
		if r.Steps[i].Mail != nil {
			c.askMail(u, rows)
			continue
		}
		if r.Steps[i].Tally != nil {
			woke := 0
			if len(rows) > 0 {
				woke = rows[0].cause
			}
			u.because = c.causeFor(causes, r, i, woke)
			if err := c.tally(u, i, rows); err != nil {
				return err
			}
			c.report(r).Steps[i].Took += c.elapsed() - start
			continue
		}
		for _, cand := range rows {
			row := c.draft.Tracker(tracker).Row(cand.id)
			if row == nil {
				c.leftBehind(u, cand)
				continue
			}
			step := r.stepFor(i, row.Tab)
			if step == nil {
				continue
			}
			u.because = c.causeFor(causes, r, i, cand.cause)
			before := len(c.draft.Changes())
			if err := step(c, u, row); err != nil {
				if err := c.stepFailed(u, row, err); err != nil {
					return err
				}
			}
			rep := c.report(r)
			rep.Steps[i].Rows++
			rep.Steps[i].Changed += len(c.draft.Changes()) - before
		}
		if len(rows) > 0 {
			c.report(r).Steps[i].Took += c.elapsed() - start
		}
	}
	return c.withinLimit(r, first)
}

// withinLimit asks how many rows a rule has changed since the draft's nth change.
func (c *cascade) withinLimit(r *Compiled, first int) error {
	if r.Limit == 0 {
		return nil
	}
	changed := map[sheet.RowID]bool{}
	for _, ch := range c.draft.Changes()[first:] {
		changed[ch.Row] = true
	}
	if delete(changed, 0); len(changed) > r.Limit {
		return &LimitError{Rule: r.Name, Rows: len(changed), Limit: r.Limit}
	}
	return nil
}

// stepFor gives what a step does to a row that stands in a tab by now.
func (c *Compiled) stepFor(step int, tab sheet.TabID) stepFunc {
	if step > c.moves() {
		return c.after[tab][step]
	}
	if t := c.tabs[tab]; t != nil {
		return t.steps[step]
	}
	return nil
}

// leftBehind says of a row that an earlier step took to another tracker that what comes
// later is not done to it; one that was removed is gone.
func (c *cascade) leftBehind(u *run, cand candidate) {
	for _, t := range c.draft.Now().Trackers() {
		if row := t.Row(cand.id); row != nil {
			c.report(u.rule).Unmet = true
			c.report(u.rule).pass(Passed{Row: row.ID.String(), Label: t.Label(row), Tab: t.TabOf(row).Name,
				Why: fmt.Sprintf("step %d (%s) is not done: an earlier step took the row to tracker %s", u.step+1, u.rule.Steps[u.step].Kind(), t.Name)})
		}
	}
}

func (c *cascade) elapsed() time.Duration {
	if c.Elapsed == nil {
		return 0
	}
	return c.Elapsed()
}

func (c *cascade) stepFailed(u *run, row *sheet.Row, err error) error {
	t := c.draft.Tracker(u.tracker)
	if now := t.Row(row.ID); now != nil {
		row = now
	}
	label := t.Label(row)
	var over *errPassOver
	if errors.As(err, &over) {
		c.report(u.rule).pass(Passed{Row: row.ID.String(), Label: label, Tab: t.TabOf(row).Name, Column: over.column, Why: over.why})
		return nil
	}
	e := &StepError{Rule: u.rule.Name, Step: u.step + 1, Kind: u.rule.Steps[u.step].Kind(), Row: row.ID, Label: label, Err: err}
	var refusal *sheet.Refusal
	if errors.As(err, &refusal) {
		e.Column = refusal.Column
	}
	return e
}

func (c *cascade) causeFor(known map[[2]int]int, r *Compiled, step, woke int) int {
	key := [2]int{step, woke}
	i, ok := known[key]
	if !ok {
		i = len(c.out.Causes)
		c.out.Causes = append(c.out.Causes, sheet.Cause{Kind: sheet.ByRule, Name: r.Name, Definition: r.ID, Step: step + 1, Woke: woke, Says: r.Steps[step].Remark})
		known[key] = i
	}
	return i
}

func compileStep(s Step, tab *sheet.TabShape, scope *clause.Scope, shape *sheet.Shape) (stepFunc, error) {
	switch {
	case s.Move != nil:
		return compileMove(s.Move, tab, scope, shape)
	case s.Copy != nil:
		return compileCopy(s.Copy, tab, scope, shape)
	case s.Put != nil:
		return compilePut(s.Put, scope, shape)
	case s.Write != nil, s.Tally != nil, s.Mail != nil:
		return nil, nil // done once, whatever the rows
	case s.Take != nil:
		return nil, errors.New("only a rule that a file starts can import rows from it")
	case len(s.Set) > 0:
		return compileSet(s.Set, tab, scope, shape)
	case s.Remove:
		return func(c *cascade, u *run, row *sheet.Row) error {
			return c.draft.Apply(sheet.Change{Kind: sheet.Remove, Tracker: u.tracker, Tab: row.Tab, Row: row.ID, Because: u.because})
		}, nil
	}
	return nil, errors.New("the step does nothing: say move, copy, set, put, remove, take, tally, write or mail")
}

// env lays the row, as the draft has it now, before the step's clauses.
func (c *cascade) env(u *run, row *sheet.Row) *clause.Env {
	e := u.envs[row.Tab]
	if e == nil {
		t := c.draft.Tracker(u.tracker)
		e = u.rule.bound.Env(t, t.TabOf(row), c.Now, c.Meter)
		u.envs[row.Tab] = e
	}
	program.Look(e, row)
	return e
}
