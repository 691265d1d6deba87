// Package setup reads and writes the setup file: all that a tracker is besides its rows,
// as one YAML document. The same decoding serves definitions that arrive as JSON from
// the console, JSON being YAML too. Which kinds of definition there are, it is told, and
// these say what stands in theirs (Definition). Everything is checked against the
// resulting shape, so that a mistake is found, with its line, before anything is stored.
// Part of the core: no I/O.
package setup

import (
	"fmt"
	"strconv"
	"strings"

	"example.org/kavlo/internal/value"
	"go.yaml.in/yaml/v3"
)

// Error says what is wrong in a setup file, and on which line.
type Error struct {
	Line int
	Path string // such as "rules / Move loans to their stage / where"
	Err  error
}

func (e *Error) Error() string {
	s := ""
	if e.Line > 0 {
		s = fmt.Sprintf("line %d: ", e.Line)
	}
	if e.Path != "" {
		s += e.Path + ": "
	}
	return s + e.Err.Error()
}

func (e *Error) Unwrap() error { return e.Err }

// At is a place in the document.
type At struct {
	node *yaml.Node
	path string
}

// Fail says what is wrong there.
func (a At) Fail(format string, args ...any) error {
	line := 0
	if a.node != nil {
		line = a.node.Line
	}
	return &Error{Line: line, Path: a.path, Err: fmt.Errorf(format, args...)}
}

// Wrap adds the place to an error; nil stays nil.
func (a At) Wrap(err error) error {
	if err == nil {
		return nil
	}
	line := 0
	if a.node != nil {
		line = a.node.Line
	}
	return &Error{Line: line, Path: a.path, Err: err}
}

// Sub gives a place below this one.
func (a At) Sub(name string, n *yaml.Node) At {
	if a.path != "" {
		name = a.path + " / " + name
	}
	if n != nil && n.Kind == yaml.AliasNode {
		n = n.Alias
	}
	return At{n, name}
}

// Mapping is a YAML mapping being read; every key must be asked for.
type Mapping struct {
	At
	values map[string]*yaml.Node
	asked  []string
}

// Mapping gives the mapping that stands there. Where a plain word stands there instead, the error shows
// how it is written under the key that such a word most likely means, if one is given.
func (a At) Mapping(likely ...string) (*Mapping, error) {
	if a.node == nil || a.node.Kind != yaml.MappingNode {
		if a.Present() && a.IsScalar() && len(likely) > 0 {
			return nil, a.Fail("write it as { %s: %s }", likely[0], a.node.Value)
		}
		return nil, a.Fail("key: value pairs are expected here")
	}
	m := &Mapping{At: a, values: map[string]*yaml.Node{}}
	for i := 0; i+1 < len(a.node.Content); i += 2 {
		k := a.node.Content[i]
		if m.values[k.Value] != nil {
			return nil, At{k, a.path}.Fail("the key %q is there twice", k.Value)
		}
		m.values[k.Value] = a.node.Content[i+1]
	}
	return m, nil
}

// Get gives the value of a key; its node is nil where the key is absent.
func (m *Mapping) Get(key string) At {
	m.asked = append(m.asked, key)
	return m.Sub(key, m.values[key])
}

// Done refuses keys that nobody asked for.
func (m *Mapping) Done() error {
	for i := 0; i+1 < len(m.node.Content); i += 2 {
		k := m.node.Content[i]
		known := false
		for _, a := range m.asked {
			known = known || a == k.Value
		}
		if !known {
			hint := "known here: " + strings.Join(m.asked, ", ")
			if near := value.Nearest(k.Value, m.asked); near != "" {
				hint = "did you mean " + near + "?"
			}
			return At{k, m.path}.Fail("there is no key %q here: %s", k.Value, hint)
		}
	}
	return nil
}

// Present reports whether anything stands there.
func (a At) Present() bool { return a.node != nil && a.node.Tag != "!!null" }

// Text gives a text; "" where there is nothing.
func (a At) Text() (string, error) {
	if !a.Present() {
		return "", nil
	}
	if a.node.Kind != yaml.ScalarNode {
		return "", a.Fail("a text is wanted here")
	}
	return a.node.Value, nil
}

// Workbook reads the name of a workbook below templates/, or its full path; "" where there
// is nothing.
func (a At) Workbook() (string, error) {
	name, err := a.Text()
	if err == nil && name != "" && (strings.Contains(name, "..") || !strings.HasSuffix(strings.ToLower(name), ".xlsx")) {
		err = a.Fail("%q is no workbook below templates/: write for example templates/month.xlsx", name)
	}
	return name, err
}

// Yes reads yes or no; nothing is no.
func (a At) Yes() (bool, error) {
	s, err := a.Text()
	switch strings.ToLower(s) {
	case "yes", "true":
		return true, err
	case "no", "false", "":
		return false, err
	}
	return false, a.Fail("%q is neither yes nor no", s)
}

// Int reads a whole number that is not negative; nothing is 0.
func (a At) Int() (int, error) {
	s, err := a.Text()
	if err != nil || s == "" {
		return 0, err
	}
	n, err := strconv.Atoi(s)
	if err != nil || n < 0 {
		return 0, a.Fail("%q is not a whole number", s)
	}
	return n, nil
}

// Texts reads one text or a list of them.
func (a At) Texts() ([]string, error) {
	if !a.Present() {
		return nil, nil
	}
	if a.node.Kind == yaml.ScalarNode {
		return []string{a.node.Value}, nil
	}
	if a.node.Kind != yaml.SequenceNode {
		return nil, a.Fail("a text or a list of texts is wanted here")
	}
	var out []string
	for _, n := range a.node.Content {
		s, err := At{n, a.path}.Text()
		if err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

// Each calls f for the entries of a list.
func (a At) Each(f func(At) error) error {
	if !a.Present() {
		return nil
	}
	if a.node.Kind != yaml.SequenceNode {
		return a.Fail("a list is wanted here")
	}
	for i, n := range a.node.Content {
		if err := f(a.Sub(strconv.Itoa(i+1), n)); err != nil {
			return err
		}
	}
	return nil
}

// Pairs calls f for the entries of a mapping, in order.
func (a At) Pairs(f func(key string, v At) error) error {
	if !a.Present() {
		return nil
	}
	if a.node.Kind != yaml.MappingNode {
		return a.Fail("key: value pairs are expected here")
	}
	for i := 0; i+1 < len(a.node.Content); i += 2 {
		k := a.node.Content[i].Value
		if err := f(k, a.Sub(k, a.node.Content[i+1])); err != nil {
			return err
		}
	}
	return nil
}

// Raw gives a plain value as it is written.
func (a At) Raw() string { return a.node.Value }

// IsScalar reports whether a plain value stands there, and IsMapping a mapping.
func (a At) IsScalar() bool { return a.node.Kind == yaml.ScalarNode }

// IsMapping reports whether a mapping stands there.
func (a At) IsMapping() bool { return a.node.Kind == yaml.MappingNode }

// With gives the place with another text in it.
func (a At) With(text string) At {
	n := Scalar(text)
	if a.node != nil {
		n.Line = a.node.Line
	}
	return At{n, a.path}
}

// The writing side: small makers of YAML nodes.

// Scalar writes a text, in quotes where it could be taken for something else.
func Scalar(s string) *yaml.Node {
	n := &yaml.Node{}
	n.SetString(s)
	if !strings.Contains(s, "\n") && plainTag(s) != "!!str" {
		n.Style = yaml.DoubleQuotedStyle
	}
	return n
}

// plainTag gives what YAML would take an unquoted text for.
func plainTag(s string) string {
	var n yaml.Node
	if err := yaml.Unmarshal([]byte(s), &n); err != nil || len(n.Content) != 1 || n.Content[0].Kind != yaml.ScalarNode {
		return "!!str"
	}
	return n.Content[0].ShortTag()
}

// Word writes a word of the language itself, such as yes, without quotes.
func Word(s string) *yaml.Node { return &yaml.Node{Kind: yaml.ScalarNode, Value: s} }

// Sequence writes a list.
func Sequence(items ...*yaml.Node) *yaml.Node {
	return &yaml.Node{Kind: yaml.SequenceNode, Content: items}
}

// Flow writes a node on one line.
func Flow(n *yaml.Node) *yaml.Node { n.Style = yaml.FlowStyle; return n }

// Scalars writes a list of texts on one line.
func Scalars(texts []string) *yaml.Node {
	n := Flow(Sequence())
	for _, s := range texts {
		n.Content = append(n.Content, Scalar(s))
	}
	return n
}

// Builder makes a mapping in the order of its calls.
type Builder struct{ n *yaml.Node }

// Node gives the mapping as it is.
func (b Builder) Node() *yaml.Node { return b.n }

// Build begins a mapping.
func Build() Builder { return Builder{&yaml.Node{Kind: yaml.MappingNode}} }

// Put adds a key; nil adds nothing.
func (b Builder) Put(key string, v *yaml.Node) Builder {
	if v == nil {
		return b
	}
	b.n.Content = append(b.n.Content, Scalar(key), v)
	return b
}

// Text adds a text; "" adds nothing.
func (b Builder) Text(key, s string) Builder {
	if s != "" {
		b.Put(key, Scalar(s))
	}
	return b
}

// Yes adds a yes; no adds nothing.
func (b Builder) Yes(key string, is bool) Builder {
	if is {
		b.Put(key, Word("yes"))
	}
	return b
}
