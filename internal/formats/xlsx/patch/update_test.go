package patch_test

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/formats/xlsx/patch"
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

func TestATableThatStandsThereIsBroughtIntoStep(t *testing.T) {
	before, err := os.ReadFile("testdata/standing.xlsx")
	require.NoError(t, err)
	rows := stock(
		[]value.Value{value.OfText("k2"), value.OfInt(25), value.OfDate(2026, 3, 2), value.OfText("x")},
		[]value.Value{value.OfText("K3"), value.OfInt(30), value.OfDate(2026, 3, 3), value.OfText("x")},
		[]value.Value{value.OfText("=K4"), value.MustNumber("4.5"), value.OfDate(2026, 3, 4), value.OfText("x")},
		[]value.Value{value.OfText("K5"), value.Value{}, value.Value{}, value.Value{}})
	var out bytes.Buffer
	u, err := patch.Update(&out, before, rows, patch.Into{Sheet: "stock '26", Key: "No"})
	require.NoError(t, err)
	assert.Equal(t, patch.Updated{Range: "Stock '26!B3:F8", Added: 2, Changed: 1, Unchanged: 1}, u)
	after := out.Bytes()
	grids, err := xlsx.Read(bytes.NewReader(after), int64(len(after)))
	require.NoError(t, err)
	g := grids[0]
	for at, want := range map[[2]int]string{{3, 1}: "K1", {3, 3}: "10.5", {4, 1}: "K2", {4, 3}: "25", {4, 2}: "Fox", {6, 1}: "=K4", {6, 3}: "4.5", {6, 4}: "2026-03-04", {7, 1}: "K5", {0, 1}: "Stock of the halls"} {
		assert.Equal(t, want, g.At(at[0], at[1]).Value.String(), at)
	}
	assert.False(t, g.At(6, 1).Formula, "text that begins as a formula goes in as text")
	require.Len(t, g.Declared, 1)
	assert.Equal(t, "B3:F8", g.Declared[0].Range.String(), "the defined table grows")
	chart := part(t, after, "xl/charts/chart1.xml")
	assert.Contains(t, chart, "$D$4:$D$8", "and so does the chart of its rows")
	assert.NotContains(t, chart, "$D$4:$D$6")
	assert.Contains(t, part(t, after, "xl/worksheets/sheet1.xml"), `<f>`, "formulas stay")

	var again bytes.Buffer
	u, err = patch.Update(&again, after, rows, patch.Into{Sheet: "Stock '26", Table: "stock", Key: "No"})
	require.NoError(t, err)
	assert.Equal(t, patch.Updated{Range: "Stock '26!B3:F8", Unchanged: 4}, u, "twice changes nothing")
	u, err = patch.Update(io.Discard, after, rows, patch.Into{Sheet: "Stock '26"})
	require.NoError(t, err)
	assert.Equal(t, 4, u.Added, "without a key, rows are added every time")
}

func TestWhereRowsCannotGoNothingIsWritten(t *testing.T) {
	before, err := os.ReadFile("testdata/standing.xlsx")
	require.NoError(t, err)
	row := []value.Value{value.OfText("K9"), value.OfInt(1), value.Value{}, value.Value{}}
	for says, into := range map[string]patch.Into{
		`there is no sheet "Stok '26" in the workbook: did you mean Stock '26?`: {Sheet: "Stok '26"},
		`there is no table "Stck" on sheet Stock '26: did you mean Stock?`:      {Sheet: "Stock '26", Table: "Stck"},
		`there is no column "Nr" in the table at B3:F6: did you mean No?`:       {Sheet: "Stock '26", Key: "Nr"},
	} {
		var out bytes.Buffer
		_, err := patch.Update(&out, before, stock(row), into)
		require.ErrorContains(t, err, says)
		assert.Zero(t, out.Len())
	}
	_, err = patch.Update(io.Discard, before, &outbound.Table{Columns: []outbound.Column{{Name: "Colour"}}}, patch.Into{Sheet: "Full"})
	require.ErrorContains(t, err, "has none of the columns")
	_, err = patch.Place(io.Discard, []byte("PK no workbook"), stock(row), patch.At{Sheet: "S", Cell: "A1"})
	require.ErrorIs(t, err, xlsx.ErrNotWorkbook)
}

func TestASheetIsMadeWhereThatIsAskedFor(t *testing.T) {
	before, err := os.ReadFile("testdata/standing.xlsx")
	require.NoError(t, err)
	var out bytes.Buffer
	done, err := patch.Place(&out, before, stock([]value.Value{value.OfText("K9"), value.OfInt(1), value.OfDate(2026, 3, 9), value.OfText("x")}), patch.At{Sheet: "New", Cell: "C2", Headers: true})
	require.NoError(t, err)
	assert.Equal(t, patch.Placed{Range: "New!C2:F3", Made: true}, done)
	grids, err := xlsx.Read(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	assert.Equal(t, "2026-03-09", grids[2].At(2, 4).Value.String())
	assert.Equal(t, "Elsewhere", grids[2].At(1, 5).Value.String())
}
