// Package store keeps a workspace in one SQLite file: trackers and their rows,
// the journal of change sets, runs, the outbox, people. It knows how things are
// stored and nothing of what they mean; the workspace is its only caller.
//
// There is one writing connection and a pool of reading ones. A Batch is one
// transaction; it is durable when Commit has returned (WAL, synchronous=FULL).
// Files: codec.go writes values as JSON, trackers.go loads and saves trackers,
// journal.go the change sets, history.go which rows they touched, runs.go, outbox.go and people.go the rest.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open workspace file.
type Store struct {
	held  *os.File // keeps other processes away
	path  string
	write *sql.DB // one connection
	read  *sql.DB
	stmts map[string]*sql.Stmt // of the writing connection, once there is one
	once  sync.Mutex           // while they are being prepared

	room    sync.RWMutex
	sparing bool  // opened for reading alone
	noRoom  error // why

	key      *sealer
	head     *head
	chain    string // of the newest change set; the writer's
	recent   recent
	ailing   ailing
	runCount atomic.Uint32 // of ids given to runs
}

// Options tune a store; the zero value is right for service.
type Options struct {
	Careless bool          // synchronous=OFF: for benchmarks alone
	Driver   driver.Driver // nil: SQLite's; another one in tests
}

// ErrNotFound says that there is no such thing in the store.
var ErrNotFound = errors.New("not found")

// The files of a workspace's folder.
const (
	dbFile   = "kavlo.db"
	lockFile = "kavlo.lock"
)

// Open opens the workspace file in dir, making and migrating it as needed.
func Open(ctx context.Context, dir string, o Options) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	s := &Store{path: filepath.Join(dir, dbFile)}
	var err error
	if s.held, err = lock(filepath.Join(dir, lockFile)); err != nil {
		return nil, fmt.Errorf("opening %s: %w", dir, err)
	}
	if err := s.own(dir); err != nil {
		return nil, errors.Join(fmt.Errorf("opening %s: %w", dir, err), s.held.Close())
	}
	if err = s.connect(ctx, o); err != nil {
		why := Unwritable(err)
		if why == "" {
			return nil, errors.Join(err, s.closeAll())
		}
		s.noRoom = err
		if err := s.connectSparingly(ctx, o); err != nil {
			return nil, errors.Join(fmt.Errorf("%w (%s; nor can it be read alone: %w)", s.noRoom, why, err), s.closeAll())
		}
	}
	return s, nil
}

// connect opens the connections, brings the file up to date, and reads what the
// store itself needs to know of it.
func (s *Store) connect(ctx context.Context, o Options) error {
	var err error
	if s.write, err = s.pool(ctx, true, o); err != nil {
		return err
	}
	provider, err := s.migrator()
	if err != nil {
		return err
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("bringing %s up to date: %w", s.path, err)
	}
	if s.read, err = s.pool(ctx, false, o); err != nil {
		return err
	}
	return errors.Join(s.prepare(ctx), s.gather(ctx), s.sealOpen(ctx), s.meetHead(ctx), s.loadAiling(ctx))
}

// connectSparingly opens what can be read where nothing can be written.
func (s *Store) connectSparingly(ctx context.Context, o Options) error {
	if err := errors.Join(closePool(s.read), closePool(s.write)); err != nil {
		return err
	}
	s.sparing, s.stmts, s.recent.touches = true, nil, nil
	var err error
	if s.read, err = s.pool(ctx, false, o); err != nil {
		return err
	}
	s.write = sql.OpenDB(&connector{s: s, driver: o.driver(), usual: fileName(s.path, "rw", o)})
	s.write.SetMaxOpenConns(1)
	provider, err := s.migrator()
	if err != nil {
		return err
	}
	var has int64
	if err := s.read.QueryRowContext(ctx, "SELECT COALESCE(max(version_id), 0) FROM goose_db_version").Scan(&has); err != nil {
		return fmt.Errorf("reading the version of %s: %w", s.path, err)
	}
	if sources := provider.ListSources(); has != sources[len(sources)-1].Version {
		return fmt.Errorf("%s is of an earlier version and must be brought up to date first, which needs room", s.path)
	}
	return errors.Join(s.gather(ctx), s.meetHead(ctx))
}

// NoRoom says why the store was opened for reading alone, or nil. The first write
// that finds room again goes through all the same.
func (s *Store) NoRoom() error { return s.noRoom }

func (s *Store) migrator() (*goose.Provider, error) {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, fmt.Errorf("reading the migrations: %w", err)
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, s.write, sub)
	if err != nil {
		return nil, fmt.Errorf("reading the migrations: %w", err)
	}
	return provider, nil
}

// own makes the workspace's files its owner's alone before anything is written to
// them. SQLite gives its other files the mode of the first.
func (s *Store) own(dir string) error {
	if err := s.usedBefore(dir); err != nil {
		return err
	}
	f, err := os.OpenFile(s.path, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	if err := errors.Join(f.Close(), ownAlone(dir)); err != nil {
		return err
	}
	s.key, err = keyOf(dir)
	return err
}

// Close closes the file.
func (s *Store) Close() error {
	_, _ = s.write.ExecContext(context.Background(), "PRAGMA wal_checkpoint(TRUNCATE)")
	return s.closeAll()
}

func (s *Store) closeAll() error {
	return errors.Join(s.head.close(), closePool(s.read), closePool(s.write), s.held.Close())
}

func closePool(db *sql.DB) error {
	if db == nil {
		return nil
	}
	return db.Close()
}

// Check asks SQLite whether the file is sound.
func (s *Store) Check(ctx context.Context) error {
	var answer string
	if err := s.read.QueryRowContext(ctx, "PRAGMA integrity_check").Scan(&answer); err != nil {
		return fmt.Errorf("checking %s: %w", s.path, err)
	}
	if answer != "ok" {
		return fmt.Errorf("%s is damaged: %s", s.path, answer)
	}
	return nil
}

// Backup writes a consistent copy to a new file while the service runs.
func (s *Store) Backup(ctx context.Context, to string) error {
	if _, err := os.Stat(to); err == nil {
		return fmt.Errorf("%s already exists: choose another name", to)
	}
	if _, err := s.read.ExecContext(ctx, "VACUUM INTO ?", to); err != nil {
		return fmt.Errorf("writing the backup %s: %w", to, err)
	}
	return nil
}

// Batch is one transaction being written.
type Batch struct {
	s     *Store
	tx    *sql.Tx
	stmts map[string]*sql.Stmt // those of the store that it has used, bound to its transaction

	buf []byte // room for what is being written

	inner bool // part of another, which commits it

	touches []touch // by the change sets in it, as far as not written
	lastSeq int64   // the newest of them
	flush   bool    // some are written, so all must be

	chain   string // of the newest change set in it
	chained int64  // its number; 0: none
}

// Begin begins a transaction. The caller ends it with Commit or Rollback.
func (s *Store) Begin(ctx context.Context) (*Batch, error) {
	if outer, is := ctx.Value(within{}).(*Batch); is && outer.s == s {
		inner := *outer
		inner.inner = true
		return &inner, nil
	}
	if err := s.prepare(ctx); err != nil {
		return nil, err
	}
	tx, err := s.write.BeginTx(ctx, nil)
	if err != nil {
		return nil, fmt.Errorf("beginning a transaction: %w", err)
	}
	return &Batch{s: s, tx: tx, stmts: map[string]*sql.Stmt{}, chain: s.chain}, nil
}

type within struct{}

// Within gives a context in which whatever else the store writes becomes part of the
// batch, and stands or falls with it.
func (b *Batch) Within(ctx context.Context) context.Context {
	return context.WithValue(ctx, within{}, b)
}

// Commit makes the batch durable.
func (b *Batch) Commit() error {
	if b.inner {
		return nil
	}
	done, err := b.writeHistory(context.Background())
	if err != nil {
		return err
	}
	if err := b.tx.Commit(); err != nil && !b.committed() {
		return fmt.Errorf("committing: %w", err)
	}
	done()
	if b.chained > 0 {
		b.s.chain = b.chain
		b.s.head.put(b.chained, b.chain)
	}
	return nil
}

// committed reports whether a transaction whose commit gave an error went through
// all the same, as a fault after the last write can have it. The journal tells: what
// it did not write is done once more.
func (b *Batch) committed() bool {
	if b.chained == 0 {
		return false
	}
	var chain string
	err := b.s.read.QueryRowContext(context.Background(), "SELECT chain FROM journal WHERE seq=?", b.chained).Scan(&chain)
	return err == nil && chain == b.chain
}

// Rollback throws the batch away; after Commit it does nothing.
func (b *Batch) Rollback() {
	if !b.inner {
		_ = b.tx.Rollback()
	}
}

// statements are the writes that happen often, prepared once.
var statements = map[string]string{
	"row put":   putRows(1),
	"rows put":  putRows(rowsAtOnce),
	"row set":   `UPDATE row SET tab=?, pos=?, version=?, cells=?, notes=?, looks=?, origin=?, sum=? WHERE id=?`,
	"row place": `UPDATE row SET tracker=?, tab=?, pos=?, version=? WHERE id=?`,
	"row shift": `UPDATE row SET tab=?, pos=?, version=? WHERE id=?`,
	"row drop":  `DELETE FROM row WHERE id=?`,
	"journal":   `INSERT INTO journal(seq, at, who, run, undoes, tracker, causes, counts, body, record, chain) VALUES (?,?,?,?,?,?,?,?,?,?,?)`,
	"also":      `INSERT INTO also(tracker, seq) VALUES (?,?)`,
	"change":    `INSERT INTO change(seq, part, body) VALUES (?,?,?)`,
	"history":   historyInsert,
	"run":       `INSERT INTO run(id, at, tracker, kind, name, who, outcome, seq, body) VALUES (?,?,?,?,?,?,?,?,?)`,
	"counter":   `UPDATE counter SET next=? WHERE name=?`,
	"agreed put": `INSERT INTO agreed(tracker, sync, key, name, row, id, gone, cells) VALUES (?,?,?,?,?,?,?,?)
	 ON CONFLICT(tracker, sync, key) DO UPDATE SET name=excluded.name, row=excluded.row, id=excluded.id, gone=excluded.gone, cells=excluded.cells`,
	"agreed drop": `DELETE FROM agreed WHERE tracker=? AND sync=? AND key=?`,
	"held put":    `INSERT INTO held(tracker, sync, key, since, body) VALUES (?,?,?,?,?) ON CONFLICT(tracker, sync, key) DO UPDATE SET body=excluded.body`,
	"letter":      `INSERT INTO letter(id, text, html, attach) VALUES (?,?,?,?)`,
	"written put": `INSERT INTO written(path, tracker, rule, name, at, rows, keep) VALUES (?,?,?,?,?,?,?)
	 ON CONFLICT(path) DO UPDATE SET tracker=excluded.tracker, rule=excluded.rule, name=excluded.name, at=excluded.at, rows=excluded.rows, keep=excluded.keep`,
	"version": `INSERT OR REPLACE INTO version(path, n, tracker, run, at) VALUES (?,?,?,?,?)`,
	"tried":   `UPDATE outbox SET state=?, tries=?, next_try=?, sent=?, problem=? WHERE id=?`,
	"reminded put": `INSERT INTO reminded(tracker, reminder, row, since, told, until, done) VALUES (?,?,?,?,'',0,0)
	 ON CONFLICT(tracker, reminder, row) DO UPDATE SET since=excluded.since`,
	"told put": `INSERT INTO told(tracker, reminder, row, person, told, until, mark) VALUES (?,?,?,?,?,?,?)
	 ON CONFLICT(tracker, reminder, row, person) DO UPDATE SET told=excluded.told, until=excluded.until, mark=excluded.mark`,
	"told drop":     `DELETE FROM told WHERE tracker=? AND reminder=? AND row=?`,
	"reminded drop": `DELETE FROM reminded WHERE tracker=? AND reminder=? AND row=?`,
	"imported put":  `INSERT INTO imported(tracker, tab, key, seq, marks) VALUES (?,?,?,?,?) ON CONFLICT(tracker, tab, key) DO UPDATE SET seq=excluded.seq, marks=excluded.marks`,
	"imported drop": `DELETE FROM imported WHERE tracker=? AND tab=? AND key=?`,
	"held drop":     `DELETE FROM held WHERE tracker=? AND sync=? AND key=?`,
	"answered":      `INSERT INTO answered(key, hash, at, seq, answer) VALUES (?,?,?,?,?)`,
}

func putRows(n int) string {
	return `INSERT INTO row(id, tracker, tab, pos, version, cells, notes, looks, origin, sum) VALUES (?,?,?,?,?,?,?,?,?,?)` + strings.Repeat(",(?,?,?,?,?,?,?,?,?,?)", n-1) +
		` ON CONFLICT(id) DO UPDATE SET tracker=excluded.tracker, tab=excluded.tab, pos=excluded.pos, version=excluded.version, cells=excluded.cells, notes=excluded.notes, looks=excluded.looks, origin=excluded.origin, sum=excluded.sum`
}

func (s *Store) prepare(ctx context.Context) error {
	s.once.Lock()
	defer s.once.Unlock()
	if s.stmts != nil {
		return nil
	}
	made := map[string]*sql.Stmt{}
	for name, text := range statements {
		st, err := s.write.PrepareContext(ctx, text) //nolint:sqlclosecheck // lives as long as its connection
		if err != nil {
			return fmt.Errorf("preparing %q: %w", name, err)
		}
		made[name] = st
	}
	s.stmts = made
	return nil
}

func (b *Batch) exec(ctx context.Context, name string, args ...any) error {
	st := b.stmts[name]
	if st == nil {
		st = b.tx.StmtContext(ctx, b.s.stmts[name]) //nolint:sqlclosecheck // closed with the transaction
		b.stmts[name] = st
	}
	if _, err := st.ExecContext(ctx, args...); err != nil {
		return fmt.Errorf("writing %s: %w", name, err)
	}
	return nil
}

// Counter gives the next number of a counter: of rows, of parts, or of what has been written late.
func (s *Store) Counter(ctx context.Context, name string) (int64, error) {
	var n int64
	if err := s.read.QueryRowContext(ctx, "SELECT next FROM counter WHERE name=?", name).Scan(&n); err != nil {
		return 0, fmt.Errorf("reading counter %s: %w", name, err)
	}
	return n, nil
}

// SetCounter keeps the next number of a counter.
func (b *Batch) SetCounter(ctx context.Context, name string, next int64) error {
	return b.exec(ctx, "counter", next, name)
}

// stamp writes a time as the store keeps it: UTC, to the millisecond, sortable.
func stamp(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.UTC().Format("2006-01-02T15:04:05.000Z")
}

func unstamp(s string) time.Time {
	t, err := time.Parse("2006-01-02T15:04:05.000Z", s)
	if err != nil {
		return time.Time{}
	}
	return t
}
