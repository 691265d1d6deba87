package value

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Invisible reports whether a character cannot be seen where it stands: line
// breaks and other controls, marks that turn the direction of writing, joiners
// without width. In a name or a label they let it pass for more than it is.
func Invisible(r rune) bool {
	return unicode.In(r, unicode.Cc, unicode.Cf, unicode.Zl, unicode.Zp, unicode.Co, unicode.Cs) || r == utf8.RuneError
}

// OneLine gives text as it may stand within a line of a message: what cannot be
// seen is left out, and breaks of lines are spaces.
func OneLine(s string) string {
	if printable(s) || !strings.ContainsFunc(s, Invisible) {
		return s
	}
	return strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\r' || r == '\t' || r == '\v' || r == '\f' || r == '\u0085' || r == '\u2028' || r == '\u2029':
			return ' '
		case Invisible(r):
			return -1
		}
		return r
	}, s)), " ")
}

// printable says of plain ASCII, quickly, that all of it can be seen; most text is.
func printable(s string) bool {
	for i := range len(s) {
		if s[i] < ' ' || s[i] > '~' {
			return false
		}
	}
	return true
}
