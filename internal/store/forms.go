package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"
)

// kindForm is the kind of secret that is a private link to a form.
const kindForm = "form"

// FormLink gives the form that a private link leads to, by the name that it was made
// with, and who made it; ErrNotFound where it is closed, has expired, or leads nowhere.
func (s *Store) FormLink(ctx context.Context, hash string, now time.Time) (name string, by Person, err error) {
	if by, err = s.Bearer(ctx, hash, now, kindForm); err != nil {
		return "", by, err
	}
	err = s.read.QueryRowContext(ctx, "SELECT name FROM token WHERE hash=?", hash).Scan(&name)
	if errors.Is(err, sql.ErrNoRows) {
		return "", by, ErrNotFound
	}
	if err != nil {
		return "", by, fmt.Errorf("reading a form's link: %w", err)
	}
	return name, by, nil
}

// FormLinks gives the open private links of a form.
func (s *Store) FormLinks(ctx context.Context, name string, now time.Time) ([]Token, error) {
	return s.openTokens(ctx, now, "kind=? AND name=?", kindForm, name)
}

// CloseFormLinks closes the private links of a form, and gives how many there were.
func (s *Store) CloseFormLinks(ctx context.Context, name string) (int64, error) {
	return s.dropTokens(ctx, "kind=? AND name=?", kindForm, name)
}
