package reminder_test

import (
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

var update = flag.Bool("update", false, "write the golden letters anew")

const loans = `
tracker: Touring loans
zone: Europe/Lisbon
tabs:
  On display: { columns: { Object: { type: text }, Registrar: { type: person }, Keepers: { type: text }, Arrived: { type: date }, Value: { type: number, format: EUR } } }
  Crating:    { columns: { Object: { type: text }, Registrar: { type: person }, Due: { type: date } } }
reminders:
  - name: Reports overdue
    remark: Upload the report.
    in: On display
    where: Arrived before today - 15 days
    show: [Object, Arrived, Value, { Days late: days between Arrived and today - 15 days }]
    order: Arrived
    to: "{Registrar}; {Keepers}"
  - name: Past their date
    in: Crating
    where: Due before today
    show: [Object, Due]
    to: "{Registrar}"
rounds:
  - { name: Morning round, clock: weekdays at 08:30, reminders: all, subject: "{name}: {count} wait" }
`

func collect(t *testing.T, k *testkit.Kit) ([]reminder.Holding, *reminder.CompiledRound) {
	t.Helper()
	ready, err := testkit.Program(k.Tracker().Shape)
	require.NoError(t, err)
	var holdings []reminder.Holding
	var round *reminder.CompiledRound
	people := reminder.Directory{"marta quell": {"marta@example.org"}}
	for i := range k.Tracker().Definitions {
		p := &k.Tracker().Definitions[i]
		switch p.Kind {
		case sheet.KindReminder:
			c, err := program.Ready[*reminder.Compiled](ready, p.ID)
			require.NoError(t, err)
			holdings = append(holdings, c.Collect(k.Tracker(), people, testkit.Now))
		case sheet.KindRound:
			round, err = program.Ready[*reminder.CompiledRound](ready, p.ID)
			require.NoError(t, err)
		}
	}
	return holdings, round
}

func letters(t *testing.T, k *testkit.Kit) []reminder.Letter {
	t.Helper()
	holdings, round := collect(t, k)
	out, err := reminder.Letters(holdings, reminder.Context{Round: round, Tracker: "Touring loans", Now: testkit.Now, Names: map[string]string{"marta@example.org": "Marta Quell"},
		Link: func(i reminder.Item) string { return "https://kavlo.example.org/row/" + i.Row.String() }})
	require.NoError(t, err)
	return out
}

func TestOneLetterAPersonWithEverythingForThem(t *testing.T) {
	k := testkit.New(t, loans)
	k.Add("On display", "Object=Bell", "Registrar=marta@example.org", "Arrived=2026-03-01", "Value=12500")
	k.Add("On display", "Object=Lamp", "Registrar=joren@example.org", "Keepers=Marta Quell, joren@example.org", "Arrived=2026-02-01")
	k.Add("On display", "Object=Horn", "Registrar=joren@example.org", "Arrived=2026-03-24")
	k.Add("On display", "Object=Jar", "Registrar=joren@example.org", "Arrived=TBC")
	k.Add("On display", "Object=Oar", "Arrived=2026-01-01", "Keepers=Nobody Known")
	k.Add("Crating", "Object=Lens", "Registrar=marta@example.org", "Due=2026-03-20")
	got := letters(t, k)
	require.Len(t, got, 2)
	assert.Equal(t, "joren@example.org", got[0].To)
	assert.Equal(t, 1, got[0].Count, "named twice for one row is told once")
	assert.Equal(t, "Marta Quell: 3 wait", got[1].Subject)
	require.Len(t, got[1].Sections, 2)
	assert.Equal(t, "Lamp", got[1].Sections[0].Rows[0].Label, "the longest overdue first")

	holdings, _ := collect(t, k)
	require.Len(t, holdings[0].Nobody, 1)
	assert.Equal(t, "Oar", holdings[0].Nobody[0].Label)
	require.Len(t, holdings[0].PassedOver, 1)
	assert.Contains(t, holdings[0].PassedOver[0], "Jar")
}

func TestNothingToSayIsNoLetter(t *testing.T) {
	k := testkit.New(t, loans)
	k.Add("On display", "Object=Bell", "Registrar=marta@example.org", "Arrived=2026-03-24")
	assert.Empty(t, letters(t, k))
}

func TestTheLetterReadsWell(t *testing.T) {
	k := testkit.New(t, loans)
	k.Add("On display", "Object=Bell <b>of</b> Averin", "Registrar=marta@example.org", "Arrived=2026-03-01", "Value=12500")
	k.Add("Crating", "Object=Lens & lamp", "Registrar=marta@example.org", "Due=2026-03-20")
	got := letters(t, k)
	require.Len(t, got, 1)
	for file, text := range map[string]string{"testdata/letter.txt": got[0].Text, "testdata/letter.html": got[0].HTML} {
		if *update {
			require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		}
		want, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.Equal(t, string(want), text)
	}
	assert.NotContains(t, got[0].HTML, "<b>of</b>", "values are escaped")
	assert.NotContains(t, strings.ToLower(got[0].HTML), "<script")
	assert.NotContains(t, got[0].HTML, "<img")
}

func TestRemindersAndRoundsThatAreWrong(t *testing.T) {
	_, err := reminder.CompileRound(&reminder.Round{Name: "R", Clock: "sometimes", Subject: "x"})
	require.ErrorContains(t, err, "round R, clock")
	_, err = reminder.CompileRound(&reminder.Round{Name: "R", Clock: "daily at 7:00", Subject: "{cuont}"})
	require.ErrorContains(t, err, "did you mean count?")
	k := testkit.New(t, loans)
	bound, err := program.Bind(k.Tracker().Shape)
	require.NoError(t, err)
	for part, r := range map[string]reminder.Reminder{
		"in":    {Where: "yes"},
		"where": {In: []sheet.TabID{k.Tab("Crating").ID}, Where: "Dew before today", To: "x@example.org"},
		"show":  {In: []sheet.TabID{k.Tab("Crating").ID}, Where: "yes", Show: []reminder.Shown{{Title: "x", Clause: "Dew"}}, To: "x@example.org"},
		"order": {In: []sheet.TabID{k.Tab("Crating").ID}, Where: "yes", Order: "Dew", To: "x@example.org"},
		"to":    {In: []sheet.TabID{k.Tab("Crating").ID}, Where: "yes", To: "{Registrr}"},
	} {
		r.Name = "Late"
		_, err := reminder.Compile(&r, bound)
		require.ErrorContains(t, err, "reminder Late, "+part, part)
	}
}
