package recur_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/recur"
)

// Over ten years and the clock changes of five zones, a daily time runs once a
// day: at its hour; where the clock leaps over it, at the next minute there is;
// where it comes twice, the first time. What is right is found by looking at
// every minute.
func TestDailyTimesOverTenYearsOfClockChanges(t *testing.T) {
	for _, name := range []string{"Europe/Lisbon", "America/New_York", "Australia/Lord_Howe", "America/Santiago", "Asia/Beirut"} {
		z := zone(t, name)
		for phrase, minute := range map[string]int{"daily at 0:30": 30, "daily at 1:30": 90, "daily at 02:15": 135, "daily at 23:45": 1425} {
			clock, err := recur.Parse(phrase)
			require.NoError(t, err)
			last := time.Date(2019, time.December, 31, 23, 59, 0, 0, z)
			for day := time.Date(2020, time.January, 1, 12, 0, 0, 0, time.UTC); day.Year() < 2030; day = day.AddDate(0, 0, 1) {
				want := firstMinute(day, minute, z)
				got, ok := clock.NextAfter(last, z)
				require.True(t, ok)
				require.True(t, want.Equal(got), "%s in %s on %s: %s, want %s", phrase, name, day.Format(time.DateOnly), got.In(z), want.In(z))
				last = got
			}
		}
	}
}

// firstMinute gives the first minute of a civil day at which its clock shows the
// given minute of the day or a later one.
func firstMinute(day time.Time, minute int, z *time.Location) time.Time {
	y, m, d := day.Date()
	at := time.Date(y, m, d, 0, minute, 0, 0, time.UTC).Add(-15 * time.Hour)
	if _, offset := at.In(z).Zone(); offset != 0 { // begin some hours before, by the offset of then
		at = time.Date(y, m, d, 0, minute, 0, 0, time.UTC).Add(-time.Duration(offset)*time.Second - 3*time.Hour)
	}
	for ; ; at = at.Add(time.Minute) {
		local := at.In(z)
		ly, lm, ld := local.Date()
		if ly == y && lm == m && ld == d && local.Hour()*60+local.Minute() >= minute || local.After(time.Date(y, m, d, 23, 59, 0, 0, z)) {
			return at
		}
	}
}
