// Package ics writes due dates as a calendar (iCalendar, RFC 5545) that calendar
// programs subscribe to.
package ics

import (
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/emersion/go-ical"
)

// Entry is one day of a calendar on which something is due.
type Entry struct {
	UID    string // the same for the same thing whenever the calendar is read
	Day    time.Time
	Title  string
	Text   string
	Link   string
	Kind   string    // what it is filed under
	Stated time.Time // when this was so
}

// Refresh is how often a program should look again.
const Refresh = "PT1H"

// Write writes a calendar of entries, each a whole day that keeps nobody busy.
func Write(w io.Writer, name string, entries []Entry) error {
	cal := ical.NewCalendar()
	cal.Props.SetText(ical.PropVersion, "2.0")
	cal.Props.SetText(ical.PropProductID, "-//example.org//Kavlo//EN")
	cal.Props.SetText(ical.PropMethod, "PUBLISH")
	cal.Props.SetText("NAME", name) // RFC 7986
	every := ical.NewProp("REFRESH-INTERVAL")
	every.Params.Set("VALUE", "DURATION")
	every.Value = Refresh
	cal.Props.Set(every)
	for i := range entries {
		e := &entries[i]
		event := ical.NewEvent()
		event.Props.SetText(ical.PropUID, e.UID)
		event.Props.SetDateTime(ical.PropDateTimeStamp, e.Stated.UTC())
		event.Props.SetDate(ical.PropDateTimeStart, e.Day)
		event.Props.SetDate(ical.PropDateTimeEnd, e.Day.AddDate(0, 0, 1))
		event.Props.SetText(ical.PropSummary, oneLine(e.Title))
		if e.Text != "" {
			event.Props.SetText(ical.PropDescription, e.Text)
		}
		if e.Link != "" {
			link := ical.NewProp(ical.PropURL)
			link.Value = e.Link
			event.Props.Set(link)
		}
		if e.Kind != "" {
			event.Props.SetText(ical.PropCategories, oneLine(e.Kind))
		}
		event.Props.SetText(ical.PropTransparency, "TRANSPARENT")
		cal.Children = append(cal.Children, event.Component)
	}
	if len(entries) == 0 { // the encoder takes no empty calendar
		_, err := fmt.Fprintf(w, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//example.org//Kavlo//EN\r\nMETHOD:PUBLISH\r\nEND:VCALENDAR\r\n")
		return err
	}
	if err := ical.NewEncoder(w).Encode(cal); err != nil {
		return fmt.Errorf("writing a calendar: %w", err)
	}
	return nil
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }
