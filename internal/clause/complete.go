package clause

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"example.org/kavlo/internal/value"
)

// Completion is something that could stand next in a clause.
type Completion struct {
	Text string // what to put in place of the text from From to where one types
	Kind string // column, tab, choice, function, operator, word
	Says string
	From int // bytes into the clause
}

// Complete gives what could stand at a place of a clause that is being typed,
// most likely first. It reads only what stands before the place.
func Complete(text string, at int, s *Scope) []Completion {
	at = max(0, min(at, len(text)))
	for at > 0 && at < len(text) && !utf8.RuneStart(text[at]) {
		at--
	}
	before := text[:at]
	if start, open := openQuote(before); open {
		return choicesAt(before[:start], before[start+1:], start+1, s)
	}
	from, prefix := wordBefore(before)
	p := &parser{text: strings.TrimSuffix(before[:from], "[")}
	if p.lex() != nil {
		return nil
	}
	tokens := p.tokens[:len(p.tokens)-1] // without the end
	if strings.HasSuffix(before[:from], "[") {
		from-- // the bracket goes too
	}
	return matching(nextAfter(tokens, s), prefix, from)
}

// openQuote gives where a text that is still open begins.
func openQuote(s string) (start int, open bool) {
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] == '\\' && open:
			i++
		case s[i] == '"' && open:
			open = false
		case s[i] == '"':
			start, open = i, true
		}
	}
	return start, open
}

// wordBefore gives the word, or the beginning of a [name], that stands at the end.
func wordBefore(s string) (from int, prefix string) {
	if i := strings.LastIndexByte(s, '['); i >= 0 && !strings.Contains(s[i:], "]") {
		return i + 1, s[i+1:]
	}
	i := len(s)
	for i > 0 {
		r, n := utf8.DecodeLastRuneInString(s[:i])
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '_' {
			break
		}
		i -= n
	}
	return i, s[i:]
}

// nextAfter gives what could come after the tokens.
func nextAfter(tokens []token, s *Scope) []Completion {
	if len(tokens) == 0 {
		return operands(s.Columns)
	}
	last := tokens[len(tokens)-1]
	switch {
	case last.mark(".") && len(tokens) > 1 && tokens[len(tokens)-2].is("this"):
		return columnsOf(s.Columns)
	case last.is("in") && len(tokens) > 1 && lookedInto(tokens):
		var out []Completion
		for _, t := range s.Tables {
			out = append(out, Completion{Text: nameText(t.Name), Kind: "tab", Says: "a tab"})
		}
		return out
	case last.is("is"):
		return append([]Completion{{Text: "not", Kind: "word", Says: "is not"}, {Text: "blank", Kind: "word", Says: "nothing stands there"}, {Text: "odd", Kind: "word", Says: "it does not fit its column"},
			{Text: "one of (", Kind: "word", Says: "any of several"}, {Text: "exactly", Kind: "word", Says: "letter case counts"}}, operands(s.Columns)...)
	}
	if c, ok := columnNamed(last, columnsAt(tokens, s)); ok {
		return operatorsFor(c, s.Edit)
	}
	if last.kind == tokString || last.kind == tokNumber || last.kind == tokDate || last.mark(")") || last.is("today") || last.is("now") || last.is("blank") || last.is("odd") || last.is("changed") || units[strings.ToLower(last.text)] != "" {
		return []Completion{{Text: "and", Kind: "operator", Says: "both"}, {Text: "or", Kind: "operator", Says: "either"}, {Text: "is", Kind: "operator", Says: "the same"}, {Text: "then", Kind: "word", Says: "after if"}, {Text: "else", Kind: "word", Says: "after then"}}
	}
	return operands(columnsAt(tokens, s))
}

// lookedInto reports whether "in" at the end looks into another tab.
func lookedInto(tokens []token) bool {
	for i := len(tokens) - 2; i >= 0 && i >= len(tokens)-5; i-- {
		if tokens[i].kind == tokWord && (lookups[strings.ToLower(tokens[i].text)] || tokens[i].is("count")) {
			return true
		}
	}
	return false
}

// columnsAt gives the columns that bare names mean at the end: those of the tab
// looked into, after "in TAB where", else those of the row at hand.
func columnsAt(tokens []token, s *Scope) []Column {
	for i := len(tokens) - 1; i >= 2; i-- {
		if tokens[i].is("where") && tokens[i-2].is("in") {
			for _, t := range s.Tables {
				if value.EqualText(t.Name, tokens[i-1].text) {
					return t.Columns
				}
			}
		}
		if tokens[i].mark(")") || tokens[i].mark("(") {
			break
		}
	}
	return s.Columns
}

func columnNamed(t token, columns []Column) (Column, bool) {
	if t.kind == tokWord || t.kind == tokName {
		for _, c := range columns {
			if value.EqualText(c.Name, t.text) {
				return c, true
			}
		}
	}
	return Column{}, false
}

// nameText writes a name as a clause takes it.
func nameText(name string) string {
	p := &printer{}
	p.bare(name)
	return p.b.String()
}

func columnsOf(columns []Column) []Completion {
	out := make([]Completion, len(columns))
	for i, c := range columns {
		out[i] = Completion{Text: nameText(c.Name), Kind: "column", Says: c.Type.Kind.Phrase()}
	}
	return out
}

func operands(columns []Column) []Completion {
	out := columnsOf(columns)
	for _, w := range []Completion{{Text: "today", Says: "this day"}, {Text: "now", Says: "this moment"}, {Text: "tab", Says: "the name of the row's tab"}, {Text: "not", Says: "the opposite"}, {Text: "blank", Says: "nothing"},
		{Text: "days between", Says: "how many days lie between two dates"}, {Text: "workdays between", Says: "how many working days"}, {Text: "if", Says: "if CONDITION then A else B"}, {Text: "count in", Says: "how many rows of a tab"},
		{Text: "sum", Says: "the sum of a column of a tab"}, {Text: "first", Says: "what the first row found holds"}} {
		w.Kind = "word"
		out = append(out, w)
	}
	for _, name := range functionNames() {
		out = append(out, Completion{Text: name + "(", Kind: "function", Says: functions[name].says})
	}
	return out
}

func operatorsFor(c Column, edit bool) []Completion {
	words := []string{"is", "is not", "is blank", "is not blank"}
	switch TypeOf(c.Type.Kind) {
	case Date, DateTime:
		words = append(words, "before", "after", "on or before", "on or after", "within", "between", "is odd")
	case Number:
		words = append(words, "<", "<=", ">", ">=", "between", "is odd")
	case Logic:
		words = []string{"and", "or", "is"}
	default:
		words = append(words, "contains", "starts with", "ends with", "is one of (", "matches")
	}
	if edit {
		words = append(words, "changed", "was")
	}
	out := make([]Completion, len(words))
	for i, w := range words {
		out[i] = Completion{Text: w, Kind: "operator"}
	}
	return out
}

// choicesAt gives the choices of the column that a text is compared with.
func choicesAt(before, prefix string, from int, s *Scope) []Completion {
	p := &parser{text: before}
	if p.lex() != nil {
		return nil
	}
	tokens := p.tokens[:len(p.tokens)-1]
	for i := len(tokens) - 1; i >= 0; i-- {
		c, ok := columnNamed(tokens[i], columnsAt(tokens[:i], s))
		if !ok {
			continue
		}
		var out []Completion
		for _, o := range c.Type.Options {
			out = append(out, Completion{Text: o.Name, Kind: "choice", Says: "a choice of " + c.Name})
		}
		return matching(out, prefix, from)
	}
	return nil
}

// matching keeps what begins with the prefix, or has a word that does.
func matching(all []Completion, prefix string, from int) []Completion {
	folded := value.Fold(prefix)
	var first, other []Completion
	for _, c := range all {
		c.From = from
		name := value.Fold(strings.TrimLeft(c.Text, "["))
		switch {
		case strings.HasPrefix(name, folded):
			first = append(first, c)
		case strings.Contains(name, " "+folded):
			other = append(other, c)
		}
	}
	return append(first, other...)
}
