package lists

import (
	"time"

	"github.com/emersion/go-ical"
)

// Times of tasks come in four forms (RFC 5545, 3.3.4 and 3.3.5): a date, a time in UTC, a
// time of a named zone, and a wall clock that is the same everywhere. Here they are dates
// and wall clocks of the tracker's zone; written back, a property keeps its own form.

const (
	icalTime = "20060102T150405"
	icalUTC  = "20060102T150405Z"
	wall     = "2006-01-02T15:04:05"
)

// taskTime gives a date, or a time on the clock of a zone; what is neither stays as
// written.
func taskTime(p *ical.Prop, zone *time.Location) string {
	if isDate(p) {
		if t, err := p.DateTime(time.UTC); err == nil {
			return t.Format(time.DateOnly)
		}
		return p.Value
	}
	if t, ok := moment(p); ok {
		return t.In(zone).Format(wall)
	}
	if t, err := time.Parse(icalTime, p.Value); err == nil {
		return t.Format(wall)
	}
	return p.Value
}

func isDate(p *ical.Prop) bool {
	return p.ValueType() == ical.ValueDate || len(p.Value) == len("20060102")
}

// moment gives the point in time that a property names; a wall clock, or one of a zone
// that nobody knows, names none.
func moment(p *ical.Prop) (time.Time, bool) {
	if t, err := time.Parse(icalUTC, p.Value); err == nil {
		return t, true
	}
	if at := zoneOf(p); at != nil {
		t, err := time.ParseInLocation(icalTime, p.Value, at)
		return t, err == nil
	}
	return time.Time{}, false
}

// zoneOf gives the zone that a property names, or nil.
func zoneOf(p *ical.Prop) *time.Location {
	name := p.Params.Get(ical.PropTimezoneID)
	if name == "" || name == "Local" {
		return nil
	}
	at, err := time.LoadLocation(name)
	if err != nil {
		return nil
	}
	return at
}

// setTime sets a date, or a time on the clock of a zone, in the form that the property
// has; a new one is in UTC.
func setTime(todo *ical.Component, prop, text string, zone *time.Location) {
	t := readTime(text)
	if text == "" || t.IsZero() {
		todo.Props.Del(prop)
		return
	}
	if len(text) == len(time.DateOnly) {
		todo.Props.SetDate(prop, t)
		return
	}
	clock := time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), 0, zone)
	p := ical.NewProp(prop)
	was := todo.Props.Get(prop)
	switch {
	case was == nil || isDate(was), len(was.Value) == len(icalUTC):
		p.Value = clock.UTC().Format(icalUTC)
	case zoneOf(was) != nil:
		p.Value = clock.In(zoneOf(was)).Format(icalTime)
		p.Params.Set(ical.PropTimezoneID, was.Params.Get(ical.PropTimezoneID))
	default: // a wall clock, or of a zone that the task describes itself
		p.Value = clock.Format(icalTime)
		if name := was.Params.Get(ical.PropTimezoneID); name != "" {
			p.Params.Set(ical.PropTimezoneID, name)
		}
	}
	todo.Props.Set(p)
}
