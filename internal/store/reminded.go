package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
)

// Reminded is what is known of a row that a reminder holds.
type Reminded struct {
	Row   sheet.RowID
	Since time.Time       // when a round first held it
	Told  map[string]Told // by address; "": everybody, as earlier versions kept it
}

// Told is what is known of a row and one person.
type Told struct {
	At    time.Time // when a round last told them; zero: never
	Until int64     // day until which they put it off, since 1970-01-01; 0: they did not
	Mark  string    // how the row stood then: once it stands otherwise, it is not put off any more
}

// Reminded gives what is known of the rows of a reminder.
func (s *Store) Reminded(ctx context.Context, tracker sheet.TrackerID, reminder sheet.DefinitionID) (map[sheet.RowID]Reminded, error) {
	return readReminded(ctx, s.read, tracker, reminder)
}

// Reminded gives what is known of the rows of a reminder, as the batch has left it.
func (b *Batch) Reminded(ctx context.Context, tracker sheet.TrackerID, reminder sheet.DefinitionID) (map[sheet.RowID]Reminded, error) {
	return readReminded(ctx, b.tx, tracker, reminder)
}

// querier is a database or a transaction.
type querier interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
}

func readReminded(ctx context.Context, from querier, tracker sheet.TrackerID, reminder sheet.DefinitionID) (map[sheet.RowID]Reminded, error) {
	out := map[sheet.RowID]Reminded{}
	rows, err := from.QueryContext(ctx, "SELECT row, since FROM reminded WHERE tracker=? AND reminder=?", int64(tracker), int64(reminder))
	if err != nil {
		return nil, fmt.Errorf("reading what reminders know: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var r Reminded
		var since string
		if err := rows.Scan(&r.Row, &since); err != nil {
			return nil, fmt.Errorf("reading what reminders know: %w", err)
		}
		r.Since = unstamp(since)
		out[r.Row] = r
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	return out, readTold(ctx, from, tracker, reminder, out)
}

func readTold(ctx context.Context, from querier, tracker sheet.TrackerID, reminder sheet.DefinitionID, into map[sheet.RowID]Reminded) error {
	rows, err := from.QueryContext(ctx, "SELECT row, person, told, until, mark FROM told WHERE tracker=? AND reminder=?", int64(tracker), int64(reminder))
	if err != nil {
		return fmt.Errorf("reading who was told: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var row sheet.RowID
		var person, at string
		var told Told
		if err := rows.Scan(&row, &person, &at, &told.Until, &told.Mark); err != nil {
			return fmt.Errorf("reading who was told: %w", err)
		}
		told.At = unstamp(at)
		r := into[row]
		if r.Row = row; r.Told == nil {
			r.Told = map[string]Told{}
		}
		r.Told[person] = told
		into[row] = r
	}
	return rows.Err()
}

// PutReminded keeps since when a row is held.
func (b *Batch) PutReminded(ctx context.Context, tracker sheet.TrackerID, reminder sheet.DefinitionID, row sheet.RowID, since time.Time) error {
	return b.exec(ctx, "reminded put", int64(tracker), int64(reminder), int64(row), stamp(since))
}

// PutTold keeps what is known of a row and one person.
func (b *Batch) PutTold(ctx context.Context, tracker sheet.TrackerID, reminder sheet.DefinitionID, row sheet.RowID, person string, t Told) error {
	return b.exec(ctx, "told put", int64(tracker), int64(reminder), int64(row), person, stamp(t.At), t.Until, t.Mark)
}

// DropReminded forgets a row that a reminder holds no more.
func (b *Batch) DropReminded(ctx context.Context, tracker sheet.TrackerID, reminder sheet.DefinitionID, row sheet.RowID) error {
	if err := b.exec(ctx, "told drop", int64(tracker), int64(reminder), int64(row)); err != nil {
		return err
	}
	return b.exec(ctx, "reminded drop", int64(tracker), int64(reminder), int64(row))
}

// Paused gives the addresses that get no rounds, and since when.
func (s *Store) Paused(ctx context.Context) (map[string]time.Time, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT address, at FROM paused")
	if err != nil {
		return nil, fmt.Errorf("reading who gets no mail: %w", err)
	}
	defer rows.Close()
	out := map[string]time.Time{}
	for rows.Next() {
		var address, at string
		if err := rows.Scan(&address, &at); err != nil {
			return nil, fmt.Errorf("reading who gets no mail: %w", err)
		}
		out[address] = unstamp(at)
	}
	return out, rows.Err()
}

// SetPaused lets somebody get no rounds, or get them again.
func (b *Batch) SetPaused(ctx context.Context, address string, paused bool, now time.Time) error {
	var err error
	if paused {
		_, err = b.tx.ExecContext(ctx, "INSERT OR IGNORE INTO paused(address, at) VALUES (?,?)", address, stamp(now))
	} else {
		_, err = b.tx.ExecContext(ctx, "DELETE FROM paused WHERE address=?", address)
	}
	if err != nil {
		return fmt.Errorf("writing who gets no mail: %w", err)
	}
	return nil
}

// OwnKey gives a random text that the workspace keeps under a name, made when
// it is first asked for, and anew where the one there is cannot be opened.
func (s *Store) OwnKey(ctx context.Context, name string) (string, error) {
	for range 3 {
		var kept string
		err := s.read.QueryRowContext(ctx, "SELECT value FROM own WHERE name=?", name).Scan(&kept)
		if err == nil {
			if text, err := s.key.open(placeOfOwn(name), kept); err == nil {
				return text, nil
			}
			err = s.RenewKey(ctx, name)
		} else if errors.Is(err, sql.ErrNoRows) {
			_, err = s.write1(ctx, "INSERT OR IGNORE INTO own(name, value) VALUES (?,?)", name, s.key.seal(placeOfOwn(name), rand.Text()))
		}
		if err != nil {
			return "", fmt.Errorf("reading the workspace's %s: %w", name, err)
		}
	}
	return "", fmt.Errorf("the workspace's %s cannot be kept", name)
}

// RenewKey puts a new random text in the place of one that the workspace keeps.
func (s *Store) RenewKey(ctx context.Context, name string) error {
	_, err := s.write1(ctx, putOwn, name, s.key.seal(placeOfOwn(name), rand.Text()))
	return err
}

// Own gives a text that the workspace keeps for itself, sealed, under a name; ErrNotFound
// where there is none.
func (s *Store) Own(ctx context.Context, name string) (string, error) {
	var kept string
	err := s.read.QueryRowContext(ctx, "SELECT value FROM own WHERE name=?", name).Scan(&kept)
	if errors.Is(err, sql.ErrNoRows) {
		return "", ErrNotFound
	}
	if err == nil {
		kept, err = s.key.open(placeOfOwn(name), kept)
	}
	if err != nil {
		return "", fmt.Errorf("reading the workspace's %s: %w", name, err)
	}
	return kept, nil
}

// PutOwn keeps a text under a name, and with "" none.
func (s *Store) PutOwn(ctx context.Context, name, text string) error {
	var err error
	if text == "" {
		_, err = s.write1(ctx, "DELETE FROM own WHERE name=?", name)
	} else {
		_, err = s.write1(ctx, putOwn, name, s.key.seal(placeOfOwn(name), text))
	}
	return err
}

const putOwn = "INSERT INTO own(name, value) VALUES (?,?) ON CONFLICT(name) DO UPDATE SET value=excluded.value"
