// Package setup reads, checks and writes the setup file: all that a tracker is
// besides its rows, as one YAML document. The same decoding serves parts that
// arrive as JSON from the console, JSON being YAML too.
//
// node.go walks YAML with line numbers and refuses unknown keys; tabs.go,
// rules.go and digests.go each read and write one kind of thing; setup.go puts
// them together; check.go compiles everything against the resulting shape, so
// that a mistake is found before anything is stored. Part of the core: no I/O.
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

// at is a place in the document.
type at struct {
	node *yaml.Node
	path string
}

func (a at) fail(format string, args ...any) error {
	line := 0
	if a.node != nil {
		line = a.node.Line
	}
	return &Error{Line: line, Path: a.path, Err: fmt.Errorf(format, args...)}
}

func (a at) wrap(err error) error {
	if err == nil {
		return nil
	}
	line := 0
	if a.node != nil {
		line = a.node.Line
	}
	return &Error{Line: line, Path: a.path, Err: err}
}

func (a at) sub(name string, n *yaml.Node) at {
	if a.path != "" {
		name = a.path + " / " + name
	}
	if n != nil && n.Kind == yaml.AliasNode {
		n = n.Alias
	}
	return at{n, name}
}

// mapping is a YAML mapping being read; every key must be asked for.
type mapping struct {
	at
	values map[string]*yaml.Node
	asked  []string
}

func (a at) mapping() (*mapping, error) {
	if a.node == nil || a.node.Kind != yaml.MappingNode {
		return nil, a.fail("a mapping (key: value) is wanted here")
	}
	m := &mapping{at: a, values: map[string]*yaml.Node{}}
	for i := 0; i+1 < len(a.node.Content); i += 2 {
		k := a.node.Content[i]
		if m.values[k.Value] != nil {
			return nil, at{k, a.path}.fail("the key %q is there twice", k.Value)
		}
		m.values[k.Value] = a.node.Content[i+1]
	}
	return m, nil
}

// get gives the value of a key; its node is nil where the key is absent.
func (m *mapping) get(key string) at {
	m.asked = append(m.asked, key)
	return m.sub(key, m.values[key])
}

// done refuses keys that nobody asked for.
func (m *mapping) done() error {
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
			return at{k, m.path}.fail("there is no key %q here: %s", k.Value, hint)
		}
	}
	return nil
}

func (a at) present() bool { return a.node != nil && a.node.Tag != "!!null" }

func (a at) text() (string, error) {
	if !a.present() {
		return "", nil
	}
	if a.node.Kind != yaml.ScalarNode {
		return "", a.fail("a text is wanted here")
	}
	return a.node.Value, nil
}

func (a at) yes() (bool, error) {
	s, err := a.text()
	switch strings.ToLower(s) {
	case "yes", "true":
		return true, err
	case "no", "false", "":
		return false, err
	}
	return false, a.fail("%q is neither yes nor no", s)
}

func (a at) int() (int, error) {
	s, err := a.text()
	if err != nil || s == "" {
		return 0, err
	}
	n, err := strconv.Atoi(s)
	if err != nil || n < 0 {
		return 0, a.fail("%q is not a whole number", s)
	}
	return n, nil
}

// texts reads one text or a list of them.
func (a at) texts() ([]string, error) {
	if !a.present() {
		return nil, nil
	}
	if a.node.Kind == yaml.ScalarNode {
		return []string{a.node.Value}, nil
	}
	if a.node.Kind != yaml.SequenceNode {
		return nil, a.fail("a text or a list of texts is wanted here")
	}
	var out []string
	for _, n := range a.node.Content {
		s, err := at{n, a.path}.text()
		if err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	return out, nil
}

// each calls f for the entries of a list.
func (a at) each(f func(at) error) error {
	if !a.present() {
		return nil
	}
	if a.node.Kind != yaml.SequenceNode {
		return a.fail("a list is wanted here")
	}
	for i, n := range a.node.Content {
		if err := f(a.sub(strconv.Itoa(i+1), n)); err != nil {
			return err
		}
	}
	return nil
}

// pairs calls f for the entries of a mapping, in order.
func (a at) pairs(f func(key string, v at) error) error {
	if !a.present() {
		return nil
	}
	if a.node.Kind != yaml.MappingNode {
		return a.fail("a mapping (key: value) is wanted here")
	}
	for i := 0; i+1 < len(a.node.Content); i += 2 {
		k := a.node.Content[i].Value
		if err := f(k, a.sub(k, a.node.Content[i+1])); err != nil {
			return err
		}
	}
	return nil
}

// The writing side: small makers of YAML nodes.

func scalar(s string) *yaml.Node {
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

// word writes a word of the language itself, such as yes, without quotes.
func word(s string) *yaml.Node { return &yaml.Node{Kind: yaml.ScalarNode, Value: s} }

func list(items ...*yaml.Node) *yaml.Node {
	return &yaml.Node{Kind: yaml.SequenceNode, Content: items}
}

func flow(n *yaml.Node) *yaml.Node { n.Style = yaml.FlowStyle; return n }

func scalars(texts []string) *yaml.Node {
	n := flow(list())
	for _, s := range texts {
		n.Content = append(n.Content, scalar(s))
	}
	return n
}

// builder makes a mapping in the order of its calls.
type builder struct{ n *yaml.Node }

func build() builder { return builder{&yaml.Node{Kind: yaml.MappingNode}} }

func (b builder) put(key string, v *yaml.Node) builder {
	if v == nil {
		return b
	}
	b.n.Content = append(b.n.Content, scalar(key), v)
	return b
}

func (b builder) text(key, s string) builder {
	if s != "" {
		b.put(key, scalar(s))
	}
	return b
}

func (b builder) yes(key string, is bool) builder {
	if is {
		b.put(key, word("yes"))
	}
	return b
}
