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

var (
	localDate   = regexp.MustCompile(`^(\d{1,2})([./-])(\d{1,2})[./-](\d{4}|\d{2})$`)
	isoDate     = regexp.MustCompile(`^\d{4}-\d{2}-\d{2}([T ]\d{2}:\d{2}(:\d{2})?)?$`)
	amount      = regexp.MustCompile(`^([^\d\s.,+-]{0,3})\s*([+-]?)\s*(\d[\d.,'\s\x{a0}\x{202f}]*?)\s*([^\d\s.,+-]{0,3}|%)$`)
	plainDigits = regexp.MustCompile(`^[+-]?(0|[1-9]\d{0,14})(\.\d+)?$`)
)

// currencies gives the code (ISO 4217) of the signs that name one currency.
var currencies = map[string]string{"€": "EUR", "£": "GBP", "EUR": "EUR", "GBP": "GBP", "USD": "USD", "CHF": "CHF"}

func isoParser(s string) (value.Value, bool) {
	kind := value.Date
	if len(s) > 10 {
		kind = value.DateTime
	}
	v, err := value.Parse(s, value.Type{Kind: kind})
	return v, err == nil && isoDate.MatchString(s)
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
		a, _ := strconv.Atoi(m[1])
		b, _ := strconv.Atoi(m[3])
		dayCan = dayCan && b <= 12
		monthCan = monthCan && a <= 12
		if m[2] == "." {
			monthCan = false // dates with dots are written day first everywhere
		}
	}
	return dayCan, dayCan != monthCan, seen > 0 && (dayCan || monthCan)
}

func localDateParser(dayFirst bool) parser {
	return func(s string) (value.Value, bool) {
		m := localDate.FindStringSubmatch(s)
		if m == nil {
			return isoParser(s)
		}
		a, _ := strconv.Atoi(m[1])
		b, _ := strconv.Atoi(m[3])
		y, _ := strconv.Atoi(m[4])
		if !dayFirst {
			a, b = b, a
		}
		if len(m[4]) == 2 {
			y += 2000
			if y > 2069 {
				y -= 100
			}
		}
		d := time.Date(y, time.Month(b), a, 0, 0, 0, 0, time.UTC)
		if d.Day() != a || int(d.Month()) != b {
			return value.Value{}, false
		}
		return value.DateOf(d), true
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
		digits := strings.TrimSpace(m[3])
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
	strip := strings.NewReplacer(other, "", " ", "", "'", "", "\u00a0", "", "\u202f", "")
	return func(s string) (value.Value, bool) {
		m := amount.FindStringSubmatch(s)
		if m == nil {
			return value.Value{}, false
		}
		text := strings.Replace(strip.Replace(m[3]), ",", ".", 1)
		v, err := value.ParseNumber(m[2] + text)
		if err == nil && m[4] == "%" {
			v, err = value.Div(v, value.OfInt(100))
		}
		return v, err == nil
	}
}

// amountDisplay finds how a column of amounts is shown: percent, a currency, or plain.
func amountDisplay(texts []string) string {
	for _, s := range texts {
		if m := amount.FindStringSubmatch(s); m != nil {
			if m[4] == "%" {
				return "percent"
			}
			for _, sign := range []string{m[1], m[4]} {
				if code := currencies[strings.TrimSpace(sign)]; code != "" {
					return code
				}
			}
		}
	}
	return ""
}

// formatted reports whether a text is a number that somebody formatted as one:
// with decimals, thousands, a currency or a percent sign, and no leading zero.
func formatted(s string) bool {
	m := amount.FindStringSubmatch(s)
	if m == nil || len(m[3]) > 1 && m[3][0] == '0' && m[3][1] != '.' && m[3][1] != ',' {
		return false
	}
	unit := strings.TrimSpace(m[1] + m[4])
	if unit != "" && unit != "%" && currencies[unit] == "" {
		return false
	}
	return unit != "" || strings.ContainsAny(m[3], ".,'")
}
