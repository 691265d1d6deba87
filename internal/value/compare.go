package value

import (
	"cmp"
	"math"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// Equal reports whether a and b are the same to a reader: text of any kind is
// compared trimmed and without letter case, numbers by amount, a date and a
// date-time by instant. Blank equals only blank; an odd value equals nothing.
func Equal(a, b Value) bool {
	switch {
	case a.kind == Odd || b.kind == Odd:
		return false
	case a.IsBlank() || b.IsBlank():
		return a.IsBlank() && b.IsBlank()
	case a.kind == b.kind && a.n == b.n && a.scale == b.scale && a.s == b.s:
		return true
	}
	return haveOrder(a, b) && Compare(a, b) == 0
}

// Comparable reports whether values of the two kinds have an order between them.
func Comparable(a, b Kind) bool { return class(a) == class(b) && class(a) != classNone }

type kindClass uint8

const (
	classNone kindClass = iota
	classText
	classNumber
	classTime
	classCheckbox
)

func class(k Kind) kindClass {
	switch k {
	case Text, Choice, Person, Link, File:
		return classText
	case Number:
		return classNumber
	case Date, DateTime:
		return classTime
	case Checkbox:
		return classCheckbox
	}
	return classNone
}

func haveOrder(a, b Value) bool { return Comparable(a.kind, b.kind) }

// Compare orders a and b: negative when a comes first. Values without a common
// order (see Comparable) are ordered by kind, so that sorting is always total:
// blanks last, odd values before them.
func Compare(a, b Value) int {
	if !haveOrder(a, b) {
		return cmp.Compare(rank(a), rank(b))
	}
	switch class(a.kind) {
	case classNumber:
		if a.scale == b.scale {
			return cmp.Compare(a.n, b.n)
		}
		return compareDecimal(a, b)
	case classTime:
		if a.kind == b.kind {
			return cmp.Compare(a.n, b.n)
		}
		return cmp.Compare(a.Seconds(), b.Seconds())
	case classCheckbox:
		return cmp.Compare(a.n, b.n)
	}
	return CompareText(a.s, b.s)
}

func rank(v Value) int {
	switch {
	case v.IsBlank():
		return 99
	case v.kind == Odd:
		return 98
	}
	return int(class(v.kind))
}

func compareDecimal(a, b Value) int {
	n, m := a.n, b.n
	for scale := a.scale; scale < b.scale; scale++ {
		if n > math.MaxInt64/10 || n < -math.MaxInt64/10 {
			return a.decimal().Cmp(b.decimal())
		}
		n *= 10
	}
	for scale := b.scale; scale < a.scale; scale++ {
		if m > math.MaxInt64/10 || m < -math.MaxInt64/10 {
			return a.decimal().Cmp(b.decimal())
		}
		m *= 10
	}
	return cmp.Compare(n, m)
}

// CompareText orders two texts as EqualText sees them; of plain text it allocates nothing.
func CompareText(a, b string) int {
	a, b = strings.TrimSpace(a), strings.TrimSpace(b)
	n := min(len(a), len(b))
	for i := range n {
		x, y := a[i], b[i]
		if x >= utf8.RuneSelf || y >= utf8.RuneSelf {
			return strings.Compare(folded(a), folded(b))
		}
		if x == y || lower(x) == lower(y) {
			continue
		}
		if accented(a, i) || accented(b, i) {
			return strings.Compare(folded(a), folded(b))
		}
		return cmp.Compare(lower(x), lower(y))
	}
	if n > 0 && (accented(a, n-1) || accented(b, n-1)) {
		return strings.Compare(folded(a), folded(b))
	}
	return cmp.Compare(len(a), len(b))
}

// accented reports whether more than ASCII follows a place, such as an accent that
// belongs to the letter there.
func accented(s string, i int) bool { return i+1 < len(s) && s[i+1] >= utf8.RuneSelf }

func lower(c byte) byte {
	if c >= 'A' && c <= 'Z' {
		return c + 'a' - 'A'
	}
	return c
}

// pastPlain reports whether a text holds more than ASCII.
func pastPlain(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return true
		}
	}
	return false
}

// EqualText reports whether two texts are the same to a reader: trimmed, without letter
// case, whether an accent is a character of its own or not, and whatever kind of space
// stands between words.
func EqualText(a, b string) bool {
	a, b = strings.TrimSpace(a), strings.TrimSpace(b)
	if !pastPlain(a) && !pastPlain(b) {
		return strings.EqualFold(a, b)
	}
	return a == b || folded(a) == folded(b)
}

// Fold gives the key under which equal texts meet.
func Fold(s string) string {
	s = strings.TrimSpace(s)
	if !pastPlain(s) {
		return strings.ToLower(s)
	}
	return folded(s)
}

// HoldsFolded reports whether a text holds another one, which Fold has given.
func HoldsFolded(text, word string) bool {
	if pastPlain(text) {
		return strings.Contains(Fold(text), word)
	}
	// plain letters are compared where they stand
	for at := 0; at+len(word) <= len(text); at++ {
		if sameLetters(text[at:at+len(word)], word) {
			return true
		}
	}
	return false
}

func sameLetters(text, folded string) bool {
	for i := range len(folded) {
		c := text[i]
		if 'A' <= c && c <= 'Z' {
			c += 'a' - 'A'
		}
		if c != folded[i] {
			return false
		}
	}
	return true
}

// folded gives a text in composed form (Unicode Standard Annex 15), in small letters, with
// plain spaces.
func folded(s string) string {
	return strings.Map(func(r rune) rune {
		switch r {
		case 'ς': // at the end of a word
			return 'σ'
		case '\u00a0', '\u202f', '\u2007', '\u2009':
			return ' '
		}
		return unicode.ToLower(r)
	}, norm.NFC.String(s))
}
