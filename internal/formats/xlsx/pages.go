package xlsx

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// WritePages writes a workbook with a sheet for each page, laid out to be read and to be
// printed one sheet of paper wide, behind an index: each leads to the other.
func WritePages(w io.Writer, index string, pages []outbound.Page) (err error) {
	f := excelize.NewFile()
	defer func() { err = errors.Join(err, f.Close()) }()
	b := newWriter(f)
	first := b.sheetName(index)
	if err := f.SetSheetName("Sheet1", first); err != nil {
		return fmt.Errorf("naming a sheet: %w", err)
	}
	contents := outbound.Page{Title: index, Lists: []outbound.List{{Columns: []outbound.Column{{Name: "Page"}, {Name: "Row in"}}}}}
	sheets := make([]string, len(pages))
	for i := range pages {
		sheets[i] = b.sheetName(pages[i].Title)
		if _, err := f.NewSheet(sheets[i]); err != nil {
			return fmt.Errorf("making sheet %s: %w", sheets[i], err)
		}
		contents.Lists[0].Rows = append(contents.Lists[0].Rows, []value.Value{value.OfText(pages[i].Title), value.OfText(pages[i].Where)})
	}
	if err := b.page(&contents, first, sheets); err != nil {
		return fmt.Errorf("writing the index: %w", err)
	}
	for i := range pages {
		if err := b.page(&pages[i], sheets[i], []string{first}); err != nil {
			return fmt.Errorf("writing the page of %s: %w", pages[i].Title, err)
		}
	}
	return b.send(w)
}

// page writes one page to its sheet. It leads to other sheets: each row of the first list
// to one of as many, or the page to the one that there is.
func (b *writer) page(p *outbound.Page, sheet string, leads []string) error {
	yes, wide, high, paper := true, 1, 0, 9 // A4, as ISO 216 has it
	if err := b.f.SetSheetProps(sheet, &excelize.SheetPropsOptions{FitToPage: &yes}); err != nil {
		return err
	}
	if err := b.f.SetPageLayout(sheet, &excelize.PageLayoutOptions{FitToWidth: &wide, FitToHeight: &high, Size: &paper}); err != nil {
		return err
	}
	stream, err := b.f.NewStreamWriter(sheet)
	if err != nil {
		return err
	}
	s := &pageWriter{sheetWriter: sheetWriter{writer: b, name: sheet, stream: stream}, page: p, leads: leads}
	return s.write()
}

// pageWriter writes a page from above to below.
type pageWriter struct {
	sheetWriter
	page  *outbound.Page
	leads []string
	row   int   // the next to be written, from 0
	at    []int // the rows of the fields
}

const (
	narrowest = 12
	widest    = 44
)

func (s *pageWriter) write() error {
	for i, w := range s.pageWidths() {
		if err := s.stream.SetColWidth(i+1, i+1, w); err != nil {
			return err
		}
	}
	if err := s.line("title", excelize.Style{Font: &excelize.Font{Family: "Calibri", Size: 16, Bold: true}}, s.page.Title); err != nil {
		return err
	}
	if s.page.About != "" { // it is no index
		if err := s.line("about", excelize.Style{Font: &excelize.Font{Family: "Calibri", Size: 11, Italic: true}}, s.page.About); err != nil {
			return err
		}
		if err := s.lead(s.leads[0]); err != nil {
			return err
		}
		key, look := usual(value.Type{Kind: value.Link})
		if err := s.line(key, look, "All pages"); err != nil {
			return err
		}
	}
	for i := range s.page.Parts {
		if err := s.part(&s.page.Parts[i]); err != nil {
			return err
		}
	}
	for i := range s.page.Lists {
		if err := s.list(&s.page.Lists[i]); err != nil {
			return fmt.Errorf("%s: %w", s.page.Lists[i].Name, err)
		}
	}
	for _, n := range s.notes {
		if err := s.f.AddComment(s.name, n); err != nil {
			return err
		}
	}
	return s.stream.Flush()
}

// pageWidths gives how wide the columns have to be.
func (s *pageWriter) pageWidths() []float64 {
	out := []float64{narrowest, narrowest}
	widen := func(i int, text string) {
		for len(out) <= i {
			out = append(out, narrowest)
		}
		line, _, _ := strings.Cut(text, "\n")
		out[i] = min(widest, max(out[i], float64(utf8.RuneCountInString(line))*1.1+3)) // numbers get marks between thousands
	}
	for _, p := range s.page.Parts {
		for i := range p.Fields {
			widen(0, p.Fields[i].Name)
			widen(1, p.Fields[i].Value.Show(p.Fields[i].Type))
		}
	}
	for _, l := range s.page.Lists {
		for i, c := range l.Columns {
			widen(i, c.Name)
			for _, r := range l.Rows {
				widen(i, r[i].Show(c.Type))
			}
		}
	}
	return out
}

// line writes a text on a row of its own.
func (s *pageWriter) line(key string, look excelize.Style, text string) error {
	id, err := s.style(key, look)
	if err != nil {
		return err
	}
	return s.cells(excelize.Cell{StyleID: id, Value: s.escape(text)})
}

// cells writes a row.
func (s *pageWriter) cells(cells ...excelize.Cell) error {
	row := make([]any, len(cells))
	for i := range cells {
		row[i] = cells[i]
	}
	s.row++
	return s.stream.SetRow(reading.CellName(s.row-1, 0), row)
}

// lead makes the first cell of the next row lead to another sheet.
func (s *pageWriter) lead(sheet string) error {
	return s.f.SetCellHyperLink(s.name, reading.CellName(s.row, 0), "'"+strings.ReplaceAll(sheet, "'", "''")+"'!A1", "Location")
}

var heading = excelize.Style{Font: &excelize.Font{Family: "Calibri", Size: 13, Bold: true, Color: linkInk}}

// take gets ready for cells of some columns.
func (s *pageWriter) take(columns []outbound.Column) error {
	s.table, s.styles, s.chosen = &outbound.Table{Columns: columns}, s.styles[:0], s.chosen[:0]
	for _, c := range columns {
		id, err := s.style(usual(c.Type))
		if err != nil {
			return err
		}
		s.styles, s.chosen = append(s.styles, id), append(s.chosen, colours(c.Type))
	}
	return nil
}

// value gives a cell of the next row, as it looks.
func (s *pageWriter) value(col int, v value.Value, look string) (excelize.Cell, error) {
	c, err := s.cell(s.row, col, v)
	if err != nil {
		return c, err
	}
	switch colour := s.chosen[col][v.String()]; {
	case look != "":
		err = s.setOff(&c, col, v, look)
	case colour != "" && v.Kind() == value.Choice:
		c.StyleID, err = s.style(looked("choice "+colour, excelize.Style{}, choiceLook(colour)))
	case strings.Contains(v.String(), "\n"):
		c.StyleID, err = s.style("lines", excelize.Style{NumFmt: 49, Alignment: &excelize.Alignment{WrapText: true, Vertical: "top"}})
	}
	return c, err
}

func (s *pageWriter) part(p *outbound.Part) error {
	s.row++
	if p.Name != "" {
		if err := s.line("heading", heading, p.Name); err != nil {
			return err
		}
	}
	label, err := s.style("label", excelize.Style{Font: &excelize.Font{Family: "Calibri", Size: 11, Color: "5F5F5F"}})
	if err != nil {
		return err
	}
	for i := range p.Fields {
		f := &p.Fields[i]
		if err := s.take([]outbound.Column{{}, {Name: f.Name, Type: f.Type}}); err != nil {
			return err
		}
		c, err := s.value(1, f.Value, f.Style)
		if err != nil {
			return fmt.Errorf("field %s: %w", f.Name, err)
		}
		if _, text := c.Value.(string); f.Formula != nil && !text {
			c.Formula = formulaAt(f.Formula, func(field int) string { return reading.CellName(s.at[field], 1) })
		}
		if f.Note != "" {
			s.notes = append(s.notes, excelize.Comment{Cell: reading.CellName(s.row, 1), Author: "Kavlo", Paragraph: []excelize.RichTextRun{{Text: s.escape(f.Note)}}})
		}
		s.at = append(s.at, s.row)
		if err := s.cells(excelize.Cell{StyleID: label, Value: s.escape(f.Name)}, c); err != nil {
			return err
		}
	}
	return nil
}

func (s *pageWriter) list(l *outbound.List) error {
	s.row++
	if l.Name != "" {
		if err := s.line("heading", heading, l.Name); err != nil {
			return err
		}
	}
	if l.Says != "" {
		if err := s.line("about", excelize.Style{}, l.Says); err != nil {
			return err
		}
	}
	if len(l.Rows) == 0 {
		return nil
	}
	if err := s.take(l.Columns); err != nil {
		return err
	}
	header, err := s.style(headerStyle())
	if err != nil {
		return err
	}
	cells := make([]excelize.Cell, len(l.Columns))
	for i, c := range l.Columns {
		cells[i] = excelize.Cell{StyleID: header, Value: s.escape(c.Name)}
	}
	if err := s.cells(cells...); err != nil {
		return err
	}
	for n, r := range l.Rows {
		for i, v := range r {
			if cells[i], err = s.value(i, v, ""); err != nil {
				return fmt.Errorf("row %d, column %s: %w", n+1, l.Columns[i].Name, err)
			}
		}
		if s.page.About == "" { // the index
			if cells[0].StyleID, err = s.style(usual(value.Type{Kind: value.Link})); err == nil {
				err = s.lead(s.leads[n])
			}
			if err != nil {
				return err
			}
		}
		if err := s.cells(cells...); err != nil {
			return err
		}
	}
	return nil
}
