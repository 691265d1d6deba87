package setup

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"
)

// SyntaxError says that a text is not YAML, where, and what to do.
type SyntaxError struct {
	Line  int    // from 1; 0: it is not known
	Says  string // what the reader of YAML found
	Caret string // the line at fault with a mark under it, or ""
	Hint  string // or ""
}

func (e *SyntaxError) Error() string {
	s := "the setup cannot be read: " + e.Says
	if e.Line > 0 {
		s = fmt.Sprintf("line %d: %s", e.Line, s)
	}
	return s
}

// document reads a text as one YAML document.
func document(text []byte) (*yaml.Node, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, syntax(string(text), err)
	}
	return &doc, nil
}

var (
	saidLine = regexp.MustCompile(`^yaml: (?:line (\d+): )?(.*)$`)
	// entry is a key and what follows it, on a line of its own or among others.
	entry = regexp.MustCompile(`^(\s*(?:- )*)("[^"]*"|'[^']*'|[^\s"'\[\]{}#:,-][^:"'\[\]{}#,]*):\s+(\S.*?)\s*$`)
	// among is a key among others.
	among = regexp.MustCompile(`[{,]\s*([A-Za-z][A-Za-z ]*):\s+`)
)

// syntax says which line is at fault. A clause that begins with a bracket, a brace or a
// quote, or holds a colon, is what people trip over: YAML reads these itself.
func syntax(text string, err error) *SyntaxError {
	out := &SyntaxError{Says: err.Error()}
	if m := saidLine.FindStringSubmatch(err.Error()); m != nil {
		out.Line, _ = strconv.Atoi(m[1])
		out.Says = m[2]
	}
	for i, line := range strings.Split(text, "\n") {
		if i+2 < out.Line || strings.HasPrefix(strings.TrimSpace(line), "#") { // the place it gives is at or before the fault
			continue
		}
		if strings.HasPrefix(line, "\t") {
			out.Line, out.Hint = i+1, "indent with spaces, not with tabs"
			return out.at(line, 0)
		}
		key, value, at := "", "", 0
		if m := entry.FindStringSubmatchIndex(line); m != nil && !readable(line[m[6]:m[7]]) {
			key, value, at = line[m[4]:m[5]], line[m[6]:m[7]], m[6]
		}
		for _, m := range among.FindAllStringSubmatchIndex(line, -1) { // the innermost comes last
			if v := valueAt(line[m[1]:]); v != "" && !readable(v) {
				key, value, at = line[m[2]:m[3]], v, m[1]
			}
		}
		if key != "" {
			out.Line, out.Hint = i+1, "put it in quotes: "+key+": '"+strings.ReplaceAll(value, "'", "''")+"'"
			return out.at(line, at)
		}
	}
	return out
}

func (e *SyntaxError) at(line string, column int) *SyntaxError {
	mark := []rune(line[:column])
	for i, r := range mark {
		if r != '\t' {
			mark[i] = ' '
		}
	}
	e.Caret = line + "\n" + string(mark) + "^"
	return e
}

// valueAt gives the value among others that a text begins with: up to a comma or the
// bracket that closes what it stands in.
func valueAt(text string) string {
	depth, quote := 0, rune(0)
	for i, r := range text {
		switch {
		case quote != 0:
			if r == quote {
				quote = 0
			}
		case (r == '"' || r == '\'') && (i == 0 || text[i-1] == ' '):
			quote = r
		case r == '[' || r == '{':
			depth++
		case (r == ']' || r == '}') && depth > 0:
			depth--
		case (r == ',' || r == ']' || r == '}') && depth == 0:
			return strings.TrimSpace(text[:i])
		}
	}
	return strings.TrimSpace(text)
}

// readable reports whether a text is a value by itself, or the beginning of one that goes
// on below.
func readable(value string) bool {
	switch value[0] {
	case '|', '>', '&', '*', '!':
		return true
	}
	var n yaml.Node
	return yaml.Unmarshal([]byte("k: "+value), &n) == nil
}
