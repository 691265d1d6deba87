package desk

// What a run leaves behind: whether there is anything to tell of it, and the
// record of what it considered, matched, changed and failed at.

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/store"
)

// ranRules reports whether any rule found a row to work on or to pass over.
func (r *Result) ranRules() bool {
	if r.Outcome == nil {
		return false
	}
	for i := range r.Outcome.Reports {
		if rep := &r.Outcome.Reports[i]; rep.Matched > 0 || rep.Passed > 0 {
			return true
		}
	}
	return false
}

// watched reports whether a rule that only watches found something to do.
func (r *Result) watched() bool {
	if r.Outcome == nil {
		return false
	}
	for i := range r.Outcome.Reports {
		if rep := &r.Outcome.Reports[i]; rep.Watching && rep.Matched > 0 {
			return true
		}
	}
	return false
}

// RunError says that the rules which followed failed, with what they had
// come to; nothing was changed.
type RunError struct {
	Outcome *rule.Outcome
	Err     error
	Run     string
}

func (e *RunError) Error() string { return "nothing was changed: " + e.Err.Error() }

func (e *RunError) Unwrap() error { return e.Err }

func (d *Desk) runOf(req *Request, r *Result) *store.Run {
	if r.Run == "" {
		return nil
	}
	run := &store.Run{ID: r.Run, At: r.Set.At, Tracker: req.Tracker, Kind: req.Kind, Name: req.Name, Who: req.Who, Seq: r.Set.Seq, Outcome: "done"}
	body := RunBody{Cause: r.Set.Causes[0], Counts: r.Set.Counts(), Detail: r.Detail}
	if r.Outcome != nil {
		body.Reports = worked(r.Outcome.Reports)
	}
	if run.Kind == "" {
		run.Kind = "edit"
	}
	if run.Name == "" {
		run.Name = firstMatched(r.Outcome)
	}
	if mail, isRound := r.Detail.(*RoundDetail); len(r.Set.Changes) == 0 && (!isRound || mail.Queued == 0) {
		run.Outcome = "nothing to do"
		if r.Outcome != nil && len(r.Outcome.Writes) > 0 {
			run.Outcome = "done"
		}
		if r.watched() {
			run.Outcome = "watched"
		}
		if req.Kind == "reminder" {
			run.Outcome = "done"
		}
		if sync, is := r.Detail.(*SyncDetail); is && sync.AddList+sync.UpdateList+sync.GoneTab > 0 {
			run.Outcome = "done"
		}
	}
	if sync, is := r.Detail.(*SyncDetail); is && sync.Stopped != "" {
		run.Outcome = "partly done"
	}
	run.Body = mustJSON(body)
	return run
}

// worked leaves out the rules that looked at rows and found none.
func worked(reports []rule.Report) []rule.Report {
	var out []rule.Report
	for _, r := range reports {
		if r.Matched > 0 || r.Passed > 0 || slices.ContainsFunc(r.Steps, func(s rule.StepReport) bool { return s.Rows > 0 }) {
			out = append(out, r)
		}
	}
	return out
}

func firstMatched(o *rule.Outcome) string {
	if o != nil {
		for _, r := range o.Reports {
			if r.Matched > 0 || r.Passed > 0 {
				return r.Rule
			}
		}
	}
	return ""
}

func (d *Desk) failedRun(p *pending) *store.Run {
	var e *RunError
	if !errors.As(p.err, &e) && p.req.Kind == "" || errors.Is(p.err, errMemory) || errors.Is(p.err, ErrClosed) || errors.Is(p.err, context.Canceled) {
		return nil
	}
	now := d.Now()
	run := &store.Run{ID: d.store.NewRunID(now, d.seq), At: now, Tracker: p.req.Tracker, Kind: p.req.Kind, Name: p.req.Name, Who: p.req.Who, Outcome: "failed"}
	var beyond *reconcile.Beyond
	if errors.As(p.err, &beyond) {
		run.Outcome = "stopped"
	}
	cause := p.req.Cause
	cause.Woke = -1
	body := RunBody{Cause: cause, Problem: p.err.Error()}
	if e != nil {
		e.Run = run.ID
		if e.Outcome != nil {
			body.Reports = worked(e.Outcome.Reports)
		}
		var step *rule.StepError
		if errors.As(e.Err, &step) && run.Name == "" {
			run.Name = step.Rule
		}
	}
	if run.Kind == "" {
		run.Kind = "edit"
	}
	run.Body = mustJSON(body)
	return run
}

func mustJSON(v any) json.RawMessage {
	text, err := json.Marshal(v)
	if err != nil { // plain structs of strings and numbers
		panic("desk: " + err.Error())
	}
	return text
}
