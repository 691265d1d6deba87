package xlsx

import (
	"errors"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

type sheetReader struct {
	*book
	*scanner
	ref    sheetRef
	grid   *reading.Grid
	rels   map[string]relation
	row    int
	col    int
	slab   []reading.Cell // room for cells to come
	width  int            // of the last row
	styled *style
}

// dropdown is a list of choices offered in some cells, to be found once all
// sheets are read.
type dropdown struct {
	grid    *reading.Grid
	formula string
	ranges  string
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
	s.scanner = newScanner(r)
	ended := false
	for {
		tok, err := s.next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, s.failed(fmt.Errorf("the file is damaged from here on: %w", err))
		}
		switch tok {
		case tagOpen:
			if err := s.element(); err != nil {
				return nil, s.failed(err)
			}
		case tagClose:
			ended = ended || string(s.name) == "worksheet"
		}
	}
	if !ended {
		return nil, s.failed(errors.New("the file is damaged from here on: the sheet has no end"))
	}
	if err := s.tables(); err != nil {
		return nil, err
	}
	return s.grid, s.notes()
}

func (s *sheetReader) failed(err error) error {
	if errors.Is(err, ErrTooLarge) {
		return err
	}
	if errors.Is(err, errTag) {
		err = fmt.Errorf("the file is damaged from here on: %w", err)
	}
	return &Error{Sheet: s.ref.name, Cell: reading.CellName(max(s.row, 0), max(s.col, 0)), Err: err}
}

func (s *sheetReader) element() error {
	switch string(s.name) {
	case "row":
		return s.beginRow()
	case "c":
		return s.cell()
	case "mergeCell":
		if r, err := reading.ParseRange(s.attr("ref")); err == nil {
			s.grid.Merged = append(s.grid.Merged, r)
		}
	case "autoFilter":
		if r, err := reading.ParseRange(s.attr("ref")); err == nil && r.Bottom > r.Top {
			s.grid.Declared = append(s.grid.Declared, reading.Declared{Range: r})
		}
	case "dataValidation":
		return s.validation()
	case "hyperlink":
		s.hyperlink()
	}
	return nil
}

func (s *sheetReader) beginRow() error {
	s.row++
	s.col = -1
	var err error
	hidden := false
	s.eachAttr(func(name, v []byte) {
		switch string(name) {
		case "r":
			n, bad := strconv.Atoi(string(v))
			if bad != nil || n < 1 || n > reading.MaxRows {
				err = fmt.Errorf("row number %q is out of bounds", v)
				return
			}
			s.row = n - 1
		case "hidden":
			hidden = string(v) == "1" || string(v) == "true"
		}
	})
	if hidden {
		s.grid.HiddenAt = append(s.grid.HiddenAt, s.row)
	}
	return err
}

// cell reads a c element to its end.
func (s *sheetReader) cell() error {
	s.col++
	var kind string
	var err error
	s.styled = nil
	s.eachAttr(func(name, v []byte) {
		switch string(name) {
		case "r":
			row, col, bad := parseRef(v)
			if bad {
				err = fmt.Errorf("%q is not the name of a cell", v)
				return
			}
			s.row, s.col = row, col
		case "s":
			if i, bad := strconv.Atoi(string(v)); bad == nil && i >= 0 && i < len(s.styles) {
				s.styled = &s.styles[i]
			}
		case "t":
			kind = cellKind(v)
		}
	})
	if err != nil {
		return err
	}
	if s.row < 0 || s.row >= reading.MaxRows || s.col >= reading.MaxColumns {
		return ErrTooLarge
	}
	if s.empty {
		return nil
	}
	return s.cellContent(kind)
}

// cellKind gives the kind of a cell without a string of its own for each.
func cellKind(v []byte) string {
	for _, k := range [...]string{"s", "n", "b", "str", "inlineStr", "e", "d"} {
		if string(v) == k {
			return k
		}
	}
	return ""
}

func (s *sheetReader) cellContent(kind string) error {
	var v value.Value
	formula, seen := false, false
	link := ""
	for {
		tok, err := s.next()
		if err != nil {
			if errors.Is(err, io.EOF) {
				err = errTag
			}
			return err
		}
		if tok == tagClose && string(s.name) == "c" {
			break
		}
		if tok != tagOpen {
			continue
		}
		switch string(s.name) {
		case "v":
			if v, err = s.v(kind); err != nil {
				return err
			}
			seen = true
		case "is":
			text, err := s.content("rPh")
			if err != nil {
				return err
			}
			v, seen = value.OfText(text), true
		case "f":
			formula = true
			text, err := s.content("")
			if err != nil {
				return err
			}
			link = linkFormula(text)
		}
	}
	if !formula && (!seen || v.Kind() == value.Blank) {
		return nil
	}
	c, err := s.grow(s.row, s.col)
	if err != nil {
		return err
	}
	c.Value, c.Formula = v, formula && link == ""
	if s.styled != nil {
		c.Bold, c.More = s.styled.bold, s.styled.more
	}
	if link != "" {
		own(c).Link = link
	}
	return nil
}

var hyperlinkFormula = regexp.MustCompile(`^HYPERLINK\("([^"]+)"[,;)]`)

// linkFormula gives the address that a formula of nothing but a link leads to.
func linkFormula(text string) string {
	if !strings.HasPrefix(text, "HYPERLINK(") {
		return ""
	}
	if m := hyperlinkFormula.FindStringSubmatch(text); m != nil {
		return m[1]
	}
	return ""
}

// v reads a v element: a cell's value as its kind writes it.
func (s *sheetReader) v(kind string) (value.Value, error) {
	if s.empty {
		return value.Value{}, nil
	}
	tok, err := s.next()
	if err != nil {
		return value.Value{}, err
	}
	if tok != textToken {
		return value.Value{}, nil
	}
	raw := s.text
	for len(raw) > 0 && isSpace(raw[0]) && kind != "str" {
		raw = raw[1:]
	}
	switch kind {
	case "s":
		i, err := strconv.Atoi(strings.TrimSpace(string(raw)))
		if err != nil || i < 0 || i >= len(s.strings) {
			return value.Value{}, fmt.Errorf("it names shared text %q, which is not there", raw)
		}
		return s.strings[i], nil
	case "str", "e", "inlineStr":
		return value.OfText(unescape(raw)), nil
	case "b":
		return value.OfBool(string(raw) == "1" || string(raw) == "true"), nil
	case "d":
		text := strings.TrimSuffix(string(raw), "Z")
		if v, err := value.Parse(text, value.Type{Kind: value.Date}); err == nil {
			return v, nil
		}
		if v, err := value.Parse(text, value.Type{Kind: value.DateTime}); err == nil {
			return v, nil
		}
		return value.OfText(text), nil
	}
	return s.numeric(strings.TrimSpace(string(raw)))
}

// numeric reads a number, which its style may show as a date or time.
func (s *sheetReader) numeric(text string) (value.Value, error) {
	if text == "" {
		return value.Value{}, nil
	}
	if s.styled != nil && s.styled.shows != showsNumber {
		if v, ok := s.ofSerial(text, s.styled.shows); ok {
			return v, nil
		}
	}
	if len(text) <= 15 { // as many digits as a workbook keeps: what is written is what is meant
		if v, err := value.ParseNumber(text); err == nil {
			return v, nil
		}
	}
	f, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return value.Value{}, fmt.Errorf("%q is not a number", text)
	}
	if v, err := value.OfFloat(f); err == nil {
		return v, nil
	}
	return value.OfText(text), nil // too large or too small to hold exactly: kept as written
}

// parseRef reads the name of a cell, such as AB12.
func parseRef(ref []byte) (row, col int, bad bool) {
	i := 0
	for ; i < len(ref) && ref[i] >= 'A' && ref[i] <= 'Z' && i < 4; i++ {
		col = col*26 + int(ref[i]-'A') + 1
	}
	digits := i
	for ; i < len(ref) && ref[i] >= '0' && ref[i] <= '9' && row <= reading.MaxRows; i++ {
		row = row*10 + int(ref[i]-'0')
	}
	return row - 1, col - 1, i < len(ref) || i == digits || row < 1 || row > reading.MaxRows || col < 1 || col > reading.MaxColumns
}

const slabCells = 8192

// grow makes room for a cell and gives it.
func (s *sheetReader) grow(row, col int) (*reading.Cell, error) {
	for len(s.grid.Rows) <= row {
		s.grid.Rows = append(s.grid.Rows, nil)
	}
	cells := s.grid.Rows[row]
	if n := len(cells); n <= col {
		if s.cells += col + 1 - n; s.cells > MaxCells {
			return nil, ErrTooLarge
		}
		if cap(cells) <= col {
			wide := max(col+1, s.width)
			if len(s.slab) < wide {
				s.slab = make([]reading.Cell, max(slabCells, wide))
			}
			room := s.slab[:n:wide]
			s.slab = s.slab[wide:]
			copy(room, cells)
			cells = room
		}
		s.grid.Rows[row] = cells[:col+1]
		s.width = col + 1
	}
	return &s.grid.Rows[row][col], nil
}

// own gives what a cell holds besides its value, as its own to be changed.
func own(c *reading.Cell) *reading.More {
	m := &reading.More{}
	if c.More != nil {
		*m = *c.More
	}
	c.More = m
	return m
}

// eachCell calls f for the cells of a list of ranges that lie within a grid.
func eachCell(g *reading.Grid, ranges string, f func(*reading.Cell)) {
	for _, text := range strings.Fields(ranges) {
		r, err := reading.ParseRange(text)
		if err != nil {
			continue
		}
		for row := r.Top; row <= r.Bottom && row < len(g.Rows); row++ {
			for col := r.Left; col <= r.Right && col < len(g.Rows[row]); col++ {
				f(&g.Rows[row][col])
			}
		}
	}
}

// validation reads a dropdown's choices, in the old form or the new.
func (s *sheetReader) validation() error {
	list, ranges, formula := s.attr("type") == "list", s.attr("sqref"), ""
	for !s.empty {
		tok, err := s.next()
		if err != nil {
			if errors.Is(err, io.EOF) {
				err = errTag
			}
			return err
		}
		if tok == tagClose && string(s.name) == "dataValidation" {
			break
		}
		if tok != tagOpen {
			continue
		}
		switch string(s.name) {
		case "formula1":
			formula, err = s.content("")
		case "sqref":
			ranges, err = s.content("")
		}
		if err != nil {
			return err
		}
		s.empty = false
	}
	if list && formula != "" {
		s.dropdowns = append(s.dropdowns, dropdown{s.grid, strings.TrimSpace(formula), ranges})
	}
	return nil
}

func (s *sheetReader) hyperlink() {
	target := ""
	if r, ok := s.rels[s.attr("id")]; ok {
		target = r.Target
	}
	if at := s.attr("location"); target != "" && at != "" {
		target += "#" + at
	}
	if target != "" {
		eachCell(s.grid, s.attr("ref"), func(c *reading.Cell) { own(c).Link = target })
	}
}

// tables reads the tables that the sheet defines.
func (s *sheetReader) tables() error {
	for _, r := range s.rels {
		if !strings.HasSuffix(r.Type, "/table") {
			continue
		}
		doc := struct {
			Name    string `xml:"displayName,attr"`
			Ref     string `xml:"ref,attr"`
			Headers *int   `xml:"headerRowCount,attr"`
			Totals  int    `xml:"totalsRowCount,attr"`
		}{}
		if err := s.decode(r.Target, &doc); err != nil {
			return err
		}
		if at, err := reading.ParseRange(doc.Ref); err == nil {
			s.grid.Declared = append(s.grid.Declared, reading.Declared{Name: doc.Name, Range: at, NoHeader: doc.Headers != nil && *doc.Headers == 0, Totals: max(doc.Totals, 0)})
		}
	}
	return nil
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
			row, col, err := reading.ParseCell(n.Ref)
			if err != nil || row >= len(s.grid.Rows)+1000 {
				continue
			}
			c, err := s.grow(row, col)
			if err != nil {
				return err
			}
			own(c).Note = strings.TrimSpace(n.Text.text())
		}
	}
	return nil
}
