package clause

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

type tokenKind uint8

const (
	tokEnd tokenKind = iota
	tokWord
	tokName   // [in brackets]; text is what stands between
	tokString // text is what stands between the quotes, holes and escapes as written
	tokNumber
	tokDate
	tokMark // ( ) , . + - * / < <= > >= = { }
)

type token struct {
	kind       tokenKind
	text       string
	start, end int
}

// is reports whether the token is that word, without letter case.
func (t token) is(word string) bool { return t.kind == tokWord && strings.EqualFold(t.text, word) }

func (t token) mark(m string) bool { return t.kind == tokMark && t.text == m }

// describe names the token in a message.
func (t token) describe() string {
	if t.kind == tokEnd {
		return "the end"
	}
	return `"` + t.text + `"`
}

type lexer struct {
	text   string
	at     int
	tokens []token
}

func (p *parser) lex() error {
	if len(p.text) > MaxLength {
		return p.errorAt(CodeTooLong, 0, 0, "the clause is longer than %d letters", MaxLength)
	}
	x := &lexer{text: p.text}
	for {
		x.skipSpace()
		if x.at >= len(x.text) {
			x.add(tokEnd, x.at, "")
			p.tokens = x.tokens
			return nil
		}
		if msg, from := x.next(); msg != "" {
			return p.errorAt(CodeUnclosed, from, len(p.text)-from, "%s", msg)
		}
	}
}

func (x *lexer) skipSpace() {
	for x.at < len(x.text) {
		r, n := utf8.DecodeRuneInString(x.text[x.at:])
		if !unicode.IsSpace(r) {
			return
		}
		x.at += n
	}
}

func (x *lexer) add(k tokenKind, start int, text string) {
	x.tokens = append(x.tokens, token{kind: k, text: text, start: start, end: x.at})
}

// next reads one token; a message and the place where it began say what is not closed.
func (x *lexer) next() (string, int) {
	start := x.at
	c := x.text[x.at]
	switch {
	case c == '[':
		end := strings.IndexByte(x.text[start:], ']')
		if end < 0 {
			return "the bracket [ is not closed", start
		}
		x.at += end + 1
		x.add(tokName, start, strings.TrimSpace(x.text[start+1:x.at-1]))
	case c == '"':
		end, msg := stringEnd(x.text, start)
		if msg != "" {
			return msg, start
		}
		x.at = end
		x.add(tokString, start, x.text[start+1:end-1])
	case c >= '0' && c <= '9':
		x.number(start)
	default:
		r, n := utf8.DecodeRuneInString(x.text[x.at:])
		if isWordStart(r) {
			for x.at < len(x.text) && isWordPart(r) {
				x.at += n
				r, n = utf8.DecodeRuneInString(x.text[x.at:])
			}
			x.add(tokWord, start, x.text[start:x.at])
			return "", 0
		}
		x.at += n
		if (c == '<' || c == '>') && x.at < len(x.text) && x.text[x.at] == '=' {
			x.at++
		}
		x.add(tokMark, start, x.text[start:x.at])
	}
	return "", 0
}

func isWordStart(r rune) bool { return unicode.IsLetter(r) || r == '_' || r == '#' }

func isWordPart(r rune) bool {
	return unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.Mn, r) || r == '_' || r == '#'
}

// number reads a number, date or date-time.
func (x *lexer) number(start int) {
	rest := x.text[start:]
	if n := datePrefix(rest); n > 0 {
		x.at += n
		x.add(tokDate, start, rest[:n])
		return
	}
	seenMark := false
	for x.at < len(x.text) {
		c := x.text[x.at]
		if c == '.' && !seenMark && x.at+1 < len(x.text) && isDigit(x.text[x.at+1]) {
			seenMark = true
		} else if !isDigit(c) {
			break
		}
		x.at++
	}
	x.add(tokNumber, start, x.text[start:x.at])
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// datePrefix gives the length of a leading 2026-03-31 or 2026-03-31T08:30[:15], or 0.
func datePrefix(s string) int {
	fits := func(pattern string, from int) bool {
		if len(s) < from+len(pattern) {
			return false
		}
		for i := range len(pattern) {
			if c := s[from+i]; pattern[i] == '0' && !isDigit(c) || pattern[i] != '0' && c != pattern[i] {
				return false
			}
		}
		return true
	}
	switch {
	case !fits("0000-00-00", 0):
		return 0
	case fits("T00:00:00", 10):
		return 19
	case fits("T00:00", 10):
		return 16
	}
	return 10
}

// stringEnd gives where the string that begins at start ends, past its quote.
// Quotes inside a {hole} belong to the hole.
func stringEnd(s string, start int) (int, string) {
	depth, openAt := 0, 0
	for i := start + 1; i < len(s); i++ {
		switch s[i] {
		case '\\':
			i++
		case '{':
			depth++
			openAt = i
		case '}':
			if depth > 0 {
				depth--
			}
		case '"':
			if depth == 0 {
				return i + 1, ""
			}
			end, msg := stringEnd(s, i)
			if msg != "" {
				return 0, `the quote " is not closed`
			}
			i = end - 1
		}
	}
	if depth > 0 && openAt > 0 {
		return 0, `a brace { in the text is not closed: write \{ for a plain brace`
	}
	return 0, `the quote " is not closed`
}
