package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Baseline is what a list and a tab both were, of one record, after the last sync.
type Baseline struct {
	Key  string // folded
	Name string // the key as written
	Row  sheet.RowID
	ID   string // the list's own
	Gone string // the side that has lost it while the other keeps it: list, tab or ""
	// Cells are the values by column.
	Cells map[sheet.ColumnID]value.Value
}

// Baselines gives what a sync has agreed on, by key.
func (s *Store) Baselines(ctx context.Context, tracker sheet.TrackerID, sync sheet.DefinitionID) ([]Baseline, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT key, name, row, id, gone, cells FROM agreed WHERE tracker=? AND sync=? ORDER BY key", int64(tracker), int64(sync))
	if err != nil {
		return nil, fmt.Errorf("reading what a sync has agreed on: %w", err)
	}
	defer rows.Close()
	var out []Baseline
	for rows.Next() {
		var a Baseline
		var cells []byte
		if err := rows.Scan(&a.Key, &a.Name, &a.Row, &a.ID, &a.Gone, &cells); err != nil {
			return nil, fmt.Errorf("reading what a sync has agreed on: %w", err)
		}
		if a.Cells, err = readCells(cells); err != nil {
			return nil, fmt.Errorf("reading what a sync has agreed on %s: %w", a.Name, err)
		}
		out = append(out, a)
	}
	return out, rows.Err()
}

// PutBaseline keeps what a sync has agreed on.
func (b *Batch) PutBaseline(ctx context.Context, tracker sheet.TrackerID, sync sheet.DefinitionID, a *Baseline) error {
	return b.exec(ctx, "agreed put", int64(tracker), int64(sync), a.Key, a.Name, int64(a.Row), a.ID, a.Gone, string(appendCells(nil, sheet.NewImage(a.Cells, sheet.Besides{}))))
}

// DropBaseline forgets what a sync had agreed on under a folded key.
func (b *Batch) DropBaseline(ctx context.Context, tracker sheet.TrackerID, sync sheet.DefinitionID, key string) error {
	return b.exec(ctx, "agreed drop", int64(tracker), int64(sync), key)
}

// PendingConflict is a conflict that waits for a person.
type PendingConflict struct {
	Tracker sheet.TrackerID
	Sync    sheet.DefinitionID
	Key     string // folded
	Since   time.Time
	Body    json.RawMessage
}

// PendingConflicts gives the conflicts that wait, of one tracker or with 0 of all, the
// oldest first.
func (s *Store) PendingConflicts(ctx context.Context, tracker sheet.TrackerID) ([]PendingConflict, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT tracker, sync, key, since, body FROM held WHERE tracker=? OR ?=0 ORDER BY since, key", int64(tracker), int64(tracker))
	if err != nil {
		return nil, fmt.Errorf("reading the conflicts held: %w", err)
	}
	defer rows.Close()
	var out []PendingConflict
	for rows.Next() {
		var h PendingConflict
		var since, body string
		if err := rows.Scan(&h.Tracker, &h.Sync, &h.Key, &since, &body); err != nil {
			return nil, fmt.Errorf("reading the conflicts held: %w", err)
		}
		h.Since, h.Body = unstamp(since), json.RawMessage(body)
		out = append(out, h)
	}
	return out, rows.Err()
}

// PutConflict keeps a conflict until a person decides it; one that is there keeps
// the time since which it waits.
func (b *Batch) PutConflict(ctx context.Context, h *PendingConflict) error {
	return b.exec(ctx, "held put", int64(h.Tracker), int64(h.Sync), h.Key, stamp(h.Since), string(h.Body))
}

// DropConflict takes a conflict off the queue.
func (b *Batch) DropConflict(ctx context.Context, tracker sheet.TrackerID, sync sheet.DefinitionID, key string) error {
	return b.exec(ctx, "held drop", int64(tracker), int64(sync), key)
}

// Secret gives what a name stands for; ErrNotFound if it is not kept.
func (s *Store) Secret(ctx context.Context, name string) (string, error) {
	var v string
	err := s.read.QueryRowContext(ctx, "SELECT value FROM secret WHERE name=?", name).Scan(&v)
	if errors.Is(err, sql.ErrNoRows) {
		return "", fmt.Errorf("secret %s: %w", name, ErrNotFound)
	}
	if err != nil {
		return "", fmt.Errorf("reading secret %s: %w", name, err)
	}
	if v, err = s.key.open(placeOfSecret(name), v); err != nil {
		return "", fmt.Errorf("secret %s: %w: keep it anew with kavlo access secret %s", name, err, name)
	}
	return v, nil
}

// SecretNames gives the names of the secrets kept.
func (s *Store) SecretNames(ctx context.Context) ([]string, error) {
	return s.names(ctx, "SELECT name FROM secret ORDER BY name")
}

// AllowedHosts gives the addresses that lists may reach.
func (s *Store) AllowedHosts(ctx context.Context) ([]string, error) {
	return s.names(ctx, "SELECT address FROM reach ORDER BY address")
}

func (s *Store) names(ctx context.Context, query string) ([]string, error) {
	rows, err := s.read.QueryContext(ctx, query)
	if err != nil {
		return nil, fmt.Errorf("reading settings of lists: %w", err)
	}
	defer rows.Close()
	out := []string{}
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, fmt.Errorf("reading settings of lists: %w", err)
		}
		out = append(out, name)
	}
	return out, rows.Err()
}

// PutSecret keeps a secret; an empty value forgets it. It reports whether
// anything was changed.
func (s *Store) PutSecret(ctx context.Context, name, secret string, now time.Time) (bool, error) {
	if secret == "" {
		return s.write1(ctx, "DELETE FROM secret WHERE name=?", name)
	}
	return s.write1(ctx, "INSERT INTO secret(name, value, made) VALUES (?,?,?) ON CONFLICT(name) DO UPDATE SET value=excluded.value, made=excluded.made", name, s.key.seal(placeOfSecret(name), secret), stamp(now))
}

// SetAllowedHost lets lists reach an address, or not any more. It reports whether
// anything was changed.
func (s *Store) SetAllowedHost(ctx context.Context, address string, allowed bool) (bool, error) {
	if allowed {
		return s.write1(ctx, "INSERT OR IGNORE INTO reach(address) VALUES (?)", address)
	}
	return s.write1(ctx, "DELETE FROM reach WHERE address=?", address)
}

// write1 makes one write of its own.
func (s *Store) write1(ctx context.Context, query string, args ...any) (bool, error) {
	b, err := s.Begin(ctx)
	if err != nil {
		return false, err
	}
	defer b.Rollback()
	r, err := b.tx.ExecContext(ctx, query, args...)
	if err != nil {
		return false, fmt.Errorf("writing settings of lists: %w", err)
	}
	n, err := r.RowsAffected()
	if err != nil {
		return false, err
	}
	return n > 0, b.Commit()
}
