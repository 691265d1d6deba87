package recur_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/recur"
)

func zone(t testing.TB, name string) *time.Location {
	z, err := time.LoadLocation(name)
	require.NoError(t, err)
	return z
}

func TestNextAfter(t *testing.T) {
	for _, tc := range []struct{ phrase, after, want string }{
		{"weekdays at 08:30", "2026-03-25 08:00", "2026-03-25 08:30"},
		{"weekdays at 08:30", "2026-03-25 08:30", "2026-03-26 08:30"},
		{"weekdays at 08:30", "2026-03-27 09:00", "2026-03-30 08:30"}, // over a weekend on which clocks change
		{"daily at 7:00 and 16:00", "2026-03-25 08:00", "2026-03-25 16:00"},
		{"mondays at 9:00", "2026-03-25 08:00", "2026-03-30 09:00"},
		{"mondays and thursdays at 9:00", "2026-03-25 08:00", "2026-03-26 09:00"},
		{"monthly on day 1 at 06:00", "2026-03-25 08:00", "2026-04-01 06:00"},
		{"monthly on day 31 at 06:00", "2026-04-01 08:00", "2026-05-31 06:00"},
		{"monthly on last friday at 16:00", "2026-03-25 08:00", "2026-03-27 16:00"},
		{"monthly on last day at 16:00", "2026-02-01 08:00", "2026-02-28 16:00"},
		{"every 2 hours", "2026-03-25 08:00", "2026-03-25 10:00"},
		{"every 15 minutes", "2026-03-25 08:01", "2026-03-25 08:15"},
		{"rrule:FREQ=WEEKLY;BYDAY=TU;BYHOUR=5", "2026-03-25 08:00", "2026-03-31 05:00"},
		{"daily at 01:30", "2026-03-28 12:00", "2026-03-29 02:00"}, // 01:30 does not exist that day
		{"daily at 01:30", "2026-10-25 00:00", "2026-10-25 01:30"}, // and comes twice that day
	} {
		t.Run(tc.phrase+" after "+tc.after, func(t *testing.T) {
			lisbon := zone(t, "Europe/Lisbon")
			c, err := recur.Parse(tc.phrase)
			require.NoError(t, err)
			after, err := time.ParseInLocation("2006-01-02 15:04", tc.after, lisbon)
			require.NoError(t, err)
			got, ok := c.NextAfter(after, lisbon)
			require.True(t, ok)
			assert.Equal(t, tc.want, got.In(lisbon).Format("2006-01-02 15:04"))
			last, ok := c.Latest(got, lisbon)
			require.True(t, ok)
			assert.Equal(t, got, last, "an occurrence is the latest at its own moment")
		})
	}
}

func TestAnHourThatComesTwiceRunsOnce(t *testing.T) {
	lisbon := zone(t, "Europe/Lisbon")
	c, err := recur.Parse("daily at 01:30")
	require.NoError(t, err)
	first, _ := c.NextAfter(time.Date(2026, 10, 24, 12, 0, 0, 0, lisbon), lisbon)
	second, _ := c.NextAfter(first, lisbon)
	assert.Equal(t, "2026-10-25 01:30 +0100", first.In(lisbon).Format("2006-01-02 15:04 -0700"))
	assert.Equal(t, "2026-10-26 01:30 +0000", second.In(lisbon).Format("2006-01-02 15:04 -0700"))
}

func TestPhrasesThatCannotBeRead(t *testing.T) {
	for phrase, says := range map[string]string{
		"sometimes":                       "write one like",
		"weekdays at 25:00":               "not a time of day",
		"weekdays at":                     "write one like",
		"monthly on day 32 at 06:00":      "days 1 to 31",
		"monthly on last moonday at 6:00": "not a day of the week",
		"every 7 hours":                   "does not divide 24",
		"rrule:FREQ=SECONDLY":             "not run more often",
		"rrule:FREQ=DAILY;INTERVAL=0":     "INTERVAL must be at least 1",
		"":                                "write one like",
	} {
		_, err := recur.Parse(phrase)
		var e *recur.PhraseError
		require.ErrorAs(t, err, &e, phrase)
		assert.ErrorContains(t, err, says, phrase)
	}
}

func TestOccurrencesOnlyGoForward(t *testing.T) {
	zones := []string{"Europe/Lisbon", "America/New_York", "Australia/Lord_Howe", "Asia/Kolkata", "UTC"}
	phrases := []string{"weekdays at 08:30", "daily at 02:30", "every 2 hours", "monthly on last friday at 16:00", "monthly on day 30 at 02:00", "sundays at 01:30 and 02:30"}
	rapid.Check(t, func(t *rapid.T) {
		z, err := time.LoadLocation(rapid.SampledFrom(zones).Draw(t, "zone"))
		if err != nil {
			t.Fatal(err)
		}
		c, err := recur.Parse(rapid.SampledFrom(phrases).Draw(t, "phrase"))
		if err != nil {
			t.Fatal(err)
		}
		at := time.Unix(rapid.Int64Range(1_600_000_000, 2_000_000_000).Draw(t, "at"), 0)
		for range 5 {
			next, ok := c.NextAfter(at, z)
			if !ok || !next.After(at) {
				t.Fatalf("%s after %s in %s is %s", c.Phrase, at, z, next)
			}
			if between, ok := c.NextAfter(at.Add(next.Sub(at)/2), z); !ok || !between.Equal(next) {
				t.Fatalf("%s: from halfway to %s it is %s", c.Phrase, next, between)
			}
			at = next
		}
	})
}

func TestWorkingDays(t *testing.T) {
	day := func(s string) int64 {
		d, err := time.Parse(time.DateOnly, s)
		require.NoError(t, err)
		return d.Unix() / 86400
	}
	w := recur.WorkingDays{Closed: []int64{day("2026-12-25"), day("2027-01-01")}}
	assert.Equal(t, int64(1), w.Between(day("2026-12-24"), day("2026-12-28")), "Thursday to Monday over a closed Friday")
	assert.Equal(t, int64(-1), w.Between(day("2026-12-28"), day("2026-12-24")))
	assert.Equal(t, day("2026-12-28"), w.Add(day("2026-12-24"), 1))
	assert.Equal(t, day("2026-12-24"), w.Add(day("2026-12-28"), -1))
	assert.False(t, w.Working(day("2026-12-25")))
	assert.False(t, w.Working(day("2026-12-26")))
}

func TestAddingWorkingDaysAgreesWithCountingThem(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := recur.WorkingDays{Closed: []int64{20_000, 20_003, 20_050}}
		day := rapid.Int64Range(19_900, 20_100).Draw(t, "day")
		n := rapid.Int64Range(1, 60).Draw(t, "n")
		to := w.Add(day, n)
		if got := w.Between(day, to); got != n {
			t.Fatalf("%d working days after %d is %d, and between them are %d", n, day, to, got)
		}
		if !w.Working(to) {
			t.Fatalf("%d is not worked", to)
		}
	})
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"weekdays at 08:30", "rrule:FREQ=DAILY", "every 0 hours", "monthly on day 99999999999 at 1:00", "rrule:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if c, err := recur.Parse(s); err == nil {
			at := time.Date(2026, 3, 25, 0, 0, 0, 0, time.UTC)
			if next, ok := c.NextAfter(at, time.UTC); ok && !next.After(at) {
				t.Fatalf("%q: %s is not after %s", s, next, at)
			}
		}
	})
}
