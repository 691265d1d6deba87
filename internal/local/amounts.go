package local

import (
	"regexp"
	"strings"

	"example.org/kavlo/internal/value"
)

var (
	// an amount: sign or currency, digits in groups of three or none, currency or percent
	amount = regexp.MustCompile(`^(\(?)([^\d\s.,+()−-]{0,3})\s*([+−-]?)\s*([^\d\s.,+()−-]{0,3})\s*(\d{1,3}(?:[.,'’ \x{a0}\x{202f}]\d{3})+(?:[.,]\d+)?|\d+(?:[.,]\d+)?|[.,]\d+)\s*([^\d\s.,+()-]{0,3})(\)?)$`)
	// Digits are a plain number, as programs write it.
	Digits = regexp.MustCompile(`^[+−-]?((0|[1-9]\d{0,14})(\.\d+)?|\.\d+)$`)
	// Scientific are numbers with a power of ten that no code is written like.
	Scientific = regexp.MustCompile(`^[+-]?(\d*\.\d+[eE][+-]?\d+|\d+(e[+-]?|E[+-])\d+)$`)
)

// currencies gives the code (ISO 4217) of signs, as far as a sign names one.
var currencies = map[string]string{"€": "EUR", "£": "GBP", "$": "USD", "¥": "JPY", "₹": "INR", "₺": "TRY", "₽": "RUB", "zł": "PLN", "Kč": "CZK", "Ft": "HUF", "R$": "BRL",
	"EUR": "EUR", "GBP": "GBP", "USD": "USD", "CHF": "CHF", "SEK": "SEK", "NOK": "NOK", "DKK": "DKK", "PLN": "PLN", "CZK": "CZK", "HUF": "HUF", "JPY": "JPY", "CAD": "CAD", "AUD": "AUD", "Fr.": "CHF", "US$": "USD"}

var krona = map[string]bool{"kr": true, "kr.": true, "Kr": true, "Kr.": true}

// DecimalMark decides, over a whole column, which mark begins the decimals.
// sure is false where every cell could be read either way.
func DecimalMark(texts []string) (mark byte, sure bool) {
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
		case dot >= 0 && (len(digits)-dot-1 != 3 || dot > 3 || digits[0] == '0' || dot == 0):
			return '.', true
		case comma >= 0 && (len(digits)-comma-1 != 3 || comma > 3 || digits[0] == '0' || comma == 0):
			return ',', true
		}
	}
	return '.', false
}

// ReadAmount reads a number whose decimals begin with that mark.
func ReadAmount(mark byte) Parser {
	other := ","
	if mark == ',' {
		other = "."
	}
	strip := strings.NewReplacer(other, "", " ", "", "'", "", "’", "", "\u00a0", "", "\u202f", "")
	return func(s string) (value.Value, bool) {
		if Scientific.MatchString(s) {
			v, _, err := value.ParseRounded(zeroBefore(s))
			return v, err == nil
		}
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
		v, _, err := value.ParseRounded(sign + zeroBefore(strings.Replace(strip.Replace(digits), ",", ".", 1)))
		if err == nil && m[6] == "%" {
			v, err = value.Div(v, value.OfInt(100))
		}
		return v, err == nil
	}
}

// zeroBefore gives a number's text with a zero before a decimal mark that it begins with.
func zeroBefore(s string) string {
	sign := ""
	if s != "" && (s[0] == '-' || s[0] == '+') {
		sign, s = s[:1], s[1:]
	}
	if strings.HasPrefix(s, ".") {
		s = "0" + s
	}
	return sign + s
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

// AmountDisplay finds how a column of amounts is shown: percent, a currency, or plain.
func AmountDisplay(texts []string) string {
	for _, s := range texts {
		if m := amount.FindStringSubmatch(s); m != nil {
			if unit, ok := unitOf(m); ok && unit != "" {
				return unit
			}
		}
	}
	return ""
}

// Formatted reports whether a text is a number that somebody formatted as one:
// with decimals, thousands, a currency or a percent sign, and no leading zero.
func Formatted(s string) bool {
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
