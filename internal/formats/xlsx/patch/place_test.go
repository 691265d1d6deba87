package patch_test

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx/patch"
	"example.org/kavlo/internal/value"
)

// fees gives a table of names and fees.
func fees(rows ...[]any) *outbound.Table {
	return &outbound.Table{Name: "Fees", Count: len(rows), Columns: []outbound.Column{{Name: "Hall", Type: value.Type{Kind: value.Text}}, {Name: "Fee", Type: value.Type{Kind: value.Number}}, {Name: "Due", Type: value.Type{Kind: value.Date}}},
		Rows: func(yield func(outbound.Row) bool) {
			for _, r := range rows {
				cells := make([]value.Value, 3)
				for i, v := range r {
					switch x := v.(type) {
					case string:
						cells[i] = value.OfText(x)
					case int:
						cells[i] = value.OfInt(int64(x))
					case value.Value:
						cells[i] = x
					}
				}
				if !yield(outbound.Row{Cells: cells}) {
					return
				}
			}
		}}
}

func halls(n int) [][]any {
	out := make([][]any, n)
	for i := range out {
		out[i] = []any{fmt.Sprintf("Hall %d", i+1), i + 1, value.OfDate(2026, 3, i%28+1)}
	}
	return out
}

// report is a workbook as somebody made it: a title, a block with room for three rows, a
// total, a remark, names, formats and a chart, and a second sheet that refers to the first.
func report(t *testing.T) []byte {
	t.Helper()
	f := excelize.NewFile()
	defer f.Close()
	must := func(err error) { require.NoError(t, err) }
	must(f.SetSheetName("Sheet1", "Month"))
	must(f.SetSheetRow("Month", "A1", &[]any{"Fees of the month"}))
	must(f.SetSheetRow("Month", "A3", &[]any{"Hall", "Fee", "Due", "Tenth"}))
	for i := range 3 {
		row := fmt.Sprint(i + 4)
		must(f.SetCellValue("Month", "B"+row, 0))
		must(f.SetCellFormula("Month", "D"+row, "B"+row+"/10"))
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	must(err)
	money, err := f.NewStyle(&excelize.Style{NumFmt: 4})
	must(err)
	must(f.SetCellStyle("Month", "B4", "B6", money))
	must(f.SetCellValue("Month", "A7", "Total"))
	must(f.SetCellFormula("Month", "B7", "SUM(B4:B6)"))
	must(f.SetCellStyle("Month", "A7", "B7", bold))
	must(f.SetCellValue("Month", "A9", "Without tax."))
	must(f.SetCellValue("Month", "F1", 0.2))
	must(f.SetCellFormula("Month", "G1", "F1*2"))
	must(f.SetDefinedName(&excelize.DefinedName{Name: "Fees", RefersTo: "Month!$B$4:$B$6"}))
	must(f.SetDefinedName(&excelize.DefinedName{Name: "_xlnm.Print_Area", RefersTo: "Month!$A$1:$D$9", Scope: "Month"}))
	dv := excelize.NewDataValidation(true)
	dv.SetSqref("B4:B6")
	must(dv.SetRange(0, 1000, excelize.DataValidationTypeWhole, excelize.DataValidationOperatorBetween))
	must(f.AddDataValidation("Month", dv))
	red, err := f.NewConditionalStyle(&excelize.Style{Font: &excelize.Font{Color: "FF0000"}})
	must(err)
	must(f.SetConditionalFormat("Month", "B4:B6", []excelize.ConditionalFormatOptions{{Type: "cell", Criteria: ">", Value: "500", Format: &red}}))
	must(f.MergeCell("Month", "A9", "D9"))
	must(f.AddChart("Month", "H3", &excelize.Chart{Type: excelize.Bar, Series: []excelize.ChartSeries{{Name: "Month!$B$3", Categories: "Month!$A$4:$A$6", Values: "Month!$B$4:$B$6"}}}))
	_, err = f.NewSheet("Year")
	must(err)
	must(f.SetCellFormula("Year", "A1", "Month!B7*12"))
	must(f.SetCellFormula("Year", "A2", "SUM(Month!B4:B6)"))
	must(f.SetCellFormula("Year", "A3", "1+1"))
	must(f.SetCellValue("Year", "A5", "untouched"))
	var out bytes.Buffer
	must(f.Write(&out))
	return withStored(t, out.Bytes(), map[string]string{"G1": "0.4", "B7": "0"})
}

// withStored stores results of formulas on the first sheet, as other programs do.
func withStored(t *testing.T, workbook []byte, results map[string]string) []byte {
	t.Helper()
	text := part(t, workbook, "xl/worksheets/sheet1.xml")
	for cell, v := range results {
		at := strings.Index(text, `r="`+cell+`"`)
		require.Positive(t, at)
		end := at + strings.Index(text[at:], "</f>") + 4
		text = text[:end] + "<v>" + v + "</v>" + strings.TrimPrefix(text[end:], "<v></v>")
	}
	return withPart(t, workbook, "xl/worksheets/sheet1.xml", text)
}

func place(t *testing.T, workbook []byte, table *outbound.Table, at patch.At) ([]byte, patch.Placed) {
	t.Helper()
	var out bytes.Buffer
	done, err := patch.Place(&out, workbook, table, at)
	require.NoError(t, err)
	return out.Bytes(), done
}

// opened reads a workbook with the library, which knows nothing of how it was written.
func opened(t *testing.T, workbook []byte) *excelize.File {
	t.Helper()
	f, err := excelize.OpenReader(bytes.NewReader(workbook))
	require.NoError(t, err)
	t.Cleanup(func() { _ = f.Close() })
	return f
}

func cellOf(t *testing.T, f *excelize.File, sheet, at string) string {
	t.Helper()
	v, err := f.GetCellValue(sheet, at, excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	return v
}

func formulaOf(t *testing.T, f *excelize.File, sheet, at string) string {
	t.Helper()
	v, err := f.GetCellFormula(sheet, at)
	require.NoError(t, err)
	return v
}

func TestWhatRefersToABlockGrowsWithIt(t *testing.T) {
	at := patch.At{Sheet: "Month", Cell: "A4", Over: true, Name: "r7.0"}
	after, done := place(t, report(t), fees(halls(5)...), at)
	assert.Equal(t, "Month!A4:C8", done.Range)
	assert.Contains(t, done.Over, `"0" at B4`)
	f := opened(t, after)
	for cell, want := range map[string]string{"A4": "Hall 1", "B8": "5", "A9": "Total", "B9": "15", "A11": "Without tax.", "A1": "Fees of the month", "F1": "0.2", "G1": "0.4", "D4": "0.1", "D8": "0.5"} {
		assert.Equal(t, want, cellOf(t, f, "Month", cell), cell)
	}
	assert.Equal(t, "SUM(B4:B8)", formulaOf(t, f, "Month", "B9"))
	assert.Equal(t, "B8/10", formulaOf(t, f, "Month", "D8"), "the row's own formulas go on")
	assert.Equal(t, "Month!B9*12", formulaOf(t, f, "Year", "A1"))
	assert.Equal(t, "180", cellOf(t, f, "Year", "A1"))
	assert.Equal(t, "SUM(Month!B4:B8)", formulaOf(t, f, "Year", "A2"))
	assert.Equal(t, "15", cellOf(t, f, "Year", "A2"))
	names := map[string]string{}
	for _, n := range f.GetDefinedName() {
		names[n.Name] = n.RefersTo
	}
	assert.Equal(t, "Month!$B$4:$B$8", names["Fees"])
	assert.Equal(t, "Month!$A$1:$D$11", names["_xlnm.Print_Area"])
	sheet := part(t, after, "xl/worksheets/sheet1.xml")
	assert.Contains(t, sheet, `sqref="B4:B8" type="whole"`)
	assert.Contains(t, sheet, `<conditionalFormatting sqref="B4:B8"`)
	assert.Contains(t, sheet, `<mergeCell ref="A11:D11"`)
	chart := part(t, after, "xl/charts/chart1.xml")
	assert.Contains(t, chart, "$B$4:$B$8")
	style := func(cell string) int {
		id, err := f.GetCellStyle("Month", cell)
		require.NoError(t, err)
		return id
	}
	assert.Equal(t, style("B4"), style("B8"), "new rows look like those above")
	assert.Contains(t, part(t, after, "xl/workbook.xml"), `fullCalcOnLoad="1"`)

	fewer, done := place(t, after, fees(halls(2)...), at)
	assert.Equal(t, "Month!A4:C8", done.Range, "what is no more is cleared")
	f = opened(t, fewer)
	for cell, want := range map[string]string{"A5": "Hall 2", "A6": "", "B8": "", "A9": "Total", "B9": "3"} {
		assert.Equal(t, want, cellOf(t, f, "Month", cell), cell)
	}
	more, done := place(t, fewer, fees(halls(7)...), patch.At{Sheet: "Month", Cell: "A4", Name: "r7.0"})
	assert.Empty(t, done.Over, "what it wrote itself is its own")
	f = opened(t, more)
	for cell, want := range map[string]string{"A10": "Hall 7", "A11": "Total", "B11": "28"} {
		assert.Equal(t, want, cellOf(t, f, "Month", cell), cell)
	}
	assert.Equal(t, "SUM(B4:B10)", formulaOf(t, f, "Month", "B11"))
}

func TestWhatIsNotItsOwnIsNotWrittenOver(t *testing.T) {
	_, err := patch.Place(io.Discard, report(t), fees(halls(2)...), patch.At{Sheet: "Month", Cell: "A3"})
	require.ErrorContains(t, err, `holds what was not written by this rule, such as "Hall" at A3: say over: yes`)
	_, err = patch.Place(io.Discard, report(t), fees(halls(2)...), patch.At{Sheet: "Moth", Cell: "A3"})
	require.ErrorContains(t, err, "did you mean Month?")
}

func TestOnlyWhatMustChangeDoes(t *testing.T) {
	before := report(t)
	after, _ := place(t, before, fees([]any{"Pier", 5}), patch.At{Sheet: "Month", Cell: "J20", Headers: true})
	for _, name := range []string{"xl/worksheets/sheet2.xml", "xl/charts/chart1.xml", "xl/styles.xml", "xl/drawings/drawing1.xml", "docProps/app.xml", "xl/sharedStrings.xml"} {
		assert.Equal(t, part(t, before, name), part(t, after, name), name)
	}
	was, is := part(t, before, "xl/worksheets/sheet1.xml"), part(t, after, "xl/worksheets/sheet1.xml")
	rows := func(text string) string {
		return text[strings.Index(text, "<sheetData>"):strings.Index(text, "</row><row r=\"20\"")]
	}
	assert.Contains(t, was, strings.TrimPrefix(rows(is), "<sheetData>"))
	assert.Contains(t, is, `<c r="J21" t="inlineStr"><is><t xml:space="preserve">Pier</t></is></c><c r="K21"><v>5</v></c>`)
	assert.Contains(t, is, `<dimension ref="A1:L21"`)
}

// One value goes to one cell; a blank sheet is fine.
func TestOneValueGoesToOneCell(t *testing.T) {
	f := excelize.NewFile()
	var blank bytes.Buffer
	require.NoError(t, f.Write(&blank))
	one := fees([]any{"42"})
	one.Columns = one.Columns[:1]
	rows := one.Rows
	one.Rows = func(yield func(outbound.Row) bool) {
		rows(func(r outbound.Row) bool { return yield(outbound.Row{Cells: r.Cells[:1]}) })
	}
	after, done := place(t, blank.Bytes(), one, patch.At{Sheet: "Sheet1", Cell: "C5"})
	assert.Equal(t, "Sheet1!C5", done.Range)
	assert.Equal(t, "42", cellOf(t, opened(t, after), "Sheet1", "C5"))
}

func TestTextsAndLinksGoInAsTheyAre(t *testing.T) {
	text := "a < b & \"c\" _x0041_ \x01 line\nbreak"
	after, _ := place(t, report(t), fees([]any{text, value.OfLink("https://example.org/a?b=1&c=2", "the place")}), patch.At{Sheet: "Year", Cell: "C3"})
	f := opened(t, after)
	assert.Equal(t, text, cellOf(t, f, "Year", "C3"))
	assert.Equal(t, "the place", cellOf(t, f, "Year", "D3"))
	has, target, err := f.GetCellHyperLink("Year", "D3")
	require.NoError(t, err)
	assert.True(t, has)
	assert.Equal(t, "https://example.org/a?b=1&c=2", target)
}
