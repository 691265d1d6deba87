package bench

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
	gomail "github.com/wneessen/go-mail"

	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/workspace"
)

const (
	roundTabs      = 20
	rowsInTab      = 10_000
	roundPeople    = 1000
	roundReminders = 5
)

// buildRound works out and lays out the mails of a round.
var buildRound = Case{
	Name: "a round worked out: 1,000 people, 200,000 rows in 20 tabs, 5 reminders", Floor: "one bare pass over the rows for each reminder", Limit: 4, Turns: 15, Items: 1, Item: "round",
	Setup: func(string) (kavlo, floor func() error, done func() error, err error) {
		tracker, bound, err := lateLoans()
		if err != nil {
			return nil, nil, nil, err
		}
		now := time.Date(2026, time.March, 25, 8, 30, 0, 0, time.UTC)
		reminders, round, err := remindersOf(tracker, bound)
		if err != nil {
			return nil, nil, nil, err
		}
		var rows [][]value.Value
		for i := range tracker.Tabs {
			for r := range tracker.Rows(tracker.Tabs[i].ID) {
				rows = append(rows, r.Cells())
			}
		}
		held := 0
		kavlo = func() error {
			var holdings []reminder.Holding
			held = 0
			for _, c := range reminders {
				h := c.Apply(c.Collect(tracker, nil, now), nil, now, tracker.Working, func(sheet.RowID) string { return "" })
				held += len(h.Items)
				holdings = append(holdings, h)
			}
			letters, err := reminder.Letters(holdings, reminder.Context{Round: round, Tracker: "Loans", Now: now, Link: func(i reminder.Item) string { return "https://kavlo.example.org/" + i.Row.String() }})
			if err == nil && len(letters) != roundPeople {
				err = fmt.Errorf("%d letters", len(letters))
			}
			return err
		}
		floor = func() error {
			found := 0
			for n := range roundReminders {
				limit := value.DateOf(now).Days() - int64(10*n)
				for _, cells := range rows {
					if a := cells[2]; a.Kind() == value.Date && a.Days() < limit && cells[3].IsBlank() {
						found++
					}
				}
			}
			if found != held {
				return fmt.Errorf("the passes found %d rows and the reminders %d", found, held)
			}
			return nil
		}
		return kavlo, floor, func() error { return nil }, nil
	},
}

// lateLoans gives a tracker of which a few thousand rows are late.
func lateLoans() (*sheet.Tracker, *program.Program, error) {
	var text strings.Builder
	text.WriteString("tracker: Loans\nzone: UTC\ntabs:\n")
	var tabs []string
	for i := range roundTabs {
		fmt.Fprintf(&text, "  Tab %d: { columns: { Object: &o { type: text }, Who: &w { type: person }, Due: &d { type: date }, Closed: &c { type: text } } }\n", i)
		tabs = append(tabs, fmt.Sprintf("Tab %d", i))
	}
	text.WriteString("reminders:\n")
	for n := range roundReminders {
		fmt.Fprintf(&text, "  - { name: Late %d, in: [%s], where: Due before today - %d days and Closed is blank, show: [Object, Due], order: Due, to: \"{Who}\" }\n", n, strings.Join(tabs, ", "), 10*n)
	}
	text.WriteString("rounds:\n  - { name: Morning, clock: daily at 8:30, reminders: all, subject: \"{count} wait\" }\n")
	id := int64(0)
	shape, err := kinds.Setup.Parse([]byte(strings.ReplaceAll(text.String(), "today - 0 days", "today")), nil, func() int64 { id++; return id })
	if err != nil {
		return nil, nil, err
	}
	bound, err := program.Compile(shape, kinds.All)
	if err != nil {
		return nil, nil, err
	}
	l := sheet.NewLoader()
	l.Tracker(1, 1, shape)
	n := 0
	for i := range shape.Tabs {
		c := shape.Tabs[i].Columns
		for j := range rowsInTab {
			n++
			cells := make([]value.Value, len(c))
			cells[0], cells[1], cells[2] = value.OfText("Signal lamp"), value.OfPerson(fmt.Sprintf("p%d@example.org", n%roundPeople)), value.OfDays(20_536+1+int64(n%60))
			if n%100 < 1 { // one in a hundred is late
				cells[2] = value.OfDays(20_536 - int64(n/100%50))
				cells[1] = value.OfPerson(fmt.Sprintf("p%d@example.org", n/100%roundPeople))
			}
			if n%3 == 1 {
				cells[3] = value.OfText("yes")
			}
			img := sheet.LaidOut(&shape.Tabs[i], cells, sheet.Besides{}).At(int64(j+1) << 16)
			if err := l.Row(1, shape.Tabs[i].ID, sheet.RowID(n), 1, img); err != nil {
				return nil, nil, err
			}
		}
	}
	t := l.Done().Tracker(1)
	if t == nil {
		return nil, nil, errors.New("no tracker")
	}
	return t, bound, nil
}

func remindersOf(t *sheet.Tracker, bound *program.Program) (all []*reminder.Compiled, round *reminder.CompiledRound, err error) {
	for i := range t.Definitions {
		p := &t.Definitions[i]
		if p.Kind == sheet.KindRound {
			if round, err = program.Ready[*reminder.CompiledRound](bound, p.ID); err != nil {
				return nil, nil, err
			}
			continue
		}
		c, err := program.Ready[*reminder.Compiled](bound, p.ID)
		if err != nil {
			return nil, nil, err
		}
		all = append(all, c)
	}
	return all, round, nil
}

const (
	mailsAtOnce = 4 // connections, of both
	mailsInAll  = 1000
)

// sink is a mail server that throws mail away.
type sink struct{}

func (sink) NewSession(*smtp.Conn) (smtp.Session, error) { return sink{}, nil }
func (sink) Mail(string, *smtp.MailOptions) error        { return nil }
func (sink) Rcpt(string, *smtp.RcptOptions) error        { return nil }
func (sink) Data(r io.Reader) error                      { _, err := io.Copy(io.Discard, r); return err }
func (sink) Reset()                                      {}
func (sink) Logout() error                               { return nil }

// putBack makes the outbox full again.
var putBack func() error

// sendMails works through an outbox of a thousand mails.
var sendMails = Case{
	Name: "1,000 mails sent from the outbox, each outcome kept durably", Floor: "the same mails sent by the bare SMTP client library, over as many connections", Limit: 1.25, Turns: 9, Items: mailsInAll, Item: "mail", Ready: &putBack,
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		l, err := (&net.ListenConfig{}).Listen(context.Background(), "tcp", "127.0.0.1:0")
		if err != nil {
			return nil, nil, nil, err
		}
		server := smtp.NewServer(sink{})
		go func() { _ = server.Serve(l) }()
		s, err := mail.NewSender(mail.Server{Address: l.Addr().String(), STARTTLS: "never", From: "Loans <loans@example.org>"})
		if err != nil {
			return nil, nil, nil, err
		}
		ctx := context.Background()
		d, err := workspace.Open(ctx, workspace.Config{Dir: dir, Mailer: s})
		if err != nil {
			return nil, nil, nil, err
		}
		box, err := fillOutbox(ctx, d)
		if err != nil {
			return nil, nil, nil, err
		}
		putBack = func() error {
			for _, m := range box {
				m.State, m.Tries, m.NextTry = "waiting", 0, m.Made
			}
			return d.Store().Tried(ctx, box...)
		}
		kavlo = func() error {
			n, err := d.SendDue(ctx)
			if err == nil && n != mailsInAll {
				err = fmt.Errorf("%d mails were sent", n)
			}
			return err
		}
		floor = func() error { return sendBare(ctx, s, box, l.Addr().(*net.TCPAddr).Port) }
		return kavlo, floor, func() error { return errors.Join(d.Close(), server.Close()) }, nil
	},
}

// fillOutbox lets a round put its mails into the outbox.
func fillOutbox(ctx context.Context, d *workspace.Workspace) ([]*store.Outgoing, error) {
	const text = "tracker: Loans\nzone: UTC\ntabs:\n  Late: { columns: { Object: { type: text }, Who: { type: person }, Due: { type: date } } }\nreminders:\n  - { name: Late, in: Late, where: Due before today, show: [Object, Due], to: \"{Who}\" }\nrounds:\n  - { name: Morning, clock: daily at 8:30, reminders: all, subject: \"{count} wait\" }\n"
	if _, err := d.Commit(ctx, d.LoadSetup(policy.Itself("bench"), []byte(text))); err != nil {
		return nil, err
	}
	t, tab, err := d.FindTab("Loans", "Late")
	if err != nil {
		return nil, err
	}
	rows := make([]map[string]any, 5*mailsInAll)
	for i := range rows {
		rows[i] = map[string]any{"Object": fmt.Sprintf("Signal lamp %d", i), "Who": fmt.Sprintf("p%d@example.org", i%mailsInAll), "Due": "2020-01-01"}
	}
	if _, err := d.Commit(ctx, d.AddRows(policy.Itself("bench"), t.ID, tab.ID, rows)); err != nil {
		return nil, err
	}
	if t, err = d.Find("Loans"); err != nil {
		return nil, err
	}
	plan, err := d.PlanRound(ctx, t, "Morning")
	if err != nil {
		return nil, err
	}
	if _, _, err := d.RunRound(ctx, policy.Itself("bench"), sheet.ByHand, t, plan); err != nil {
		return nil, err
	}
	box, err := d.Outbox(ctx, 2*mailsInAll)
	if err == nil && len(box) != mailsInAll {
		err = fmt.Errorf("%d mails wait", len(box))
	}
	return box, err
}

// sendBare sends mails by the client library alone.
func sendBare(ctx context.Context, s *mail.Sender, box []*store.Outgoing, port int) error {
	var workers sync.WaitGroup
	failed := make([]error, mailsAtOnce)
	for w := range mailsAtOnce {
		workers.Go(func() {
			client, err := gomail.NewClient("127.0.0.1", gomail.WithPort(port), gomail.WithTLSPolicy(gomail.NoTLS), gomail.WithoutNoop())
			if err == nil {
				err = client.DialWithContext(ctx)
			}
			for i := w; i < len(box) && err == nil; i += mailsAtOnce {
				m := box[i]
				var msg *gomail.Msg
				if msg, err = s.Message(&mail.Mail{ID: m.ID, To: m.Recipient, Subject: m.Subject, Text: m.Text, HTML: m.HTML, Date: m.Made}); err == nil {
					err = client.Send(msg)
				}
			}
			if err == nil {
				err = client.Close()
			}
			failed[w] = err
		})
	}
	workers.Wait()
	return errors.Join(failed...)
}
