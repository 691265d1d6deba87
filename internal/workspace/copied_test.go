package workspace_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
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

// A copy of a column takes what the column takes, with its values or without, odd ones too.
func TestAColumnIsCopied(t *testing.T) {
	b := newBench(t)
	by, id := testkit.By("Ines"), b.tracker().ID
	tab, due := b.column("Requested", "Due")
	b.must(b.ChangeColumn(by, id, tab, due.ID, edit.ColumnChange{Definition: map[string]any{"bad input": "mark"}}))
	for _, due := range []string{"2026-03-01", "soon", ""} {
		b.add(map[string]any{"Object": "Bell", "Due": due})
	}
	b.must(b.ChangeColumn(by, id, tab, due.ID, edit.ColumnChange{Definition: map[string]any{"bad input": "refuse", "minimum": "2020-01-01"}}))
	made := b.must(b.AddColumn(by, id, tab, "Due at first", edit.NewColumn{Like: "Due", Values: true, ColumnChange: edit.ColumnChange{Definition: map[string]any{"minimum": nil}}}))
	_, due = b.column("Requested", "Due")
	_, copied := b.column("Requested", "Due at first")
	requested, err := b.tracker().Tab("Requested")
	require.NoError(t, err)
	assert.Equal(t, requested.Slot(due.ID)+1, requested.Slot(copied.ID), "it stands after the one copied")
	assert.Equal(t, sheet.Refuse, copied.BadInput)
	assert.Empty(t, copied.Min)
	for r := range b.tracker().Rows(tab) {
		assert.Equal(t, r.Get(requested, due.ID), r.Get(requested, copied.ID))
	}
	b.must(b.AddColumn(by, id, tab, "Due, empty", edit.NewColumn{Like: "Due"}))
	_, empty := b.column("Requested", "Due, empty")
	requested, _ = b.tracker().Tab("Requested")
	for r := range b.tracker().Rows(tab) {
		assert.True(t, r.Get(requested, empty.ID).IsBlank())
	}

	for says, to := range map[string]edit.NewColumn{
		"is like no other column": {Values: true, ColumnChange: edit.ColumnChange{Definition: map[string]any{"type": "text"}}},
		`did you mean Due`:        {Like: "Dew"},
	} {
		_, err := b.Commit(t.Context(), b.AddColumn(by, id, tab, "New", to))
		assert.ErrorContains(t, err, says)
	}
	undo, err := b.Undo(t.Context(), by, made.Set, false)
	require.NoError(t, err)
	b.must(undo)
	requested, _ = b.tracker().Tab("Requested")
	assert.Equal(t, -1, requested.Slot(copied.ID))
}

// Rules that bring rows into another tracker follow it when it, its tab or its column gets
// another name, and keep it from losing what they need.
func TestRulesFollowAnotherTracker(t *testing.T) {
	b := newBench(t)
	by, own := testkit.By("Ines"), b.tracker()
	b.must(b.LoadSetup(by, []byte("tracker: Past\nzone: UTC\ntabs:\n  Old: { columns: { Object: { type: text }, Gone on: { type: date } } }\n  Other: { columns: { Object: { type: text } } }\naccess: { keep: [marta@example.org] }\n")))
	past, old, err := b.FindTab("Past", "Old")
	require.NoError(t, err)
	gone, err := old.Column("Gone on")
	require.NoError(t, err)
	b.must(b.PutDefinition(by, own.ID, sheet.KindRule, []byte("{ name: File away, wake: { clock: daily at 6:00 }, in: Requested, where: Object is not blank, steps: [ move: { to: Old, tracker: Past, columns: { Due: Gone on }, set: { Object: gone } } ] }"), 0))

	for says, req := range map[string]engine.Request{
		"Past cannot be deleted while it is needed by rule File away of " + own.Name:             b.DropTracker(by, past.ID),
		"Old cannot be deleted from Past while it is needed by rule File away of " + own.Name:    b.DropTab(by, past.ID, old.ID),
		"Gone on cannot be deleted from Old while it is needed by rule File away of " + own.Name: b.DropColumn(by, past.ID, old.ID, gone.ID),
	} {
		_, err := b.Commit(t.Context(), req)
		assert.ErrorContains(t, err, says)
	}
	marta := policy.OfPerson(11, "Marta", "marta@example.org", "editor")
	_, err = b.Commit(t.Context(), b.RenameTracker(marta, past.ID, "Bygone"))
	assert.ErrorIs(t, err, engine.ErrForbidden, "she keeps it, and not the tracker whose rule names it")
	b.must(b.ChangeTab(marta, past.ID, past.Tabs[1].ID, "Others", "", false))
	b.must(b.ChangeColumn(by, past.ID, old.ID, gone.ID, edit.ColumnChange{Name: "Left on"}))
	b.must(b.ChangeTab(by, past.ID, old.ID, "Older", "", false))
	renamed := b.must(b.RenameTracker(by, past.ID, "Bygone"))
	row := b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01"})
	rule, err := b.FindRule(b.tracker(), "File away")
	require.NoError(t, err)
	b.must(b.RunRule(by, b.tracker(), rule))
	assert.Nil(t, b.tracker().Row(row))
	assert.Equal(t, []string{"gone|2026-03-01"}, b.cellsOf("Bygone", "Older"))

	undo, err := b.Undo(t.Context(), by, renamed.Set, false)
	require.NoError(t, err)
	b.must(undo)
	_, err = b.Find("Past")
	require.NoError(t, err)
	b.must(b.DropDefinition(by, own.ID, rule.ID))
	b.must(b.DropTracker(by, past.ID))
}

// Trackers stand in the order that they are put in, new ones last; a setup file, a copy and
// an undo leave it so.
func TestTrackersArePutInOrder(t *testing.T) {
	b := newBench(t)
	by := testkit.By("Ines")
	names := func() (out []string) {
		for _, tr := range b.Trackers() {
			out = append(out, tr.Name)
		}
		return out
	}
	id := func(name string) sheet.TrackerID {
		tr, err := b.Find(name)
		require.NoError(t, err)
		return tr.ID
	}
	first := names()[0]
	b.must(b.NewTracker(by, "Second", "UTC"))
	b.must(b.NewTracker(by, "Third", "UTC"))
	b.must(b.ChangeTracker(by, id("Third"), edit.TrackerSettings{First: true}))
	assert.Equal(t, []string{"Third", first, "Second"}, names())
	moved := b.must(b.ChangeTracker(by, id("Third"), edit.TrackerSettings{After: id("Second")}))
	assert.Equal(t, []string{first, "Second", "Third"}, names())
	undo, err := b.Undo(t.Context(), by, moved.Set, false)
	require.NoError(t, err)
	b.must(undo)
	assert.Equal(t, []string{"Third", first, "Second"}, names())

	b.must(b.NewTracker(by, "Fourth", "UTC"))
	b.must(b.CopyTracker(by, id("Third"), "Fifth"))
	text, err := b.Setup.Encode(b.Trackers()[0].Shape)
	require.NoError(t, err)
	b.must(b.LoadSetup(by, append(text, []byte("dates: 31.03.2026\n")...)))
	assert.Equal(t, []string{"Third", first, "Second", "Fourth", "Fifth"}, names())

	_, err = b.Commit(t.Context(), b.ChangeTracker(by, id("Third"), edit.TrackerSettings{After: 1 << 40}))
	assert.ErrorContains(t, err, "there is no tracker")
}
