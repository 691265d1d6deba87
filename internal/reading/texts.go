package reading

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

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
	case isoDate.MatchString(s), localDate.MatchString(s), namedDate.MatchString(s):
		return isDate
	case formatted(s), texts && plainDigits.MatchString(s):
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

func fits(p parser) func(string) bool {
	return func(s string) bool { _, ok := p(s); return ok }
}

// codeWords are words of a header over codes and the like, whose digits are not
// numbers: nobody adds them up.
var codeWords = regexp.MustCompile(`(?i)\b(code|codes|phone|telephone|tel|mobile|fax|zip|postcode|postal|iban|bic|isbn|ean|barcode|sku|vat no|tax no|passport)\b`)

// decideText looks for dates, numbers and the like among texts.
func (t *Table) decideText(name string, e *evidence, texts bool) (value.Type, string, parser) {
	all := func(k value.Kind, parse parser, what string) (value.Type, string, parser) {
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
	if typ, reason, parse := all(value.Checkbox, yesNo, "are yes or no"); parse != nil {
		return typ, reason, parse
	}
	if e.any(saysYes) && e.any(saysNo) { // one of them alone may be a letter or a word like others
		if typ, reason, parse := all(value.Checkbox, localYesNo, "are yes or no"); parse != nil {
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

// dateParser gives what reads the texts of a column as dates, and what they
// are; nil where none of them is one.
func (t *Table) dateParser(name string, e *evidence) (parser, string) {
	switch {
	case e.any(localDate.MatchString):
	case e.any(isoDate.MatchString):
		return isoParser, "are dates as ISO 8601 writes them"
	case e.any(namedDate.MatchString):
		return namedParser, "are dates with the month in words"
	default:
		return nil, ""
	}
	dayFirst, sure, ok := dayOrder(e.texts)
	if !ok {
		return nil, ""
	}
	reason := "are dates, the day first"
	if !dayFirst {
		reason = "are dates, the month first"
	}
	if parse := localDateParser(dayFirst); !sure && e.most(e.count(fits(parse))+e.kinds[value.Date]+e.kinds[value.DateTime]) {
		t.Doubts = append(t.Doubts, fmt.Sprintf("in %s, day and month could be either way round: the day was taken to come first", name))
	}
	return localDateParser(dayFirst), reason
}

func (t *Table) decideAmount(name string, e *evidence, texts bool) (value.Type, string, parser) {
	spaced := e.spaced()
	if !spaced && !e.any(func(s string) bool { return formatted(s) || plainDigits.MatchString(s) }) && e.kinds[value.Number] == 0 || codeWords.MatchString(name) && e.kinds[value.Number] == 0 && !e.unit() {
		return value.Type{}, "", nil
	}
	digits := texts || spaced || e.kinds[value.Number] > 0 || e.any(formatted)
	if !digits && e.differInLength() {
		digits = true
	}
	mark, sure := decimalMark(e.texts)
	parse := amountParser(mark)
	n := e.count(func(s string) bool {
		return (formatted(s) || digits && plainDigits.MatchString(s) || spaced && thousands.MatchString(s)) && fits(parse)(s)
	})
	if !e.most(n + e.kinds[value.Number]) {
		return value.Type{}, "", nil
	}
	if !sure && e.any(func(s string) bool { return strings.ContainsAny(s, ".,") }) {
		t.Doubts = append(t.Doubts, fmt.Sprintf("in %s, the marks in the numbers could begin decimals or part thousands: thousands were taken for commas", name))
	}
	if !texts && e.kinds[value.Number] == 0 {
		t.Doubts = append(t.Doubts, fmt.Sprintf("in %s, numbers stand as text: they were taken as numbers", name))
	}
	typ := value.Type{Kind: value.Number, Display: amountDisplay(e.texts)}
	return typ, fmt.Sprintf("%d of %d filled cells are numbers written as text", n+e.kinds[value.Number], e.filled), parse
}

// unit reports whether the texts carry a currency or a percent sign.
func (e *evidence) unit() bool { return amountDisplay(e.texts) != "" }

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
		case !plainDigits.MatchString(s) || len(s) > 4:
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
		if plainDigits.MatchString(s) {
			lengths[len(s)] = true
		}
	}
	return len(lengths) > 1
}

func yesNo(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Checkbox})
	return v, err == nil
}

// Words for yes and no, as people tick with them. Of single letters only those of
// English: others are points of the compass and the like.
var (
	yesWords = []string{"y", "ja", "oui", "sim", "sí", "si", "sì"}
	noWords  = []string{"n", "nein", "nee", "non", "não", "nao", "no"}
)

func saysYes(s string) bool { return slices.Contains(yesWords, value.Fold(s)) }

func saysNo(s string) bool { return slices.Contains(noWords, value.Fold(s)) }

func localYesNo(s string) (value.Value, bool) {
	switch {
	case saysYes(s):
		return value.OfBool(true), true
	case saysNo(s):
		return value.OfBool(false), true
	}
	return yesNo(s)
}

func address(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Person})
	return v, err == nil
}

func webLink(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Link})
	return v, err == nil && (strings.HasPrefix(s, "https://") || strings.HasPrefix(s, "http://"))
}
