package api

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/wire"
)

func (s *server) todayRoutes() {
	route(s, reader, http.MethodGet, "/today", "today", "Tell what is overdue, what runs next, what failed and what the next rounds would send",
		func(ctx context.Context, in *struct {
			Limit int `query:"limit" minimum:"1" maximum:"5000" default:"500" doc:"How many rows, mails and conflicts are listed of each kind"`
		}) (*body[wire.Today], error) {
			out, err := s.today(ctx, in.Limit)
			if err != nil {
				return nil, err
			}
			return ok(*out), nil
		}, heavy)
}

func (s *server) today(ctx context.Context, limit int) (*wire.Today, error) {
	_, names, err := s.workspace.Directory(ctx)
	if err != nil {
		return nil, err
	}
	out := &wire.Today{Overdue: []wire.DueRow{}, Nobody: []wire.DueRow{}, People: []wire.PersonLoad{}, Failed: []wire.Run{}, Rounds: []wire.RoundAhead{}, Waiting: []wire.OutboxMail{}, Held: []wire.PendingHere{}, Notices: []wire.Notice{}}
	now := s.workspace.Now()
	out.Day = now.UTC().Format(time.DateOnly)
	trackers := s.seen(ctx).Trackers()
	if len(trackers) > 0 {
		out.Day = now.In(trackers[0].Location()).Format(time.DateOnly)
	}
	loads := map[string]map[sheet.RowID]bool{}
	for _, t := range trackers {
		holdings, err := s.workspace.Holdings(ctx, t)
		if asksTooMuch(err) { // its reminders are named, and the others told of
			out.Notices = append(out.Notices, wire.Notice{About: "tracker " + t.ID.String(), Says: fmt.Sprintf("What is overdue in %s cannot be told: %v", t.Name, err), Since: now})
			continue
		}
		if err != nil {
			return nil, err
		}
		for _, h := range holdings {
			for _, i := range h.Items {
				if len(out.Overdue) < limit {
					out.Overdue = append(out.Overdue, held(t, h.Reminder, i, names))
				} else {
					out.More.Overdue++
				}
				for _, to := range i.To {
					if loads[to] == nil {
						loads[to] = map[sheet.RowID]bool{}
					}
					loads[to][i.Row] = true
				}
			}
			for _, i := range h.Nobody {
				if len(out.Nobody) < limit {
					out.Nobody = append(out.Nobody, held(t, h.Reminder, i, names))
				} else {
					out.More.Nobody++
				}
			}
		}
	}
	for _, t := range trackers {
		conflicts, err := s.workspace.Conflicts(ctx, t, nil)
		if err != nil {
			return nil, err
		}
		for _, c := range s.conflicts(ctx, t, conflicts) {
			if len(out.Held) >= limit {
				out.More.Held++
				continue
			}
			out.Held = append(out.Held, wire.PendingHere{Tracker: t.Name, TrackerID: t.ID.String(), Conflict: c})
		}
	}
	for address, rows := range loads {
		out.People = append(out.People, wire.PersonLoad{Name: named(names, address), Address: address, Rows: len(rows)})
	}
	slices.SortFunc(out.People, func(a, b wire.PersonLoad) int {
		if a.Rows != b.Rows {
			return b.Rows - a.Rows
		}
		return compareText(a.Name, b.Name)
	})
	if err := s.ahead(ctx, out, limit); err != nil {
		return nil, err
	}
	for _, n := range s.workspace.Notices() {
		if !s.wholly(ctx) {
			break
		}
		out.Notices = append(out.Notices, wire.Notice(n))
	}
	return out, s.trouble(ctx, out, now, limit)
}

// mostLetters is how many mails of a round the page holds in full.
const mostLetters = 50

// asksTooMuch reports whether something would cost more than it may.
func asksTooMuch(err error) bool {
	var much *clause.TooMuch
	var long *engine.TookTooLong
	return errors.As(err, &much) || errors.As(err, &long)
}

func compareText(a, b string) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

func held(t *sheet.Tracker, r *reminder.Reminder, i reminder.Item, names map[string]string) wire.DueRow {
	out := wire.DueRow{Tracker: t.Name, TrackerID: t.ID.String(), Tab: i.Tab, TabID: i.TabID.String(), Row: i.Row.String(), Label: i.Label, Reminder: r.Name, To: []string{}, Untold: i.Unknown, Shown: []wire.Shown{}}
	for _, to := range i.To {
		out.To = append(out.To, named(names, to))
	}
	for n, shown := range i.Shown {
		out.Shown = append(out.Shown, wire.Shown{Title: r.Show[n].Title, Text: shown})
	}
	return out
}

func named(names map[string]string, address string) string {
	if n := names[address]; n != "" {
		return n
	}
	return address
}

// ahead tells what the clock wakes next and what the rounds would send.
func (s *server) ahead(ctx context.Context, out *wire.Today, limit int) error {
	clocked, err := s.workspace.Clocked(ctx)
	if err != nil {
		return err
	}
	out.Next = []wire.Clocked{}
	seen := s.seen(ctx)
	for _, c := range clocked {
		if t := seen.Tracker(c.Tracker.ID); t == nil || t.DefinitionByID(c.Definition.ID) == nil {
			continue
		}
		w := wire.Clocked{Tracker: c.Tracker.Name, TrackerID: c.Tracker.ID.String(), Kind: string(c.Definition.Kind), Name: c.Definition.Name, Phrase: c.Phrase, Next: c.Next}
		if !c.Last.IsZero() {
			w.Last = &c.Last
		}
		out.Next = append(out.Next, w)
		if c.Definition.Kind != sheet.KindRound || !s.wholeRound(ctx, c.Tracker, c.Definition) {
			continue
		}
		plan, err := s.workspace.PlanRound(ctx, c.Tracker, c.Definition.Name)
		if asksTooMuch(err) {
			out.Notices = append(out.Notices, wire.Notice{About: "round " + c.Definition.ID.String(), Says: fmt.Sprintf("What round %s of %s would send cannot be told: %v", c.Definition.Name, c.Tracker.Name, err), Since: s.workspace.Now()})
			continue
		}
		if err != nil {
			return err
		}
		first := plan.Letters[:min(len(plan.Letters), limit, mostLetters)]
		shown, err := s.letters(ctx, first)
		if err != nil {
			return err
		}
		out.Rounds = append(out.Rounds, wire.RoundAhead{Tracker: c.Tracker.Name, TrackerID: c.Tracker.ID.String(), Round: c.Definition.Name, Next: c.Next, Letters: shown, More: len(plan.Letters) - len(first)})
	}
	return nil
}

// isGone reports whether what ran is not there any more. The rules that an edit woke are
// gone, too, once one of them has been changed: no later run of the same edit tells that
// they do well.
func (s *server) isGone(ctx context.Context, r *store.Run) bool {
	kind, names := sheet.DefinitionKind(r.Kind), []string{r.Name}
	edited := r.Kind == "edit" && r.Name != ""
	if edited {
		kind, names = sheet.KindRule, strings.Split(r.Name, ", ")
	}
	if r.Tracker == 0 || s.workspace.Setup.Kinds().Of(kind) == nil {
		return false
	}
	t := s.seen(ctx).Tracker(r.Tracker)
	if t == nil {
		return true
	}
	if _, err := t.Definition(kind, r.Name); err == nil {
		names = []string{r.Name} // its name may hold a comma
	}
	return slices.ContainsFunc(names, func(name string) bool {
		d, err := t.Definition(kind, name)
		return err != nil || edited && s.isNewerThan(ctx, t, d, r.At)
	})
}

// isNewerThan reports whether a definition has come to be as it is after a time.
func (s *server) isNewerThan(ctx context.Context, t *sheet.Tracker, d *sheet.Definition, at time.Time) bool {
	saved, err := s.workspace.AddedBy(ctx, t.ID, at, func(shape *sheet.Shape) bool {
		return shape != nil && slices.ContainsFunc(shape.Definitions, func(o sheet.Definition) bool {
			return o.ID == d.ID && o.Name == d.Name && bytes.Equal(o.Body, d.Body)
		})
	})
	return err == nil && saved != nil && saved.At.After(at)
}

// trouble tells which runs failed lately and which mail has not gone out.
func (s *server) trouble(ctx context.Context, out *wire.Today, now time.Time, limit int) error {
	runs, err := s.workspace.Store().FailedSince(ctx, now.Add(-failedFor), 20)
	if err != nil {
		return err
	}
	for _, r := range runs {
		if r.Tracker != 0 && s.seen(ctx).Tracker(r.Tracker) == nil && !s.whole(ctx, r.Tracker) || s.isGone(ctx, r) {
			continue
		}
		w, err := s.run(ctx, r, false)
		if err != nil {
			return err
		}
		out.Failed = append(out.Failed, w)
	}
	mails, err := s.workspace.Outbox(ctx, 500)
	if err != nil {
		return err
	}
	for _, m := range mails {
		if m.State != "sent" && (m.State == "waiting" || now.Sub(m.Made) < failedFor) {
			if len(out.Waiting) >= limit {
				out.More.Waiting++
				continue
			}
			out.Waiting = append(out.Waiting, outboxView(m))
		}
	}
	return nil
}
