package reading_test

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

// say tells what was found on a sheet in a line.
func say(s *reading.Sheet) string {
	var tables []string
	for _, t := range s.Tables {
		tables = append(tables, fmt.Sprintf("%s h%d r%d: %s", t.Range, t.HeaderRows, t.Rows, strings.Join(t.Headers, ", ")))
	}
	return strings.Join(tables, "; ")
}

// merge says which cells of a picture are merged, in A1 form.
func merge(g *reading.Grid, ranges ...string) *reading.Grid {
	for _, text := range ranges {
		r, err := reading.ParseRange(text)
		if err != nil {
			panic(err)
		}
		g.Merged = append(g.Merged, r)
	}
	return g
}

func TestHeadersOfSeveralShapes(t *testing.T) {
	for name, tc := range map[string]struct {
		grid *reading.Grid
		want string
	}{
		"groups over names": {merge(grid("Object|Out||Back|\n|Date|Van|Date|Van\nBell|2026-01-02|V1|2026-02-02|V2\nHorn|2026-01-03|V1|2026-02-03|V2\nLamp|2026-01-04|V1|2026-02-04|V2"), "A1:A2", "B1:C1", "D1:E1"),
			"A1:E5 h2 r3: Object, Out Date, Out Van, Back Date, Back Van"},
		"groups not merged": {grid("|Planned||Spent|\nLeg|Van|Crate|Van|Crate\nOne|1|2|3|4\nTwo|2|3|4|5\nTri|3|4|5|6"), "A1:E5 h2 r3: Leg, Planned Van, Planned Crate, Spent Van, Spent Crate"},
		"units below":       {grid("Object|Weight\n|(kg)\nBell|5\nHorn|7"), "A1:B4 h2 r2: Object, Weight (kg)"},
		"years across":      {grid("Venue|2024|2025\nPier|1200|900\nMill|15000|800"), "A1:C3 h1 r2: Venue, 2024, 2025"},
		"counted across":    {grid("Hall|1|2|3\nPier|12|4|9\nMill|3|7|1"), "A1:D3 h1 r2: Hall, 1, 2, 3"},
		"none":              {grid("L1|Bell|5\nL2|Horn|7\nL3|Lamp|9"), "A1:C3 h0 r3: Column A, Column B, Column C"},
		"none, of words":    {grid("Bell|Open|Pier\nHorn|Open|Mill\nLamp|Open|Pier\nGull|Held|Pier"), "A1:C4 h0 r4: Column A, Column B, Column C"},
		"printed twice":     {grid("Object|Due\nBell|2026-01-02\nObject|Due\nHorn|2026-01-03"), "A1:B4 h1 r2: Object, Due"},
		"brackets and more": {grid("  Object   name |Fee [EUR]\nBell|5"), "A1:B2 h1 r1: Object name, Fee (EUR)"},
		"a title beside":    {grid("Loans||||as of March\n\nNo|Object|Fee\n1|Bell|5\n2|Horn|7"), "A3:C5 h1 r2: No, Object, Fee"},
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{tc.grid})
			assert.Equal(t, tc.want, say(&r.Sheets[0]))
		})
	}
}

func TestWhereATableEnds(t *testing.T) {
	for name, tc := range map[string]struct{ picture, want, leftOut string }{
		"a blank row in it":      {"Object|Due\nBell|2026-01-02\n\nHorn|2026-01-03", "A1:B4 h1 r2: Object, Due", "A3:B3 a blank row"},
		"two blank rows end it":  {"Object|Due\nBell|2026-01-02\n\n\nHorn|2026-01-03", "A1:B2 h1 r1: Object, Due", "A5:B5 a line of values with no header and no rows"},
		"another one below":      {"Object|Due\nBell|2026-01-02\n\nCourier|Van\nAnn|V1", "A1:B2 h1 r1: Object, Due; A4:B5 h1 r1: Courier, Van", ""},
		"rows below hollow ones": {"Object|Packed\nBell|☑\n|☐\n|☐\n|☐\nHorn|☐", "A1:B6 h1 r2: Object, Packed", "A3:B5 a hollow row"},
		"subtotals":              {"Hall|Fee\nPier|5\nPier total|=5\nMill|7\nMill total|=7\nGrand total|=12", "A1:B4 h1 r2: Hall, Fee", "A3:B3 total row"},
		"a total after a gap":    {"Leg|Fee\nOne|5\n\nTotal|=5", "A1:B2 h1 r1: Leg, Fee", "A4:B4 total row"},
		"a total of plain cells": {"Leg|Fee|Tax\nOne|5|1\nTwo|6|2\nTotal|11|3", "A1:C3 h1 r2: Leg, Fee, Tax", "A4:C4 total row"},
		"a remark below":         {"Object|Fee|Due\nBell|5|2026-01-02\nHorn|7|2026-01-03\nLamp|9|2026-01-04\n* without tax||", "A1:C4 h1 r3: Object, Fee, Due", "A5:C5 a remark below the table"},
		"defaults filled down":   {"Object|State|Done\nBell|Held|☑\n|Open|☐\n|Open|☐\n|Open|☐\n|Open|☐\n|Open|☐", "A1:C2 h1 r1: Object, State, Done", "A3:C7 rows that hold only the same default"},
		"labels above":           {"By:|Ines\nSeats:|120\n\nObject|Wall|Fee\nBell|A|5\nHorn|B|7\nLamp|C|9", "A4:C7 h1 r3: Object, Wall, Fee", "A1:B2 labels with their values"},
		"one column of words":    {"Address\na@example.org\nb@example.org\nc@example.org", "A1:A4 h1 r3: Address", ""},
		"numbered beforehand":    {"No.|Object|Hall\n1|Bell|Pier\n2|Horn|Mill\n3||\n4||\n5||\n6||\n7||", "A1:C3 h1 r2: No., Object, Hall", "A4:C8 rows that hold only their number"},
		"numbers of things":      {"Hall|Beds\nPier|3\n|4\n|6\n|7\n|9\n|10", "A1:B7 h1 r6: Hall, Beds", ""},
		"unticked as text":       {"Object|Packed\nBell|TRUE\nHorn|FALSE\n|FALSE\n|FALSE", "A1:B3 h1 r2: Object, Packed", "A4:B5 hollow rows"},
		"totals above":           {"Total||=12\nLeg|Hall|Cost\nOne|Pier|5\nTwo|Mill|7", "A2:C4 h1 r2: Leg, Hall, Cost", "A1:C1 stands above the header"},
		"sums of all above":      {"Hall|Jan|Feb\nPier|3|4\nMill|5|6\nAnnex|7|9\nAll halls|15|19", "A1:C4 h1 r3: Hall, Jan, Feb", "A5:C5 total row"},
		"sums in one column":     {"Hall|Jan\nOne|1\nTwo|2\nTri|3\nSix|6", "A1:B5 h1 r4: Hall, Jan", ""},
		"a gap below the header": {"Object|Hall|Fee\n\nBell|Pier|5\nHorn|Mill|7\nLamp|Pier|9", "A1:C5 h1 r3: Object, Hall, Fee", "A2:C2 a blank row"},
		"more after two gaps":    {"Hall|Fee\nPier|5\nMill|7\n\n\nPier|6\nMill|8\nAnnex|9", "A1:B8 h1 r5: Hall, Fee", "A4:B5 a blank row"},
		"labels without a head":  {"Open|5\nClosed|7\n\nObject|State|Fee\nBell|open|5\nHorn|open|6\nLamp|closed|7", "A4:C7 h1 r3: Object, State, Fee", "A1:B2 labels with their values"},
		"formulas alone":         {"Object|Fee\n=Bell|=5\n=Horn|=7\n=|=0", "A1:B3 h1 r2: Object, Fee", "A4:B4 hollow rows"},
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{grid(tc.picture)})
			s := &r.Sheets[0]
			assert.Equal(t, tc.want, say(s))
			var out []string
			for _, l := range s.LeftOut {
				out = append(out, l.Range.String()+" "+l.Reason)
			}
			for _, table := range s.Tables {
				for _, l := range table.LeftOut {
					out = append(out, l.Range.String()+" "+l.Reason)
				}
			}
			assert.Contains(t, strings.Join(out, "\n"), tc.leftOut)
		})
	}
}

// A table may touch the one above it: its header is in bold as the first one is.
func TestTablesThatTouchArePartedByTheirHeaders(t *testing.T) {
	for name, tc := range map[string]struct {
		picture, want string
		bold          []int
	}{
		"two":            {"Name|Desk\nAnn|4\nBen|5\nVan|Seats\nV1|3\nV2|9", "A1:B3 h1 r2: Name, Desk; A4:B6 h1 r2: Van, Seats", []int{0, 3}},
		"a narrower one": {"Name|Desk|Since\nAnn|4|2026-01-02\nBen|5|2026-01-03\nVan|Seats|\nV1|3|\nV2|9|", "A1:C3 h1 r2: Name, Desk, Since; A4:B6 h1 r2: Van, Seats", []int{0, 3}},
		"three":          {"A|N\nx|1\ny|2\nB|M\nz|3\nw|4\nC|K\nu|5\nv|6", "A1:B3 h1 r2: A, N; A4:B6 h1 r2: B, M; A7:B9 h1 r2: C, K", []int{0, 3, 6}},
		"not in bold":    {"Name|Desk\nAnn|4\nBen|5\nVan|Seats\nV1|3\nV2|9", "A1:B6 h1 r5: Name, Desk", []int{0}},
		"all in bold":    {"Name|Desk\nAnn|4\nBen|5\nVan|Seats", "A1:B4 h1 r3: Name, Desk", []int{0, 1, 2, 3}},
	} {
		t.Run(name, func(t *testing.T) {
			g := grid(tc.picture)
			for _, row := range tc.bold {
				for col := range g.Width(row) {
					c := g.At(row, col)
					c.Bold = true
					g.Put(row, col, c)
				}
			}
			assert.Equal(t, tc.want, say(&reading.Read("f", []*reading.Grid{g}).Sheets[0]))
		})
	}
}

func TestWhatIsMergedBelongsToEachRow(t *testing.T) {
	g := merge(grid("Venue|Object|Fee\nPier|Bell|5\n|Horn|7\nMill|Lamp|9\n|Gull|11"), "A2:A3", "A4:A5")
	r := reading.Read("f", []*reading.Grid{g})
	var venues []string
	for rec := range r.Sheets[0].Records(&r.Sheets[0].Tables[0]) {
		venues = append(venues, rec.Cells[0].String())
	}
	assert.Equal(t, []string{"Pier", "Pier", "Mill", "Mill"}, venues)
}

func TestATableOfTheFileIsPutRight(t *testing.T) {
	g := grid("A list\nObject|Fee\nBell|5\nHorn|7\nLamp|9\n|\n|")
	at, err := reading.ParseRange("A2:B3")
	require.NoError(t, err)
	g.Declared = []reading.Declared{{Name: "Loans", Range: at}}
	r := reading.Read("f", []*reading.Grid{g})
	table := r.Sheets[0].Tables[0]
	assert.Equal(t, "A2:B5 h1 r3: Object, Fee", say(&r.Sheets[0]))
	assert.Equal(t, "Loans", table.Name)
	require.Len(t, table.Doubts, 1)
	assert.Contains(t, table.Doubts[0], "the defined table Loans ends at row 3, and rows go on below it")
}

func TestAPersonPutsAReadingRight(t *testing.T) {
	one, none := 1, 0
	read := func() *reading.Reading {
		g := grid("Ref|Name|Note|Due\n007|Bell|x|2026-01-02\n012|Horn|y|soon\n013|Lamp|x|2026-01-04")
		for row, text := range []string{"Ref", "007", "012", "013"} {
			g.Put(row, 0, reading.Cell{Value: value.OfText(text)})
		}
		return reading.Read("f", []*reading.Grid{g})
	}
	r := read()
	require.NoError(t, r.Correct([]reading.Correction{{Sheet: "s", Table: 1, Tab: "Loans", Key: "No", Columns: []reading.ColumnCorrection{
		{Column: 1, Name: "No", Type: "number"}, {Column: 3, Type: "choice"}, {Column: 4, Type: "text"}, {Column: 2, LeaveOut: true}}}}))
	table := &r.Sheets[0].Tables[0]
	assert.Equal(t, "Loans", table.Tab)
	assert.Equal(t, "No", table.Headers[0])
	assert.Equal(t, []string{"x", "y"}, table.Columns[2].Choices)
	assert.True(t, table.Columns[1].LeaveOut)
	records := testkit.Records(&r.Sheets[0], table)
	assert.Equal(t, value.OfInt(7), records[0].Cells[0])
	assert.Equal(t, value.OfText("soon"), records[1].Cells[3])

	r = read()
	require.NoError(t, r.Correct([]reading.Correction{{Sheet: "S", Table: 1, Range: "A2:B4", HeaderRows: &none}, {Sheet: "S", Table: 0, Range: "C1:D3", HeaderRows: &one}}))
	assert.Equal(t, "A2:B4 h0 r3: Column A, Column B; C1:D3 h1 r2: Note, Due", say(&r.Sheets[0]))

	r = read()
	require.NoError(t, r.Correct([]reading.Correction{{Sheet: "S", Table: 1, LeaveOut: true}}))
	assert.Empty(t, r.Sheets[0].Tables)
	assert.Equal(t, "left out by hand", r.Sheets[0].LeftOut[0].Reason)

	many := 9
	for says, c := range map[string]reading.Correction{
		`there is no sheet "X"`:            {Sheet: "X", Table: 1},
		"no table 4":                       {Sheet: "S", Table: 4},
		"say where the table is":           {Sheet: "S"},
		"not the name of a cell":           {Sheet: "S", Table: 1, Range: "2A"},
		"goes beyond the sheet":            {Sheet: "S", Table: 1, Range: "A1:B9999"},
		"up to 3 rows of header, not 9":    {Sheet: "S", Table: 1, HeaderRows: &many},
		"there is no column 9":             {Sheet: "S", Table: 1, Columns: []reading.ColumnCorrection{{Column: 9}}},
		"two columns would be called name": {Sheet: "S", Table: 1, Columns: []reading.ColumnCorrection{{Column: 1, Name: "name "}}},
		`"dat" is not a column type`:       {Sheet: "S", Table: 1, Columns: []reading.ColumnCorrection{{Column: 1, Type: "dat"}}},
	} {
		require.ErrorContains(t, read().Correct([]reading.Correction{c}), says)
	}
}

func TestAReadingWritesEmptyListsAndRangesInA1(t *testing.T) {
	r := reading.Read("f.csv", []*reading.Grid{grid("Object|Due\nBell|2026-01-02")})
	text, err := json.Marshal(r)
	require.NoError(t, err)
	for _, part := range []string{`"range":"A1:B2"`, `"left_out":[]`, `"doubts":[]`, `"odd":[]`, `"header_rows":1`} {
		assert.Contains(t, string(text), part)
	}
	var back struct {
		Sheets []struct {
			Tables []struct{ Range reading.Range }
		}
	}
	require.NoError(t, json.Unmarshal(text, &back))
	assert.Equal(t, reading.Range{Bottom: 1, Right: 1}, back.Sheets[0].Tables[0].Range)
}

func TestRangesAreReadInA1Form(t *testing.T) {
	for text, want := range map[string]string{"b2:D9": "B2:D9", "$C$3": "C3", "D9:B2": "B2:D9", " A1 ": "A1"} {
		r, err := reading.ParseRange(text)
		require.NoError(t, err)
		assert.Equal(t, want, r.String())
	}
	for _, text := range []string{"", "A", "1", "A0", "A1:B", "XFE1", "A1048577", "Ä1", "A1:2", "AAAAA1", "A99999999999999999999"} {
		_, err := reading.ParseRange(text)
		assert.Error(t, err, text)
	}
}

// randomGrid draws a sheet of words.
func randomGrid(t *rapid.T, words []string) *reading.Grid {
	var lines []string
	width := rapid.IntRange(1, 6).Draw(t, "width")
	for range rapid.IntRange(0, 12).Draw(t, "rows") {
		cells := rapid.SliceOfN(rapid.SampledFrom(words), width, width).Draw(t, "cells")
		lines = append(lines, strings.Join(cells, "|"))
	}
	g := grid(strings.Join(lines, "\n"))
	g.Texts = rapid.Bool().Draw(t, "texts")
	for range rapid.IntRange(0, 2).Draw(t, "merged") {
		top, left := rapid.IntRange(0, 9).Draw(t, "top"), rapid.IntRange(0, 5).Draw(t, "left")
		g.Merged = append(g.Merged, reading.Range{Top: top, Left: left, Bottom: top + rapid.IntRange(0, 3).Draw(t, "down"), Right: left + rapid.IntRange(0, 3).Draw(t, "across")})
	}
	if rapid.Bool().Draw(t, "declared") {
		g.Declared = append(g.Declared, reading.Declared{Name: "T", Range: reading.Range{Top: 1, Right: 3, Bottom: rapid.IntRange(1, 40).Draw(t, "to")}, Totals: rapid.IntRange(0, 2).Draw(t, "totals"), Exact: rapid.Bool().Draw(t, "exact")})
	}
	return g
}

// Blocks that come near each other share no row and no cell.
func TestBlocksThatComeNearEachOtherStayApart(t *testing.T) {
	for name, tc := range map[string]struct{ picture, want string }{
		"a column alone beside a table":    {"|||Object||Object\n||||Object|\n\n|||Object||Object\n|||Object||Object\n||Object|Fee||Total", "D1:F2 h1 r1: Object, Column E, Object (2)"},
		"formulas below, where one begins": {"|Object|Object\n||=5\nObject|=5|\n|Object|", "A3:B4 h0 r2: Column A, Column B"},
		"formulas above a header":          {"|=5|=5\nObject|Object|=5\n|Object|\n|Object|\n|Object|", "A2:B5 h0 r4: Column A, Column B"},
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{grid(tc.picture)})
			assert.Equal(t, tc.want, say(&r.Sheets[0]))
		})
	}
}

// Whatever stands on a sheet, reading it ends, and tables lie within it, do not
// share rows, and have as many records as they say.
func TestRandomSheetsAreReadWithoutHarm(t *testing.T) {
	words := []string{"", "", "", "Object", "Fee", "Total", "5", "7.5", "2026-01-02", "=5", "=", "☐", "☑", "x@example.org", "Subtotal", "1,5", "yes", "note:"}
	rapid.Check(t, func(t *rapid.T) {
		g := randomGrid(t, words)
		r := reading.Read("f", []*reading.Grid{g})
		s := &r.Sheets[0]
		taken := map[[2]int]bool{}
		for i := range s.Tables {
			table := &s.Tables[i]
			records := 0
			require.Len(t, table.Columns, len(table.Headers))
			names := map[string]bool{}
			for _, h := range table.Headers {
				require.NotEmpty(t, h)
				require.False(t, names[value.Fold(h)], "two columns called %s", h)
				names[value.Fold(h)] = true
			}
			for rec := range s.Records(table) {
				records++
				require.True(t, rec.Row >= table.Range.Top && rec.Row <= table.Range.Bottom)
				for col := table.Range.Left; col <= table.Range.Right; col++ {
					require.False(t, taken[[2]int{rec.Row, col}], "two tables hold %s", reading.CellName(rec.Row, col))
					taken[[2]int{rec.Row, col}] = true
				}
			}
			require.Equal(t, table.Rows, records)
		}
		_, err := json.Marshal(r)
		require.NoError(t, err)
	})
}

// A sheet that falls into more parts than anybody would make is one table, and
// reading ends with whoever asked for it.
func TestASheetOfVeryManyPartsIsReadAsOneTable(t *testing.T) {
	rows := make([][]reading.Cell, 3*3000)
	for i := range rows {
		if i%3 < 2 {
			rows[i] = []reading.Cell{{Value: value.OfText(fmt.Sprintf("a%d", i))}, {Value: value.OfText("b")}}
		}
	}
	g := reading.GridOf("S", rows...)
	ctx, leave := context.WithCancel(t.Context())
	r, err := reading.ReadContext(ctx, "f", []*reading.Grid{g})
	require.NoError(t, err)
	require.Len(t, r.Sheets[0].Tables, 1)
	assert.Contains(t, fmt.Sprint(r.Sheets[0].Tables[0].Doubts), "more than 1000 parts")
	leave()
	_, err = reading.ReadContext(ctx, "f", []*reading.Grid{g})
	require.ErrorIs(t, err, context.Canceled)
}

// What no hand has touched counts where it is data: zeros in a table of numbers, formulas
// that go on to give something new.
func TestZerosAndFormulasThatAreData(t *testing.T) {
	for name, tc := range map[string]struct{ picture, want string }{
		"zeros in between":      {"Jan|Feb|Mar\n1|2|3\n0|0|0\n4|5|6", "A1:C4 h1 r3: Jan, Feb, Mar"},
		"zeros first":           {"Jan|Feb|Mar\n0|0|0\n4|5|6", "A1:C3 h1 r2: Jan, Feb, Mar"},
		"zeros last":            {"Jan|Feb\n4|5\n6|7\n0|0", "A1:B4 h1 r3: Jan, Feb"},
		"zeros filled down":     {"Jan|Feb\n4|5\n6|7\n0|0\n0|0\n0|0\n0|0\n0|0\n0|0", "A1:B3 h1 r2: Jan, Feb"},
		"zeros beside a blank":  {"Hall|Jan\nPier|4\nMill|6\n|0\n|0", "A1:B3 h1 r2: Hall, Jan"},
		"formulas at the side":  {"Bell|5|=10\nHorn|7|=14\nLamp|9|=18", "A1:C3 h0 r3: Column A, Column B, Column C"},
		"formulas at the left":  {"=A1|Bell|5\n=B2|Horn|7\n=C3|Lamp|9", "A1:C3 h0 r3: Column A, Column B, Column C"},
		"a mirror":              {"=Object|=Fee\n=Bell|=5\n=Horn|=7\n=|=0\n=|=0", "A1:B3 h1 r2: Object, Fee"},
		"numbers of formulas":   {"Year|Sum\n=2020|=5\n=2021|=9\n=2023|=4\n=2024|=8", "A1:B5 h1 r4: Year, Sum"},
		"row numbers":           {"No|Object\n=1|Bell\n=2|Horn\n=3|\n=4|\n=5|", "A1:B3 h1 r2: No, Object"},
		"a total that stands":   {"Object|Cost|Sum\nBell|5|=5\nHorn|7|=12\n||=12\n||=12", "A1:C3 h1 r2: Object, Cost, Sum"},
		"a difference at last":  {"Object|Cost|Step\nBell|5|=5\nHorn|7|=2\n||=-7\n||=0", "A1:C3 h1 r2: Object, Cost, Step"},
		"a lookup that goes on": {"Object|Hall\nBell|=Pier\nHorn|=Mill\n|=Annex\n|=Quay", "A1:B5 h1 r4: Object, Hall"},
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{grid(tc.picture)})
			assert.Equal(t, tc.want, say(&r.Sheets[0]))
		})
	}
}

// A word does not make a total: its figures must add up.
func TestRowsAreNotDroppedForAWord(t *testing.T) {
	for name, tc := range map[string]struct{ picture, want, doubt string }{
		"verify":        {"Task|Hours\nScan|2\nVerify invoice total|3\nSend|4", "A1:B4 h1 r3: Task, Hours", ""},
		"an instrument": {"Item|Fee|Hall\nLevel|5|Pier\nTotal station|9|\nTripod|2|Mill", "A1:C4 h1 r3: Item, Fee, Hall", ""},
		"count":         {"Name|Kind|Seen\nDuke|A|4\nCount|B|\nEarl|C|9", "A1:C4 h1 r3: Name, Kind, Seen", ""},
		"no figures":    {"Object|Hall|Fee\nBell|Pier|5\nHorn|Mill|6\nLamp|Quay|7\nTotal||", "A1:C5 h1 r4: Object, Hall, Fee", `row 5 holds nothing but "Total"`},
		"wrong figures": {"Object|Fee|Tax\nBell|5|1\nHorn|6|2\nTotal|99|7", "A1:C4 h1 r3: Object, Fee, Tax", "row 4 is called a total, but its figures are not the sums"},
		"a last note":   {"Object|Hall|Fee\nBell|Pier|5\nHorn|Mill|6\nLamp|Quay|7\nNotebook||", "A1:C5 h1 r4: Object, Hall, Fee", `row 5 holds nothing but "Notebook"`},
		"a mean":        {"Object|Fee\nBell|5\nHorn|6\nAverage|5.5", "A1:B3 h1 r2: Object, Fee", ""},
		"parts and all": {"Hall|Fee\nPier|5\nPier|6\nSubtotal|11\nMill|7\nSubtotal|7\nGrand total|18", "A1:B5 h1 r3: Hall, Fee", ""},
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{grid(tc.picture)})
			assert.Equal(t, tc.want, say(&r.Sheets[0]))
			if tc.doubt != "" {
				assert.Contains(t, strings.Join(r.Sheets[0].Tables[0].Doubts, "\n"), tc.doubt)
			}
		})
	}
}

func TestHeadersBesideAndBelowOtherThings(t *testing.T) {
	for name, tc := range map[string]struct {
		grid *reading.Grid
		want string
	}{
		"below a summary":        {grid("Open|5|\nClosed|7|\nObject|Hall|Fee\nBell|Pier|5\nHorn|Mill|6"), "A3:C5 h1 r2: Object, Hall, Fee"},
		"years over a corner":    {grid("|2024|2025\nPier|1200|900\nMill|15000|800"), "A1:C3 h1 r2: Column A, 2024, 2025"},
		"three rows":             {merge(grid("Object|Plan||||\n|Out||Back|\n|Date|Van|Date|Van\nBell|2026-01-02|V1|2026-02-02|V2\nHorn|2026-01-03|V1|2026-02-03|V2\nLamp|2026-01-04|V1|2026-02-04|V2"), "A1:A3", "B1:E1", "B2:C2", "D2:E2"), "A1:E6 h3 r3: Object, Plan Out Date, Plan Out Van, Plan Back Date, Plan Back Van"},
		"a blank row below it":   {grid("Object|Hall\n\nBell|Pier\nHorn|Mill"), "A1:B4 h1 r2: Object, Hall"},
		"parted by a column":     {grid("Object|Hall||Fee|Due\nBell|Pier||5|2026-01-02\nHorn|Mill||6|2026-01-03\nLamp|Quay||7|2026-01-04"), "A1:E4 h1 r3: Object, Hall, Column C, Fee, Due"},
		"two lists side by side": {grid("Object|Hall||Person|Room\nBell|Pier||Ann|5\nHorn|Mill||Ben|6\nLamp|Quay||Cid|7"), "A1:B4 h1 r3: Object, Hall; D1:E4 h1 r3: Person, Room"},
		"the same names again":   {grid("Fee|Tax||Fee|Tax\n5|1||6|2\n7|2||8|3\n9|3||4|1"), "A1:B4 h1 r3: Fee, Tax; D1:E4 h1 r3: Fee, Tax"},
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{tc.grid})
			assert.Equal(t, tc.want, say(&r.Sheets[0]))
		})
	}
	g := grid("|101|102\nPier|a|b\nMill|c|d")
	for col := 1; col < 3; col++ {
		c := g.At(0, col)
		c.Bold = true
		g.Put(0, col, c)
	}
	assert.Equal(t, "A1:C3 h1 r2: Column A, 101, 102", say(&reading.Read("f", []*reading.Grid{g}).Sheets[0]), "numbers in bold")
	beside := reading.Read("f", []*reading.Grid{grid("Object|Hall||Person|Room\nBell|Pier||Ann|5\nHorn|Mill||Ben|6\nLamp|Quay||Cid|7")})
	assert.Contains(t, strings.Join(beside.Sheets[0].Tables[0].Doubts, "\n"), "D1:E4 beside it has the same rows")
}

// A form of labels with values is no table.
func TestLabelsWithValuesAreNoTable(t *testing.T) {
	for name, picture := range map[string]string{
		"with colons": "Name:|Pier\nOpens:|2026-03-01\nSeats:|120\nContact:|a@example.org",
		"of kinds":    "Name|North Pier\nOpens|2026-03-01\nSeats|120\nContact|a@example.org\nStep free|☑",
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{grid(picture)})
			assert.Empty(t, r.Sheets[0].Tables)
			require.Len(t, r.Sheets[0].LeftOut, 1)
			assert.Contains(t, r.Sheets[0].LeftOut[0].Reason, "labels with their values: one record")
		})
	}
	r := reading.Read("f", []*reading.Grid{grid("Name|Seats\nPier|120\nMill|80")})
	assert.Len(t, r.Sheets[0].Tables, 1)
}
