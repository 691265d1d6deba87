package xlsx_test

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/value"
)

func stock(rows ...[]value.Value) *outbound.Table {
	return &outbound.Table{Name: "Stock", Count: len(rows), Columns: []outbound.Column{{Name: "no", Type: value.Type{Kind: value.Text}}, {Name: "Value", Type: value.Type{Kind: value.Number}},
		{Name: "Seen", Type: value.Type{Kind: value.Date}}, {Name: "Elsewhere", Type: value.Type{Kind: value.Text}}},
		Rows: func(yield func(outbound.Row) bool) {
			for _, r := range rows {
				if !yield(outbound.Row{Cells: r}) {
					return
				}
			}
		}}
}

func part(t *testing.T, workbook []byte, name string) string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(workbook), int64(len(workbook)))
	require.NoError(t, err)
	r, err := z.Open(name)
	require.NoError(t, err)
	defer r.Close()
	text, err := io.ReadAll(r)
	require.NoError(t, err)
	return string(text)
}

func TestAWrittenWorkbookHasTotalsAndAChart(t *testing.T) {
	table := stock([]value.Value{value.OfText("K1"), value.OfInt(2), value.Value{}, value.Value{}}, []value.Value{value.OfText("K2"), value.OfInt(3), value.Value{}, value.Value{}})
	table.Totals, table.Chart = true, &outbound.Chart{Title: "Stock", Names: "no", Values: "Value"}
	var out bytes.Buffer
	require.NoError(t, xlsx.Write(&out, []outbound.Table{*table}))
	assert.Contains(t, part(t, out.Bytes(), "xl/charts/chart1.xml"), `!$B$2:$B$3`)
	sheet := part(t, out.Bytes(), "xl/worksheets/sheet1.xml")
	assert.Contains(t, sheet, "SUM(B2:B3)")
	assert.Contains(t, sheet, "frozen")
	table.Chart.Values = "Worth"
	require.ErrorContains(t, xlsx.Write(io.Discard, []outbound.Table{*table}), "both must be columns")
	long := stock([]value.Value{value.OfText(strings.Repeat("long ", 7000)), value.Value{}, value.Value{}, value.Value{}})
	require.ErrorContains(t, xlsx.Write(io.Discard, []outbound.Table{*long}), "row 2, column no: a text of 35000 letters does not fit")
}

// A computed column goes out as formulas that come to what is written beside them, and
// are blank where a figure is missing.
func TestComputedColumnsAreWrittenAsFormulas(t *testing.T) {
	number := value.Type{Kind: value.Number}
	table := outbound.Table{Name: "Fees", Count: 4, Columns: []outbound.Column{
		{Name: "Fee", Type: number}, {Name: "Days", Type: number},
		{Name: "Each", Type: number, Formula: &outbound.Formula{Parts: []string{"(", "/", ")"}, Columns: []int{0, 1}, Divides: true}},
	}}
	n := func(i int64) value.Value { return value.OfInt(i) }
	table.Rows = func(yield func(outbound.Row) bool) {
		for _, cells := range [][]value.Value{{n(12), n(4), n(3)}, {n(12), {}, {}}, {n(12), n(0), value.OfOdd("12 is divided by zero")}, {n(9), n(3), n(3)}} {
			if !yield(outbound.Row{Cells: cells}) {
				return
			}
		}
	}
	var out bytes.Buffer
	require.NoError(t, xlsx.Write(&out, []outbound.Table{table}))
	f, err := excelize.OpenReader(&out)
	require.NoError(t, err)
	for cell, want := range map[string][3]string{
		"C2": {`IF(COUNT(A2,B2)<2,"",IFERROR((A2/B2),""))`, "3", "3"},
		"C3": {`IF(COUNT(A3,B3)<2,"",IFERROR((A3/B3),""))`, "", ""},
		"C4": {"", "12 is divided by zero", "12 is divided by zero"},
		"C5": {`IF(COUNT(A5,B5)<2,"",IFERROR((A5/B5),""))`, "3", "3"},
	} {
		formula, err := f.GetCellFormula("Fees", cell)
		require.NoError(t, err)
		stored, err := f.GetCellValue("Fees", cell)
		require.NoError(t, err)
		computed, err := f.CalcCellValue("Fees", cell)
		require.NoError(t, err)
		assert.Equal(t, want, [3]string{formula, stored, computed}, cell)
	}
}
