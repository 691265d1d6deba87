package store

import (
	"context"
	"database/sql"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/oklog/ulid/v2"

	"example.org/kavlo/internal/sheet"
)

// Run is one execution of a rule, sync, round or import, or an edit from which
// rules followed.
type Run struct {
	ID      string
	At      time.Time
	Tracker sheet.TrackerID
	Kind    string // edit, rule, sync, round, import, undo
	Name    string
	Who     string
	Outcome string // done, nothing to do, watched, failed
	Seq     int64  // its change set, or 0
	Body    json.RawMessage
}

// record is what a run's change set keeps of it; the rest stands beside it.
type record struct {
	Tracker sheet.TrackerID `json:"tracker"`
	Kind    string          `json:"kind"`
	Name    string          `json:"name"`
	Outcome string          `json:"outcome"`
	Body    json.RawMessage `json:"body"`
}

// NewRunID gives the id of a run: a ULID whose first part is the run's time, as
// always, and whose rest is the number of the change set that the run makes (or,
// if it makes none, would have made) and a count. So ids sort by age, and a run
// is found by its id alone.
func (s *Store) NewRunID(at time.Time, seq int64) string {
	var id ulid.ULID
	_ = id.SetTime(ulid.Timestamp(at))                        // only a year beyond 10,000 is refused
	number := binary.BigEndian.AppendUint64(nil, uint64(seq)) //nolint:gosec // never negative
	copy(id[6:12], number[2:])
	binary.BigEndian.PutUint32(id[12:], s.runCount.Add(1))
	return id.String()
}

func seqOf(runID string) int64 {
	id, err := ulid.ParseStrict(runID)
	if err != nil {
		return 0
	}
	return int64(binary.BigEndian.Uint64(append([]byte{0, 0}, id[6:12]...))) //nolint:gosec // 48 bits
}

// PutRun writes a run that changed nothing. One that did goes with its change
// set: see Journal.
func (b *Batch) PutRun(ctx context.Context, r *Run) error {
	b.s.ailing.note(r)
	return b.exec(ctx, "run", r.ID, stamp(r.At), int64(r.Tracker), r.Kind, r.Name, r.Who, r.Outcome, r.Seq, string(r.Body))
}

// ailing are the things that have gone wrong when they last ran: when they go well again,
// that is written down beside the change set, so that they are known to be mended.
type ailing struct {
	mu  sync.Mutex
	now map[runKey]bool
}

type runKey struct {
	tracker sheet.TrackerID
	kind    string
	name    string
	file    string // that woke a rule: each is a thing of its own
}

func runKeyOf(r *Run) runKey {
	key := runKey{tracker: r.Tracker, kind: r.Kind, name: r.Name}
	var body struct{ Cause sheet.Cause }
	if json.Unmarshal(r.Body, &body) == nil && body.Cause.Kind == sheet.ByFile {
		key.file = body.Cause.Name
	}
	return key
}

func wentWrong(outcome string) bool {
	return outcome == "failed" || outcome == "stopped" || outcome == "partly done"
}

func (a *ailing) note(r *Run) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if wentWrong(r.Outcome) {
		if a.now == nil {
			a.now = map[runKey]bool{}
		}
		a.now[runKeyOf(r)] = true
	}
}

func (a *ailing) has(r *Run) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	return len(a.now) > 0 && a.now[runKeyOf(r)]
}

// loadAiling finds what had gone wrong before the store was opened.
func (s *Store) loadAiling(ctx context.Context) error {
	runs, err := s.FailedSince(ctx, time.Time{}, 10_000)
	for _, r := range runs {
		s.ailing.note(r)
	}
	return err
}

const (
	runColumns    = "id, at, tracker, kind, name, who, outcome, seq, body"
	recordColumns = "run, at, who, seq, record"
)

func scanRun(scan func(...any) error) (*Run, error) {
	r := &Run{}
	var at, body string
	if err := scan(&r.ID, &at, &r.Tracker, &r.Kind, &r.Name, &r.Who, &r.Outcome, &r.Seq, &body); err != nil {
		return nil, err
	}
	r.At, r.Body = unstamp(at), json.RawMessage(body)
	return r, nil
}

func scanRecord(scan func(...any) error) (*Run, error) {
	r := &Run{}
	var at string
	var text []byte
	if err := scan(&r.ID, &at, &r.Who, &r.Seq, &text); err != nil {
		return nil, err
	}
	var rec record
	if err := json.Unmarshal(text, &rec); err != nil {
		return nil, err
	}
	r.At, r.Tracker, r.Kind, r.Name, r.Outcome, r.Body = unstamp(at), rec.Tracker, rec.Kind, rec.Name, rec.Outcome, rec.Body
	return r, nil
}

// Run gives a run; ErrNotFound if there is none.
func (s *Store) Run(ctx context.Context, id string) (*Run, error) {
	r, err := scanRecord(s.read.QueryRowContext(ctx, "SELECT "+recordColumns+" FROM journal WHERE seq=? AND run=? AND record<>''", seqOf(id), id).Scan)
	if errors.Is(err, sql.ErrNoRows) {
		r, err = scanRun(s.read.QueryRowContext(ctx, "SELECT "+runColumns+" FROM run WHERE id=?", id).Scan)
	}
	if errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("run %s: %w", id, ErrNotFound)
	}
	if err != nil {
		return nil, fmt.Errorf("reading run %s: %w", id, err)
	}
	return r, nil
}

// Runs gives runs of a tracker (0: of all), newest first, from before an id on.
func (s *Store) Runs(ctx context.Context, tracker sheet.TrackerID, before string, limit int) ([]*Run, error) {
	idle, err := s.runs(ctx, scanRun, "SELECT "+runColumns+" FROM run WHERE (tracker=? OR ?=0) AND (id<? OR ?='') ORDER BY id DESC LIMIT ?",
		int64(tracker), int64(tracker), before, before, limit)
	if err != nil {
		return nil, err
	}
	made, err := s.runs(ctx, scanRecord, "SELECT "+recordColumns+" FROM journal WHERE record<>'' AND (tracker=? OR ?=0) AND (run<? OR ?='') ORDER BY seq DESC LIMIT ?",
		int64(tracker), int64(tracker), before, before, limit)
	if err != nil {
		return nil, err
	}
	all := append(idle, made...)
	slices.SortFunc(all, func(a, b *Run) int { return strings.Compare(b.ID, a.ID) })
	all = slices.CompactFunc(all, func(a, b *Run) bool { return a.ID == b.ID })
	return all[:min(limit, len(all))], nil
}

// FailedSince gives, of each thing that runs, its last run where that failed, was stopped
// or partly done, after a time, newest first: what has gone well since is mended.
func (s *Store) FailedSince(ctx context.Context, after time.Time, limit int) ([]*Run, error) {
	return s.runs(ctx, scanRun, "SELECT "+runColumns+" FROM run AS this WHERE outcome IN ('failed', 'stopped', 'partly done') AND id>=? AND NOT EXISTS (SELECT 1 FROM run AS later WHERE later.id>this.id AND later.tracker=this.tracker AND later.kind=this.kind AND later.name=this.name AND "+fileOf("later")+"="+fileOf("this")+") ORDER BY id DESC LIMIT ?", firstRunID(after), limit)
}

// fileOf gives, in SQL, the file that woke a rule's run, or ”.
func fileOf(run string) string {
	return "IIF(json_extract(" + run + ".body, '$.cause.kind')='" + string(sheet.ByFile) + "', json_extract(" + run + ".body, '$.cause.name'), '')"
}

func (s *Store) runs(ctx context.Context, scan func(func(...any) error) (*Run, error), query string, args ...any) ([]*Run, error) {
	rows, err := s.read.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, fmt.Errorf("reading runs: %w", err)
	}
	defer rows.Close()
	var out []*Run
	for rows.Next() {
		r, err := scan(rows.Scan)
		if err != nil {
			return nil, fmt.Errorf("reading runs: %w", err)
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// firstRunID gives the smallest id that a run of a time or later can have.
func firstRunID(at time.Time) string {
	var id ulid.ULID
	_ = id.SetTime(ulid.Timestamp(at)) // only a year beyond 10,000 is refused
	return id.String()
}

// PruneRuns forgets runs from before a time.
func (s *Store) PruneRuns(ctx context.Context, before time.Time) error {
	from, err := s.Counter(ctx, "kept runs")
	if err != nil {
		return err
	}
	var idle bool
	var until int64
	err = s.read.QueryRowContext(ctx, `SELECT EXISTS (SELECT 1 FROM run WHERE id<?),
		coalesce((SELECT seq FROM journal WHERE seq>=? AND at>=? ORDER BY seq LIMIT 1), (SELECT max(seq)+1 FROM journal), 0)`, firstRunID(before), from, stamp(before)).Scan(&idle, &until)
	if err != nil || !idle && until <= from {
		return err
	}
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	if _, err := b.tx.ExecContext(ctx, "DELETE FROM run WHERE id<?", firstRunID(before)); err != nil {
		return fmt.Errorf("forgetting old runs: %w", err)
	}
	if until > from {
		if _, err := b.tx.ExecContext(ctx, "UPDATE journal SET record='' WHERE seq>=? AND seq<?", from, until); err != nil {
			return fmt.Errorf("forgetting old runs: %w", err)
		}
		if err := b.SetCounter(ctx, "kept runs", until); err != nil {
			return err
		}
	}
	return b.Commit()
}

// DefinitionKey names a definition of a tracker.
type DefinitionKey struct {
	Tracker sheet.TrackerID
	ID      sheet.DefinitionID
}

// ClockedAll gives the last occurrence for which each clocked part ran.
func (s *Store) ClockedAll(ctx context.Context) (map[DefinitionKey]time.Time, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT tracker, part, last FROM clocked")
	if err != nil {
		return nil, fmt.Errorf("reading the clock: %w", err)
	}
	defer rows.Close()
	out := map[DefinitionKey]time.Time{}
	for rows.Next() {
		var p DefinitionKey
		var last string
		if err := rows.Scan(&p.Tracker, &p.ID, &last); err != nil {
			return nil, fmt.Errorf("reading the clock: %w", err)
		}
		out[p] = unstamp(last)
	}
	return out, rows.Err()
}

// SetClocked keeps the occurrence for which a clocked part ran.
func (b *Batch) SetClocked(ctx context.Context, tracker sheet.TrackerID, part sheet.DefinitionID, at time.Time) error {
	_, err := b.tx.ExecContext(ctx, "INSERT INTO clocked(tracker, part, last) VALUES (?,?,?) ON CONFLICT DO UPDATE SET last=excluded.last", int64(tracker), int64(part), stamp(at))
	if err != nil {
		return fmt.Errorf("writing the clock of part %s: %w", part, err)
	}
	return nil
}

// Answer keeps the answer given under an idempotency key.
func (b *Batch) Answer(ctx context.Context, key, hash string, at time.Time, seq int64, answer string) error {
	return b.exec(ctx, "answered", key, hash, stamp(at), seq, answer)
}
