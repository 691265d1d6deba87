package api

import (
	"context"
	"net/http"
	"time"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
	"example.org/kavlo/internal/workspace"
)

// shownMatches is how many rows of a trial are named.
const shownMatches = 20

// trial reads what is to be tried, and finds the definition whose place it takes.
func (s *server) trial(ctx context.Context, tracker string, kind sheet.DefinitionKind, in wire.Trial) (*sheet.Tracker, []byte, sheet.DefinitionID, error) {
	t, err := s.find(ctx, tracker)
	if err != nil {
		return nil, nil, 0, err
	}
	var id sheet.DefinitionID
	if in.Replaces != "" {
		d, err := t.Definition(kind, in.Replaces)
		if err != nil {
			return nil, nil, 0, err
		}
		id = d.ID
	}
	return t, in.Body, id, nil
}

// trialRoutes lets definitions be tried that are not saved.
func (s *server) trialRoutes() {
	for i := range s.workspace.Setup.Kinds() {
		s.trialRoute(&s.workspace.Setup.Kinds()[i])
	}
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/try/list/records", "look-at-list", "Fetch a list that is not saved, and say what its records hold",
		func(ctx context.Context, in *struct {
			InTracker
			Body wire.Trial
		}) (*body[wire.ListSample], error) {
			t, text, id, err := s.trial(ctx, in.Tracker, sheet.KindList, in.Body)
			if err != nil {
				return nil, err
			}
			found, err := s.workspace.LookAtList(ctx, t, text, id)
			if err != nil {
				return nil, asked(err)
			}
			out := wire.ListSample{Items: found.Items, Total: found.Total, ID: found.ID, Fields: []wire.SampleField{}, Pages: found.Pages.Fetched, Offers: found.Pages.Offers, Cursor: found.Pages.Cursor}
			for _, f := range found.Fields {
				out.Fields = append(out.Fields, wire.SampleField{At: f.At, Samples: f.Samples, Filled: f.Filled})
			}
			return ok(out), nil
		}, heavy)
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/try/sync/preview", "preview-unsaved-sync", "Show what a sync that is not saved would change now, in its tab and in its list, whatever its change limit",
		func(ctx context.Context, in *struct {
			InTracker
			Body wire.Trial
		}) (*body[wire.ChangeSet], error) {
			t, text, id, err := s.trial(ctx, in.Tracker, sheet.KindSync, in.Body)
			if err != nil {
				return nil, err
			}
			r, err := s.workspace.PreviewSync(ctx, asker(ctx), t, text, id)
			if err != nil {
				return nil, asked(err)
			}
			set, err := s.changeSet(ctx, r, true)
			if err != nil {
				return nil, err
			}
			return ok(*set), nil
		}, heavy)
	for _, kind := range []sheet.DefinitionKind{sheet.KindReminder, sheet.KindRound} {
		s.trialEmailsRoute(kind)
	}
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/try/rule/preview", "preview-unsaved-rule", "Show what a rule that is not saved would change now, on all rows of its tabs",
		func(ctx context.Context, in *struct {
			InTracker
			Body wire.Trial
		}) (*body[wire.ChangeSet], error) {
			t, text, id, err := s.trial(ctx, in.Tracker, sheet.KindRule, in.Body)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, Write{Preview: "yes"}, s.workspace.TryRule(asker(ctx), t, text, id))
		}, heavy, answers(http.StatusConflict))
}

func (s *server) trialEmailsRoute(kind sheet.DefinitionKind) {
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/try/"+string(kind)+"/emails", "emails-of-unsaved-"+string(kind), "Show the email that each person would get of a "+string(kind)+" that is not saved",
		func(ctx context.Context, in *struct {
			InTracker
			Body wire.Trial
		}) (*body[wire.TriedEmails], error) {
			t, text, id, err := s.trial(ctx, in.Tracker, kind, in.Body)
			if err != nil {
				return nil, err
			}
			all, err := s.workspace.UnsavedLetters(ctx, t, kind, text, id)
			if err != nil {
				return nil, asked(err)
			}
			first := all[:min(len(all), mostLetters)]
			shown, err := s.letters(ctx, first)
			if err != nil {
				return nil, err
			}
			return ok(wire.TriedEmails{Emails: shown, More: len(all) - len(first)}), nil
		}, heavy)
}

func (s *server) trialRoute(of *program.Kind) {
	kind, name := of.Name, string(of.Name)
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/try/"+name, "try-"+name+"-unsaved", "Say what a "+name+" that is not saved would be like, and what it matches now",
		func(ctx context.Context, in *struct {
			InTracker
			Body wire.Trial
		}) (*body[wire.Tried], error) {
			t, text, id, err := s.trial(ctx, in.Tracker, kind, in.Body)
			if err != nil {
				return nil, err
			}
			tried, err := s.workspace.TryDefinition(ctx, t, kind, text, id)
			if err != nil {
				return nil, asked(err)
			}
			return ok(triedView(t, tried)), nil
		})
}

func triedView(t *sheet.Tracker, tried *workspace.Tried) wire.Tried {
	out := wire.Tried{Says: tried.Says, Rows: []wire.TriedRow{}, PassedOver: []wire.PassedOver{}, Starts: tried.Starts}
	for _, l := range tried.Loops {
		out.Loops = append(out.Loops, l.String())
	}
	for _, at := range tried.Next {
		out.Next = append(out.Next, at.In(t.Location()).Format(time.RFC3339))
	}
	if !tried.Matches {
		return out
	}
	matched := len(tried.Rows) + tried.Holding.Held
	out.Matched, out.Considered, out.Skipped = &matched, tried.Report.Considered, tried.Report.Passed+len(tried.Holding.PassedOver)
	for _, row := range tried.Rows[:min(shownMatches, len(tried.Rows))] {
		tab := t.TabOf(row)
		out.Rows = append(out.Rows, wire.TriedRow{ID: row.ID.String(), Tab: tab.Name, TabID: tab.ID.String(), Label: t.Label(row)})
	}
	for i := range tried.Holding.Items[:min(shownMatches, len(tried.Holding.Items))] {
		item := &tried.Holding.Items[i]
		out.Rows = append(out.Rows, wire.TriedRow{ID: item.Row.String(), Tab: item.Tab, TabID: item.TabID.String(), Label: item.Label, To: item.To})
	}
	out.PassedOver = passedOver([]rule.Report{tried.Report})
	for _, says := range tried.Holding.PassedOver[:min(shownMatches, len(tried.Holding.PassedOver))] {
		out.PassedOver = append(out.PassedOver, wire.PassedOver{Label: says})
	}
	return out
}
