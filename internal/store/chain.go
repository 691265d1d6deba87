package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"hash"
	"hash/crc32"
	"io"
	"sync"

	"example.org/kavlo/internal/sheet"
)

// Every change set is chained to the one before it by a hash over both, so that
// one that was altered, lost or put in later by another program shows; rows carry
// a checksum of what they hold.

// link is the hash of one change set under way.
type link struct{ hash.Hash }

func newLink(before string, set *sheet.ChangeSet, tracker int64, causes, counts, record string) link {
	return linkOf(before, set.Seq, stamp(set.At), set.Who, set.Run, set.Undoes, tracker, causes, counts, record)
}

func linkOf(before string, seq int64, at, who, run string, undoes, tracker int64, causes, counts, record string) link {
	l := link{sha256.New()}
	l.part(fmt.Sprintf("%s\n%d\n%s\n%d\n%d", before, seq, at, undoes, tracker))
	for _, s := range []string{who, run, causes, counts, record} {
		l.part(s)
	}
	return l
}

// part takes one more text in, so that no two lists of texts are alike.
func (l link) part(s string) {
	_, _ = fmt.Fprintf(l, "%d ", len(s)) // a hash takes everything
	_, _ = io.WriteString(l, s)
}

// chainBytes is how much of a hash is kept.
const chainBytes = 16

func (l link) sum() string { return hex.EncodeToString(l.Sum(nil)[:chainBytes]) }

var castagnoli = crc32.MakeTable(crc32.Castagnoli)

// sumOf gives the checksum of what a row holds; never 0.
func sumOf(parts ...any) int64 {
	buf, _ := sumRooms.Get().(*[]byte)
	defer sumRooms.Put(buf)
	*buf = (*buf)[:0]
	for _, p := range parts {
		s, _ := p.(string) // nil for what there is none of
		*buf = append(append(*buf, s...), 0)
	}
	return int64(crc32.Checksum(*buf, castagnoli)) + 1
}

// sumRooms are rooms to put a row together in: a run sums very many.
var sumRooms = sync.Pool{New: func() any { return new([]byte) }}

// mostFound is how many faults of one kind are named.
const mostFound = 20

// Verify says what in the file is not as it was written: SQLite's own damage, rows
// that do not match their checksums, change sets that do not follow from those
// before them.
func (s *Store) Verify(ctx context.Context) (found []string, err error) {
	if err := s.Check(ctx); err != nil {
		return []string{err.Error()}, nil //nolint:nilerr // what is wrong with the file is what was asked
	}
	rows, err := s.verifyRows(ctx)
	if err != nil {
		return nil, err
	}
	sets, err := s.verifyChain(ctx)
	return append(rows, sets...), err
}

func (s *Store) verifyRows(ctx context.Context) (found []string, err error) {
	rows, err := s.read.QueryContext(ctx, "SELECT id, cells, coalesce(notes, ''), coalesce(looks, ''), coalesce(origin, ''), sum FROM row WHERE sum<>0")
	if err != nil {
		return nil, fmt.Errorf("reading rows: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var id sheet.RowID
		var cells, notes, looks, origin string
		var sum int64
		if err := rows.Scan(&id, &cells, &notes, &looks, &origin, &sum); err != nil {
			return nil, fmt.Errorf("reading rows: %w", err)
		}
		if sumOf(cells, notes, looks, origin) != sum && len(found) < mostFound {
			found = append(found, fmt.Sprintf("row %s is not as it was written: its checksum is another", id))
		}
	}
	return found, rows.Err()
}

func (s *Store) verifyChain(ctx context.Context) (found []string, err error) {
	rows, err := s.read.QueryContext(ctx, "SELECT seq, at, who, run, undoes, tracker, causes, counts, record, body, chain FROM journal ORDER BY seq")
	if err != nil {
		return nil, fmt.Errorf("reading the journal: %w", err)
	}
	defer rows.Close()
	before, last, chained := "", int64(0), false
	for rows.Next() {
		var seq, undoes, tracker int64
		var at, who, run, causes, counts, record, body, chain string
		if err := rows.Scan(&seq, &at, &who, &run, &undoes, &tracker, &causes, &counts, &record, &body, &chain); err != nil {
			return nil, fmt.Errorf("reading the journal: %w", err)
		}
		if seq != last+1 && len(found) < mostFound {
			found = append(found, fmt.Sprintf("the journal goes from change set %d to %d: what was between is gone", last, seq))
		}
		last = seq
		if chain == "" && !chained {
			continue // of an earlier version
		}
		chained = true
		l := linkOf(before, seq, at, who, run, undoes, tracker, causes, counts, record)
		l.part(body)
		if err := s.linkParts(ctx, l, seq); err != nil {
			return nil, err
		}
		if l.sum() != chain && len(found) < mostFound {
			found = append(found, fmt.Sprintf("change set %d is not as it was written, or one before it is not", seq))
		}
		before = chain
	}
	return found, rows.Err()
}

func (s *Store) linkParts(ctx context.Context, l link, seq int64) error {
	rows, err := s.read.QueryContext(ctx, "SELECT body FROM change WHERE seq=? ORDER BY part", seq)
	if err != nil {
		return fmt.Errorf("reading change set %d: %w", seq, err)
	}
	defer rows.Close()
	for rows.Next() {
		var body string
		if err := rows.Scan(&body); err != nil {
			return fmt.Errorf("reading change set %d: %w", seq, err)
		}
		l.part(body)
	}
	return rows.Err()
}
