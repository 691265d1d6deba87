package clause

import (
	"strconv"
	"strings"

	"example.org/kavlo/internal/value"
)

func (p *parser) sum() (Node, error) {
	return p.chain("+-", p.product)
}

func (p *parser) product() (Node, error) {
	return p.chain("*/", p.primary)
}

func (p *parser) chain(ops string, operand func() (Node, error)) (Node, error) {
	start := p.peek().start
	l, err := operand()
	if err != nil {
		return nil, err
	}
	for n := 0; ; n++ {
		t := p.peek()
		if t.kind != tokMark || len(t.text) != 1 || !strings.Contains(ops, t.text) {
			return l, nil
		}
		if n > MaxDepth*4 {
			return nil, p.errorAt(CodeTooDeep, t.start, 0, "more than %d things are added or multiplied in a row", MaxDepth*4)
		}
		p.next()
		r, err := operand()
		if err != nil {
			return nil, err
		}
		l = &arithmeticNode{pos: p.from(start), op: t.text[0], l: l, r: r}
	}
}

// units gives the unit of a duration under every word that names it.
var units = map[string]string{
	"day": "days", "days": "days", "week": "weeks", "weeks": "weeks", "month": "months", "months": "months",
	"year": "years", "years": "years", "hour": "hours", "hours": "hours", "minute": "minutes", "minutes": "minutes",
	"workday": "workdays", "workdays": "workdays",
}

func (p *parser) primary() (Node, error) {
	t := p.next()
	here := pos{p.base + t.start, p.base + t.end}
	switch t.kind {
	case tokNumber:
		if u, ok := units[strings.ToLower(p.peek().text)]; ok && p.peek().kind == tokWord {
			n, err := strconv.ParseInt(t.text, 10, 32)
			if err != nil {
				return nil, p.unexpected(t, "a duration is a whole number")
			}
			p.next()
			return &durationNode{pos: p.from(t.start), n: n, unit: u}, nil
		}
		v, err := value.ParseNumber(t.text)
		if err != nil {
			return nil, p.errorAt(CodeSyntax, t.start, t.end-t.start, "%q %v", t.text, err)
		}
		return &literalNode{pos: here, v: v}, nil
	case tokDate:
		typ := value.Type{Kind: value.Date}
		if len(t.text) > 10 {
			typ.Kind = value.DateTime
		}
		v, err := value.Parse(t.text, typ)
		if err != nil {
			return nil, p.errorAt(CodeSyntax, t.start, t.end-t.start, "there is no day %s", t.text)
		}
		return &literalNode{pos: here, v: v}, nil
	case tokString:
		n, err := p.template(t.text, t.start+1)
		if err != nil {
			return nil, err
		}
		if text := n.(*templateNode); len(text.holes) == 0 {
			return &literalNode{pos: here, v: value.OfText(text.texts[0])}, nil
		}
		n.(*templateNode).pos = here
		return n, nil
	case tokName:
		return &nameNode{pos: here, text: t.text}, nil
	case tokMark:
		return p.primaryMark(t)
	case tokWord:
		return p.primaryWord(t)
	}
	return nil, p.unexpected(t, "a column, a value or a clause is missing")
}

func (p *parser) primaryMark(t token) (Node, error) {
	p.depth++
	defer func() { p.depth-- }()
	if p.depth > MaxDepth {
		return nil, p.errorAt(CodeTooDeep, t.start, 0, "the clause nests deeper than %d", MaxDepth)
	}
	switch t.text {
	case "(":
		n, err := p.clause()
		if err != nil {
			return nil, err
		}
		return n, p.expect(")")
	case "-":
		x, err := p.primary()
		if err != nil {
			return nil, err
		}
		if lit, ok := x.(*literalNode); ok && lit.v.Kind() == value.Number {
			if v, err := value.Sub(value.OfInt(0), lit.v); err == nil {
				return &literalNode{pos: p.from(t.start), v: v}, nil
			}
		}
		return &negateNode{pos: p.from(t.start), x: x}, nil
	}
	return nil, p.unexpected(t, "a column, a value or a clause is missing")
}

// template reads text with holes. The text begins at offset at of the parser's text.
func (p *parser) template(text string, at int) (Node, error) {
	t := &templateNode{pos: pos{p.base + at, p.base + at + len(text)}}
	var b strings.Builder
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case c == '\\' && i+1 < len(text) && strings.IndexByte(`"\{}`, text[i+1]) >= 0:
			i++
			b.WriteByte(text[i])
		case c == '\\' && i+1 < len(text) && text[i+1] == 'n':
			i++
			b.WriteByte('\n')
		case c == '{':
			end := holeEnd(text, i)
			if end < 0 {
				return nil, p.errorAt(CodeUnclosed, at+i, len(text)-i, `the brace { is not closed: write \{ for a plain brace`)
			}
			hole := &parser{text: text[i+1 : end], whole: p.whole, base: p.base + at + i + 1, depth: p.depth + 1}
			n, err := hole.parseAll()
			if err != nil {
				return nil, err
			}
			t.texts = append(t.texts, b.String())
			b.Reset()
			t.holes = append(t.holes, n)
			i = end
		default:
			b.WriteByte(c)
		}
	}
	t.texts = append(t.texts, b.String())
	t.types = make([]value.Type, len(t.holes))
	return t, nil
}

// holeEnd gives where the brace that opens at i is closed, or -1.
func holeEnd(text string, i int) int {
	depth := 0
	for ; i < len(text); i++ {
		switch text[i] {
		case '\\':
			i++
		case '{':
			depth++
		case '}':
			if depth--; depth == 0 {
				return i
			}
		case '"':
			end, msg := stringEnd(text, i)
			if msg != "" {
				return -1
			}
			i = end - 1
		}
	}
	return -1
}
