package workspace_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

func TestAPreviewChangesNothingAndIsWhatTheRunDoes(t *testing.T) {
	b := newBench(t)
	b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01"})
	rule, err := b.FindRule(b.tracker(), "Mark")
	require.NoError(t, err)
	before := b.State()
	preview, err := b.Preview(t.Context(), b.RunRule(testkit.By("Ines"), b.tracker(), rule))
	require.NoError(t, err)
	assert.Same(t, before, b.State())
	done := b.must(b.RunRule(testkit.By("Ines"), b.tracker(), rule))
	assert.Equal(t, preview.Set.Changes, done.Set.Changes)
	assert.NotEmpty(t, done.Set.Changes)
	again := b.must(b.RunRule(testkit.By("Ines"), b.tracker(), rule))
	assert.Empty(t, again.Set.Changes)
}

func TestSetupsLoadInPlace(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01"})
	shape := b.tracker().Shape
	r := b.must(b.LoadSetup(testkit.By("Ines"), []byte(loans)))
	assert.Empty(t, r.Set.Changes, "loading the same again changes nothing")
	assert.Equal(t, shape, b.tracker().Shape)
	_, err := b.Commit(t.Context(), b.LoadSetup(testkit.By("Ines"), []byte("tracker: Loans\nzone: UTC\ntabs: { Agreed: { columns: { Object: { type: text } } } }")))
	require.ErrorContains(t, err, "tab Requested still holds 1 rows")
	text := `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text }, Due: { type: text } } }
`
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(text)))
	assert.Equal(t, value.OfText("2026-03-01"), b.tracker().Row(row).At(1), "a column of another type keeps what stood in it")
}

func TestRunsAreKeptForNinetyDays(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	r, err := b.set(row, "Stage", "Agreed")
	require.NoError(t, err)
	tick := func(at string) error {
		b.clock.set(at)
		_, err := b.Tick(t.Context())
		require.NoError(t, err)
		_, err = b.Store().Run(t.Context(), r.Run)
		return err
	}
	require.NoError(t, tick("2026-06-23 07:30"))
	require.NoError(t, tick("2026-06-23 08:59"))
	require.Error(t, tick("2026-06-23 09:01"))
	_, err = b.Store().ChangeSet(t.Context(), r.Set.Seq)
	require.NoError(t, err, "the journal is kept")
}

func TestAWatchingRuleIsOnRecordAndChangesNothing(t *testing.T) {
	b := newBench(t)
	b.must(b.PutDefinition(testkit.By("Ines"), b.tracker().ID, sheet.KindRule, []byte("{ name: Trial, watching only: yes, wake: { edit: [Registrar] }, in: Requested, steps: [ { set: { Stage: Agreed } } ] }"), 0))
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	r, err := b.set(row, "Registrar", "a@example.org")
	require.NoError(t, err)
	assert.Len(t, r.Set.Changes, 1)
	assert.Equal(t, "Requested", b.tabOf(row))
	run, err := b.Store().Run(t.Context(), r.Run)
	require.NoError(t, err)
	assert.Equal(t, "done", run.Outcome, "the edit was done")
	trial, err := b.FindRule(b.tracker(), "Trial")
	require.NoError(t, err)
	byHand := b.must(b.RunRule(testkit.By("Ines"), b.tracker(), trial))
	watched, err := b.Store().Run(t.Context(), byHand.Run)
	require.NoError(t, err)
	assert.Equal(t, "watched", watched.Outcome)
	assert.Contains(t, string(run.Body), `set Stage of \"Bell\" from \"Requested\" to \"Agreed\"`)
}

// A paste of 500 rows that each match is one cascade in one transaction.
func TestFiveHundredRowsAtOnceAreOneChangeSet(t *testing.T) {
	b := newBench(t)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	rows := make([]map[string]any, 500)
	for i := range rows {
		rows[i] = map[string]any{"Object": fmt.Sprintf("Bell %d", i), "Stage": "Requested"}
	}
	added := b.must(b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, rows))
	edits := make([]edit.RowEdit, len(rows))
	for i, c := range added.Set.Changes {
		edits[i] = edit.RowEdit{Row: c.Row, Cells: map[string]any{"Stage": "Agreed"}}
	}
	r := b.must(b.SetRows(testkit.By("Ines"), tr.ID, edits))
	assert.Equal(t, map[sheet.Kind]int{sheet.Set: 500, sheet.Move: 500}, r.Set.Counts())
	assert.Equal(t, added.Set.Seq+1, r.Set.Seq)
	edits[7].Cells = map[string]any{"Stage": "Lost"}
	_, err = b.Commit(t.Context(), b.SetRows(testkit.By("Ines"), tr.ID, edits))
	require.Error(t, err, "one that cannot be done stops all")
	_, agreed, err := b.FindTab("Loans", "Agreed")
	require.NoError(t, err)
	assert.Equal(t, 500, b.tracker().Count(agreed.ID))
}

func TestAColumnThatARuleNeedsIsNotRemoved(t *testing.T) {
	b := newBench(t)
	text := "tracker: Loans\nzone: Europe/Lisbon\ntabs:\n  Requested: { columns: { Object: { type: text } } }\n  Agreed: { columns: { Object: { type: text } } }\n" +
		"rules:\n  - { name: Move, wake: { edit: [Stage] }, steps: [ { move: { to: Agreed } } ] }\n"
	_, err := b.Commit(t.Context(), b.LoadSetup(testkit.By("Ines"), []byte(text)))
	require.ErrorContains(t, err, `rules / Move / wake / edit: there is no column "Stage"`)
}

// A row that goes to another tracker, whose columns are others of the same
// names, takes its notes and looks along, and comes back with them.
func TestNotesAndLooksGoToAnotherTracker(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte("tracker: Past\nzone: UTC\ntabs: { Done: { columns: { Object: { type: text }, Year: { type: number } } } }")))
	b.must(b.PutDefinition(testkit.By("Ines"), b.tracker().ID, sheet.KindRule, []byte("{ name: Put away, in: Requested, where: Object is not blank, steps: [ { move: { to: Done, tracker: Past } } ] }"), 0))
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	b.must(b.SetRows(testkit.By("Ines"), b.tracker().ID, []edit.RowEdit{{Row: row, Notes: map[string]string{"Object": "cracked"}, Styles: map[string]string{"Object": "fill amber", "Stage": "bold"}}}))
	away, err := b.FindRule(b.tracker(), "Put away")
	require.NoError(t, err)
	moved := b.must(b.RunRule(testkit.By("Ines"), b.tracker(), away))
	past, done, err := b.FindTab("Past", "Done")
	require.NoError(t, err)
	r := past.Row(row)
	require.NotNil(t, r)
	object := done.Columns[0].ID
	assert.Equal(t, "Bell", r.At(0).String())
	assert.Equal(t, "cracked", r.Notes()[object])
	assert.Equal(t, "fill #F6E7CC", r.Styles()[object])
	assert.Len(t, r.Styles(), 2, "that of a column which Past lacks is carried")
	b.reopen()
	req, err := b.Undo(t.Context(), testkit.By("Ines"), moved.Set, false)
	require.NoError(t, err)
	b.must(req)
	back := b.tracker().Row(row)
	require.NotNil(t, back)
	assert.Equal(t, "cracked", back.Notes()[b.tracker().Tabs[0].Columns[0].ID])
	assert.Len(t, back.Styles(), 2)
}

// Why rows cannot move back is said: with more tabs than one, or a column that is another one
// in the tab that they come from.
func TestWhyRowsCannotMoveBackIsSaid(t *testing.T) {
	b := newBench(t)
	setup := func(in string) string {
		return "tracker: Back\nzone: UTC\ntabs:\n  Live: { columns: { Object: { type: text }, Flag: { type: choice, options: { Hold: grey } } } }\n  Old: { columns: { Object: { type: text }, Flag: { type: text } } }\n" +
			"rules:\n  - { name: To and fro, wake: { edit: Flag }, in: " + in + ", where: Flag is \"Hold\", steps: [ move: { to: Old, and back: yes } ] }\n"
	}
	_, err := b.Commit(t.Context(), b.LoadSetup(testkit.By("Ines"), []byte(setup("Live"))))
	require.ErrorContains(t, err, `there is no column "Flag" in Old: the Flag there is another column, of type text`)
	_, err = b.Commit(t.Context(), b.LoadSetup(testkit.By("Ines"), []byte(setup("[Live, Old]"))))
	require.ErrorContains(t, err, "Flag is choice in Live and text in Old, which are two columns")
}
