// Package local reads what people write by hand as the values of columns: dates with the
// month in words or the day first, amounts with either decimal mark, names of people.
// Whole columns, where cells bear each other out, are read by its parts; single texts by
// a Form. The canonical text of a value, as package value writes it, always reads as itself.
package local

import (
	"regexp"
	"strconv"
	"strings"
	"time"

	"example.org/kavlo/internal/value"
)

// Parser reads a text as a value of a column, or says that it cannot.
type Parser func(string) (value.Value, bool)

const clockTime = `(?:[ T,]+(\d{1,2}):(\d{2})(?::(\d{2}))?(?:\.\d+)?)?`

var (
	// NumericDate is a day, month and year in digits, in either order of day and month.
	NumericDate = regexp.MustCompile(`^(\d{1,2})([./-])(\d{1,2})[./-](\d{4}|\d{2})` + clockTime + `$`)
	// ISODate has the year first.
	ISODate = regexp.MustCompile(`^(\d{4})([-/.])(\d{1,2})[-/.](\d{1,2})` + clockTime + `Z?$`)
	// NamedDate has the month in words: 31 March 2026, 31-Mar-26; March 31, 2026.
	NamedDate = regexp.MustCompile(`^(?i)(?:[a-z]{2,9},? )?(?:(\d{1,2})\.?[ -]+([a-zäéûç]{3,9})\.?[ ,-]+(\d{4}|\d{2})|([a-zäéûç]{3,9})\.? (\d{1,2}),? (\d{4}))` + clockTime + `$`)
)

// monthNames are the months in words, by their first three letters or, where
// those are shared, more of them.
var monthNames = map[string]time.Month{"jan": 1, "feb": 2, "fev": 2, "fév": 2, "mar": 3, "mär": 3, "mrz": 3, "apr": 4, "abr": 4, "avr": 4, "may": 5, "mai": 5, "maj": 5, "jun": 6, "juin": 6,
	"jul": 7, "juil": 7, "aug": 8, "ago": 8, "aoû": 8, "sep": 9, "set": 9, "oct": 10, "okt": 10, "out": 10, "nov": 11, "dec": 12, "dez": 12, "dic": 12, "déc": 12}

func monthOf(word string) (time.Month, bool) {
	letters := []rune(strings.ToLower(word))
	if len(letters) > 3 {
		if m, ok := monthNames[string(letters[:4])]; ok {
			return m, true
		}
	}
	m, ok := monthNames[string(letters[:min(3, len(letters))])]
	return m, ok
}

// day gives a date, or with a time a date-time; not ok if there is none such.
func day(y, m, d, clock []string) (value.Value, bool) {
	year, month, dayOf := digits(y[0]), digits(m[0]), digits(d[0])
	if len(y[0]) == 2 {
		if year += 2000; year > 2069 {
			year -= 100
		}
	}
	at := time.Date(year, time.Month(month), dayOf, 0, 0, 0, 0, time.UTC)
	if at.Day() != dayOf || int(at.Month()) != month || year < 1 {
		return value.Value{}, false
	}
	if clock[0] == "" {
		return value.DateOf(at), true
	}
	hour, minute, second := digits(clock[0]), digits(clock[1]), digits(clock[2])
	if hour > 23 || minute > 59 || second > 59 {
		return value.Value{}, false
	}
	return value.OfSeconds(at.Unix() + int64(hour*3600+minute*60+second)), true
}

// digits reads digits that a pattern found; none are 0.
func digits(s string) int {
	n, _ := strconv.Atoi(s)
	return n
}

// ReadISO reads a date, or date and time, with the year first.
func ReadISO(s string) (value.Value, bool) {
	m := ISODate.FindStringSubmatch(s)
	if m == nil {
		return value.Value{}, false
	}
	return day(m[1:], m[3:], m[4:], m[5:])
}

// ReadNamed reads a date with the month in words, or with the year first.
func ReadNamed(s string) (value.Value, bool) {
	m := NamedDate.FindStringSubmatch(s)
	if m == nil {
		return ReadISO(s)
	}
	d, word, y := m[1], m[2], m[3]
	if word == "" {
		word, d, y = m[4], m[5], m[6]
	}
	month, ok := monthOf(word)
	if !ok {
		return value.Value{}, false
	}
	return day([]string{y}, []string{strconv.Itoa(int(month))}, []string{d}, m[7:])
}

// DayOrder decides, over a whole column of local dates, whether the day comes
// first. sure is false where both readings fit every cell.
func DayOrder(texts []string) (dayFirst, sure, ok bool) {
	dayCan, monthCan, seen := true, true, 0
	for _, s := range texts {
		m := NumericDate.FindStringSubmatch(s)
		if m == nil {
			continue
		}
		seen++
		dayCan = dayCan && digits(m[3]) <= 12
		monthCan = monthCan && digits(m[1]) <= 12
		if m[2] == "." {
			monthCan = false // dates with dots are written day first everywhere
		}
	}
	return dayCan, dayCan != monthCan, seen > 0 && (dayCan || monthCan)
}

// ReadDate reads a date in digits, or as ReadNamed does.
func ReadDate(dayFirst bool) Parser {
	return func(s string) (value.Value, bool) {
		m := NumericDate.FindStringSubmatch(s)
		switch {
		case m == nil:
			return ReadNamed(s)
		case dayFirst:
			return day(m[4:], m[3:], m[1:], m[5:])
		}
		return day(m[4:], m[1:], m[3:], m[5:])
	}
}
