package reading

import (
	"fmt"
	"regexp"
	"strings"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

// guess is what a single cell looks like, before its column is known.
type guess int

const (
	isNothing guess = iota
	isText
	isNumber
	isDate
	isTick
	isAddress
)

// looksLike tells what a cell looks like. Digits alone in a text are a number
// only where everything came as text.
func looksLike(c Cell, texts bool) guess {
	switch c.Value.Kind() {
	case value.Blank:
		return isNothing
	case value.Number:
		return isNumber
	case value.Date, value.DateTime:
		return isDate
	case value.Checkbox:
		return isTick
	case value.Text:
	default:
		return isText
	}
	s := strings.TrimSpace(c.Value.Raw())
	switch {
	case s == "":
		return isNothing
	case len(s) > 60:
		return isText
	case local.ISODate.MatchString(s), local.NumericDate.MatchString(s), local.NamedDate.MatchString(s):
		return isDate
	case local.Formatted(s), texts && (local.Digits.MatchString(s) || local.Scientific.MatchString(s)):
		return isNumber
	case strings.HasPrefix(s, "https://"), strings.HasPrefix(s, "http://"), strings.Contains(s, "@") && fits(address)(s):
		return isAddress
	}
	return isText
}

// sample tells what most cells of a column look like.
func (g *Grid) sample(from, to, col int) guess {
	var n [isAddress + 1]int
	filled := 0
	for row := from; row <= to && filled < sampleRows; row++ {
		if k := looksLike(g.At(row, col), g.Texts); k != isNothing {
			n[k]++
			filled++
		}
	}
	if filled == 0 {
		return isNothing
	}
	for k := isText; k <= isAddress; k++ {
		if n[k]*10 >= filled*7 {
			return k
		}
	}
	return isText
}

func fits(p local.Parser) func(string) bool {
	return func(s string) bool { _, ok := p(s); return ok }
}

// codeWords are words of a header over codes and the like, whose digits are not
// numbers: nobody adds them up.
var codeWords = regexp.MustCompile(`(?i)\b(code|codes|phone|telephone|tel|mobile|fax|zip|postcode|postal|iban|bic|isbn|ean|barcode|sku|vat no|tax no|passport)\b`)

// decideText looks for dates, numbers and the like among texts.
func (t *Table) decideText(name string, e *evidence, texts bool) (value.Type, string, local.Parser) {
	all := func(k value.Kind, parse local.Parser, what string) (value.Type, string, local.Parser) {
		n := e.count(fits(parse))
		if !e.most(n + e.kinds[k]) {
			return value.Type{}, "", nil
		}
		return value.Type{Kind: k}, fmt.Sprintf("%d of %d filled cells %s", n+e.kinds[k], e.filled, what), parse
	}
	if parse, reason := t.dateParser(name, e); parse != nil {
		kind := value.Date
		if e.kinds[value.DateTime] > 0 || e.any(func(s string) bool { v, ok := parse(s); return ok && v.Kind() == value.DateTime }) {
			kind = value.DateTime
		}
		n := e.count(fits(parse)) + e.kinds[value.Date] + e.kinds[value.DateTime]
		if e.most(n) {
			return value.Type{Kind: kind}, fmt.Sprintf("%d of %d filled cells %s", n, e.filled, reason), parse
		}
	}
	if typ, reason, parse := all(value.Checkbox, local.YesNo, "are yes or no"); parse != nil {
		return typ, reason, parse
	}
	if e.any(local.SaysYes) && e.any(local.SaysNo) { // one of them alone may be a letter or a word like others
		if typ, reason, parse := all(value.Checkbox, local.AnyYesNo, "are yes or no"); parse != nil {
			return typ, reason, parse
		}
	}
	if typ, reason, parse := all(value.Person, address, "are mail addresses"); parse != nil {
		return typ, reason, parse
	}
	if typ, reason, parse := all(value.Link, webLink, "are web addresses"); parse != nil {
		return typ, reason, parse
	}
	return t.decideAmount(name, e, texts)
}

// orderDoubt says that day and month of a column's dates could change places.
func orderDoubt(name string) string {
	return fmt.Sprintf("in %s, day and month could be either way round: the day was taken to come first", name)
}

// dateParser gives what reads the texts of a column as dates, and what they
// are; nil where none of them is one.
func (t *Table) dateParser(name string, e *evidence) (local.Parser, string) {
	switch {
	case e.any(local.NumericDate.MatchString):
	case e.any(local.ISODate.MatchString):
		return local.ReadISO, "are dates as ISO 8601 writes them"
	case e.any(local.NamedDate.MatchString):
		return local.ReadNamed, "are dates with the month in words"
	default:
		return nil, ""
	}
	dayFirst, sure, ok := local.DayOrder(e.texts)
	if !ok {
		return nil, ""
	}
	reason := "are dates, the day first"
	if !dayFirst {
		reason = "are dates, the month first"
	}
	if parse := local.ReadDate(dayFirst); !sure && e.most(e.count(fits(parse))+e.kinds[value.Date]+e.kinds[value.DateTime]) {
		t.Doubts = append(t.Doubts, orderDoubt(name))
	}
	return local.ReadDate(dayFirst), reason
}

func (t *Table) decideAmount(name string, e *evidence, texts bool) (value.Type, string, local.Parser) {
	if e.kinds[value.Number] == 0 && e.coded() {
		return value.Type{}, "", nil
	}
	spaced := e.spaced()
	if !spaced && !e.any(func(s string) bool {
		return local.Formatted(s) || local.Digits.MatchString(s) || local.Scientific.MatchString(s)
	}) && e.kinds[value.Number] == 0 || codeWords.MatchString(name) && e.kinds[value.Number] == 0 && !e.unit() {
		return value.Type{}, "", nil
	}
	digits := texts || spaced || e.kinds[value.Number] > 0 || e.any(local.Formatted)
	if !digits && e.differInLength() {
		digits = true
	}
	mark, sure := local.DecimalMark(e.texts)
	parse := local.ReadAmount(mark)
	n := e.count(func(s string) bool {
		return (local.Formatted(s) || digits && (local.Digits.MatchString(s) || local.Scientific.MatchString(s)) || spaced && thousands.MatchString(s)) && fits(parse)(s)
	})
	if !e.most(n + e.kinds[value.Number]) {
		return value.Type{}, "", nil
	}
	if !sure && e.any(eitherWay.MatchString) {
		t.Doubts = append(t.Doubts, fmt.Sprintf("in %s, the marks in the numbers could begin decimals or part thousands: thousands were taken for commas", name))
	}
	if !texts && e.kinds[value.Number] == 0 {
		t.Doubts = append(t.Doubts, fmt.Sprintf("in %s, numbers stand as text: they were taken as numbers", name))
	}
	typ := value.Type{Kind: value.Number, Display: local.AmountDisplay(e.texts)}
	return typ, fmt.Sprintf("%d of %d filled cells are numbers written as text", n+e.kinds[value.Number], e.filled), parse
}

var (
	zeroLed = regexp.MustCompile(`^0\d+$`)
	dotted  = regexp.MustCompile(`^\d+\.\d+$`)
	parted  = regexp.MustCompile(`^\d+(\.\d+){2,}$`)
)

// coded reports whether the texts are codes rather than numbers: some begin with zeros, or
// they are versions, of which 1.1 and 1.10 are two.
func (e *evidence) coded() bool {
	if e.zeroLed() {
		return true
	}
	decimals := map[string]string{}
	for _, s := range e.texts {
		switch {
		case parted.MatchString(s):
			if whole, _, _ := strings.Cut(s, "."); len(whole) <= 2 && !thousandsOnly(s) {
				return true
			}
		case dotted.MatchString(s):
			plain := strings.TrimRight(s, "0")
			if other, known := decimals[plain]; known && other != s {
				return true
			}
			decimals[plain] = s
		}
	}
	return false
}

// zeroLed reports whether some of the texts, and not by chance, are digits that begin with
// a zero.
func (e *evidence) zeroLed() bool {
	n := 0
	for _, s := range e.texts {
		if zeroLed.MatchString(s) {
			n++
		}
	}
	return n > 0 && n*20 >= e.filled
}

// thousandsOnly reports whether all dots of a text part thousands.
func thousandsOnly(s string) bool {
	for _, p := range strings.Split(s, ".")[1:] {
		if len(p) != 3 {
			return false
		}
	}
	return true
}

// eitherWay are numbers whose mark could begin decimals or part thousands.
var eitherWay = regexp.MustCompile(`^\D*[1-9]\d{0,2}[.,]\d{3}\D*$`)

// unit reports whether the texts carry a currency or a percent sign.
func (e *evidence) unit() bool { return local.AmountDisplay(e.texts) != "" }

// thousands are parted by spaces, and there is nothing else in the text.
var thousands = regexp.MustCompile(`^[+−-]?[1-9]\d{0,2}( \d{3})+$`)

// spaced reports whether the texts are whole numbers with spaces between
// thousands. Codes and phone numbers look like that too, but mostly all have one
// length, or parts of fewer digits.
func (e *evidence) spaced() bool {
	lengths, some := map[int]bool{}, false
	for _, s := range e.texts {
		switch {
		case thousands.MatchString(s):
			some = true
		case !local.Digits.MatchString(s) || len(s) > 4:
			return false
		}
		lengths[len(s)] = true
	}
	return some && len(lengths) > 1
}

// differInLength reports whether texts of digits have several lengths: codes
// mostly share one, amounts do not.
func (e *evidence) differInLength() bool {
	lengths := map[int]bool{}
	for _, s := range e.texts {
		if local.Digits.MatchString(s) {
			lengths[len(s)] = true
		}
	}
	return len(lengths) > 1
}

func address(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Person})
	return v, err == nil
}

func webLink(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Link})
	return v, err == nil && (strings.HasPrefix(s, "https://") || strings.HasPrefix(s, "http://"))
}
