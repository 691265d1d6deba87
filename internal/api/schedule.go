package api

import (
	"context"
	"net/http"
	"strings"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/wire"
)

// recentRuns is how many of a tracker's runs are looked through for each definition's last.
const recentRuns = 500

func (s *server) scheduleRoutes() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/schedule", "list-schedule", "Tell when each rule, round and sync ran last, with what outcome, and when it runs by itself next",
		func(ctx context.Context, in *InTracker) (*body[[]wire.Scheduled], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			out, err := s.schedule(ctx, t)
			if err != nil {
				return nil, err
			}
			return ok(out), nil
		})
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/order", "order-definitions", "Put rules, or other definitions of one kind, first in an order; rules that an edit wakes run in it",
		func(ctx context.Context, in *struct {
			InTracker
			Write
			Body wire.Order
		}) (*body[wire.ChangeSet], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			kind := sheet.DefinitionKind(in.Body.Kind)
			var first []sheet.DefinitionID
			for _, name := range in.Body.First {
				d, err := t.Definition(kind, name)
				if err != nil {
					return nil, err
				}
				first = append(first, d.ID)
			}
			return s.change(ctx, in.Write, s.workspace.OrderDefinitions(asker(ctx), t.ID, kind, first))
		})
}

// schedule tells of each definition that runs when it did last and does next.
func (s *server) schedule(ctx context.Context, t *sheet.Tracker) ([]wire.Scheduled, error) {
	runs, err := s.workspace.Store().Runs(ctx, t.ID, "", recentRuns)
	if err != nil {
		return nil, err
	}
	last := map[string]*store.Run{} // by kind and name
	for _, r := range runs {
		kind, names := r.Kind, []string{r.Name}
		if r.Kind == "edit" { // the rules that it woke, in order
			kind, names = string(sheet.KindRule), strings.Split(r.Name, ", ")
		}
		for _, name := range names {
			if key := kind + " " + name; last[key] == nil {
				last[key] = r
			}
		}
	}
	clocked, err := s.workspace.Clocked(ctx)
	if err != nil {
		return nil, err
	}
	out := []wire.Scheduled{}
	for i := range t.Definitions {
		d := &t.Definitions[i]
		w := wire.Scheduled{ID: d.ID.String(), Kind: string(d.Kind), Name: d.Name}
		for _, c := range clocked {
			if c.Tracker.ID == t.ID && c.Definition.ID == d.ID {
				w.Next, w.Phrase = &c.Next, c.Phrase
			}
		}
		if r := last[string(d.Kind)+" "+d.Name]; r != nil {
			w.Last = &wire.LastRun{Run: r.ID, At: r.At, Outcome: r.Outcome}
		}
		if w.Next != nil || w.Last != nil {
			out = append(out, w)
		}
	}
	return out, nil
}
