package clause

import (
	"fmt"
	"regexp"
	"strings"

	"example.org/kavlo/internal/value"
)

type parser struct {
	text   string // the whole clause, for positions
	base   int    // where the text being parsed begins in it, for holes
	whole  string
	tokens []token
	at     int
	depth  int
}

// Parse reads a clause. Errors are of type *Error.
func Parse(text string) (*Expr, error) {
	p := &parser{text: text, whole: text}
	root, err := p.parseAll()
	if err != nil {
		return nil, err
	}
	return &Expr{text: text, root: root}, nil
}

// ParseTemplate reads text with {clause} holes.
func ParseTemplate(text string) (*Expr, error) {
	p := &parser{text: text, whole: text}
	if len(text) > MaxLength {
		return nil, p.errorAt(CodeTooLong, 0, 0, "the text is longer than %d letters", MaxLength)
	}
	t, err := p.template(text, 0)
	if err != nil {
		return nil, err
	}
	return &Expr{text: text, root: t, template: true}, nil
}

func (p *parser) parseAll() (Node, error) {
	if err := p.lex(); err != nil {
		return nil, err
	}
	n, err := p.clause()
	if err != nil {
		return nil, err
	}
	if t := p.peek(); t.kind != tokEnd {
		return nil, p.unexpected(t, "the clause should end here")
	}
	return n, nil
}

// errorAt is the one place where the package's errors are made.
func (p *parser) errorAt(code string, offset, length int, format string, args ...any) error {
	return &Error{Code: code, Text: p.whole, Offset: p.base + offset, Length: length, Msg: fmt.Sprintf(format, args...)}
}

func (p *parser) unexpected(t token, wanted string) error {
	if t.kind == tokEnd {
		return p.errorAt(CodeSyntax, t.start, t.end-t.start, "the clause is incomplete: %s", wanted)
	}
	return p.errorAt(CodeSyntax, t.start, t.end-t.start, "%s, found %s", wanted, t.describe())
}

func (p *parser) peek() token { return p.tokens[p.at] }

func (p *parser) peekAt(n int) token { return p.tokens[min(p.at+n, len(p.tokens)-1)] }

func (p *parser) next() token {
	t := p.tokens[p.at]
	if t.kind != tokEnd {
		p.at++
	}
	return t
}

// words takes the given words if they come next.
func (p *parser) words(list ...string) bool {
	for i, w := range list {
		if !p.peekAt(i).is(w) {
			return false
		}
	}
	p.at += len(list)
	return true
}

func (p *parser) expect(mark string) error {
	if t := p.next(); !t.mark(mark) {
		return p.unexpected(t, fmt.Sprintf("%q is missing", mark))
	}
	return nil
}

func (p *parser) expectWord(word string) error {
	if !p.peek().is(word) {
		return p.unexpected(p.peek(), fmt.Sprintf("%q is missing", word))
	}
	p.next()
	return nil
}

func (p *parser) endOf() int {
	if p.at == 0 {
		return 0
	}
	return p.tokens[p.at-1].end
}

func (p *parser) from(start int) pos { return pos{p.base + start, p.base + p.endOf()} }

// clause reads a chain of and, or of or; mixing them without parentheses is an
// error, because people mean either reading.
func (p *parser) clause() (Node, error) {
	p.depth++
	defer func() { p.depth-- }()
	if p.depth > MaxDepth {
		return nil, p.errorAt(CodeTooDeep, p.peek().start, 0, "the clause nests deeper than %d", MaxDepth)
	}
	start := p.peek().start
	first, err := p.negation()
	if err != nil {
		return nil, err
	}
	list, ops := []Node{first}, []string{}
	var mixedAt token
	for p.peek().is("and") || p.peek().is("or") {
		op := p.next()
		ops = append(ops, strings.ToLower(op.text))
		if ops[0] != ops[len(ops)-1] && mixedAt.kind == tokEnd {
			mixedAt = op
		}
		n, err := p.negation()
		if err != nil {
			return nil, err
		}
		list = append(list, n)
	}
	if len(list) == 1 {
		return first, nil
	}
	if mixedAt.kind != tokEnd {
		a, b := p.readings(list, ops)
		return nil, p.errorAt(CodeAmbiguous, mixedAt.start, mixedAt.end-mixedAt.start,
			"and is mixed with or, which can be read two ways: write %s, or %s", a, b)
	}
	return &joinNode{pos: p.from(start), or: ops[0] == "or", list: list}, nil
}

// readings writes the two ways in which a mixed chain can be grouped.
func (p *parser) readings(list []Node, ops []string) (andFirst, orFirst string) {
	group := func(tight string) string {
		var b strings.Builder
		for i := 0; i < len(list); {
			j := i
			for j < len(ops) && ops[j] == tight {
				j++
			}
			part := strings.Join(p.texts(list[i:j+1]), " "+tight+" ")
			if j > i {
				part = "(" + part + ")"
			}
			b.WriteString(part)
			if j < len(ops) {
				b.WriteString(" " + ops[j] + " ")
			}
			i = j + 1
		}
		return b.String()
	}
	return group("and"), group("or")
}

func (p *parser) texts(list []Node) []string {
	out := make([]string, len(list))
	for i, n := range list {
		start, end := n.span()
		out[i] = strings.TrimSpace(p.whole[start:end])
	}
	return out
}

func (p *parser) negation() (Node, error) {
	if t := p.peek(); t.is("not") {
		p.depth++
		defer func() { p.depth-- }()
		if p.depth > MaxDepth {
			return nil, p.errorAt(CodeTooDeep, t.start, 0, "the clause nests deeper than %d", MaxDepth)
		}
		p.next()
		x, err := p.negation()
		if err != nil {
			return nil, err
		}
		return &notNode{pos: p.from(t.start), x: x}, nil
	}
	return p.comparison()
}

func (p *parser) comparison() (Node, error) {
	start := p.peek().start
	x, err := p.sum()
	if err != nil {
		return nil, err
	}
	switch t := p.peek(); {
	case p.words("is", "not", "blank"), p.words("is", "not", "odd"):
		return &testNode{pos: p.from(start), what: strings.ToLower(p.tokens[p.at-1].text), x: x, not: true}, nil
	case p.words("is", "blank"), p.words("is", "odd"):
		return &testNode{pos: p.from(start), what: strings.ToLower(p.tokens[p.at-1].text), x: x}, nil
	case p.words("is", "not", "one", "of"):
		return p.oneOf(start, x, true)
	case p.words("is", "one", "of"):
		return p.oneOf(start, x, false)
	case p.words("between"):
		low, err := p.sum()
		if err != nil {
			return nil, err
		}
		if err := p.expectWord("and"); err != nil {
			return nil, err
		}
		high, err := p.sum()
		if err != nil {
			return nil, err
		}
		return &betweenNode{pos: p.from(start), x: x, low: low, high: high}, nil
	case p.words("within"):
		r, err := p.sum()
		if err != nil {
			return nil, err
		}
		return &compareNode{pos: p.from(start), op: "within", l: x, r: r}, nil
	case p.words("changed"):
		name, ok := x.(*nameNode)
		if !ok {
			return nil, p.unexpected(t, "only a column can be changed")
		}
		return &changedNode{pos: p.from(start), name: name}, nil
	case p.words("was"):
		return p.was(start, t, x)
	case t.mark("="):
		return nil, p.unexpected(t, `write "is" to compare`)
	case t.mark("<"), t.mark("<="), t.mark(">"), t.mark(">="):
		p.next()
		r, err := p.sum()
		if err != nil {
			return nil, err
		}
		return &compareNode{pos: p.from(start), op: t.text, l: x, r: r}, nil
	}
	for _, c := range comparisons {
		if !p.words(c.words...) {
			continue
		}
		if c.op == "matches" {
			return p.matches(start, x)
		}
		r, err := p.sum()
		if err != nil {
			return nil, err
		}
		return &compareNode{pos: p.from(start), op: c.op, l: x, r: r}, nil
	}
	return x, nil
}

func (p *parser) was(start int, t token, x Node) (Node, error) {
	name, ok := x.(*nameNode)
	if !ok {
		return nil, p.unexpected(t, "only a column can have been something")
	}
	n := &wasNode{name: name, not: p.words("not")}
	if !p.words("blank") {
		v, err := p.sum()
		if err != nil {
			return nil, err
		}
		n.v = v
	}
	n.pos = p.from(start)
	return n, nil
}

func (p *parser) oneOf(start int, x Node, not bool) (Node, error) {
	if err := p.expect("("); err != nil {
		return nil, err
	}
	list, err := p.list()
	if err != nil {
		return nil, err
	}
	return &oneOfNode{pos: p.from(start), x: x, list: list, not: not}, nil
}

// list reads a comma-separated list up to and with its closing parenthesis.
func (p *parser) list() ([]Node, error) {
	var list []Node
	for {
		n, err := p.clause()
		if err != nil {
			return nil, err
		}
		list = append(list, n)
		switch t := p.next(); {
		case t.mark(")"):
			return list, nil
		case !t.mark(","):
			return nil, p.unexpected(t, `"," or ")" is missing`)
		}
	}
}

func (p *parser) matches(start int, x Node) (Node, error) {
	t := p.next()
	if t.kind != tokString {
		return nil, p.unexpected(t, `after "matches" comes a pattern in quotes`)
	}
	re, err := regexp.Compile("(?i)" + strings.ReplaceAll(t.text, `\"`, `"`))
	if err != nil {
		return nil, p.errorAt(CodeSyntax, t.start, t.end-t.start, "the pattern cannot be read: %v", err)
	}
	return &compareNode{pos: p.from(start), op: "matches", l: x, r: &literalNode{pos: pos{p.base + t.start, p.base + t.end}, v: value.OfText(t.text)}, re: re}, nil
}
