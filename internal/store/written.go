package store

import (
	"context"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
)

// Written is a file that a rule wrote.
type Written struct {
	Path    string // below the outbound folder, with slashes
	Tracker sheet.TrackerID
	Rule    sheet.DefinitionID
	Name    string // the rule's, as it was
	At      time.Time
	Rows    int
	Keep    int // days; 0: for good
}

// PutWritten keeps that a file was written, anew or again.
func (b *Batch) PutWritten(ctx context.Context, w *Written) error {
	return b.exec(ctx, "written put", w.Path, int64(w.Tracker), int64(w.Rule), w.Name, stamp(w.At), w.Rows, w.Keep)
}

const writtenColumns = "SELECT path, tracker, rule, name, at, rows, keep FROM written "

// WrittenBy gives the files that rules of a tracker wrote, the newest first.
func (s *Store) WrittenBy(ctx context.Context, tracker sheet.TrackerID) ([]Written, error) {
	return s.written(ctx, "WHERE tracker=? ORDER BY at DESC, path", int64(tracker))
}

// WrittenPast gives the files whose time is up.
func (s *Store) WrittenPast(ctx context.Context, now time.Time) ([]Written, error) {
	all, err := s.written(ctx, "WHERE keep>0 ORDER BY at")
	var out []Written
	for _, w := range all {
		if now.After(w.At.AddDate(0, 0, w.Keep)) {
			out = append(out, w)
		}
	}
	return out, err
}

func (s *Store) written(ctx context.Context, where string, args ...any) ([]Written, error) {
	rows, err := s.read.QueryContext(ctx, writtenColumns+where, args...)
	if err != nil {
		return nil, fmt.Errorf("reading the files written: %w", err)
	}
	defer rows.Close()
	var out []Written
	for rows.Next() {
		var w Written
		var at string
		if err := rows.Scan(&w.Path, &w.Tracker, &w.Rule, &w.Name, &at, &w.Rows, &w.Keep); err != nil {
			return nil, fmt.Errorf("reading the files written: %w", err)
		}
		w.At = unstamp(at)
		out = append(out, w)
	}
	return out, rows.Err()
}

// DropWritten forgets a file that is gone.
func (s *Store) DropWritten(ctx context.Context, path string) error {
	_, err := s.write1(ctx, "DELETE FROM written WHERE path=?", path)
	return err
}
