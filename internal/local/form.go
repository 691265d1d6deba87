package local

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

// Form is how the people of a tracker write, and what is known when they do. The zero
// Form knows nothing and reads what can mean only one thing.
type Form struct {
	Dates  string      // the tracker's way to write dates, one of value.DateStyles; "": it has none
	Today  value.Value // the day on which it was written; blank: a date without a year is not read
	People Directory   // nil: people are known by address alone
}

// Directory knows people by name.
type Directory interface {
	// Addresses gives the mail addresses of all who bear a name.
	Addresses(name string) []string
	Names() []string
}

// Read reads what somebody wrote, text or what JSON has for a value, as one of type t.
// Where the text could be read in another way too, taken says which was taken, as in
// "2026-04-03, the day first". What does not fit gives a *value.Misfit.
func (f *Form) Read(raw any, t value.Type) (v value.Value, taken string, err error) {
	switch x := raw.(type) {
	case string:
		return f.text(x, t)
	case value.Value:
		if k := x.Kind(); k == value.Text && t.Kind != value.Text || k == value.Odd {
			return f.text(x.Raw(), t)
		}
		v, err = value.Fit(x, t)
		return v, "", err
	case []any:
		if t.Kind != value.Person {
			break
		}
		names := make([]string, 0, len(x))
		for _, n := range x {
			s, is := n.(string)
			if !is {
				return value.Value{}, "", &value.Misfit{Text: fmt.Sprint(raw), Reason: "is not a list of people"}
			}
			names = append(names, s)
		}
		return f.people(strings.Join(names, "; "), t)
	}
	v, err = value.FromJSON(raw, t)
	return v, "", err
}

func (f *Form) text(text string, t value.Type) (v value.Value, taken string, err error) {
	s := spaces.Replace(strings.TrimSpace(text))
	v, err = value.Parse(text, t)
	if err == nil {
		if t.Kind == value.Number && twoWays.MatchString(s) && t.Display != "percent" {
			taken = v.String() + ", the point taken for the decimal mark"
		}
		return v, taken, nil
	}
	switch t.Kind {
	case value.Number:
		v, taken, err = number(text, s, t, err)
	case value.Date, value.DateTime:
		v, taken, err = f.date(text, s, t, err)
	case value.Checkbox:
		if got, ok := tick(s); ok {
			v, err = got, nil
		}
	case value.Person:
		return f.people(text, t)
	case value.Choice:
		if t.Several && strings.Contains(s, ",") {
			if got, other := value.Parse(strings.ReplaceAll(s, ",", ";"), t); other == nil {
				v, err = got, nil
			}
		}
	}
	return v, taken, err
}

// spaces are all the same to whoever types them.
var spaces = strings.NewReplacer("\u00a0", " ", "\u202f", " ", "\u2009", " ")

// twoWays are digits with one point that could as well part thousands.
var twoWays = regexp.MustCompile(`^[+-]?[1-9]\d{0,2}\.\d{3}$`)

var (
	bareFraction = regexp.MustCompile(`^([+-]?)[.,](\d+)$`)
	hours        = regexp.MustCompile(`^(?i)([+-]?)(?:(\d{1,9}):(\d{2})(?::(\d{2}))?|(\d{1,9}(?:[.,]\d+)?) ?h(?:ours?|rs?)?(?: ?(\d{1,2}) ?m(?:in(?:utes?)?)?)?|(\d{1,9}) ?min(?:utes?)?)$`)
)

func number(text, s string, t value.Type, was error) (v value.Value, taken string, err error) {
	misfit := func(reason, hint string) (value.Value, string, error) {
		return value.Value{}, "", &value.Misfit{Text: text, Reason: reason, Hint: hint}
	}
	s = strings.Replace(s, "−", "-", 1) // U+2212, as text programs set it
	if m := hours.FindStringSubmatch(s); m != nil {
		if t.Display != value.Duration {
			return misfit("is a length of time, not a number", "give the column the format duration, or write hours as 1.5")
		}
		if v, ok := span(m); ok {
			return v, "", nil
		}
		return misfit("is not a length of time", "write it as 36:00, with less than 60 minutes")
	}
	if m := bareFraction.FindStringSubmatch(s); m != nil {
		s = m[1] + "0." + m[2]
	}
	if v, rounded, err := value.ParseRounded(s); err == nil {
		if rounded {
			taken = v.String() + ", rounded to 18 digits"
		}
		return v, taken, nil
	}
	m := amount.FindStringSubmatch(s)
	if m == nil {
		return value.Value{}, "", was
	}
	mark, sure := DecimalMark([]string{s})
	v, ok := ReadAmount(mark)(s)
	if !ok {
		return value.Value{}, "", was
	}
	unit, _ := unitOf(m)
	switch {
	case unit == "percent" && t.Display != "percent" && t.Display != "" && t.Display != "plain":
		return misfit("is a share, and the column holds "+t.Holds(), "")
	case unit != "" && unit != "percent" && t.Display != unit:
		if t.Display != "" && t.Display != "plain" {
			return misfit("is in "+unit+", and the column holds "+t.Holds(), "")
		}
		taken = v.String() + ", without its currency"
	case !sure && strings.ContainsAny(m[5], ".,"):
		taken = v.String() + ", the comma taken to part thousands"
	}
	return v, taken, nil
}

// span gives a length of time in hours.
func span(m []string) (value.Value, bool) {
	if digits(m[3]) > 59 || digits(m[4]) > 59 || digits(m[6]) > 59 {
		return value.Value{}, false
	}
	var v value.Value
	var err error
	if m[5] != "" {
		v, err = value.ParseNumber(strings.Replace(m[5], ",", ".", 1))
	} else {
		v = value.OfInt(int64(digits(m[2])))
	}
	if err != nil {
		return v, false
	}
	seconds := value.OfInt(int64(digits(m[3])*60 + digits(m[4]) + digits(m[6])*60 + digits(m[7])*60))
	part, err := value.Div(seconds, value.OfInt(3600))
	if err == nil {
		v, err = value.Add(v, part)
	}
	if err == nil && m[1] == "-" {
		v, err = value.Sub(value.OfInt(0), v)
	}
	return v, err == nil
}

var (
	dayOfMonth = regexp.MustCompile(`^(?i)(?:(?:[a-z]{2,9},? )?(\d{1,2})(?:st|nd|rd|th)?\.?[ -]?([a-zäéûç]{3,9})\.?|([a-zäéûç]{3,9})\.? (\d{1,2})(?:st|nd|rd|th)?)` + clockTime + `$`)
	halfDay    = regexp.MustCompile(`^(?i)(.*?)(\d{1,2})(?::(\d{2}))? ?([ap])\.?m\.?$`)
)

// date reads a date or a date and time. Where day and month could be swapped, the
// tracker's own form decides, and without one the day comes first.
func (f *Form) date(text, s string, t value.Type, was error) (v value.Value, taken string, err error) {
	s = twelveHours(s)
	v, ok := ReadNamed(s)
	if !ok {
		v, taken, ok = f.swappable(s)
	}
	if !ok {
		if v, ok = f.withoutYear(s); ok {
			taken = v.String()
		}
	}
	if !ok {
		return value.Value{}, "", was
	}
	switch {
	case t.Kind == v.Kind():
	case t.Kind == value.DateTime:
		v = value.OfSeconds(v.Seconds())
	case v.Seconds()%86400 == 0:
		v = value.OfDays(v.Days())
	default:
		return value.Value{}, "", &value.Misfit{Text: text, Reason: "is a date and a time, and the column holds dates", Hint: "write " + value.OfDays(v.Days()).String()}
	}
	return v, taken, nil
}

func (f *Form) swappable(s string) (v value.Value, taken string, ok bool) {
	m := NumericDate.FindStringSubmatch(s)
	if m == nil {
		return v, "", false
	}
	dayFirst, dayOK := ReadDate(true)(s)
	monthFirst, monthOK := ReadDate(false)(s)
	switch {
	case dayOK && monthOK && dayFirst != monthFirst && m[2] != ".":
		switch f.Dates {
		case "03/31/2026":
			return monthFirst, "", true
		case "", "2026-03-31":
			return dayFirst, dayFirst.String() + ", the day first", true
		}
		return dayFirst, "", true
	case dayOK:
		return dayFirst, "", true
	case m[2] == ".": // never with the month first
		return v, "", false
	}
	return monthFirst, "", monthOK
}

// withoutYear reads a day of a month as the one that is nearest to today.
func (f *Form) withoutYear(s string) (nearest value.Value, ok bool) {
	m := dayOfMonth.FindStringSubmatch(s)
	if m == nil || f.Today.Kind() != value.Date {
		return nearest, false
	}
	d, word := m[1], m[2]
	if word == "" {
		d, word = m[4], m[3]
	}
	month, known := monthOf(word)
	if !known {
		return nearest, false
	}
	for year := f.Today.Time().Year() - 1; year <= f.Today.Time().Year()+1; year++ {
		v, is := day([]string{fmt.Sprintf("%04d", year)}, []string{fmt.Sprint(int(month))}, []string{d}, m[5:])
		if is && (!ok || away(v, f.Today) < away(nearest, f.Today)) {
			nearest, ok = v, true
		}
	}
	return nearest, ok
}

func away(v, from value.Value) int64 {
	if n := v.Days() - from.Days(); n >= 0 {
		return n
	}
	return from.Days() - v.Days()
}

// twelveHours gives a text that ends with a time as 4:30 pm with that time as 16:30.
func twelveHours(s string) string {
	m := halfDay.FindStringSubmatch(s)
	if m == nil || digits(m[2]) > 12 || digits(m[2]) == 0 {
		return s
	}
	hour := digits(m[2]) % 12
	if strings.EqualFold(m[4], "p") {
		hour += 12
	}
	return fmt.Sprintf("%s%02d:%02d", m[1], hour, digits(m[3]))
}

func tick(s string) (value.Value, bool) {
	switch value.Fold(s) {
	case "x", "✓", "✔", "☑", "☒", "1":
		return value.OfBool(true), true
	case "☐", "0":
		return value.OfBool(false), true
	}
	return AnyYesNo(s)
}

var bracketed = regexp.MustCompile(`^[^<>]*<\s*([^<>\s]+@[^<>\s]+)\s*>$`)

// people reads people by address, by name, or as "Name <address>".
func (f *Form) people(text string, t value.Type) (value.Value, string, error) {
	if v, err := value.Parse(text, t); err == nil {
		return v, "", nil
	}
	words := []string{text}
	if whole := f.named(text); len(whole) != 1 { // a name may have a comma in it
		words = strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == ',' || r == '\n' })
	}
	var found []string
	for _, w := range words {
		w = strings.TrimSpace(w)
		if w == "" {
			continue
		}
		got := f.named(w)
		switch {
		case len(got) > 1:
			return value.Value{}, "", &value.Misfit{Text: text, Reason: "could be " + strings.Join(got, " or "), Hint: "write the address"}
		case len(got) == 0 && strings.Contains(w, "@"):
			return value.Value{}, "", &value.Misfit{Text: text, Reason: "is not a mail address", Hint: "write it as name@example.org"}
		case len(got) == 0:
			return value.Value{}, "", &value.Misfit{Text: text, Reason: "is nobody's name here", Hint: f.nearest(w)}
		}
		if !slices.Contains(found, got[0]) {
			found = append(found, got[0])
		}
	}
	if len(found) > 1 && !t.Several {
		return value.Value{}, "", &value.Misfit{Text: text, Reason: "names several people, and the column takes one", Hint: "allow several people in the column, or name one"}
	}
	return value.OfPeople(found...), "", nil
}

// named gives the addresses that a name, or a name with an address, may stand for.
func (f *Form) named(w string) []string {
	if m := bracketed.FindStringSubmatch(strings.TrimSpace(w)); m != nil {
		w = m[1]
	}
	if v, err := value.Parse(w, value.Type{Kind: value.Person}); err == nil {
		return []string{v.Raw()}
	}
	if f.People == nil {
		return nil
	}
	return f.People.Addresses(strings.Join(strings.Fields(w), " "))
}

func (f *Form) nearest(name string) string {
	if f.People != nil {
		if near := value.Nearest(name, f.People.Names()); near != "" {
			return "did you mean " + near + "?"
		}
	}
	return "write a mail address, or add the person first"
}

// Why says why a text does not fit a type, or nil where it does.
func (f *Form) Why(text string, t value.Type) *value.Misfit {
	_, _, err := f.Read(text, t)
	var m *value.Misfit
	if errors.As(err, &m) {
		return m
	}
	return nil
}

// Fit gives what an odd cell could mean: what people who write so mean by it today, or the only
// near choice. Blank: nothing is near.
func (f *Form) Fit(odd value.Value, t value.Type) value.Value {
	if again, _, err := f.Read(odd, t); err == nil && !again.IsOdd() {
		return again
	}
	if t.Kind != value.Choice || t.Several {
		return value.Value{}
	}
	names := make([]string, len(t.Options))
	for i, o := range t.Options {
		names[i] = o.Name
	}
	if near := value.Nearest(odd.Raw(), names); near != "" {
		return value.OfChoice(near)
	}
	return value.Value{}
}
