package program_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

const loans = `
tracker: Loans
zone: Europe/Lisbon
working days: { week: mon-fri, closed: [2026-03-24] }
tabs:
  On display:
    columns:
      Object:  { type: text }
      Venue:   { type: text }
      Arrived: { type: date }
      Value:   { type: number }
      Late:    { type: computed, clause: Days > 20 }
      Days:    { type: computed, clause: days between Arrived and today }
      Worked:  { type: computed, clause: workdays between Arrived and today }
      Sum:     { type: computed, clause: running sum Value }
      Share:   { type: computed, clause: Value / (sum Value in "On display") }
  Venues:
    columns:
      Name:    { type: text }
      Here:    { type: computed, clause: 'count in "On display" where Venue is this.Name and Late' }
`

// shown gives what a column shows of a row.
func shown(t *testing.T, k *testkit.Kit, label, column string) value.Value {
	t.Helper()
	bound, err := program.Bind(k.Tracker().Shape)
	require.NoError(t, err)
	r := k.Row(label)
	tab := k.Tracker().TabOf(r)
	env := bound.Env(k.Tracker(), tab, testkit.Now, nil)
	program.Look(env, r)
	c, err := tab.Column(column)
	require.NoError(t, err)
	return bound.Value(env, r, tab.Slot(c.ID))
}

func TestComputedColumnsAreWorkedOutFromOneAnother(t *testing.T) {
	k := testkit.New(t, loans)
	k.Add("On display", "Object=Bell", "Venue=Annex", "Arrived=2026-03-02", "Value=30")
	k.Add("On display", "Object=Lamp", "Venue=Annex", "Arrived=2026-03-23", "Value=10")
	k.Add("On display", "Object=Horn", "Venue=Annex", "Arrived=TBC")
	k.Add("Venues", "Name=Annex")
	assert.Equal(t, value.OfInt(23), shown(t, k, "Bell", "Days"))
	assert.Equal(t, value.OfBool(true), shown(t, k, "Bell", "Late"), "it stands before the column it is computed from")
	assert.Equal(t, value.OfInt(30), shown(t, k, "Bell", "Sum"))
	assert.Equal(t, value.OfInt(40), shown(t, k, "Lamp", "Sum"), "down to its own row")
	assert.Equal(t, value.OfInt(1), shown(t, k, "Lamp", "Worked"), "Tuesday was closed")
	assert.Equal(t, "0.75", shown(t, k, "Bell", "Share").String())
	here := shown(t, k, "Annex", "Here")
	assert.True(t, here.IsOdd(), "whether Horn is late cannot be said")
	assert.Equal(t, "Arrived of Horn in On display is not a date", here.Raw())
	_, _, err := k.Edit("Horn", "Arrived=2026-03-24")
	require.NoError(t, err)
	assert.Equal(t, value.OfInt(1), shown(t, k, "Annex", "Here"), "a computed column of another tab")
	_, _, err = k.Edit("Horn", "Arrived=TBC")
	require.NoError(t, err)
	assert.True(t, shown(t, k, "Horn", "Days").IsOdd())
	assert.Equal(t, value.OfText("Bell"), shown(t, k, "Bell", "Object"))
}

func TestAScopeOfSeveralTabsHasAllTheirColumnsAndChoices(t *testing.T) {
	k := testkit.New(t, `
tracker: T
tabs:
  A: { columns: { X: { type: choice, options: [one] }, Y: { type: text } } }
  B: { columns: { X: { type: choice, options: [one, two] }, Z: { type: date } } }
`)
	bound, err := program.Bind(k.Tracker().Shape)
	require.NoError(t, err)
	for text, fine := range map[string]bool{`X is "two" and Y is blank and Z is blank`: true, `X is "three"`: false, `W is blank`: false} {
		_, err := clause.CheckCondition(text, bound.ScopeOfAll(nil, false))
		assert.Equal(t, fine, err == nil, text)
	}
	_, err = clause.CheckCondition("Z is blank", bound.ScopeOfAll([]sheet.TabID{k.Tab("A").ID}, false))
	require.ErrorContains(t, err, `there is no column "Z" in A`)
}
