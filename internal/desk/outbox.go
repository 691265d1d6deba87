package desk

import (
	"context"
	"errors"
	"time"

	"example.org/kavlo/internal/store"
)

// giveUpAfter is how long a mail is tried before it is given up.
const giveUpAfter = 24 * time.Hour

// sendLoop sends what waits in the outbox, as it comes due.
func (d *Desk) sendLoop(ctx context.Context) {
	for {
		wait := 30 * time.Second
		if _, err := d.SendDue(ctx); err != nil && ctx.Err() == nil {
			d.Log.Error("the outbox could not be worked through", "err", err)
		} else if next, err := d.store.NextDue(ctx); err == nil {
			wait = min(wait, max(50*time.Millisecond, next.Sub(d.Now())))
		}
		timer := time.NewTimer(wait)
		select {
		case <-ctx.Done():
			timer.Stop()
			return
		case <-d.wake:
			timer.Stop()
		case <-timer.C:
		}
	}
}

// SendDue tries every mail of the outbox that is due and gives how many went.
func (d *Desk) SendDue(ctx context.Context) (int, error) {
	if d.Mailer == nil {
		return 0, nil
	}
	sent := 0
	due, err := d.store.Due(ctx, d.Now(), 200)
	if err != nil {
		return 0, err
	}
	token, err := d.signer(ctx)
	if err != nil {
		return 0, err
	}
	for _, m := range due {
		if ctx.Err() != nil {
			return sent, ctx.Err()
		}
		pause := ""
		if d.Console != "" {
			pause = d.Console + ActPath + token(Deed{What: "pause", Who: m.Recipient, Until: m.Made.AddDate(0, 0, LinkDays).Unix()})
		}
		err := d.Mailer.Send(ctx, &Mail{ID: m.ID, To: m.Recipient, Subject: m.Subject, Text: m.Text, HTML: m.HTML, Date: m.Made, Pause: pause})
		now := d.Now()
		m.Tries++
		switch {
		case err == nil:
			m.State, m.Sent, m.Problem = "sent", now, ""
			sent++
		case !temporary(err) || now.Sub(m.Made) > giveUpAfter:
			m.State, m.Problem = "given up", err.Error()
			d.Log.Warn("a mail was given up", "to", m.Recipient, "err", err)
		default:
			m.NextTry, m.Problem = now.Add(backOff(m.Tries)), err.Error()
			d.Log.Info("a mail waits for another try", "to", m.Recipient, "next", m.NextTry, "err", err)
		}
		if err := d.store.Tried(ctx, m); err != nil {
			return sent, err
		}
	}
	return sent, nil
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
func (d *Desk) Outbox(ctx context.Context, limit int) ([]*store.Outgoing, error) {
	return d.store.Outbox(ctx, limit)
}
