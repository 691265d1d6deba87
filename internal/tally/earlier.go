package tally

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/value"
)

var weekdays = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// endOf begins the name of the last day of a period that is over.
const endOf = "end of last "

// dayBefore gives the earlier day that a text means, seen from today: "7 days" or
// "2 months" ago, the last "friday", the "end of last month", or a date.
func dayBefore(text string, today time.Time) (time.Time, error) {
	if at := slices.Index(weekdays, text); at >= 0 {
		back := (int(today.Weekday()) - at + 7) % 7
		if back == 0 {
			back = 7
		}
		return today.AddDate(0, 0, -back), nil
	}
	if day, err := time.Parse(time.DateOnly, text); err == nil {
		return day, nil
	}
	year, month := today.Year(), today.Month()
	switch text {
	case endOf + "month":
		return time.Date(year, month, 0, 0, 0, 0, 0, time.UTC), nil
	case endOf + "quarter":
		return time.Date(year, month-(month-1)%3, 0, 0, 0, 0, 0, time.UTC), nil
	case endOf + "year":
		return time.Date(year, time.January, 0, 0, 0, 0, 0, time.UTC), nil
	}
	var n int
	var unit string
	if _, err := fmt.Sscanf(text, "%d %s", &n, &unit); err == nil && n > 0 && n < 10_000 {
		switch strings.TrimSuffix(unit, "s") {
		case "day":
			return today.AddDate(0, 0, -n), nil
		case "week":
			return today.AddDate(0, 0, -7*n), nil
		case "month":
			return monthsBefore(today, n), nil
		case "year":
			return monthsBefore(today, 12*n), nil
		}
	}
	return time.Time{}, fmt.Errorf("%q is no earlier day: write 7 days, 4 weeks, 1 month, friday, end of last month, or a date such as 2026-03-31", text)
}

// monthsBefore gives the same day of an earlier month, or its last where that is shorter.
func monthsBefore(day time.Time, n int) time.Time {
	first := time.Date(day.Year(), day.Month()-time.Month(n), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1)
	return first.AddDate(0, 0, min(day.Day(), last.Day())-1)
}

// ComparedDay says with which day the tally is compared, as a label beside "now".
func (t *Tally) ComparedDay() string {
	switch _, isDate := time.Parse(time.DateOnly, t.Compare); {
	case slices.Contains(weekdays, t.Compare):
		return "last " + t.Compare
	case strings.HasPrefix(t.Compare, endOf), isDate == nil:
		return t.Compare
	}
	return t.Compare + " ago"
}

// Style gives how its tracker's people write dates and numbers.
func (c *Compiled) Style() value.Style { return c.program.Shape.Style() }

// ComparedWith gives the end of the earlier day that the tally is compared with; not ok
// where it is compared with none.
func (c *Compiled) ComparedWith(now time.Time) (end time.Time, ok bool) {
	if c.Compare == "" {
		return end, false
	}
	local := now.In(c.program.Shape.Location())
	d, err := dayBefore(c.Compare, value.DateOf(local).Time())
	if err != nil {
		return end, false
	}
	return time.Date(d.Year(), d.Month(), d.Day(), 23, 59, 59, 0, local.Location()), true
}
