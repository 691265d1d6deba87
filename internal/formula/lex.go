package formula

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

type kind byte

const (
	tokEnd kind = iota
	tokNumber
	tokText   // in quotation marks
	tokRef    // a cell, with or without a sheet
	tokColumn // a whole column, as in A:C
	tokRow    // a whole row, as in 3:5
	tokName   // of a function, a defined name, TRUE or FALSE
	tokError  // #REF! and the like
	tokMark   // an operator, a comma, a parenthesis
	tokOther  // what is not understood
)

// token is a piece of a formula, with where it stands in the text.
type token struct {
	kind       kind
	text       string
	start, end int
	sheet      string // of a reference, or ""
	at         place
}

// place is where a reference leads: a row and column, zero-based, each held to where it
// is or going along with the formula.
type place struct {
	row, col     int
	held, heldAt bool // the row, the column
}

type lexer struct {
	text string
	at   int
	out  []token
}

// lex parts a formula, without its equals sign, into tokens. White space is left out.
func lex(text string) []token {
	x := &lexer{text: text}
	for {
		for x.at < len(text) && (text[x.at] == ' ' || text[x.at] == '\n' || text[x.at] == '\r' || text[x.at] == '\t') {
			x.at++
		}
		if x.at >= len(text) {
			return append(x.out, token{kind: tokEnd, start: len(text), end: len(text)})
		}
		x.next()
	}
}

func (x *lexer) add(k kind, end int) *token {
	x.out = append(x.out, token{kind: k, text: x.text[x.at:end], start: x.at, end: end})
	x.at = end
	return &x.out[len(x.out)-1]
}

func (x *lexer) next() {
	c := x.text[x.at]
	switch {
	case c == '"':
		x.quoted('"', tokText)
	case c == '\'':
		x.sheetInQuotes()
	case c >= '0' && c <= '9', c == '.':
		x.number()
	case c == '#':
		end := x.at + 1
		for end < len(x.text) && (isLetter(x.text[end]) || x.text[end] == '/' || x.text[end] == '0' || x.text[end] == '!' || x.text[end] == '?') {
			end++
		}
		x.add(tokError, end)
	case c == '[':
		x.brackets()
	case strings.IndexByte("+-*/^&=<>%(),;:{}@", c) >= 0:
		end := x.at + 1
		if end < len(x.text) && (c == '<' && (x.text[end] == '=' || x.text[end] == '>') || c == '>' && x.text[end] == '=') {
			end++
		}
		x.add(tokMark, end)
	default:
		x.word()
	}
}

// quoted takes what stands in quotation marks, which are doubled within.
func (x *lexer) quoted(mark byte, k kind) {
	end := x.at + 1
	for end < len(x.text) {
		if x.text[end] == mark {
			if end+1 < len(x.text) && x.text[end+1] == mark {
				end += 2
				continue
			}
			x.add(k, end+1)
			return
		}
		end++
	}
	x.add(tokOther, end)
}

// brackets takes a part in brackets, as references to defined tables and other
// workbooks have: they are kept as they are.
func (x *lexer) brackets() {
	depth, end := 0, x.at
	for end < len(x.text) {
		switch x.text[end] {
		case '[':
			depth++
		case ']':
			depth--
		}
		end++
		if depth == 0 {
			break
		}
	}
	if sheet := wordEnd(x.text, end); sheet < len(x.text) && x.text[sheet] == '!' { // [2]Sheet!A1:B2
		for end = sheet + 1; end < len(x.text) && (isLetter(x.text[end]) || strings.IndexByte("0123456789$:", x.text[end]) >= 0); end++ {
		}
	}
	x.add(tokOther, end)
}

// wordEnd gives where a word that begins at a place ends.
func wordEnd(text string, end int) int {
	for end < len(text) {
		c := text[end]
		if c < utf8.RuneSelf {
			if !isLetter(c) && (c < '0' || c > '9') && c != '_' && c != '.' && c != '$' && c != '\\' && c != '?' {
				break
			}
			end++
			continue
		}
		r, size := utf8.DecodeRuneInString(text[end:])
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) {
			break
		}
		end += size
	}
	return end
}

func (x *lexer) number() {
	end := x.at
	for end < len(x.text) && (x.text[end] >= '0' && x.text[end] <= '9' || x.text[end] == '.') {
		end++
	}
	if end < len(x.text) && (x.text[end] == 'E' || x.text[end] == 'e') {
		exp := end + 1
		if exp < len(x.text) && (x.text[exp] == '+' || x.text[exp] == '-') {
			exp++
		}
		if exp < len(x.text) && x.text[exp] >= '0' && x.text[exp] <= '9' {
			for end = exp; end < len(x.text) && x.text[end] >= '0' && x.text[end] <= '9'; end++ {
			}
		}
	}
	if row, ok := wholeRow(x.text[x.at:end]); ok && x.bounds(end) {
		x.add(tokRow, end).at = place{row: row}
		return
	}
	x.add(tokNumber, end)
}

// bounds reports whether what ends there is one end of a range of rows.
func (x *lexer) bounds(end int) bool {
	n := len(x.out)
	if n > 1 && x.out[n-1].text == ":" && x.out[n-2].kind == tokRow {
		return true
	}
	rest := x.text[end:]
	if !strings.HasPrefix(rest, ":") {
		return false
	}
	rest = strings.TrimPrefix(rest[1:], "$")
	return rest != "" && rest[0] >= '0' && rest[0] <= '9'
}

// sheetInQuotes takes 'Name of a sheet'! with the reference after it.
func (x *lexer) sheetInQuotes() {
	from := x.at
	x.quoted('\'', tokOther)
	quoted := &x.out[len(x.out)-1]
	if x.at < len(x.text) && x.text[x.at] == '!' && quoted.end-quoted.start >= 2 {
		sheet := strings.ReplaceAll(x.text[from+1:quoted.end-1], "''", "'")
		x.out = x.out[:len(x.out)-1]
		x.at++
		x.reference(from, sheet)
	}
}

// reference takes what stands after the name of a sheet.
func (x *lexer) reference(from int, sheet string) {
	if x.at >= len(x.text) {
		x.at = from
		x.add(tokOther, len(x.text))
		return
	}
	n := len(x.out)
	x.next()
	if len(x.out) == n {
		return
	}
	t := &x.out[n]
	t.start, t.text, t.sheet = from, x.text[from:t.end], sheet
	if strings.Contains(sheet, "[") || t.kind != tokRef && t.kind != tokColumn && t.kind != tokRow { // of another workbook, or a name
		t.kind = tokOther
	}
}

func (x *lexer) word() {
	end := wordEnd(x.text, x.at)
	if end == x.at {
		_, size := utf8.DecodeRuneInString(x.text[x.at:])
		x.add(tokOther, x.at+max(size, 1))
		return
	}
	word := x.text[x.at:end]
	switch {
	case end < len(x.text) && x.text[end] == '!':
		from := x.at
		x.at = end + 1
		x.reference(from, word)
		return
	case end < len(x.text) && x.text[end] == '(':
		x.add(tokName, end)
		return
	}
	if at, ok := cell(word); ok {
		x.add(tokRef, end).at = at
		return
	}
	if at, ok := wholeColumn(word); ok && (strings.HasPrefix(x.text[end:], ":") || len(x.out) > 1 && x.out[len(x.out)-1].text == ":" && x.out[len(x.out)-2].kind == tokColumn) {
		x.add(tokColumn, end).at = at
		return
	}
	if row, ok := wholeRow(word); ok && x.bounds(end) {
		x.add(tokRow, end).at = place{row: row, held: strings.HasPrefix(word, "$")}
		return
	}
	x.add(tokName, end)
}

func isLetter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

// The bounds of a sheet, as ECMA-376 has them.
const (
	maxRows    = 1 << 20
	maxColumns = 1 << 14
)

// cell reads the name of a cell: A1, $A1, A$1, $A$1.
func cell(word string) (place, bool) {
	p, rest, ok := column(word)
	if !ok || rest == "" {
		return place{}, false
	}
	if p.held = rest[0] == '$'; p.held {
		rest = rest[1:]
	}
	row, ok := wholeRow(rest)
	if !ok || rest[0] == '$' {
		return place{}, false
	}
	p.row = row
	return p, true
}

func wholeColumn(word string) (place, bool) {
	p, rest, ok := column(word)
	return p, ok && rest == ""
}

// column reads the letters of a column, and gives what comes after them.
func column(word string) (p place, rest string, ok bool) {
	i := 0
	if p.heldAt = strings.HasPrefix(word, "$"); p.heldAt {
		i++
	}
	n := 0
	for ; i < len(word) && isLetter(word[i]) && n <= maxColumns; i++ {
		n = n*26 + int(word[i]&^0x20-'A') + 1
	}
	p.col = n - 1
	return p, word[i:], n > 0 && n <= maxColumns
}

// wholeRow reads the number of a row, from 1 on.
func wholeRow(word string) (int, bool) {
	word = strings.TrimPrefix(word, "$")
	n := 0
	for i := range len(word) {
		if word[i] < '0' || word[i] > '9' || n > maxRows {
			return 0, false
		}
		n = n*10 + int(word[i]-'0')
	}
	return n - 1, n > 0 && n <= maxRows
}
