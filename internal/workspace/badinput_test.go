package workspace_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/trigger"
)

// A column may be called as a word of the language is: its name goes in brackets.
func TestColumnsCalledLikeKeywords(t *testing.T) {
	m := newTelling(t, `
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { is: { type: text }, and: { type: number }, today: { type: date }, if: { type: checkbox }, tab: { type: text }, each: { type: text } } }
rules:
  - { name: Mark, in: Requested, wake: { edit: [and] }, where: "[and] > 2 and [today] is blank and not [if]", steps: [ { set: { is: "{[and]} {each}", today: "{today}", if: yes } } ] }
`)
	row := m.add(map[string]any{"is": "Bell", "and": 1, "tab": "T", "each": "E"})
	_, err := m.set(row, "and", 3)
	require.NoError(t, err)
	cells := m.tracker().Row(row)
	tab := m.tracker().TabOf(cells)
	assert.Equal(t, []string{"3 E", "3", "2026-03-25", "yes", "T", "E"}, texts(tab, cells))
	_, err = m.Commit(t.Context(), m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindRule, []byte(`{ name: A, in: Requested, where: "and > 2", steps: [ { remove: yes } ] }`), 0))
	require.ErrorContains(t, err, "a column of this name goes in [brackets]")
}

func texts(tab *sheet.TabShape, row *sheet.Row) (out []string) {
	for i := range tab.Columns {
		out = append(out, row.Cells()[i].String())
	}
	return out
}

func TestTwoOfOneName(t *testing.T) {
	m := newTelling(t, telling)
	_, err := m.Commit(t.Context(), m.LoadSetup(testkit.By("Ines"), []byte(strings.Replace(telling, "  Agreed:", "  requested:", 1))))
	require.Error(t, err, "two tabs of one name")
	require.ErrorContains(t, err, "requested")
	_, err = m.PutPerson(t.Context(), "Marta Quell", "other@example.org", "editor")
	require.NoError(t, err)
	_, err = m.Commit(t.Context(), m.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: m.add(map[string]any{"Object": "Bell", "Registrar": "ines@example.org"}), Cells: map[string]any{"Registrar": "Marta Quell"}}}))
	require.ErrorContains(t, err, "marta@example.org", "both are named")
	require.ErrorContains(t, err, "other@example.org")
}

func TestARowWithoutALabelIsARowLikeOthers(t *testing.T) {
	m := newTelling(t, strings.Replace(telling, "      - remove: yes\n", "", 1))
	row := m.add(map[string]any{"Registrar": "marta@example.org", "Value": 3})
	r, err := m.set(row, "Seen", true)
	require.NoError(t, err)
	assert.Equal(t, "Agreed", m.tabOf(row))
	assert.Contains(t, m.sentSince(0)["marta@example.org"][0], row.String(), "its id stands for the label")
	undo, err := m.Undo(t.Context(), testkit.By("Ines"), r.Set, false)
	require.NoError(t, err)
	m.must(undo)
	assert.Equal(t, "Requested", m.tabOf(row))
}

func TestTenThousandRecipients(t *testing.T) {
	m := newTelling(t, `
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Object: { type: text }, Due: { type: date }, Registrar: { type: person } } }
  People: { columns: { Name: { type: text }, Mail to: { type: person } } }
reminders:
  - { name: Due, in: Requested, where: Due before today, to: 'each [Mail to] in People', show: [Object] }
rounds:
  - { name: Morning, clock: daily at 08:30, reminders: all }
`)
	tr, tab, err := m.FindTab("Loans", "People")
	require.NoError(t, err)
	const many = 10_000
	rows := make([]map[string]any, many)
	for i := range rows {
		rows[i] = map[string]any{"Name": fmt.Sprint(i), "Mail to": fmt.Sprintf("p%d@example.org", i)}
	}
	m.must(m.AddRows(testkit.By("Ines"), tr.ID, tab.ID, rows))
	m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01"})
	plan, err := m.PlanRound(t.Context(), m.tracker(), "Morning")
	require.NoError(t, err)
	assert.Len(t, plan.Letters, many)
	_, detail, err := m.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, m.tracker(), plan)
	require.NoError(t, err)
	assert.Equal(t, many, detail.Queued)
}

func TestAPersonRemovedWhileARoundRuns(t *testing.T) {
	m := newMailed(t)
	m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "Marta Quell"})
	m.add(map[string]any{"Object": "Oar", "Due": "2026-03-01", "Registrar": "ines@example.org"})
	m.clock.set("2026-03-25 08:30")
	plan, err := m.PlanRound(t.Context(), m.tracker(), "Morning")
	require.NoError(t, err)
	people, err := m.Store().People(t.Context())
	require.NoError(t, err)
	for _, p := range people {
		if p.Address == "marta@example.org" {
			require.NoError(t, m.RemovePerson(t.Context(), p.ID))
		}
	}
	_, detail, err := m.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, m.tracker(), plan)
	require.NoError(t, err)
	assert.Equal(t, 2, detail.Queued, "the row names her address, and it was hers to do")
	next, err := m.PlanRound(t.Context(), m.tracker(), "Morning")
	require.NoError(t, err)
	assert.Len(t, next.Letters, 2)
}

func TestClausesAndDatesBeyondMeasure(t *testing.T) {
	m := newTelling(t, telling)
	long := "Object is \"" + strings.Repeat("x", 100_000) + "\""
	_, err := m.Commit(t.Context(), m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindRule, []byte(`{ name: A, in: Requested, where: '`+long+`', steps: [ { remove: yes } ] }`), 0))
	require.ErrorContains(t, err, "longer than 20000 letters")
	assert.Less(t, len(err.Error()), 500, "without the clause itself")

	row := m.add(map[string]any{"Object": "Bell"})
	due := func() string { return m.tracker().Row(row).Cells()[1].String() }
	for _, text := range []string{"0000-01-01", "0001-01-01", "9999-12-31"} {
		_, err := m.set(row, "Due", text)
		require.NoError(t, err)
		assert.Equal(t, text, due())
	}
	for _, text := range []string{"10000-01-01", "-0001-01-01"} {
		_, err := m.set(row, "Due", text)
		require.ErrorContains(t, err, "is not a date")
		assert.Equal(t, "9999-12-31", due(), "the good one stays")
	}
	m.must(m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindRule, []byte(`{ name: Later, in: Requested, steps: [ { set: { Due: "{Due + 1 day}" } } ] }`), 0))
	rule, err := m.FindRule(m.tracker(), "Later")
	require.NoError(t, err)
	r, err := m.Commit(t.Context(), m.RunRule(testkit.By("Ines"), m.tracker(), rule))
	require.NoError(t, err)
	assert.Equal(t, "9999-12-31", due())
	require.Len(t, trigger.OutcomeOf(r.Note.Report).Reports[0].PassedOver, 1, "it is named")
	assert.Equal(t, "9999-12-31 + 1 day is outside the years 0 to 9999", trigger.OutcomeOf(r.Note.Report).Reports[0].PassedOver[0].Why)
}

// A rule does not put what does not fit in the place of what does, and says so.
func TestARuleLeavesAGoodValueWhereItsOwnDoesNotFit(t *testing.T) {
	m := newTelling(t, telling)
	row := m.add(map[string]any{"Object": "Bell", "Registrar": "marta@example.org"})
	blank := m.add(map[string]any{"Object": "Oar"})
	saved := m.must(m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindRule, []byte(`{ name: Give, in: Requested, steps: [ { set: { Registrar: "Nobody Known", Value: 3 } } ] }`), 0))
	require.Len(t, saved.Warnings, 1, "it is said when it is saved")
	assert.Contains(t, saved.Warnings[0], `rule Give, step 1 (set), column Registrar: "Nobody Known" is nobody's name here`)
	rule, err := m.FindRule(m.tracker(), "Give")
	require.NoError(t, err)
	r := m.must(m.RunRule(testkit.By("Ines"), m.tracker(), rule))
	cells := m.tracker().Row(row).Cells()
	assert.Equal(t, []string{"marta@example.org", "3"}, []string{cells[2].String(), cells[4].String()}, "the rest is done")
	assert.True(t, m.tracker().Row(blank).Cells()[2].IsOdd(), "where nothing stood it is kept, and marked")
	rep := trigger.OutcomeOf(r.Note.Report).Reports[0]
	require.Len(t, rep.PassedOver, 1)
	assert.Equal(t, "Registrar", rep.PassedOver[0].Column)
	assert.Contains(t, rep.PassedOver[0].Why, "nobody's name here")
	assert.Contains(t, rep.PassedOver[0].Why, "Registrar stays as it is")
	assert.Equal(t, engine.PartlyDone, outcome(t, m, r))
}
