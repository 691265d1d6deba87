package store

import (
	"context"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
)

// Version is what stood in a file's place before it was written over.
type Version struct {
	Path    string // below the outbound folder, with slashes
	N       int
	Tracker sheet.TrackerID
	Run     string // that wrote over it; "": a person put another there
	At      time.Time
}

// PutVersion keeps that a file was written over.
func (b *Batch) PutVersion(ctx context.Context, v *Version) error {
	return b.exec(ctx, "version", v.Path, v.N, int64(v.Tracker), v.Run, stamp(v.At))
}

// Versions gives what stood in a file's place, the newest first.
func (s *Store) Versions(ctx context.Context, tracker sheet.TrackerID, path string) ([]Version, error) {
	return s.versions(ctx, "WHERE tracker=? AND path=? AND kept ORDER BY n DESC", int64(tracker), path)
}

// VersionsOf gives what a run wrote over.
func (s *Store) VersionsOf(ctx context.Context, run string) ([]Version, error) {
	if run == "" {
		return nil, nil
	}
	return s.versions(ctx, "WHERE run=? ORDER BY path, n", run)
}

// VersionsPast gives what was kept before a moment and is kept still, except for the
// newest of each path.
func (s *Store) VersionsPast(ctx context.Context, before time.Time) ([]Version, error) {
	return s.versions(ctx, "WHERE kept AND at<? AND n<(SELECT max(n) FROM version newer WHERE newer.path=version.path)", stamp(before))
}

// ForgetVersion keeps that the file itself is gone; what the run wrote over stays known.
func (s *Store) ForgetVersion(ctx context.Context, v Version) error {
	_, err := s.write1(ctx, "UPDATE version SET kept=0 WHERE path=? AND n=?", v.Path, v.N)
	return err
}

// WrittenOver gives which tracker's rule wrote a file last; 0: none did.
func (s *Store) WrittenOver(ctx context.Context, path string) (sheet.TrackerID, error) {
	all, err := s.written(ctx, "WHERE path=?", path)
	if err != nil || len(all) == 0 {
		return 0, err
	}
	return all[0].Tracker, nil
}

func (s *Store) versions(ctx context.Context, where string, args ...any) ([]Version, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT path, n, tracker, run, at FROM version "+where, args...)
	if err != nil {
		return nil, fmt.Errorf("reading versions of files: %w", err)
	}
	defer rows.Close()
	var out []Version
	for rows.Next() {
		var v Version
		var at string
		if err := rows.Scan(&v.Path, &v.N, &v.Tracker, &v.Run, &at); err != nil {
			return nil, fmt.Errorf("reading versions of files: %w", err)
		}
		v.At = unstamp(at)
		out = append(out, v)
	}
	return out, rows.Err()
}
