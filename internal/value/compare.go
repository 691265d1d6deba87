package value

import (
	"cmp"
	"math"
	"strings"
	"unicode"
	"unicode/utf8"
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

// CompareText orders two texts trimmed and without letter case, allocating nothing.
func CompareText(a, b string) int {
	a, b = strings.TrimSpace(a), strings.TrimSpace(b)
	for a != "" && b != "" {
		ra, na := utf8.DecodeRuneInString(a)
		rb, nb := utf8.DecodeRuneInString(b)
		if ra != rb {
			if fa, fb := unicode.ToLower(ra), unicode.ToLower(rb); fa != fb {
				return cmp.Compare(fa, fb)
			}
		}
		a, b = a[na:], b[nb:]
	}
	return cmp.Compare(len(a), len(b))
}

// EqualText reports whether two texts are the same trimmed and without letter case.
func EqualText(a, b string) bool {
	return strings.EqualFold(strings.TrimSpace(a), strings.TrimSpace(b))
}

// Fold gives the key under which equal texts meet: trimmed, lower case.
func Fold(s string) string { return strings.ToLower(strings.TrimSpace(s)) }
