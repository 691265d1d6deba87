package workspace

import (
	"context"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
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
}

// TryDefinition works out what a definition would be like, in the place of another or as a
// new one; nothing is changed.
func (w *Workspace) TryDefinition(ctx context.Context, t *sheet.Tracker, kind sheet.DefinitionKind, text []byte, replace sheet.DefinitionID) (*Tried, error) {
	shape := t.Clone()
	def, err := w.Setup.ParseDefinition(kind, text, shape, w.NewID, replace)
	if err != nil {
		return nil, err
	}
	at := -1
	for i := range shape.Definitions {
		if shape.Definitions[i].ID == def.ID {
			at = i
			shape.Definitions[i] = *def
		}
	}
	if at < 0 {
		shape.Definitions = append(shape.Definitions, *def)
	}
	p, err := program.Compile(shape, w.Setup.Kinds())
	if err != nil {
		return nil, err
	}
	out := &Tried{}
	if out.Says, err = w.Setup.Sentence(def, shape); err != nil {
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
