package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
)

// Attachment is a file that a cell holds.
type Attachment struct {
	ID      string
	Tracker sheet.TrackerID
	Column  sheet.ColumnID
	Name    string
	Type    string // its media type (RFC 6838)
	Size    int64
	Made    time.Time
	By      string
	Waits   bool // for a cell that holds it
}

// PutAttachment keeps a file.
func (s *Store) PutAttachment(ctx context.Context, a *Attachment, body []byte) error {
	_, err := s.write1(ctx, "INSERT INTO attachment(id, tracker, col, name, type, size, made, by, waits, body) VALUES (?,?,?,?,?,?,?,?,?,?)",
		a.ID, int64(a.Tracker), int64(a.Column), a.Name, a.Type, a.Size, stamp(a.Made), a.By, a.Waits, body)
	return err
}

// Attachment gives what a file is, without what is in it; ErrNotFound where there is none.
func (s *Store) Attachment(ctx context.Context, id string) (*Attachment, error) {
	a := Attachment{ID: id}
	var made string
	err := s.read.QueryRowContext(ctx, "SELECT tracker, col, name, type, size, made, by, waits FROM attachment WHERE id=?", id).Scan(&a.Tracker, &a.Column, &a.Name, &a.Type, &a.Size, &made, &a.By, &a.Waits)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, fmt.Errorf("reading an attached file: %w", err)
	}
	a.Made = unstamp(made)
	return &a, nil
}

// AttachmentBody gives what is in a file.
func (s *Store) AttachmentBody(ctx context.Context, id string) (body []byte, err error) {
	if err = s.read.QueryRowContext(ctx, "SELECT body FROM attachment WHERE id=?", id).Scan(&body); err != nil {
		return nil, fmt.Errorf("reading an attached file: %w", err)
	}
	return body, nil
}

// AttachmentsWaiting gives how many files wait for cells of a column, and how large
// they are together.
func (s *Store) AttachmentsWaiting(ctx context.Context, tracker sheet.TrackerID, column sheet.ColumnID) (n int, bytes int64, err error) {
	err = s.read.QueryRowContext(ctx, "SELECT count(*), coalesce(sum(size), 0) FROM attachment WHERE waits=1 AND tracker=? AND col=?", int64(tracker), int64(column)).Scan(&n, &bytes)
	if err != nil {
		err = fmt.Errorf("counting attached files: %w", err)
	}
	return n, bytes, err
}

// TakeAttachment keeps a file for good that a cell has come to hold.
func (b *Batch) TakeAttachment(ctx context.Context, id string) error {
	if _, err := b.tx.ExecContext(ctx, "UPDATE attachment SET waits=0 WHERE id=? AND waits=1", id); err != nil {
		return fmt.Errorf("keeping an attached file: %w", err)
	}
	return nil
}

// DropAttachmentsWaiting removes files made before a time that no cell has come to hold.
func (s *Store) DropAttachmentsWaiting(ctx context.Context, before time.Time) error {
	_, err := s.write1(ctx, "DELETE FROM attachment WHERE waits=1 AND made<?", stamp(before))
	return err
}
