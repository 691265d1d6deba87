// Package patch writes into workbooks that are there (ECMA-376, Office Open XML
// spreadsheets) and leaves everything else in them as it was: parts that need not change
// are copied byte for byte, and in those that do, only what must.
//
// book.go opens a workbook and writes it anew, pieces.go puts a part together without
// copying what stays, tags.go finds tags in its parts. place.go puts a block into a place,
// update.go brings a table into step; both are plans of rows to be written (plan.go), which
// sheet.go carries out. follow.go lets what refers to a block grow with it, results.go sees
// to the stored results of formulas, points.go to the points that charts keep, styles.go to
// how dates show, parts.go to sheets and names that are added. fill.go fills the holes of
// templates, pages.go those of a sheet that is there once for each page.
package patch

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/value"
)

// book is a workbook that is written into.
type book struct {
	whole   []byte // as it was
	zip     *zip.Reader
	files   map[string]*zip.File // by folded name
	changed map[string][]byte    // by name as written
	pieced  map[string]*pieces   // those that have changed and nobody has read again
	added   []string             // names of new parts, in order
	gone    map[string]bool

	main   string // the workbook's part
	sheets []sheetPart
	date04 bool // days count from 1904
}

// sheetPart is a sheet with the part it stands in.
type sheetPart struct{ name, part string }

func folded(name string) string {
	return strings.ToLower(strings.TrimPrefix(path.Clean("/"+strings.ReplaceAll(name, `\`, "/")), "/"))
}

func open(whole []byte) (*book, error) {
	z, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
	if err != nil {
		return nil, xlsx.ErrNotWorkbook
	}
	b := &book{whole: whole, zip: z, files: map[string]*zip.File{}, changed: map[string][]byte{}, pieced: map[string]*pieces{}, gone: map[string]bool{}}
	for _, f := range z.File {
		b.files[folded(f.Name)] = f
	}
	return b, b.openMain()
}

func (b *book) openMain() error {
	root, err := b.relations("")
	if err != nil {
		return err
	}
	for _, r := range root {
		if strings.HasSuffix(r.Type, "/officeDocument") {
			b.main = r.Target
		}
	}
	text, err := b.read(b.main)
	if err != nil || len(text) == 0 {
		return xlsx.ErrNotWorkbook
	}
	rels, err := b.relations(b.main)
	if err != nil {
		return err
	}
	b.sheets = nil
	for t := range tags(text) {
		switch {
		case t.closing:
		case t.name == "workbookPr":
			v, _ := t.attr(text, "date1904")
			b.date04 = v == "1" || v == "true"
		case t.name == "sheet":
			name, _ := t.attr(text, "name")
			id, _ := t.attr(text, "id")
			if r, known := rels[id]; known && strings.HasSuffix(r.Type, "/worksheet") {
				b.sheets = append(b.sheets, sheetPart{name, r.Target})
			}
		}
	}
	return nil
}

// read gives a part as it is now; nothing where there is none.
func (b *book) read(name string) ([]byte, error) {
	f := b.files[folded(name)]
	if f != nil {
		name = f.Name
	}
	if p := b.pieced[name]; p != nil {
		delete(b.pieced, name)
		b.changed[name] = p.joined()
	}
	if text, is := b.changed[name]; is || b.gone[name] {
		return text, nil
	}
	if f == nil {
		return nil, nil
	}
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("opening %s: %w", name, err)
	}
	defer r.Close()
	var text bytes.Buffer
	text.Grow(sizeOf(f))
	if _, err := text.ReadFrom(io.LimitReader(r, xlsx.MaxUnpacked+1)); err != nil {
		return nil, fmt.Errorf("reading %s: %w", name, err)
	}
	if text.Len() > xlsx.MaxUnpacked {
		return nil, xlsx.ErrTooLarge
	}
	return text.Bytes(), nil
}

// sizeOf gives about how large a part is, as far as its packed size bears out what the
// archive says.
func sizeOf(f *zip.File) int {
	const mostPacked = 1032                                                                                // bytes that one byte may unpack to (RFC 1951)
	return int(min(f.UncompressedSize64, f.CompressedSize64*mostPacked, xlsx.MaxUnpacked)) + bytes.MinRead //nolint:gosec // bounded
}

// mentions reports whether any of some texts stands in a part, which is not kept for that.
func (b *book) mentions(name string, marks ...string) (bool, error) {
	f := b.files[folded(name)]
	if f != nil && b.pieced[f.Name] != nil { // whose pieces begin and end between tags
		return slices.ContainsFunc(b.pieced[f.Name].all, func(piece []byte) bool {
			return slices.ContainsFunc(marks, func(m string) bool { return bytes.Contains(piece, []byte(m)) })
		}), nil
	}
	if f == nil || b.changed[f.Name] != nil || b.gone[f.Name] {
		text, err := b.read(name)
		return slices.ContainsFunc(marks, func(m string) bool { return bytes.Contains(text, []byte(m)) }), err
	}
	r, err := f.Open()
	if err != nil {
		return false, fmt.Errorf("opening %s: %w", name, err)
	}
	defer r.Close()
	const longest = 16
	part := make([]byte, 0, 64<<10)
	for {
		n, err := io.ReadFull(r, part[len(part):cap(part)])
		part = part[:len(part)+n]
		for _, m := range marks {
			if bytes.Contains(part, []byte(m)) {
				return true, nil
			}
		}
		switch {
		case err == io.EOF, err == io.ErrUnexpectedEOF: //nolint:errorlint // as io.ReadFull gives them
			return false, nil
		case err != nil:
			return false, fmt.Errorf("reading %s: %w", name, err)
		}
		part = part[:copy(part, part[len(part)-longest:])] // a mark may stand across
	}
}

// put changes a part, or adds one.
func (b *book) put(name string, text []byte) {
	if f := b.files[folded(name)]; f != nil {
		name = f.Name
	} else if _, is := b.changed[name]; !is {
		b.added = append(b.added, name)
	}
	delete(b.pieced, name)
	b.changed[name] = text
}

// putPieces changes a part that is there.
func (b *book) putPieces(name string, p *pieces) {
	f := b.files[folded(name)]
	if f == nil {
		b.put(name, p.joined())
		return
	}
	delete(b.changed, f.Name)
	b.pieced[f.Name] = p
}

func (b *book) drop(name string) {
	if f := b.files[folded(name)]; f != nil {
		b.gone[f.Name] = true
	}
}

// write writes the workbook: what has not changed as it was, byte for byte.
func (b *book) write(w io.Writer) error { return b.writeBy(w, zip.Deflate) }

// writeBy writes the workbook with what has changed packed in some way.
func (b *book) writeBy(w io.Writer, method uint16) error {
	out := zip.NewWriter(w)
	add := func(name string, texts ...[]byte) error {
		part, err := out.CreateHeader(&zip.FileHeader{Name: name, Method: method})
		for _, text := range texts {
			if err == nil {
				_, err = part.Write(text)
			}
		}
		return err
	}
	for _, f := range b.zip.File {
		text, changed := b.changed[f.Name]
		var err error
		switch {
		case b.gone[f.Name]:
		case b.pieced[f.Name] != nil:
			err = add(f.Name, b.pieced[f.Name].all...)
		case changed:
			err = add(f.Name, text)
		default:
			err = out.Copy(f)
		}
		if err != nil {
			return fmt.Errorf("writing %s: %w", f.Name, err)
		}
	}
	for _, name := range b.added {
		if err := add(name, b.changed[name]); err != nil {
			return fmt.Errorf("writing %s: %w", name, err)
		}
	}
	return out.Close()
}

func relsOf(part string) string {
	dir, file := path.Split(part)
	return dir + "_rels/" + file + ".rels"
}

// relations gives what a part refers to, targets as names in the archive.
func (b *book) relations(of string) (map[string]xlsx.Relation, error) {
	text, err := b.read(relsOf(of))
	if err != nil || len(text) == 0 {
		return nil, err
	}
	var doc xlsx.Relations
	if err := xml.Unmarshal(text, &doc); err != nil {
		return nil, fmt.Errorf("reading what %s refers to: %w", of, err)
	}
	return doc.From(path.Dir(of)), nil
}

var errNoSheet = errors.New("there is no sheet")

// findSheet finds a sheet by its name, without letter case.
func (b *book) findSheet(name string) (sheetPart, error) {
	for _, s := range b.sheets {
		if value.EqualText(s.name, name) {
			return s, nil
		}
	}
	names := b.sheetNames()
	if near := value.Nearest(name, names); near != "" {
		return sheetPart{}, fmt.Errorf("%w %q in the workbook: did you mean %s?", errNoSheet, name, near)
	}
	return sheetPart{}, fmt.Errorf("%w %q in the workbook: it has %s", errNoSheet, name, strings.Join(names, ", "))
}

func (b *book) sheetNames() []string {
	names := make([]string, len(b.sheets))
	for i, s := range b.sheets {
		names[i] = s.name
	}
	return names
}

// partsOf gives the names of parts in a folder whose names begin so, in order.
func (b *book) partsOf(prefix string) []string {
	var out []string
	for name, f := range b.files {
		if strings.HasPrefix(name, prefix) && strings.HasSuffix(name, ".xml") && !b.gone[f.Name] {
			out = append(out, f.Name)
		}
	}
	slices.Sort(out)
	return out
}
