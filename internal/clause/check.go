package clause

import (
	"fmt"
	"strconv"
	"strings"

	"example.org/kavlo/internal/value"
)

// Check resolves the names of a parsed clause in a scope and finds its type.
// Errors are of type *Error. The expression is altered and returned.
func Check(e *Expr, s *Scope) (*Expr, error) {
	c := &checker{scope: s, text: e.text}
	t, err := c.check(e.root)
	if err != nil {
		return nil, err
	}
	e.typ = t
	e.settle()
	return e, nil
}

// CheckCondition checks a clause that must come out as yes or no.
func CheckCondition(text string, s *Scope) (*Expr, error) {
	e, err := Parse(text)
	if err != nil {
		return nil, s.mend(err)
	}
	c := &checker{scope: s, text: text}
	if err := c.wantLogic(e.root); err != nil {
		return nil, s.mend(err)
	}
	e.typ = Logic
	e.settle()
	return e, nil
}

// CheckValue checks a clause that yields a value.
func CheckValue(text string, s *Scope) (*Expr, error) {
	e, err := Parse(text)
	if err != nil {
		return nil, s.mend(err)
	}
	e, err = Check(e, s)
	return e, s.mend(err)
}

// CheckTemplate checks text with holes. Where the whole text is one hole, the
// expression's type is the hole's.
func CheckTemplate(text string, s *Scope) (*Expr, error) {
	e, err := ParseTemplate(text)
	if err != nil {
		return nil, s.mend(err)
	}
	e, err = Check(e, s)
	return e, s.mend(err)
}

type checker struct {
	scope *Scope
	text  string
	table *Table // the tab looked into, inside "in TAB where"
}

func (c *checker) fail(code string, n Node, format string, args ...any) error {
	start, end := n.span()
	e := &Error{Code: code, Text: c.text, Offset: start, Length: end - start, Msg: fmt.Sprintf(format, args...)}
	return e.readable(c.scope)
}

func (c *checker) source(n Node) string {
	start, end := n.span()
	return strings.TrimSpace(c.text[start:min(end, len(c.text))])
}

func (c *checker) wantLogic(n Node) error {
	t, err := c.check(n)
	if err != nil {
		return err
	}
	if t != Logic {
		return c.fail(CodeType, n, "%s is %s, where a condition is wanted: write for example %s is not blank", c.source(n), t, c.source(n))
	}
	return nil
}

// check gives the type of a node that stands for a value or a condition, and
// fills in what its names mean. A duration stands for neither: it goes beside
// plus, minus and within alone, where typeOf is asked.
func (c *checker) check(n Node) (Type, error) {
	t, err := c.typeOf(n)
	if err == nil && t == Duration {
		return 0, c.fail(CodeType, n, "a duration is no value by itself: write for example today + %s", c.source(n))
	}
	return t, err
}

func (c *checker) typeOf(n Node) (Type, error) {
	switch x := n.(type) {
	case *nameNode:
		return c.name(x)
	case *tabNode:
		return Text, nil
	case *clockNode:
		if x.now {
			return DateTime, nil
		}
		return Date, nil
	case *literalNode:
		return TypeOf(x.v.Kind()), nil
	case *durationNode:
		return Duration, nil
	case *templateNode:
		return c.template(x)
	case *arithmeticNode:
		return c.arithmetic(x)
	case *negateNode:
		return Number, c.want(x.x, Number)
	case *ifNode:
		return c.conditional(x)
	case *callNode:
		return c.call(x)
	case *runningNode:
		return Number, c.running(x)
	case *spanNode:
		if err := c.wantTime(x.a); err != nil {
			return 0, err
		}
		return Number, c.wantTime(x.b)
	case *tableNode:
		return c.look(x)
	}
	return Logic, c.logic(n)
}

// logic checks the nodes that come out as yes or no.
func (c *checker) logic(n Node) error {
	switch x := n.(type) {
	case *compareNode:
		return c.compare(x)
	case *betweenNode:
		if err := c.same(x, x.x, x.low); err != nil {
			return err
		}
		return c.same(x, x.x, x.high)
	case *oneOfNode:
		for _, o := range x.list {
			if err := c.same(x, x.x, o); err != nil {
				return err
			}
		}
		return nil
	case *testNode:
		_, err := c.check(x.x)
		return err
	case *changedNode:
		return c.edit(x, x.name)
	case *wasNode:
		if err := c.edit(x, x.name); err != nil || x.v == nil {
			return err
		}
		return c.same(x, x.name, x.v)
	case *notNode:
		return c.wantLogic(x.x)
	case *joinNode:
		for _, o := range x.list {
			if err := c.wantLogic(o); err != nil {
				return err
			}
		}
		return nil
	}
	return c.fail(CodeSyntax, n, "this cannot be read")
}

func (c *checker) edit(n Node, name *nameNode) error {
	if _, err := c.name(name); err != nil {
		return err
	}
	if name.column.Computed != nil {
		return c.fail(CodeNoEdit, n, "%s is computed, and changed and was look at what people edit: name a column that it is computed from", name.text)
	}
	if !c.scope.Edit {
		return c.fail(CodeNoEdit, n, "changed and was look at the edit that woke a rule, and no edit wakes this one")
	}
	if name.level != levelRow {
		return c.fail(CodeNoEdit, n, "changed and was look at the row that was edited: write this.%s", name.text)
	}
	return nil
}

func (c *checker) name(n *nameNode) (Type, error) {
	columns, where := c.scope.Columns, c.scope.Name
	n.level = levelRow
	if c.table != nil && !n.this {
		columns, where, n.level = c.table.Columns, c.table.Name, levelTable
	}
	found, err := c.find(n, columns, where)
	if err != nil {
		for _, x := range c.scope.Extra {
			if value.EqualText(x.Name, n.text) {
				n.column, n.level = x, levelExtra
				return TypeOf(x.Type.Kind), nil
			}
		}
		return 0, err
	}
	n.column = *found
	if found.Computed != nil {
		return found.Computed.typ, nil
	}
	return TypeOf(found.Type.Kind), nil
}

func (c *checker) template(n *templateNode) (Type, error) {
	for i, h := range n.holes {
		t, err := c.check(h)
		if err != nil {
			return 0, err
		}
		if name, ok := h.(*nameNode); ok {
			n.types[i] = name.column.Type
		}
		if n.single() {
			return t, nil
		}
	}
	return Text, nil
}

// single reports whether the whole text is one hole, which keeps its type.
func (n *templateNode) single() bool {
	return len(n.holes) == 1 && n.texts[0] == "" && n.texts[1] == ""
}

func (c *checker) want(n Node, want Type) error {
	t, err := c.check(n)
	if err != nil {
		return err
	}
	if t != want && t != Unset {
		return c.fail(CodeType, n, "%s is %s, where %s is wanted", c.source(n), t, want)
	}
	return nil
}

func (c *checker) wantTime(n Node) error {
	t, err := c.check(n)
	if err != nil {
		return err
	}
	if t != Date && t != DateTime && t != Unset {
		return c.fail(CodeType, n, "%s is %s, where a date is wanted", c.source(n), t)
	}
	return nil
}

func (c *checker) arithmetic(n *arithmeticNode) (Type, error) {
	l, err := c.check(n.l)
	if err != nil {
		return 0, err
	}
	r, err := c.typeOf(n.r)
	if err != nil {
		return 0, err
	}
	timed := l == Date || l == DateTime
	if _, ok := n.r.(*durationNode); r == Duration && !ok {
		return 0, c.fail(CodeType, n.r, "a duration is written out, such as 15 days")
	}
	switch {
	case (l == Number || l == Unset) && (r == Number || r == Unset):
		n.typ = Number
	case timed && r == Duration && (n.op == '+' || n.op == '-'):
		n.typ = l
		if d, ok := n.r.(*durationNode); ok && (d.unit == "hours" || d.unit == "minutes") {
			n.typ = DateTime
		}
	case timed && (r == Date || r == DateTime) && n.op == '-':
		n.typ = Number
	case l == Text || r == Text:
		return 0, c.fail(CodeType, n, "text cannot be added or counted with: to join, write \"{%s} {%s}\"", c.source(n.l), c.source(n.r))
	default:
		return 0, c.fail(CodeType, n, "%s is %s and %s is %s: %c does not go between them", c.source(n.l), l, c.source(n.r), r, n.op)
	}
	return n.typ, nil
}

func (c *checker) conditional(n *ifNode) (Type, error) {
	if err := c.wantLogic(n.cond); err != nil {
		return 0, err
	}
	a, err := c.check(n.then)
	if err != nil {
		return 0, err
	}
	b, err := c.check(n.other)
	if err != nil {
		return 0, err
	}
	n.typ = a
	if a == Unset {
		n.typ = b
	} else if b != Unset && a != b {
		return 0, c.fail(CodeType, n, "after then comes %s and after else %s: both must be alike", a, b)
	}
	return n.typ, nil
}

func (c *checker) call(n *callNode) (Type, error) {
	result := n.fn.result
	for i, arg := range n.args {
		want := n.fn.params[min(i, len(n.fn.params)-1)]
		t, err := c.check(arg)
		if err != nil {
			return 0, err
		}
		dateLike := want == Date && t == DateTime
		if want != Unset && t != want && t != Unset && !dateLike {
			return 0, c.fail(CodeType, arg, "%s takes %s, and %s is %s", n.fn.name, n.fn.usage(), c.source(arg), t)
		}
		if n.fn.result == Unset {
			if result == Unset {
				result = t
			} else if t != Unset && t != result {
				return 0, c.fail(CodeType, n, "%s needs things of one type, and got %s and %s", n.fn.name, result, t)
			}
		}
	}
	return result, nil
}

func (c *checker) look(n *tableNode) (Type, error) {
	var found *Table
	names := make([]string, len(c.scope.Tables))
	for i := range c.scope.Tables {
		t := &c.scope.Tables[i]
		names[i] = t.Name
		if value.EqualText(t.Name, n.tabText) || n.tabText == "#"+strconv.FormatInt(t.ID, 10) {
			found = t
		}
	}
	if found == nil {
		near := value.Nearest(n.tabText, names)
		if near != "" {
			near = ": did you mean " + near + "?"
		}
		return 0, c.fail(CodeNoName, n.tabAt, "there is no tab %q%s", n.tabText, near)
	}
	n.table = *found
	outer := c.table
	c.table = found
	defer func() { c.table = outer }()
	result := Number
	if n.column != nil {
		t, err := c.name(n.column)
		if err != nil {
			return 0, err
		}
		switch n.op {
		case "first", "last", "smallest", "largest":
			result = t
		case "each":
			result = Text
		case "sum", "average":
			if t != Number {
				return 0, c.fail(CodeType, n.column, "%s is %s, where a number is wanted", n.column.text, t)
			}
		}
	}
	if n.where != nil {
		return result, c.wantLogic(n.where)
	}
	return result, nil
}
