package engine

// What a run leaves behind: the record of what it considered, matched, changed and
// failed at.

import (
	"context"
	"encoding/json"
	"errors"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// RunBody is what a run's record holds besides its heading.
type RunBody struct {
	Cause   sheet.Cause        `json:"cause"`
	Reports any                `json:"reports,omitempty"`
	Counts  map[sheet.Kind]int `json:"counts,omitempty"`
	Detail  any                `json:"detail,omitempty"`
	Problem string             `json:"problem,omitempty"`
}

// Outcomes of runs.
const (
	Done        = "done"
	NothingToDo = "nothing to do"
	Watched     = "watched"
	PartlyDone  = "partly done"
	Failed      = "failed"
	Stopped     = "stopped"
)

// Outcome says in a word how what was asked for ended, or in a preview would end.
func (r *Result) Outcome() string {
	report := r.Note.Report
	switch {
	case r.Note.Outcome != "":
		return r.Note.Outcome
	case report != nil && report.Unmet():
		return PartlyDone
	case len(r.Set.Changes) > 0:
		return Done
	case report != nil && report.Watched():
		return Watched
	case report != nil && report.Wrote():
		return Done
	}
	return NothingToDo
}

func (e *Engine) runOf(req *Request, r *Result) *store.Run {
	if r.Run == "" {
		return nil
	}
	run := &store.Run{ID: r.Run, At: r.Set.At, Tracker: req.Tracker, Kind: req.Kind, Name: req.Name, Who: req.By.Name, Seq: r.Set.Seq}
	body := RunBody{Cause: r.Set.Causes[0], Counts: r.Set.Counts(), Detail: r.Note.Detail}
	report := r.Note.Report
	if report != nil {
		body.Reports = report.Record()
	}
	if run.Kind == "" {
		run.Kind = "edit"
	}
	if run.Name == "" && report != nil {
		run.Name = report.First()
	}
	run.Outcome = r.Outcome()
	run.Body = MustJSON(body)
	return run
}

// Outcomer is an error that says how its run ended.
type Outcomer interface{ RunOutcome() string }

func (e *Engine) failedRun(p *pending) *store.Run {
	var failed *RunError
	var needs *unmet
	var unrecorded Unrecorded
	if !errors.As(p.err, &failed) && p.req.Kind == "" || errors.As(p.err, &needs) || errors.As(p.err, &unrecorded) || errors.Is(p.err, ErrClosed) || errors.Is(p.err, context.Canceled) {
		return nil
	}
	now := e.Now()
	run := &store.Run{ID: e.store.NewRunID(now, e.seq), At: now, Tracker: p.req.Tracker, Kind: p.req.Kind, Name: p.req.Name, Who: p.req.By.Name, Outcome: Failed}
	var outcome Outcomer
	if errors.As(p.err, &outcome) {
		run.Outcome = outcome.RunOutcome()
	}
	cause := p.req.Cause
	cause.Woke = -1
	body := RunBody{Cause: cause, Problem: p.err.Error()}
	if failed != nil {
		failed.Run = run.ID
		if failed.Report != nil {
			body.Reports = failed.Report.Record()
		}
		var named interface{ RunName() string }
		if errors.As(failed.Err, &named) && run.Name == "" {
			run.Name = named.RunName()
		}
	}
	if run.Kind == "" {
		run.Kind = "edit"
	}
	run.Body = MustJSON(body)
	return run
}

// Unrecorded is an error that leaves no run behind: what failed is tried again.
type Unrecorded interface {
	error
	Unrecorded()
}

// MustJSON writes plain structs of strings and numbers, which always can be.
func MustJSON(v any) json.RawMessage {
	text, err := json.Marshal(v)
	if err != nil {
		panic("engine: " + err.Error())
	}
	return text
}
