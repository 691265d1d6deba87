package desk

import (
	"context"
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// report is what rules say they did, for the engine.
type report struct{ *rule.Outcome }

// OutcomeOf gives what the rules of a turn say they did, or nil.
func OutcomeOf(r engine.Report) *rule.Outcome {
	if r, is := r.(report); is {
		return r.Outcome
	}
	return nil
}

func (r report) Ran() bool {
	return slices.ContainsFunc(r.Reports, func(rep rule.Report) bool { return rep.Matched > 0 || rep.Passed > 0 })
}

func (r report) Watched() bool {
	return slices.ContainsFunc(r.Reports, func(rep rule.Report) bool { return rep.Watching && rep.Matched > 0 })
}

func (r report) Wrote() bool { return len(r.Writes) > 0 }

func (r report) First() string {
	for _, rep := range r.Reports {
		if rep.Matched > 0 || rep.Passed > 0 {
			return rep.Rule
		}
	}
	return ""
}

// Record leaves out the rules that looked at rows and found none.
func (r report) Record() any {
	var out []rule.Report
	for _, rep := range r.Reports {
		if rep.Matched > 0 || rep.Passed > 0 || slices.ContainsFunc(rep.Steps, func(s rule.StepReport) bool { return s.Rows > 0 }) {
			out = append(out, rep)
		}
	}
	if out == nil {
		return nil
	}
	return out
}

// RunRecord is what the record of a run holds, read back.
type RunRecord struct {
	engine.RunBody
	Reports []rule.Report `json:"reports,omitempty"`
}

// setting is what rules are given to work with in a turn.
func (d *Desk) setting(t *Turn) rule.Setting {
	start := time.Now() // steps are timed by the machine's clock, whatever the engine's is
	return rule.Setting{Program: t.Program, Now: t.Now, Limits: d.Limits, NewID: d.NewID, Elapsed: func() time.Duration { return time.Since(start) }, Meter: t.Meter(),
		Records: func(id sheet.PartID) ([]reconcile.Entry, error) { return d.records(t, id) }}
}

// listKey is what a list's records rest on: its definition.
type listKey struct {
	id   sheet.PartID
	body string
}

// records gives the records of a list that a rule counts.
func (d *Desk) records(t *Turn, id sheet.PartID) ([]reconcile.Entry, error) {
	tr := t.Draft.Tracker(t.Tracker)
	if tr == nil {
		return nil, &sheet.NotFound{What: "tracker", Name: t.Tracker.String()}
	}
	p, err := t.Program(tr.Shape)
	if err != nil {
		return nil, err
	}
	list, err := program.Ready[*reconcile.List](p, id)
	if err != nil || d.Lists == nil {
		return nil, fmt.Errorf("the list cannot be reached")
	}
	e, err := p.Entry(id)
	if err != nil {
		return nil, err
	}
	return engine.Need(t, listKey{id, string(e.Part.Body)}, func(ctx context.Context) ([]reconcile.Entry, error) {
		got, err := d.Lists.Fetch(ctx, list)
		if err != nil {
			return nil, fmt.Errorf("fetching %s: %w", list.Title, err)
		}
		return got, nil
	})
}

// react lets rules follow from what a turn has changed.
func (d *Desk) react(t *Turn) error {
	out, err := rule.Follow(t.Draft, t.Causes, d.setting(t))
	return d.reacted(t, out, err)
}

// reacted takes over what rules came to: their causes, their report, the files that
// they ask for.
func (d *Desk) reacted(t *Turn, out *rule.Outcome, err error) error {
	t.Settled = true
	if out == nil {
		return err
	}
	t.Causes, t.Run.Report = out.Causes, report{out}
	if err != nil {
		return err
	}
	for i := range out.Writes {
		ask := &out.Writes[i]
		t.Place(func(r *Result) (func() error, error) {
			says, undo, err := d.writeFile(r, ask)
			if err != nil {
				return undo, fmt.Errorf("writing %s/%s: %w", OutboundFolder, ask.Path, err)
			}
			ask.Tell(out, says)
			return undo, nil
		})
	}
	if len(out.Writes) > 0 {
		t.Store(func(ctx context.Context, b *store.Batch, r *Result) error { return keepWritten(ctx, b, r, out) })
	}
	return nil
}

// warn says which rules of a new shape could chase each other, and which go to a
// tracker that is not there. What was so before is no news.
func (d *Desk) warn(t *Turn, c *sheet.Change) ([]string, error) {
	out, err := warnings(t, c.ShapeAfter)
	if err != nil || c.ShapeBefore == nil {
		return out, err
	}
	known, err := warnings(t, c.ShapeBefore)
	if err == nil {
		out = slices.DeleteFunc(out, func(w string) bool { return slices.Contains(known, w) })
	}
	return out, nil
}

func warnings(t *Turn, s *sheet.Shape) ([]string, error) {
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
