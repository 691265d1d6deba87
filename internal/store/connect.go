package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"runtime"
)

// Usually there are one writing connection and several reading ones, which share a
// file beside the database. A disk without room has none for that file: the
// workspace is then opened sparingly, for reading alone, with what would stand in
// it kept in memory. The first write that finds room again ends that.

// connector opens connections to the file.
type connector struct {
	s       *Store
	driver  driver.Driver
	usual   string
	sparing string // ""; to write, which a sparing store does not
}

func (c *connector) Driver() driver.Driver { return c.driver }

func (c *connector) Connect(context.Context) (driver.Conn, error) {
	if c.sparing == "" {
		if err := c.s.leaveSparing(c); err != nil {
			return nil, err
		}
		return c.driver.Open(c.usual)
	}
	c.s.room.RLock()
	defer c.s.room.RUnlock()
	if c.s.sparing {
		return c.driver.Open(c.sparing)
	}
	return c.driver.Open(c.usual)
}

// pool gives connections that write, or that read.
func (s *Store) pool(ctx context.Context, writes bool, o Options) (*sql.DB, error) {
	c := &connector{s: s, driver: o.driver()}
	size := 1
	if writes {
		c.usual = fileName(s.path, "rwc", o)
	} else {
		c.usual, c.sparing = fileName(s.path, "rw", o), sparingName(s.path)
		size = 2 + runtime.NumCPU()
	}
	db := sql.OpenDB(c)
	db.SetMaxOpenConns(size)
	if err := db.PingContext(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("opening %s: %w", s.path, err), db.Close())
	}
	return db, nil
}

// open opens a file that is not a store's own.
func open(ctx context.Context, path string) (*sql.DB, error) {
	db, err := sql.Open("sqlite", fileName(path, "rw", Options{}))
	if err != nil {
		return nil, err
	}
	if err := db.PingContext(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("opening %s: %w", path, err), db.Close())
	}
	return db, nil
}

func (o Options) driver() driver.Driver {
	if o.Driver != nil {
		return o.Driver
	}
	return SQLite
}

// SQLite is the driver that opens workspace files.
var SQLite = func() driver.Driver {
	db, err := sql.Open("sqlite", "")
	if err != nil {
		panic(err) // the driver is part of the program
	}
	defer func() { _ = db.Close() }()
	return db.Driver()
}()

// fileName gives the name by which SQLite opens a file, with all that it is to
// heed.
func fileName(path, mode string, o Options) string {
	sync := "FULL"
	if o.Careless {
		sync = "OFF"
	}
	return named(path, url.Values{"mode": {mode}, "_txlock": {"immediate"}, "_pragma": {
		"busy_timeout(10000)", "journal_mode(WAL)", "synchronous(" + sync + ")", "foreign_keys(1)", "cache_size(-8192)"}})
}

// sparingName gives the name by which it is opened for reading alone. The locking
// mode must be set before anything else touches the file, and the driver goes
// through pragmas by the alphabet: there are no others. Connections share what
// they know of the file, or one would shut out the next.
func sparingName(path string) string {
	return named(path, url.Values{"mode": {"rw"}, "cache": {"shared"}, "_pragma": {"locking_mode(EXCLUSIVE)"}})
}

func named(path string, q url.Values) string {
	return "file:" + (&url.URL{Path: path}).EscapedPath() + "?" + q.Encode()
}

// roomNeeded is how much must fit on the disk before writing begins again, bytes.
const roomNeeded = 256 << 10

// leaveSparing makes a store that was opened sparingly one as usual, if the disk
// has room for it by now.
func (s *Store) leaveSparing(c *connector) error {
	s.room.Lock()
	defer s.room.Unlock()
	if !s.sparing {
		return nil
	}
	if err := tryRoom(filepath.Dir(s.path)); err != nil {
		return err
	}
	s.read.SetMaxIdleConns(0) // closes the sparing ones, each as soon as it is free
	defer s.read.SetMaxIdleConns(idleReaders)
	conn, err := c.driver.Open(c.usual) // waits for that
	if err != nil {
		return err
	}
	s.sparing = false
	return conn.Close()
}

const idleReaders = 2

// tryRoom says whether the disk takes something.
func tryRoom(dir string) error {
	f, err := os.CreateTemp(dir, ".room-*")
	if err != nil {
		return err
	}
	_, err = f.Write(make([]byte, roomNeeded))
	return errors.Join(err, f.Sync(), f.Close(), os.Remove(f.Name()))
}
