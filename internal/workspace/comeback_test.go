package workspace_test

import (
	"bytes"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

const goesOut = `
tracker: Loans
zone: UTC
tabs:
  Requested:
    columns:
      Object: { type: text }
      Fee: { type: number }
      Due: { type: date }
      Tax: { type: computed, clause: Fee / 10 }
`

// away is a tab that went out as a workbook, to be edited elsewhere.
type away struct {
	*bench
	tracker *sheet.Tracker
	tab     *sheet.TabShape
}

func goOut(t *testing.T) (*away, []sheet.RowID) {
	t.Helper()
	b := newBench(t)
	b.must(b.DropTracker(testkit.By("Ines"), b.tracker().ID))
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(goesOut)))
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	added := b.must(b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, []map[string]any{
		{"Object": "Bell", "Fee": 5, "Due": "2026-04-01"}, {"Object": "Horn", "Fee": 7}, {"Object": "Lamp", "Fee": 9, "Due": "2026-04-03"}}))
	return &away{b, tr, tab}, added.Set.Rows()
}

func (a *away) export() []byte {
	a.t.Helper()
	table, _, err := a.SelectKnown(a.t.Context(), a.bench.tracker(), query.Query{Tab: a.tab}, nil)
	require.NoError(a.t, err)
	var out bytes.Buffer
	require.NoError(a.t, xlsx.Write(&out, []outbound.Table{table}))
	return out.Bytes()
}

// edited opens a workbook with the library, as another program would, and saves it anew.
func (a *away) edited(file []byte, how func(*excelize.File)) []byte {
	a.t.Helper()
	f, err := excelize.OpenReader(bytes.NewReader(file))
	require.NoError(a.t, err)
	defer f.Close()
	how(f)
	var out bytes.Buffer
	require.NoError(a.t, f.Write(&out))
	return out.Bytes()
}

func (a *away) comeBack(file []byte) *intake.Imported {
	a.t.Helper()
	read, err := formats.Read("loans.xlsx", bytes.NewReader(file), int64(len(file)))
	require.NoError(a.t, err)
	r := a.must(a.Take(testkit.By("Ines"), read, intake.Import{Tracker: a.tracker.ID, Tab: "Requested"}))
	return &r.Note.Detail.(*intake.ImportDetail).Tables[0]
}

func (a *away) rows() []string { return a.cellsOf("Loans", "Requested") }

// A workbook that went out comes back: what was edited in it arrives, in whatever order its
// rows are now, what was edited here stays, and no row is doubled.
func TestAWorkbookComesBackWithWhatWasEditedInIt(t *testing.T) {
	a, rows := goOut(t)
	file := a.export()
	same := a.comeBack(file)
	assert.Equal(t, 3, same.Taken.Unchanged)
	assert.Zero(t, same.Taken.Added+same.Taken.Updated)
	assert.Equal(t, "A1:D4", same.Range, "nobody sees by what rows are known")

	_, err := a.set(rows[0], "Object", "Ship's bell")
	require.NoError(t, err)
	a.must(a.RemoveRows(testkit.By("Ines"), a.tracker.ID, []sheet.RowID{rows[2]}))
	back := a.comeBack(a.edited(file, func(f *excelize.File) {
		require.NoError(t, f.SetCellValue("Requested", "B2", 6))
		require.NoError(t, f.SetCellValue("Requested", "A3", "Fog horn"))
		require.NoError(t, f.SetSheetRow("Requested", "A5", &[]any{"Gull", 3}))
		upper, err := f.GetRows("Requested")
		require.NoError(t, err)
		for i := range 5 { // the first and the second row change places, as sorting does
			one, two := upper[1], upper[2]
			cell := func(row []string) string {
				if i < len(row) {
					return row[i]
				}
				return ""
			}
			if i == 0 || i == 4 {
				require.NoError(t, f.SetCellValue("Requested", fmt.Sprintf("%c2", 'A'+i), cell(two)))
				require.NoError(t, f.SetCellValue("Requested", fmt.Sprintf("%c3", 'A'+i), cell(one)))
			}
		}
		require.NoError(t, f.SetCellValue("Requested", "B2", 7))
		require.NoError(t, f.SetCellValue("Requested", "B3", 6))
		require.NoError(t, f.SetCellValue("Requested", "C2", nil))
		require.NoError(t, f.SetCellValue("Requested", "C3", 46113))
	}))
	assert.Equal(t, []string{"Ship's bell|6|2026-04-01|", "Fog horn|7||", "Gull|3||"}, a.rows())
	assert.Equal(t, 1, back.Taken.Added)
	assert.Equal(t, 2, back.Taken.Updated)
	assert.Equal(t, 1, back.Taken.Unchanged, "the row that was deleted here stays so")
	assert.Empty(t, back.Taken.Held)
}

// A copy of an exported row is another row, and a column added elsewhere comes along.
func TestRowsAndColumnsAddedElsewhereComeAlong(t *testing.T) {
	a, _ := goOut(t)
	back := a.comeBack(a.edited(a.export(), func(f *excelize.File) {
		require.NoError(t, f.InsertCols("Requested", "C", 1))
		require.NoError(t, f.SetSheetCol("Requested", "C1", &[]any{"Hall", "Pier", "Mill", "Quay"}))
	}))
	assert.Equal(t, []string{"Hall"}, back.Columns)
	assert.Zero(t, back.Taken.Added)
	assert.Equal(t, []string{"Bell|5|2026-04-01||Pier", "Horn|7|||Mill", "Lamp|9|2026-04-03||Quay"}, a.rows())
}

// Whatever is edited here and elsewhere, exactly the edits arrive.
func TestExactlyTheEditsArrive(t *testing.T) {
	fees := []string{"5", "6", "7", ""}
	rapid.Check(t, func(rt *rapid.T) {
		a, rows := goOut(t)
		file := a.export()
		was := []string{"5", "7", "9"}
		here, there := slices.Clone(was), slices.Clone(was)
		for i := range was {
			if rapid.Bool().Draw(rt, "edit here") {
				here[i] = rapid.SampledFrom(fees).Draw(rt, "here")
				a.must(a.SetRows(testkit.By("Ines"), a.tracker.ID, []edit.RowEdit{{Row: rows[i], Cells: map[string]any{"Fee": here[i]}}}))
			}
			if rapid.Bool().Draw(rt, "edit there") {
				there[i] = rapid.SampledFrom(fees).Draw(rt, "there")
			}
		}
		back := a.comeBack(a.edited(file, func(f *excelize.File) {
			for i := range there {
				var v any
				if there[i] != "" {
					v = int(there[i][0] - '0')
				}
				require.NoError(rt, f.SetCellValue("Requested", fmt.Sprintf("B%d", i+2), v))
			}
		}))
		held := 0
		for i := range was {
			want := here[i]
			switch {
			case there[i] == here[i], there[i] == was[i]:
			case here[i] == was[i]:
				want = there[i]
			default:
				held++
			}
			got, err := a.FindCell(rows[i], "Fee")
			require.NoError(rt, err)
			assert.Equal(rt, want, got)
		}
		assert.Len(rt, back.Taken.Held, held)
		assert.Zero(rt, back.Taken.Added)
	})
}

// FindCell gives a cell's text.
func (a *away) FindCell(row sheet.RowID, column string) (string, error) {
	tr := a.bench.tracker()
	r := tr.Row(row)
	c, err := tr.TabOf(r).Column(column)
	if err != nil {
		return "", err
	}
	return r.Get(tr.TabOf(r), c.ID).String(), nil
}
