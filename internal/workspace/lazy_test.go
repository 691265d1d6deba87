package workspace_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

// A tracker's rows are in memory once it is used. What is read of a state is what was
// there then, also where the rows are got after the tracker has changed.
func TestTrackersLoadWhenFirstUsed(t *testing.T) {
	b := newBench(t)
	ctx, by := t.Context(), testkit.By("Ines")
	_, err := b.Commit(ctx, b.LoadSetup(by, []byte("tracker: Other\nzone: UTC\ntabs:\n  In: { columns: { Object: { type: text } } }\nrules:\n  - { name: Send, wake: { new row: yes }, in: In, where: Object is \"send\", steps: [ { move: { tracker: Loans, to: Requested } } ] }\n")))
	require.NoError(t, err)
	add := func(tracker, tab, object string) {
		t.Helper()
		tr, at, err := b.FindTab(tracker, tab)
		require.NoError(t, err)
		_, err = b.Commit(ctx, b.AddRows(by, tr.ID, at.ID, []map[string]any{{"Object": object}}))
		require.NoError(t, err)
	}
	add("Loans", "Requested", "Bell")
	add("Other", "In", "Crate")
	b.reopen()
	find := func(name string) *sheet.Tracker {
		tr, err := b.Find(name)
		require.NoError(t, err)
		return tr
	}
	loans, other := find("Loans"), find("Other")
	assert.False(t, loans.InMemory())
	assert.False(t, other.InMemory())
	add("Other", "In", "Horn")
	assert.False(t, loans.InMemory(), "an edit elsewhere has no need of it")
	assert.Equal(t, 1, other.Count(other.Tabs[0].ID), "the state of before is read as it was")
	assert.Equal(t, 2, find("Other").Count(other.Tabs[0].ID))

	before := find("Loans")
	add("Other", "In", "send")
	assert.True(t, before.InMemory(), "a row came to it")
	assert.Len(t, slices.Collect(before.Rows(before.Tabs[0].ID)), 1)
	assert.Equal(t, 2, find("Loans").Count(before.Tabs[0].ID))
}
