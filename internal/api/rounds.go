package api

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/notify"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/wire"
)

// letters gives letters as whoever asks may see them: their links work for
// their recipient alone.
func (s *server) letters(ctx context.Context, in []reminder.Letter) ([]wire.Letter, error) {
	out := []wire.Letter{}
	for _, l := range in {
		w := wire.Letter{To: l.To, Name: l.Name, Subject: l.Subject, Count: l.Count, Text: l.Text, HTML: l.HTML}
		if err := s.workspace.Show(ctx, who(ctx).Address, &w.Text, &w.HTML); err != nil {
			return nil, err
		}
		out = append(out, w)
	}
	return out, nil
}

// mayRead reports whether somebody may read what a mail says: a keeper, and
// whom it was sent to.
func mayRead(p store.Person, to ...string) bool {
	return policy.AccessNamed(p.Access) >= keeper || slices.ContainsFunc(to, func(a string) bool { return strings.EqualFold(a, p.Address) })
}

func outboxView(m *store.Outgoing) wire.OutboxMail {
	out := wire.OutboxMail{ID: m.ID, To: m.Recipient, Subject: m.Subject, State: m.State, Tries: m.Tries, Made: m.Made, Problem: m.Problem, Run: m.Run}
	if m.State == "waiting" {
		out.NextTry = &m.NextTry
	}
	if !m.Sent.IsZero() {
		out.Sent = &m.Sent
	}
	return out
}

// readable adds what a mail says, for those who may read it.
func (s *server) readable(ctx context.Context, out *wire.OutboxMail, m *store.Outgoing) error {
	if !mayRead(who(ctx), m.Recipient) {
		return nil
	}
	out.Text, out.HTML = m.Text, m.HTML
	return s.workspace.Show(ctx, who(ctx).Address, &out.Text, &out.HTML)
}

func (s *server) roundRoutes() {
	route(s, editor, http.MethodPost, "/trackers/{tracker}/rounds/{definition}/run", "run-round", "Send a round now; nobody gets its mail for one occurrence twice",
		func(ctx context.Context, in *struct {
			InDefinition
			Write
			Again   bool `query:"again" doc:"Send it once more to those who have it; the subject says so"`
			Instead bool `query:"instead" doc:"Let it take the place of the next scheduled email"`
		}) (*body[wire.RoundResult], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			p, err := t.Definition(sheet.KindRound, in.Definition)
			if err != nil {
				return nil, err
			}
			t = s.workspace.Present(t.ID)
			plan, err := s.workspace.PlanRound(ctx, t, p.Name)
			if err != nil {
				return nil, asked(err)
			}
			plan.Again, plan.Instead = in.Again, in.Instead
			out, err := s.round(ctx, in.Write, t, p, plan)
			if err != nil {
				return nil, err
			}
			return ok(*out), nil
		})
	route(s, reader, http.MethodGet, "/outbox", "list-outbox", "List the mails made by rounds and rules, newest first",
		func(ctx context.Context, in *struct {
			Limit int `query:"limit" minimum:"1" maximum:"500" default:"100" doc:"How many at most"`
		}) (*body[[]wire.OutboxMail], error) {
			mails, err := s.workspace.Outbox(ctx, in.Limit)
			if err != nil {
				return nil, err
			}
			out := []wire.OutboxMail{}
			for _, m := range mails {
				w := outboxView(m)
				if err := s.readable(ctx, &w, m); err != nil {
					return nil, err
				}
				out = append(out, w)
			}
			return ok(out), nil
		})
	route(s, editor, http.MethodPost, "/outbox/{mail}/resend", "resend-mail", "Send a mail of the outbox once more; it is the same mail to whoever has it",
		func(ctx context.Context, in *struct {
			Mail string `path:"mail" doc:"The mail's id"`
		}) (*body[wire.OutboxMail], error) {
			m, err := s.workspace.Resend(ctx, in.Mail)
			if err != nil {
				return nil, err
			}
			return ok(outboxView(m)), nil
		})
	route(s, editor, http.MethodPost, "/trackers/{tracker}/rounds/{definition}/try", "try-round", "Send one person the mail that a round would send now, for a look",
		func(ctx context.Context, in *struct {
			InDefinition
			To string `query:"to" doc:"Mail address; one's own unless set"`
		}) (*body[wire.Letter], error) {
			t, p, err := s.part(ctx, in.InDefinition, sheet.KindRound)
			if err != nil {
				return nil, err
			}
			if in.To == "" {
				in.To = who(ctx).Address
			}
			if !s.wholeRound(ctx, t, p) { // the mail may be somebody else's
				return nil, engine.ErrForbidden
			}
			l, err := s.workspace.TryRound(ctx, s.workspace.Present(t.ID), p.Name, in.To)
			if err != nil {
				return nil, asked(err)
			}
			out, err := s.letters(ctx, []reminder.Letter{*l})
			if err != nil {
				return nil, err
			}
			return ok(out[0]), nil
		})
	route(s, reader, http.MethodGet, "/arrived", "list-arrived", "List mail as the demo's stand-in post office took it in; empty elsewhere",
		func(ctx context.Context, _ *struct{}) (*body[[]wire.ArrivedMail], error) {
			if s.Post == nil {
				return ok([]wire.ArrivedMail{}), nil
			}
			mails, err := s.Post.Arrived(ctx)
			if err != nil {
				return nil, problemOf(http.StatusBadGateway, "post-away", "The post office does not answer", err.Error())
			}
			return s.arrived(ctx, mails)
		})
}

// arrived leaves out of mails what whoever asks may not read.
func (s *server) arrived(ctx context.Context, mails []wire.ArrivedMail) (*body[[]wire.ArrivedMail], error) {
	me := who(ctx).Address
	for i := range mails {
		m := &mails[i]
		mine := len(m.To) == 1 && strings.EqualFold(m.To[0], me)
		if !mine {
			m.Raw = "" // its links are encoded, and live
		}
		if !mayRead(who(ctx), m.To...) {
			m.Text, m.HTML = "", ""
		}
		if mine {
			continue
		}
		if err := s.workspace.Show(ctx, me, &m.Text, &m.HTML); err != nil {
			return nil, err
		}
	}
	return ok(mails), nil
}

func (s *server) round(ctx context.Context, w Write, t *sheet.Tracker, round *sheet.Definition, plan *notify.Plan) (*wire.RoundResult, error) {
	shown, err := s.letters(ctx, plan.Letters)
	if err != nil {
		return nil, err
	}
	out := &wire.RoundResult{Preview: w.isPreview(), Occurrence: plan.Occurrence, Letters: shown, PassedOver: plan.PassedOver}
	if !s.wholeRound(ctx, t, round) {
		for i := range out.Letters { // somebody else's may say what is hidden here
			if l := &out.Letters[i]; !strings.EqualFold(l.To, who(ctx).Address) {
				l.Subject, l.Text, l.HTML = "", "", ""
			}
		}
		out.PassedOver = nil
	} else {
		out.Nobody = plan.Undelivered()
	}
	if w.isPreview() {
		return out, nil
	}
	plan.Key = keyOf(ctx, w)
	r, detail, err := s.workspace.RunRound(ctx, asker(ctx), sheet.ByHand, t, plan)
	if err != nil {
		return nil, asked(err)
	}
	out.Run, out.Queued, out.Already = r.Run, detail.Queued, detail.Already
	return out, nil
}

// failedFor is how far back the Today page looks for failed runs.
const failedFor = 90 * 24 * time.Hour
