package workspace_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

func (b *bench) column(tab, name string) (sheet.TabID, *sheet.Column) {
	b.t.Helper()
	t, err := b.tracker().Tab(tab)
	require.NoError(b.t, err)
	c, err := t.Column(name)
	require.NoError(b.t, err)
	return t.ID, c
}

func TestAColumnIsAddedChangedAndDropped(t *testing.T) {
	b := newBench(t)
	id := b.tracker().ID
	tab, _ := b.column("Requested", "Object")
	to := edit.ColumnChange{After: "Object", Definition: map[string]any{"type": "number", "format": "EUR", "minimum": "0", "required": false}}
	b.must(b.AddColumn(testkit.By("Ines"), id, tab, " Value ", edit.NewColumn{ColumnChange: to}))
	_, value1 := b.column("Requested", "Value")
	assert.Equal(t, "EUR", value1.Type.Display)
	assert.Equal(t, "0", value1.Min)
	requested, _ := b.tracker().Tab("Requested")
	assert.Equal(t, 1, requested.Slot(value1.ID), "it stands after Object")

	agreed, _ := b.column("Agreed", "Object")
	b.must(b.AddColumn(testkit.By("Ines"), id, agreed, "value", edit.NewColumn{ColumnChange: edit.ColumnChange{Definition: map[string]any{"type": "number"}}}))
	_, shared := b.column("Agreed", "value")
	assert.Equal(t, value1.ID, shared.ID, "a namesake of the same type is the same column")

	row := b.add(map[string]any{"Object": "Bell", "Value": "12.5"})
	b.must(b.ChangeColumn(testkit.By("Ines"), id, tab, value1.ID, edit.ColumnChange{Name: "Worth", Definition: map[string]any{"minimum": nil, "unique": true}}))
	_, worth := b.column("Agreed", "Worth")
	assert.Equal(t, value1.ID, worth.ID, "it is renamed in every tab that has it")
	assert.Equal(t, "", worth.Min)
	assert.True(t, worth.Unique)
	assert.Equal(t, "EUR", worth.Type.Display, "what was not named stays")

	dropped := b.must(b.DropColumn(testkit.By("Ines"), id, tab, value1.ID))
	requested, _ = b.tracker().Tab("Requested")
	assert.Equal(t, -1, requested.Slot(value1.ID))
	assert.Equal(t, value.MustNumber("12.5"), b.tracker().Row(row).Get(requested, value1.ID), "rows carry what they hold for it")
	undone, err := b.Undo(t.Context(), testkit.By("Ines"), dropped.Set, false)
	require.NoError(t, err)
	b.must(undone)
	requested, _ = b.tracker().Tab("Requested")
	assert.GreaterOrEqual(t, requested.Slot(value1.ID), 0)
}

func TestAChangeOfTypeSaysWhatWouldBecomeOdd(t *testing.T) {
	b := newBench(t)
	for _, due := range []string{"2026-03-01", "2026-04-01"} {
		b.add(map[string]any{"Object": "Bell", "Due": due})
	}
	b.add(map[string]any{"Object": "2026-05-01"})
	tab, object := b.column("Requested", "Object")
	change := b.ChangeColumn(testkit.By("Ines"), b.tracker().ID, tab, object.ID, edit.ColumnChange{Definition: map[string]any{"type": "date"}})
	preview, err := b.Preview(t.Context(), change)
	require.NoError(t, err)
	require.Len(t, preview.Warnings, 1)
	assert.Contains(t, preview.Warnings[0], "2 cells of Object do not fit date and are kept as odd cells: Bell (Bell)")
	_, object = b.column("Requested", "Object")
	assert.Equal(t, value.Text, object.Type.Kind, "a preview changes nothing")
	b.must(change)
	odd := 0
	for r := range b.tracker().Rows(tab) {
		if r.At(0).IsOdd() {
			odd++
		}
	}
	assert.Equal(t, 2, odd)
}

func TestColumnsThatAreNeededStayAndRenamesAreFollowed(t *testing.T) {
	b := newBench(t)
	id := b.tracker().ID
	tab, due := b.column("Requested", "Due")
	_, err := b.Commit(t.Context(), b.DropColumn(testkit.By("Ines"), id, tab, due.ID))
	require.ErrorContains(t, err, "cannot be deleted from Requested while it is needed by rule Mark, reminder Due")
	_, stage := b.column("Requested", "Stage")
	options := stage.Type.Options
	require.Len(t, options, 3)
	defer func() {
		_, stage := b.column("Requested", "Standing")
		assert.Equal(t, options, stage.Type.Options, "the choices keep their order")
	}()
	b.must(b.ChangeColumn(testkit.By("Ines"), id, tab, stage.ID, edit.ColumnChange{Name: "Standing"}))
	row := b.add(map[string]any{"Object": "Bell", "Standing": "Requested"})
	_, err = b.set(row, "Standing", "Agreed")
	require.NoError(t, err)
	assert.Equal(t, "Agreed", b.tabOf(row), "the rule follows the new name")

	for definition, says := range map[string]string{"type": `"dat" is not a column type: did you mean date`, "options": "key: value pairs"} {
		_, err := b.Commit(t.Context(), b.AddColumn(testkit.By("Ines"), id, tab, "New", edit.NewColumn{ColumnChange: edit.ColumnChange{Definition: map[string]any{"type": "text", definition: "dat"}}}))
		require.ErrorContains(t, err, says)
	}
	_, err = b.Commit(t.Context(), b.AddColumn(testkit.By("Ines"), id, tab, "Due", edit.NewColumn{ColumnChange: edit.ColumnChange{Definition: map[string]any{"type": "text"}}}))
	require.ErrorContains(t, err, "is a column of Requested already")
	_, err = b.Commit(t.Context(), b.AddColumn(testkit.By("Ines"), id, tab, "New", edit.NewColumn{ColumnChange: edit.ColumnChange{After: "Objet", Definition: map[string]any{"type": "text"}}}))
	require.ErrorContains(t, err, `there is no column "Objet"`)
}
