package xlsx

import (
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
)

type sheetReader struct {
	*book
	*scanner
	ref    sheetRef
	grid   *reading.Grid
	rels   map[string]Relation
	row    int
	col    int
	styled *style
	blanks []blankCell // of the row
	widest int         // cells of the longest row so far

	formed *formula.Formula            // of the cell
	why    string                      // it is not understood
	shared map[string]*formula.Formula // those filled down, by their number
}

// dropdown is a list of choices offered in some cells, to be found once all
// sheets are read.
type dropdown struct {
	grid    *reading.Grid
	formula string
	ranges  string
	refuse  bool
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
	if err := s.endRow(); err != nil {
		return nil, err
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
	case "conditionalFormatting":
		return s.conditional()
	case "hyperlink":
		s.hyperlink()
	}
	return nil
}

func (s *sheetReader) beginRow() error {
	if err := s.endRow(); err != nil {
		return err
	}
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

// eachCell has f change the cells of a list of ranges that lie within a grid.
func eachCell(g *reading.Grid, ranges string, f func(*reading.Cell)) {
	for _, text := range strings.Fields(ranges) {
		r, err := reading.ParseRange(text)
		if err != nil {
			continue
		}
		for row := r.Top; row <= r.Bottom && row < g.Height(); row++ {
			for col := r.Left; col <= r.Right && col < g.Width(row); col++ {
				c := g.At(row, col)
				f(&c)
				g.Put(row, col, c)
			}
		}
	}
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
			if err != nil || row >= s.grid.Height()+1000 {
				continue
			}
			c := s.grid.At(row, col)
			own(&c).Note = strings.TrimSpace(n.Text.text())
			if err := s.put(row, col, c); err != nil {
				return err
			}
		}
	}
	return nil
}
