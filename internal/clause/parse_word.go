package clause

import (
	"strings"

	"example.org/kavlo/internal/value"
)

// reserved words never name a column unless in brackets.
var reserved = map[string]bool{
	"and": true, "or": true, "not": true, "is": true, "if": true, "then": true, "else": true, "tab": true, "today": true,
	"now": true, "blank": true, "yes": true, "no": true, "this": true, "between": true, "within": true, "contains": true,
	"before": true, "after": true, "changed": true, "was": true, "matches": true, "in": true, "where": true, "on": true,
	"starts": true, "ends": true, "odd": true, "exactly": true, "one": true, "of": true, "with": true,
}

// lookups are the words that begin a look into another tab and take a column.
var lookups = map[string]bool{"first": true, "last": true, "sum": true, "average": true, "smallest": true, "largest": true, "each": true}

// primaryWord reads what begins with a bare word.
func (p *parser) primaryWord(t token) (Node, error) {
	here := pos{p.base + t.start, p.base + t.end}
	word := strings.ToLower(t.text)
	next := p.peek()
	switch word {
	case "yes", "no":
		return &literalNode{pos: here, v: value.OfBool(word == "yes")}, nil
	case "blank":
		return &literalNode{pos: here}, nil
	case "today", "now":
		return &clockNode{pos: here, now: word == "now"}, nil
	case "tab":
		return &tabNode{pos: here}, nil
	case "if":
		return p.conditional(t)
	case "this":
		if err := p.expect("."); err != nil {
			return nil, err
		}
		name := p.next()
		if name.kind != tokWord && name.kind != tokName {
			return nil, p.unexpected(name, `after "this." comes a column`)
		}
		return &nameNode{pos: p.from(t.start), text: name.text, this: true}, nil
	case "days", "workdays":
		if next.is("between") {
			return p.span(t)
		}
	case "running":
		if next.is("sum") {
			p.next()
			name := p.next()
			if name.kind != tokWord && name.kind != tokName {
				return nil, p.unexpected(name, "after running sum comes a column")
			}
			return &runningNode{pos: p.from(t.start), column: &nameNode{pos: pos{p.base + name.start, p.base + name.end}, text: name.text}}, nil
		}
	case "count":
		if next.is("in") || next.is("distinct") {
			return p.look(t)
		}
	}
	if lookups[word] && (next.kind == tokName || next.kind == tokWord && !reserved[strings.ToLower(next.text)]) {
		return p.look(t)
	}
	if next.mark("(") {
		return p.call(t)
	}
	if reserved[word] {
		return nil, p.unexpected(t, "a column, a value or a clause is missing (a column of this name goes in [brackets])")
	}
	if next.mark(".") && p.peekAt(1).kind == tokWord { // file.name and the like
		p.next()
		second := p.next()
		return &nameNode{pos: p.from(t.start), text: t.text + "." + second.text}, nil
	}
	return &nameNode{pos: here, text: t.text}, nil
}

func (p *parser) conditional(t token) (Node, error) {
	p.depth++
	defer func() { p.depth-- }()
	if p.depth > MaxDepth {
		return nil, p.errorAt(CodeTooDeep, t.start, 0, "the clause nests deeper than %d", MaxDepth)
	}
	cond, err := p.clause()
	if err != nil {
		return nil, err
	}
	if err := p.expectWord("then"); err != nil {
		return nil, err
	}
	then, err := p.sum()
	if err != nil {
		return nil, err
	}
	if err := p.expectWord("else"); err != nil {
		return nil, err
	}
	other, err := p.sum()
	if err != nil {
		return nil, err
	}
	return &ifNode{pos: p.from(t.start), cond: cond, then: then, other: other}, nil
}

func (p *parser) span(t token) (Node, error) {
	p.next() // between
	a, err := p.sum()
	if err != nil {
		return nil, err
	}
	if err := p.expectWord("and"); err != nil {
		return nil, err
	}
	b, err := p.sum()
	if err != nil {
		return nil, err
	}
	return &spanNode{pos: p.from(t.start), work: strings.EqualFold(t.text, "workdays"), a: a, b: b}, nil
}

// look reads "count in TAB where ...", "first [Code] in TAB where ..." and their like.
func (p *parser) look(t token) (Node, error) {
	n := &tableNode{op: strings.ToLower(t.text)}
	if n.op == "count" {
		n.distinct = p.words("distinct")
	}
	if n.op != "count" || n.distinct {
		name := p.next()
		if name.kind != tokWord && name.kind != tokName {
			return nil, p.unexpected(name, "a column is missing")
		}
		n.column = &nameNode{pos: pos{p.base + name.start, p.base + name.end}, text: name.text}
	}
	if err := p.expectWord("in"); err != nil {
		return nil, err
	}
	tab := p.next()
	if tab.kind != tokWord && tab.kind != tokName && tab.kind != tokString {
		return nil, p.unexpected(tab, `after "in" comes the name of a tab`)
	}
	n.tabText, n.tabAt = tab.text, pos{p.base + tab.start, p.base + tab.end}
	if p.words("where") {
		where, err := p.clause()
		if err != nil {
			return nil, err
		}
		n.where = where
	}
	n.pos = p.from(t.start)
	return n, nil
}

func (p *parser) call(t token) (Node, error) {
	fn := functions[strings.ToLower(t.text)]
	if fn == nil {
		near := value.Nearest(t.text, functionNames())
		if near != "" {
			near = ": did you mean " + near + "?"
		}
		return nil, p.errorAt(CodeNoName, t.start, t.end-t.start, "there is no function %q%s", t.text, near)
	}
	p.next() // (
	p.depth++
	defer func() { p.depth-- }()
	if len(fn.params) == 0 {
		if end := p.next(); !end.mark(")") {
			return nil, p.unexpected(end, fn.name+"() takes nothing")
		}
		return &callNode{pos: p.from(t.start), fn: fn}, nil
	}
	args, err := p.list()
	if err != nil {
		return nil, err
	}
	if len(args) < len(fn.params) || len(args) > len(fn.params) && !fn.variadic {
		return nil, p.errorAt(CodeSyntax, t.start, t.end-t.start, "%s takes %s", fn.name, fn.usage())
	}
	return &callNode{pos: p.from(t.start), fn: fn, args: args}, nil
}
