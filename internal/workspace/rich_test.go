package workspace_test

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

// What a file's cells hold besides plain text comes in, moves between tabs, and
// goes out again unharmed: people, dates, links, notes, choices, formats, looks,
// odd cells and texts that look like numbers.
func TestRichCellsSurviveTheWayThroughTabs(t *testing.T) {
	was, before, now, after := throughTabs(t, "kinds.xlsx", "Kinds", "Ref")
	require.Len(t, after, 15)
	assert.Equal(t, before, after)
	for i, c := range was.Columns {
		assert.Equal(t, c.Kind, now.Columns[i].Kind, c.Name)
		assert.Len(t, now.Columns[i].Odd, len(c.Odd), c.Name)
	}
	kinds := map[value.Kind]bool{}
	for _, v := range after[0].Cells {
		kinds[v.Kind()] = true
	}
	for _, k := range []value.Kind{value.Text, value.Number, value.DateTime, value.Date, value.Person, value.Choice, value.Checkbox, value.Link} {
		assert.True(t, kinds[k], "the sample has a cell of kind %s", k)
	}
	for file, sheet := range map[string]string{"looks.xlsx": "Painted", "looks-themes.xlsx": "Themes"} {
		_, before, _, after := throughTabs(t, file, sheet, "Object")
		assert.Equal(t, before, after, file)
		looks := 0
		for _, r := range after {
			for _, look := range r.Styles {
				if look != "" {
					looks++
				}
			}
		}
		assert.GreaterOrEqual(t, looks, 5, file)
	}
}

// throughTabs takes a file in, has a rule move every row to another tab, writes
// that tab to a workbook, and gives what was read of both files.
func throughTabs(t *testing.T, name, sheetName, filled string) (was *reading.Table, before []reading.Record, now *reading.Table, after []reading.Record) {
	t.Helper()
	b := newBench(t)
	file, err := formats.ReadFile("../formats/testdata/awkward/" + name)
	require.NoError(t, err)
	was = &file.Sheets[0].Tables[0]
	before = testkit.Records(&file.Sheets[0], was)
	b.must(b.Take(testkit.By("Ines"), file, intake.Import{New: "Rich", Zone: "UTC", Sheet: sheetName}))
	rich, err := b.Find("Rich")
	require.NoError(t, err)
	b.must(b.PutDefinition(testkit.By("Ines"), rich.ID, sheet.KindRule, fmt.Appendf(nil, "{ name: There, in: %s, where: %s is not blank, steps: [ { move: { to: Elsewhere, create: like %s } } ] }", sheetName, filled, sheetName), 0))
	rich, err = b.Find("Rich")
	require.NoError(t, err)
	there, err := b.FindRule(rich, "There")
	require.NoError(t, err)
	b.must(b.RunRule(testkit.By("Ines"), rich, there))
	rich, err = b.Find("Rich")
	require.NoError(t, err)
	tab, err := rich.Tab("Elsewhere")
	require.NoError(t, err)
	table, _, err := b.Select(rich, query.Query{Tab: tab}, nil)
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, xlsx.Write(&out, []outbound.Table{table}))
	back, err := formats.Read("back.xlsx", bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	now = &back.Sheets[0].Tables[0]
	return was, before, now, testkit.Records(&back.Sheets[0], now)
}

func TestCellsAreSetOffAndMadePlainAgain(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	object := b.tracker().Tabs[0].Columns[0].ID
	look := func(text string) (*engine.Result, error) {
		return b.Commit(t.Context(), b.SetRows(testkit.By("Ines"), b.tracker().ID, []edit.RowEdit{{Row: row, Styles: map[string]string{"Object": text}}}))
	}
	r, err := look("bold, fill amber")
	require.NoError(t, err)
	assert.Equal(t, "fill #F6E7CC, bold", b.tracker().Row(row).Styles()[object])
	assert.Equal(t, `set off Object of "Bell": fill amber, bold`, b.State().Describe(r.Set.Changes[0]))
	again, err := look("fill #f6e7cc, bold")
	require.NoError(t, err)
	assert.Empty(t, again.Set.Changes, "it looks like that already")
	_, err = look("loud")
	require.ErrorContains(t, err, `"loud" is not a style`)
	moved, err := b.set(row, "Stage", "Agreed")
	require.NoError(t, err)
	assert.Equal(t, "Agreed", b.tabOf(row))
	assert.Equal(t, "fill #F6E7CC, bold", b.tracker().Row(row).Styles()[object], "it moves with the row")
	for _, set := range []*sheet.ChangeSet{moved.Set, r.Set} {
		req, err := b.Undo(t.Context(), testkit.By("Ines"), set, false)
		require.NoError(t, err)
		b.must(req)
	}
	assert.Empty(t, b.tracker().Row(row).Styles())
}
