package recur

import "time"

// Closed says what becomes of an occurrence on a day that is no working day.
type Closed string

// An occurrence on a closed day comes all the same, or is left out, or comes on
// the next working day at the same hour.
const (
	Open       Closed = ""
	LeaveOut   Closed = "skip"
	NextOpened Closed = "next working day"
)

// Schedule says when something runs by itself.
type Schedule struct {
	Clock  *Clock
	Skip   bool // occurrences that passed while nothing ran are let go; else one makes up for them
	Closed Closed
}

// Scheduled reads a schedule's clock phrase; "" is no schedule.
func Scheduled(phrase string, skip bool, closed Closed) (*Schedule, error) {
	if phrase == "" {
		return nil, nil
	}
	clock, err := Parse(phrase)
	if err != nil {
		return nil, err
	}
	return &Schedule{clock, skip, closed}, nil
}

// Calendar is where a schedule runs: its time zone and working days.
type Calendar struct {
	Zone    *time.Location
	Working WorkingDays
}

// Open reports whether a moment falls on a working day.
func (c Calendar) Open(t time.Time) bool {
	year, month, day := t.In(c.Zone).Date()
	return c.Working.Working(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// mostDays is how far a working day is looked for: a week without one is no working week.
const mostDays = 1000

// Next gives the next time after t at which it runs, with closed days left out or moved
// as it says.
func (s *Schedule) Next(t time.Time, c Calendar) (time.Time, bool) {
	for range mostDays {
		next, ok := s.Clock.NextAfter(t, c.Zone)
		if !ok || s.Closed == Open || c.Open(next) {
			return next, ok
		}
		if s.Closed == NextOpened {
			return s.Opened(next, c), true
		}
		t = next
	}
	return time.Time{}, false
}

// Opened gives when an occurrence comes: at its hour or, where it is moved, at that
// hour of the first working day from it on.
func (s *Schedule) Opened(t time.Time, c Calendar) time.Time {
	local := t.In(c.Zone)
	for range mostDays {
		if s.Closed != NextOpened || c.Open(local) {
			break
		}
		local = local.AddDate(0, 0, 1)
	}
	return local
}

// Due gives the latest occurrence that is to run now and has come after the last that
// ran; false if there is none.
func (s *Schedule) Due(last, now time.Time, c Calendar) (time.Time, bool) {
	occurrence, ok := s.Clock.Latest(now, c.Zone)
	if !ok || s.Closed != Open && !c.Open(now) { // it waits for a working day
		return time.Time{}, false
	}
	for s.Closed == LeaveOut && ok && !c.Open(occurrence) {
		occurrence, ok = s.Clock.Latest(occurrence.Add(-time.Second), c.Zone)
	}
	return occurrence, ok && occurrence.After(last)
}
