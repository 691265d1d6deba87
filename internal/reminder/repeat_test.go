package reminder_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

const raised = `
tracker: Loans
zone: UTC
tabs:
  Crating: { columns: { Object: { type: text }, Registrar: { type: person }, Stage: { type: text }, Due: { type: date }, Closed: { type: checkbox } } }
reminders:
  - name: Late
    in: Crating
    where: Due before today and not Closed
    show: [Object, Due]
    order: Due
    to: "{Registrar}"
    due: Due
    group: Stage
    copy: copy@example.org
    otherwise: desk@example.org
    raise: { after: 5 workdays, to: "head@example.org; marta@example.org" }
    repeat: every 3 days
    act: { done: { Closed: "yes", Stage: "{Stage}, done" }, date: Due }
rounds:
  - { name: Morning, clock: daily at 08:30, reminders: all, subject: "{count} wait" }
`

func compiled(t *testing.T, k *testkit.Kit, change func(*reminder.Reminder)) *reminder.Compiled {
	t.Helper()
	bound, err := program.Bind(k.Tracker().Shape)
	require.NoError(t, err)
	p, err := k.Tracker().Definition(sheet.KindReminder, "Late")
	require.NoError(t, err)
	def, err := kinds.All.Decode(p)
	require.NoError(t, err)
	r := def.(*reminder.Reminder)
	change(r)
	c, err := reminder.Compile(r, bound)
	require.NoError(t, err)
	return c
}

func TestWhoIsToldOfWhat(t *testing.T) {
	k := testkit.New(t, raised)
	k.Add("Crating", "Object=Bell", "Registrar=marta@example.org", "Stage=B", "Due=2026-03-24") // a day late
	k.Add("Crating", "Object=Lamp", "Registrar=joren@example.org", "Stage=A", "Due=2026-03-18") // five workdays late
	k.Add("Crating", "Object=Horn", "Stage=A", "Due=2026-03-19")                                // nobody's
	k.Add("Crating", "Object=Closed", "Registrar=marta@example.org", "Due=2026-03-01", "Closed=yes")
	c := compiled(t, k, func(*reminder.Reminder) {})
	h := c.Apply(c.Collect(k.Tracker(), nil, testkit.Now), nil, testkit.Now, k.Tracker().Working, unmarked)
	told := map[string][]string{}
	for _, it := range h.Items {
		for _, to := range it.To {
			told[to] = append(told[to], it.Label+" "+string(it.Why[to]))
		}
	}
	assert.Equal(t, map[string][]string{"marta@example.org": {"Lamp escalated to you", "Bell "}, "joren@example.org": {"Lamp "}, "desk@example.org": {"Horn unassigned"},
		"copy@example.org": {"Lamp for your information", "Horn for your information", "Bell for your information"}, "head@example.org": {"Lamp escalated to you"}}, told, "grouped by stage, then by date")
	assert.Equal(t, 3, h.Held)

	_, round := collect(t, k)
	letters, err := reminder.Letters([]reminder.Holding{h}, reminder.Context{Round: round, Tracker: "Loans", Now: testkit.Now, Pause: func(to string) string { return "https://kavlo.example.org/pause/" + to },
		Act: func(_ *reminder.Reminder, i reminder.Item, to, what string) string {
			return "https://kavlo.example.org/" + what + "/" + i.Label
		}})
	require.NoError(t, err)
	byTo := map[string]reminder.Letter{}
	for _, l := range letters {
		byTo[l.To] = l
	}
	marta := byTo["marta@example.org"]
	assert.Contains(t, marta.Text, "Late (1), escalated to you")
	assert.Contains(t, marta.Text, "B:\n* Bell")
	assert.Contains(t, marta.Text, "Mark done: https://kavlo.example.org/done/Bell")
	assert.Contains(t, marta.HTML, `href="https://kavlo.example.org/date/Bell"`)
	assert.Contains(t, marta.Text, "Pause these emails: https://kavlo.example.org/pause/marta@example.org")
	assert.NotContains(t, byTo["copy@example.org"].Text, "Mark done:", "who is told for information has nothing to do")
}

// unmarked stands for a row that has not changed.
func unmarked(sheet.RowID) string { return "as it is" }

func TestRowsAreRepeatedPutOffAndDone(t *testing.T) {
	k := testkit.New(t, raised)
	id := k.Add("Crating", "Object=Bell", "Registrar=marta@example.org", "Due=2026-03-24")
	today := int64(20537) // 2026-03-25
	day := 24 * time.Hour
	known := func(k reminder.Known) reminder.State {
		return reminder.State{Since: testkit.Now.Add(-10 * day), By: map[string]reminder.Known{"marta@example.org": k}}
	}
	for name, c := range map[string]struct {
		repeat int
		state  reminder.State
		told   bool
	}{
		"new":                    {3, reminder.State{}, true},
		"told yesterday":         {3, known(reminder.Known{Told: testkit.Now.Add(-day)}), false},
		"told three days ago":    {3, known(reminder.Known{Told: testkit.Now.Add(-3*day + time.Hour)}), true},
		"told, every round":      {0, known(reminder.Known{Told: testkit.Now.Add(-time.Hour)}), true},
		"told, once":             {reminder.Once, known(reminder.Known{Told: testkit.Now.Add(-300 * day)}), false},
		"once, not told yet":     {reminder.Once, reminder.State{Since: testkit.Now.Add(-day)}, true},
		"once, another was told": {reminder.Once, reminder.State{By: map[string]reminder.Known{"joren@example.org": {Told: testkit.Now.Add(-day)}}}, true},
		"told by an older one":   {reminder.Once, reminder.State{By: map[string]reminder.Known{"": {Told: testkit.Now.Add(-day)}}}, false},
		"put off until tomorrow": {0, known(reminder.Known{Until: today + 1}), false},
		"put off until today":    {0, known(reminder.Known{Until: today}), true},
		"done":                   {0, known(reminder.Known{Until: reminder.Forever, Mark: unmarked(id)}), false},
		"done, and changed":      {0, known(reminder.Known{Until: reminder.Forever, Mark: "as it was"}), true},
	} {
		r := compiled(t, k, func(r *reminder.Reminder) { r.Repeat, r.Raise = c.repeat, nil })
		h := r.Apply(r.Collect(k.Tracker(), nil, testkit.Now), map[sheet.RowID]reminder.State{id: c.state}, testkit.Now, k.Tracker().Working, unmarked)
		told := len(h.Items) == 1 && slices.Contains(h.Items[0].To, "marta@example.org")
		assert.Equal(t, c.told, told, name)
		if told {
			told := c.state.By["marta@example.org"].Told
			assert.Equal(t, told.IsZero(), h.Items[0].NewTo("marta@example.org"), name)
		}
		assert.Equal(t, 1, h.Held, name)
	}
	// without a due day, days count from when a round first held the row
	r := compiled(t, k, func(r *reminder.Reminder) { r.Due = "" })
	for days, want := range map[int]bool{4: false, 7: true} { // five workdays are seven days
		h := r.Apply(r.Collect(k.Tracker(), nil, testkit.Now), map[sheet.RowID]reminder.State{id: {Since: testkit.Now.Add(-time.Duration(days) * day)}}, testkit.Now, k.Tracker().Working, unmarked)
		require.Len(t, h.Items, 1)
		assert.Equal(t, want, h.Items[0].Why["head@example.org"] == reminder.Raised, "after %d days", days)
	}
	cells, err := r.DoneCells(k.Tracker(), k.Row("Bell"), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, ", done", cells[k.Column("Stage").ID].String())
	assert.True(t, r.Holds(k.Tracker(), k.Row("Bell"), testkit.Now))
}

func TestDatesAreWrittenAsTheTrackerHasIt(t *testing.T) {
	for style, want := range map[string]string{"": "2026-03-24", "2026-03-31": "2026-03-24", "31.03.2026": "24.03.2026", "31/03/2026": "24/03/2026", "03/31/2026": "03/24/2026", "31 March 2026": "24 March 2026", "31 Mar 2026": "24 Mar 2026"} {
		k := testkit.New(t, strings.Replace(raised, "zone: UTC", "zone: UTC\ndates: \""+style+"\"", 1))
		k.Add("Crating", "Object=Bell", "Registrar=marta@example.org", "Due=2026-03-24")
		h := compiled(t, k, func(*reminder.Reminder) {}).Collect(k.Tracker(), nil, testkit.Now)
		require.Len(t, h.Items, 1)
		assert.Equal(t, want, h.Items[0].Shown[1], style)
	}
}

func TestWhatWillBeDue(t *testing.T) {
	k := testkit.New(t, raised)
	k.Add("Crating", "Object=Bell", "Registrar=marta@example.org", "Due=2026-04-24")
	k.Add("Crating", "Object=Held", "Registrar=marta@example.org", "Due=2026-03-24")
	k.Add("Crating", "Object=Closed", "Registrar=marta@example.org", "Due=2026-04-24", "Closed=yes")
	k.Add("Crating", "Object=Far", "Registrar=marta@example.org", "Due=2028-04-24")
	c := compiled(t, k, func(*reminder.Reminder) {})
	ahead := c.Ahead(k.Tracker(), nil, testkit.Now, 20537+366)
	require.Len(t, ahead, 1, "what is closed will not be late, what is held is told of already")
	assert.Equal(t, "Bell", ahead[0].Label)
}
