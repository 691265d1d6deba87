package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"hash/crc32"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"
)

// How far the journal has come is noted in a file of its own as well, outside the
// database and its log. Where either was cut, emptied or replaced, that shows at
// the next start, which would otherwise go on with less and tell nobody. The note
// is written after commits, now and then and at the end, and not forced to the disk,
// so it costs next to nothing; after a kill it may lag behind, and never runs ahead.

// HeadFile is the file of the data folder that tells how far the journal has come.
const HeadFile = "journal-head"

type head struct {
	path string
	f    *os.File // nil as long as it could not be opened

	mu      sync.Mutex
	line    string // what is to be noted; "" when it is
	written time.Time
	later   *time.Timer
}

// headEvery is how often the note is written at most. More often, each commit
// would wait for the file's own traces in the disk's journal.
const headEvery = 100 * time.Millisecond

// Cut says that a workspace holds less than it did.
type Cut struct{ Says string }

func (e *Cut) Error() string {
	return e.Says + ". Nothing was changed. Put back the whole folder as it was, or restore a backup; to go on with what is left, take the file " + HeadFile + " away and start again"
}

func headLine(seq int64, chain string) string {
	text := fmt.Sprintf("%020d %-*s", seq, 2*chainBytes, chain)
	return fmt.Sprintf("%s %08x\n", text, crc32.Checksum([]byte(text), castagnoli))
}

// readHead gives what the file tells; not ok where there is none, or it was cut
// short in the writing.
func readHead(dir string) (seq int64, chain string, ok bool, err error) {
	text, err := os.ReadFile(filepath.Join(dir, HeadFile))
	if errors.Is(err, fs.ErrNotExist) {
		return 0, "", false, nil
	}
	if err != nil {
		return 0, "", false, fmt.Errorf("reading how far the journal came: %w", err)
	}
	if n, _ := fmt.Sscanf(string(text), "%d", &seq); n != 1 || len(text) < 22 {
		return 0, "", false, nil
	}
	chain = strings.TrimSpace(string(text[21:min(len(text), 21+2*chainBytes)]))
	return seq, chain, headLine(seq, chain) == string(text), nil
}

// usedBefore refuses to begin an empty workspace in a folder that held another.
func (s *Store) usedBefore(dir string) error {
	info, err := os.Stat(s.path)
	if err == nil && info.Size() > 0 {
		return nil
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	seq, _, ok, err := readHead(dir)
	if err != nil || !ok || seq == 0 {
		return err
	}
	return &Cut{fmt.Sprintf("%s is missing or empty, and this folder held a workspace of %d change sets", filepath.Base(s.path), seq)}
}

// meetHead holds the journal against the file, and opens the file to go on with.
func (s *Store) meetHead(ctx context.Context) error {
	dir := filepath.Dir(s.path)
	var last int64
	err := s.read.QueryRowContext(ctx, "SELECT seq, chain FROM journal ORDER BY seq DESC LIMIT 1").Scan(&last, &s.chain)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("reading the journal: %w", err)
	}
	seq, chain, ok, err := readHead(dir)
	if err != nil {
		return err
	}
	if ok {
		if err := s.compareHead(ctx, last, seq, chain); err != nil {
			return err
		}
	}
	s.head = &head{path: filepath.Join(dir, HeadFile)}
	if err := s.head.open(); err != nil && Unwritable(err) == "" {
		return fmt.Errorf("noting how far the journal comes: %w", err)
	}
	s.head.put(last, s.chain)
	return nil
}

func (s *Store) compareHead(ctx context.Context, last, seq int64, chain string) error {
	if last < seq {
		return &Cut{fmt.Sprintf("the journal ends at change set %d, and had come to %d: the database or its log was cut or replaced", last, seq)}
	}
	if seq == 0 || chain == "" {
		return nil
	}
	var there string
	err := s.read.QueryRowContext(ctx, "SELECT chain FROM journal WHERE seq=?", seq).Scan(&there)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("reading the journal: %w", err)
	}
	if there != chain {
		return &Cut{fmt.Sprintf("change set %d is another than it was: the database was replaced by one of elsewhere", seq)}
	}
	return nil
}

func (h *head) open() (err error) {
	if h.f == nil {
		h.f, err = os.OpenFile(h.path, os.O_CREATE|os.O_RDWR, 0o600)
	}
	return err
}

// put notes how far the journal has come, soon.
func (h *head) put(seq int64, chain string) {
	if h == nil {
		return
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	h.line = headLine(seq, chain)
	switch wait := headEvery - time.Since(h.written); {
	case wait <= 0:
		h.write()
	case h.later == nil:
		h.later = time.AfterFunc(wait, func() {
			h.mu.Lock()
			defer h.mu.Unlock()
			h.later = nil
			h.write()
		})
	}
}

// write writes the note, if there is a newer one. What cannot be noted lags behind.
func (h *head) write() {
	if h.line == "" || h.open() != nil {
		return
	}
	_, _ = h.f.WriteAt([]byte(h.line), 0)
	h.line, h.written = "", time.Now()
}

func (h *head) close() error {
	if h == nil {
		return nil
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.later != nil {
		h.later.Stop()
	}
	h.write()
	if h.f == nil {
		return nil
	}
	err := errors.Join(h.f.Sync(), h.f.Close())
	h.f, h.line = nil, ""
	return err
}
