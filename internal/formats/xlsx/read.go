// Package xlsx reads and writes workbooks (ECMA-376, Office Open XML
// spreadsheets). Reading is our own, over the archive and its XML, because it
// must know each cell's kind, number format, dropdown, note and link, in one
// pass and within bounded memory; writing is the workbook library's.
//
// read.go opens a workbook, sheet.go and cell.go read a sheet over scan.go's
// tags and texts, style.go what number formats and dropdowns mean. write.go and
// write_sheet.go make a workbook, place.go puts a block of cells into one that
// is there, update.go brings a table in one into step, and definitions.go lets
// a workbook of Kavlo's say what its columns are.
package xlsx

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// Limits on what is read: more is refused, not read slowly.
const (
	MaxFile     = 256 << 20  // bytes of the archive
	MaxUnpacked = 1 << 30    // bytes of all its parts together
	MaxRatio    = 200        // unpacked to packed, for parts of more than 1 MB
	MaxCells    = 12_000_000 // cells of all sheets, blank ones between others too
)

// Error says where in a workbook something is wrong.
type Error struct {
	Sheet string
	Cell  string
	Err   error
}

func (e *Error) Error() string {
	s := ""
	if e.Sheet != "" {
		s = "sheet " + e.Sheet + ": "
	}
	if e.Cell != "" {
		s += "cell " + e.Cell + ": "
	}
	return s + e.Err.Error()
}

func (e *Error) Unwrap() error { return e.Err }

// Errors that say what a file is instead of a workbook.
var (
	ErrLocked      = errors.New("the workbook is protected by a password: save it without one")
	ErrOldForm     = errors.New("this is a workbook of the old binary form (.xls): save it as .xlsx")
	ErrNotWorkbook = errors.New("this is not a workbook (.xlsx), or it is cut short: save it anew from the program that made it")
	ErrTooLarge    = errors.New("the workbook is larger than can be read safely")
)

// The day before the first of a workbook's days, counted from 1970-01-01.
const (
	epoch1900 = -25569
	epoch1904 = -24107
)

type book struct {
	files     map[string]*zip.File
	strings   []value.Value
	styles    []style
	theme     []uint32          // colours, as styles count them
	washes    map[string]string // colour words of the styles that cells take by what is in them
	names     map[string]string // defined names
	dropdowns []dropdown
	epoch     int64 // days since 1970-01-01 of day 0
	budget    int64 // unpacked bytes that may still be read
	cells     int
	pending   []pending // formulas without a stored result
	anew      bool      // all is to be computed when the workbook is opened: a stored 0 says nothing
	ended     func() error
	only      func(sheet string) bool // nil: all
}

// Read reads every sheet of a workbook.
func Read(r io.ReaderAt, size int64) ([]*reading.Grid, error) {
	return ReadContext(context.Background(), r, size)
}

// ReadContext does what Read does and ends early, with the context's error, once
// the context is done.
func ReadContext(ctx context.Context, r io.ReaderAt, size int64) ([]*reading.Grid, error) {
	return readSome(ctx, r, size, nil)
}

// ReadSheets reads some sheets of a workbook alone.
func ReadSheets(r io.ReaderAt, size int64, only func(sheet string) bool) ([]*reading.Grid, error) {
	return readSome(context.Background(), r, size, only)
}

func readSome(ctx context.Context, r io.ReaderAt, size int64, only func(string) bool) ([]*reading.Grid, error) {
	grids, err := read(ctx, &endingReader{ctx, r}, size, only)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	return grids, err
}

// endingReader reads until its context is done.
type endingReader struct {
	ctx context.Context
	r   io.ReaderAt
}

func (e *endingReader) ReadAt(p []byte, at int64) (int, error) {
	if err := e.ctx.Err(); err != nil {
		return 0, err
	}
	return e.r.ReadAt(p, at)
}

func read(ctx context.Context, r io.ReaderAt, size int64, only func(string) bool) ([]*reading.Grid, error) {
	if size > MaxFile {
		return nil, ErrTooLarge
	}
	head := make([]byte, 8)
	if n, _ := r.ReadAt(head, 0); n == 8 && bytes.Equal(head, []byte{0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1}) {
		return nil, ofContainer(r, size)
	}
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, ErrNotWorkbook
	}
	b := &book{names: map[string]string{}, files: map[string]*zip.File{}, budget: MaxUnpacked, epoch: epoch1900, ended: ctx.Err, only: only}
	for _, f := range z.File {
		if f.UncompressedSize64 > 1<<20 && f.CompressedSize64 > 0 && f.UncompressedSize64/f.CompressedSize64 > MaxRatio {
			return nil, ErrTooLarge
		}
		b.files[partName(f.Name)] = f
	}
	return b.read()
}

func (b *book) read() ([]*reading.Grid, error) {
	sheets, err := b.workbook()
	if err != nil {
		return nil, err
	}
	if err := b.sharedStrings(); err != nil {
		return nil, err
	}
	if err := b.readTheme(); err != nil {
		return nil, err
	}
	if err := b.readStyles(); err != nil {
		return nil, err
	}
	var out []*reading.Grid
	for _, s := range sheets {
		if b.only != nil && !b.only(s.name) {
			continue
		}
		g, err := b.sheet(s)
		if err != nil {
			var e *Error
			if !errors.As(err, &e) {
				err = &Error{Sheet: s.name, Err: err}
			}
			return nil, err
		}
		out = append(out, g)
	}
	b.offerChoices(out)
	b.compute(out)
	return out, nil
}

// partName gives the name of a part as it is compared: some programs write names with
// back-slashes, or refer to them in other letter case (ECMA-376, part 2, 6.2.2.3).
func partName(name string) string {
	return strings.ToLower(strings.TrimPrefix(path.Clean("/"+strings.ReplaceAll(name, `\`, "/")), "/"))
}

// part opens a part of the archive within the budget of bytes; nil if absent.
func (b *book) part(name string) (io.ReadCloser, error) {
	f := b.files[partName(name)]
	if f == nil {
		return nil, nil
	}
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("opening %s: %w", name, err)
	}
	return &budgeted{r, b}, nil
}

// ofContainer says what an OLE container is instead of a workbook: an encrypted
// one, which has a stream of that name, or one of the old binary form.
func ofContainer(r io.ReaderAt, size int64) error {
	head := make([]byte, min(size, 8<<20)) // its directory may stand anywhere, and mostly stands early
	n, err := r.ReadAt(head, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return ErrNotWorkbook
	}
	var name []byte
	for _, c := range "EncryptedPackage" {
		name = append(name, byte(c), 0)
	}
	if bytes.Contains(head[:n], name) {
		return ErrLocked
	}
	return ErrOldForm
}

type budgeted struct {
	io.ReadCloser
	b *book
}

func (r *budgeted) Read(p []byte) (int, error) {
	if r.b.budget <= 0 {
		return 0, ErrTooLarge
	}
	n, err := r.ReadCloser.Read(p)
	r.b.budget -= int64(n)
	return n, err
}

// decode reads a whole part into v.
func (b *book) decode(name string, v any) error {
	r, err := b.part(name)
	if err != nil || r == nil {
		return err
	}
	defer r.Close()
	if err := xml.NewDecoder(r).Decode(v); err != nil {
		return fmt.Errorf("reading %s: %w", name, err)
	}
	return nil
}

// Relation is what a part of a workbook refers to.
type Relation struct {
	ID     string `xml:"Id,attr"`
	Type   string `xml:"Type,attr"`
	Target string `xml:"Target,attr"` // as a name in the archive, unless it is outside
	Mode   string `xml:"TargetMode,attr"`
}

// Relations are those of a part, as its own part of them says.
type Relations struct {
	List []Relation `xml:"Relationship"`
}

// From gives them by id as seen from a part in a folder of the archive.
func (all *Relations) From(dir string) map[string]Relation {
	out := map[string]Relation{}
	for _, r := range all.List {
		if r.Mode != "External" {
			r.Target = strings.ReplaceAll(r.Target, `\`, "/")
			if strings.HasPrefix(r.Target, "/") {
				r.Target = strings.TrimPrefix(r.Target, "/")
			} else {
				r.Target = path.Join(dir, r.Target)
			}
		}
		out[r.ID] = r
	}
	return out
}

// relations gives what a part refers to.
func (b *book) relations(of string) (map[string]Relation, error) {
	dir, file := path.Split(of)
	var doc Relations
	if err := b.decode(dir+"_rels/"+file+".rels", &doc); err != nil {
		return nil, err
	}
	return doc.From(dir), nil
}

type sheetRef struct {
	name, part string
	hidden     bool
}

func (b *book) workbook() ([]sheetRef, error) {
	root, err := b.relations("")
	if err != nil {
		return nil, ErrNotWorkbook
	}
	main := ""
	for _, r := range root {
		if strings.HasSuffix(r.Type, "/officeDocument") {
			main = r.Target
		}
	}
	if main == "" || b.files[partName(main)] == nil {
		return nil, ErrNotWorkbook
	}
	var doc struct {
		Pr struct {
			Date1904 string `xml:"date1904,attr"`
		} `xml:"workbookPr"`
		Calc struct {
			OnLoad string `xml:"fullCalcOnLoad,attr"`
		} `xml:"calcPr"`
		Sheets []struct {
			Name  string     `xml:"name,attr"`
			State string     `xml:"state,attr"`
			Attrs []xml.Attr `xml:",any,attr"`
		} `xml:"sheets>sheet"`
		Names []struct {
			Name  string `xml:"name,attr"`
			Means string `xml:",chardata"`
		} `xml:"definedNames>definedName"`
	}
	if err := b.decode(main, &doc); err != nil {
		return nil, err
	}
	if doc.Pr.Date1904 == "1" || doc.Pr.Date1904 == "true" {
		b.epoch = epoch1904
	}
	b.anew = doc.Calc.OnLoad == "1" || doc.Calc.OnLoad == "true"
	for _, n := range doc.Names {
		b.names[value.Fold(n.Name)] = n.Means
	}
	rels, err := b.relations(main)
	if err != nil {
		return nil, err
	}
	var out []sheetRef
	for _, s := range doc.Sheets {
		for _, a := range s.Attrs {
			if a.Name.Local == "id" && strings.HasSuffix(rels[a.Value].Type, "/worksheet") {
				out = append(out, sheetRef{s.Name, rels[a.Value].Target, s.State != "" && s.State != "visible"})
			}
		}
	}
	for _, r := range rels {
		switch {
		case strings.HasSuffix(r.Type, "/sharedStrings"):
			b.files["#strings"] = b.files[partName(r.Target)]
		case strings.HasSuffix(r.Type, "/styles"):
			b.files["#styles"] = b.files[partName(r.Target)]
		case strings.HasSuffix(r.Type, "/theme"):
			b.files["#theme"] = b.files[partName(r.Target)]
		}
	}
	return out, nil
}

// richText is a text with or without runs of formatting.
type richText struct {
	T string `xml:"t"`
	R []struct {
		T string `xml:"t"`
	} `xml:"r"`
}

func (t richText) text() string {
	s := t.T
	for _, r := range t.R {
		s += r.T
	}
	return s
}

func (b *book) sharedStrings() error {
	r, err := b.part("#strings")
	if err != nil || r == nil {
		return err
	}
	defer r.Close()
	s := newScanner(r)
	for {
		tok, err := s.next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err == nil && tok == tagOpen && string(s.name) == "si" {
			var text string
			if text, err = s.content("rPh"); err == nil { // how a text is spoken is not part of it
				b.strings = append(b.strings, value.OfText(text))
			}
		}
		if err != nil {
			return fmt.Errorf("reading the shared texts: %w", err)
		}
	}
}
