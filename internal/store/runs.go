package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/oklog/ulid/v2"

	"example.org/kavlo/internal/sheet"
)

// Run is one execution of a rule, sync, round or import, or an edit from which
// rules followed.
type Run struct {
	ID      string
	At      time.Time
	Tracker sheet.TrackerID
	Kind    string // edit, rule, sync, round, import, undo
	Name    string
	Who     string
	Outcome string // done, nothing to do, watched, failed
	Seq     int64  // its change set, or 0
	Body    json.RawMessage
}

// PutRun writes a run.
func (b *Batch) PutRun(ctx context.Context, r *Run) error {
	return b.exec(ctx, "run", r.ID, stamp(r.At), int64(r.Tracker), r.Kind, r.Name, r.Who, r.Outcome, r.Seq, string(r.Body))
}

// PutRun writes a run that changed nothing, in a transaction of its own.
func (s *Store) PutRun(ctx context.Context, r *Run) error {
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	if err := b.PutRun(ctx, r); err != nil {
		return err
	}
	return b.Commit()
}

const runColumns = "id, at, tracker, kind, name, who, outcome, seq, body"

func scanRun(scan func(...any) error) (*Run, error) {
	r := &Run{}
	var at, body string
	if err := scan(&r.ID, &at, &r.Tracker, &r.Kind, &r.Name, &r.Who, &r.Outcome, &r.Seq, &body); err != nil {
		return nil, err
	}
	r.At, r.Body = unstamp(at), json.RawMessage(body)
	return r, nil
}

// Run gives a run; ErrNotFound if there is none.
func (s *Store) Run(ctx context.Context, id string) (*Run, error) {
	r, err := scanRun(s.read.QueryRowContext(ctx, "SELECT "+runColumns+" FROM run WHERE id=?", id).Scan)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("run %s: %w", id, ErrNotFound)
	}
	if err != nil {
		return nil, fmt.Errorf("reading run %s: %w", id, err)
	}
	return r, nil
}

// Runs gives runs of a tracker (0: of all), newest first, from before an id on.
func (s *Store) Runs(ctx context.Context, tracker sheet.TrackerID, before string, limit int) ([]*Run, error) {
	return s.runs(ctx, "WHERE (tracker=? OR ?=0) AND (id<? OR ?='') ORDER BY id DESC LIMIT ?", int64(tracker), int64(tracker), before, before, limit)
}

// FailedSince gives the runs of all trackers that failed after a time, newest first.
func (s *Store) FailedSince(ctx context.Context, after time.Time, limit int) ([]*Run, error) {
	return s.runs(ctx, "WHERE outcome='failed' AND id>=? ORDER BY id DESC LIMIT ?", firstRunID(after), limit)
}

func (s *Store) runs(ctx context.Context, where string, args ...any) ([]*Run, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT "+runColumns+" FROM run "+where, args...)
	if err != nil {
		return nil, fmt.Errorf("reading runs: %w", err)
	}
	defer rows.Close()
	var out []*Run
	for rows.Next() {
		r, err := scanRun(rows.Scan)
		if err != nil {
			return nil, fmt.Errorf("reading runs: %w", err)
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// firstRunID gives the smallest id that a run of a time or later can have: ids
// are ULIDs, which begin with their time.
func firstRunID(at time.Time) string {
	var id ulid.ULID
	_ = id.SetTime(ulid.Timestamp(at)) // only a year beyond 10,000 is refused
	return id.String()
}

// PruneRuns forgets runs from before a time.
func (s *Store) PruneRuns(ctx context.Context, before time.Time) error {
	var old bool
	if err := s.read.QueryRowContext(ctx, "SELECT EXISTS (SELECT 1 FROM run WHERE id<?)", firstRunID(before)).Scan(&old); err != nil || !old {
		return err
	}
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	if _, err := b.tx.ExecContext(ctx, "DELETE FROM run WHERE id<?", firstRunID(before)); err != nil {
		return fmt.Errorf("forgetting old runs: %w", err)
	}
	return b.Commit()
}

// Clocked gives the last occurrence for which a clocked part ran; zero if never.
func (s *Store) Clocked(ctx context.Context, tracker sheet.TrackerID, part sheet.PartID) (time.Time, error) {
	var last string
	err := s.read.QueryRowContext(ctx, "SELECT last FROM clocked WHERE tracker=? AND part=?", int64(tracker), int64(part)).Scan(&last)
	if errors.Is(err, sql.ErrNoRows) {
		return time.Time{}, nil
	}
	return unstamp(last), err
}

// SetClocked keeps the occurrence for which a clocked part ran.
func (b *Batch) SetClocked(ctx context.Context, tracker sheet.TrackerID, part sheet.PartID, at time.Time) error {
	_, err := b.tx.ExecContext(ctx, "INSERT INTO clocked(tracker, part, last) VALUES (?,?,?) ON CONFLICT DO UPDATE SET last=excluded.last", int64(tracker), int64(part), stamp(at))
	if err != nil {
		return fmt.Errorf("writing the clock of part %s: %w", part, err)
	}
	return nil
}

// Answer keeps the answer given under an idempotency key.
func (b *Batch) Answer(ctx context.Context, key string, at time.Time, seq int64, answer string) error {
	return b.exec(ctx, "answered", key, stamp(at), seq, answer)
}
