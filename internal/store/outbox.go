package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"example.org/kavlo/internal/sheet"
)

// Outgoing is one mail of the outbox.
type Outgoing struct {
	ID         string
	Tracker    sheet.TrackerID
	Round      sheet.DefinitionID
	Occurrence string
	Recipient  string
	Subject    string
	Text, HTML string
	Attach     []string // paths of files below the outbound folder that go with it
	Run        string
	State      string // waiting, sent, given up
	Tries      int
	Made       time.Time
	NextTry    time.Time
	Sent       time.Time
	Problem    string
}

// Enqueue puts a mail into the outbox unless one for the same round,
// occurrence and person is there; it reports whether it was put.
func (b *Batch) Enqueue(ctx context.Context, m *Outgoing) (bool, error) {
	r, err := b.tx.ExecContext(ctx, `INSERT OR IGNORE INTO outbox(id, tracker, round, occurrence, recipient, subject, run, state, made, next_try)
	 VALUES (?,?,?,?,?,?,?,'waiting',?,?)`, m.ID, int64(m.Tracker), int64(m.Round), m.Occurrence, m.Recipient, m.Subject, m.Run, stamp(m.Made), stamp(m.NextTry))
	if err != nil {
		return false, fmt.Errorf("writing mail to %s: %w", m.Recipient, err)
	}
	n, err := r.RowsAffected()
	if err != nil || n == 0 {
		return false, err
	}
	return true, b.exec(ctx, "letter", m.ID, m.Text, m.HTML, strings.Join(m.Attach, "\n"))
}

const outgoingColumns = "o.id, tracker, round, occurrence, recipient, subject, text, html, attach, run, state, tries, made, next_try, sent, problem"

func scanOutgoing(scan func(...any) error) (*Outgoing, error) {
	m := &Outgoing{}
	var made, next, sent, attach string
	err := scan(&m.ID, &m.Tracker, &m.Round, &m.Occurrence, &m.Recipient, &m.Subject, &m.Text, &m.HTML, &attach, &m.Run, &m.State, &m.Tries, &made, &next, &sent, &m.Problem)
	if attach != "" {
		m.Attach = strings.Split(attach, "\n")
	}
	m.Made, m.NextTry, m.Sent = unstamp(made), unstamp(next), unstamp(sent)
	return m, err
}

// MostWait is how long a mail waits at most for its next try: one that is to wait
// longer was put off by a clock that was ahead.
const MostWait = 2 * time.Hour

// Due gives the waiting mails whose next try has come, oldest first.
func (s *Store) Due(ctx context.Context, now time.Time, limit int) ([]*Outgoing, error) {
	return s.outgoing(ctx, "WHERE state='waiting' AND (next_try<=? OR next_try>?) ORDER BY made, o.id LIMIT ?", stamp(now), stamp(now.Add(MostWait)), limit)
}

// Outbox gives the newest mails of the outbox.
func (s *Store) Outbox(ctx context.Context, limit int) ([]*Outgoing, error) {
	return s.outgoing(ctx, "ORDER BY made DESC, o.id DESC LIMIT ?", limit)
}

func (s *Store) outgoing(ctx context.Context, where string, args ...any) ([]*Outgoing, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT "+outgoingColumns+" FROM outbox o JOIN letter ON letter.id=o.id "+where, args...)
	if err != nil {
		return nil, fmt.Errorf("reading the outbox: %w", err)
	}
	defer rows.Close()
	var out []*Outgoing
	for rows.Next() {
		m, err := scanOutgoing(rows.Scan)
		if err != nil {
			return nil, fmt.Errorf("reading the outbox: %w", err)
		}
		out = append(out, m)
	}
	return out, rows.Err()
}

// NextDue gives when the next waiting mail is to be tried; ErrNotFound if none waits.
func (s *Store) NextDue(ctx context.Context) (time.Time, error) {
	var at sql.NullString
	err := s.read.QueryRowContext(ctx, "SELECT min(next_try) FROM outbox WHERE state='waiting'").Scan(&at)
	if err == nil && !at.Valid || errors.Is(err, sql.ErrNoRows) {
		return time.Time{}, ErrNotFound
	}
	return unstamp(at.String), err
}

// Tried keeps the outcomes of tries to send, in one transaction.
func (s *Store) Tried(ctx context.Context, mails ...*Outgoing) error {
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	for _, m := range mails {
		if err := b.exec(ctx, "tried", m.State, m.Tries, stamp(m.NextTry), stamp(m.Sent), m.Problem, m.ID); err != nil {
			return fmt.Errorf("mail %s: %w", m.ID, err)
		}
	}
	return b.Commit()
}

// OutgoingByID gives a mail of the outbox; ErrNotFound if there is none.
func (s *Store) OutgoingByID(ctx context.Context, id string) (*Outgoing, error) {
	found, err := s.outgoing(ctx, "WHERE o.id=?", id)
	if err == nil && len(found) == 0 {
		err = fmt.Errorf("mail %s: %w", id, ErrNotFound)
	}
	if err != nil {
		return nil, err
	}
	return found[0], nil
}

// Waiting gives how many mails have not gone out yet.
func (s *Store) Waiting(ctx context.Context) (int, error) {
	var n int
	if err := s.read.QueryRowContext(ctx, "SELECT count(*) FROM outbox WHERE state='waiting'").Scan(&n); err != nil {
		return 0, fmt.Errorf("reading the outbox: %w", err)
	}
	return n, nil
}

// ForgetMails forgets mails made before a time that are not waiting any more.
func (s *Store) ForgetMails(ctx context.Context, before time.Time) error {
	const old = "state<>'waiting' AND made<?"
	var any bool
	err := s.read.QueryRowContext(ctx, "SELECT EXISTS (SELECT 1 FROM outbox WHERE "+old+")", stamp(before)).Scan(&any)
	if err != nil || !any {
		return err
	}
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	for _, forget := range []string{"DELETE FROM letter WHERE id IN (SELECT id FROM outbox WHERE " + old + ")", "DELETE FROM outbox WHERE " + old} {
		if _, err := b.tx.ExecContext(ctx, forget, stamp(before)); err != nil {
			return fmt.Errorf("forgetting old mails: %w", err)
		}
	}
	return b.Commit()
}
