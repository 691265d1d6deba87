package desk

import (
	"context"
	"errors"
	"fmt"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
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

// RunRule runs a rule by hand on all rows of its tabs.
func (d *Desk) RunRule(who string, t *sheet.Tracker, r *rule.Compiled) Request {
	return Request{Who: who, Tracker: t.ID, Kind: "rule", Name: r.Name, rule: r.ID, Cause: sheet.Cause{Kind: sheet.ByHand, Name: r.Name, Part: r.ID}}
}

// Unwatched gives a request to run a rule that does what it would do if the rule
// did not only watch.
func (r Request) Unwatched() Request {
	r.unwatched = true
	return r
}

// ruleOf gives the rule that a request runs, compiled for the tracker as it is in
// the request's turn: a rule compiled before may look at other columns than it
// names, or be gone. It is nil where the rule was paused since, and no person asks.
func (t *Turn) ruleOf(req *Request) (*rule.Compiled, error) {
	tr := t.Draft.Tracker(req.Tracker)
	if tr == nil {
		return nil, &sheet.NotFound{What: "tracker", Name: req.Tracker.String()}
	}
	p, err := t.Program(tr.Shape)
	if err != nil {
		return nil, err
	}
	if partByID(tr, req.rule) == nil {
		return nil, &sheet.NotFound{What: "rule", Name: req.Name, In: tr.Name}
	}
	r, err := program.Ready[*rule.Compiled](p, req.rule)
	if err != nil {
		return nil, err
	}
	if r.Paused && req.Cause.Kind != sheet.ByHand {
		return nil, nil
	}
	if req.unwatched {
		r = r.Unwatched()
	}
	return r, nil
}

// fetched gives the records of the lists that the rule of a request counts.
// Fetching is not for the writer, which others wait for.
func (d *Desk) fetched(ctx context.Context, req *Request) error {
	if req.rule == 0 {
		return nil
	}
	t := d.State().Tracker(req.Tracker)
	if t == nil {
		return nil // its turn will tell
	}
	p, err := d.Program(t.Shape)
	if err != nil {
		return err
	}
	if r, err := program.Ready[*rule.Compiled](p, req.rule); err == nil && len(r.Lists()) > 0 {
		req.records = d.recordsOf(ctx, p, r)
	}
	return ctx.Err()
}

func (d *Desk) recordsOf(ctx context.Context, p *program.Program, r *rule.Compiled) func(sheet.PartID) ([]reconcile.Entry, error) {
	got := map[sheet.PartID][]reconcile.Entry{}
	failed := map[sheet.PartID]error{}
	for _, id := range r.Lists() {
		list, err := program.Ready[*reconcile.List](p, id)
		if err != nil || d.Lists == nil {
			failed[id] = errors.New("the list cannot be reached")
			continue
		}
		if got[id], err = d.Lists.Fetch(ctx, list); err != nil {
			failed[id] = fmt.Errorf("fetching %s: %w", list.Title, err)
		}
	}
	return func(id sheet.PartID) ([]reconcile.Entry, error) { return got[id], failed[id] }
}

// Called is who stands in the journal for calls from outside.
const Called = "a call from outside"

// CallRule runs a rule that calls from outside wake, on the rows named or, with
// none, on all rows of its tabs.
func (d *Desk) CallRule(t *sheet.Tracker, r *rule.Compiled, rows []sheet.RowID) Request {
	req := Request{Who: Called, Tracker: t.ID, Kind: "rule", Name: r.Name, rule: r.ID, Cause: sheet.Cause{Kind: sheet.ByCall, Name: r.Name, Part: r.ID}}
	if len(rows) > 0 {
		req.only = map[sheet.RowID]bool{}
		for _, id := range rows {
			req.only[id] = true
		}
	}
	return req
}

// IssueCaller gives the secret with which calls of a rule are signed from now on.
func (d *Desk) IssueCaller(ctx context.Context, t *sheet.Tracker, r *rule.Compiled) (string, error) {
	secret, _ := newSecret()
	return secret, d.store.PutCaller(ctx, t.ID, r.ID, secret, d.Now())
}

// Pause stops a definition from running by itself, or lets it again.
func (d *Desk) Pause(who string, tracker sheet.TrackerID, part sheet.PartID, paused bool) Request {
	return d.reshape(who, tracker, func(s *sheet.Shape) error {
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
