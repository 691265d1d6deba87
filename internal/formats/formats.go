// Package formats opens files of the outside forms that Kavlo reads, by what
// they hold rather than by what they are called.
package formats

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"example.org/kavlo/internal/formats/csv"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/reading"
)

// File is an open file to be read.
type File interface {
	io.Reader
	io.ReaderAt
}

// Read reads a workbook or a comma-separated file and finds its tables.
func Read(name string, f File, size int64) (*reading.Reading, error) {
	return ReadContext(context.Background(), name, f, size)
}

// ReadContext does what Read does and ends early, with the context's error, once
// the context is done.
func ReadContext(ctx context.Context, name string, f File, size int64) (*reading.Reading, error) {
	head := make([]byte, 8)
	n, err := f.ReadAt(head, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("reading %s: %w", name, err)
	}
	head = head[:n]
	if n == 0 && strings.EqualFold(filepath.Ext(name), ".xlsx") {
		return nil, fmt.Errorf("%s: the file is empty: save it anew from the program that made it", name)
	}
	if bytes.HasPrefix(head, []byte("PK\x03\x04")) || bytes.HasPrefix(head, []byte("PK\x05\x06")) || bytes.HasPrefix(head, []byte{0xD0, 0xCF, 0x11, 0xE0}) {
		grids, err := xlsx.ReadContext(ctx, f, size)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		r, err := readGrids(ctx, name, grids)
		if err == nil {
			r.Digest = digest(f, size)
		}
		return r, err
	}
	if what := markup(f); what != "" {
		return nil, fmt.Errorf("%s: this is %s, not a workbook or comma-separated file: save it as .xlsx or .csv", name, what)
	}
	g, err := csv.ReadContext(ctx, f)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return reading.ReadContext(ctx, name, []*reading.Grid{g})
}

// digest gives a hash of a file; "" where it cannot be read again.
func digest(f io.ReaderAt, size int64) string {
	h := sha256.New()
	if _, err := io.Copy(h, io.NewSectionReader(f, 0, size)); err != nil {
		return ""
	}
	return string(h.Sum(nil))
}

// markup says what a file is that begins as a page or document of tags does:
// some programs save such under the name of a workbook.
func markup(f File) string {
	head := make([]byte, 512)
	n, err := f.ReadAt(head, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return ""
	}
	text := strings.ToLower(strings.TrimLeft(string(head[:n]), "\ufeff \r\n\t"))
	switch {
	case strings.HasPrefix(text, "<!doctype html"), strings.HasPrefix(text, "<html"), strings.HasPrefix(text, "<table"):
		return "a web page"
	case strings.HasPrefix(text, "<?xml"):
		return "an XML document"
	case strings.HasPrefix(text, "{\\rtf"), strings.HasPrefix(text, "%pdf-"):
		return "a document"
	}
	return ""
}

// ReadFile reads the file at a path.
func ReadFile(path string) (*reading.Reading, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	if info.IsDir() {
		return nil, fmt.Errorf("%s is a folder", path)
	}
	return Read(filepath.Base(path), f, info.Size())
}

// readGrids reads a workbook's sheets; where Kavlo wrote it, its columns are
// what the workbook says they are.
func readGrids(ctx context.Context, name string, grids []*reading.Grid) (*reading.Reading, error) {
	shown, defined := xlsx.Definitions(grids)
	r, err := reading.ReadContext(ctx, name, shown)
	if err != nil {
		return nil, err
	}
	for i := range r.Sheets {
		s := &r.Sheets[i]
		for j := range s.Tables {
			t := &s.Tables[j]
			if of := defined[xlsx.TableAt{Sheet: s.Name, Table: t.Name}]; of != nil {
				asDefined(s, t, of)
			}
		}
	}
	return r, nil
}

// asDefined reads a table's columns as the workbook says they are, by name where somebody
// has added, taken out or moved some.
func asDefined(s *reading.Sheet, t *reading.Table, of *xlsx.Defined) {
	whole := len(of.Columns) == len(t.Columns) || of.Identity != nil && len(of.Columns)+1 == len(t.Columns)
	for n, c := range of.Columns {
		if !whole {
			n = slices.IndexFunc(t.Columns, func(o reading.Column) bool { return o.Name == strings.Join(strings.Fields(c.Name), " ") })
		}
		if n < 0 {
			continue
		}
		t.Rename(n, c.Name)
		s.Retype(t, n, c.Type, "the workbook says so")
		t.Columns[n].Usual = xlsx.UsualLook(c.Type)
	}
	if of.Identity == nil {
		return
	}
	for n := range t.Columns {
		if c := &t.Columns[n]; c.Name == outbound.IdentityColumn {
			c.LeaveOut, c.Reason = true, "which rows of the tracker they are"
			t.DropLast(n) // nobody is to see it
			t.Identity = &reading.Identity{Column: n, Workspace: of.Identity.Workspace, Tracker: of.Identity.Tracker, Tab: of.Identity.Tab, Columns: of.Identity.Columns}
		}
	}
}
