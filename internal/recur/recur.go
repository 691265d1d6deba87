// Package recur reads clock phrases such as "weekdays at 08:30", compiles them
// to recurrence rules (RFC 5545, section 3.3.10) and says when they next come.
// It also counts working days.
//
// Everything is a function of a given time, never of now. Times are wall-clock
// in a zone: one that a change of the clocks leaves out runs at the next that
// exists, one that comes twice runs once, at its first coming.
package recur

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/teambition/rrule-go"
)

// Clock is a compiled clock phrase.
type Clock struct {
	Phrase string
	Rule   string // the recurrence rule it stands for
	times  []rrule.ROption
}

// PhraseError says what is wrong with a clock phrase.
type PhraseError struct {
	Phrase string
	Reason string
}

func (e *PhraseError) Error() string {
	return fmt.Sprintf("clock phrase %q: %s", e.Phrase, e.Reason)
}

const examples = "write one like: daily at 7:00, weekdays at 08:30, mondays and thursdays at 9:00, monthly on day 1 at 06:00, monthly on last friday at 16:00, every 2 hours"

var (
	everyForm   = regexp.MustCompile(`^every (?:(\d+) )?(hour|hours|minutes)$`)
	atForm      = regexp.MustCompile(`^(.+?) at (.+)$`)
	dayForm     = regexp.MustCompile(`^monthly on day (\d{1,2})$`)
	ordinalForm = regexp.MustCompile(`^monthly on (first|second|third|fourth|last) (\w+)$`)
	listSep     = regexp.MustCompile(`\s*(?:,|\band\b)\s*`)
)

var weekdays = map[string]rrule.Weekday{
	"monday": rrule.MO, "tuesday": rrule.TU, "wednesday": rrule.WE, "thursday": rrule.TH,
	"friday": rrule.FR, "saturday": rrule.SA, "sunday": rrule.SU,
}

var ordinals = map[string]int{"first": 1, "second": 2, "third": 3, "fourth": 4, "last": -1}

// Parse compiles a clock phrase, or a recurrence rule written after "rrule:".
func Parse(phrase string) (*Clock, error) {
	p := strings.ToLower(strings.Join(strings.Fields(phrase), " "))
	fail := func(reason string) (*Clock, error) { return nil, &PhraseError{Phrase: phrase, Reason: reason} }
	if rest, ok := strings.CutPrefix(p, "rrule:"); ok {
		return parseRule(phrase, strings.ToUpper(strings.TrimSpace(rest)))
	}
	if m := everyForm.FindStringSubmatch(p); m != nil {
		return parseEvery(phrase, m[1], m[2])
	}
	m := atForm.FindStringSubmatch(p)
	if m == nil {
		return fail(examples)
	}
	base, err := parseDays(m[1])
	if err != "" {
		return fail(err)
	}
	var options []rrule.ROption
	for _, at := range listSep.Split(m[2], -1) {
		t, err := time.Parse("15:04", at)
		if err != nil {
			return fail(fmt.Sprintf("%q is not a time of day: write it like 08:30", at))
		}
		o := base
		o.Byhour, o.Byminute, o.Bysecond = []int{t.Hour()}, []int{t.Minute()}, []int{0}
		options = append(options, o)
	}
	return compile(phrase, options)
}

func parseDays(days string) (rrule.ROption, string) {
	switch days {
	case "daily":
		return rrule.ROption{Freq: rrule.DAILY}, ""
	case "weekdays":
		return rrule.ROption{Freq: rrule.WEEKLY, Byweekday: []rrule.Weekday{rrule.MO, rrule.TU, rrule.WE, rrule.TH, rrule.FR}}, ""
	}
	if m := dayForm.FindStringSubmatch(days); m != nil {
		n, _ := strconv.Atoi(m[1])
		if n < 1 || n > 31 {
			return rrule.ROption{}, "a month has days 1 to 31"
		}
		return rrule.ROption{Freq: rrule.MONTHLY, Bymonthday: []int{n}}, ""
	}
	if m := ordinalForm.FindStringSubmatch(days); m != nil {
		if m[2] == "day" && m[1] == "last" {
			return rrule.ROption{Freq: rrule.MONTHLY, Bymonthday: []int{-1}}, ""
		}
		day, ok := weekdays[m[2]]
		if !ok {
			return rrule.ROption{}, fmt.Sprintf("%q is not a day of the week", m[2])
		}
		return rrule.ROption{Freq: rrule.MONTHLY, Byweekday: []rrule.Weekday{day.Nth(ordinals[m[1]])}}, ""
	}
	o := rrule.ROption{Freq: rrule.WEEKLY}
	for _, name := range listSep.Split(days, -1) {
		day, ok := weekdays[strings.TrimSuffix(name, "s")]
		if !ok {
			return o, examples
		}
		o.Byweekday = append(o.Byweekday, day)
	}
	return o, ""
}

func parseEvery(phrase, count, unit string) (*Clock, error) {
	n := 1
	if count != "" {
		n, _ = strconv.Atoi(count)
	}
	o := rrule.ROption{Freq: rrule.DAILY, Byhour: steps(24, 1), Byminute: []int{0}, Bysecond: []int{0}}
	whole := 24
	if unit == "minutes" {
		whole = 60
		o.Byminute = steps(60, n)
	} else {
		o.Byhour = steps(24, n)
	}
	if n < 1 || whole%n != 0 {
		return nil, &PhraseError{Phrase: phrase, Reason: fmt.Sprintf("%d does not divide %d, so the hours would drift from day to day: take a number that does", n, whole)}
	}
	return compile(phrase, []rrule.ROption{o})
}

func steps(end, step int) []int {
	var out []int
	for i := 0; step > 0 && i < end; i += step {
		out = append(out, i)
	}
	return out
}

func parseRule(phrase, rule string) (*Clock, error) {
	o, err := rrule.StrToROption(rule)
	if err != nil {
		return nil, &PhraseError{Phrase: phrase, Reason: err.Error()}
	}
	switch {
	case strings.Contains(rule, "INTERVAL=") && o.Interval < 1:
		return nil, &PhraseError{Phrase: phrase, Reason: "INTERVAL must be at least 1"}
	case o.Freq > rrule.HOURLY:
		return nil, &PhraseError{Phrase: phrase, Reason: "a rule may not run more often than hourly: write every 15 minutes"}
	case o.Count > 0:
		return nil, &PhraseError{Phrase: phrase, Reason: "COUNT has no meaning without a start: leave it out"}
	}
	if o.Freq < rrule.HOURLY && len(o.Byhour) == 0 {
		o.Byhour = []int{0}
	}
	if len(o.Byminute) == 0 {
		o.Byminute = []int{0}
	}
	o.Bysecond = []int{0}
	return compile(phrase, []rrule.ROption{*o})
}

// anchor is where rules without a start begin to count: a Monday.
var anchor = time.Date(2000, 1, 3, 0, 0, 0, 0, time.UTC)

func compile(phrase string, options []rrule.ROption) (*Clock, error) {
	c := &Clock{Phrase: phrase, times: options}
	var rules []string
	for i := range options {
		o := options[i]
		o.Dtstart = anchor
		r, err := rrule.NewRRule(o)
		if err != nil {
			return nil, &PhraseError{Phrase: phrase, Reason: err.Error()}
		}
		rules = append(rules, r.OrigOptions.RRuleString())
	}
	c.Rule = strings.Join(rules, "\n")
	return c, nil
}

// reach is how far ahead an occurrence is looked for: a leap day on a given
// weekday comes at least once in 40 years.
const reach = 41 * 366 * 24 * time.Hour

// NextAfter gives the first occurrence after t in the zone, and false when the
// rule has none.
func (c *Clock) NextAfter(t time.Time, zone *time.Location) (time.Time, bool) {
	local := t.In(zone)
	// A wall clock that was set back may show less than an hour that has passed.
	wall := time.Date(local.Year(), local.Month(), local.Day(), local.Hour(), local.Minute(), local.Second(), 0, time.UTC).Add(-26 * time.Hour)
	var best time.Time
	for i := range c.times {
		if at, ok := c.next(i, wall, t, zone); ok && (best.IsZero() || at.Before(best)) {
			best = at
		}
	}
	return best, !best.IsZero()
}

func (c *Clock) next(i int, wall, after time.Time, zone *time.Location) (time.Time, bool) {
	o := c.times[i]
	o.Dtstart = anchor
	if o.Interval <= 1 { // any start gives the same days, so start near
		o.Dtstart = time.Date(wall.Year(), wall.Month(), 1, 0, 0, 0, 0, time.UTC)
	}
	r, err := rrule.NewRRule(o)
	if err != nil {
		return time.Time{}, false
	}
	next := r.Iterator()
	for {
		w, ok := next()
		if !ok || w.After(wall.Add(reach)) {
			return time.Time{}, false
		}
		if w.Before(wall) {
			continue
		}
		if at := inZone(w, zone); at.After(after) {
			return at, true
		}
	}
}

// inZone gives the instant at which the zone's clocks first show the wall-clock
// time, or first show a later one where they skip it.
func inZone(wall time.Time, zone *time.Location) time.Time {
	t := time.Date(wall.Year(), wall.Month(), wall.Day(), wall.Hour(), wall.Minute(), wall.Second(), 0, zone)
	start, end := t.ZoneBounds()
	if t.Hour() != wall.Hour() || t.Minute() != wall.Minute() { // skipped
		if !start.IsZero() && t.Sub(start) < 24*time.Hour {
			return start
		}
		return end
	}
	if start.IsZero() {
		return t
	}
	_, before := start.Add(-time.Second).Zone()
	if earlier := time.Unix(wall.Unix()-int64(before), 0).In(zone); earlier.Before(start) {
		return earlier
	}
	return t
}

// WorkingDays says which days of the week are worked and which dates are not.
// The zero value is Monday to Friday with no closed dates.
type WorkingDays struct {
	Week   []time.Weekday `json:"week,omitempty"`
	Closed []int64        `json:"closed,omitempty"` // days since 1970-01-01, ascending
}

func (w WorkingDays) week() (worked [7]bool, n int) {
	if len(w.Week) == 0 {
		return [7]bool{false, true, true, true, true, true, false}, 5
	}
	for _, d := range w.Week {
		if !worked[d%7] {
			worked[d%7] = true
			n++
		}
	}
	return worked, n
}

func weekdayOf(day int64) int64 { return ((day+4)%7 + 7) % 7 } // 1970-01-01 was a Thursday

// On reports whether a day of the week is worked.
func (w WorkingDays) On(day time.Weekday) bool {
	worked, _ := w.week()
	return worked[day%7]
}

// Working reports whether a day (since 1970-01-01) is worked.
func (w WorkingDays) Working(day int64) bool {
	worked, _ := w.week()
	_, closed := slices.BinarySearch(w.Closed, day)
	return worked[weekdayOf(day)] && !closed
}

// Between counts the working days after a and up to b: from a Friday to the
// next Monday is 1. It is negative when b comes before a.
func (w WorkingDays) Between(a, b int64) int64 {
	if b < a {
		return -w.Between(b, a)
	}
	worked, perWeek := w.week()
	weeks := (b - a) / 7
	n := weeks * int64(perWeek)
	for d := a + weeks*7 + 1; d <= b; d++ {
		if worked[weekdayOf(d)] {
			n++
		}
	}
	from, _ := slices.BinarySearch(w.Closed, a+1)
	for _, d := range w.Closed[from:] {
		if d > b {
			break
		}
		if worked[weekdayOf(d)] {
			n--
		}
	}
	return n
}

// maxSearch bounds how far Add looks when hardly any day is worked.
const maxSearch = 400_000

// Add gives the day that lies n working days after day (before it, if negative), or NoDay
// where that is more than a thousand years away.
func (w WorkingDays) Add(day, n int64) int64 {
	step := int64(1)
	if n < 0 {
		step, n = -1, -n
	}
	for i := 0; n > 0 && i < maxSearch; i++ {
		day += step
		if w.Working(day) {
			n--
		}
	}
	if n > 0 {
		return NoDay
	}
	return day
}

// NoDay stands for a day that is too far away, or that there is none of.
const NoDay = math.MinInt64 / 4

// Latest gives the last occurrence at or before t, and false when there was
// none within a year.
func (c *Clock) Latest(t time.Time, zone *time.Location) (time.Time, bool) {
	for _, back := range []time.Duration{2 * time.Hour, 26 * time.Hour, 8 * 24 * time.Hour, 63 * 24 * time.Hour, 367 * 24 * time.Hour} {
		var last time.Time
		for at, ok := c.NextAfter(t.Add(-back), zone); ok && !at.After(t); at, ok = c.NextAfter(at, zone) {
			last = at
		}
		if !last.IsZero() {
			return last, true
		}
	}
	return time.Time{}, false
}
