package xlsx_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/value"
)

// written opens a workbook that was just written.
func written(t *testing.T, pages []outbound.Page) *excelize.File {
	var out bytes.Buffer
	require.NoError(t, xlsx.WritePages(&out, "Hall file", pages))
	f, err := excelize.OpenReader(&out)
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, f.Close()) })
	return f
}

func TestPagesStandBehindAnIndexLinkedBothWays(t *testing.T) {
	titles := []string{"Quay / 1", "Quay : 1", "it's [one] 🎪", "Hall file", "A title of a good many more letters than thirty-one"}
	pages := make([]outbound.Page, len(titles))
	for i := range titles {
		pages[i] = outbound.Page{Title: titles[i], Where: "Halls", About: "Row in Halls"}
	}
	f := written(t, pages)
	sheets := f.GetSheetList()
	require.Len(t, sheets, len(titles)+1)
	assert.Equal(t, "Hall file", sheets[0])
	for i, title := range titles {
		at := "A" + string(rune('4'+i))
		shown, err := f.GetCellValue(sheets[0], at)
		require.NoError(t, err)
		assert.Equal(t, title, shown, "in full, whatever a sheet may be called")
		linked, target, err := f.GetCellHyperLink(sheets[0], at)
		require.NoError(t, err)
		require.True(t, linked)
		sheet := sheets[i+1]
		assert.Equal(t, quoted(sheet)+"!A1", target)
		shown, err = f.GetCellValue(sheet, "A1")
		require.NoError(t, err)
		assert.Equal(t, title, shown)
		linked, target, err = f.GetCellHyperLink(sheet, "A3")
		require.NoError(t, err)
		require.True(t, linked)
		assert.Equal(t, "'Hall file'!A1", target)
	}
}

func quoted(sheet string) string {
	out := "'"
	for _, r := range sheet {
		if out += string(r); r == '\'' {
			out += "'"
		}
	}
	return out + "'"
}

func TestAPageIsLaidOutWithTypesNotesFormulasAndLists(t *testing.T) {
	number, date := value.Type{Kind: value.Number}, value.Type{Kind: value.Date}
	stage := value.Type{Kind: value.Choice, Options: []value.Option{{Name: "Agreed", Colour: "green"}}}
	when, err := value.Parse("2026-04-01", date)
	require.NoError(t, err)
	agreed, err := value.Parse("Agreed", stage)
	require.NoError(t, err)
	f := written(t, []outbound.Page{{
		Title: "North Pier", Where: "Halls", About: "Row in Halls",
		Parts: []outbound.Part{
			{Name: "Facts", Fields: []outbound.Field{
				{Name: "Name", Value: value.OfText("=1+1"), Note: "as it is written", Style: "bold"},
				{Name: "Fee", Type: number, Value: value.OfInt(12)},
				{Name: "Opens", Type: date, Value: when},
				{Name: "Stage", Type: stage, Value: agreed},
			}},
			{Fields: []outbound.Field{{Name: "Days", Type: number, Value: value.OfInt(4)}, {Name: "Odd", Type: number, Value: value.OfOdd("TBC")}}},
			{Name: "Figures", Fields: []outbound.Field{
				{Name: "Each", Type: number, Value: value.OfInt(3), Formula: &outbound.Formula{Parts: []string{"(", "/", ")"}, Columns: []int{1, 4}, Divides: true}},
			}},
		},
		Lists: []outbound.List{
			{Name: "Loans", Says: "2 rows", Columns: []outbound.Column{{Name: "Object"}, {Name: "Worth", Type: number}}, Rows: [][]value.Value{{value.OfText("Bell\nof brass"), value.OfInt(5)}, {value.OfText("Horn"), {}}}},
			{Name: "Log", Says: "0 entries", Columns: []outbound.Column{{Name: "What"}}},
		},
	}})
	sheet := f.GetSheetList()[1]
	for cell, want := range map[string]string{
		"A1": "North Pier", "A2": "Row in Halls", "A3": "All pages",
		"A5": "Facts", "A6": "Name", "B6": "=1+1", "B7": "12", "B8": "2026-04-01", "B9": "Agreed",
		"A11": "Days", "B11": "4", "B12": "TBC",
		"A14": "Figures", "B15": "3",
		"A17": "Loans", "A18": "2 rows", "B19": "Worth", "A20": "Bell\nof brass", "B20": "5", "A21": "Horn", "B21": "",
		"A23": "Log", "A24": "0 entries", "A25": "",
	} {
		got, err := f.GetCellValue(sheet, cell)
		require.NoError(t, err)
		assert.Equal(t, want, got, cell)
	}
	for cell, want := range map[string]string{"B6": "", "B7": "", "B15": `IF(COUNT(B7,B11)<2,"",IFERROR((B7/B11),""))`} {
		got, err := f.GetCellFormula(sheet, cell)
		require.NoError(t, err)
		assert.Equal(t, want, got, cell)
	}
	computed, err := f.CalcCellValue(sheet, "B15")
	require.NoError(t, err)
	assert.Equal(t, "3", computed)
	notes, err := f.GetComments(sheet)
	require.NoError(t, err)
	require.Len(t, notes, 1)
	assert.Equal(t, "B6", notes[0].Cell)
	look, err := f.GetCellStyle(sheet, "B6")
	require.NoError(t, err)
	style, err := f.GetStyle(look)
	require.NoError(t, err)
	assert.True(t, style.Font.Bold)
	look, err = f.GetCellStyle(sheet, "B9")
	require.NoError(t, err)
	style, err = f.GetStyle(look)
	require.NoError(t, err)
	assert.NotEmpty(t, style.Fill.Color, "a choice keeps its colour")
	layout, err := f.GetPageLayout(sheet)
	require.NoError(t, err)
	assert.Equal(t, 1, *layout.FitToWidth)
}
