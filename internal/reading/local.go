package reading

import (
	"regexp"
	"strconv"
	"strings"
	"time"

	"example.org/kavlo/internal/value"
)

// parser reads a text as a value of a column, or says that it cannot.
type parser func(string) (value.Value, bool)

const clockTime = `(?:[ T,]+(\d{1,2}):(\d{2})(?::(\d{2}))?(?:\.\d+)?)?`

var (
	localDate = regexp.MustCompile(`^(\d{1,2})([./-])(\d{1,2})[./-](\d{4}|\d{2})` + clockTime + `$`)
	isoDate   = regexp.MustCompile(`^(\d{4})([-/.])(\d{1,2})[-/.](\d{1,2})` + clockTime + `Z?$`)
	// 31 March 2026, 31-Mar-26; March 31, 2026
	namedDate = regexp.MustCompile(`^(?i)(?:[a-z]{2,9},? )?(?:(\d{1,2})\.?[ -]+([a-zäéûç]{3,9})\.?[ ,-]+(\d{4}|\d{2})|([a-zäéûç]{3,9})\.? (\d{1,2}),? (\d{4}))` + clockTime + `$`)

	// an amount: sign or currency, digits in groups of three or none, currency or percent
	amount      = regexp.MustCompile(`^(\(?)([^\d\s.,+()−-]{0,3})\s*([+−-]?)\s*([^\d\s.,+()−-]{0,3})\s*(\d{1,3}(?:[.,'’ \x{a0}\x{202f}]\d{3})+(?:[.,]\d+)?|\d+(?:[.,]\d+)?)\s*([^\d\s.,+()-]{0,3})(\)?)$`)
	plainDigits = regexp.MustCompile(`^[+−-]?(0|[1-9]\d{0,14})(\.\d+)?$`)
)

// currencies gives the code (ISO 4217) of signs, as far as a sign names one.
var currencies = map[string]string{"€": "EUR", "£": "GBP", "$": "USD", "¥": "JPY", "₹": "INR", "₺": "TRY", "₽": "RUB", "zł": "PLN", "Kč": "CZK", "Ft": "HUF", "R$": "BRL",
	"EUR": "EUR", "GBP": "GBP", "USD": "USD", "CHF": "CHF", "SEK": "SEK", "NOK": "NOK", "DKK": "DKK", "PLN": "PLN", "CZK": "CZK", "HUF": "HUF", "JPY": "JPY", "CAD": "CAD", "AUD": "AUD", "Fr.": "CHF", "US$": "USD"}

var krona = map[string]bool{"kr": true, "kr.": true, "Kr": true, "Kr.": true}

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
	year, month, dayOf := number(y[0]), number(m[0]), number(d[0])
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
	hour, minute, second := number(clock[0]), number(clock[1]), number(clock[2])
	if hour > 23 || minute > 59 || second > 59 {
		return value.Value{}, false
	}
	return value.OfSeconds(at.Unix() + int64(hour*3600+minute*60+second)), true
}

// number reads digits that a pattern found; none are 0.
func number(s string) int {
	n, _ := strconv.Atoi(s)
	return n
}

func isoParser(s string) (value.Value, bool) {
	m := isoDate.FindStringSubmatch(s)
	if m == nil {
		return value.Value{}, false
	}
	return day(m[1:], m[3:], m[4:], m[5:])
}

func namedParser(s string) (value.Value, bool) {
	m := namedDate.FindStringSubmatch(s)
	if m == nil {
		return isoParser(s)
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

// dayOrder decides, over a whole column of local dates, whether the day comes
// first. sure is false where both readings fit every cell.
func dayOrder(texts []string) (dayFirst, sure, ok bool) {
	dayCan, monthCan, seen := true, true, 0
	for _, s := range texts {
		m := localDate.FindStringSubmatch(s)
		if m == nil {
			continue
		}
		seen++
		dayCan = dayCan && number(m[3]) <= 12
		monthCan = monthCan && number(m[1]) <= 12
		if m[2] == "." {
			monthCan = false // dates with dots are written day first everywhere
		}
	}
	return dayCan, dayCan != monthCan, seen > 0 && (dayCan || monthCan)
}

func localDateParser(dayFirst bool) parser {
	return func(s string) (value.Value, bool) {
		m := localDate.FindStringSubmatch(s)
		switch {
		case m == nil:
			return namedParser(s)
		case dayFirst:
			return day(m[4:], m[3:], m[1:], m[5:])
		}
		return day(m[4:], m[1:], m[3:], m[5:])
	}
}

// decimalMark decides, over a whole column, which mark begins the decimals.
// sure is false where every cell could be read either way.
func decimalMark(texts []string) (mark byte, sure bool) {
	for _, s := range texts {
		m := amount.FindStringSubmatch(s)
		if m == nil {
			continue
		}
		digits := m[5]
		dot, comma := strings.LastIndexByte(digits, '.'), strings.LastIndexByte(digits, ',')
		switch {
		case dot >= 0 && comma >= 0 && dot > comma, strings.Count(digits, ",") > 1:
			return '.', true
		case dot >= 0 && comma >= 0, strings.Count(digits, ".") > 1:
			return ',', true
		case dot >= 0 && (len(digits)-dot-1 != 3 || dot > 3):
			return '.', true
		case comma >= 0 && (len(digits)-comma-1 != 3 || comma > 3):
			return ',', true
		}
	}
	return '.', false
}

func amountParser(mark byte) parser {
	other := ","
	if mark == ',' {
		other = "."
	}
	strip := strings.NewReplacer(other, "", " ", "", "'", "", "’", "", "\u00a0", "", "\u202f", "")
	return func(s string) (value.Value, bool) {
		m := amount.FindStringSubmatch(s)
		if m == nil || (m[1] == "") != (m[7] == "") || len(m[5]) > 1 && m[5][0] == '0' && m[5][1] != '.' && m[5][1] != ',' {
			return value.Value{}, false
		}
		if _, ok := unitOf(m); !ok {
			return value.Value{}, false
		}
		sign := strings.Replace(m[3], "−", "-", 1) // U+2212, as text programs set it
		if m[1] != "" {                            // accountants write what is owed in parentheses
			sign = "-"
		}
		digits := m[5]
		whole, _, _ := strings.Cut(digits, string(mark))
		if at := strings.LastIndexByte(whole, other[0]); at >= 0 && len(whole)-at-1 != 3 {
			return value.Value{}, false // what parts thousands has three digits after it
		}
		v, err := value.ParseNumber(sign + strings.Replace(strip.Replace(digits), ",", ".", 1))
		if err == nil && m[6] == "%" {
			v, err = value.Div(v, value.OfInt(100))
		}
		return v, err == nil
	}
}

// unitOf gives the one currency code or percent sign of an amount, or "";
// not ok where what stands there is neither.
func unitOf(m []string) (string, bool) {
	unit := ""
	for _, s := range []string{m[2], m[4], m[6]} {
		switch s = strings.TrimSpace(s); {
		case s == "":
		case unit != "":
			return "", false
		case s == "%":
			unit = "percent"
		case currencies[s] != "":
			unit = currencies[s]
		case krona[s]: // of one of several countries
		default:
			return "", false
		}
	}
	return unit, true
}

// amountDisplay finds how a column of amounts is shown: percent, a currency, or plain.
func amountDisplay(texts []string) string {
	for _, s := range texts {
		if m := amount.FindStringSubmatch(s); m != nil {
			if unit, ok := unitOf(m); ok && unit != "" {
				return unit
			}
		}
	}
	return ""
}

// formatted reports whether a text is a number that somebody formatted as one:
// with decimals, thousands, a currency or a percent sign, and no leading zero.
func formatted(s string) bool {
	if len(s) > 40 || !strings.ContainsAny(s, "0123456789") {
		return false
	}
	m := amount.FindStringSubmatch(s)
	if m == nil || (m[1] == "") != (m[7] == "") || len(m[5]) > 1 && m[5][0] == '0' && m[5][1] != '.' && m[5][1] != ',' {
		return false
	}
	unit, ok := unitOf(m)
	return ok && (unit != "" || strings.ContainsAny(m[5], ".,'’\u00a0\u202f"))
}
