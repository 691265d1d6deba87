package workspace_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/workspace"
)

// phrases are clock phrases of every form, with what becomes of missed
// occurrences and of closed days.
var phrases = []struct{ clock, missed, closed string }{
	{"weekdays at 08:30", "run once", ""}, {"daily at 7:00 and 16:00", "skip", ""}, {"mondays at 9:00", "run once", ""}, {"monthly on day 1 at 06:00", "run once", ""},
	{"monthly on last friday at 16:00", "skip", ""}, {"every 6 hours", "skip", ""}, {"daily at 02:30", "run once", ""}, {"daily at 10:00", "run once", "skip"},
	{"saturdays at 10:00", "run once", "next working day"}, {"rrule: FREQ=WEEKLY;BYDAY=TU,TH;BYHOUR=11;BYMINUTE=15", "run once", ""},
}

const yearSetup = `
tracker: %s
zone: %s
working days: { week: mon-fri, closed: [2026-05-01, 2026-12-25] }
tabs:
  Requested: { columns: { Object: { type: text }, Due: { type: date } } }
reminders:
  - { name: Due, in: Requested, where: Due before 2020-01-01, show: [Object], to: nobody@example.org }
rounds:
`

// A simulated year with random downtime, in five zones: every occurrence of every
// clock ran exactly once, or was let go as its policy says.
func TestAYearOfClocks(t *testing.T) {
	if testing.Short() {
		t.Skip("a year takes some seconds")
	}
	c := &clock{}
	start := time.Date(2026, time.January, 1, 0, 0, 0, 0, time.UTC)
	now := start
	c.at(now)
	d, err := workspace.Open(t.Context(), workspace.Config{Dir: t.TempDir(), Now: c.Now, KeepRuns: 1000 * 24 * time.Hour, Store: store.Options{Careless: true}})
	require.NoError(t, err)
	defer func() { assert.NoError(t, d.Close()) }()
	zones := []string{"Europe/Lisbon", "America/New_York", "Australia/Lord_Howe", "Asia/Kolkata", "America/Santiago"}
	for _, z := range zones {
		text := fmt.Sprintf(yearSetup, z, z)
		for i, p := range phrases {
			text += fmt.Sprintf("  - { name: R%d, clock: %q, reminders: all, subject: x, missed: %s%s }\n", i, p.clock, p.missed, map[bool]string{true: ", closed days: " + p.closed}[p.closed != ""])
		}
		_, err := d.Commit(t.Context(), d.LoadSetup(testkit.By("Ines"), []byte(text)))
		require.NoError(t, err)
	}
	// the service is up but for random stretches, from minutes to days
	rng := rand.New(rand.NewPCG(2026, 11))
	type stretch struct{ from, to time.Time }
	var ticks []time.Time
	var down []stretch
	for end := start.AddDate(1, 0, 0); now.Before(end); {
		c.at(now)
		next, err := d.Tick(t.Context())
		require.NoError(t, err)
		ticks = append(ticks, now)
		step := next.Sub(now)
		if step <= 0 || step > 6*time.Hour {
			step = 6 * time.Hour
		}
		if rng.IntN(40) == 0 {
			gap := time.Duration(rng.IntN(72*60)+5) * time.Minute
			down = append(down, stretch{now, now.Add(gap)})
			step = gap
		}
		now = now.Add(step)
	}
	require.Greater(t, len(down), 50)
	for _, z := range zones {
		tr, err := d.Find(z)
		require.NoError(t, err)
		ran := map[string][]time.Time{}
		runs, err := d.Store().Runs(t.Context(), tr.ID, "", 1_000_000)
		require.NoError(t, err)
		for _, r := range runs {
			ran[r.Name] = append(ran[r.Name], r.At)
		}
		for i, p := range phrases {
			got := ran[fmt.Sprintf("R%d", i)]
			want := wanted(t, p.clock, p.missed, p.closed, tr, ticks, start)
			require.Equal(t, stamps(want), stamps(reversed(got)), "%s (missed: %s, closed days: %s) in %s", p.clock, p.missed, p.closed, z)
		}
	}
}

// wanted works out, tick by tick and apart from the service, when a clock was to
// run: at a tick for which something has come due since the last.
func wanted(t *testing.T, phrase, missed, closed string, tr *sheet.Tracker, ticks []time.Time, start time.Time) []time.Time {
	t.Helper()
	c, err := recur.Parse(phrase)
	require.NoError(t, err)
	zone := tr.Location()
	open := func(at time.Time) bool { return tr.Working.Working(value.DateOf(at.In(zone)).Days()) }
	var due []time.Time // when each occurrence is to run, closed days considered
	for at, ok := c.NextAfter(start, zone); ok && at.Before(start.AddDate(1, 0, 1)); at, ok = c.NextAfter(at, zone) {
		then := at
		switch {
		case closed == "skip" && !open(at):
			continue
		case closed == "next working day":
			for !open(then) {
				then = then.In(zone).AddDate(0, 0, 1)
			}
		}
		due = append(due, then)
	}
	var out []time.Time
	i := 0
	for _, tick := range ticks[1:] {
		if closed != "" && !open(tick) {
			continue
		}
		var last time.Time
		for i < len(due) && !due[i].After(tick) {
			last = due[i]
			i++
		}
		if last.IsZero() || missed == "skip" && tick.Sub(last) > 2*time.Minute {
			continue
		}
		out = append(out, tick)
	}
	return out
}

func stamps(all []time.Time) string {
	var b strings.Builder
	for _, t := range all {
		b.WriteString(t.UTC().Format("2006-01-02T15:04 "))
	}
	return b.String()
}

func reversed(all []time.Time) []time.Time {
	out := make([]time.Time, len(all))
	for i, t := range all {
		out[len(all)-1-i] = t
	}
	return out
}

func (c *clock) at(t time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.now = t
}
