package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
)

// changesPerPart is how many changes stand together in one record of the journal.
const changesPerPart = 400

// Journal writes a change set and, if one made it, the run. Seq must be the next
// number, and the run's id made with it. A run that was not done whole stands
// among those that changed nothing as well.
func (b *Batch) Journal(ctx context.Context, set *sheet.ChangeSet, run *Run) error {
	causes, err := json.Marshal(set.Causes)
	if err != nil {
		return fmt.Errorf("writing causes: %w", err)
	}
	counts, err := json.Marshal(set.Counts())
	if err != nil {
		return fmt.Errorf("writing counts: %w", err)
	}
	var tracker sheet.TrackerID
	if len(set.Changes) > 0 {
		tracker = set.Changes[0].Tracker
	}
	kept := ""
	if run != nil {
		if run.Tracker == 0 { // it made the tracker
			whole := *run
			whole.Tracker = tracker
			run = &whole
		}
		tracker = run.Tracker
		text, err := json.Marshal(record{run.Tracker, run.Kind, run.Name, run.Outcome, run.Body})
		if err != nil {
			return fmt.Errorf("writing the run: %w", err)
		}
		kept = string(text)
	}
	first, err := b.body(set.Changes[:min(changesPerPart, len(set.Changes))])
	if err != nil {
		return err
	}
	link := newLink(b.chain, set, int64(tracker), string(causes), string(counts), kept)
	link.part(first)
	if run != nil && (run.Outcome != "done" || b.s.ailing.has(run)) { // for whoever asks what went wrong lately
		if err := b.PutRun(ctx, run); err != nil {
			return err
		}
	}
	for from, part := 0, 0; from < len(set.Changes); from, part = from+changesPerPart, part+1 {
		changes := set.Changes[from:min(from+changesPerPart, len(set.Changes))]
		if part > 0 {
			text, err := b.body(changes)
			if err != nil {
				return err
			}
			link.part(text)
			if err := b.exec(ctx, "change", set.Seq, part, text); err != nil {
				return err
			}
		}
		if err := b.touched(ctx, set.Seq, part, changes); err != nil {
			return err
		}
	}
	for _, also := range set.Trackers() {
		if also == tracker {
			continue
		}
		if err := b.exec(ctx, "also", int64(also), set.Seq); err != nil {
			return err
		}
	}
	b.chain, b.chained = link.sum(), set.Seq
	return b.exec(ctx, "journal", set.Seq, stamp(set.At), set.Who, set.Run, set.Undoes, int64(tracker), string(causes), string(counts), first, kept, b.chain)
}

// body writes changes as JSON.
func (b *Batch) body(changes []sheet.Change) (string, error) {
	out := append(b.buf[:0], '[')
	var err error
	for i := range changes {
		if i > 0 {
			out = append(out, ',')
		}
		if out, err = appendChange(out, &changes[i]); err != nil {
			return "", fmt.Errorf("writing a change: %w", err)
		}
	}
	b.buf = append(out, ']')
	return string(b.buf), nil
}

const journalColumns = "seq, at, who, run, undoes, causes"

func scanSet(scan func(...any) error) (*sheet.ChangeSet, error) {
	set := &sheet.ChangeSet{}
	var at, causes string
	if err := scan(&set.Seq, &at, &set.Who, &set.Run, &set.Undoes, &causes); err != nil {
		return nil, err
	}
	set.At = unstamp(at)
	return set, json.Unmarshal([]byte(causes), &set.Causes)
}

// ChangeSet gives a change set with all its changes; ErrNotFound if there is none.
func (s *Store) ChangeSet(ctx context.Context, seq int64) (*sheet.ChangeSet, error) {
	set, err := scanSet(s.read.QueryRowContext(ctx, "SELECT "+journalColumns+" FROM journal WHERE seq=?", seq).Scan)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("change set %d: %w", seq, ErrNotFound)
	}
	if err != nil {
		return nil, fmt.Errorf("reading change set %d: %w", seq, err)
	}
	set.Changes, err = s.changes(ctx, seq, -1)
	return set, err
}

func (s *Store) changes(ctx context.Context, seq int64, part int) ([]sheet.Change, error) {
	rows, err := s.read.QueryContext(ctx, `SELECT body FROM (SELECT 0 AS part, body FROM journal WHERE seq=? AND body<>'' UNION ALL SELECT part, body FROM change WHERE seq=?) WHERE part=? OR ?<0 ORDER BY part`, seq, seq, part, part)
	if err != nil {
		return nil, fmt.Errorf("reading change set %d: %w", seq, err)
	}
	defer rows.Close()
	var out []sheet.Change
	for rows.Next() {
		var body []byte
		if err := rows.Scan(&body); err != nil {
			return nil, fmt.Errorf("reading change set %d: %w", seq, err)
		}
		changes, err := readChanges(body)
		if err != nil {
			return nil, fmt.Errorf("reading change set %d: %w", seq, err)
		}
		out = append(out, changes...)
	}
	return out, rows.Err()
}

// RowHistory gives the change sets that touched a row, newest first, each with
// the changes to that row alone.
func (s *Store) RowHistory(ctx context.Context, row sheet.RowID, limit int) ([]*sheet.ChangeSet, error) {
	places, err := s.touchesOf(ctx, row, limit)
	if err != nil {
		return nil, err
	}
	var out []*sheet.ChangeSet
	for _, p := range places {
		if len(out) == 0 || out[len(out)-1].Seq != p.seq {
			set, err := scanSet(s.read.QueryRowContext(ctx, "SELECT "+journalColumns+" FROM journal WHERE seq=?", p.seq).Scan)
			if err != nil {
				return nil, fmt.Errorf("reading change set %d: %w", p.seq, err)
			}
			out = append(out, set)
		}
		changes, err := s.changes(ctx, p.seq, p.part)
		if err != nil {
			return nil, err
		}
		set := out[len(out)-1]
		for i := range changes {
			if changes[i].Row == row {
				set.Changes = append(set.Changes, changes[i])
			}
		}
	}
	return out, nil
}

// Entry is a change set as the journal lists it, without its changes.
type Entry struct {
	*sheet.ChangeSet
	Tracker sheet.TrackerID // the one that it is of; it may touch others too
	Counts  map[string]int  // changes by kind
}

// Which says which change sets are asked for; what is zero asks for all.
type Which struct {
	Tracker sheet.TrackerID // that they touch
	Who     string          // who made them
	Tab     sheet.TabID     // whose rows they touch
	Row     sheet.RowID     // that they touch
	Before  int64           // only those with a smaller number
	Limit   int
}

// mostTouches is how many change sets of one row are looked at.
const mostTouches = 100_000

// Journaled gives change sets, newest first. Those of a tab are found by reading what others
// change, too: ask for few.
func (s *Store) Journaled(ctx context.Context, of Which) ([]Entry, error) {
	query := "SELECT " + journalColumns + ", tracker, counts FROM journal WHERE (tracker=? OR ?=0 OR seq IN (SELECT seq FROM also WHERE tracker=?)) AND (seq<? OR ?=0) AND (who=? OR ?='')"
	args := []any{int64(of.Tracker), int64(of.Tracker), int64(of.Tracker), of.Before, of.Before, of.Who, of.Who}
	if of.Tab != 0 {
		from, to := fmt.Sprintf(`"tab":%d,`, of.Tab), fmt.Sprintf(`"to_tab":%d,`, of.Tab)
		query += " AND (instr(body, ?) OR instr(body, ?) OR EXISTS (SELECT 1 FROM change WHERE change.seq=journal.seq AND (instr(change.body, ?) OR instr(change.body, ?))))"
		args = append(args, from, to, from, to)
	}
	if of.Row != 0 {
		touches, err := s.touchesOf(ctx, of.Row, mostTouches)
		if err != nil {
			return nil, err
		}
		numbers := make([]int64, len(touches))
		for i := range touches {
			numbers[i] = touches[i].seq
		}
		list, err := json.Marshal(numbers)
		if err != nil {
			return nil, fmt.Errorf("reading the journal: %w", err)
		}
		query += " AND seq IN (SELECT value FROM json_each(?))"
		args = append(args, string(list))
	}
	rows, err := s.read.QueryContext(ctx, query+" ORDER BY seq DESC LIMIT ?", append(args, of.Limit)...)
	if err != nil {
		return nil, fmt.Errorf("reading the journal: %w", err)
	}
	defer rows.Close()
	var out []Entry
	for rows.Next() {
		e := Entry{Counts: map[string]int{}}
		var counts string
		e.ChangeSet, err = scanSet(func(to ...any) error { return rows.Scan(append(to, &e.Tracker, &counts)...) })
		if err != nil {
			return nil, fmt.Errorf("reading the journal: %w", err)
		}
		if err := json.Unmarshal([]byte(counts), &e.Counts); err != nil {
			return nil, fmt.Errorf("reading the journal: %w", err)
		}
		out = append(out, e)
	}
	return out, rows.Err()
}

// JournaledAccess gives change sets about access, secrets and allowed addresses, newest
// first, from before a number on (0: the newest), without their changes.
func (s *Store) JournaledAccess(ctx context.Context, before int64, limit int) ([]*sheet.ChangeSet, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT "+journalColumns+" FROM journal WHERE tracker=0 AND (seq<? OR ?=0) ORDER BY seq DESC LIMIT ?", before, before, limit)
	if err != nil {
		return nil, fmt.Errorf("reading the journal: %w", err)
	}
	defer rows.Close()
	var out []*sheet.ChangeSet
	for rows.Next() {
		set, err := scanSet(rows.Scan)
		if err != nil {
			return nil, fmt.Errorf("reading the journal: %w", err)
		}
		out = append(out, set)
	}
	return out, rows.Err()
}

// LastSeq gives the number of the newest change set; 0 before the first.
func (s *Store) LastSeq(ctx context.Context) (int64, error) {
	var n int64
	if err := s.read.QueryRowContext(ctx, "SELECT coalesce(max(seq), 0) FROM journal").Scan(&n); err != nil {
		return 0, fmt.Errorf("reading the journal: %w", err)
	}
	return n, nil
}

// Since gives the numbers of the change sets after seq, oldest first, up to limit.
func (s *Store) Since(ctx context.Context, seq int64, limit int) ([]int64, error) {
	return s.numbers(ctx, "SELECT seq FROM journal WHERE seq>? ORDER BY seq LIMIT ?", seq, limit)
}

// NewerThan gives the numbers of the change sets made after a time and numbered
// up to last, newest first.
func (s *Store) NewerThan(ctx context.Context, after time.Time, last int64) ([]int64, error) {
	return s.numbers(ctx, "SELECT seq FROM journal WHERE at>? AND seq<=? ORDER BY seq DESC", stamp(after), last)
}

func (s *Store) numbers(ctx context.Context, query string, args ...any) ([]int64, error) {
	rows, err := s.read.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, fmt.Errorf("reading the journal: %w", err)
	}
	defer rows.Close()
	var out []int64
	for rows.Next() {
		var n int64
		if err := rows.Scan(&n); err != nil {
			return nil, fmt.Errorf("reading the journal: %w", err)
		}
		out = append(out, n)
	}
	return out, rows.Err()
}

// UndoneBy gives the change set that takes seq back, or 0.
func (s *Store) UndoneBy(ctx context.Context, seq int64) (int64, error) {
	var by int64
	err := s.read.QueryRowContext(ctx, "SELECT seq FROM journal WHERE undoes=? AND undoes>0 ORDER BY seq DESC LIMIT 1", seq).Scan(&by)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, nil
	}
	return by, err
}

// Answered gives the answer kept under an idempotency key, and the hash of the
// request that it answered.
func (s *Store) Answered(ctx context.Context, key string) (answer, hash string, found bool, err error) {
	err = s.read.QueryRowContext(ctx, "SELECT answer, hash FROM answered WHERE key=?", key).Scan(&answer, &hash)
	if errors.Is(err, sql.ErrNoRows) {
		return "", "", false, nil
	}
	return answer, hash, err == nil, err
}

// ForgetAnswers forgets the answers given before a time.
func (s *Store) ForgetAnswers(ctx context.Context, before time.Time) error {
	_, err := s.write1(ctx, "DELETE FROM answered WHERE at<?", stamp(before))
	return err
}

// TimeOf gives when a change set was made; zero for one that is not there.
func (s *Store) TimeOf(ctx context.Context, seq int64) (time.Time, error) {
	var at string
	err := s.read.QueryRowContext(ctx, "SELECT at FROM journal WHERE seq=?", seq).Scan(&at)
	if errors.Is(err, sql.ErrNoRows) {
		return time.Time{}, nil
	}
	return unstamp(at), err
}
