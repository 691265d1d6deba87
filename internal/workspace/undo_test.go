package workspace_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/history"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

func TestUndoPutsBackAllAndNamesWhatStandsInTheWay(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	place := b.tracker().Row(row).Pos
	r, err := b.set(row, "Stage", "Agreed")
	require.NoError(t, err)
	undo := func(set *sheet.ChangeSet, force bool) (*engine.Result, error) {
		req, err := b.Undo(t.Context(), testkit.By("Ines"), set, force)
		if err != nil {
			return nil, err
		}
		return b.Commit(t.Context(), req)
	}
	back, err := undo(r.Set, false)
	require.NoError(t, err)
	assert.Equal(t, "Requested", b.tabOf(row))
	assert.Equal(t, place, b.tracker().Row(row).Pos)
	_, err = undo(r.Set, false)
	require.ErrorIs(t, err, history.ErrUndone)
	_, err = undo(back.Set, false) // an undo can be undone
	require.NoError(t, err)
	assert.Equal(t, "Agreed", b.tabOf(row))

	lamp := b.add(map[string]any{"Object": "Lamp", "Registrar": "a@example.org"})
	both, err := b.Commit(t.Context(), b.SetRows(testkit.By("Ines"), b.tracker().ID, []edit.RowEdit{{Row: lamp, Cells: map[string]any{"Object": "Signal lamp", "Registrar": "b@example.org"}}}))
	require.NoError(t, err)
	_, err = b.set(lamp, "Object", "Old lamp")
	require.NoError(t, err)
	_, err = undo(both.Set, false)
	var refused *history.UndoRefused
	require.ErrorAs(t, err, &refused)
	require.Len(t, refused.Conflicts, 1)
	assert.Contains(t, refused.Conflicts[0], `Object is "Old lamp" now`)
	_, err = undo(both.Set, true)
	require.NoError(t, err)
	assert.Equal(t, "Old lamp", b.tracker().Row(lamp).At(0).String())
	assert.Equal(t, "a@example.org", b.tracker().Row(lamp).At(2).String())
}

func TestADroppedTrackerComesBack(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell"})
	r := b.must(b.DropTracker(testkit.By("Ines"), b.tracker().ID))
	_, err := b.Find("Loans")
	require.Error(t, err)
	req, err := b.Undo(t.Context(), testkit.By("Ines"), r.Set, false)
	require.NoError(t, err)
	b.must(req)
	assert.Equal(t, "Requested", b.tabOf(row))
}

func TestTheStateOfATimeIsPlayedBack(t *testing.T) {
	b := newBench(t)
	var dumps []string
	var times []time.Time
	dump := func(w *sheet.Workspace) string {
		out := ""
		tr, err := w.Find("Loans")
		if err != nil {
			return "no tracker"
		}
		for i := range tr.Tabs {
			for r := range tr.Rows(tr.Tabs[i].ID) {
				out += fmt.Sprint(tr.Tabs[i].Name, r.ID, r.Pos, r.Cells(), r.Notes(), r.Styles(), r.Carried(), "\n")
			}
		}
		return out
	}
	step := func(minute int, do func()) {
		b.clock.set(fmt.Sprintf("2026-03-25 09:%02d", minute))
		do()
		dumps, times = append(dumps, dump(b.State())), append(times, b.clock.Now())
	}
	var row sheet.RowID
	step(1, func() { row = b.add(map[string]any{"Object": "Bell", "Stage": "Requested"}) })
	step(2, func() { _, _ = b.set(row, "Stage", "Agreed") })
	step(3, func() { b.add(map[string]any{"Object": "Lamp"}) })
	step(4, func() { b.must(b.RemoveRows(testkit.By("Ines"), b.tracker().ID, []sheet.RowID{row})) })
	step(5, func() {
		b.must(b.LoadSetup(testkit.By("Ines"), []byte("tracker: Loans\nzone: UTC\ntabs: { Requested: { columns: { Object: { type: text }, Due: { type: text } } } }")))
	})
	for i := range dumps {
		w, err := b.AsOf(t.Context(), times[i])
		require.NoError(t, err)
		assert.Equal(t, dumps[i], dump(w), times[i])
	}
	w, err := b.AsOf(t.Context(), times[0].Add(-24*time.Hour))
	require.NoError(t, err)
	assert.Equal(t, "no tracker", dump(w))
}

// Taking back the coming of a row that has been edited since would lose the edit.
func TestARowEditedSinceItCameIsNotUndoneAway(t *testing.T) {
	b := newBench(t)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	added := b.must(b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, []map[string]any{{"Object": "Bell"}, {"Object": "Lamp"}}))
	row := added.Set.Changes[0].Row
	_, err = b.set(row, "Object", "Ship's bell")
	require.NoError(t, err)
	req, err := b.Undo(t.Context(), testkit.By("Ines"), added.Set, false)
	require.NoError(t, err)
	_, err = b.Commit(t.Context(), req)
	require.ErrorContains(t, err, "changed since it was added")
	req, err = b.Undo(t.Context(), testkit.By("Ines"), added.Set, true)
	require.NoError(t, err)
	b.must(req)
	assert.NotNil(t, b.tracker().Row(row), "with force it stays, and the rest goes")
	assert.Equal(t, 1, b.tracker().Count(tab.ID))
}

// Undo reaches across changes of setup, and back to rows that have moved, wherever nothing
// has been changed once more; what has is named.
func TestUndoReachesAcrossChangesOfSetup(t *testing.T) {
	b := newBench(t)
	undo := func(set *sheet.ChangeSet, force bool) (*engine.Result, error) {
		req, err := b.Undo(t.Context(), testkit.By("Ines"), set, force)
		if err != nil {
			return nil, err
		}
		return b.Commit(t.Context(), req)
	}
	column := func(name string, to edit.ColumnChange) *sheet.ChangeSet {
		tab, c := b.column("Requested", name)
		return b.must(b.ChangeColumn(testkit.By("Ines"), b.tracker().ID, tab, c.ID, to)).Set
	}
	add := func(name string) *sheet.ChangeSet {
		tab, err := b.tracker().Tab("Requested")
		require.NoError(t, err)
		return b.must(b.AddColumn(testkit.By("Ines"), b.tracker().ID, tab.ID, name, edit.NewColumn{ColumnChange: edit.ColumnChange{Definition: map[string]any{"type": "text"}}})).Set
	}
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	shelf := add("Shelf")
	edited, err := b.set(row, "Object", "Ship's bell")
	require.NoError(t, err)
	add("Colour")
	renamed := column("Object", edit.ColumnChange{Name: "Thing"})
	_, err = b.set(row, "Stage", "Agreed") // and it moves
	require.NoError(t, err)

	_, err = undo(edited.Set, false)
	require.NoError(t, err, "the cell is as it was left, whatever else was set up")
	assert.Equal(t, "Bell", b.tracker().Label(b.tracker().Row(row)))
	assert.Equal(t, "Agreed", b.tabOf(row))
	_, err = undo(shelf, false)
	require.NoError(t, err)
	tab, err := b.tracker().Tab("Requested")
	require.NoError(t, err)
	_, err = tab.Column("Shelf")
	require.Error(t, err)
	_, err = tab.Column("Colour")
	require.NoError(t, err, "what came later stays")
	_, err = tab.Column("Thing")
	require.NoError(t, err)

	column("Thing", edit.ColumnChange{Name: "Piece"})
	_, err = undo(renamed, false)
	require.ErrorContains(t, err, "column Piece of Requested has been changed since")
	_, c := b.column("Requested", "Piece")
	assert.Equal(t, "Piece", c.Name)
}
