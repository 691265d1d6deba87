package patch_test

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/formats/xlsx/patch"
	"example.org/kavlo/internal/reading"
)

// drawn is a random workbook: figures in A to C, formulas over them in D and on a second
// sheet, styles here and there, and in F to H a block with a total some rows below it.
type drawn struct {
	file   []byte
	rows   int // of figures
	top    int // of the block, zero-based
	height int
	total  int // its row
}

func drawBook(t *rapid.T) *drawn {
	f := excelize.NewFile()
	defer f.Close()
	must := func(err error) { require.NoError(t, err) }
	d := &drawn{rows: rapid.IntRange(3, 14).Draw(t, "rows"), top: rapid.IntRange(1, 6).Draw(t, "top"), height: rapid.IntRange(1, 4).Draw(t, "height")}
	d.total = d.top + d.height + rapid.IntRange(0, 2).Draw(t, "gap")
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	must(err)
	for row := 1; row <= d.rows; row++ {
		for _, col := range "ABC" {
			cell := fmt.Sprintf("%c%d", col, row)
			if rapid.Bool().Draw(t, "filled") {
				must(f.SetCellValue("Sheet1", cell, rapid.IntRange(-50, 50).Draw(t, "figure")))
			}
			if rapid.IntRange(0, 5).Draw(t, "bold") == 0 {
				must(f.SetCellStyle("Sheet1", cell, cell, bold))
			}
		}
		to := rapid.IntRange(1, d.rows).Draw(t, "to")
		text := rapid.SampledFrom([]string{"A%[1]d+B%[1]d", "SUM(A%[1]d:C%[2]d)", "$A$%[2]d*2", "IF(A%[1]d>B%[2]d,1,0)", "SUM(A:A)"}).Draw(t, "formula")
		must(f.SetCellFormula("Sheet1", fmt.Sprintf("D%d", row), fmt.Sprintf(text+"%[3]s", row, to, "")))
	}
	for row := d.top; row < d.top+d.height; row++ {
		must(f.SetSheetRow("Sheet1", fmt.Sprintf("F%d", row+1), &[]any{"x", row, nil}))
	}
	must(f.SetCellValue("Sheet1", fmt.Sprintf("F%d", d.total+1), "Total"))
	must(f.SetCellFormula("Sheet1", fmt.Sprintf("G%d", d.total+1), fmt.Sprintf("SUM(G%d:G%d)", d.top+1, d.top+d.height)))
	_, err = f.NewSheet("Other")
	must(err)
	must(f.SetCellFormula("Other", "A1", fmt.Sprintf("Sheet1!G%d", d.total+1)))
	must(f.SetCellFormula("Other", "A2", fmt.Sprintf("SUM(Sheet1!A%d:C%d)", rapid.IntRange(1, d.rows).Draw(t, "from"), d.rows)))
	must(f.SetDefinedName(&excelize.DefinedName{Name: "Figures", RefersTo: fmt.Sprintf("Sheet1!$A$1:$C$%d", d.rows)}))
	must(f.AddChart("Sheet1", "K2", &excelize.Chart{Type: excelize.Line, Series: []excelize.ChartSeries{{Name: "Sheet1!$F$1", Categories: fmt.Sprintf("Sheet1!$F$%d:$F$%d", d.top+1, d.top+d.height), Values: fmt.Sprintf("Sheet1!$G$%d:$G$%d", d.top+1, d.top+d.height)}}}))
	var out bytes.Buffer
	must(f.Write(&out))
	d.file = out.Bytes()
	return d
}

// Whatever is written where, no other cell, style, name or chart changes but by going down
// with its row, what is computed stays what it was, and totals add up. The workbook
// library, which knows nothing of how it was written, reads and computes it.
func TestNothingElseInAWorkbookChanges(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		d := drawBook(rt)
		table := fees(halls(rapid.IntRange(0, 9).Draw(rt, "written"))...)
		var out bytes.Buffer
		_, err := patch.Place(&out, d.file, table, patch.At{Sheet: "Sheet1", Cell: reading.CellName(d.top, 5), Over: true, Name: "p"})
		require.NoError(rt, err)
		before, err := excelize.OpenReader(bytes.NewReader(d.file))
		require.NoError(rt, err)
		defer before.Close()
		after, err := excelize.OpenReader(bytes.NewReader(out.Bytes()))
		require.NoError(rt, err)
		defer after.Close()
		down := max(0, table.Count-(d.total-d.top)) // rows that had to be put in between
		to := func(row int) int {
			if row >= d.total {
				return row + down
			}
			return row
		}
		sum := 0
		for i := range table.Count {
			sum += i + 1
		}
		for row := d.top + table.Count; row < d.top+d.height; row++ { // which stay
			sum += row
		}
		computed := func(f *excelize.File, sheet, cell string) string {
			v, err := f.CalcCellValue(sheet, cell)
			require.NoError(rt, err, cell)
			return v
		}
		for row := range d.rows {
			for col := range 4 {
				a, b := reading.CellName(row, col), reading.CellName(to(row), col)
				assert.Equal(rt, computed(before, "Sheet1", a), computed(after, "Sheet1", b), a)
				was, err := before.GetCellStyle("Sheet1", a)
				require.NoError(rt, err)
				is, err := after.GetCellStyle("Sheet1", b)
				require.NoError(rt, err)
				assert.Equal(rt, was, is, a)
			}
		}
		total := reading.CellName(to(d.total), 6)
		assert.Equal(rt, fmt.Sprint(sum), computed(after, "Sheet1", total), "the total adds up")
		stored, err := after.GetCellValue("Sheet1", total)
		require.NoError(rt, err)
		assert.Equal(rt, fmt.Sprint(sum), stored, "as it is stored, too")
		assert.Equal(rt, fmt.Sprint(sum), computed(after, "Other", "A1"))
		assert.Equal(rt, computed(before, "Other", "A2"), computed(after, "Other", "A2"))
		label, err := after.GetCellValue("Sheet1", reading.CellName(to(d.total), 5))
		require.NoError(rt, err)
		assert.Equal(rt, "Total", label)
		for i := range table.Count {
			v, err := after.GetCellValue("Sheet1", reading.CellName(d.top+i, 6), excelize.Options{RawCellValue: true})
			require.NoError(rt, err)
			assert.Equal(rt, fmt.Sprint(i+1), v)
		}
	})
}
