package clause

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

// function is one function of the language: the checker, the evaluator and the
// reference page all read this table.
type function struct {
	name     string
	params   []Type // Unset takes any type
	variadic bool   // the last parameter may come several times
	result   Type   // Unset: the type of the first argument
	says     string
	example  string // and its outcome
	yields   string
	call     func(args []value.Value) (value.Value, error)
	ofRow    func(*Env) value.Value // of one that asks about the row at hand, in call's place
}

func (f *function) usage() string {
	names := make([]string, len(f.params))
	for i, p := range f.params {
		names[i] = p.String()
		if p == Unset {
			names[i] = "anything"
		}
	}
	s := strings.Join(names, ", ")
	if f.variadic {
		s += " and more"
	}
	return s
}

var functions = map[string]*function{}

func functionNames() []string { return slices.Sorted(maps.Keys(functions)) }

func textual(change func(string) string) func([]value.Value) (value.Value, error) {
	return func(a []value.Value) (value.Value, error) { return value.OfText(change(a[0].String())), nil }
}

func calendar(part func(value.Value) int) func([]value.Value) (value.Value, error) {
	return func(a []value.Value) (value.Value, error) { return value.OfInt(int64(part(a[0]))), nil }
}

func extreme(sign int) func([]value.Value) (value.Value, error) {
	return func(a []value.Value) (value.Value, error) {
		best := a[0]
		for _, v := range a[1:] {
			if sign*value.Compare(v, best) > 0 {
				best = v
			}
		}
		return best, nil
	}
}

func title(s string) string {
	start := true
	return strings.Map(func(r rune) rune {
		was := start
		start = !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '\'' && r != '’'
		if was {
			return unicode.ToTitle(r)
		}
		return unicode.ToLower(r)
	}, s)
}

// spelled reads what a text spells, however people write it; where day and month could
// be swapped the day comes first.
func spelled(v value.Value, k value.Kind) (value.Value, error) {
	got, _, err := (&local.Form{}).Read(value.OfOdd(v.String()), value.Type{Kind: k})
	return got, err
}

func convert(k value.Kind) func([]value.Value) (value.Value, error) {
	return func(a []value.Value) (value.Value, error) {
		return spelled(a[0], k)
	}
}

func init() {
	for _, f := range []*function{
		{name: "upper", params: []Type{Text}, result: Text, says: "the text in capitals", example: `upper("k-07")`, yields: "K-07", call: textual(strings.ToUpper)},
		{name: "lower", params: []Type{Text}, result: Text, says: "the text in small letters", example: `lower("North Pier")`, yields: "north pier", call: textual(strings.ToLower)},
		{name: "title", params: []Type{Text}, result: Text, says: "each word with a capital", example: `title("old mill")`, yields: "Old Mill", call: textual(title)},
		{name: "trim", params: []Type{Text}, result: Text, says: "without white space around, and single spaces within", example: `trim("  tide   clock ")`, yields: "tide clock",
			call: textual(func(s string) string { return strings.Join(strings.Fields(s), " ") })},
		{name: "length", params: []Type{Text}, result: Number, says: "how many letters the text has", example: `length("lamp")`, yields: "4",
			call: func(a []value.Value) (value.Value, error) { return value.OfInt(int64(len([]rune(a[0].String())))), nil }},
		{name: "round", params: []Type{Number, Number}, result: Number, says: "the number rounded half to even to so many decimals", example: "round(12.345, 2)", yields: "12.34",
			call: func(a []value.Value) (value.Value, error) {
				n, ok := a[1].Int()
				if !ok || n < 0 || n > value.MaxDigits {
					return value.Value{}, fmt.Errorf("a number cannot be rounded to %s decimals", a[1])
				}
				return value.Round(a[0], int(n))
			}},
		{name: "min", params: []Type{Unset, Unset}, variadic: true, says: "the least of several", example: "min(7, 3, 5)", yields: "3", call: extreme(-1)},
		{name: "max", params: []Type{Unset, Unset}, variadic: true, says: "the greatest of several", example: "max(2026-03-01, 2026-04-01)", yields: "2026-04-01", call: extreme(1)},
		{name: "abs", params: []Type{Number}, result: Number, says: "the number without its sign", example: "abs(-4)", yields: "4",
			call: func(a []value.Value) (value.Value, error) {
				if value.Compare(a[0], value.OfInt(0)) >= 0 {
					return a[0], nil
				}
				return value.Sub(value.OfInt(0), a[0])
			}},
		{name: "page", result: Text, says: "the address of the row's page, blank where it has none", example: "page()", yields: "http://kavlo.example.org/t/t1/pages/p2/r3", ofRow: pageOf},
		{name: "year", params: []Type{Date}, result: Number, says: "the year of a date", example: "year(2026-03-31)", yields: "2026", call: calendar(func(v value.Value) int { return v.Time().Year() })},
		{name: "month", params: []Type{Date}, result: Number, says: "the month of a date, 1 to 12", example: "month(2026-03-31)", yields: "3", call: calendar(func(v value.Value) int { return int(v.Time().Month()) })},
		{name: "day", params: []Type{Date}, result: Number, says: "the day of the month", example: "day(2026-03-31)", yields: "31", call: calendar(func(v value.Value) int { return v.Time().Day() })},
		{name: "weekday", params: []Type{Date}, result: Number, says: "the day of the week, Monday 1 to Sunday 7", example: "weekday(2026-03-31)", yields: "2",
			call: calendar(func(v value.Value) int { return (int(v.Time().Weekday())+6)%7 + 1 })},
		{name: "number", params: []Type{Unset}, result: Number, says: "the number that a text spells", example: `number("12.50")`, yields: "12.5", call: convert(value.Number)},
		{name: "date", params: []Type{Unset}, result: Date, says: "the date that a text spells, or the day of a date and time", example: `date("2026-03-31")`, yields: "2026-03-31",
			call: func(a []value.Value) (value.Value, error) {
				if a[0].Kind() == value.DateTime || a[0].Kind() == value.Date {
					return value.OfDays(a[0].Days()), nil
				}
				return spelled(a[0], value.Date)
			}},
		{name: "text", params: []Type{Unset}, result: Text, says: "any value as text", example: "text(2026-03-31)", yields: "2026-03-31", call: textual(func(s string) string { return s })},
	} {
		functions[f.name] = f
	}
}

// pageOf gives the address of the page of the row at hand.
func pageOf(e *Env) value.Value {
	if e.Page == nil || e.Row == 0 {
		return e.fault("there is no row here that could have a page")
	}
	return e.Page(e.Row)
}
