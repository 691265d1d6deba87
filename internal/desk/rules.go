package desk

import (
	"context"
	"fmt"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// FindRule finds a compiled rule by name or id.
func (d *Desk) FindRule(t *sheet.Tracker, name string) (*rule.Compiled, error) {
	p, err := t.Part(sheet.PartRule, name)
	if err != nil {
		return nil, err
	}
	rules, err := d.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	return program.Ready[*rule.Compiled](rules, p.ID)
}

// running is how a rule is run as a whole.
type running struct {
	only      map[sheet.RowID]bool // rows that it is held to; nil: all of its tabs
	unwatched bool                 // as if it did not only watch
	file      *arrived             // that woke it
}

// run gives a request to run a rule. It is named by its id and had as it is in the
// request's turn.
func (d *Desk) run(by policy.Principal, t *sheet.Tracker, r *rule.Compiled, cause sheet.Cause, how running) Request {
	id := r.ID
	cause.Part = id
	return Request{By: by, Tracker: t.ID, Kind: "rule", Name: r.Name, Cause: cause, Rehearse: len(r.Lists()) > 0 || how.file != nil, Work: func(t *Turn) error {
		now, err := ruleOf(t, id, r.Name)
		if err != nil {
			return &RunError{Err: err}
		}
		if now == nil { // it was paused since
			return d.reacted(t, &rule.Outcome{Causes: t.Causes}, nil)
		}
		if how.unwatched {
			now = now.Unwatched()
		}
		var out *rule.Outcome
		setting := d.setting(t)
		if how.file != nil {
			setting.Take = how.file.taker(t)
			out, err = rule.RunFile(t.Draft, t.Tracker, now, &how.file.File, t.Causes[0], setting)
		} else {
			out, err = rule.Run(t.Draft, t.Tracker, now, how.only, t.Causes[0], setting)
		}
		if err := d.reacted(t, out, err); err != nil {
			return &RunError{Report: t.Run.Report, Err: err}
		}
		return nil
	}}
}

// ruleOf gives a rule compiled for its tracker as it is in the turn: a rule compiled
// before may look at other columns than it names, or be gone. It is nil where the rule
// was paused since, and no person asks.
func ruleOf(t *Turn, id sheet.PartID, name string) (*rule.Compiled, error) {
	tr := t.Draft.Tracker(t.Tracker)
	if tr == nil {
		return nil, &sheet.NotFound{What: "tracker", Name: t.Tracker.String()}
	}
	p, err := t.Program(tr.Shape)
	if err != nil {
		return nil, err
	}
	if partByID(tr, id) == nil {
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
func (d *Desk) RunRule(by policy.Principal, t *sheet.Tracker, r *rule.Compiled) Request {
	return d.run(by, t, r, sheet.Cause{Kind: sheet.ByHand, Name: r.Name}, running{})
}

// RunUnwatched does the same as if the rule did not only watch, for previews.
func (d *Desk) RunUnwatched(by policy.Principal, t *sheet.Tracker, r *rule.Compiled) Request {
	return d.run(by, t, r, sheet.Cause{Kind: sheet.ByHand, Name: r.Name}, running{unwatched: true})
}

// Called is who stands in the journal for calls from outside.
const Called = "a call from outside"

// CallRule runs a rule that calls from outside wake, on the rows named or, with
// none, on all rows of its tabs.
func (d *Desk) CallRule(t *sheet.Tracker, r *rule.Compiled, rows []sheet.RowID) Request {
	var how running
	if len(rows) > 0 {
		how.only = map[sheet.RowID]bool{}
		for _, id := range rows {
			how.only[id] = true
		}
	}
	return d.run(policy.Itself(Called), t, r, sheet.Cause{Kind: sheet.ByCall, Name: r.Name}, how)
}

// with adds an effect to what a request does.
func with(req Request, do func(context.Context, *store.Batch, *Result) error) Request {
	work := req.Work
	req.Work = func(t *Turn) error {
		t.Store(do)
		return work(t)
	}
	return req
}

// IssueCaller gives the secret with which calls of a rule are signed from now on.
func (d *Desk) IssueCaller(ctx context.Context, t *sheet.Tracker, r *rule.Compiled) (string, error) {
	secret, _ := newSecret()
	return secret, d.store.PutCaller(ctx, t.ID, r.ID, secret, d.Now())
}

// Pause stops a definition from running by itself, or lets it again.
func (d *Desk) Pause(by policy.Principal, tracker sheet.TrackerID, part sheet.PartID, paused bool) Request {
	return d.reshape(by, tracker, func(s *sheet.Shape) error {
		for i := range s.Parts {
			if s.Parts[i].ID != part {
				continue
			}
			def, err := d.Setup.Kinds().Decode(&s.Parts[i])
			if err != nil {
				return err
			}
			pauser, can := def.(program.Pauser)
			if !can {
				return fmt.Errorf("%s %s cannot be paused", s.Parts[i].Kind, s.Parts[i].Name)
			}
			pauser.Pause(paused)
			s.Parts[i].Body = mustJSON(def)
			return nil
		}
		return &sheet.NotFound{What: "definition", Name: part.String(), In: s.Name}
	})
}
