package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/pressly/goose/v3"
)

// ErrInUse says that another process has the workspace open.
var ErrInUse = errors.New("the data folder is in use: another service runs on it")

// Restored tells what a restore did.
type Restored struct {
	Trackers, Rows int
	Aside          string // where what was there before lies now, or ""
}

// Restore puts a backup in the place of a workspace that nobody has open. The
// backup is checked first; what was there before is put aside.
func Restore(ctx context.Context, dir, backup string, now time.Time) (*Restored, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	held, err := lock(filepath.Join(dir, lockFile))
	if err != nil {
		return nil, err
	}
	defer func() { _ = held.Close() }()
	fresh := filepath.Join(dir, ".restoring.db")
	defer func() { _ = os.Remove(fresh) }()
	if err := copyFile(fresh, backup); err != nil {
		return nil, fmt.Errorf("reading %s: %w", backup, err)
	}
	out, err := checkBackup(ctx, fresh)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", backup, err)
	}
	if err := opens(ctx, dir, fresh); err != nil {
		return nil, fmt.Errorf("%s: a service would not open it: %w", backup, err)
	}
	place := filepath.Join(dir, dbFile)
	if _, err := os.Stat(place); err == nil {
		out.Aside = asideName(place, now)
		for _, ending := range []string{"-wal", "-shm", ""} { // the log first: without it the file is not whole
			if err := os.Rename(place+ending, out.Aside+ending); err != nil && !errors.Is(err, os.ErrNotExist) {
				return nil, fmt.Errorf("putting aside what is there: %w", err)
			}
		}
	}
	if err := os.Remove(filepath.Join(dir, HeadFile)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, fmt.Errorf("forgetting how far the journal came: %w", err)
	}
	if err := os.Rename(fresh, place); err != nil {
		return nil, fmt.Errorf("putting the backup in its place: %w", err)
	}
	return out, nil
}

// asideName gives a free name for a file as it was before a moment.
func asideName(place string, now time.Time) string {
	base := fmt.Sprintf("%s.before-%s", place, now.Format("20060102-150405"))
	name := base
	for n := 2; ; n++ {
		if _, err := os.Lstat(name); err != nil {
			return name
		}
		name = fmt.Sprintf("%s-%d", base, n)
	}
}

// opens says why a service would not open a file with all that is in it. It opens
// a copy, in a folder of its own.
func opens(ctx context.Context, dir, file string) (err error) {
	room, err := os.MkdirTemp(dir, ".restoring-*")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(room)) }()
	if err := copyFile(filepath.Join(room, dbFile), file); err != nil {
		return err
	}
	s, err := Open(ctx, room, Options{})
	if err != nil {
		return err
	}
	found, err := s.Verify(ctx)
	if err == nil && len(found) > 0 {
		err = errors.New(found[0])
	}
	if err == nil {
		var aside []Unreadable
		if _, aside, err = s.Load(ctx); err == nil && len(aside) > 0 {
			err = errors.New(aside[0].String())
		}
	}
	return errors.Join(err, s.Close())
}

// checkBackup says what is wrong with a backup.
func checkBackup(ctx context.Context, path string) (*Restored, error) {
	db, err := open(ctx, path)
	if err != nil {
		return nil, errors.New("it is not a backup of Kavlo")
	}
	defer func() { _ = db.Close() }()
	if err := (&Store{read: db, path: "it"}).Check(ctx); err != nil {
		return nil, err
	}
	has, err := goose.GetDBVersionContext(ctx, db)
	if err != nil {
		return nil, errors.New("it is not a backup of Kavlo")
	}
	entries, err := migrations.ReadDir("migrations")
	if err != nil {
		return nil, err
	}
	if has > int64(len(entries)) {
		return nil, fmt.Errorf("it was made by a newer Kavlo (version %d of the file, and this one knows %d): restore it with that one", has, len(entries))
	}
	out := &Restored{}
	for query, to := range map[string]*int{"SELECT count(*) FROM tracker": &out.Trackers, "SELECT count(*) FROM row": &out.Rows} {
		if err := db.QueryRowContext(ctx, query).Scan(to); err != nil {
			return nil, errors.New("it is not a backup of Kavlo")
		}
	}
	_, err = db.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)")
	return out, err
}

func copyFile(to, from string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer func() { _ = in.Close() }()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Sync(), out.Close())
}
