package api

import (
	"context"
	"net/http"
	"slices"
	"time"

	"example.org/kavlo/internal/digest"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

func (s *server) todayRoutes() {
	route(s, reader, http.MethodGet, "/today", "today", "Tell what is overdue, what runs next, what failed and what the next rounds would send",
		func(ctx context.Context, _ *struct{}) (*body[wire.Today], error) {
			out, err := s.today(ctx)
			if err != nil {
				return nil, err
			}
			return ok(*out), nil
		}, heavy)
}

func (s *server) today(ctx context.Context) (*wire.Today, error) {
	_, names, err := s.desk.Directory(ctx)
	if err != nil {
		return nil, err
	}
	out := &wire.Today{Overdue: []wire.HeldRow{}, Nobody: []wire.HeldRow{}, People: []wire.PersonLoad{}, Failed: []wire.Run{}, Rounds: []wire.RoundAhead{}, Waiting: []wire.OutboxMail{}, Held: []wire.HeldHere{}}
	now := s.desk.Now()
	out.Day = now.UTC().Format(time.DateOnly)
	trackers := s.desk.State().Trackers()
	if len(trackers) > 0 {
		out.Day = now.In(trackers[0].Location()).Format(time.DateOnly)
	}
	loads := map[string]map[sheet.RowID]bool{}
	for _, t := range trackers {
		holdings, err := s.desk.Holdings(ctx, t)
		if err != nil {
			return nil, err
		}
		for _, h := range holdings {
			for _, i := range h.Items {
				out.Overdue = append(out.Overdue, held(t, h.Reminder, i, names))
				for _, to := range i.To {
					if loads[to] == nil {
						loads[to] = map[sheet.RowID]bool{}
					}
					loads[to][i.Row] = true
				}
			}
			for _, i := range h.Nobody {
				out.Nobody = append(out.Nobody, held(t, h.Reminder, i, names))
			}
		}
	}
	for _, t := range trackers {
		conflicts, err := s.desk.Conflicts(ctx, t, nil)
		if err != nil {
			return nil, err
		}
		for _, c := range conflictViews(conflicts) {
			out.Held = append(out.Held, wire.HeldHere{Tracker: t.Name, TrackerID: t.ID.String(), Conflict: c})
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
	if err := s.ahead(ctx, out); err != nil {
		return nil, err
	}
	out.Notices = []wire.Notice{}
	for _, n := range s.desk.Notices() {
		out.Notices = append(out.Notices, wire.Notice(n))
	}
	return out, s.trouble(ctx, out, now)
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

func held(t *sheet.Tracker, r *digest.Reminder, i digest.Item, names map[string]string) wire.HeldRow {
	out := wire.HeldRow{Tracker: t.Name, TrackerID: t.ID.String(), Tab: i.Tab, TabID: i.TabID.String(), Row: i.Row.String(), Label: i.Label, Reminder: r.Name, To: []string{}, Shown: []wire.Shown{}}
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
func (s *server) ahead(ctx context.Context, out *wire.Today) error {
	clocked, err := s.desk.Clocked(ctx)
	if err != nil {
		return err
	}
	out.Next = []wire.Clocked{}
	for _, c := range clocked {
		w := wire.Clocked{Tracker: c.Tracker.Name, TrackerID: c.Tracker.ID.String(), Kind: string(c.Part.Kind), Name: c.Part.Name, Phrase: c.Phrase, Next: c.Next}
		if !c.Last.IsZero() {
			w.Last = &c.Last
		}
		out.Next = append(out.Next, w)
		if c.Part.Kind != sheet.PartRound {
			continue
		}
		plan, err := s.desk.PlanRound(ctx, c.Tracker, c.Part.Name)
		if err != nil {
			return err
		}
		shown, err := s.letters(ctx, plan.Letters)
		if err != nil {
			return err
		}
		out.Rounds = append(out.Rounds, wire.RoundAhead{Tracker: c.Tracker.Name, TrackerID: c.Tracker.ID.String(), Round: c.Part.Name, Next: c.Next, Letters: shown})
	}
	return nil
}

// trouble tells which runs failed lately and which mail has not gone out.
func (s *server) trouble(ctx context.Context, out *wire.Today, now time.Time) error {
	runs, err := s.desk.Store().FailedSince(ctx, now.Add(-failedFor), 20)
	if err != nil {
		return err
	}
	for _, r := range runs {
		w, err := s.run(ctx, r, false)
		if err != nil {
			return err
		}
		out.Failed = append(out.Failed, w)
	}
	mails, err := s.desk.Outbox(ctx, 500)
	if err != nil {
		return err
	}
	for _, m := range mails {
		if m.State != "sent" && (m.State == "waiting" || now.Sub(m.Made) < failedFor) {
			out.Waiting = append(out.Waiting, outboxView(m))
		}
	}
	return nil
}
