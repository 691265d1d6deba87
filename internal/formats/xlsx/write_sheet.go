package xlsx

import (
	"fmt"
	"math"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// sheetWriter writes one table to one sheet.
type sheetWriter struct {
	*writer
	table  *outbound.Table
	name   string // of the sheet
	object string // of the table object
	stream *excelize.StreamWriter
	styles []int               // by column
	chosen []map[string]string // by column: the colour words of its options
	lists  []int               // by column: how many lists have been written up to it
	links  int
	notes  []excelize.Comment
}

func (s *sheetWriter) write() error {
	var err error
	if s.stream, err = s.f.NewStreamWriter(s.name); err != nil {
		return err
	}
	if len(s.table.Columns) == 0 {
		return s.stream.Flush()
	}
	if err := s.prepare(); err != nil {
		return err
	}
	if err := s.header(); err != nil {
		return err
	}
	row := 0
	cells := make([]any, len(s.table.Columns), len(s.table.Columns)+1)
	made := make([]excelize.Cell, len(cells))
	if s.table.Identity != nil {
		cells = cells[:len(cells)+1]
	}
	for r := range s.table.Rows {
		row++
		for i, v := range r.Cells {
			c, err := s.cell(row, i, v)
			if err == nil && r.Styles != nil {
				err = s.setOff(&c, i, v, r.Styles[i])
			}
			if err != nil {
				return fmt.Errorf("row %d, column %s: %w", row+1, s.table.Columns[i].Name, err)
			}
			compute(&c, s.table.Columns[i].Formula, v, row+1)
			made[i], cells[i] = c, &made[i]
		}
		for i, n := range r.Notes {
			if n != "" {
				s.notes = append(s.notes, excelize.Comment{Cell: reading.CellName(row, i), Author: "Kavlo", Paragraph: []excelize.RichTextRun{{Text: s.escape(n)}}})
			}
		}
		if s.table.Identity != nil {
			cells[len(cells)-1] = r.Identity
		}
		if err := s.stream.SetRow(reading.CellName(row, 0), cells); err != nil {
			return err
		}
	}
	return s.finish(row)
}

// prepare sets what a stream wants before its rows.
func (s *sheetWriter) prepare() error {
	widths := s.widths()
	for i, c := range s.table.Columns {
		id, err := s.style(usual(c.Type))
		if err != nil {
			return err
		}
		s.styles = append(s.styles, id)
		s.chosen = append(s.chosen, colours(c.Type))
		if err := s.stream.SetColWidth(i+1, i+1, widths[i]); err != nil {
			return err
		}
		if id != 0 && c.Type.Kind != value.Link && c.Type.Kind != value.File { // what is typed below shows alike
			if err := s.stream.SetColStyle(i+1, i+1, id); err != nil {
				return err
			}
		}
	}
	if n := len(s.table.Columns) + 1; s.table.Identity != nil {
		if err := s.stream.SetColVisible(n, n, false); err != nil {
			return err
		}
	}
	return s.stream.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"})
}

func (s *sheetWriter) widths() []float64 {
	out := make([]float64, len(s.table.Columns))
	for i, c := range s.table.Columns {
		out[i] = float64(utf8.RuneCountInString(c.Name) + 4) // the filter's button
	}
	n := 0
	for r := range s.table.Rows {
		if n++; n > widthSampled {
			break
		}
		for i, v := range r.Cells {
			text := v.Show(s.table.Columns[i].Type)
			if line, _, more := strings.Cut(text, "\n"); more {
				text = line
			}
			out[i] = max(out[i], float64(utf8.RuneCountInString(text)+2))
		}
	}
	for i := range out {
		out[i] = min(out[i], 60)
	}
	return out
}

// headerStyle gives the style of a table's header, and a name for it.
func headerStyle() (string, excelize.Style) {
	return "header", excelize.Style{Font: &excelize.Font{Family: "Calibri", Size: 11, Bold: true}, Border: []excelize.Border{{Type: "bottom", Style: 1, Color: "1D6B5C"}}}
}

func (s *sheetWriter) header() error {
	bold, err := s.style(headerStyle())
	if err != nil {
		return err
	}
	cells := make([]any, len(s.table.Columns))
	for i, c := range s.table.Columns {
		cells[i] = excelize.Cell{StyleID: bold, Value: s.escape(c.Name)}
	}
	if s.table.Identity != nil {
		cells = append(cells, excelize.Cell{StyleID: bold, Value: outbound.IdentityColumn})
	}
	return s.stream.SetRow("A1", cells)
}

// cell gives a cell: numbers, dates and ticks as such, so that charts draw
// them, and all else as text, whatever it begins with.
func (s *sheetWriter) cell(row, col int, v value.Value) (excelize.Cell, error) {
	c := excelize.Cell{StyleID: s.styles[col]}
	switch v.Kind() {
	case value.Blank:
		return c, nil
	case value.Number:
		if v.Digits() <= exactDigits {
			c.Value = v.Float()
			if n, whole := v.Int(); whole {
				c.Value = n
			}
			return c, nil
		}
	case value.Checkbox:
		c.Value = v.IsTrue()
		return c, nil
	case value.Date, value.DateTime:
		if serial := float64(v.Seconds())/86400 - epoch1900; serial >= firstDay && serial <= lastDay {
			c.Value = serial
			return c, nil
		}
		c.StyleID = 0
	case value.Link, value.File:
		if text, ok := s.link(row, col, v); ok {
			c.Value = s.escape(text)
			return c, nil
		}
	}
	text := v.String()
	if v.IsOdd() {
		text = v.Raw()
	}
	if utf8.RuneCountInString(text) > longestCell || len(text) > longestCell && len(utf16Of(text)) > longestCell {
		return c, fmt.Errorf("a text of %d letters does not fit a cell of a workbook, which holds %d: write CSV or JSON", utf8.RuneCountInString(text), longestCell)
	}
	c.Value = s.escape(text)
	return c, nil
}

func utf16Of(s string) []rune {
	var out []rune
	for _, r := range s {
		if out = append(out, r); r > math.MaxUint16 {
			out = append(out, 0)
		}
	}
	return out
}

// link makes a cell's link and gives the text to show; not ok where a workbook
// cannot hold it, and the address has to stand in the text.
func (s *sheetWriter) link(row, col int, v value.Value) (string, bool) {
	address, label := v.Address()
	if s.links >= mostLinks || len(address) > 2000 || !strings.Contains(address, ":") || strings.Contains(address, "#") || unwritable.MatchString(address) || strings.TrimSpace(label) == "" {
		return "", false
	}
	if err := s.f.SetCellHyperLink(s.name, reading.CellName(row, col), address, "External"); err != nil {
		return "", false
	}
	s.links++
	return label, true
}

// finish adds what stands beside the rows: all of it before the stream is
// flushed, after which it would vanish.
func (s *sheetWriter) finish(rows int) error {
	last := len(s.table.Columns) - 1
	if s.table.Identity != nil {
		last++
	}
	bottom := max(rows, 1)
	for i, c := range s.table.Columns {
		if err := s.dropdown(i, bottom+below, c.Type); err != nil {
			return err
		}
		if err := s.coloured(i, bottom+below, c.Type); err != nil {
			return err
		}
	}
	for _, n := range s.notes {
		if err := s.f.AddComment(s.name, n); err != nil {
			return err
		}
	}
	if s.table.Totals && rows > 0 {
		if err := s.totals(rows); err != nil {
			return err
		}
	}
	if err := s.chart(rows); err != nil {
		return err
	}
	striped := false
	if err := s.stream.AddTable(&excelize.Table{Range: "A1:" + reading.CellName(bottom, last), Name: s.object, StyleName: "TableStyleLight1", ShowRowStripes: &striped}); err != nil {
		return err
	}
	return s.stream.Flush()
}

// below is how many rows below the last a sheet is ready for: dropdowns, ticks, colours.
const below = 1000

// coloured gives the choices of a column their colours, whatever is chosen later.
func (s *sheetWriter) coloured(col, bottom int, t value.Type) error {
	if t.Kind != value.Choice || t.Several {
		return nil
	}
	var rules []excelize.ConditionalFormatOptions
	for _, o := range t.Options {
		colour, known := s.chosen[col][o.Name]
		if !known || unwritable.MatchString(o.Name) || len(o.Name) > 200 {
			continue
		}
		id, err := s.washStyle(colour)
		if err != nil {
			return err
		}
		rules = append(rules, excelize.ConditionalFormatOptions{Type: "cell", Criteria: "=", Value: `"` + strings.ReplaceAll(o.Name, `"`, `""`) + `"`, Format: &id})
	}
	if len(rules) == 0 {
		return nil
	}
	return s.f.SetConditionalFormat(s.name, fmt.Sprintf("%s:%s", reading.CellName(1, col), reading.CellName(bottom, col)), rules)
}

// washStyle gives the style of cells with a choice of a colour, made once.
func (s *sheetWriter) washStyle(colour string) (int, error) {
	if id, known := s.washes[colour]; known {
		return id, nil
	}
	look := choiceLook(colour)
	id, err := s.f.NewConditionalStyle(&excelize.Style{Font: &excelize.Font{Color: look.Ink[1:]}, Fill: excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{look.Fill[1:]}}})
	if err != nil {
		return 0, fmt.Errorf("making a style: %w", err)
	}
	if s.washes == nil {
		s.washes = map[string]int{}
	}
	s.washes[colour] = id
	return id, nil
}

func (s *sheetWriter) dropdown(col, bottom int, t value.Type) error {
	if t.Kind == value.Checkbox {
		dv := excelize.NewDataValidation(true)
		dv.SetSqref(fmt.Sprintf("%s:%s", reading.CellName(1, col), reading.CellName(bottom, col)))
		dv.SetError(excelize.DataValidationErrorStyleWarning, "Not a tick", "Choose TRUE or FALSE.")
		if err := dv.SetDropList([]string{"TRUE", "FALSE"}); err != nil {
			return err
		}
		return s.f.AddDataValidation(s.name, dv)
	}
	if t.Kind != value.Choice || t.Several || len(t.Options) == 0 {
		return nil
	}
	dv := excelize.NewDataValidation(true)
	dv.SetSqref(fmt.Sprintf("%s:%s", reading.CellName(1, col), reading.CellName(bottom, col)))
	dv.SetError(excelize.DataValidationErrorStyleWarning, "Not among the choices", "Choose one of the list.")
	if offersRange(t) {
		dv.SetSqrefDropList(s.listAt(s.lists[col], len(t.Options)))
	} else {
		names := make([]string, len(t.Options))
		for i, o := range t.Options {
			names[i] = o.Name
		}
		if err := dv.SetDropList(names); err != nil {
			return err
		}
	}
	return s.f.AddDataValidation(s.name, dv)
}

// totals writes a row of sums below the table.
func (s *sheetWriter) totals(rows int) error {
	cells := make([]any, len(s.table.Columns))
	said := false
	for i, c := range s.table.Columns {
		name := reading.ColumnName(i)
		switch {
		case c.Type.Kind == value.Number && c.Type.Display != "percent" && c.Type.Display != "rating":
			cells[i] = excelize.Cell{StyleID: s.styles[i], Formula: fmt.Sprintf("SUM(%s2:%s%d)", name, name, rows+1)}
		case !said:
			cells[i], said = excelize.Cell{Value: "Total"}, true
		}
	}
	return s.stream.SetRow(reading.CellName(rows+1, 0), cells)
}

func (s *sheetWriter) chart(rows int) error {
	c := s.table.Chart
	if c == nil || rows == 0 {
		return nil
	}
	at := map[string]int{}
	for i, col := range s.table.Columns {
		at[value.Fold(col.Name)] = i
	}
	names, ok := at[value.Fold(c.Names)]
	values, ok2 := at[value.Fold(c.Values)]
	if !ok || !ok2 {
		return fmt.Errorf("the chart draws %s against %s: both must be columns", c.Values, c.Names)
	}
	of := func(col int) string {
		return fmt.Sprintf("'%s'!$%s$2:$%s$%d", strings.ReplaceAll(s.name, "'", "''"), reading.ColumnName(col), reading.ColumnName(col), rows+1)
	}
	return s.f.AddChart(s.name, reading.CellName(1, len(s.table.Columns)+1), &excelize.Chart{
		Type:   excelize.Bar,
		Series: []excelize.ChartSeries{{Name: s.table.Columns[values].Name, Categories: of(names), Values: of(values)}},
		Title:  excelize.ChartTitle{Paragraph: []excelize.RichTextRun{{Text: c.Title}}},
		Legend: excelize.ChartLegend{Position: "none"},
	})
}
