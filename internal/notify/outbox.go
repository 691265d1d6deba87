package notify

import (
	"context"
	"errors"
	"io/fs"
	"path"
	"sync"
	"time"

	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/store"
)

// giveUpAfter is how long a mail is tried before it is given up.
const giveUpAfter = 24 * time.Hour

// Loop sends what waits in the outbox, as it comes due.
func (post *Post) Loop(ctx context.Context) {
	for {
		wait := 30 * time.Second
		if _, err := post.SendDue(ctx); err != nil && ctx.Err() == nil {
			post.Log.Error("the outbox could not be worked through", "err", err)
		} else if next, err := post.store.NextDue(ctx); err == nil {
			wait = min(wait, max(50*time.Millisecond, next.Sub(post.Now())))
		}
		timer := time.NewTimer(wait)
		select {
		case <-ctx.Done():
			timer.Stop()
			return
		case <-post.wake:
			timer.Stop()
		case <-timer.C:
		}
	}
}

// Outcomes that come within so long of each other are written down together.
// Where the service is killed before, these mails go once more, as the same mails.
const (
	together     = 50 * time.Millisecond
	mostTogether = 250
)

// senders is how many mails are handed over at once.
const senders = 4

// SendDue tries every mail of the outbox that is due and gives how many went.
// What became of them is written down as they go, several in one transaction.
func (post *Post) SendDue(ctx context.Context) (int, error) {
	mailer, err := post.mailer(ctx)
	if mailer == nil || err != nil {
		return 0, err
	}
	post.sending.Lock()
	defer post.sending.Unlock()
	sent := 0
	for {
		due, err := post.store.Due(ctx, post.Now(), 500)
		if err != nil || len(due) == 0 {
			return sent, err
		}
		n, err := post.sendAll(ctx, mailer, due)
		if sent += n; err != nil {
			return sent, err
		}
	}
}

func (post *Post) sendAll(ctx context.Context, mailer Mailer, due []*store.Outgoing) (sent int, err error) {
	key, err := post.linkKey(ctx)
	if err != nil {
		return 0, err
	}
	_, names, err := post.Directory(ctx)
	if err != nil {
		return 0, err
	}
	todo, tried := make(chan *store.Outgoing), make(chan *store.Outgoing, len(due))
	var workers sync.WaitGroup
	for range min(senders, len(due)) {
		workers.Go(func() {
			for m := range todo {
				err := post.Guarded("a mail to "+m.Recipient+" was sent", func() error { post.try(ctx, mailer, m, key, names[m.Recipient]); return nil })
				if err != nil {
					m.State, m.Problem = "given up", err.Error()
				}
				tried <- m
			}
		})
	}
	go func() {
		defer close(tried)
		defer workers.Wait()
		defer close(todo)
		for _, m := range due {
			if post.pace != nil && post.pace.Wait(ctx) != nil {
				return
			}
			select {
			case todo <- m:
			case <-ctx.Done():
				return
			}
		}
	}()
	for m := range tried {
		batch := []*store.Outgoing{m}
		wait := time.NewTimer(together)
	more:
		for len(batch) < mostTogether {
			select {
			case next, open := <-tried:
				if !open {
					break more
				}
				batch = append(batch, next)
			case <-wait.C:
				break more
			}
		}
		wait.Stop()
		if e := post.store.Tried(context.WithoutCancel(ctx), batch...); e != nil {
			err = errors.Join(err, e)
		}
		for _, m := range batch {
			if m.State == "sent" {
				sent++
			}
		}
	}
	return sent, errors.Join(err, ctx.Err())
}

// try hands one mail over and notes in it what came of that.
func (post *Post) try(ctx context.Context, mailer Mailer, m *store.Outgoing, key linkKey, name string) {
	pause := ""
	if post.Console != "" {
		pause = post.Console + ActPath + key.token(good, Deed{What: "pause", Who: m.Recipient, Until: m.Made.AddDate(0, 0, LinkDays).Unix()})
	}
	attach, err := post.attachments(m)
	if err == nil {
		err = mailer.Send(ctx, &mail.Mail{ID: m.ID, To: m.Recipient, Name: name, Subject: m.Subject, Text: key.handOver(m.Text, m.Recipient), HTML: key.handOver(m.HTML, m.Recipient), Date: m.Made, Attach: attach, Pause: pause})
	}
	now := post.Now()
	m.Tries++
	switch {
	case err == nil:
		m.State, m.Sent, m.Problem = "sent", now, ""
	case !temporary(err) || now.Sub(m.Made) > giveUpAfter:
		m.State, m.Problem = "given up", err.Error()
		post.Log.Warn("a mail was given up", "to", m.Recipient, "err", err)
	default:
		m.NextTry, m.Problem = now.Add(backOff(m.Tries)), err.Error()
		post.Log.Info("a mail waits for another try", "to", m.Recipient, "next", m.NextTry, "err", err)
	}
}

// attachments reads the files that go with a mail. One that has been taken away
// since is left out: the mail is worth more than its delay.
func (post *Post) attachments(m *store.Outgoing) ([]mail.Attachment, error) {
	var out []mail.Attachment
	for _, name := range m.Attach {
		data, err := post.Files.Read(name)
		if errors.Is(err, fs.ErrNotExist) {
			post.Log.Warn("a file that was to go with a mail is gone", "file", name, "to", m.Recipient)
			continue
		}
		if err != nil {
			return nil, err
		}
		out = append(out, mail.Attachment{Name: path.Base(name), Data: data})
	}
	return out, nil
}

// Resend puts a mail that was given up, or sent, back into the outbox. Whoever
// has it already gets the same mail once more.
func (post *Post) Resend(ctx context.Context, id string) (*store.Outgoing, error) {
	m, err := post.store.OutgoingByID(ctx, id)
	if err != nil {
		return nil, err
	}
	m.State, m.Tries, m.NextTry, m.Problem = "waiting", 0, post.Now(), ""
	if err := post.store.Tried(ctx, m); err != nil {
		return nil, err
	}
	post.nudge()
	return m, nil
}

// temporary reports whether trying a mail again may help.
func temporary(err error) bool {
	var t interface{ Temporary() bool }
	return !errors.As(err, &t) || t.Temporary()
}

// backOff gives the wait before the next try: doubling from 5 seconds to an hour.
func backOff(tries int) time.Duration {
	return min(time.Hour, 5*time.Second<<min(tries-1, 12))
}

// Outbox gives the newest mails of the outbox.
func (post *Post) Outbox(ctx context.Context, limit int) ([]*store.Outgoing, error) {
	return post.store.Outbox(ctx, limit)
}
