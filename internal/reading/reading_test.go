package reading_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// grid reads a picture of a sheet: a line a row, cells parted by bars; digits
// are numbers, ☐ and ☑ ticks, =x what a formula gave, ISO dates dates.
func grid(picture string) *reading.Grid {
	g := &reading.Grid{Name: "S"}
	row := 0
	for line := range strings.Lines(strings.Trim(picture, "\n")) {
		for col, c := range strings.Split(strings.TrimRight(line, "\n"), "|") {
			g.Put(row, col, cell(strings.TrimSpace(c)))
		}
		row++
	}
	return g
}

func cell(s string) reading.Cell {
	if formula, ok := strings.CutPrefix(s, "="); ok {
		c := cell(formula)
		c.Formula = true
		return c
	}
	switch s {
	case "☐":
		return reading.Cell{Value: value.OfBool(false)}
	case "☑":
		return reading.Cell{Value: value.OfBool(true)}
	}
	for _, k := range []value.Kind{value.Number, value.Date} {
		if v, err := value.Parse(s, value.Type{Kind: k}); err == nil {
			return reading.Cell{Value: v}
		}
	}
	return reading.Cell{Value: value.OfText(s)}
}

func TestTablesAreFound(t *testing.T) {
	for name, tc := range map[string]struct{ picture, want string }{
		"plain":         {"Object|Due\nBell|2026-03-01\nLamp|2026-03-02", "A1:B3 2 rows: Object text, Due date"},
		"hollow below":  {"Object|Packed|Sum\nBell|☑|=5\nLamp|☐|=5\n|☐|=5\n|☐|=5\n|☐|=5", "A1:C3 2 rows: Object text, Packed checkbox, Sum number"},
		"a title above": {"Hanging plan\n\n|Wall|Height\n|A|80\n|B|90", "B3:C5 2 rows: Wall text, Height number"},
		"a total below": {"Leg|Cost\nOne|5\nTwo|7\nTotal|=12", "A1:B3 2 rows: Leg text, Cost number"},
		"side by side":  {"A|N||B|M\nx|1||y|2\nz|3||w|4", "A1:B3 2 rows: A text, N number; D1:E3 2 rows: B text, M number"},
		"header alone":  {"Object|Due", "A1:B1 0 rows: Object text, Due text"},
		"nothing":       {"", ""},
		"remarks alone": {"just a remark\nand another", ""},
		"doubled names": {"Name|Name|\nBell|Lamp|x\nHorn|Lens|y", "A1:C3 2 rows: Name text, Name (2) text, Column C text"},
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{grid(tc.picture)})
			var tables []string
			for _, table := range r.Sheets[0].Tables {
				var columns []string
				for _, c := range table.Columns {
					columns = append(columns, c.Name+" "+c.Type)
				}
				tables = append(tables, fmt.Sprintf("%s %d rows: %s", table.Range, table.Rows, strings.Join(columns, ", ")))
			}
			assert.Equal(t, tc.want, strings.Join(tables, "; "))
		})
	}
}

// column reads one column of texts, as a CSV file gives them.
func column(t *testing.T, cells ...string) (reading.Column, []string, []string) {
	t.Helper()
	g := reading.GridOf("", []reading.Cell{{Value: value.OfText("Key")}, {Value: value.OfText("X")}})
	g.Texts = true
	for i, c := range cells {
		g.Put(i+1, 0, reading.Cell{Value: value.OfText(fmt.Sprintf("k%d", i))})
		g.Put(i+1, 1, reading.Cell{Value: value.OfText(c)})
	}
	r := reading.Read("f", []*reading.Grid{g})
	require.Len(t, r.Sheets[0].Tables, 1)
	table := &r.Sheets[0].Tables[0]
	var values []string
	for rec := range r.Sheets[0].Records(table) {
		text := rec.Cells[1].String()
		if rec.Cells[1].IsOdd() {
			text = "?" + text
		}
		values = append(values, text)
	}
	return table.Columns[1], values, table.Doubts
}

func TestTypesAreDecidedOverTheWholeColumn(t *testing.T) {
	for _, tc := range []struct {
		cells, want []string
		typ         string
		doubt       string
	}{
		{[]string{"2026-03-31", "2026-04-01", "TBC", "2026-04-02", "2026-04-03"}, []string{"2026-03-31", "2026-04-01", "?TBC", "2026-04-02", "2026-04-03"}, "date", ""},
		{[]string{"31/03/2026", "01/04/2026"}, []string{"2026-03-31", "2026-04-01"}, "date", ""},
		{[]string{"03/31/2026", "04/01/2026"}, []string{"2026-03-31", "2026-04-01"}, "date", ""},
		{[]string{"03/04/2026", "01/04/2026"}, []string{"2026-04-03", "2026-04-01"}, "date", "day and month could be either way round"},
		{[]string{"03.04.26", "01.04.26"}, []string{"2026-04-03", "2026-04-01"}, "date", ""},
		{[]string{"1.234,50", "7,25"}, []string{"1234.5", "7.25"}, "number", ""},
		{[]string{"1,234.50", "7.25"}, []string{"1234.5", "7.25"}, "number", ""},
		{[]string{"€12.50", "€7.25"}, []string{"12.5", "7.25"}, "number", ""},
		{[]string{"12 %", "7.5 %"}, []string{"0.12", "0.075"}, "number", ""},
		{[]string{"12", "7"}, []string{"12", "7"}, "number", ""},
		{[]string{"007", "012"}, []string{"007", "012"}, "text", ""},
		{[]string{"+351 21 000 00", "+351 21 000 01"}, []string{"+351 21 000 00", "+351 21 000 01"}, "text", ""},
		{[]string{"−5", "-7,25", "+3"}, []string{"-5", "-7.25", "3"}, "number", ""},
		{[]string{"1 250", "310", "12 400"}, []string{"1250", "310", "12400"}, "number", ""},
		{[]string{"1\u202f250", "3\u00a0310"}, []string{"1250", "3310"}, "number", ""},
		{[]string{"912 345 678", "934 000 111"}, []string{"912 345 678", "934 000 111"}, "text", ""},
		{[]string{"21 00 17", "310"}, []string{"21 00 17", "310"}, "text", ""},
		{[]string{"Y", "N", "Y"}, []string{"yes", "no", "yes"}, "checkbox", ""},
		{[]string{"ja", "Nein"}, []string{"yes", "no"}, "checkbox", ""},
		{[]string{"N", "N"}, []string{"N", "N"}, "text", ""},
		{[]string{"N", "S", "Y"}, []string{"N", "S", "Y"}, "text", ""},
		{[]string{"yes", "no", "Yes"}, []string{"yes", "no", "yes"}, "checkbox", ""},
		{[]string{"a@example.org", "b@example.org"}, []string{"a@example.org", "b@example.org"}, "person", ""},
		{[]string{"https://example.org/1", "https://example.org/2"}, []string{"https://example.org/1", "https://example.org/2"}, "link", ""},
		{[]string{"Bell", "12", "2026-03-31"}, []string{"Bell", "12", "2026-03-31"}, "text", ""},
		{[]string{"9705E10", "0042"}, []string{"9705E10", "0042"}, "text", ""},
		{[]string{".5", "1.25", "3"}, []string{"0.5", "1.25", "3"}, "number", ""},
		{[]string{"1e-5", "2.5E3", "7"}, []string{"0.00001", "2500", "7"}, "number", ""},
		{[]string{"0.1234567890123456789", "1.5", "2"}, []string{"0.123456789012345679", "1.5", "2"}, "number", ""},
		{[]string{"1.797E+308", "5", "6", "7"}, []string{"?1.797E+308", "5", "6", "7"}, "number", ""},
		{[]string{"1.1", "1.10", "1.9"}, []string{"1.1", "1.10", "1.9"}, "text", ""},
		{[]string{"1.2.0", "1.3.1", "2.0.0"}, []string{"1.2.0", "1.3.1", "2.0.0"}, "text", ""},
		{[]string{"17", "0042", "9"}, []string{"17", "0042", "9"}, "text", ""},
		{[]string{"1.250.000", "12.500.000"}, []string{"1250000", "12500000"}, "number", ""},
		{[]string{"12.50", "7.25", "1250.125"}, []string{"12.5", "7.25", "1250.125"}, "number", ""},
		{[]string{"1250.125", "12"}, []string{"1250.125", "12"}, "number", ""},
		{[]string{"1,250", "12"}, []string{"1250", "12"}, "number", "thousands"},
		{[]string{"0.125", "0.250"}, []string{"0.125", "0.25"}, "number", ""},
	} {
		t.Run(strings.Join(tc.cells, " "), func(t *testing.T) {
			c, values, doubts := column(t, tc.cells...)
			assert.Equal(t, tc.typ, c.Type, c.Reason)
			assert.Equal(t, tc.want, values)
			if tc.doubt == "" {
				assert.Empty(t, doubts)
			} else {
				require.Len(t, doubts, 1)
				assert.Contains(t, doubts[0], tc.doubt)
			}
		})
	}
}

func TestCellNames(t *testing.T) {
	for want, at := range map[string][2]int{"A1": {0, 0}, "Z9": {8, 25}, "AA10": {9, 26}, "XFD1048576": {1<<20 - 1, 1<<14 - 1}} {
		assert.Equal(t, want, reading.CellName(at[0], at[1]))
	}
}

// An archive has seldom the dropdowns of the sheet that it archives: where all of its values are
// among their options, its column is the same.
func TestAColumnOfTextIsTheChoiceOfItsSibling(t *testing.T) {
	live, archive, other := grid("No|Object|Flag\n1|Bell|Late\n2|Horn|Hold"), grid("No|Object|Flag\n3|Oar|late\n4|Lamp|"), grid("No|Object|Flag\n5|Drum|Lost\n6|Rope|Hold")
	for row := 1; row <= 2; row++ {
		c := live.At(row, 2)
		c.More = &reading.More{Choices: []string{"Late", "Hold"}}
		live.Put(row, 2, c)
	}
	live.Name, archive.Name, other.Name = "Live", "Archive", "Other"
	r := reading.Read("book.xlsx", []*reading.Grid{archive, live, other})
	var got []string
	for i := range r.Sheets {
		c := r.Sheets[i].Tables[0].Columns[2]
		got = append(got, c.Type+" "+strings.Join(c.Choices, "/")+", "+c.Reason)
	}
	assert.Equal(t, []string{"choice Late/Hold, as in Live", "choice Late/Hold, a dropdown offers the choices", "text , 2 of 2 filled cells are text or of mixed types"}, got)
	for rec := range r.Sheets[0].Records(&r.Sheets[0].Tables[0]) {
		assert.False(t, rec.Cells[2].IsOdd())
	}
}
