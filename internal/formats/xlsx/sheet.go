package xlsx

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// cell is a <c> element.
type cell struct {
	Ref     string    `xml:"r,attr"`
	Type    string    `xml:"t,attr"`
	Style   int       `xml:"s,attr"`
	Formula *struct{} `xml:"f"`
	V       *string   `xml:"v"`
	Inline  *richText `xml:"is"`
}

type validation struct {
	Type    string `xml:"type,attr"`
	Ranges  string `xml:"sqref,attr"`
	Formula string `xml:"formula1"`
}

type hyperlink struct {
	Ref      string     `xml:"ref,attr"`
	Location string     `xml:"location,attr"`
	Attrs    []xml.Attr `xml:",any,attr"`
}

type sheetReader struct {
	*book
	ref  sheetRef
	grid *reading.Grid
	rels map[string]relation
	row  int
	col  int
}

func (b *book) sheet(ref sheetRef) (*reading.Grid, error) {
	s := &sheetReader{book: b, ref: ref, grid: &reading.Grid{Name: ref.name, Hidden: ref.hidden}, row: -1}
	var err error
	if s.rels, err = b.relations(ref.part); err != nil {
		return nil, err
	}
	r, err := b.part(ref.part)
	if err != nil {
		return nil, err
	}
	if r == nil {
		return nil, errors.New("its part of the file is missing")
	}
	defer r.Close()
	d := xml.NewDecoder(r)
	for {
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, s.at(fmt.Errorf("the file is damaged from here on: %w", err))
		}
		if start, ok := tok.(xml.StartElement); ok {
			if err := s.element(d, start); err != nil {
				return nil, s.at(err)
			}
		}
	}
	return s.grid, s.notes()
}

func (s *sheetReader) at(err error) error {
	if errors.Is(err, ErrTooLarge) {
		return err
	}
	return &Error{Sheet: s.ref.name, Cell: reading.CellName(max(s.row, 0), max(s.col, 0)), Err: err}
}

func (s *sheetReader) element(d *xml.Decoder, start xml.StartElement) error {
	switch start.Name.Local {
	case "row":
		s.row++
		s.col = -1
		for _, a := range start.Attr {
			if a.Name.Local == "r" {
				n, err := strconv.Atoi(a.Value)
				if err != nil || n < 1 || n > maxRows {
					return fmt.Errorf("row number %q is out of bounds", a.Value)
				}
				s.row = n - 1
			}
		}
	case "c":
		var c cell
		if err := d.DecodeElement(&c, &start); err != nil {
			return err
		}
		return s.cell(&c)
	case "dataValidation":
		var v validation
		if err := d.DecodeElement(&v, &start); err != nil {
			return err
		}
		s.choices(&v)
	case "hyperlink":
		var h hyperlink
		if err := d.DecodeElement(&h, &start); err != nil {
			return err
		}
		s.link(&h)
	}
	return nil
}

func (s *sheetReader) cell(c *cell) error {
	s.col++
	if c.Ref != "" {
		row, col, ok := parseRef(c.Ref)
		if !ok || row != s.row && row < 0 {
			return fmt.Errorf("%q is not the name of a cell", c.Ref)
		}
		s.row, s.col = row, col
	}
	if s.cells++; s.cells > MaxCells || s.row >= maxRows || s.col >= maxColumns {
		return ErrTooLarge
	}
	v, err := s.value(c)
	if err != nil {
		return err
	}
	if v.Kind() == value.Blank && c.Formula == nil {
		return nil
	}
	at := s.grow(s.row, s.col)
	at.Value, at.Formula = v, c.Formula != nil
	return nil
}

// grow makes room for a cell and gives it.
func (s *sheetReader) grow(row, col int) *reading.Cell {
	for len(s.grid.Rows) <= row {
		s.grid.Rows = append(s.grid.Rows, nil)
	}
	if n := len(s.grid.Rows[row]); n <= col {
		s.grid.Rows[row] = append(s.grid.Rows[row], make([]reading.Cell, col+1-n)...)
	}
	return &s.grid.Rows[row][col]
}

func (s *sheetReader) value(c *cell) (value.Value, error) {
	text := ""
	if c.V != nil {
		text = *c.V
	}
	switch c.Type {
	case "s":
		i, err := strconv.Atoi(strings.TrimSpace(text))
		if err != nil || i < 0 || i >= len(s.strings) {
			return value.Value{}, fmt.Errorf("it names shared text %q, which is not there", text)
		}
		return value.OfText(s.strings[i]), nil
	case "inlineStr":
		if c.Inline != nil {
			return value.OfText(c.Inline.text()), nil
		}
		return value.Value{}, nil
	case "str", "e":
		return value.OfText(text), nil
	case "b":
		return value.OfBool(text == "1" || text == "true"), nil
	case "d":
		if v, err := value.Parse(strings.TrimSuffix(text, "Z"), value.Type{Kind: value.DateTime}); err == nil {
			return v, nil
		}
		return value.OfText(text), nil
	}
	if strings.TrimSpace(text) == "" {
		return value.Value{}, nil
	}
	if c.Style >= 0 && c.Style < len(s.formats) && s.formats[c.Style] {
		if v, ok := s.ofSerial(text); ok {
			return v, nil
		}
	}
	f, err := strconv.ParseFloat(strings.TrimSpace(text), 64)
	if err != nil {
		return value.Value{}, fmt.Errorf("%q is not a number", text)
	}
	if v, err := value.OfFloat(f); err == nil {
		return v, nil
	}
	return value.OfText(text), nil // too large or too small to hold exactly: kept as written
}

// parseRef reads the name of a cell, such as AB12.
func parseRef(ref string) (row, col int, ok bool) {
	i := 0
	for ; i < len(ref) && ref[i] >= 'A' && ref[i] <= 'Z' && i < 4; i++ {
		col = col*26 + int(ref[i]-'A') + 1
	}
	n, err := strconv.Atoi(ref[i:])
	return n - 1, col - 1, err == nil && n >= 1 && n <= maxRows && col >= 1 && col <= maxColumns
}

// eachCell calls f for the cells of a list of ranges that lie within the grid.
func (s *sheetReader) eachCell(ranges string, f func(*reading.Cell)) {
	for _, r := range strings.Fields(ranges) {
		from, to, isRange := strings.Cut(strings.ReplaceAll(r, "$", ""), ":")
		if !isRange {
			to = from
		}
		top, left, ok := parseRef(from)
		bottom, right, ok2 := parseRef(to)
		if !ok || !ok2 {
			continue
		}
		for row := top; row <= bottom && row < len(s.grid.Rows); row++ {
			for col := left; col <= right && col < len(s.grid.Rows[row]); col++ {
				f(&s.grid.Rows[row][col])
			}
		}
	}
}

// choices puts a dropdown's written-out choices on its cells.
func (s *sheetReader) choices(v *validation) {
	f := strings.TrimSpace(v.Formula)
	if v.Type != "list" || len(f) < 2 || f[0] != '"' {
		return
	}
	var names []string
	for _, n := range strings.Split(strings.Trim(f, `"`), ",") {
		if n = strings.TrimSpace(n); n != "" {
			names = append(names, n)
		}
	}
	s.eachCell(v.Ranges, func(c *reading.Cell) { c.Choices = names })
}

func (s *sheetReader) link(h *hyperlink) {
	target := ""
	for _, a := range h.Attrs {
		if a.Name.Local == "id" {
			target = s.rels[a.Value].Target
		}
	}
	if target != "" && h.Location != "" {
		target += "#" + h.Location
	}
	if target != "" {
		s.eachCell(h.Ref, func(c *reading.Cell) { c.Link = target })
	}
}

// notes puts the sheet's notes on their cells.
func (s *sheetReader) notes() error {
	for _, r := range s.rels {
		if !strings.HasSuffix(r.Type, "/comments") {
			continue
		}
		var doc struct {
			List []struct {
				Ref  string   `xml:"ref,attr"`
				Text richText `xml:"text"`
			} `xml:"commentList>comment"`
		}
		if err := s.decode(r.Target, &doc); err != nil {
			return err
		}
		for _, n := range doc.List {
			if row, col, ok := parseRef(n.Ref); ok && row < len(s.grid.Rows)+1000 {
				s.grow(row, col).Note = strings.TrimSpace(n.Text.text())
			}
		}
	}
	return nil
}
