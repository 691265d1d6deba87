package formula

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/value"
)

// Beside names the columns of a table as a formula in one of its rows sees them.
type Beside struct {
	Name  func(column int) (string, bool) // the column so many to the right of the formula's
	Date  func(column int) bool           // whether that one holds dates; nil: none does
	First int                             // the first row of the table's body, zero-based
	Col   int                             // the formula's column, zero-based
	Sheet string
}

// Clause gives what a formula says as a clause over the row it stands in, or why it cannot
// be said. previous says that the row above is one of the table's, so that a formula that
// goes on from it is a running sum.
func (f *Formula) Clause(in Beside) (string, error) {
	t := translator{in}
	if s, ok := t.running(f.root); ok {
		return s, nil
	}
	s, _, err := t.say(f.root)
	return s, err
}

type translator struct{ Beside }

// Binding of what a clause says, from the loosest.
const (
	bindsIf = iota
	bindsOr
	bindsAnd
	bindsNot
	bindsCompare
	bindsAdd
	bindsMultiply
	bindsUnit
)

func cannot(format string, args ...any) error {
	return fmt.Errorf("%w: "+format, append([]any{ErrNotUnderstood}, args...)...)
}

// running says a running total: what stands above, and a figure of this row added to it,
// or the sum from the first row to this one.
func (t translator) running(n node) (string, bool) {
	switch n := n.(type) {
	case call:
		if n.name == "SUM" && len(n.args) == 1 {
			if a, is := n.args[0].(area); is && !a.single && a.from.held && a.from.row == t.First && !a.to.held && a.to.row == 0 &&
				t.right(a.from) == t.right(a.to) && a.sheet == "" {
				if name, ok := t.Name(t.right(a.from)); ok {
					return "running sum " + bracketed(name), true
				}
			}
		}
		if n.name == "SUM" && len(n.args) == 2 { // of the cell above and one beside
			return t.running(binary{"+", n.args[0], n.args[1]})
		}
	case binary:
		if n.op != "+" && n.op != "-" {
			return "", false
		}
		if n.op == "+" && t.above(n.l) {
			return t.added(n.r)
		}
		if n.op == "+" && t.above(n.r) {
			return t.added(n.l)
		}
		if n.op == "-" && t.above(n.l) {
			if s, ok := t.added(n.r); ok {
				return "0 - " + s, true
			}
			return "", false
		}
		left, ok := t.running(n.l) // in, and then out
		if !ok {
			return "", false
		}
		right, ok := t.added(n.r)
		return left + " " + n.op + " " + right, ok
	}
	return "", false
}

// above reports whether a node is the cell right above the formula.
func (t translator) above(n node) bool {
	a, is := n.(area)
	return is && a.single && a.sheet == "" && !a.from.held && a.from.row == -1 && t.right(a.from) == 0
}

// right gives how many columns to the right of the formula a place is.
func (t translator) right(p place) int {
	if p.heldAt {
		return p.col - t.Col
	}
	return p.col
}

// added says the running sum of a figure of this row.
func (t translator) added(n node) (string, bool) {
	a, is := n.(area)
	if !is || !a.single || a.sheet != "" || a.from.held || a.from.row != 0 {
		return "", false
	}
	name, ok := t.Name(t.right(a.from))
	return "running sum " + bracketed(name), ok
}

func bracketed(name string) string { return "[" + name + "]" }

// say gives the clause of a node, and how closely it binds.
func (t translator) say(n node) (string, int, error) {
	switch n := n.(type) {
	case constant:
		switch n.v.Kind() {
		case value.Blank:
			return "blank", bindsUnit, nil
		case value.Text:
			if strings.ContainsAny(n.v.Raw(), "\"{}\n\\") {
				return "", 0, cannot("the text %q", n.v.Raw())
			}
			return `"` + n.v.Raw() + `"`, bindsUnit, nil
		case value.Checkbox:
			if n.v.IsTrue() {
				return "yes", bindsUnit, nil
			}
			return "no", bindsUnit, nil
		}
		return n.v.String(), bindsUnit, nil
	case area:
		return t.column(n)
	case negative:
		s, err := t.within(n.x, bindsMultiply)
		return "0 - " + s, bindsAdd, err
	case percent:
		s, err := t.within(n.x, bindsMultiply)
		return s + " / 100", bindsMultiply, err
	case binary:
		return t.binary(n)
	case call:
		return t.call(n)
	}
	return "", 0, cannot("part of it")
}

// within gives a clause that binds at least so closely, in parentheses where it does not
// by itself.
func (t translator) within(n node, binds int) (string, error) {
	s, at, err := t.say(n)
	if err == nil && at < binds {
		s = "(" + s + ")"
	}
	return s, err
}

func (t translator) column(a area) (string, int, error) {
	switch {
	case !a.single:
		return "", 0, cannot("a range of cells")
	case a.sheet != "" && !sameSheet(a.sheet, t.Sheet):
		return "", 0, cannot("a cell of sheet %s", a.sheet)
	case a.from.held:
		return "", 0, cannot("a cell of row %d, whichever row it is in", a.from.row+1)
	case a.from.row != 0:
		return "", 0, cannot("a cell of another row")
	}
	name, ok := t.Name(t.right(a.from))
	if !ok {
		return "", 0, cannot("a cell beside the table")
	}
	return bracketed(name), bindsUnit, nil
}

var comparisons = map[string]string{"=": "is", "<>": "is not", "<": "<", ">": ">", "<=": "<=", ">=": ">="}

func (t translator) binary(n binary) (string, int, error) {
	pair := func(op string, left, right, binds int) (string, int, error) {
		l, err := t.within(n.l, left)
		if err != nil {
			return "", 0, err
		}
		r, err := t.within(n.r, right)
		return l + " " + op + " " + r, binds, err
	}
	if s, err := t.daysOn(n); s != "" || err != nil {
		return s, bindsAdd, err
	}
	switch n.op {
	case "+":
		return pair("+", bindsAdd, bindsMultiply, bindsAdd)
	case "-":
		return pair("-", bindsAdd, bindsMultiply, bindsAdd)
	case "*":
		return pair("*", bindsMultiply, bindsUnit, bindsMultiply)
	case "/":
		return pair("/", bindsMultiply, bindsUnit, bindsMultiply)
	case "&":
		return t.joined([]node{n.l, n.r})
	case "^":
		return "", 0, cannot("powers")
	}
	if blankText(n.r) && (n.op == "=" || n.op == "<>") {
		s, err := t.within(n.l, bindsAdd)
		return s + " " + comparisons[n.op] + " blank", bindsCompare, err
	}
	return pair(comparisons[n.op], bindsAdd, bindsAdd, bindsCompare)
}

// daysOn says some days after or before a date of the row, or "".
func (t translator) daysOn(n binary) (string, error) {
	a, cell := n.l.(area)
	days, number := n.r.(constant)
	if !cell || !number || n.op != "+" && n.op != "-" || t.Date == nil || !t.Date(t.right(a.from)) {
		return "", nil
	}
	if _, whole := days.v.Int(); !whole || days.v.Kind() != value.Number {
		return "", cannot("part of a day")
	}
	s, _, err := t.column(a)
	return s + " " + n.op + " " + days.v.String() + " days", err
}

func blankText(n node) bool {
	c, is := n.(constant)
	return is && c.v.IsBlank()
}

// joined gives a text with holes.
func (t translator) joined(parts []node) (string, int, error) {
	var b strings.Builder
	for _, p := range parts {
		if n, is := p.(binary); is && n.op == "&" {
			s, _, err := t.joined([]node{n.l, n.r})
			if err != nil {
				return "", 0, err
			}
			b.WriteString(s[1 : len(s)-1])
			continue
		}
		s, _, err := t.say(p)
		if err != nil {
			return "", 0, err
		}
		switch c, is := p.(constant); {
		case is && c.v.IsBlank():
		case is && c.v.Kind() == value.Text:
			b.WriteString(s[1 : len(s)-1])
		case strings.Contains(s, `"`):
			return "", 0, cannot("a text within a text")
		default:
			b.WriteString("{" + s + "}")
		}
	}
	return `"` + b.String() + `"`, bindsUnit, nil
}

// alike are functions that go by another name, or by the same, in clauses.
var alike = map[string]string{"ROUND": "round", "ABS": "abs", "MIN": "min", "MAX": "max", "UPPER": "upper", "LOWER": "lower", "TRIM": "trim", "LEN": "length", "YEAR": "year", "MONTH": "month", "DAY": "day"}

func (t translator) call(n call) (string, int, error) {
	all := func(op string, binds int) (string, int, error) {
		var parts []string
		for _, a := range n.args {
			s, err := t.within(a, binds+1)
			if err != nil {
				return "", 0, err
			}
			parts = append(parts, s)
		}
		return strings.Join(parts, " "+op+" "), binds, nil
	}
	switch n.name {
	case "TODAY":
		return "today", bindsUnit, nil
	case "AND":
		return all("and", bindsAnd)
	case "OR":
		return all("or", bindsOr)
	case "NOT":
		s, _, err := t.say(n.args[0])
		return "not (" + s + ")", bindsNot, err
	case "ISBLANK":
		s, err := t.within(n.args[0], bindsAdd)
		return s + " is blank", bindsCompare, err
	case "CONCATENATE", "CONCAT":
		return t.joined(n.args)
	case "SUM":
		return t.summed(n)
	case "IF":
		if x, ok := whenFilled(n); ok {
			return t.say(x)
		}
		if len(n.args) != 3 {
			return "", 0, cannot("IF without all of its parts")
		}
		var parts [3]string
		for i, a := range n.args {
			s, at, err := t.say(a)
			if err != nil {
				return "", 0, err
			}
			if at == bindsIf {
				s = "(" + s + ")"
			}
			parts[i] = s
		}
		return "if " + parts[0] + " then " + parts[1] + " else " + parts[2], bindsIf, nil
	}
	name, known := alike[n.name]
	if !known {
		return "", 0, cannot("the function %s", n.name)
	}
	var parts []string
	for _, a := range n.args {
		s, _, err := t.say(a)
		if err != nil {
			return "", 0, err
		}
		parts = append(parts, s)
	}
	return name + "(" + strings.Join(parts, ", ") + ")", bindsUnit, nil
}

// whenFilled gives what IF(COUNT(A2,B2)<2,"",x) comes to where all of its figures are there.
// Clauses need no such care: they are blank where a figure is missing, and odd where one is
// divided by zero.
func whenFilled(n call) (node, bool) {
	if len(n.args) != 3 || !blankText(n.args[1]) {
		return nil, false
	}
	less, is := n.args[0].(binary)
	if !is || less.op != "<" {
		return nil, false
	}
	count, is := less.l.(call)
	of, number := less.r.(constant)
	if !is || !number || count.name != "COUNT" || of.v != value.OfInt(int64(len(count.args))) {
		return nil, false
	}
	for _, a := range count.args {
		if cell, is := a.(area); !is || !cell.single {
			return nil, false
		}
	}
	if x, is := n.args[2].(call); is && x.name == "IFERROR" && len(x.args) == 2 && blankText(x.args[1]) {
		return x.args[0], true
	}
	return n.args[2], true
}

// summed says a sum over cells of the row, one by one.
func (t translator) summed(n call) (string, int, error) {
	var parts []string
	for _, arg := range n.args {
		a, is := arg.(area)
		if !is || a.single {
			s, err := t.within(arg, bindsAdd)
			if err != nil {
				return "", 0, err
			}
			parts = append(parts, s)
			continue
		}
		if a.columns || a.rows || a.from.held || a.to.held || a.from.row != 0 || a.to.row != 0 || t.right(a.to)-t.right(a.from) > 20 {
			return "", 0, cannot("a sum over other rows")
		}
		for col := t.right(a.from); col <= t.right(a.to); col++ {
			one := a
			one.single, one.from.col, one.from.heldAt = true, col, false
			s, _, err := t.column(one)
			if err != nil {
				return "", 0, err
			}
			parts = append(parts, s)
		}
	}
	if len(parts) == 1 {
		return parts[0], bindsAdd, nil
	}
	return strings.Join(parts, " + "), bindsAdd, nil
}
