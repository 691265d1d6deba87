package value

import (
	"fmt"
	"slices"
	"strings"
	"time"
)

// Option is one of the choices of a choice column.
type Option struct {
	Name   string `json:"name"`
	Colour string `json:"colour,omitempty"` // a colour word of the setup file, or empty
}

// Type says which values a column takes.
type Type struct {
	Kind    Kind     `json:"kind"`
	Options []Option `json:"options,omitempty"` // of a choice
	Several bool     `json:"several,omitempty"` // a choice that may hold several options, a person column several people
	Display string   `json:"display,omitempty"` // of a number: plain (or empty), percent, rating, duration (in hours), or a currency code (ISO 4217)
}

// Duration is the display of a number of hours as hours and minutes.
const Duration = "duration"

// Holds says in words what a number column holds.
func (t Type) Holds() string {
	switch t.Display {
	case "", "plain":
		return "numbers"
	case "percent":
		return "shares in percent"
	case "rating":
		return "ratings"
	case Duration:
		return "lengths of time"
	}
	return t.Display
}

// Option finds an option by name, trimmed and without letter case.
func (t Type) Option(name string) (Option, bool) {
	for _, o := range t.Options {
		if EqualText(o.Name, name) {
			return o, true
		}
	}
	return Option{}, false
}

// Misfit says why a text does not fit a column's type, and what would.
type Misfit struct {
	Text   string
	Reason string
	Hint   string
}

func (m *Misfit) Error() string {
	s := fmt.Sprintf("%q %s", m.Text, m.Reason)
	if m.Hint != "" {
		s += ": " + m.Hint
	}
	return s
}

// Parse reads text as a value of type t. Empty text and white space alone are
// blank in every type. What does not fit gives a *Misfit.
func Parse(text string, t Type) (Value, error) {
	s := strings.TrimSpace(text)
	if s == "" {
		return Value{}, nil
	}
	misfit := func(reason, hint string) (Value, error) {
		return Value{}, &Misfit{Text: text, Reason: reason, Hint: hint}
	}
	switch t.Kind {
	case Text:
		return OfText(text), nil
	case Number:
		n := s
		percent := t.Display == "percent" && strings.HasSuffix(n, "%")
		if percent {
			n = strings.TrimSpace(strings.TrimSuffix(n, "%"))
		}
		v, err := ParseNumber(n)
		if err != nil {
			return misfit(err.Error(), "write it like 1250.5")
		}
		if percent {
			if v, err = number(v.n, int(v.scale)+2); err != nil {
				return misfit(err.Error(), "")
			}
		}
		return v, nil
	case Date:
		d, err := time.Parse("2006-01-02", s)
		if err != nil {
			if dt, err := parseDateTime(s); err == nil && dt.n%86400 == 0 {
				return Value{kind: Date, n: dt.Days()}, nil
			}
			return misfit("is not a date", "write it as 2026-03-31")
		}
		return DateOf(d), nil
	case DateTime:
		v, err := parseDateTime(s)
		if err != nil {
			return misfit("is not a date and time", "write it as 2026-03-31T08:30")
		}
		return v, nil
	case Checkbox:
		switch strings.ToLower(s) {
		case "yes", "true":
			return OfBool(true), nil
		case "no", "false":
			return OfBool(false), nil
		}
		return misfit("is neither yes nor no", "write yes or no")
	case Choice:
		return parseChoice(text, s, t)
	case Person:
		words := []string{s}
		if t.Several {
			words = strings.FieldsFunc(s, func(r rune) bool { return r == ';' || r == ',' })
		}
		var people []string
		for _, w := range words {
			w = strings.TrimSpace(w)
			if !isAddress(w) {
				return misfit("is not a mail address", "write it as name@example.org")
			}
			at := strings.LastIndexByte(w, '@')
			if w = w[:at] + strings.ToLower(w[at:]); !slices.Contains(people, w) {
				people = append(people, w)
			}
		}
		return OfPeople(people...), nil
	case Link, File:
		address, label := Value{kind: t.Kind, s: s}.Address()
		if strings.ContainsAny(address, " \t\n<>") || t.Kind == Link && !strings.Contains(address, ":") {
			return misfit("is not a "+t.Kind.String(), "write it as https://example.org/page, or: label <https://example.org/page>")
		}
		return ref(t.Kind, address, label), nil
	}
	return misfit("cannot be written here", "the column is computed")
}

func parseChoice(text, s string, t Type) (Value, error) {
	if o, ok := t.Option(s); ok {
		return OfChoice(o.Name), nil
	}
	names := []string{s}
	if t.Several {
		names = splitList(s)
	} else if unquoted := splitList(s); len(unquoted) == 1 {
		names = unquoted
	}
	chosen := make([]string, 0, len(names))
	for _, n := range names {
		o, ok := t.Option(n)
		if !ok {
			return Value{}, &Misfit{Text: text, Reason: "is not one of the choices", Hint: choicesHint(n, t)}
		}
		chosen = append(chosen, o.Name)
	}
	return OfChoice(chosen...), nil
}

// mostNamed is how many choices an error lists.
const mostNamed = 12

func choicesHint(name string, t Type) string {
	names := make([]string, len(t.Options))
	for i, o := range t.Options {
		names[i] = o.Name
	}
	hint := strings.Join(names[:min(len(names), mostNamed)], ", ")
	if len(names) > mostNamed {
		hint += fmt.Sprintf(" and %d more", len(names)-mostNamed)
	}
	if near := Nearest(name, names); near != "" {
		return hint + ". Did you mean " + near + "?"
	}
	return hint
}

func isAddress(s string) bool {
	at := strings.LastIndexByte(s, '@')
	return at > 0 && at < len(s)-1 && !strings.ContainsAny(s, " \t\r\n<>,;\"")
}

func parseDateTime(s string) (Value, error) {
	s = strings.Replace(s, " ", "T", 1)
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02T15:04:05", "2006-01-02"} {
		if t, err := time.Parse(layout, s); err == nil {
			return DateTimeOf(t), nil
		}
	}
	return Value{}, fmt.Errorf("%q is not a date and time", s)
}

// Fit gives v as a value of type t: unchanged where it already is one, read
// again from its text where it is of another kind. What does not fit is given
// as an odd value together with the *Misfit that says why.
func Fit(v Value, t Type) (Value, error) {
	if v.kind == Blank {
		return v, nil
	}
	if v.kind == t.Kind && t.Kind != Choice && t.Kind != Person {
		return v, nil
	}
	if v.kind == DateTime && t.Kind == Date && v.n%86400 == 0 {
		return OfDays(v.Days()), nil
	}
	text := v.String()
	if v.kind == Link && t.Kind == Text {
		_, text = v.Address()
	}
	got, err := Parse(text, t)
	if err != nil {
		return OfOdd(text), err
	}
	return got, nil
}
