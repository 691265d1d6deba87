package formula_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/value"
)

// book is a few cells; those of its one sheet "Data" come row by row.
type book [][]any

func (b book) Cell(_ string, row, col int) (value.Value, error) {
	if row >= len(b) || col >= len(b[row]) {
		return value.Value{}, nil
	}
	switch x := b[row][col].(type) {
	case nil:
		return value.Value{}, nil
	case int:
		return value.OfInt(int64(x)), nil
	case bool:
		return value.OfBool(x), nil
	case string:
		if v, err := value.ParseNumber(x); err == nil {
			return v, nil
		}
		return value.OfText(x), nil
	case error:
		return value.Value{}, x
	}
	return value.Value{}, fmt.Errorf("a cell of kind %T", b[row][col])
}

func (b book) Extent(sheet string) (int, int, bool) {
	return len(b), 4, sheet == "Here" || sheet == "Data" || sheet == "Two words"
}

func TestWhatIsSimpleIsComputed(t *testing.T) {
	cells := book{
		{"Item", 10, "0.1", "Bell"},
		{"Horn", 20, "0.2", "Horn"},
		{nil, -5, true, "bell"},
		{"Lamp", "#N/A", formula.ErrNotComputed, ""},
	}
	for text, want := range map[string]string{
		"B1+B2":                               "30",
		"C1+C2":                               "0.3",
		"SUM(B1:B3)":                          "25",
		"SUM(B1:B3,C1,1)":                     "26.1",
		"SUM(B:B)":                            "#N/A",
		"Data!B1*2":                           "20",
		"'Two words'!$B$1-B2%":                "9.8",
		"-B1+3":                               "-7",
		"2*(3+4)/7":                           "2",
		"1/3":                                 "0.333333333333333333",
		"B1/0":                                "#DIV/0!",
		"IF(B1>5,\"big\",\"small\")":          "big",
		"IF(B9=\"\",\"none\",B9)":             "none",
		"IF(AND(B1=10,D1=\"BELL\"),1,0)":      "1",
		"IFERROR(B1/0,0)":                     "0",
		"IFERROR(VLOOKUP(\"x\",A1:B3,2,0),7)": "7",
		"VLOOKUP(\"horn\",A1:B3,2,FALSE)":     "20",
		"XLOOKUP(\"Horn\",A1:A3,B1:B3)":       "20",
		"D1&\" of \"&B1":                      "Bell of 10",
		"ROUND(2.5,0)":                        "3",
		"ROUND(-2.5,0)":                       "-3",
		"ROUND(1.005,2)":                      "1.01",
		"ROUND(1234,-2)":                      "1200",
		"AVERAGE(B1:B3)":                      "8.333333333333333333",
		"COUNT(A1:D3)":                        "5",
		"COUNTA(A1:A4)":                       "3",
		"MAX(B1:B3)-MIN(B1:B3)":               "25",
		"SUMIF(D1:D3,\"bell\",B1:B3)":         "5",
		"SUMIF(B1:B3,\">0\")":                 "30",
		"COUNTIF(B1:B3,\">=10\")":             "2",
		"LEN(TRIM(\"  a   b \"))":             "3",
		"B9":                                  "0",
		"TRUE":                                "yes",
		"_xlfn.CONCAT(A1,\"-\",A2)":           "Item-Horn",
		"SUBTOTAL(9,B1:B3)":                   "25",
		"\"say \"\"hi\"\"\"":                  `say "hi"`,
		"SUM(B$1:B2)+ROW()":                   "31",
		"1+\"2\"":                             "3",
		"D1+1":                                "#VALUE!",
		"ABS(B3)":                             "5",
		"NOT(ISBLANK(A3))":                    "no",
		"PRODUCT(B1,B2)":                      "200",
	} {
		f, err := formula.Parse("="+text, 0, 5)
		require.NoError(t, err, text)
		v, err := f.Compute(cells, "Here", 0, 5)
		require.NoError(t, err, text)
		got := v.String()
		if strings.HasPrefix(want, "8.33") {
			got, want = got[:12], want[:12]
		}
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"C4", "SUM(C1:C4)", "TODAY()", "XIRR(A1:A2,B1:B2)", "2^8", "VLOOKUP(1,A1:B2,2)", "COUNTIF(A1:A3,\"B*\")", "OFFSET(A1,1,1)"} {
		f, err := formula.Parse(text, 0, 5)
		require.NoError(t, err, text)
		_, err = f.Compute(cells, "Here", 0, 5)
		require.ErrorIs(t, err, formula.ErrNotComputed, text)
	}
	for _, text := range []string{"", "1+", "SUM(", "Sales[Amount]", "[1]Sheet1!A1", "{1,2}", "A1 B1", strings.Repeat("(", 100) + "1" + strings.Repeat(")", 100), "Rate*2"} {
		_, err := formula.Parse(text, 0, 0)
		require.ErrorIs(t, err, formula.ErrNotUnderstood, text)
	}
}

func TestAFormulaFilledDownIsOne(t *testing.T) {
	key := func(text string, row, col int) string {
		f, err := formula.Parse(text, row, col)
		require.NoError(t, err)
		return f.Key()
	}
	assert.Equal(t, key("B2*$C$1+SUM(D$2:D2)", 1, 4), key("B9*$C$1+SUM(D$2:D9)", 8, 4))
	assert.NotEqual(t, key("B2*C1", 1, 4), key("B9*C1", 8, 4))
	assert.Equal(t, key("'a b'!A1", 0, 0), key("'A B'!A2", 1, 0))
}

func TestReferencesFollowRowsPutInBetween(t *testing.T) {
	// rows 3 to 10 are a block (Top 2, Bottom 9), and five more were put in below it
	g := formula.Growth{Sheet: "Data", Right: 9, Top: 2, Bottom: 9, Rows: 5}
	for text, want := range map[string]string{
		"SUM(B3:B10)":                          "SUM(B3:B15)",
		"SUM($B$3:$B$10)*2":                    "SUM($B$3:$B$15)*2",
		"SUM(B5:B10)":                          "SUM(B5:B15)",
		"SUM(B1:B10)":                          "SUM(B1:B15)",
		"SUM(B3:B9)":                           "SUM(B3:B9)",
		"B10":                                  "B10",
		"B11+C12":                              "B16+C17",
		"SUM(B3:B11)":                          "SUM(B3:B16)",
		"SUM(B:B)":                             "SUM(B:B)",
		"SUM(3:10)":                            "SUM(3:15)",
		"Data!B11&Other!B11":                   "Data!B16&Other!B11",
		"'Data'!$B$3:$B$10":                    "'Data'!$B$3:$B$15",
		"\"B11\"":                              "\"B11\"",
		"LOG10(B11)":                           "LOG10(B16)",
		"Sales[B11]+B11":                       "Sales[B11]+B16",
		"SUM( B3 : B10 )":                      "SUM( B3 : B15 )",
		"IF(A1>1E11,B11,\"it's \"\"B11\"\"\")": "IF(A1>1E11,B16,\"it's \"\"B11\"\"\")",
		"[2]Data!B11":                          "[2]Data!B11",
	} {
		assert.Equal(t, want, g.Follow(text, "Data"), text)
	}
	assert.Equal(t, "SUM(B3:B10)", g.Follow("SUM(B3:B10)", "Other"))
	free := formula.Growth{Sheet: "Data", Right: 9, Top: 2, Bottom: 9, Rows: 5, Free: 3} // two rows were put in between
	for text, want := range map[string]string{"SUM(B3:B10)": "SUM(B3:B15)", "SUM(B3:B12)": "SUM(B3:B15)", "B12": "B12", "B14": "B16", "SUM(B3:B20)": "SUM(B3:B22)"} {
		assert.Equal(t, want, free.Follow(text, "Data"), text)
	}
	room := formula.Growth{Sheet: "Data", Right: 9, Top: 2, Bottom: 9, Rows: 5, Free: 9}
	for text, want := range map[string]string{"SUM(B3:B10)": "SUM(B3:B15)", "SUM(B3:B18)": "SUM(B3:B18)", "B30": "B30"} {
		assert.Equal(t, want, room.Follow(text, "Data"), text)
	}
	assert.Equal(t, "B7*$C$1+SUM(D$2:D7)&\"B5\"", formula.Moved("B5*$C$1+SUM(D$2:D5)&\"B5\"", 2, 0))
	assert.Equal(t, "C7*$C$1+SUM(E$2:E7)+'a b'!$B8+D:D", formula.Moved("B5*$C$1+SUM(D$2:D5)+'a b'!$B6+C:C", 2, 1))
	one := formula.Growth{Sheet: "Data", Right: 9, Top: 2, Bottom: 2, Rows: 4}
	assert.Equal(t, "SUM(B3:B7)+B3", one.Follow("SUM(B3:B3)+B3", "Data"), "a block of one row")
}

func TestWhatAFormulaSaysAsAClause(t *testing.T) {
	names := []string{"Qty", "Price", "Cost", "Note", "", "Due"} // A to D, and F; the formula stands in E, row 5
	in := formula.Beside{First: 1, Col: 4, Sheet: "Data", Date: func(right int) bool { return right == 1 }, Name: func(right int) (string, bool) {
		if i := 4 + right; i >= 0 && i < len(names) {
			return names[i], true
		}
		return "", false
	}}
	for text, want := range map[string]string{
		"A5*B5":                         "[Qty] * [Price]",
		"(A5+B5)*C5":                    "([Qty] + [Price]) * [Cost]",
		"A5-(B5-C5)":                    "[Qty] - ([Price] - [Cost])",
		"E4+C5":                         "running sum [Cost]",
		"C5+E4":                         "running sum [Cost]",
		"SUM(E4,C5)":                    "running sum [Cost]",
		"SUM($C$2:C5)":                  "running sum [Cost]",
		"$A5*$B5":                       "[Qty] * [Price]",
		"SUM(C$2:C5)":                   "running sum [Cost]",
		"E4+B5-C5":                      "running sum [Price] - running sum [Cost]",
		"IF(A5>10,\"High\",\"Low\")":    `if [Qty] > 10 then "High" else "Low"`,
		"IF(A5=\"\",\"\",A5*B5)":        "if [Qty] is blank then blank else [Qty] * [Price]",
		"D5&\" x \"&A5":                 `"{[Note]} x {[Qty]}"`,
		"ROUND(A5*B5,2)":                "round([Qty] * [Price], 2)",
		"SUM(A5:C5)":                    "[Qty] + [Price] + [Cost]",
		"AND(A5>1,OR(B5=2,C5<>3))":      "[Qty] > 1 and ([Price] is 2 or [Cost] is not 3)",
		"A5*20%":                        "[Qty] * (20 / 100)",
		"Data!A5/B5":                    "[Qty] / [Price]",
		"-A5":                           "0 - [Qty]",
		"F5+30":                         "[Due] + 30 days",
		"$F5-7":                         "[Due] - 7 days",
		"IF(COUNT(A5,B5)<2,\"\",A5*B5)": "[Qty] * [Price]",
		"IF(COUNT(A5,B5)<2,\"\",IFERROR(A5/B5,\"\"))": "[Qty] / [Price]",
	} {
		f, err := formula.Parse(text, 4, 4)
		require.NoError(t, err, text)
		got, err := f.Clause(in)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
		_, err = clause.Parse(got)
		require.NoError(t, err, "%s says %s", text, got)
	}
	for text, why := range map[string]string{
		"A4*2":                      "a cell of another row",
		"$H$1*A5":                   "a cell of row 1",
		"SUM(A2:A9)":                "a sum over other rows",
		"VLOOKUP(A5,Other!A:B,2,0)": "the function VLOOKUP",
		"Other!A5":                  "a cell of sheet Other",
		"H5":                        "a cell beside the table",
		"A5^2":                      "powers",
	} {
		f, err := formula.Parse(text, 4, 4)
		require.NoError(t, err, text)
		_, err = f.Clause(in)
		require.ErrorContains(t, err, why, text)
	}
}

// Whatever stands in a cell, reading it ends, and following a growth of nothing leaves it.
func FuzzFormula(f *testing.F) {
	for _, s := range []string{"SUM(A1:B2)", "'x y'!A1&\"z\"", "IF(A1,,2)", "#REF!+1", "A:A", "$1:$3", "1E+5%", "[1]A!B2", "Table1[[#This Row],[x]]", "é+A1"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		parsed, err := formula.Parse(s, 5, 5)
		if err == nil {
			_, _ = parsed.Compute(book{{1, 2}}, "Here", 5, 5)
			_, _ = parsed.Clause(formula.Beside{Name: func(int) (string, bool) { return "X", true }})
		}
		if got := (formula.Growth{Sheet: "Q", Right: 9, Rows: 3}).Follow(s, "other"); !strings.Contains(s, "!") && got != s {
			t.Fatalf("%q became %q", s, got)
		}
	})
}

// A sum over a block, wherever it stands, is the sum over the grown block afterwards.
func TestSumsOverABlockGrowWithIt(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		top := rapid.IntRange(0, 20).Draw(rt, "top")
		bottom := top + rapid.IntRange(0, 20).Draw(rt, "height")
		g := formula.Growth{Sheet: "Data", Right: 9, Top: top, Bottom: bottom, Rows: rapid.IntRange(1, 9).Draw(rt, "rows")}
		text := fmt.Sprintf("SUM(B%d:B%d)+B%d", top+1, bottom+1, bottom+2)
		assert.Equal(rt, fmt.Sprintf("SUM(B%d:B%d)+B%d", top+1, bottom+1+g.Rows, bottom+2+g.Rows), g.Follow(text, "Data"))
	})
}
