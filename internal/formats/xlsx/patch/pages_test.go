package patch_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
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

// pageTemplate is a workbook with a sheet laid out for a page, and one that lists them.
func pageTemplate(t testing.TB, change func(f *excelize.File)) []byte {
	t.Helper()
	f := excelize.NewFile()
	_, err := f.NewSheet("Rates")
	require.NoError(t, err)
	_, err = f.NewSheet("All")
	require.NoError(t, err)
	for sheet, cells := range map[string]map[string]any{
		"Sheet1": {"A1": "File of {title}", "A2": "{index}", "A4": "Fee", "B4": "{Fee}", "A5": "With tax", "A6": "Due", "B6": "{Due}", "C4": "{note of Fee}", "A8": "{log}", "A9": "{Log.When}", "B9": "{Log.What}", "C9": "{Loans.Item}", "A10": "End of {title}, {Fee}"},
		"Rates":  {"A1": 0.2},
		"All":    {"A1": "Halls on {today}", "A3": "{Pages.title}", "B3": "{Pages.Fee}"},
	} {
		for cell, v := range cells {
			require.NoError(t, f.SetCellValue(sheet, cell, v))
		}
	}
	require.NoError(t, f.SetCellFormula("Sheet1", "B5", "B4*(1+Rates!A1)"))
	require.NoError(t, f.SetCellFormula("All", "B4", "SUM(B3:B3)"))
	require.NoError(t, f.AddComment("Sheet1", excelize.Comment{Cell: "A10", Author: "Ines", Paragraph: []excelize.RichTextRun{{Text: "signed here"}}}))
	var dot bytes.Buffer
	require.NoError(t, png.Encode(&dot, image.NewGray(image.Rect(0, 0, 4, 4))))
	require.NoError(t, f.AddPictureFromBytes("Sheet1", "E1", &excelize.Picture{Extension: ".png", File: dot.Bytes()}))
	require.NoError(t, f.SetDefinedName(&excelize.DefinedName{Name: "_xlnm.Print_Area", RefersTo: "Sheet1!$A$1:$C$10", Scope: "Sheet1"}))
	if change != nil {
		change(f)
	}
	var out bytes.Buffer
	require.NoError(t, f.Write(&out))
	return out.Bytes()
}

func hall(title string, fee int, log ...string) outbound.Page {
	number, date := value.Type{Kind: value.Number}, value.Type{Kind: value.Date}
	p := outbound.Page{Title: title, Where: "Halls", Parts: []outbound.Part{{Fields: []outbound.Field{{Name: "Fee", Type: number, Value: value.OfInt(int64(fee)), Note: "paid in two parts"}, {Name: "Due", Type: date}}}}}
	if fee%2 == 1 {
		p.Parts[0].Fields[1].Value = value.OfDate(2026, 4, fee)
	}
	l := outbound.List{Name: "Log", Says: fmt.Sprint(len(log), " entries"), Columns: []outbound.Column{{Name: "When", Type: date}, {Name: "What"}}}
	for i, what := range log {
		l.Rows = append(l.Rows, []value.Value{value.OfDate(2026, 3, i+1), value.OfText(what)})
	}
	p.Lists = []outbound.List{l, {Name: "Loans", Columns: []outbound.Column{{Name: "Item"}}, Rows: [][]value.Value{{value.OfText("Bell")}}}}
	return p
}

func makePages(t *testing.T, template []byte, pages ...outbound.Page) (*excelize.File, error) {
	var out bytes.Buffer
	if err := patch.Pages(&out, template, "Hall file", pages, []string{"Terms"}, value.OfDate(2026, 3, 25)); err != nil {
		return nil, err
	}
	return opened(t, out.Bytes()), nil
}

// A template's sheet is there once for each page: holes filled, the log's row once for each
// entry with what is below it moved down, notes, pictures and print areas with it.
func TestPagesAreMadeOfATemplate(t *testing.T) {
	f, err := makePages(t, pageTemplate(t, nil), hall("Quay / 1", 4, "walked through", "signed", "paid"), hall("Mill", 7), hall("It's Mill", 9, "rang"))
	require.NoError(t, err)
	assert.Equal(t, []string{"Quay   1", "Rates", "All", "Mill", "It's Mill"}, f.GetSheetList())
	at := func(sheet, cells string) string {
		var out []string
		for c := range strings.FieldsSeq(cells) {
			out = append(out, cellOf(t, f, sheet, c))
		}
		return strings.Join(out, "|")
	}
	assert.Equal(t, "File of Quay / 1|All pages|4|4.8||paid in two parts|3 entries", at("Quay   1", "A1 A2 B4 B5 B6 C4 A8"))
	assert.Equal(t, "walked through|signed|paid|Bell||End of Quay / 1, 4", at("Quay   1", "B9 B10 B11 C9 C10 A12"))
	assert.Equal(t, "7|8.4|0 entries||Bell|End of Mill, 7", at("Mill", "B4 B5 A8 B9 C9 A10"))
	assert.Equal(t, "rang|End of It's Mill, 9", at("It's Mill", "B9 A10"))
	shown, err := f.GetCellValue("Mill", "B6")
	require.NoError(t, err)
	assert.Equal(t, "2026-04-07", shown, "as a date, for which the page before had no use")
	assert.Equal(t, "Halls on 2026-03-25|Quay / 1|4|Mill|7|It's Mill|9|20", at("All", "A1 A3 B3 A4 B4 A5 B5 B6"))
	for _, to := range []struct{ sheet, cell, leads string }{{"All", "A3", "'Quay   1'!A1"}, {"All", "A5", "'It''s Mill'!A1"}, {"It's Mill", "A2", "'All'!A1"}, {"Quay   1", "A2", "'All'!A1"}} {
		is, leads, err := f.GetCellHyperLink(to.sheet, to.cell)
		require.NoError(t, err)
		assert.True(t, is)
		assert.Equal(t, to.leads, leads)
	}
	for sheet, end := range map[string]string{"Quay   1": "A12", "Mill": "A10", "It's Mill": "A10"} {
		notes, err := f.GetComments(sheet)
		require.NoError(t, err)
		require.Len(t, notes, 1, sheet)
		assert.Equal(t, end, notes[0].Cell, sheet)
		pictures, err := f.GetPictures(sheet, "E1")
		require.NoError(t, err)
		assert.Len(t, pictures, 1, sheet)
	}
	areas := map[string]string{}
	for _, n := range f.GetDefinedName() {
		areas[n.Scope] = n.RefersTo
	}
	assert.Equal(t, map[string]string{"Quay   1": "'Quay   1'!$A$1:$C$12", "Mill": "'Mill'!$A$1:$C$10", "It's Mill": "'It''s Mill'!$A$1:$C$10"}, areas)
}

// Where no sheet of the template lists the pages, one is added; what is hidden from whoever
// asks is blank.
func TestAnIndexIsAddedToATemplateThatHasNone(t *testing.T) {
	f, err := makePages(t, pageTemplate(t, func(f *excelize.File) {
		require.NoError(t, f.DeleteSheet("All"))
		require.NoError(t, f.SetCellValue("Sheet1", "D1", "on {Terms}"))
	}), hall("Hall file", 4), hall("<Mill> ", 7))
	require.NoError(t, err)
	assert.Equal(t, []string{"Hall file 2", "Rates", "(Mill)", "Hall file"}, f.GetSheetList())
	assert.Equal(t, "on ", cellOf(t, f, "(Mill)", "D1"))
	assert.Equal(t, "Hall file", cellOf(t, f, "Hall file", "A2"))
	_, leads, err := f.GetCellHyperLink("Hall file", "A3")
	require.NoError(t, err)
	assert.Equal(t, "'(Mill)'!A1", leads)
}

func TestATemplateThatCannotBeRepeatedIsRefused(t *testing.T) {
	for want, change := range map[string]func(f *excelize.File) error{
		`the page of Mill: sheet Sheet1: cell D1: nothing on the page is called "Fees": did you mean {Fee}?`: func(f *excelize.File) error { return f.SetCellValue("Sheet1", "D1", "{Fees}") },
		`cell D9: nothing on the page is called "Log.Whom": did you mean {Log.When}?`:                        func(f *excelize.File) error { return f.SetCellValue("Sheet1", "D9", "{Log.Whom} {Log.What}") },
		`there are holes on sheet Sheet1 and on sheet Rates`:                                                 func(f *excelize.File) error { return f.SetCellValue("Rates", "B1", "{Fee}") },
		`no sheet has holes to be filled`:                                                                    func(f *excelize.File) error { return f.DeleteSheet("Sheet1") },
		`Sheet1, which is to be there once for each page: the formula Sheet1!B4 refers to it by name`:        func(f *excelize.File) error { return f.SetCellFormula("Rates", "A2", "Sheet1!B4") },
		`it has a defined table, whose name a workbook has once: turn it into plain cells`: func(f *excelize.File) error {
			return f.AddTable("Sheet1", &excelize.Table{Range: "F1:G3"})
		},
		`it has a chart, which would show the same cells on every page: move it to another sheet`: func(f *excelize.File) error {
			return f.AddChart("Sheet1", "G4", &excelize.Chart{Type: excelize.Col, Series: []excelize.ChartSeries{{Values: "Rates!$A$1:$A$2"}}})
		},
	} {
		template := pageTemplate(t, func(f *excelize.File) { require.NoError(t, change(f)) })
		_, err := makePages(t, template, hall("Mill", 7, "rang"))
		require.ErrorContains(t, err, want)
	}
}

// What a page costs does not hang on how many there are.
func BenchmarkPagesOfATemplate(b *testing.B) {
	template := pageTemplate(b, nil)
	for _, n := range []int{50, 500} {
		pages := make([]outbound.Page, n)
		for i := range pages {
			pages[i] = hall(fmt.Sprint("Hall ", i), i%30+1, "rang", "wrote")
		}
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				require.NoError(b, patch.Pages(io.Discard, template, "Hall file", pages, nil, value.OfDate(2026, 3, 25)))
			}
			b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(b.N*n), "µs/page")
		})
	}
}
