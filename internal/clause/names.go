package clause

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"example.org/kavlo/internal/value"
)

func (c *checker) find(n *nameNode, columns []Column, where string) (*Column, error) {
	var found *Column
	byID, _ := strconv.ParseInt(strings.TrimPrefix(n.text, "#"), 10, 64)
	isID := strings.HasPrefix(n.text, "#")
	for i := range columns {
		x := &columns[i]
		if isID && x.ID != byID || !isID && !value.EqualText(x.Name, n.text) {
			continue
		}
		if found != nil && found.ID != x.ID {
			one, other := c.declared(found), c.declared(x)
			return nil, c.fail(CodeAmbiguous, n, "%s is %s and %s, which are two columns: say with \"in\" which tabs are meant, or make them one: kavlo column change \"TRACKER/%s\" %q --type %s",
				n.text, one, other, c.tabOf(x), x.Name, found.Type.Kind)
		}
		found = x
	}
	if found != nil {
		return found, nil
	}
	names := make([]string, len(columns))
	for i := range columns {
		names[i] = columns[i].Name
	}
	for _, x := range c.scope.Extra {
		names = append(names, x.Name)
	}
	called := c.scope.called(n.text)
	msg := fmt.Sprintf("there is no column %q", called)
	if where != "" {
		msg += " in " + where
	}
	for i := range columns {
		if isID && value.EqualText(columns[i].Name, called) {
			return nil, c.fail(CodeNoName, n, "%s: the %s there is another column, of type %s; give both the same type to make them one", msg, called, columns[i].Type.Kind)
		}
	}
	if near := value.Nearest(n.text, names); near != "" {
		msg += ": did you mean " + near + "?"
	}
	switch value.Fold(n.text) {
	case "empty", "null", "nothing", "none":
		msg += `: to ask whether there is nothing, write "is blank"`
	}
	return nil, c.fail(CodeNoName, n, "%s", msg)
}

// declared says how and where a column is declared, as in "text in Requested".
func (c *checker) declared(col *Column) string {
	kind := col.Type.Kind.String()
	if col.Type.Several {
		kind += " (several)"
	}
	var tabs []string
	for _, t := range c.scope.Tables {
		for i := range t.Columns {
			if t.Columns[i].ID == col.ID {
				tabs = append(tabs, t.Name)
			}
		}
	}
	return kind + " in " + strings.Join(tabs, ", ")
}

func (c *checker) tabOf(col *Column) string {
	for _, t := range c.scope.Tables {
		for i := range t.Columns {
			if t.Columns[i].ID == col.ID {
				return t.Name
			}
		}
	}
	return ""
}

// mend adds to an error the name of several words that stands at the place without its
// brackets, where there is one.
func (s *Scope) mend(err error) error {
	var e *Error
	if !errors.As(err, &e) || e.Code == CodeType {
		return err
	}
	best := ""
	for _, name := range s.spaced() {
		if at := bareName(e.Text, name, e.Offset); at && len(name) > len(best) {
			best = name
		}
	}
	if best != "" {
		mended := *e
		mended.Msg, _, _ = strings.Cut(e.Msg, ": did you mean")
		mended.Msg += ": a name of several words stands in brackets: [" + best + "]"
		return &mended
	}
	return err
}

// spaced gives the columns' names that are more than one word.
func (s *Scope) spaced() []string {
	var names []string
	take := func(columns []Column) {
		for i := range columns {
			if strings.Contains(strings.TrimSpace(columns[i].Name), " ") {
				names = append(names, columns[i].Name)
			}
		}
	}
	take(s.Columns)
	for _, t := range s.Tables {
		take(t.Columns)
	}
	return names
}

// bareName reports whether a name stands without brackets or quotes where an error is, or
// right before it.
func bareName(text, name string, offset int) bool {
	const before = 1 // the error may be at the word after
	lower, wanted := strings.ToLower(text), strings.ToLower(strings.TrimSpace(name))
	for from := 0; ; {
		at := strings.Index(lower[from:], wanted)
		if at < 0 {
			return false
		}
		at += from
		end := at + len(wanted)
		bounded := (at == 0 || !isWordByte(lower[at-1])) && (end == len(lower) || !isWordByte(lower[end]))
		if bounded && !inside(text, at) && at <= offset && offset <= end+before {
			return true
		}
		from = at + 1
	}
}

func isWordByte(c byte) bool {
	return c == '_' || c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 0x80
}

// inside reports whether a place of a text is within brackets or quotes.
func inside(text string, at int) bool {
	bracket, quote := false, false
	for i := range at {
		switch c := text[i]; {
		case c == '"':
			quote = !quote
		case c == '[' && !quote:
			bracket = true
		case c == ']' && !quote:
			bracket = false
		}
	}
	return bracket || quote
}
