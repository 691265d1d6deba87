package formats_test

import (
	"bytes"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/formats/csv"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

var optionNames = []string{"Agreed", "In transit", "a, b", `say "so"`, "=SUM(A1)", "Über"}

// anyType draws a column type of every kind.
func anyType(t *rapid.T) value.Type {
	typ := value.Type{Kind: rapid.SampledFrom([]value.Kind{value.Text, value.Number, value.Date, value.DateTime, value.Checkbox, value.Choice, value.Person, value.Link, value.File}).Draw(t, "kind")}
	switch typ.Kind {
	case value.Number:
		typ.Display = rapid.SampledFrom([]string{"", "percent", "EUR", "rating"}).Draw(t, "display")
	case value.Choice:
		typ.Several = rapid.Bool().Draw(t, "several")
		for i, n := range optionNames {
			typ.Options = append(typ.Options, value.Option{Name: n, Colour: []string{"", "amber"}[i%2]})
		}
	}
	return typ
}

// trickyTexts look like other things than texts.
var trickyTexts = []string{"=1+1", "+351 21", "-", "@here", "'=x", "''", "007", "1E10", "2026-03-31", "03/04/2026", "12,50", "yes", "TBC", " padded ", "line\nbreak", "tab\there", "_x0041_", "Total", "\u00a0", "{\"a\":1}", "€5"}

func anyText(t *rapid.T) string {
	if rapid.Bool().Draw(t, "tricky") {
		return rapid.SampledFrom(trickyTexts).Draw(t, "text")
	}
	s := rapid.String().Draw(t, "text")
	return strings.ReplaceAll(s, "\r", "")
}

func anyValue(t *rapid.T, typ value.Type) value.Value {
	var v value.Value
	switch typ.Kind {
	case value.Text:
		v = value.OfText(anyText(t))
	case value.Number:
		v = value.MustNumber(rapid.StringMatching(`-?(0|[1-9][0-9]{0,11})(\.[0-9]{1,5})?`).Draw(t, "number"))
	case value.Date:
		v = value.OfDays(rapid.Int64Range(-40_000, 60_000).Draw(t, "days"))
	case value.DateTime:
		v = value.OfSeconds(rapid.Int64Range(-3_000_000_000, 4_000_000_000).Draw(t, "seconds"))
	case value.Checkbox:
		v = value.OfBool(rapid.Bool().Draw(t, "tick"))
	case value.Choice:
		n := 1
		if typ.Several {
			n = rapid.IntRange(1, 3).Draw(t, "options")
		}
		v = value.OfChoice(slices.Clone(optionNames[:n])...)
	case value.Person:
		v = value.OfPerson(rapid.StringMatching(`[a-z]{1,8}@example\.org`).Draw(t, "person"))
	case value.Link:
		v = value.OfLink("https://example.org/"+rapid.StringMatching(`[a-z0-9/]{0,9}(#[a-z]{1,3})?`).Draw(t, "address"), rapid.SampledFrom([]string{"", "image 4", "<b>"}).Draw(t, "label"))
	case value.File:
		v = value.OfFile(rapid.StringMatching(`[a-z]{1,8}\.pdf`).Draw(t, "file"), "")
	}
	return v
}

// anyLook draws how a cell is set off; mostly it is not.
func anyLook(t *rapid.T) string {
	if rapid.IntRange(0, 3).Draw(t, "set off") > 0 {
		return ""
	}
	colour := rapid.SampledFrom([]string{"", "#C7831A", "#1D6B5D", "#FFF2CC", "#010203"})
	l := value.CellStyle{Fill: colour.Draw(t, "fill"), Ink: colour.Draw(t, "ink"), Bold: rapid.Bool().Draw(t, "bold"), Italic: rapid.Bool().Draw(t, "italic"), Struck: rapid.Bool().Draw(t, "struck")}
	return l.String()
}

func anyTable(t *rapid.T) (*outbound.Table, []outbound.Row) {
	table := &outbound.Table{Name: rapid.SampledFrom([]string{"Loans", "a/b: [c]", "'quoted'", "対象", strings.Repeat("long ", 12)}).Draw(t, "name")}
	for i := range rapid.IntRange(1, 5).Draw(t, "columns") {
		name := rapid.SampledFrom([]string{"Object", "Due date", "Größe", "=Sum", "Nr."}).Draw(t, "column")
		table.Columns = append(table.Columns, outbound.Column{Name: name + strings.Repeat("+", i), Type: anyType(t)})
	}
	var rows []outbound.Row
	for range rapid.IntRange(0, 6).Draw(t, "rows") {
		n := len(table.Columns)
		row := outbound.Row{Cells: make([]value.Value, n), Notes: make([]string, n), Styles: make([]string, n)}
		blank := true
		for i, c := range table.Columns {
			switch rapid.IntRange(0, 9).Draw(t, "fill") {
			case 0:
			case 1:
				row.Cells[i], _ = value.Fit(value.OfText("not this, "+rapid.StringMatching(`[a-z]{1,5}`).Draw(t, "odd")), c.Type)
			default:
				row.Cells[i] = anyValue(t, c.Type)
			}
			blank = blank && row.Cells[i].IsBlank()
			if rapid.IntRange(0, 9).Draw(t, "noted") == 0 {
				row.Notes[i] = "Lift from below & mind the <frame>."
			}
			row.Styles[i] = anyLook(t)
		}
		if !blank { // a row of nothing is none in any file
			rows = append(rows, row)
		}
	}
	table.Count, table.Rows = len(rows), slices.Values(rows)
	return table, rows
}

// What was written to a workbook is read back the same: names, types, choices
// with their colours, every value, every note, every look.
func TestRandomWorkbooksComeBackAsTheyWere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		table, rows := anyTable(t)
		var out bytes.Buffer
		require.NoError(t, xlsx.Write(&out, []outbound.Table{*table}))
		r, err := formats.Read("t.xlsx", bytes.NewReader(out.Bytes()), int64(out.Len()))
		require.NoError(t, err)
		require.Len(t, r.Sheets, 1, "the sheet of definitions is not one to take in")
		require.Len(t, r.Sheets[0].Tables, 1)
		got := &r.Sheets[0].Tables[0]
		for i, c := range table.Columns {
			assert.Equal(t, c.Name, got.Columns[i].Name)
			assert.Equal(t, c.Type, got.Columns[i].Kind)
		}
		compare(t, &r.Sheets[0], got, rows, true)
	})
}

// What was written as CSV comes back the same where the types are known.
func TestRandomCSVComesBackAsItWas(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		table, rows := anyTable(t)
		if len(table.Columns) < 2 || len(rows) == 0 || slices.ContainsFunc(rows, func(row outbound.Row) bool {
			return slices.ContainsFunc(row.Cells, func(v value.Value) bool { return value.EqualText(v.String(), "Total") })
		}) {
			return
		}
		var out bytes.Buffer
		require.NoError(t, csv.Write(&out, table))
		g, err := csv.Read(bytes.NewReader(out.Bytes()))
		require.NoError(t, err)
		g.Declared = []reading.Declared{{Name: "T", Range: reading.Range{Right: len(table.Columns) - 1, Bottom: len(rows)}, Exact: true}}
		r := reading.Read("t.csv", []*reading.Grid{g})
		require.Len(t, r.Sheets[0].Tables, 1)
		got := &r.Sheets[0].Tables[0]
		for i, c := range table.Columns {
			assert.Equal(t, c.Name, got.Columns[i].Name)
			r.Sheets[0].Retype(got, i, c.Type, "")
		}
		compare(t, &r.Sheets[0], got, rows, false)
	})
}

func compare(t *rapid.T, s *reading.Sheet, got *reading.Table, rows []outbound.Row, besides bool) {
	records := testkit.Records(s, got)
	require.Len(t, records, len(rows))
	for i, rec := range records {
		for j, want := range rows[i].Cells {
			if besides {
				assert.Equal(t, rows[i].Styles[j], rec.Styles[j], "the look of row %d, column %s", i, got.Columns[j].Name)
			}
			if !utf8.ValidString(want.String()) {
				continue
			}
			if want.IsBlank() {
				want = value.Value{} // white space alone is blank
				assert.True(t, rec.Cells[j].IsBlank())
				continue
			}
			assert.Equal(t, want, rec.Cells[j], "row %d, column %s", i, got.Columns[j].Name)
			if besides {
				assert.Equal(t, rows[i].Notes[j], rec.Notes[j])
			}
		}
	}
}
