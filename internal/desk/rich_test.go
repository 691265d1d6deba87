package desk_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/desk"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

// What a file's cells hold besides plain text comes in, moves between tabs, and
// goes out again unharmed: people, dates, links, notes, choices, formats, odd
// cells and texts that look like numbers.
func TestRichCellsSurviveTheWayThroughTabs(t *testing.T) {
	b := newBench(t)
	file, err := formats.ReadFile("../formats/testdata/awkward/kinds.xlsx")
	require.NoError(t, err)
	was := &file.Sheets[0].Tables[0]
	before := testkit.Records(&file.Sheets[0], was)
	b.must(b.Take("Ines", file, desk.Import{New: "Rich", Zone: "UTC", Sheet: "Kinds"}))
	rich, err := b.Find("Rich")
	require.NoError(t, err)
	b.must(b.PutPart("Ines", rich.ID, sheet.PartRule, []byte("{ name: There, in: Kinds, where: Ref is not blank, steps: [ { move: { to: Elsewhere, create: like Kinds } } ] }"), 0))
	rich, err = b.Find("Rich")
	require.NoError(t, err)
	there, err := b.FindRule(rich, "There")
	require.NoError(t, err)
	b.must(b.RunRule("Ines", rich, there))
	rich, err = b.Find("Rich")
	require.NoError(t, err)
	tab, err := rich.Tab("Elsewhere")
	require.NoError(t, err)
	require.Equal(t, 15, rich.Count(tab.ID))

	table, _, err := b.Select(rich, desk.Selection{Tab: tab})
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, xlsx.Write(&out, []outbound.Table{table}))
	back, err := formats.Read("back.xlsx", bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.NoError(t, err)
	now := &back.Sheets[0].Tables[0]
	after := testkit.Records(&back.Sheets[0], now)
	require.Len(t, after, len(before))
	for i := range before {
		assert.Equal(t, before[i].Cells, after[i].Cells, "row %d", i)
		assert.Equal(t, before[i].Notes, after[i].Notes)
	}
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
}
