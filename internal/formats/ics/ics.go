// Package ics writes due dates as a calendar (iCalendar, RFC 5545) that calendar
// programs subscribe to.
package ics

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"time"
	"unicode/utf8"

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
	cal.Props.SetText("NAME", name)       // RFC 7986
	shown := ical.NewProp("X-WR-CALNAME") // what programs read that do not know that one
	shown.SetText(name)
	shown.Params.Del(ical.ParamValue)
	cal.Props.Set(shown)
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
	var text bytes.Buffer
	if err := ical.NewEncoder(&text).Encode(cal); err != nil {
		return fmt.Errorf("writing a calendar: %w", err)
	}
	_, err := w.Write(fold(text.Bytes()))
	return err
}

// most is how many bytes a line holds before it is folded (RFC 5545, 3.1).
const most = 75

// fold breaks long lines, between characters.
func fold(text []byte) []byte {
	out := make([]byte, 0, len(text)+len(text)/most*3)
	n := 0
	for len(text) > 0 {
		r, size := utf8.DecodeRune(text)
		switch {
		case r == '\r' || r == '\n':
			n = 0
		case n+size > most:
			out = append(out, "\r\n "...)
			n = 1 + size
		default:
			n += size
		}
		out = append(out, text[:size]...)
		text = text[size:]
	}
	return out
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }
