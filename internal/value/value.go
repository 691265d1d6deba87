// Package value holds the typed values that stand in a tracker's cells.
//
// A value knows its kind, has one canonical text form, and compares with
// others of its kind; for every column type t and value v that fits it,
// Parse(v.String(), t) gives v again. What does not fit a column's type is
// kept as an odd value: the text as written, never blank and never zero.
//
// A Value is 32 bytes and holds no pointer but its text, so a million rows of
// ten cells stay within what one machine holds with ease. Values are immutable
// and may be compared with == for exact sameness. The package does no I/O and
// knows no clock: where the present matters, the caller passes it in.
package value

import (
	"fmt"
	"strings"
	"time"
)

// Kind tells what a value is.
type Kind uint8

// The kinds. Blank is the zero kind; Odd is text that does not fit its column.
const (
	Blank Kind = iota
	Text
	Number
	Date
	DateTime
	Checkbox
	Choice
	Person
	Link
	File
	Odd
)

var kindNames = [...]string{"blank", "text", "number", "date", "date-time", "checkbox", "choice", "person", "link", "file", "odd"}

// String gives the kind's name as the setup file and the messages write it.
func (k Kind) String() string {
	if int(k) < len(kindNames) {
		return kindNames[k]
	}
	return "unknown"
}

// Phrase gives the kind as it stands in a sentence: "a date", "text".
func (k Kind) Phrase() string {
	switch k {
	case Text, Blank:
		return k.String()
	case Odd:
		return "an odd cell"
	}
	return "a " + k.String()
}

// MarshalText writes the kind's name.
func (k Kind) MarshalText() ([]byte, error) { return []byte(k.String()), nil }

// UnmarshalText reads a kind's name.
func (k *Kind) UnmarshalText(b []byte) error {
	got, ok := KindNamed(string(b))
	if !ok && string(b) != "blank" {
		return fmt.Errorf("%q is not a column type", b)
	}
	*k = got
	return nil
}

// KindNamed gives the kind of a column type's name.
func KindNamed(name string) (Kind, bool) {
	for k := Text; k < Odd; k++ {
		if kindNames[k] == name {
			return k, true
		}
	}
	return Blank, false
}

// Value is one cell's content. The zero Value is blank.
type Value struct {
	kind  Kind
	scale uint8 // digits after the decimal mark, for numbers
	// n holds a number's coefficient, a date's days since 1970-01-01, a
	// date-time's wall-clock seconds since 1970-01-01T00:00, or a checkbox's 0 or 1.
	n int64
	s string
}

// Kind gives the value's kind.
func (v Value) Kind() Kind { return v.kind }

// IsBlank reports whether the value is blank; white space alone counts as blank.
func (v Value) IsBlank() bool {
	return v.kind == Blank || v.kind == Text && strings.TrimSpace(v.s) == ""
}

// IsOdd reports whether the value is text that did not fit its column.
func (v Value) IsOdd() bool { return v.kind == Odd }

// Raw gives the text the value holds: a text, option, address, link or file as
// stored, or what was written in an odd cell. It is empty for other kinds.
func (v Value) Raw() string { return v.s }

// OfText gives a text value; empty text is blank.
func OfText(s string) Value {
	if s == "" {
		return Value{}
	}
	return Value{kind: Text, s: s}
}

// OfOdd gives an odd value that keeps text as written; empty text is blank.
func OfOdd(text string) Value {
	if text == "" {
		return Value{}
	}
	return Value{kind: Odd, s: text}
}

// OfInt gives a whole number.
func OfInt(n int64) Value {
	v, err := number(n, 0)
	if err != nil {
		return OfOdd(err.Error())
	}
	return v
}

// OfBool gives a checkbox value.
func OfBool(b bool) Value {
	v := Value{kind: Checkbox}
	if b {
		v.n = 1
	}
	return v
}

// OfDate gives a date. Month and day normalise as time.Date has it.
func OfDate(year int, month time.Month, day int) Value {
	return OfDays(floorDiv(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix(), 86400))
}

// The calendar's bounds: the years 0 to 9999, which ISO 8601 writes with four
// digits. A day outside them could not be read back from its text.
const (
	firstDay = -719_528  // 0000-01-01
	lastDay  = 2_932_896 // 9999-12-31
)

// OfDays gives the date that many days after 1970-01-01, or an odd value where
// the calendar has no such day.
func OfDays(days int64) Value {
	if days < firstDay || days > lastDay {
		return OfOdd(beyondCalendar)
	}
	return Value{kind: Date, n: days}
}

const beyondCalendar = "a day before the year 0 or after the year 9999"

// DateOf gives the date on which t falls in its own zone.
func DateOf(t time.Time) Value { return OfDate(t.Date()) }

// DateTimeOf gives the wall-clock date-time of t in its own zone, to the second.
func DateTimeOf(t time.Time) Value {
	y, m, d := t.Date()
	return OfSeconds(time.Date(y, m, d, t.Hour(), t.Minute(), t.Second(), 0, time.UTC).Unix())
}

// OfSeconds gives the date-time that many wall-clock seconds after
// 1970-01-01T00:00, or an odd value where the calendar has no such day.
func OfSeconds(s int64) Value {
	if day := floorDiv(s, 86400); day < firstDay || day > lastDay {
		return OfOdd(beyondCalendar)
	}
	return Value{kind: DateTime, n: s}
}

// OfChoice gives a choice of the named options, in the order given.
func OfChoice(options ...string) Value {
	if len(options) == 0 || len(options) == 1 && options[0] == "" {
		return Value{}
	}
	return Value{kind: Choice, s: joinList(options)}
}

// OfPerson gives a person by mail address.
func OfPerson(address string) Value {
	if address == "" {
		return Value{}
	}
	return Value{kind: Person, s: address}
}

// OfPeople gives the people of those mail addresses, in the order given.
func OfPeople(addresses ...string) Value { return OfPerson(strings.Join(addresses, "; ")) }

// People gives the mail addresses that a person value holds.
func (v Value) People() []string {
	if v.kind != Person {
		return nil
	}
	return strings.Split(v.s, "; ")
}

// OfLink gives a link; label may be empty.
func OfLink(url, label string) Value { return ref(Link, url, label) }

// OfFile gives a reference to a file by its address or id; label is its name.
func OfFile(address, label string) Value { return ref(File, address, label) }

func ref(k Kind, address, label string) Value {
	address = strings.TrimSpace(address)
	label = strings.Join(strings.Fields(label), " ")
	if address == "" {
		return Value{}
	}
	if label == "" || label == address {
		return Value{kind: k, s: address}
	}
	return Value{kind: k, s: label + " <" + address + ">"}
}

// Address gives where a link or file value points, and the label shown for it.
func (v Value) Address() (address, label string) {
	if v.kind != Link && v.kind != File {
		return "", ""
	}
	if strings.HasSuffix(v.s, ">") {
		if i := strings.LastIndex(v.s, " <"); i >= 0 {
			return v.s[i+2 : len(v.s)-1], v.s[:i]
		}
	}
	return v.s, v.s
}

// Options gives the options a choice value holds.
func (v Value) Options() []string {
	if v.kind != Choice {
		return nil
	}
	return splitList(v.s)
}

// Days gives the days since 1970-01-01 of a date, or of the day a date-time falls on.
func (v Value) Days() int64 {
	if v.kind == DateTime {
		return floorDiv(v.n, 86400)
	}
	return v.n
}

// Seconds gives the wall-clock seconds since 1970-01-01T00:00 of a date-time, or
// of the start of a date.
func (v Value) Seconds() int64 {
	if v.kind == Date {
		return v.n * 86400
	}
	return v.n
}

// IsTrue reports whether a checkbox is ticked.
func (v Value) IsTrue() bool { return v.kind == Checkbox && v.n == 1 }

// Time gives a date or date-time as a time in UTC with the same wall clock.
func (v Value) Time() time.Time { return time.Unix(v.Seconds(), 0).UTC() }

// In gives the instant a date or date-time names in the zone.
func (v Value) In(zone *time.Location) time.Time {
	t := v.Time()
	return time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), 0, zone)
}

func floorDiv(a, b int64) int64 {
	q := a / b
	if a%b < 0 {
		q--
	}
	return q
}
