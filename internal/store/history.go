package store

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"

	"example.org/kavlo/internal/sheet"
)

// touch says that a part of a change set touched a row.
type touch struct {
	row  sheet.RowID
	seq  int64
	part int
}

// recent holds the newest touches. The table history is an index over the
// journal; an edit need not wait for it, so entries gather here and are written
// many at once. What a stop leaves unwritten is read from the journal at the
// next opening.
type recent struct {
	mu      sync.RWMutex
	touches []touch
}

// historyLag is how many touches gather before they are written.
const historyLag = 256

// historyRows is how many of them are written by one statement.
const historyRows = 32

var historyInsert = `INSERT OR IGNORE INTO history(row, seq, part) VALUES (?,?,?)` + strings.Repeat(",(?,?,?)", historyRows-1)

// touched notes which rows a part of a change set touched. Many are not kept
// until the end of the batch.
func (b *Batch) touched(ctx context.Context, seq int64, part int, changes []sheet.Change) error {
	b.touches = appendTouches(b.touches, seq, part, changes)
	b.lastSeq = seq
	if len(b.touches) < 16*historyLag {
		return nil
	}
	err := b.insertTouches(ctx, b.touches)
	b.touches, b.flush = b.touches[:0], true
	return err
}

func appendTouches(to []touch, seq int64, part int, changes []sheet.Change) []touch {
	var last sheet.RowID
	for i := range changes {
		if id := changes[i].Row; id != 0 && id != last {
			to = append(to, touch{id, seq, part})
			last = id
		}
	}
	return to
}

// writeHistory writes all that has gathered, if it is enough; done is called
// once the batch is durable.
func (b *Batch) writeHistory(ctx context.Context) (done func(), err error) {
	r := &b.s.recent
	if len(b.touches) == 0 && !b.flush {
		return func() {}, nil
	}
	all := append(r.touches, b.touches...) // only the one writer changes it
	done = func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		r.touches = all
	}
	if len(all) < historyLag && !b.flush {
		return done, nil
	}
	if err := b.insertTouches(ctx, all); err != nil {
		return nil, err
	}
	if err := b.SetCounter(ctx, "history", b.lastSeq+1); err != nil {
		return nil, err
	}
	all = nil
	return done, nil
}

func (b *Batch) insertTouches(ctx context.Context, touches []touch) error {
	sorted := slices.Clone(touches) // in the order of the table; readers may be looking at touches
	slices.SortFunc(sorted, func(a, b touch) int {
		return cmp.Or(cmp.Compare(a.row, b.row), cmp.Compare(a.seq, b.seq), cmp.Compare(a.part, b.part))
	})
	args := make([]any, 0, 3*historyRows)
	for some := range slices.Chunk(sorted, historyRows) {
		args = args[:0]
		for range historyRows - len(some) { // a short last chunk repeats its first: the table ignores what it holds
			args = append(args, int64(some[0].row), some[0].seq, some[0].part)
		}
		for _, t := range some {
			args = append(args, int64(t.row), t.seq, t.part)
		}
		if err := b.exec(ctx, "history", args...); err != nil {
			return err
		}
	}
	return nil
}

// gather reads from the journal the touches that history does not hold yet.
func (s *Store) gather(ctx context.Context) error {
	from, err := s.Counter(ctx, "history")
	if err != nil {
		return err
	}
	rows, err := s.read.QueryContext(ctx, "SELECT seq, 0, body FROM journal WHERE seq>=? AND body<>'' UNION ALL SELECT seq, part, body FROM change WHERE seq>=? ORDER BY 1, 2", from, from)
	if err != nil {
		return fmt.Errorf("reading the journal: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var seq int64
		var part int
		var body []byte
		if err := rows.Scan(&seq, &part, &body); err != nil {
			return fmt.Errorf("reading the journal: %w", err)
		}
		changes, err := readChanges(body)
		if err != nil {
			return fmt.Errorf("reading change set %d: %w", seq, err)
		}
		s.recent.touches = appendTouches(s.recent.touches, seq, part, changes)
	}
	return rows.Err()
}

// touchesOf gives what touched a row, newest first, each once.
func (s *Store) touchesOf(ctx context.Context, row sheet.RowID, limit int) ([]touch, error) {
	var out []touch
	s.recent.mu.RLock() // before the table is read, so that nothing falls between the two
	for _, t := range s.recent.touches {
		if t.row == row {
			out = append(out, t)
		}
	}
	s.recent.mu.RUnlock()
	rows, err := s.read.QueryContext(ctx, "SELECT seq, part FROM history WHERE row=? ORDER BY seq DESC, part LIMIT ?", int64(row), limit)
	if err != nil {
		return nil, fmt.Errorf("reading the history of row %s: %w", row, err)
	}
	defer rows.Close()
	for rows.Next() {
		t := touch{row: row}
		if err := rows.Scan(&t.seq, &t.part); err != nil {
			return nil, fmt.Errorf("reading the history of row %s: %w", row, err)
		}
		out = append(out, t)
	}
	slices.SortFunc(out, func(a, b touch) int { return cmp.Or(cmp.Compare(b.seq, a.seq), cmp.Compare(a.part, b.part)) })
	out = slices.Compact(out)
	return out[:min(limit, len(out))], rows.Err()
}

// AsAdded gives rows as they were when they were added, in no order; those of which the
// journal tells nothing are left out.
func (s *Store) AsAdded(ctx context.Context, rows []sheet.RowID, given func(sheet.RowID, *sheet.Image)) error {
	if len(rows) == 0 {
		return nil
	}
	first := make(map[sheet.RowID]touch, len(rows))
	for _, id := range rows {
		first[id] = touch{}
	}
	note := func(t touch) {
		if was, asked := first[t.row]; asked && (was.seq == 0 || t.seq < was.seq || t.seq == was.seq && t.part < was.part) {
			first[t.row] = t
		}
	}
	s.recent.mu.RLock() // before the table is read, so that nothing falls between the two
	for _, t := range s.recent.touches {
		note(t)
	}
	s.recent.mu.RUnlock()
	found, err := s.read.QueryContext(ctx, "SELECT row, seq, part FROM history WHERE row BETWEEN ? AND ?", int64(slices.Min(rows)), int64(slices.Max(rows)))
	if err != nil {
		return fmt.Errorf("reading how rows were added: %w", err)
	}
	defer found.Close()
	for found.Next() {
		var t touch
		if err := found.Scan(&t.row, &t.seq, &t.part); err != nil {
			return fmt.Errorf("reading how rows were added: %w", err)
		}
		note(t)
	}
	if err := found.Err(); err != nil {
		return fmt.Errorf("reading how rows were added: %w", err)
	}
	parts := map[touch]bool{}
	for id, t := range first {
		if t.seq == 0 {
			delete(first, id)
			continue
		}
		parts[touch{seq: t.seq, part: t.part}] = true
	}
	for t := range parts {
		changes, err := s.changes(ctx, t.seq, t.part)
		if err != nil {
			return err
		}
		for i := range changes {
			c := &changes[i]
			if was, asked := first[c.Row]; asked && was.seq == t.seq && c.Kind == sheet.Add {
				given(c.Row, c.Image)
			}
		}
	}
	return nil
}
