package api

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

// What does not fit is listed with why, and with what would fit where something is near.
func TestOddCellsAreListedWithWhyAndWhatWouldFit(t *testing.T) {
	r := newRig(t)
	r.setup("tracker: Odd\ntabs: { Jobs: { columns: { Job: { type: text }, Level: { type: choice, options: [High, Low] }, Due: { type: date } } } }\n")
	require.Equal(t, 200, r.call("editor", "POST", "/trackers/Odd/tabs/Jobs/rows", wire.NewRows{Rows: []map[string]any{
		{"Job": "One", "Level": "Hihg", "Due": "soon"}, {"Job": "Two", "Level": "Medium", "Due": "2026-12-04"},
	}}).StatusCode)
	var page wire.Rows
	r.call("reader", "GET", "/trackers/Odd/tabs/Jobs/rows", nil).into(t, &page)
	require.Len(t, page.Rows, 2)
	one, two := page.Rows[0], page.Rows[1]
	assert.Equal(t, "is not one of the choices: High, Low. Did you mean High?", one.OddWhy["Level"])
	assert.Equal(t, map[string]any{"Level": "High"}, one.OddFit)
	assert.Contains(t, one.OddWhy["Due"], "is not a date")
	assert.Equal(t, []string{"Level"}, two.Odd)
	assert.Nil(t, two.OddFit)
	var fewer wire.Rows
	r.call("reader", "GET", "/trackers/Odd/tabs/Jobs/rows?columns=Job", nil).into(t, &fewer)
	assert.Empty(t, fewer.Rows[0].OddFit)
}
