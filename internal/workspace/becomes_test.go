package workspace_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/testkit"
)

const late = `
tracker: Crates
zone: UTC
tabs:
  Out:
    columns:
      Crate:     { type: text }
      Due:       { type: date }
      Days late: { type: computed, clause: days between Due and today }
      Knocks:    { type: computed, clause: count in Knocks where Crate is this.Crate }
      Told:      { type: text }
      Counted:   { type: number }
  Knocks:
    columns: { Crate: { type: text } }
rules:
  - { name: Tell, wake: { becomes true: "[Days late] > 7" }, in: Out, where: Crate is not blank, steps: [ { set: { Told: "{Told}late {today}. " } } ] }
  - { name: Knocked, wake: { becomes true: Knocks >= 2 }, in: Out, steps: [ { set: { Told: "{Told}knocked. " } } ] }
`

// lateness is a bench with two crates that are due.
func lateness(t *testing.T) (*bench, func(row int, column string, v any), func() string) {
	b := newBench(t)
	b.clock.set("2026-03-25 09:00")
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(late)))
	tr, out, err := b.FindTab("Crates", "Out")
	require.NoError(t, err)
	rows := b.must(b.AddRows(testkit.By("Ines"), tr.ID, out.ID, []map[string]any{{"Crate": "A", "Due": "2026-03-19"}, {"Crate": "B", "Due": "2026-03-30"}})).Set.Changes
	_, err = b.Tick(t.Context()) // the clock counts from here
	require.NoError(t, err)
	set := func(row int, column string, v any) {
		b.must(b.SetRows(testkit.By("Ines"), tr.ID, []edit.RowEdit{{Row: rows[row].Row, Cells: map[string]any{column: v}}}))
	}
	told := func() string {
		tr, out, err := b.FindTab("Crates", "Out")
		require.NoError(t, err)
		var all []string
		for row := range tr.Rows(out.ID) {
			all = append(all, strings.TrimSpace(fmt.Sprint(row.At(0), ": ", row.At(4))))
		}
		return strings.Join(all, " | ")
	}
	return b, set, told
}

// A computed column passes a bound by an edit of what it takes, or by the day that comes:
// the rule runs once each time it does.
func TestARuleWaitsForWhatBecomesTrue(t *testing.T) {
	b, set, told := lateness(t)
	tick := func(at string) {
		b.clock.set(at)
		_, err := b.Tick(t.Context())
		require.NoError(t, err)
	}
	assert.Equal(t, "A: | B:", told(), "6 days late, and not due yet")
	set(1, "Due", "2026-03-10")
	assert.Equal(t, "A: | B: late 2026-03-25.", told(), "by an edit")
	set(1, "Due", "2026-03-11")
	assert.Equal(t, "A: | B: late 2026-03-25.", told(), "it was true before")
	tick("2026-03-26 00:00")
	assert.Equal(t, "A: | B: late 2026-03-25.", told(), "7 are not more than 7")
	tick("2026-03-27 00:00")
	assert.Equal(t, "A: late 2026-03-27. | B: late 2026-03-25.", told(), "by the day that has come")
	tick("2026-03-28 00:00")
	assert.Equal(t, "A: late 2026-03-27. | B: late 2026-03-25.", told())
	set(0, "Due", "2026-03-27")
	tick("2026-03-29 00:00")
	b.reopen()
	tick("2026-04-10 11:00") // the service was away meanwhile
	assert.Equal(t, "A: late 2026-03-27. late 2026-04-10. | B: late 2026-03-25.", told())
}

// What a row counts in another tab comes to be true by a change there.
func TestARuleWaitsForWhatBecomesTrueElsewhere(t *testing.T) {
	b, _, told := lateness(t)
	tr, knocks, err := b.FindTab("Crates", "Knocks")
	require.NoError(t, err)
	knock := func(crate string) {
		b.must(b.AddRows(testkit.By("Ines"), tr.ID, knocks.ID, []map[string]any{{"Crate": crate}}))
	}
	knock("A")
	assert.Equal(t, "A: | B:", told())
	knock("A")
	assert.Equal(t, "A: knocked. | B:", told())
	knock("A")
	knock("B")
	assert.Equal(t, "A: knocked. | B:", told(), "true of A before, and not yet of B")
	r := b.must(b.AddRows(testkit.By("Ines"), tr.ID, knocks.ID, []map[string]any{{"Crate": "B"}}))
	assert.Equal(t, "A: knocked. | B: knocked.", told())
	require.Len(t, r.Set.Changes, 2, "in the change set of what made it so")
	undo, err := b.Undo(t.Context(), testkit.By("Ines"), r.Set, false)
	require.NoError(t, err)
	assert.Len(t, b.must(undo).Set.Changes, 2)
	assert.Equal(t, "A: knocked. | B:", told())
	// by hand it runs on all rows of which it is true
	tracker, err := b.Find("Crates")
	require.NoError(t, err)
	rule, err := b.FindRule(tracker, "Knocked")
	require.NoError(t, err)
	b.must(b.RunRule(testkit.By("Ines"), tracker, rule))
	assert.Equal(t, "A: knocked. knocked. | B:", told())
	text, err := b.Setup.Encode(tracker.Shape)
	require.NoError(t, err)
	assert.Contains(t, string(text), "wake: {becomes true: '[Days late] > 7'}")
}

func TestWhatCannotBecomeTrueIsRefused(t *testing.T) {
	b := newBench(t)
	for wake, want := range map[string]string{
		`{ edit: [Days late] }`:                              `Days late is computed, and nobody edits it: write for example becomes true: "[Days late] > 7"`,
		`{ becomes true: Days late }`:                        "is a number, where a condition is wanted: write for example [Days late] is not blank",
		`{ becomes true: Due changed }`:                      "changed",
		`{ becomes true: Days > 7 }`:                         "did you mean",
		`{ becomes true: Told is blank, clock: daily at 7 }`: "make another rule for another hour",
	} {
		_, err := b.Commit(t.Context(), b.LoadSetup(testkit.By("Ines"), []byte(strings.Replace(late, `{ becomes true: "[Days late] > 7" }`, wake, 1))))
		require.ErrorContains(t, err, want, wake)
	}
}
