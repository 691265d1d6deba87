package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"syscall"
	"time"

	"modernc.org/sqlite"
	lib "modernc.org/sqlite/lib"
)

// Unwritable says in words why nothing can be written, where the disk or the
// folder is to blame; "" where it is something else.
func Unwritable(err error) string {
	var e *sqlite.Error
	switch {
	case err == nil:
		return ""
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return "the disk is full: make room, and it goes on by itself"
	case errors.Is(err, syscall.EFBIG), errors.Is(err, syscall.EIO):
		return "the disk does not take what is written: see that it is not full and sound"
	case errors.Is(err, syscall.EROFS), errors.Is(err, fs.ErrPermission):
		return "the data folder is read-only: let the service write to it"
	case !errors.As(err, &e):
		return ""
	}
	switch e.Code() & 0xff {
	case lib.SQLITE_FULL:
		return "the disk is full: make room, and it goes on by itself"
	case lib.SQLITE_READONLY, lib.SQLITE_PERM:
		return "the data folder is read-only: let the service write to it"
	case lib.SQLITE_IOERR, lib.SQLITE_CANTOPEN:
		return "the disk does not take what is written: see that it is not full and sound"
	}
	return ""
}

// TryWrite writes something that changes nothing, durably, and says whether that
// went.
func (s *Store) TryWrite(ctx context.Context, now time.Time) error {
	_, err := s.write1(ctx, "INSERT INTO own(name, value) VALUES ('tried to write', ?) ON CONFLICT(name) DO UPDATE SET value=excluded.value", s.key.seal(placeOfOwn("tried to write"), stamp(now)))
	if err != nil {
		return fmt.Errorf("trying to write: %w", err)
	}
	return nil
}
