package workspace_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

// A copy has the shape of a tracker: what is computed is computed from its own columns, and
// nothing of what acts by itself comes along.
func TestATrackerIsCopiedWithoutItsRows(t *testing.T) {
	b, _, _ := lateness(t)
	by := testkit.By("Ines")
	first, err := b.Find("Crates")
	require.NoError(t, err)
	require.NotEmpty(t, first.Definitions)
	b.must(b.PutDefinition(by, first.ID, sheet.KindView, []byte("{ name: Due first, tab: Out, order: Due }"), 0))
	out := b.must(b.CopyTracker(by, first.ID, "Parcels"))

	assert.Empty(t, b.cellsOf("Parcels", "Out"))
	copied, tab, err := b.FindTab("Parcels", "Out")
	require.NoError(t, err)
	first, err = b.Find("Crates")
	require.NoError(t, err)
	assert.Equal(t, len(first.Tabs), len(copied.Tabs))
	assert.Equal(t, first.Zone, copied.Zone)
	require.Len(t, copied.Definitions, 1)
	assert.Equal(t, "Due first", copied.Definitions[0].Name)
	for i := range copied.Tabs {
		assert.Equal(t, first.Tabs[i].Name, copied.Tabs[i].Name)
		assert.NotEqual(t, first.Tabs[i].ID, copied.Tabs[i].ID)
		assert.Len(t, copied.Tabs[i].Columns, len(first.Tabs[i].Columns))
	}
	assert.Contains(t, tab.Columns[2].Clause, fmt.Sprintf("[#%d]", int64(tab.Columns[1].ID)), "its own due date")

	_, err = b.Commit(t.Context(), b.CopyTracker(by, first.ID, "crates"))
	assert.ErrorContains(t, err, "Crates")
	undo, err := b.Undo(t.Context(), by, out.Set, false)
	require.NoError(t, err)
	b.must(undo)
	_, err = b.Find("Parcels")
	assert.Error(t, err)
}
