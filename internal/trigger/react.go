package trigger

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
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

func (r report) Wrote() bool { return len(r.Writes) > 0 || len(r.Mails) > 0 }

func (r report) Unmet() bool {
	return slices.ContainsFunc(r.Reports, func(rep rule.Report) bool { return rep.Unmet })
}

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
func (tg *Triggers) setting(t *engine.Turn) rule.Setting {
	start := time.Now() // steps are timed by the machine's clock, whatever the engine's is
	return rule.Setting{Program: t.Program, Now: t.Now, Limits: tg.Limits, NewID: tg.NewID, Elapsed: func() time.Duration { return time.Since(start) }, Meter: t.Meter(),
		Records: func(id sheet.DefinitionID) ([]reconcile.Entry, error) { return tg.records(t, id) }}
}

// listKey is what a list's records rest on: its definition.
type listKey struct {
	id   sheet.DefinitionID
	body string
}

// records gives the records of a list that a rule counts.
func (tg *Triggers) records(t *engine.Turn, id sheet.DefinitionID) ([]reconcile.Entry, error) {
	tr := t.Draft.Tracker(t.Tracker)
	if tr == nil {
		return nil, &sheet.NotFound{What: "tracker", Name: t.Tracker.String()}
	}
	p, err := t.Program(tr.Shape)
	if err != nil {
		return nil, err
	}
	list, err := program.Ready[*reconcile.List](p, id)
	if err != nil || tg.Lists == nil {
		return nil, fmt.Errorf("the list cannot be reached")
	}
	e, err := p.Entry(id)
	if err != nil {
		return nil, err
	}
	return engine.Need(t, listKey{id, string(e.Stored.Body)}, func(ctx context.Context) ([]reconcile.Entry, error) {
		got, err := tg.Lists.Fetch(ctx, list)
		if err != nil {
			return nil, fmt.Errorf("fetching %s: %w", list.Title, err)
		}
		return got, nil
	})
}

// React lets rules follow from what a turn has changed.
func (tg *Triggers) React(t *engine.Turn) error {
	out, err := rule.Follow(t.Draft, t.Causes, tg.setting(t))
	return tg.reacted(t, out, err)
}

// reacted takes over what rules came to: their causes, their report, the files that
// they ask for.
func (tg *Triggers) reacted(t *engine.Turn, out *rule.Outcome, err error) error {
	t.Settled = true
	if out == nil {
		return err
	}
	t.Causes, t.Run.Report = out.Causes, report{out}
	if err != nil {
		return err
	}
	if len(out.Mails) > 0 && tg.Mail != nil {
		if err := tg.Mail(t, out); err != nil {
			return err
		}
	}
	if len(out.Writes) > 0 && tg.Write != nil {
		return tg.Write(t, out)
	}
	return nil
}

// Warn says which rules of a new shape could chase each other, which go to a tracker that
// is not there, and which set what does not fit, such as a name that nobody bears. What was so before is no news.
func (tg *Triggers) Warn(t *engine.Turn, c *sheet.Change) ([]string, error) {
	if err := reached(t, c); err != nil || c.ShapeAfter == nil {
		return nil, err
	}
	out, err := warnings(t, c.ShapeAfter)
	if err != nil {
		return nil, err
	}
	if err := reaches(t, c); err != nil || c.ShapeBefore == nil {
		return out, err
	}
	known, err := warnings(t, c.ShapeBefore)
	if err == nil {
		out = slices.DeleteFunc(out, func(w string) bool { return slices.Contains(known, w) })
	}
	return out, nil
}

// reaches asks, of rules that are new or altered, whether the tab and the columns of
// another tracker that they name are there; a tracker that is not there is only warned of.
func reaches(t *engine.Turn, c *sheet.Change) error {
	p, err := t.Program(c.ShapeAfter)
	if err != nil {
		return err
	}
	for _, r := range rule.Of(p) {
		if c.ShapeBefore != nil {
			if was := c.ShapeBefore.DefinitionByID(r.ID); was != nil && string(was.Body) == string(c.ShapeAfter.DefinitionByID(r.ID).Body) {
				continue
			}
		}
		for _, step := range r.Steps {
			place := step.Place()
			if place == nil || place.Tracker == "" {
				continue
			}
			there, err := t.Draft.Now().Find(place.Tracker)
			if err != nil {
				continue
			}
			if err := step.Fits(there.Shape); err != nil {
				return fmt.Errorf("rule %s, %s: %w", r.Name, step.Kind(), err)
			}
		}
	}
	return nil
}

// reached asks, of a tracker that changes or goes, whether what rules of other trackers name
// of it is still there. What was missing before is no matter of this change.
func reached(t *engine.Turn, c *sheet.Change) error {
	if c.ShapeBefore == nil {
		return nil
	}
	for _, other := range t.Draft.Now().Trackers() {
		if other.ID == c.Tracker {
			continue
		}
		p, err := t.Program(other.Shape)
		if err != nil {
			return err
		}
		for _, r := range rule.Of(p) {
			for _, step := range r.Steps {
				place := step.Place()
				if place == nil || !value.EqualText(place.Tracker, c.ShapeBefore.Name) || step.Fits(c.ShapeBefore) != nil {
					continue
				}
				who := fmt.Sprintf("rule %s of %s", r.Name, other.Name)
				if policy.RoleIn(t.By, other.Shape) == policy.Nobody {
					who = "a rule of another tracker"
				}
				there, err := t.Draft.Now().Find(place.Tracker)
				if err != nil {
					return &sheet.Needed{Name: c.ShapeBefore.Name, By: []string{who}}
				}
				err = step.Fits(there.Shape)
				var gone *sheet.NotFound
				if errors.As(err, &gone) {
					return &sheet.Needed{Name: gone.Name, From: gone.In, By: []string{who}}
				}
				if err != nil {
					return fmt.Errorf("%s needs what is not there then (%w): change or delete that first", who, err)
				}
			}
		}
	}
	return nil
}

func warnings(t *engine.Turn, s *sheet.Shape) ([]string, error) {
	p, err := t.Program(s)
	if err != nil {
		return nil, err
	}
	rules := rule.Of(p)
	var out []string
	for _, l := range rule.Loops(rules) {
		out = append(out, fmt.Sprintf("these rules could form a loop: %s; if they do, nothing is saved", l))
	}
	form := s.Form(t.Engine().Writing(t.Context()))
	for _, r := range rules {
		out = append(out, r.Unfit(form)...)
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
