package xlsx

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

const (
	// DefinitionsSheet is a sheet, not shown, on which a workbook that Kavlo
	// wrote says what its columns are, so that they come back as they were.
	DefinitionsSheet = "Column definitions"

	longestCell  = 32_767 // letters that a cell of a workbook can hold
	mostLinks    = 60_000 // of a sheet; more are written as text
	exactDigits  = 15     // of a number that a workbook holds exactly
	firstDay     = 61     // serial of 1900-03-01: before it, programs disagree
	lastDay      = 2_958_465
	widthSampled = 300 // rows looked at for the width of columns
)

// Write writes a workbook with a sheet for each table: a table object with
// types, dropdowns, notes, links and the colours of choices, under a header
// that stays in view.
func Write(w io.Writer, tables []outbound.Table) (err error) {
	f := excelize.NewFile()
	defer func() { err = errors.Join(err, f.Close()) }()
	b := newWriter(f)
	if err := b.tables(tables); err != nil {
		return err
	}
	return b.send(w)
}

func newWriter(f *excelize.File) *writer {
	return &writer{f: f, names: map[string]bool{value.Fold(DefinitionsSheet): true}, styles: map[string]int{}}
}

// send writes the workbook out.
func (b *writer) send(w io.Writer) error {
	if !b.escaped {
		if _, err := b.f.WriteTo(w); err != nil {
			return fmt.Errorf("writing the workbook: %w", err)
		}
		return nil
	}
	whole, err := b.f.WriteToBuffer()
	if err != nil {
		return fmt.Errorf("writing the workbook: %w", err)
	}
	return writeEscapes(w, whole.Bytes())
}

type writer struct {
	f           *excelize.File
	names       map[string]bool
	styles      map[string]int
	washes      map[string]int // styles of choices, by colour
	definitions [][]any        // rows of the definitions sheet
	objects     []string       // names of the table objects
	escaped     bool           // a text holds what XML cannot
}

func (b *writer) tables(tables []outbound.Table) error {
	for i := range tables {
		name := b.sheetName(tables[i].Name)
		if i == 0 {
			if err := b.f.SetSheetName("Sheet1", name); err != nil {
				return fmt.Errorf("naming a sheet: %w", err)
			}
		} else if _, err := b.f.NewSheet(name); err != nil {
			return fmt.Errorf("making sheet %s: %w", name, err)
		}
		b.objects = append(b.objects, b.objectName(tables[i].Name))
		if err := b.define(i, name, &tables[i]); err != nil {
			return err
		}
	}
	if err := b.writeDefinitions(); err != nil {
		return err
	}
	lists := 0
	for i := range tables {
		s := &sheetWriter{writer: b, table: &tables[i], name: b.f.GetSheetName(i), object: b.objects[i]}
		for _, c := range tables[i].Columns {
			if offersRange(c.Type) {
				lists++
			}
			s.lists = append(s.lists, lists)
		}
		if err := s.write(); err != nil {
			return fmt.Errorf("writing %s: %w", tables[i].Name, err)
		}
	}
	return nil
}

var notInSheetNames = strings.NewReplacer(":", " ", `\`, " ", "/", " ", "?", " ", "*", " ", "[", "(", "]", ")")

// objectName gives a table object's name: that of its tab, in letters and digits, which no
// other table and no cell has.
func (b *writer) objectName(tab string) string {
	name := strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return r
		}
		return '_'
	}, strings.TrimSpace(tab))
	if first, _ := utf8.DecodeRuneInString(name); !unicode.IsLetter(first) {
		name = "T_" + name
	}
	if _, _, err := reading.ParseCell(name); err == nil || len(name) < 3 { // R and C mean rows and columns
		name += "_"
	}
	if r := []rune(name); len(r) > 200 {
		name = string(r[:200])
	}
	plain := name
	for n := 2; b.names["table "+value.Fold(name)]; n++ {
		name = fmt.Sprintf("%s_%d", plain, n)
	}
	b.names["table "+value.Fold(name)] = true
	return name
}

// sheetName gives a name that a sheet may have and no other has.
func (b *writer) sheetName(name string) string { return SheetNames(b.names).Take(name) }

// SheetNames are the names of a workbook's sheets, folded.
type SheetNames map[string]bool

// Take gives a name that a sheet may have and no other has, as near to a text as that goes.
func (names SheetNames) Take(name string) string {
	plain := strings.Trim(strings.TrimSpace(notInSheetNames.Replace(name)), "'")
	if plain == "" {
		plain = "Sheet"
	}
	shorten := func(s string, n int) string {
		if r := []rune(s); len(r) > n {
			return string(r[:n])
		}
		return s
	}
	out := shorten(plain, 31)
	for n := 2; names[value.Fold(out)]; n++ {
		out = shorten(plain, 26) + fmt.Sprintf(" %d", n)
	}
	names[value.Fold(out)] = true
	return out
}

// offersRange reports whether a dropdown needs its choices on the definitions
// sheet: written out they are too long, or hold the mark between them.
func offersRange(t value.Type) bool {
	if t.Kind != value.Choice || t.Several || len(t.Options) == 0 {
		return false
	}
	length := 0
	for _, o := range t.Options {
		if strings.ContainsAny(o.Name, `,"`) || o.Name != strings.TrimSpace(o.Name) {
			return true
		}
		length += utf8.RuneCountInString(o.Name) + 1
	}
	return length > 250
}

// define puts a table's columns on the definitions sheet.
func (b *writer) define(i int, sheet string, t *outbound.Table) error {
	for _, c := range t.Columns {
		typ, err := json.Marshal(c.Type)
		if err != nil {
			return fmt.Errorf("writing column %s: %w", c.Name, err)
		}
		row := []any{b.escape(sheet), b.objects[i], b.escape(c.Name)}
		for text := string(typ); ; { // cells have a limit
			n := min(len(text), 30_000)
			row = append(row, b.escape(text[:n]))
			if text = text[n:]; text == "" {
				break
			}
		}
		b.definitions = append(b.definitions, row)
		if offersRange(c.Type) {
			list := make([]any, 0, len(c.Type.Options))
			for _, o := range c.Type.Options {
				list = append(list, b.escape(o.Name))
			}
			b.definitions = append(b.definitions, append([]any{"", ""}, list...))
		}
	}
	if t.Identity != nil {
		text, err := json.Marshal(t.Identity)
		if err != nil {
			return fmt.Errorf("writing which rows they are: %w", err)
		}
		b.definitions = append(b.definitions, []any{b.escape(sheet), b.objects[i], outbound.IdentityColumn, string(text)})
	}
	return nil
}

func (b *writer) writeDefinitions() error {
	if _, err := b.f.NewSheet(DefinitionsSheet); err != nil {
		return fmt.Errorf("making the sheet of definitions: %w", err)
	}
	s, err := b.f.NewStreamWriter(DefinitionsSheet)
	if err != nil {
		return fmt.Errorf("writing the definitions: %w", err)
	}
	for i, row := range b.definitions {
		if err := s.SetRow(fmt.Sprintf("A%d", i+1), row); err != nil {
			return fmt.Errorf("writing the definitions: %w", err)
		}
	}
	if err := s.Flush(); err != nil {
		return fmt.Errorf("writing the definitions: %w", err)
	}
	if err := b.f.SetSheetVisible(DefinitionsSheet, false, true); err != nil {
		return fmt.Errorf("hiding the definitions: %w", err)
	}
	return nil
}

// listAt gives the range of the definitions sheet that holds the nth list.
func (b *writer) listAt(n, choices int) string {
	for i, row := range b.definitions {
		if row[0] == "" {
			if n--; n == 0 {
				return fmt.Sprintf("'%s'!$C$%d:$%s$%d", DefinitionsSheet, i+1, reading.ColumnName(1+choices), i+1)
			}
		}
	}
	return ""
}

// style gives the style of that name, made once; 0 for "".
func (b *writer) style(key string, s excelize.Style) (int, error) {
	if key == "" {
		return 0, nil
	}
	if id, ok := b.styles[key]; ok {
		return id, nil
	}
	id, err := b.f.NewStyle(&s)
	if err != nil {
		return 0, fmt.Errorf("making a style: %w", err)
	}
	b.styles[key] = id
	return id, nil
}

var formatsOfDates = map[value.Kind]string{value.Date: "yyyy-mm-dd", value.DateTime: "yyyy-mm-dd hh:mm:ss"}

// usual gives the style that cells of a type have, and a name for it; "" for none.
func usual(t value.Type) (string, excelize.Style) {
	coded := func(code string) (string, excelize.Style) { return code, excelize.Style{CustomNumFmt: &code} }
	switch code := formatsOfDates[t.Kind]; {
	case code != "":
		return coded(code)
	case t.Kind == value.Link || t.Kind == value.File:
		return "link", excelize.Style{Font: &excelize.Font{Family: "Calibri", Size: 11, Color: linkInk, Underline: "single"}}
	case t.Kind == value.Text:
		return "text", excelize.Style{NumFmt: 49} // typed in later, digits stay text
	case t.Kind != value.Number:
	case t.Display == "percent":
		return coded("0.##%")
	case len(t.Display) == 3:
		return coded(`#,##0.00 [$` + t.Display + `]`)
	}
	return "", excelize.Style{}
}
