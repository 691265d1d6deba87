package workspace_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

// A click in a mail is for whom the mail was meant, ends when the row stands otherwise,
// stands in the row's history, and can be undone.
func TestAClickIsForOnePersonUntilTheRowChanges(t *testing.T) {
	m := newMailed(t)
	_, err := m.PutPerson(t.Context(), "Joren Pell", "joren@example.org", "editor")
	require.NoError(t, err)
	p, err := m.tracker().Definition(sheet.KindReminder, "Due")
	require.NoError(t, err)
	m.must(m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindReminder, []byte(`{ name: Due, in: Requested, where: Due before today, show: [Object, Due], to: "{Registrar}", copy: joren@example.org, due: Due, act: { done: { Seen: "on {today}" }, date: Due } }`), p.ID))
	bell := m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	told := func(at string) []string {
		m.clock.set(at)
		plan, err := m.PlanRound(t.Context(), m.tracker(), "Morning")
		require.NoError(t, err)
		var to []string
		for _, l := range plan.Letters {
			to = append(to, l.To)
		}
		return to
	}
	both, joren := []string{"joren@example.org", "marta@example.org"}, []string{"joren@example.org"}
	m.round("2026-03-25 08:30")

	m.do("Remind me later", "2026-04-20")
	assert.Equal(t, joren, told("2026-03-26 08:30"), "put off for her alone")
	m.must(m.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: bell, Notes: map[string]string{"Object": "Look at the rim"}}}))
	assert.Equal(t, joren, told("2026-03-27 08:30"), "a note is no news")
	m.must(m.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: bell, Cells: map[string]any{"Due": "2026-03-02"}}}))
	assert.Equal(t, both, told("2026-03-28 08:30"), "due on another day, it is news again")

	m.round("2026-03-28 08:30")
	m.do("Mark done", "")
	assert.Equal(t, joren, told("2026-03-29 08:30"))
	history, err := m.Store().RowHistory(t.Context(), bell, 10)
	require.NoError(t, err)
	assert.Equal(t, "Marta Quell, by mail", history[0].Who)
	undo, err := m.Undo(t.Context(), testkit.By("Ines"), history[0], false)
	require.NoError(t, err)
	m.must(undo)
	assert.Equal(t, both, told("2026-03-30 08:30"), "undone, it is hers to do again")
}

func TestDoneIsOfferedOnlyWhereItDoesSomething(t *testing.T) {
	m := newMailed(t)
	p, err := m.tracker().Definition(sheet.KindReminder, "Due")
	require.NoError(t, err)
	m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	m.round("2026-03-25 08:30")
	old := m.links["Mark done"]
	require.NotEmpty(t, old)
	m.must(m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindReminder, []byte(`{ name: Due, in: Requested, where: Due before today, to: "{Registrar}", due: Due }`), p.ID))
	m.round("2026-03-26 08:30")
	assert.Empty(t, m.links["Mark done"])
	assert.NotEmpty(t, m.links["Remind me later"])
	d, err := m.Do(t.Context(), old, "", false)
	require.NoError(t, err)
	assert.Contains(t, d.Over, "not marked done from mails any more")
	assert.Equal(t, "1 wait", m.round("2026-03-27 08:30"), "nothing was hidden")
}

func TestOnceCountsForEachPerson(t *testing.T) {
	m := newMailed(t)
	p, err := m.tracker().Definition(sheet.KindReminder, "Due")
	require.NoError(t, err)
	m.must(m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindReminder,
		[]byte(`{ name: Due, in: Requested, where: Due before today, to: "{Registrar}", due: Due, repeat: once, raise: { after: 10 days, to: head@example.org } }`), p.ID))
	bell := m.add(map[string]any{"Object": "Bell", "Due": "2026-03-20", "Registrar": "marta@example.org"})
	assert.Equal(t, "1 wait", m.round("2026-03-25 08:30"))
	assert.Empty(t, m.round("2026-03-26 08:30"))
	m.must(m.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: bell, Cells: map[string]any{"Registrar": "joren@example.org"}}}))
	to := func(at string) []string {
		before := len(m.mail.sent)
		m.round(at)
		var out []string
		for _, mail := range m.mail.sent[before:] {
			out = append(out, mail.To)
		}
		slices.Sort(out)
		return out
	}
	assert.Equal(t, []string{"joren@example.org"}, to("2026-03-27 08:30"), "who has it now has not been told")
	assert.Equal(t, []string{"head@example.org"}, to("2026-03-30 08:30"), "raising waits for no repeat")
	assert.Empty(t, to("2026-03-31 08:30"))
}

// Whom a reminder tells: people by name or address, groups, a column of another tab. What
// cannot be delivered is named.
func TestWhomAReminderTells(t *testing.T) {
	b := newBench(t)
	b.must(b.DropTracker(testkit.By("Ines"), b.tracker().ID))
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(`
tracker: Loans
zone: UTC
numbers: "1.234,5"
tabs:
  Requested: { columns: { Object: { type: text }, Registrar: { type: person, several: yes }, Value: { type: number, format: EUR } } }
  Notify list: { columns: { Team: { type: text }, Mail to: { type: person } } }
reminders:
  - { name: All, in: Requested, where: Object is not blank, show: [Object, Value], totals: yes, to: ["{Registrar}", Marta Quell, Nobody Known, keepers, 'each [Mail to] in "Notify list" where Team is "North"'] }
rounds:
  - { name: Morning, clock: daily at 08:30, reminders: all, opening: "Hello {name}." }
`)))
	for name, access := range map[string]string{"Marta Quell": "editor", "Rosa Venn": "keeper"} {
		_, err := b.PutPerson(t.Context(), name, name[:4]+"@example.org", access)
		require.NoError(t, err)
	}
	tr := b.tracker()
	notify, err := tr.Tab("Notify list")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), tr.ID, notify.ID, []map[string]any{{"Team": "North", "Mail to": "north@example.org"}, {"Team": "South", "Mail to": "south@example.org"}}))
	b.add(map[string]any{"Object": "Bell", "Registrar": "MART@example.org; own@example.org", "Value": "10,50"})
	b.add(map[string]any{"Object": "Lamp", "Registrar": "own@example.org", "Value": 4})
	b.clock.set("2026-03-25 09:00")
	plan, err := b.PlanRound(t.Context(), b.tracker(), "Morning")
	require.NoError(t, err)
	texts := map[string]string{}
	var to []string
	for _, l := range plan.Letters {
		to = append(to, l.To)
		texts[l.To] = l.Text
		assert.Equal(t, "Loans: All, 2 rows", l.Subject, "a subject is made where there is none")
	}
	assert.Contains(t, to, "Rosa@example.org", "a group")
	assert.Contains(t, to, "north@example.org")
	assert.NotContains(t, to, "south@example.org")
	assert.Equal(t, 1, len(slices.DeleteFunc(slices.Clone(to), func(a string) bool { return a != "Mart@example.org" })))
	assert.Contains(t, texts["Mart@example.org"], "Hello Marta Quell.")
	assert.Contains(t, texts["own@example.org"], "Hello own@example.org.")
	assert.Contains(t, texts["own@example.org"], "Total: Value 14,50 EUR")
	assert.Equal(t, "Bell in Requested: nobody is called Nobody Known; others are told", plan.Undelivered()[0])
	_, detail, err := b.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, b.tracker(), plan)
	require.NoError(t, err)
	assert.Len(t, detail.Nobody, 2)
	_, err = b.SendDue(t.Context())
	require.NoError(t, err)
	names := map[string]string{}
	for _, m := range b.mail.sent {
		names[m.To] = m.Name
	}
	assert.Equal(t, "Marta Quell", names["Mart@example.org"])
}

// A round tried by hand before its hour leaves the hour's mail to come; sent again, it
// says so.
func TestARoundByHand(t *testing.T) {
	m := newMailed(t)
	p, err := m.tracker().Definition(sheet.KindReminder, "Due")
	require.NoError(t, err)
	m.must(m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindReminder, []byte(`{ name: Due, in: Requested, where: Due before today, to: "{Registrar}", due: Due, repeat: once }`), p.ID))
	m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	run := func(at string, cause sheet.CauseKind, again, instead bool) []string {
		m.clock.set(at)
		plan, err := m.PlanRound(t.Context(), m.tracker(), "Morning")
		require.NoError(t, err)
		plan.Again, plan.Instead = again, instead
		before := len(m.mail.sent)
		_, _, err = m.RunRound(t.Context(), testkit.By("Ines"), cause, m.tracker(), plan)
		require.NoError(t, err)
		_, err = m.SendDue(t.Context())
		require.NoError(t, err)
		subjects := []string{}
		for _, s := range m.mail.sent[before:] {
			subjects = append(subjects, s.Subject)
		}
		return subjects
	}
	assert.Equal(t, []string{"1 wait"}, run("2026-03-25 07:00", sheet.ByHand, false, false))
	assert.Empty(t, run("2026-03-25 07:10", sheet.ByHand, false, false), "she has had that one")
	assert.Equal(t, []string{"Sent again: 1 wait"}, run("2026-03-25 07:20", sheet.ByHand, true, false))
	assert.Equal(t, []string{"1 wait"}, run("2026-03-25 08:30", sheet.ByClock, false, false), "the hour's mail is not used up")
	assert.Empty(t, run("2026-03-26 08:30", sheet.ByClock, false, false), "told once")

	m.add(map[string]any{"Object": "Lamp", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	assert.Equal(t, []string{"1 wait"}, run("2026-03-27 07:00", sheet.ByHand, false, true))
	assert.Empty(t, run("2026-03-27 08:30", sheet.ByClock, false, false), "it took the place of that")
}
