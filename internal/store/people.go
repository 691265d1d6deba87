package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
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

// People gives everybody who has not been removed, by name.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	return s.people(ctx, "removed=''")
}

// Former gives the people who were removed.
func (s *Store) Former(ctx context.Context) ([]Person, error) { return s.people(ctx, "removed<>''") }

func (s *Store) people(ctx context.Context, where string) ([]Person, error) {
	rows, err := s.read.QueryContext(ctx, "SELECT id, name, address, access FROM person WHERE "+where+" ORDER BY name, id")
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

// ErrLastKeeper says that a change would leave the workspace without a keeper.
var ErrLastKeeper = errors.New("somebody must be an admin: make another person an admin first")

// PutPerson adds a person or, by address, changes one; somebody who was removed
// is back. ErrLastKeeper if no keeper would be left.
func (s *Store) PutPerson(ctx context.Context, p Person) (Person, error) {
	err := s.keeping(ctx, func(tx *sql.Tx) error {
		return tx.QueryRowContext(ctx, `INSERT INTO person(name, address, access) VALUES (?,?,?)
		 ON CONFLICT(address) DO UPDATE SET name=excluded.name, access=excluded.access, removed='' RETURNING id`, p.Name, p.Address, p.Access).Scan(&p.ID)
	})
	if err != nil {
		return p, fmt.Errorf("writing person %s: %w", p.Address, err)
	}
	return p, nil
}

// RemovePerson removes a person and every secret that stands for them. Their
// name stays where it stands in the journal. ErrLastKeeper if no keeper would be
// left.
func (s *Store) RemovePerson(ctx context.Context, id int64, now time.Time) error {
	err := s.keeping(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, "DELETE FROM token WHERE person=?", id); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, "UPDATE person SET removed=? WHERE id=? AND removed=''", stamp(now), id)
		return err
	})
	if err != nil {
		return fmt.Errorf("removing a person: %w", err)
	}
	return nil
}

// keeping changes people in one transaction, which stands unless it takes the last keeper.
func (s *Store) keeping(ctx context.Context, change func(*sql.Tx) error) error {
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	keepers := func() (n int, err error) {
		err = b.tx.QueryRowContext(ctx, "SELECT count(*) FROM person WHERE removed='' AND access='keeper'").Scan(&n)
		return n, err
	}
	before, err := keepers()
	if err != nil {
		return err
	}
	if err := change(b.tx); err != nil {
		return err
	}
	after, err := keepers()
	if err != nil {
		return err
	}
	if before > 0 && after == 0 {
		return ErrLastKeeper
	}
	return b.Commit()
}

// Token is a secret that stands for a person, without the secret itself.
type Token struct {
	ID      string // by which it is revoked: the beginning of its hash
	Person  int64
	Kind    string // token, session, link or feed
	Name    string
	Made    time.Time
	Used    time.Time // last, to some minutes; zero: never
	Expires time.Time // zero: never
}

// tokenID is how much of a hash names a token.
const tokenID = 12

// PutToken keeps the hash of a secret that stands for a person.
func (s *Store) PutToken(ctx context.Context, hash string, person int64, kind, name string, made, expires time.Time) error {
	_, err := s.write1(ctx, "INSERT INTO token(hash, person, kind, name, made, expires) VALUES (?,?,?,?,?,?)", hash, person, kind, name, stamp(made), stamp(expires))
	if err != nil {
		return fmt.Errorf("writing a token: %w", err)
	}
	return nil
}

// TokensOf gives the secrets that stand for a person and have not expired, the
// newest first.
func (s *Store) TokensOf(ctx context.Context, person int64, now time.Time) ([]Token, error) {
	return s.openTokens(ctx, now, "person=?", person)
}

// openTokens gives the tokens that have not expired, the newest first.
func (s *Store) openTokens(ctx context.Context, now time.Time, which string, args ...any) ([]Token, error) {
	query := "SELECT substr(hash, 1, ?), person, kind, name, made, used, expires FROM token WHERE (expires='' OR expires>?) AND " + which + " ORDER BY made DESC, hash"
	rows, err := s.read.QueryContext(ctx, query, append([]any{tokenID, stamp(now)}, args...)...)
	if err != nil {
		return nil, fmt.Errorf("reading tokens: %w", err)
	}
	defer rows.Close()
	var out []Token
	for rows.Next() {
		var t Token
		var made, used, expires string
		if err := rows.Scan(&t.ID, &t.Person, &t.Kind, &t.Name, &made, &used, &expires); err != nil {
			return nil, fmt.Errorf("reading tokens: %w", err)
		}
		t.Made, t.Used, t.Expires = unstamp(made), unstamp(used), unstamp(expires)
		out = append(out, t)
	}
	return out, rows.Err()
}

// Bearer gives the person for whom a secret of the kinds stands; ErrNotFound
// when there is none, it has expired, or the person was removed.
func (s *Store) Bearer(ctx context.Context, hash string, now time.Time, kinds ...string) (Person, error) {
	var p Person
	var kind, expires string
	err := s.read.QueryRowContext(ctx, "SELECT p.id, p.name, p.address, p.access, t.kind, t.expires FROM token t JOIN person p ON p.id=t.person WHERE t.hash=? AND p.removed=''", hash).
		Scan(&p.ID, &p.Name, &p.Address, &p.Access, &kind, &expires)
	if errors.Is(err, sql.ErrNoRows) {
		return p, ErrNotFound
	}
	if err != nil {
		return p, fmt.Errorf("reading a token: %w", err)
	}
	if expires != "" && !unstamp(expires).After(now) || !slices.Contains(kinds, kind) {
		return Person{}, ErrNotFound
	}
	return p, nil
}

// Used keeps when secrets were last used, by their hashes.
func (s *Store) Used(ctx context.Context, at map[string]time.Time) error {
	if len(at) == 0 {
		return nil
	}
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	for hash, t := range at {
		if _, err := b.tx.ExecContext(ctx, "UPDATE token SET used=? WHERE hash=?", stamp(t), hash); err != nil {
			return fmt.Errorf("keeping when tokens were used: %w", err)
		}
	}
	return b.Commit()
}

// DropToken forgets a secret and reports whether it was there: a one-time link
// serves the first who drops it.
func (s *Store) DropToken(ctx context.Context, hash string) (bool, error) {
	n, err := s.dropTokens(ctx, "hash=?", hash)
	return n == 1, err
}

// DropTokensOf makes tokens of a person invalid, of some kinds or with none of
// all, and gives how many there were.
func (s *Store) DropTokensOf(ctx context.Context, person int64, kinds ...string) (int64, error) {
	where, args := "person=?", []any{person}
	if len(kinds) > 0 {
		where += " AND kind IN (?" + strings.Repeat(",?", len(kinds)-1) + ")"
		for _, k := range kinds {
			args = append(args, k)
		}
	}
	return s.dropTokens(ctx, where, args...)
}

// DropTokenOf makes one token of a person invalid, by its id, and reports
// whether there was one.
func (s *Store) DropTokenOf(ctx context.Context, person int64, id string) (bool, error) {
	n, err := s.dropTokens(ctx, "person=? AND substr(hash, 1, ?)=?", person, tokenID, id)
	return n > 0, err
}

// DropTokens makes every token of a kind invalid, whosever it is.
func (s *Store) DropTokens(ctx context.Context, kind string) (int64, error) {
	return s.dropTokens(ctx, "kind=?", kind)
}

// ForgetExpired forgets the tokens that expired before a time.
func (s *Store) ForgetExpired(ctx context.Context, before time.Time) error {
	_, err := s.dropTokens(ctx, "expires<>'' AND expires<?", stamp(before))
	return err
}

func (s *Store) dropTokens(ctx context.Context, where string, args ...any) (int64, error) {
	b, err := s.Begin(ctx)
	if err != nil {
		return 0, err
	}
	defer b.Rollback()
	r, err := b.tx.ExecContext(ctx, "DELETE FROM token WHERE "+where, args...)
	if err != nil {
		return 0, fmt.Errorf("dropping tokens: %w", err)
	}
	n, err := r.RowsAffected()
	if err != nil {
		return 0, err
	}
	return n, b.Commit()
}

// PutCaller keeps the secret that signs calls of a rule; it replaces an earlier one.
func (s *Store) PutCaller(ctx context.Context, tracker sheet.TrackerID, part sheet.DefinitionID, secret string, made time.Time) error {
	_, err := s.write1(ctx, "INSERT INTO caller(tracker, part, secret, made) VALUES (?,?,?,?) ON CONFLICT DO UPDATE SET secret=excluded.secret, made=excluded.made", int64(tracker), int64(part), s.key.seal(placeOfCaller(int64(tracker), int64(part)), secret), stamp(made))
	if err != nil {
		return fmt.Errorf("writing the secret of a caller: %w", err)
	}
	return nil
}

// Caller gives the secret that signs calls of a rule; ErrNotFound if none was made.
func (s *Store) Caller(ctx context.Context, tracker sheet.TrackerID, part sheet.DefinitionID) (string, error) {
	var secret string
	err := s.read.QueryRowContext(ctx, "SELECT secret FROM caller WHERE tracker=? AND part=?", int64(tracker), int64(part)).Scan(&secret)
	if errors.Is(err, sql.ErrNoRows) {
		return "", ErrNotFound
	}
	if err != nil {
		return "", fmt.Errorf("reading the secret of a caller: %w", err)
	}
	if secret, err = s.key.open(placeOfCaller(int64(tracker), int64(part)), secret); err != nil {
		return "", fmt.Errorf("the secret of a caller: %w: make it anew with kavlo access caller", err)
	}
	return secret, nil
}
