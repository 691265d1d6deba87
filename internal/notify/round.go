// Package notify tells people what waits for them: rounds, the outbox, what can be done
// from mails, calendars.
package notify

import (
	"context"
	"crypto/x509"
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"time"

	"github.com/oklog/ulid/v2"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"golang.org/x/time/rate"
)

// Mailer hands a mail over to a mail server. An error whose Temporary method
// says false means that trying again is useless.
type Mailer interface {
	Send(ctx context.Context, m *mail.Mail) error
}

// Files are files that rules wrote, which go with mails.
type Files interface {
	// Newest gives the paths of the files that each rule wrote when it last wrote any.
	Newest(ctx context.Context, t *sheet.Tracker, rules []sheet.DefinitionID) ([]string, error)
	Read(name string) ([]byte, error)
}

// Secrets stand for people: of calendars, here.
type Secrets interface {
	Bearer(ctx context.Context, secret string, kinds ...string) (store.Person, error)
	Issue(ctx context.Context, person int64, kind, name string, lasts time.Duration) (string, error)
}

// Config says how mail goes.
type Config struct {
	Mailer Mailer         // nil: mail goes by the server that an admin sets, and waits without one
	Trust  *x509.CertPool // besides the system, whom that server is trusted by; nil: nobody
	// Journaled does something and tells of it in the journal, in one transaction.
	Journaled func(ctx context.Context, says string, do func(context.Context) error) error
	Console   string // address of the console, for links in mails
	SendRate  int    // mails a minute; 0: as fast as the server takes them
	Files     Files
	Secrets   Secrets
	Tallies   Tallies // nil: there are none
}

// Post is a workspace's rounds and outbox.
type Post struct {
	*engine.Engine
	Config
	store   *store.Store
	server  mailServer
	wake    chan struct{} // tells the sender that mail waits
	pace    *rate.Limiter // of mails; nil: none
	sending sync.Mutex    // one pass over the outbox at a time
	// memory counts the changes to what reminders remember and who is paused. The
	// writer alone makes them.
	memory atomic.Int64
	counts counts // of overdue rows
}

// New gives the post of an engine's workspace.
func New(e *engine.Engine, c Config) *Post {
	post := &Post{Engine: e, Config: c, store: e.Store(), wake: make(chan struct{}, 1)}
	if c.SendRate > 0 {
		post.pace = rate.NewLimiter(rate.Limit(float64(c.SendRate)/60), 1)
	}
	return post
}

// Detail is what a round's run records.
type Detail struct {
	Occurrence time.Time `json:"occurrence"`
	People     int       `json:"people"`
	Rows       int       `json:"rows"`
	Queued     int       `json:"queued"`           // mails put into the outbox
	Already    int       `json:"already"`          // people who have had this occurrence's mail
	Nobody     []string  `json:"nobody,omitempty"` // rows that could not be told of, or not to all
	Again      bool      `json:"again,omitempty"`
	PassedOver []string  `json:"passed_over,omitempty"`
}

// memoryChanged says that what reminders remember has changed since a round was
// worked out.
type memoryChanged struct{}

func (memoryChanged) Error() string { return "what is remembered of rows changed meanwhile" }

// Unrecorded leaves no run behind: it is worked out anew.
func (memoryChanged) Unrecorded() {}

var errMemory error = memoryChanged{}

// planTries is how often a round is worked out anew when that happens; each time
// somebody else has got something done.
const planTries = 20

// RunRound puts one mail a person into the outbox, for an occurrence of the
// round; nobody gets a second mail for the same occurrence. The plan is worked
// out anew where a person has put a row off or paused since it was made.
func (post *Post) RunRound(ctx context.Context, by policy.Principal, cause sheet.CauseKind, t *sheet.Tracker, plan *Plan) (*engine.Result, *Detail, error) {
	plan.aim(cause, post.Now())
	for range planTries {
		r, detail, err := post.runPlanned(ctx, by, cause, t, plan)
		if !errors.Is(err, errMemory) {
			return r, detail, err
		}
		was := plan
		if t = post.State().Tracker(t.ID); t == nil {
			return nil, nil, &sheet.NotFound{What: "tracker", Name: was.tracker.String()}
		}
		if plan, err = post.PlanRound(ctx, t, plan.name); err != nil {
			return nil, nil, err
		}
		plan.Occurrence, plan.Key, plan.Again, plan.Instead, plan.aside = was.Occurrence, was.Key, was.Again, was.Instead, was.aside
	}
	return nil, nil, fmt.Errorf("round %s: %w, again and again: run it once more", plan.Round.Name, errMemory)
}

// aim says, of a round run by hand, which occurrence of its clock it is: that of today,
// once its hour has come. Before that it is none, and the hour's own mail comes all the
// same, unless this one is to take its place.
func (p *Plan) aim(cause sheet.CauseKind, now time.Time) {
	if cause != sheet.ByHand {
		return
	}
	here := now.In(p.zone)
	today := time.Date(here.Year(), here.Month(), here.Day(), 0, 0, 0, 0, p.zone)
	switch {
	case p.Instead:
		if next, ok := p.Round.Clock.NextAfter(now, p.zone); ok {
			p.Occurrence = next
		}
	case p.Occurrence.Before(today):
		p.Occurrence, p.aside = today, true
	}
}

// key tells one sending from another, by which nobody gets one twice.
func (p *Plan) key(now time.Time) string {
	key := p.Occurrence.UTC().Format(time.RFC3339)
	if p.aside {
		key += " by hand"
	}
	if p.Again {
		key += " again " + now.UTC().Format(time.RFC3339Nano)
	}
	return key
}

// again marks a subject as that of a mail that is sent once more.
func again(subject string) string { return "Sent again: " + subject }

func (post *Post) runPlanned(ctx context.Context, by policy.Principal, cause sheet.CauseKind, t *sheet.Tracker, plan *Plan) (*engine.Result, *Detail, error) {
	detail := &Detail{Occurrence: plan.Occurrence, People: len(plan.Letters), PassedOver: plan.PassedOver, Nobody: plan.Undelivered(), Again: plan.Again}
	for _, l := range plan.Letters {
		detail.Rows += l.Count
	}
	attach, err := post.Files.Newest(ctx, t, plan.Round.Attach)
	if err != nil {
		return nil, nil, err
	}
	tallies, err := post.talliesFor(ctx, t, plan)
	if err != nil { // reminders are worth more than pictures
		plan.PassedOver = append(plan.PassedOver, "tallies were not attached: "+err.Error())
		detail.PassedOver = plan.PassedOver
	}
	part := plan.Round.ID
	queue := func(ctx context.Context, b *store.Batch, r *engine.Result) error {
		detail.Queued, detail.Already = 0, 0
		now := post.Now()
		for _, l := range plan.Letters {
			if plan.Again {
				l.Subject = again(l.Subject)
			}
			put, err := b.Enqueue(ctx, &store.Outgoing{ID: ulid.MustNew(ulid.Timestamp(now), ulid.DefaultEntropy()).String(), Tracker: t.ID, Round: part, Occurrence: plan.key(now),
				Recipient: l.To, Subject: l.Subject, Text: l.Text, HTML: l.HTML, Attach: append(attach[:len(attach):len(attach)], tallies[l.To]...), Run: r.Run, Made: now, NextTry: now})
			if err != nil {
				return err
			}
			if put {
				detail.Queued++
			} else {
				detail.Already++
			}
		}
		if (detail.Queued > 0 || len(plan.Letters) == 0) && !plan.aside && !plan.Again { // the same occurrence again tells nobody anything
			if err := post.remember(ctx, b, plan); err != nil {
				return err
			}
		}
		switch {
		case len(detail.Nobody) > 0: // somebody should have been told and nobody knows whom
			r.Note.Outcome = engine.PartlyDone
		case detail.Queued > 0:
			r.Note.Outcome = engine.Done
		}
		if plan.aside {
			return nil
		}
		return b.SetClocked(ctx, t.ID, part, plan.Occurrence)
	}
	req := engine.Request{By: by, Key: plan.Key, Tracker: t.ID, Kind: "round", Name: plan.Round.Name, Alone: true, Cause: sheet.Cause{Kind: cause, Name: plan.Round.Name, Definition: part},
		Work: func(turn *engine.Turn) error {
			turn.Run.Detail = detail
			turn.Store(queue)
			turn.After(func(*engine.Result) { post.nudge() })
			now := turn.Draft.Tracker(t.ID)
			if now == nil || now.DefinitionByID(part) == nil {
				return &sheet.NotFound{What: "round", Name: plan.Round.Name, In: t.Name}
			}
			if plan.memory != post.memory.Load() || now.Shape != plan.shape { // the round may be another, or look elsewhere
				return errMemory
			}
			return nil
		}}
	r, err := post.Commit(ctx, req)
	if err != nil {
		return nil, nil, err
	}
	return r, detail, nil
}

func (post *Post) nudge() {
	select {
	case post.wake <- struct{}{}:
	default:
	}
}
