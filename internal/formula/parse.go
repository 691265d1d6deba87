// Package formula understands the formulas of worksheets (ECMA-376, part 1, 18.17), as
// far as readers and writers of workbooks need them: what is simple is computed, in
// decimal arithmetic; references follow when rows are put in between; and a column of
// formulas is said as a clause, where it can be. lex.go parts a formula into tokens,
// parse.go makes a tree of them, eval.go and functions.go compute, grow.go moves
// references, and clause.go tells what a formula says in Kavlo's own language.
//
// Part of the core: no I/O and no clock. What depends on the time is not computed.
package formula

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"example.org/kavlo/internal/value"
)

// ErrNotUnderstood says that a formula uses what is not understood here.
var ErrNotUnderstood = errors.New("it is not understood")

// Formula is a formula as it stands in the cells it was filled into: references that are
// not held to their place are kept as so many rows and columns away.
type Formula struct {
	root node
	key  string
}

// Key is the same for all cells that a formula was filled into, and for no other formula.
func (f *Formula) Key() string { return f.key }

type node interface{ write(b *strings.Builder) }

type (
	constant struct{ v value.Value }
	// area is a cell or a block of cells; whole rows and columns reach over all of a sheet.
	area struct {
		sheet    string
		from, to place
		single   bool
		columns  bool // whole columns
		rows     bool // whole rows
	}
	call struct {
		name string
		args []node
	}
	binary struct {
		op   string
		l, r node
	}
	negative struct{ x node }
	percent  struct{ x node }
	mistake  struct{ code string } // #N/A and the like
	nothing  struct{}              // an argument left out
)

// most is how deep and how long a formula may be to be understood.
const (
	mostText  = 8192
	mostDepth = 64
)

// Parse reads a formula, without its equals sign, that stands in a cell.
func Parse(text string, row, col int) (*Formula, error) {
	text = strings.TrimPrefix(strings.TrimSpace(text), "=")
	if len(text) > mostText {
		return nil, fmt.Errorf("%w: it is longer than %d letters", ErrNotUnderstood, mostText)
	}
	p := &parser{tokens: lex(text), row: row, col: col}
	n, err := p.expression(0)
	if err != nil {
		return nil, err
	}
	if t := p.peek(); t.kind != tokEnd {
		return nil, p.stray(t)
	}
	var b strings.Builder
	n.write(&b)
	return &Formula{root: n, key: b.String()}, nil
}

type parser struct {
	tokens   []token
	at       int
	row, col int
	depth    int
}

func (p *parser) peek() token { return p.tokens[p.at] }

func (p *parser) next() token {
	t := p.tokens[p.at]
	if t.kind != tokEnd {
		p.at++
	}
	return t
}

func (p *parser) mark(m string) bool {
	if t := p.peek(); t.kind == tokMark && t.text == m {
		p.at++
		return true
	}
	return false
}

func (p *parser) stray(t token) error {
	if t.kind == tokEnd {
		return fmt.Errorf("%w: it ends too early", ErrNotUnderstood)
	}
	return fmt.Errorf("%w: %q", ErrNotUnderstood, t.text)
}

// precedence of the operators (ECMA-376, 18.17.2.2); 0: none.
func precedence(op string) int {
	switch op {
	case "=", "<>", "<", ">", "<=", ">=":
		return 1
	case "&":
		return 2
	case "+", "-":
		return 3
	case "*", "/":
		return 4
	case "^":
		return 5
	}
	return 0
}

func (p *parser) expression(above int) (node, error) {
	if p.depth++; p.depth > mostDepth {
		return nil, fmt.Errorf("%w: it is nested too deep", ErrNotUnderstood)
	}
	defer func() { p.depth-- }()
	left, err := p.operand()
	if err != nil {
		return nil, err
	}
	for {
		t := p.peek()
		if t.kind != tokMark {
			return left, nil
		}
		if t.text == "%" {
			p.at++
			left = percent{left}
			continue
		}
		n := precedence(t.text)
		if n == 0 || n <= above {
			return left, nil
		}
		p.at++
		right, err := p.expression(n)
		if err != nil {
			return nil, err
		}
		left = binary{t.text, left, right}
	}
}

func (p *parser) operand() (node, error) {
	switch t := p.next(); t.kind {
	case tokNumber:
		v, _, err := value.ParseRounded(leading(t.text))
		if err != nil {
			return nil, fmt.Errorf("%w: %q", ErrNotUnderstood, t.text)
		}
		return constant{v}, nil
	case tokText:
		return constant{value.OfText(strings.ReplaceAll(t.text[1:len(t.text)-1], `""`, `"`))}, nil
	case tokRef, tokColumn, tokRow:
		return p.area(t)
	case tokError:
		return mistake{strings.ToUpper(t.text)}, nil
	case tokName:
		return p.named(t)
	case tokMark:
		switch t.text {
		case "(":
			n, err := p.expression(0)
			if err == nil && !p.mark(")") {
				err = p.stray(p.peek())
			}
			return n, err
		case "-", "+":
			x, err := p.expression(4) // binds closer than all but percent and power
			if err != nil || t.text == "+" {
				return x, err
			}
			return negative{x}, nil
		}
		return nil, p.stray(t)
	default:
		return nil, p.stray(t)
	}
}

// leading gives a number's text with a zero before its decimal mark.
func leading(s string) string {
	if strings.HasPrefix(s, ".") {
		return "0" + s
	}
	return strings.TrimSuffix(s, ".")
}

func (p *parser) area(t token) (node, error) {
	a := area{sheet: t.sheet, from: p.relative(t.at), single: true, columns: t.kind == tokColumn, rows: t.kind == tokRow}
	a.to = a.from
	if !p.mark(":") {
		if t.kind != tokRef {
			return nil, p.stray(t)
		}
		return a, nil
	}
	to := p.next()
	if to.kind != t.kind {
		return nil, p.stray(to)
	}
	a.to, a.single = p.relative(to.at), false
	return a, nil
}

// relative gives a place as so many rows and columns from the formula's own cell.
func (p *parser) relative(at place) place {
	if !at.held {
		at.row -= p.row
	}
	if !at.heldAt {
		at.col -= p.col
	}
	return at
}

func (p *parser) named(t token) (node, error) {
	name := strings.ToUpper(t.text)
	if !p.mark("(") {
		switch name {
		case "TRUE", "FALSE":
			return constant{value.OfBool(name == "TRUE")}, nil
		}
		return nil, p.stray(t)
	}
	c := call{name: strings.TrimPrefix(name, "_XLFN.")}
	if p.mark(")") {
		return c, nil
	}
	for {
		if t := p.peek(); t.kind == tokMark && (t.text == "," || t.text == ";" || t.text == ")") {
			c.args = append(c.args, nothing{})
		} else {
			arg, err := p.expression(0)
			if err != nil {
				return nil, err
			}
			c.args = append(c.args, arg)
		}
		switch t := p.next(); {
		case t.kind == tokMark && (t.text == "," || t.text == ";"):
		case t.kind == tokMark && t.text == ")":
			return c, nil
		default:
			return nil, p.stray(t)
		}
	}
}

func (c constant) write(b *strings.Builder) {
	if c.v.Kind() == value.Text {
		b.WriteString(strconv.Quote(c.v.Raw()))
		return
	}
	b.WriteString(c.v.String())
}

func (a area) write(b *strings.Builder) {
	if a.sheet != "" {
		b.WriteString(strconv.Quote(value.Fold(a.sheet)) + "!")
	}
	a.from.write(b, a.columns, a.rows)
	if !a.single {
		b.WriteByte(':')
		a.to.write(b, a.columns, a.rows)
	}
}

func (p place) write(b *strings.Builder, columns, rows bool) {
	part := func(letter string, n int, held bool) {
		if held {
			fmt.Fprintf(b, "%s%d", letter, n)
		} else {
			fmt.Fprintf(b, "%s[%d]", letter, n)
		}
	}
	if !columns {
		part("R", p.row, p.held)
	}
	if !rows {
		part("C", p.col, p.heldAt)
	}
}

func (c call) write(b *strings.Builder) {
	b.WriteString(c.name + "(")
	for i, a := range c.args {
		if i > 0 {
			b.WriteByte(',')
		}
		a.write(b)
	}
	b.WriteByte(')')
}

func (n binary) write(b *strings.Builder) {
	b.WriteByte('(')
	n.l.write(b)
	b.WriteString(n.op)
	n.r.write(b)
	b.WriteByte(')')
}

func (n negative) write(b *strings.Builder) {
	b.WriteString("-(")
	n.x.write(b)
	b.WriteByte(')')
}

func (n percent) write(b *strings.Builder) {
	n.x.write(b)
	b.WriteByte('%')
}

func (m mistake) write(b *strings.Builder) { b.WriteString(m.code) }

func (nothing) write(*strings.Builder) {}
