package tally

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEarlierDaysAreMeantAsPeopleSayThem(t *testing.T) {
	today := time.Date(2026, time.March, 31, 0, 0, 0, 0, time.UTC) // a Tuesday
	for text, want := range map[string][2]string{
		"1 day":               {"2026-03-30", "1 day ago"},
		"4 weeks":             {"2026-03-03", "4 weeks ago"},
		"1 month":             {"2026-02-28", "1 month ago"},
		"13 months":           {"2025-02-28", "13 months ago"},
		"2 years":             {"2024-03-31", "2 years ago"},
		"friday":              {"2026-03-27", "last friday"},
		"tuesday":             {"2026-03-24", "last tuesday"},
		"end of last month":   {"2026-02-28", "end of last month"},
		"end of last quarter": {"2025-12-31", "end of last quarter"},
		"end of last year":    {"2025-12-31", "end of last year"},
		"2026-01-15":          {"2026-01-15", "2026-01-15"},
	} {
		day, err := dayBefore(text, today)
		require.NoError(t, err, text)
		assert.Equal(t, want, [2]string{day.Format(time.DateOnly), (&Tally{Compare: text}).ComparedDay()}, text)
	}
	for _, text := range []string{"then", "0 days", "-1 week", "10000 days", "3 fortnights", "2026-02-30", "end of last week"} {
		_, err := dayBefore(text, today)
		require.ErrorContains(t, err, "is no earlier day", text)
	}
}
