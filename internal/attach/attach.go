// Package attach keeps the files that cells hold: who may add one, how large they may be,
// and who gets to read them.
package attach

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"net/http"
	"path"
	"strings"
	"time"
	"unicode"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

const (
	// MaxSize is how many bytes a file may have.
	MaxSize = 20 << 20
	// maxWaiting is how many bytes may wait for cells of one column, all together.
	maxWaiting = 200 << 20
	// waits is how long a file waits for a cell that holds it.
	waits = 24 * time.Hour
	// Address is where files are had, before their ids.
	Address = "/api/v1/attachments/"
)

var (
	// ErrTooLarge says that a file is larger than one may be.
	ErrTooLarge = fmt.Errorf("a file may have at most %d MB", MaxSize>>20)
	// ErrTooMany says that more files wait for cells than may.
	ErrTooMany = errors.New("many files have been uploaded and not sent: try again tomorrow, or ask for another way to send it")
	// ErrEmpty says that nothing is in a file.
	ErrEmpty = errors.New("there is nothing in the file: choose another")
	// ErrNoFiles says that a column is of another type.
	ErrNoFiles = errors.New("the column holds no files: only one of the type file does")
	// ErrGone says that there is no such file, or not for whoever asks.
	ErrGone = errors.New("there is no such file")
)

// Files are the files that cells of a workspace hold.
type Files struct {
	*engine.Engine
	store *store.Store
}

// New gives the files of an engine's workspace.
func New(e *engine.Engine) *Files { return &Files{e, e.Store()} }

// Of says what a file belongs to.
type Of struct {
	Tracker sheet.TrackerID
	Column  *sheet.Column
	By      string
}

// Add keeps a file and gives the value of a cell that holds it.
func (f *Files) Add(ctx context.Context, of Of, name string, r io.Reader, size int64) (value.Value, error) {
	if of.Column.Type.Kind != value.File {
		return value.Value{}, ErrNoFiles
	}
	if size > MaxSize {
		return value.Value{}, ErrTooLarge
	}
	if size == 0 {
		return value.Value{}, ErrEmpty
	}
	_, waiting, err := f.store.AttachmentsWaiting(ctx, of.Tracker, of.Column.ID)
	if err != nil {
		return value.Value{}, err
	}
	if waiting+size > maxWaiting {
		return value.Value{}, ErrTooMany
	}
	body, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return value.Value{}, fmt.Errorf("taking a file in: %w", err)
	}
	a := &store.Attachment{ID: rand.Text(), Tracker: of.Tracker, Column: of.Column.ID, Name: cleanName(name), Type: typeOf(body), Size: int64(len(body)), Made: f.Now(), By: of.By, Waits: true}
	if err := f.store.PutAttachment(ctx, a, body); err != nil {
		return value.Value{}, fmt.Errorf("keeping %s: %w", a.Name, err)
	}
	return value.OfFile(Address+a.ID, a.Name), nil
}

// cleanName gives the last part of a file's name, without marks that would mean something
// in a cell or a header.
func cleanName(name string) string {
	name = path.Base(strings.ReplaceAll(name, `\`, "/"))
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || strings.ContainsRune(`<>"`, r) {
			return -1
		}
		return r
	}, name)
	if name = strings.TrimSpace(name); name == "" || name == "." || name == "/" {
		return "file"
	}
	if r := []rune(name); len(r) > 120 {
		ext := []rune(path.Ext(name))
		if len(ext) > 10 {
			ext = nil
		}
		name = string(r[:120-len(ext)]) + string(ext)
	}
	return name
}

// typeOf gives a file's type as what is in it tells (WHATWG MIME sniffing), where a browser
// may show that without running it; else it is bytes.
func typeOf(body []byte) string {
	switch kind := http.DetectContentType(body); kind {
	case "image/png", "image/jpeg", "image/gif", "image/webp", "application/pdf":
		return kind
	}
	return "application/octet-stream"
}

// ID gives the id of a file that a value holds; "": it holds none that is kept here.
func ID(v string) string {
	address, _ := value.OfFile(v, "").Address()
	id, is := strings.CutPrefix(address, Address)
	if !is || strings.ContainsAny(id, "/?#") {
		return ""
	}
	return id
}

// Waiting gives the value of a file that waits for an entry with a column.
func (f *Files) Waiting(ctx context.Context, tracker sheet.TrackerID, column sheet.ColumnID, id string) (value.Value, error) {
	a, err := f.store.Attachment(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && (!a.Waits || a.Tracker != tracker || a.Column != column) {
		return value.Value{}, ErrGone
	}
	if err != nil {
		return value.Value{}, err
	}
	return value.OfFile(Address+a.ID, a.Name), nil
}

// Open gives a file, as whoever sees the workspace so may have it: the column that it was
// added to is there for them, or a cell that holds it.
func (f *Files) Open(ctx context.Context, seen *sheet.Workspace, id string) (*store.Attachment, []byte, error) {
	a, err := f.store.Attachment(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, ErrGone
	}
	if err != nil {
		return nil, nil, err
	}
	if a.Waits || !sees(seen, a) {
		return nil, nil, ErrGone
	}
	body, err := f.store.AttachmentBody(ctx, id)
	return a, body, err
}

func sees(seen *sheet.Workspace, a *store.Attachment) bool {
	if t := seen.Tracker(a.Tracker); t != nil && t.ColumnByID(a.Column) != nil {
		return true
	}
	for _, t := range seen.Trackers() { // its row may have gone to another tracker
		for i := range t.Tabs {
			for slot := range t.Tabs[i].Columns {
				if t.Tabs[i].Columns[slot].Type.Kind != value.File {
					continue
				}
				for row := range t.Rows(t.Tabs[i].ID) {
					if ID(row.At(slot).String()) == a.ID {
						return true
					}
				}
			}
		}
	}
	return false
}

// Follow keeps for good what cells come to hold in a turn.
func (f *Files) Follow(t *engine.Turn) {
	keep := func(v value.Value) {
		if v.Kind() != value.File {
			return
		}
		if id := ID(v.String()); id != "" {
			t.Store(func(ctx context.Context, b *store.Batch, _ *engine.Result) error { return b.TakeAttachment(ctx, id) })
		}
	}
	for _, ch := range t.Draft.Changes() {
		switch ch.Kind {
		case sheet.Set:
			keep(ch.After)
		case sheet.Add:
			for _, v := range ch.Image.Cells() {
				keep(v)
			}
		}
	}
}

// Sweep removes files that no cell has come to hold.
func (f *Files) Sweep(ctx context.Context, now time.Time, _ bool) error {
	return f.store.DropAttachmentsWaiting(ctx, now.Add(-waits))
}
