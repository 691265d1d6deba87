package reading_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/reading"
)

// Which comes first in dates in digits can be said by hand, and stays said where the column
// is read as the tab it goes to has it.
func TestTheOrderOfDatesIsSaidByHand(t *testing.T) {
	read := func() *reading.Reading {
		return reading.Read("f.csv", []*reading.Grid{grid("Object|Due\nBell|03/04/2026\nHorn|05/06/2026\nDrum|07/08/2026")})
	}
	r := read()
	sheet := &r.Sheets[0]
	assert.Equal(t, reading.DayFirst, sheet.Tables[0].Columns[1].DayOrder)
	require.Len(t, sheet.Tables[0].Doubts, 1)
	require.NoError(t, r.Correct([]reading.Correction{{Sheet: sheet.Name, Table: 1, Columns: []reading.ColumnCorrection{{Column: 2, DayOrder: reading.MonthFirst}}}}))
	table := &sheet.Tables[0]
	assert.Equal(t, reading.MonthFirst, table.Columns[1].DayOrder)
	assert.Empty(t, table.Doubts, "it is no doubt any more")
	due := func() string {
		for rec := range sheet.Records(table) {
			return rec.Cells[1].String()
		}
		return ""
	}
	assert.Equal(t, "2026-03-04", due())
	sheet.Retype(table, 1, table.Columns[1].Kind, "as the tab has it")
	assert.Equal(t, "2026-03-04", due())
	assert.Empty(t, table.Doubts)

	for says, c := range map[string]reading.ColumnCorrection{
		"is no order of dates": {Column: 2, DayOrder: "year first"},
		"holds no dates":       {Column: 1, DayOrder: reading.DayFirst},
	} {
		require.ErrorContains(t, read().Correct([]reading.Correction{{Sheet: sheet.Name, Table: 1, Columns: []reading.ColumnCorrection{c}}}), says)
	}
}
