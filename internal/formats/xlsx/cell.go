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
		s.blank()
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
			if link, err = s.formula(); err != nil {
				return err
			}
		}
	}
	if !formula && (!seen || v.Kind() == value.Blank) {
		s.blank()
		return nil
	}
	c := reading.Cell{Value: v, Formula: formula && link == ""}
	if s.styled != nil {
		c.Bold, c.More = s.styled.bold, s.styled.more
	}
	if link != "" {
		own(&c).Link = link
	}
	if c.Formula {
		s.calculated(&c, kind != "str")
	}
	return s.put(s.row, s.col, c)
}

// blankCell is a cell that holds nothing and is set off all the same.
type blankCell struct {
	row, col int
	more     *reading.More
}

// blank minds a blank cell that is set off until its row is known to hold
// something: sheets are painted far beyond what they hold.
func (s *sheetReader) blank() {
	s.ahead()
	if s.styled != nil && s.styled.more != nil && s.styled.more.Style != (value.CellStyle{}) {
		s.blanks = append(s.blanks, blankCell{s.row, s.col, s.styled.more})
	}
}

// endRow puts the blank cells of a row that are set off into the grid, as far to the
// right as the sheet has held anything.
func (s *sheetReader) endRow() error {
	for _, c := range s.blanks {
		if s.grid.Width(c.row) == 0 || c.col >= s.widest {
			continue
		}
		if err := s.put(c.row, c.col, reading.Cell{More: c.more}); err != nil {
			return err
		}
	}
	s.blanks = s.blanks[:0]
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

// put puts a cell into the grid, within what a file may hold.
func (s *sheetReader) put(row, col int, c reading.Cell) error {
	if more := col + 1 - s.grid.Width(row); more > 0 {
		if s.cells += more; s.cells > MaxCells {
			return ErrTooLarge
		}
	}
	s.grid.Put(row, col, c)
	s.widest = max(s.widest, col+1)
	return nil
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
