package notify

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/oklog/ulid/v2"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Mail works out what the rules of a turn mail, and has it put into the outbox when the
// turn is committed: a rule's step sends a person one mail, however often it ran.
func (post *Post) Mail(t *engine.Turn, out *rule.Outcome) error {
	people, names, err := post.Directory(t.Context())
	if err != nil {
		return err
	}
	for _, asks := range byStep(out.Mails) {
		if err := post.mail(t, out, asks, people, names); err != nil {
			return err
		}
	}
	t.After(func(*engine.Result) { post.nudge() })
	return nil
}

// pauseKey tells the need for links by which one stops the mails of a tracker.
type pauseKey struct{ tracker sheet.TrackerID }

// byStep puts together what one step asks for.
func byStep(all []rule.MailAsk) (out [][]*rule.MailAsk) {
	for i := range all {
		ask := &all[i]
		at := slices.IndexFunc(out, func(g []*rule.MailAsk) bool { return g[0].ID == ask.ID && g[0].Step == ask.Step })
		if at < 0 {
			at, out = len(out), append(out, nil)
		}
		out[at] = append(out[at], ask)
	}
	return out
}

func (post *Post) mail(t *engine.Turn, out *rule.Outcome, asks []*rule.MailAsk, people reminder.Directory, names map[string]string) error {
	last := asks[len(asks)-1]
	tracker := last.State
	var all reminder.Holding
	lastOf := map[sheet.RowID]*rule.MailAsk{} // a row that comes again is told of as it is then
	for _, ask := range asks {
		for _, id := range ask.Rows {
			lastOf[id] = ask
		}
	}
	for _, ask := range asks {
		rows := slices.DeleteFunc(slices.Clone(ask.Rows), func(id sheet.RowID) bool { return lastOf[id] != ask })
		h := ask.Metered(t.Meter()).Rows(ask.State, people, t.Now, rows)
		all.Reminder, all.Items, all.Nobody = h.Reminder, append(all.Items, h.Items...), append(all.Nobody, h.Nobody...)
	}
	for _, i := range all.Nobody {
		last.Missed(out, passed(i, nobodyWhy(i)))
	}
	for _, i := range all.Items {
		if len(i.Unknown) > 0 {
			last.Missed(out, passed(i, strings.Join(i.Unknown, "; ")+"; others are told"))
		}
	}
	if err := post.unseen(t.Context(), tracker, &all, func(i reminder.Item, who string) {
		last.Missed(out, passed(i, who+" is not told: this email shows what they may not see"))
	}); err != nil {
		return err
	}
	var paused []string
	holdings := []reminder.Holding{all}
	if err := post.leaveOutPaused(t.Context(), holdings, &paused); err != nil {
		return err
	}
	pause, err := engine.Need(t, pauseKey{tracker.ID}, func(ctx context.Context) (func(string) string, error) { // may write the links' key
		_, pause, err := post.acting(ctx, tracker)
		return pause, err
	})
	if err != nil {
		return err
	}
	letters, err := reminder.Letters(holdings, reminder.Context{Round: last.Letter, Tracker: tracker.Name, Now: t.Now.In(tracker.Location()), Names: names, Link: post.linker(tracker), Pause: pause})
	if err != nil {
		return err
	}
	last.Tell(out, emailed(letters, paused))
	t.Store(func(ctx context.Context, b *store.Batch, r *engine.Result) error {
		now := post.Now()
		for _, l := range letters {
			if _, err := b.Enqueue(ctx, &store.Outgoing{ID: ulid.MustNew(ulid.Timestamp(now), ulid.DefaultEntropy()).String(), Tracker: tracker.ID, Round: last.ID, Occurrence: fmt.Sprintf("run %s, step %d", r.Run, last.Step),
				Recipient: l.To, Subject: l.Subject, Text: l.Text, HTML: l.HTML, Run: r.Run, Made: now, NextTry: now}); err != nil {
				return err
			}
		}
		return nil
	})
	return nil
}

// unseen takes people off rows that they may not see, or that the mail shows of which
// they may not see all, and names them.
func (post *Post) unseen(ctx context.Context, t *sheet.Tracker, h *reminder.Holding, missed func(reminder.Item, string)) error {
	were := slices.Clone(h.Items)
	if err := post.bySight(ctx, t, h); err != nil {
		return err
	}
	told := map[sheet.RowID][]string{}
	for _, i := range h.Items {
		told[i.Row] = append(told[i.Row], i.To...)
	}
	for _, was := range were {
		for _, to := range was.To {
			if !slices.Contains(told[was.Row], to) {
				missed(was, to)
			}
		}
	}
	return nil
}

func passed(i reminder.Item, why string) rule.Passed {
	return rule.Passed{Row: i.Row.String(), Label: i.Label, Tab: i.Tab, Why: why}
}

// emailed says in words who is told of how many rows.
func emailed(letters []reminder.Letter, paused []string) string {
	if len(letters) == 0 && len(paused) == 0 {
		return "nobody to email"
	}
	const named = 10
	var says []string
	for _, l := range letters {
		if len(says) == named {
			says = append(says, fmt.Sprintf("%d more", len(letters)-named))
			break
		}
		rows := "1 row"
		if l.Count != 1 {
			rows = fmt.Sprintf("%d rows", l.Count)
		}
		says = append(says, fmt.Sprintf("%s (%s)", l.Called(), rows))
	}
	out := ""
	if len(says) > 0 {
		out = "email to " + strings.Join(says, ", ")
	}
	if len(paused) > 0 {
		if out != "" {
			out += "; "
		}
		out += "no email to " + strings.Join(paused, ", ") + ", who paused theirs"
	}
	return out
}
