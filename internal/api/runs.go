package api

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/trigger"
	"example.org/kavlo/internal/wire"
)

type paged[T any] struct {
	Link string `header:"Link" doc:"rel=next leads to the next page (RFC 8288)"`
	Body []T
}

// run lays a run out; with whole, its changes as well.
func (s *server) run(ctx context.Context, r *store.Run, whole bool) (wire.Run, error) {
	var b struct {
		trigger.RunRecord
		Detail any `json:"detail"`
	}
	if err := json.Unmarshal(r.Body, &b); err != nil {
		return wire.Run{}, fmt.Errorf("reading run %s: %w", r.ID, err)
	}
	out := wire.Run{ID: r.ID, At: r.At, Tracker: r.Tracker.String(), Kind: r.Kind, Name: r.Name, Who: r.Who, Outcome: r.Outcome, Seq: r.Seq,
		Cause: causeWords(b.Cause, r.Who), Problem: b.Problem, Detail: b.Detail, PassedOver: passedOver(b.Reports), Counts: map[string]int{}}
	if t := s.seen(ctx).Tracker(r.Tracker); t != nil {
		out.Tracker = t.Name
	}
	for kind, n := range b.Counts {
		out.Counts[string(kind)] = n
	}
	for _, rep := range b.Reports {
		w := wire.RuleReport{Rule: rep.Rule, Considered: rep.Considered, Matched: rep.Matched, Passed: rep.Passed, Watching: rep.Watching, Would: rep.Would}
		for _, step := range rep.Steps {
			w.Steps = append(w.Steps, wire.StepReport{Says: step.Says, Kind: step.Kind, Name: step.Name, Remark: step.Remark, Rows: step.Rows, Changed: step.Changed, Took: step.Took.Microseconds()})
		}
		out.Rules = append(out.Rules, w)
	}
	if !s.whole(ctx, r.Tracker) { // name and outcome, no more
		out = wire.Run{ID: out.ID, At: out.At, Tracker: out.Tracker, Kind: out.Kind, Name: out.Name, Who: out.Who, Outcome: out.Outcome, Seq: out.Seq, Cause: out.Cause, PassedOver: []wire.PassedOver{}, Counts: map[string]int{}}
	}
	if r.Seq == 0 {
		return out, nil
	}
	by, err := s.workspace.Store().UndoneBy(ctx, r.Seq)
	if err != nil {
		return out, err
	}
	out.Undone = by != 0
	if whole {
		set, err := s.workspace.Store().ChangeSet(ctx, r.Seq)
		if err != nil {
			return out, err
		}
		out.Changes, out.More = s.viewFor(ctx, s.seen(ctx)).changes(s.left(ctx, set))
	}
	return out, nil
}

// causeWords says what set a run off.
func causeWords(c sheet.Cause, who string) string {
	switch c.Kind {
	case sheet.ByEdit:
		return "an edit by " + who
	case sheet.ByClock:
		return "schedule"
	case sheet.ByCall:
		return "API call"
	case sheet.ByHand:
		return who + " (manual)"
	case sheet.BySync:
		if c.Says == string(sheet.ByClock) {
			return "schedule"
		}
		return who + " (manual)"
	case sheet.ByImport:
		return fmt.Sprintf("import of %s by %s", c.Name, who)
	case sheet.ByFile:
		return "file " + c.Name
	case sheet.ByUndo:
		return "undo by " + who
	case sheet.ByForm:
		return "form " + c.Name
	case sheet.ByPages:
		return who + " (manual)"
	case sheet.BySetup:
		return "setup change by " + who
	case sheet.ByAccess:
		return c.Name
	}
	return string(c.Kind)
}

func (s *server) runRoutes() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/runs", "list-runs", "List runs, newest first",
		func(ctx context.Context, in *struct {
			InTracker
			Before string `query:"before" doc:"Only runs older than this one"`
			Limit  int    `query:"limit" minimum:"1" maximum:"500" default:"50" doc:"How many at most"`
		}) (*paged[wire.Run], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			runs, err := s.workspace.Store().Runs(ctx, t.ID, in.Before, in.Limit)
			if err != nil {
				return nil, err
			}
			out := &paged[wire.Run]{Body: []wire.Run{}}
			for _, r := range runs {
				w, err := s.run(ctx, r, false)
				if err != nil {
					return nil, err
				}
				out.Body = append(out.Body, w)
			}
			if len(runs) == in.Limit {
				q := url.Values{"before": {runs[len(runs)-1].ID}, "limit": {strconv.Itoa(in.Limit)}}
				out.Link = fmt.Sprintf("</api/v1/trackers/%s/runs?%s>; rel=\"next\"", t.ID, q.Encode())
			}
			return out, nil
		})
	route(s, reader, http.MethodGet, "/runs/{run}", "get-run", "Show a run with its steps and changes",
		func(ctx context.Context, in *struct {
			Run string `path:"run" doc:"The run's id"`
		}) (*body[wire.Run], error) {
			r, err := s.workspace.Store().Run(ctx, in.Run)
			if err != nil {
				return nil, err
			}
			if r.Tracker != 0 && s.seen(ctx).Tracker(r.Tracker) == nil && !s.whole(ctx, r.Tracker) {
				return nil, fmt.Errorf("run %s: %w", in.Run, store.ErrNotFound)
			}
			w, err := s.run(ctx, r, true)
			if err != nil {
				return nil, err
			}
			return ok(w), nil
		})
	route(s, reader, http.MethodGet, "/trackers/{tracker}/journal", "list-journal", "List change sets, newest first",
		func(ctx context.Context, in *struct {
			InTracker
			Mine   string `query:"mine" enum:"yes,no" doc:"yes: one's own change sets, each with what it did"`
			By     string `query:"by" maxLength:"400" doc:"Only change sets of somebody, by name"`
			Tab    string `query:"tab" maxLength:"400" doc:"Only change sets that touch rows of a tab, by name or id"`
			Row    string `query:"row" maxLength:"100" doc:"Only change sets that touch a row, by id"`
			Before int64  `query:"before" minimum:"0" doc:"Only change sets with a smaller number"`
			Limit  int    `query:"limit" minimum:"1" maximum:"500" default:"50" doc:"How many at most"`
		}) (*paged[wire.JournalEntry], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			which := store.Which{Tracker: t.ID, Who: in.By, Before: in.Before, Limit: in.Limit}
			mine := in.Mine == "yes"
			if mine {
				which.Who = who(ctx).Name
			}
			if in.Tab != "" {
				tab, err := t.Tab(in.Tab)
				if err != nil {
					return nil, err
				}
				which.Tab = tab.ID
			}
			if in.Row != "" {
				id, is := sheet.ParseRowID(in.Row)
				if !is {
					return nil, &sheet.NotFound{What: "row", Name: in.Row, In: t.Name}
				}
				which.Row = id
			}
			sets, err := s.workspace.Store().Journaled(ctx, which)
			if err != nil {
				return nil, err
			}
			out := &paged[wire.JournalEntry]{Body: []wire.JournalEntry{}}
			for _, set := range sets {
				entry := wire.JournalEntry{Seq: set.Seq, At: set.At, Who: set.Who, Says: setWords(set.ChangeSet), Run: set.Run, Undoes: set.Undoes, Counts: set.Counts}
				if !s.whole(ctx, t.ID) || !s.whole(ctx, set.Tracker) {
					entry.Counts = map[string]int{}
				}
				if set.Tracker != t.ID && s.seen(ctx).Tracker(set.Tracker) == nil && !s.whole(ctx, set.Tracker) {
					entry.Says, entry.Run = "came from another tracker", ""
				}
				if entry.Undone, err = s.workspace.Undone(ctx, set.Seq); err != nil {
					return nil, err
				}
				if mine {
					if entry.Says, err = s.briefly(ctx, set); err != nil {
						return nil, err
					}
				}
				out.Body = append(out.Body, entry)
			}
			if len(sets) == in.Limit {
				q := url.Values{"before": {strconv.FormatInt(sets[len(sets)-1].Seq, 10)}, "limit": {strconv.Itoa(in.Limit)}}
				for name, v := range map[string]string{"mine": in.Mine, "by": in.By, "tab": in.Tab, "row": in.Row} {
					if v != "" {
						q.Set(name, v)
					}
				}
				out.Link = fmt.Sprintf("</api/v1/trackers/%s/journal?%s>; rel=\"next\"", t.ID, q.Encode())
			}
			return out, nil
		})
	route(s, keeper, http.MethodGet, "/access/journal", "list-access-journal", "List the changes of who may come in, of secrets and of what lists may reach, newest first",
		func(ctx context.Context, in *struct {
			Before int64 `query:"before" minimum:"0" doc:"Only change sets with a smaller number"`
			Limit  int   `query:"limit" minimum:"1" maximum:"500" default:"50" doc:"How many at most"`
		}) (*body[[]wire.JournalEntry], error) {
			sets, err := s.workspace.Store().JournaledAccess(ctx, in.Before, in.Limit)
			if err != nil {
				return nil, err
			}
			out := []wire.JournalEntry{}
			for _, set := range sets {
				out = append(out, wire.JournalEntry{Seq: set.Seq, At: set.At, Who: set.Who, Says: setWords(set), Counts: map[string]int{}})
			}
			return ok(out), nil
		})
	route(s, reader, http.MethodGet, "/journal/{seq}", "get-change-set", "Show a change set",
		func(ctx context.Context, in *struct {
			Seq int64 `path:"seq" minimum:"1" doc:"The change set's number"`
		}) (*body[wire.ChangeSet], error) {
			set, err := s.workspace.Store().ChangeSet(ctx, in.Seq)
			if err != nil {
				return nil, err
			}
			return ok(*s.viewFor(ctx, s.seen(ctx)).set(s.left(ctx, set))), nil
		})
	route(s, editor, http.MethodPost, "/undo/{what}", "undo", "Take a run or change set back", s.undo, answers(http.StatusConflict))
}

const (
	fewChanges = 200 // of a change set, which are read to say what it did
	mostSaid   = 3
)

// briefly says what a change set did, as far as the asker may know: its first changes where
// they are few, and what it was otherwise.
func (s *server) briefly(ctx context.Context, entry store.Entry) (string, error) {
	total := 0
	for _, n := range entry.Counts {
		total += n
	}
	what := setWords(entry.ChangeSet)
	if total > fewChanges {
		return what, nil
	}
	set, err := s.workspace.Store().ChangeSet(ctx, entry.Seq)
	if err != nil {
		return "", err
	}
	said := s.seen(ctx).DescribeAll(s.left(ctx, set).Changes)
	if len(said) == 0 {
		return what, nil
	}
	if more := len(said) - mostSaid; more > 0 {
		said = append(said[:mostSaid], fmt.Sprintf("and %d more", more))
	}
	return strings.Join(said, "; "), nil
}

// setWords says what a change set was, from its first cause.
func setWords(set *sheet.ChangeSet) string {
	if len(set.Causes) == 0 {
		return ""
	}
	switch c := set.Causes[0]; c.Kind {
	case sheet.ByEdit:
		if len(set.Causes) > 1 {
			return "edit and triggered changes"
		}
		return "edit"
	case sheet.ByClock:
		return fmt.Sprintf("%s (schedule)", c.Name)
	case sheet.ByCall:
		return fmt.Sprintf("%s (API call)", c.Name)
	case sheet.ByHand:
		return fmt.Sprintf("%s (manual)", c.Name)
	case sheet.BySync:
		return fmt.Sprintf("sync %s", c.Name)
	case sheet.ByImport:
		return fmt.Sprintf("import of %s", c.Name)
	case sheet.ByFile:
		return fmt.Sprintf("file %s", c.Name)
	case sheet.ByUndo:
		return fmt.Sprintf("undo of %s", c.Name)
	case sheet.ByForm:
		return fmt.Sprintf("form %s", c.Name)
	case sheet.ByPages:
		return fmt.Sprintf("pages of %s", c.Name)
	case sheet.ByAccess:
		return c.Name
	default:
		return "setup"
	}
}

func (s *server) undo(ctx context.Context, in *struct {
	What string `path:"what" doc:"A run's id, or the number of a change set"`
	Write
	Force string `query:"force" enum:"yes,no" doc:"yes: keep later changes, and undo the rest"`
}) (*body[wire.ChangeSet], error) {
	set, err := s.workspace.FindSet(ctx, in.What)
	if err != nil {
		return nil, asked(err)
	}
	req, err := s.workspace.Undo(ctx, asker(ctx), set, in.Force == "yes")
	if err != nil {
		return nil, asked(err)
	}
	return s.change(ctx, in.Write, req)
}
