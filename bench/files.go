package bench

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/formats/xlsx/patch"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/workspace"
)

const fileRows = 100_000

// tenColumns are typed columns as trackers have them.
var tenColumns = []outbound.Column{
	{Name: "Loan no", Type: value.Type{Kind: value.Text}}, {Name: "Object", Type: value.Type{Kind: value.Text}}, {Name: "Lender", Type: value.Type{Kind: value.Text}},
	{Name: "Stage", Type: value.Type{Kind: value.Choice, Options: []value.Option{{Name: "Requested", Colour: "grey"}, {Name: "Agreed", Colour: "blue"}}}},
	{Name: "Due", Type: value.Type{Kind: value.Date}}, {Name: "Value", Type: value.Type{Kind: value.Number, Display: "EUR"}}, {Name: "Packed", Type: value.Type{Kind: value.Checkbox}},
	{Name: "Crate", Type: value.Type{Kind: value.Text}}, {Name: "Fragility", Type: value.Type{Kind: value.Number}}, {Name: "Remarks", Type: value.Type{Kind: value.Text}},
}

func tenCells(i int, cells []value.Value) {
	fee, _ := value.Div(value.OfInt(int64(i*37%9_000_000)), value.OfInt(100))
	copy(cells, []value.Value{value.OfText(fmt.Sprintf("L-%06d", i)), value.OfText(fmt.Sprintf("Signal lamp %d", i%977)), value.OfText("Port Averin Archive"), value.OfChoice([]string{"Requested", "Agreed"}[i%2]),
		value.OfDays(20_500 + int64(i%700)), fee, value.OfBool(i%2 == 0), value.OfText(fmt.Sprintf("K-%d", i%500)), value.OfInt(int64(i%97 + 1)), value.OfText("Lift from below")})
}

func tenByMany() outbound.Table {
	return outbound.Table{Name: "Loans", Columns: tenColumns, Count: fileRows, Rows: func(yield func(outbound.Row) bool) {
		cells := make([]value.Value, len(tenColumns))
		for i := range fileRows {
			tenCells(i, cells)
			if !yield(outbound.Row{Cells: cells}) {
				return
			}
		}
	}}
}

// bareStream writes the same cells by the workbook library alone, as a stream.
func bareStream(w io.Writer) error {
	f := excelize.NewFile()
	defer f.Close()
	s, err := f.NewStreamWriter("Sheet1")
	if err != nil {
		return err
	}
	header := make([]any, len(tenColumns))
	for i, c := range tenColumns {
		header[i] = c.Name
	}
	if err := s.SetRow("A1", header); err != nil {
		return err
	}
	code := "yyyy-mm-dd"
	date, err := f.NewStyle(&excelize.Style{CustomNumFmt: &code})
	if err != nil {
		return err
	}
	cells := make([]value.Value, len(tenColumns))
	row := make([]any, len(cells))
	for i := range fileRows {
		tenCells(i, cells)
		for j, v := range cells {
			switch v.Kind() {
			case value.Number:
				row[j] = v.Float()
			case value.Date:
				row[j] = excelize.Cell{StyleID: date, Value: float64(v.Days() + 25569)}
			case value.Checkbox:
				row[j] = v.IsTrue()
			default:
				row[j] = v.String()
			}
		}
		if err := s.SetRow(fmt.Sprintf("A%d", i+2), row); err != nil {
			return err
		}
	}
	if err := s.Flush(); err != nil {
		return err
	}
	_, err = f.WriteTo(w)
	return err
}

var exportFile = Case{
	Name: "a workbook of 100,000 rows of 10 typed cells written", Floor: "the same cells written by the workbook library as a bare stream", Limit: 1.5, Turns: 3, Items: 100_000, Item: "row",
	Setup: func(string) (kavlo, floor func() error, done func() error, err error) {
		kavlo = func() error { return xlsx.Write(io.Discard, []outbound.Table{tenByMany()}) }
		floor = func() error { return bareStream(io.Discard) }
		return kavlo, floor, func() error { return nil }, nil
	},
}

var importFile = Case{
	Name: "a workbook of 100,000 rows of 10 typed cells taken in: read, types found, stored", Floor: "the same file read raw by the workbook library's stream, and nothing else", Limit: 1, Turns: 3, Items: 100_000, Item: "row",
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		path, err := tenByManyFile(dir)
		if err != nil {
			return nil, nil, nil, err
		}
		turn := 0
		kavlo = func() error { // a workspace of its own each time, so that one turn is as another
			turn++
			d, err := workspace.Open(context.Background(), workspace.Config{Dir: filepath.Join(dir, fmt.Sprint("workspace", turn))})
			if err != nil {
				return err
			}
			res, err := takeFile(d, path)
			if err == nil && len(res.Set.Changes) < fileRows {
				err = fmt.Errorf("%d changes", len(res.Set.Changes))
			}
			return closed(d, err)
		}
		floor = func() error { return bareRead(path) }
		return kavlo, floor, func() error { return nil }, nil
	},
}

// againFile imports a file again by its key, when nothing in it has changed, against
// reading it alone.
var againFile = Case{
	Name: "a workbook of 100,000 rows taken in again by its key, nothing changed", Floor: "the same file read, its table and types found", Limit: 1.2, Turns: 3, Items: 100_000, Item: "row",
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		path, err := tenByManyFile(dir)
		if err != nil {
			return nil, nil, nil, err
		}
		d, err := workspace.Open(context.Background(), workspace.Config{Dir: filepath.Join(dir, "workspace")})
		if err != nil {
			return nil, nil, nil, err
		}
		if _, err := takeBy(d, path, "Loan no"); err != nil {
			return nil, nil, nil, closed(d, err)
		}
		kavlo = func() error {
			res, err := takeBy(d, path, "Loan no")
			if err == nil && len(res.Set.Changes) > 0 {
				err = fmt.Errorf("%d changes", len(res.Set.Changes))
			}
			return err
		}
		floor = func() error { _, err := formats.ReadFile(path); return err }
		return kavlo, floor, d.Close, nil
	},
}

// blockFile writes a block into one of ten sheets of a large workbook.
var blockFile = Case{
	Name: "a block of 1,000 rows written into a workbook of 100,000 rows on ten sheets", Floor: "that file's parts unpacked and packed again", Limit: 2, Turns: 3, Items: 1, Item: "file",
	Setup: func(string) (kavlo, floor func() error, done func() error, err error) {
		whole, err := tenSheets()
		if err != nil {
			return nil, nil, nil, err
		}
		block := aThousand()
		kavlo = func() error {
			_, err := patch.Place(io.Discard, whole, &block, patch.At{Sheet: "Sheet5", Cell: "A20", Over: true})
			return err
		}
		floor = func() error { return repacked(whole) }
		return kavlo, floor, func() error { return nil }, nil
	},
}

// aThousand is a block of 1,000 rows.
func aThousand() outbound.Table {
	block := tenByMany()
	block.Count = 1000
	rows := block.Rows
	block.Rows = func(yield func(outbound.Row) bool) {
		n := 0
		rows(func(r outbound.Row) bool { n++; return n <= block.Count && yield(r) })
	}
	return block
}

// tenSheets makes a workbook of ten sheets with 10,000 rows each.
func tenSheets() ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	cells := make([]value.Value, len(tenColumns))
	row := make([]any, len(cells))
	for n := range 10 {
		name := fmt.Sprintf("Sheet%d", n+1)
		if n > 0 {
			if _, err := f.NewSheet(name); err != nil {
				return nil, err
			}
		}
		s, err := f.NewStreamWriter(name)
		if err != nil {
			return nil, err
		}
		for i := range fileRows / 10 {
			tenCells(i, cells)
			for j, v := range cells {
				row[j] = v.String()
				if v.Kind() == value.Number {
					row[j] = v.Float()
				}
			}
			if err := s.SetRow(fmt.Sprintf("A%d", i+1), row); err != nil {
				return nil, err
			}
		}
		if err := s.Flush(); err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	_, err := f.WriteTo(&out)
	return out.Bytes(), err
}

func repacked(whole []byte) error {
	in, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
	if err != nil {
		return err
	}
	out := zip.NewWriter(io.Discard)
	for _, f := range in.File {
		r, err := f.Open()
		if err != nil {
			return err
		}
		w, err := out.Create(f.Name)
		if err == nil {
			_, err = io.Copy(w, r) //nolint:gosec // of our own making
		}
		if err := errors.Join(err, r.Close()); err != nil {
			return err
		}
	}
	return out.Close()
}

func closed(d *workspace.Workspace, err error) error { return errors.Join(err, d.Close()) }

// tenByManyFile writes the rows as a workbook and gives its path.
func tenByManyFile(dir string) (string, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return "", err
	}
	var whole bytes.Buffer
	if err := bareStream(&whole); err != nil {
		return "", err
	}
	path := filepath.Join(dir, "loans.xlsx")
	return path, os.WriteFile(path, whole.Bytes(), 0o600)
}

func bareRead(path string) error {
	f, err := excelize.OpenFile(path, excelize.Options{RawCellValue: true})
	if err != nil {
		return err
	}
	defer f.Close()
	rows, err := f.Rows("Sheet1")
	if err != nil {
		return err
	}
	defer rows.Close()
	n := 0
	for rows.Next() {
		cells, err := rows.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return err
		}
		n += len(cells)
	}
	if n < fileRows*len(tenColumns) {
		return fmt.Errorf("%d cells", n)
	}
	return rows.Error()
}
