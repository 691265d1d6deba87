package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"
)

// File is a file of the intake as it was last seen.
type File struct {
	ID       string
	Path     string // from the workspace's folder, with slashes
	Hash     string // of its contents
	Size     int64
	Version  int64
	Created  time.Time
	Modified time.Time
	Gone     bool // it is not there any more
}

// Files gives every file that has been seen.
func (s *Store) Files(ctx context.Context) ([]File, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT id, path, hash, size, version, created, modified, gone FROM file ORDER BY path")
	if err != nil {
		return nil, fmt.Errorf("reading the files seen: %w", err)
	}
	defer rows.Close()
	var out []File
	for rows.Next() {
		var f File
		var created, modified string
		if err := rows.Scan(&f.ID, &f.Path, &f.Hash, &f.Size, &f.Version, &created, &modified, &f.Gone); err != nil {
			return nil, fmt.Errorf("reading the files seen: %w", err)
		}
		f.Created, f.Modified = unstamp(created), unstamp(modified)
		out = append(out, f)
	}
	return out, rows.Err()
}

// PutFiles keeps files as they are seen now, all or none.
func (s *Store) PutFiles(ctx context.Context, files ...File) error {
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	for _, f := range files {
		if _, err := b.tx.ExecContext(ctx, "DELETE FROM file WHERE path=? AND id<>?", f.Path, f.ID); err != nil {
			return fmt.Errorf("keeping file %s: %w", f.Path, err)
		}
		_, err := b.tx.ExecContext(ctx, `INSERT INTO file(id, path, hash, size, version, created, modified, gone) VALUES (?,?,?,?,?,?,?,?)
		 ON CONFLICT(id) DO UPDATE SET path=excluded.path, hash=excluded.hash, size=excluded.size, version=excluded.version, modified=excluded.modified, gone=excluded.gone`,
			f.ID, f.Path, f.Hash, f.Size, f.Version, stamp(f.Created), stamp(f.Modified), f.Gone)
		if err != nil {
			return fmt.Errorf("keeping file %s: %w", f.Path, err)
		}
	}
	return b.Commit()
}

// Try notes that a file is about to be read, and gives how often that was begun
// before and did not come to an end.
func (s *Store) Try(ctx context.Context, path, hash string) (before int, err error) {
	b, err := s.Begin(ctx)
	if err != nil {
		return 0, err
	}
	defer b.Rollback()
	var known string
	err = b.tx.QueryRowContext(ctx, "SELECT hash, tries FROM trying WHERE path=?", path).Scan(&known, &before)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return 0, fmt.Errorf("reading which files were tried: %w", err)
	}
	if known != hash {
		before = 0
	}
	if _, err := b.tx.ExecContext(ctx, "INSERT INTO trying(path, hash, tries) VALUES (?,?,?) ON CONFLICT(path) DO UPDATE SET hash=excluded.hash, tries=excluded.tries", path, hash, before+1); err != nil {
		return 0, fmt.Errorf("noting that %s is tried: %w", path, err)
	}
	return before, b.Commit()
}

// Ended notes that reading a file came to an end, whatever came of it.
func (s *Store) Ended(ctx context.Context, path string) error {
	_, err := s.write1(ctx, "DELETE FROM trying WHERE path=?", path)
	return err
}

// NeverEnded gives the files whose reading was begun at least so often and never came
// to an end.
func (s *Store) NeverEnded(ctx context.Context, times int) ([]string, error) {
	return s.names(ctx, fmt.Sprintf("SELECT path FROM trying WHERE tries>=%d ORDER BY path", times))
}
