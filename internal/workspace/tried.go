package workspace

import (
	"context"
	"slices"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/trigger"
)

// Tried is a definition that is not saved, as it would be now.
type Tried struct {
	Says    string
	Rows    []*sheet.Row // that it matches; nil of kinds that match none
	Matches bool         // it is of a kind that matches rows
	Report  rule.Report  // of a rule: rows looked at and skipped
	Holding reminder.Holding
	Starts  []string // other rules that it may start
	Loops   []rule.Loop
	Next    []time.Time // when it would run by itself next
}

// nextTimes is how many times are told at which something would run by itself.
const nextTimes = 5

// unsaved reads a definition that is not saved, and gives a program in which it has the place
// of another or is a new one.
func (w *Workspace) unsaved(t *sheet.Tracker, kind sheet.DefinitionKind, text []byte, replace sheet.DefinitionID) (*sheet.Definition, *program.Program, error) {
	shape := t.Clone()
	def, err := w.Setup.ParseDefinition(kind, text, shape, w.NewID, replace)
	if err != nil {
		return nil, nil, err
	}
	at := slices.IndexFunc(shape.Definitions, func(d sheet.Definition) bool { return d.ID == def.ID })
	if at < 0 {
		shape.Definitions = append(shape.Definitions, *def)
	} else {
		shape.Definitions[at] = *def
	}
	shape.Settle() // with the tabs that it would keep for itself
	p, err := program.Compile(shape, w.Setup.Kinds())
	return def, p, err
}

// TryDefinition works out what a definition would be like, in the place of another or as a
// new one; nothing is changed.
func (w *Workspace) TryDefinition(ctx context.Context, t *sheet.Tracker, kind sheet.DefinitionKind, text []byte, replace sheet.DefinitionID) (*Tried, error) {
	def, p, err := w.unsaved(t, kind, text, replace)
	if err != nil {
		return nil, err
	}
	out := &Tried{}
	if out.Says, err = w.Setup.Sentence(def, p.Shape); err != nil {
		return nil, err
	}
	if out.Next, err = w.nextOf(p, def, w.Now()); err != nil {
		return nil, err
	}
	switch kind {
	case sheet.KindRule:
		return out, w.tryRule(ctx, out, t, p, def)
	case sheet.KindReminder:
		c, err := program.Ready[*reminder.Compiled](p, def.ID)
		if err != nil {
			return nil, err
		}
		people, _, err := w.Directory(ctx)
		if err != nil {
			return nil, err
		}
		meter := w.Meter(ctx)
		out.Matches, out.Holding = true, c.Metered(meter).Collect(t, people, w.Now())
		return out, meter.Err()
	}
	entry, err := p.Entry(def.ID)
	if err == nil {
		err = entry.Err
	}
	return out, err
}

// nextOf gives the times at which a definition would run by itself next; none where it does
// not, or does not read.
func (w *Workspace) nextOf(p *program.Program, def *sheet.Definition, now time.Time) ([]time.Time, error) {
	e, err := p.Entry(def.ID)
	if err != nil || e.Err != nil {
		return nil, err
	}
	when, err := program.ScheduleOf(e.Definition)
	if when == nil || err != nil {
		return nil, err
	}
	var out []time.Time
	calendar := recur.Calendar{Zone: p.Shape.Location(), Working: p.Shape.Working}
	for at := now; len(out) < nextTimes; {
		next, ok := when.Next(at, calendar)
		if !ok || !next.After(at) {
			break
		}
		out, at = append(out, next), next
	}
	return out, nil
}

// UnsavedLetters gives the mails of a reminder or a round that is not saved.
func (w *Workspace) UnsavedLetters(ctx context.Context, t *sheet.Tracker, kind sheet.DefinitionKind, text []byte, replace sheet.DefinitionID) ([]reminder.Letter, error) {
	def, p, err := w.unsaved(t, kind, text, replace)
	if err != nil {
		return nil, err
	}
	return w.Post.UnsavedLetters(ctx, t, p, def)
}

func (w *Workspace) tryRule(ctx context.Context, out *Tried, t *sheet.Tracker, p *program.Program, def *sheet.Definition) error {
	r, err := program.Ready[*rule.Compiled](p, def.ID)
	if err != nil {
		return err
	}
	if out.Matches = r.Wake.File == "" && len(r.Tabs()) > 0; out.Matches {
		meter := w.Meter(ctx)
		if out.Rows, out.Report = rule.Match(t, r, w.Now(), meter); meter.Err() != nil {
			return meter.Err()
		}
	}
	all := rule.Of(p)
	out.Starts = r.Starts(all)
	for _, l := range rule.Loops(all) {
		if l.Has(r.Name) {
			out.Loops = append(out.Loops, l)
		}
	}
	return nil
}

// TryRule gives a request that saves a rule and runs it at once on all rows of its tabs, for
// previews of one that is not saved.
func (w *Workspace) TryRule(by policy.Principal, t *sheet.Tracker, text []byte, replace sheet.DefinitionID) engine.Request {
	put := w.PutDefinition(by, t.ID, sheet.KindRule, text, replace)
	cause := sheet.Cause{Kind: sheet.ByHand}
	return engine.Request{By: by, Tracker: t.ID, Kind: "rule", Cause: cause, Work: func(turn *engine.Turn) error {
		before := map[sheet.DefinitionID]string{}
		for _, d := range turn.Draft.Tracker(t.ID).Definitions {
			before[d.ID] = string(d.Body)
		}
		if err := put.Work(turn); err != nil {
			return err
		}
		now := turn.Draft.Tracker(t.ID)
		id := replace
		for _, d := range now.Definitions {
			if was, known := before[d.ID]; d.Kind == sheet.KindRule && (!known || was != string(d.Body)) {
				id = d.ID
			}
		}
		ready, err := turn.Program(now.Shape)
		if err != nil {
			return err
		}
		r, err := program.Ready[*rule.Compiled](ready, id)
		if err != nil {
			return err
		}
		return w.Run(by, now, r, cause, trigger.How{Unwatched: true}).Work(turn)
	}}
}

// PreviewSync works out what a sync that is not saved would do to its tab and its list now.
func (w *Workspace) PreviewSync(ctx context.Context, by policy.Principal, t *sheet.Tracker, text []byte, replace sheet.DefinitionID) (*engine.Result, error) {
	def, p, err := w.unsaved(t, sheet.KindSync, text, replace)
	if err != nil {
		return nil, err
	}
	s, err := program.Ready[*reconcile.Sync](p, def.ID)
	if err != nil {
		return nil, err
	}
	return w.PreviewUnsaved(ctx, by, t, def, s)
}
