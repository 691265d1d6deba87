package xlsx

import (
	"bytes"
	"errors"
	"fmt"
	"io"

	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// At is a place in a workbook.
type At struct {
	Sheet   string
	Cell    string // where the block begins
	Headers bool   // the columns' names stand above the rows
	Make    bool   // a sheet that is not there
}

// Place puts a table's values into a workbook that is there and leaves all else
// in it as it was: formats, charts, other sheets. Numbers and dates go in as
// such, so that charts draw them. It gives the range it wrote.
func Place(w io.Writer, workbook []byte, t *outbound.Table, at At) (where string, err error) {
	f, err := excelize.OpenReader(bytes.NewReader(workbook), excelize.Options{UnzipSizeLimit: MaxUnpacked, UnzipXMLSizeLimit: MaxUnpacked})
	if err != nil {
		return "", ErrNotWorkbook
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	name, err := findSheet(f, at)
	if err != nil {
		return "", err
	}
	top, left, err := reading.ParseCell(at.Cell)
	if err != nil {
		return "", err
	}
	row := top
	if at.Headers {
		for i, c := range t.Columns {
			if err := f.SetCellStr(name, reading.CellName(row, left+i), c.Name); err != nil {
				return "", fmt.Errorf("writing the header: %w", err)
			}
		}
		row++
	}
	dates := map[value.Kind]int{}
	for r := range t.Rows {
		for i, v := range r.Cells {
			if err := placeCell(f, name, reading.CellName(row, left+i), v, dates); err != nil {
				return "", fmt.Errorf("writing %s: %w", reading.CellName(row, left+i), err)
			}
		}
		row++
	}
	if err := f.UpdateLinkedValue(); err != nil { // what formulas gave before is not so any more
		return "", fmt.Errorf("letting formulas work anew: %w", err)
	}
	if _, err := f.WriteTo(w); err != nil {
		return "", fmt.Errorf("writing the workbook: %w", err)
	}
	return name + "!" + RangeOf(t, at.Cell, at.Headers), nil
}

func findSheet(f *excelize.File, at At) (string, error) {
	names := f.GetSheetList()
	for _, n := range names {
		if value.EqualText(n, at.Sheet) {
			return n, nil
		}
	}
	if at.Make {
		_, err := f.NewSheet(at.Sheet)
		return at.Sheet, err
	}
	if near := value.Nearest(at.Sheet, names); near != "" {
		return "", fmt.Errorf("there is no sheet %q in the workbook: did you mean %s?", at.Sheet, near)
	}
	return "", fmt.Errorf("there is no sheet %q in the workbook", at.Sheet)
}

// placeCell sets a cell's value and keeps its format, but for a date in a cell
// that would show a bare number.
func placeCell(f *excelize.File, sheet, cell string, v value.Value, dates map[value.Kind]int) error {
	switch v.Kind() {
	case value.Blank:
		return f.SetCellValue(sheet, cell, nil)
	case value.Number:
		if v.Digits() <= exactDigits {
			return f.SetCellFloat(sheet, cell, v.Float(), -1, 64)
		}
	case value.Checkbox:
		return f.SetCellBool(sheet, cell, v.IsTrue())
	case value.Date, value.DateTime:
		serial := float64(v.Seconds())/86400 - epoch1900
		if serial < firstDay || serial > lastDay {
			break
		}
		if err := f.SetCellFloat(sheet, cell, serial, -1, 64); err != nil {
			return err
		}
		return showDate(f, sheet, cell, v.Kind(), dates)
	}
	text := v.String()
	if v.IsOdd() {
		text = v.Raw()
	}
	return f.SetCellStr(sheet, cell, text)
}

func showDate(f *excelize.File, sheet, cell string, kind value.Kind, dates map[value.Kind]int) error {
	id, err := f.GetCellStyle(sheet, cell)
	if err != nil {
		return err
	}
	if style, err := f.GetStyle(id); err == nil && style != nil {
		code := builtIn(style.NumFmt)
		if style.CustomNumFmt != nil {
			code = *style.CustomNumFmt
		}
		if showsOf(code) != showsNumber {
			return nil
		}
	}
	if dates[kind] == 0 {
		code := formatsOfDates[kind]
		if dates[kind], err = f.NewStyle(&excelize.Style{CustomNumFmt: &code}); err != nil {
			return err
		}
	}
	return f.SetCellStyle(sheet, cell, cell, dates[kind])
}

// RangeOf gives the range that a table takes, beginning at a cell.
func RangeOf(t *outbound.Table, cell string, headers bool) string {
	top, left, err := reading.ParseCell(cell)
	if err != nil || len(t.Columns) == 0 {
		return cell
	}
	rows := t.Count
	if headers {
		rows++
	}
	return reading.Range{Top: top, Left: left, Bottom: top + max(rows, 1) - 1, Right: left + len(t.Columns) - 1}.String()
}
