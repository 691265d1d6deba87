package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
)

// Person is somebody who may use the workspace or be told things by it.
type Person struct {
	ID      int64
	Name    string
	Address string
	Access  string // keeper, editor, reader
}

// People gives everybody, by name.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT id, name, address, access FROM person ORDER BY name, id")
	if err != nil {
		return nil, fmt.Errorf("reading people: %w", err)
	}
	defer rows.Close()
	var out []Person
	for rows.Next() {
		var p Person
		if err := rows.Scan(&p.ID, &p.Name, &p.Address, &p.Access); err != nil {
			return nil, fmt.Errorf("reading people: %w", err)
		}
		out = append(out, p)
	}
	return out, rows.Err()
}

// PutPerson adds a person or, by address, changes one.
func (s *Store) PutPerson(ctx context.Context, p Person) (Person, error) {
	err := s.write.QueryRowContext(ctx, `INSERT INTO person(name, address, access) VALUES (?,?,?)
	 ON CONFLICT(address) DO UPDATE SET name=excluded.name, access=excluded.access RETURNING id`, p.Name, p.Address, p.Access).Scan(&p.ID)
	if err != nil {
		return p, fmt.Errorf("writing person %s: %w", p.Address, err)
	}
	return p, nil
}

// PutToken keeps the hash of a secret that stands for a person.
func (s *Store) PutToken(ctx context.Context, hash string, person int64, kind, name string, made, expires time.Time) error {
	_, err := s.write.ExecContext(ctx, "INSERT INTO token(hash, person, kind, name, made, expires) VALUES (?,?,?,?,?,?)", hash, person, kind, name, stamp(made), stamp(expires))
	if err != nil {
		return fmt.Errorf("writing a token: %w", err)
	}
	return nil
}

// Bearer gives the person for whom a secret of the kinds stands; ErrNotFound
// when there is none or it has expired.
func (s *Store) Bearer(ctx context.Context, hash string, now time.Time, kinds ...string) (Person, error) {
	var p Person
	var kind, expires string
	err := s.read.QueryRowContext(ctx, "SELECT p.id, p.name, p.address, p.access, t.kind, t.expires FROM token t JOIN person p ON p.id=t.person WHERE t.hash=?", hash).
		Scan(&p.ID, &p.Name, &p.Address, &p.Access, &kind, &expires)
	if errors.Is(err, sql.ErrNoRows) {
		return p, ErrNotFound
	}
	if err != nil {
		return p, fmt.Errorf("reading a token: %w", err)
	}
	if expires != "" && !unstamp(expires).After(now) {
		return p, ErrNotFound
	}
	for _, k := range kinds {
		if k == kind {
			return p, nil
		}
	}
	return p, ErrNotFound
}

// DropToken forgets a secret and reports whether it was there: a one-time link
// serves the first who drops it.
func (s *Store) DropToken(ctx context.Context, hash string) (bool, error) {
	r, err := s.write.ExecContext(ctx, "DELETE FROM token WHERE hash=?", hash)
	if err != nil {
		return false, fmt.Errorf("forgetting a token: %w", err)
	}
	n, err := r.RowsAffected()
	return n == 1, err
}

// PutCaller keeps the secret that signs calls of a rule; it replaces an earlier one.
func (s *Store) PutCaller(ctx context.Context, tracker sheet.TrackerID, part sheet.PartID, secret string, made time.Time) error {
	_, err := s.write.ExecContext(ctx, "INSERT INTO caller(tracker, part, secret, made) VALUES (?,?,?,?) ON CONFLICT DO UPDATE SET secret=excluded.secret, made=excluded.made", int64(tracker), int64(part), secret, stamp(made))
	if err != nil {
		return fmt.Errorf("writing the secret of a caller: %w", err)
	}
	return nil
}

// Caller gives the secret that signs calls of a rule; ErrNotFound if none was made.
func (s *Store) Caller(ctx context.Context, tracker sheet.TrackerID, part sheet.PartID) (string, error) {
	var secret string
	err := s.read.QueryRowContext(ctx, "SELECT secret FROM caller WHERE tracker=? AND part=?", int64(tracker), int64(part)).Scan(&secret)
	if errors.Is(err, sql.ErrNoRows) {
		return "", ErrNotFound
	}
	return secret, err
}

// DropTokensOf makes every token of a kind that a person has invalid, and gives
// how many there were.
func (s *Store) DropTokensOf(ctx context.Context, person int64, kind string) (int64, error) {
	b, err := s.Begin(ctx)
	if err != nil {
		return 0, err
	}
	defer b.Rollback()
	r, err := b.tx.ExecContext(ctx, "DELETE FROM token WHERE person=? AND kind=?", person, kind)
	if err != nil {
		return 0, fmt.Errorf("dropping tokens: %w", err)
	}
	n, err := r.RowsAffected()
	if err != nil {
		return 0, err
	}
	return n, b.Commit()
}
