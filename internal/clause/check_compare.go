package clause

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/value"
)

func (c *checker) running(n *runningNode) error {
	if c.table != nil {
		return c.fail(CodeType, n, "a running sum is of the row at hand, not of a tab looked into")
	}
	t, err := c.name(n.column)
	if err != nil {
		return err
	}
	if t != Number {
		return c.fail(CodeType, n.column, "%s is %s, where a number is wanted", n.column.text, t)
	}
	if _, _, plain := plainColumn(n.column); !plain {
		return c.fail(CodeType, n.column, "%s is computed: a running sum is of a column that is typed", n.column.text)
	}
	return nil
}

func (c *checker) compare(n *compareNode) error {
	switch n.op {
	case "contains", "starts with", "ends with", "matches":
		if err := c.want(n.l, Text); err != nil {
			return err
		}
		return c.want(n.r, Text)
	case "within":
		if err := c.wantTime(n.l); err != nil {
			return err
		}
		if _, ok := n.r.(*durationNode); !ok {
			return c.fail(CodeType, n.r, "after within comes a duration, such as 30 days")
		}
		return nil
	case "before", "after", "on or before", "on or after":
		if err := c.wantTime(n.l); err != nil {
			return err
		}
		return c.timeBeside(n)
	}
	return c.same(n, n.l, n.r)
}

func (c *checker) timeBeside(n *compareNode) error {
	if lit, ok := n.r.(*literalNode); ok && lit.v.Kind() == value.Text {
		return c.fail(CodeType, n.r, "a date is compared with a date: write %s without quotes, like 2026-03-31", c.source(n.r))
	}
	return c.wantTime(n.r)
}

// same checks that two sides can be compared.
func (c *checker) same(n Node, l, r Node) error {
	a, err := c.check(l)
	if err != nil {
		return err
	}
	b, err := c.check(r)
	if err != nil {
		return err
	}
	if a == Unset || b == Unset {
		return nil
	}
	if !value.Comparable(a.Kind(), b.Kind()) {
		hint := ""
		if lit, ok := r.(*literalNode); ok && lit.v.Kind() == value.Text {
			hint = ": write it without quotes"
		}
		for _, side := range []struct {
			n, other Type
			at       Node
		}{{a, b, l}, {b, a, r}} {
			if _, is := side.at.(*nameNode); is && side.n == Text && (side.other == Number || side.other == Date) {
				hint = fmt.Sprintf(": to compare it as %s, write %s(%s)", side.other, side.other.Kind(), c.source(side.at))
			}
		}
		return c.fail(CodeType, n, "%s is %s and %s is %s: they cannot be compared%s", c.source(l), a, c.source(r), b, hint)
	}
	if err := c.choice(l, r); err != nil {
		return err
	}
	return c.choice(r, l)
}

// choice checks that a text compared with a choice column is one of its choices.
func (c *checker) choice(column, literal Node) error {
	name, ok := column.(*nameNode)
	lit, isLit := literal.(*literalNode)
	if !ok || !isLit || name.column.Type.Kind != value.Choice || lit.v.Kind() != value.Text || len(name.column.Type.Options) == 0 {
		return nil
	}
	if _, ok := name.column.Type.Option(lit.v.Raw()); ok {
		return nil
	}
	names := make([]string, len(name.column.Type.Options))
	for i, o := range name.column.Type.Options {
		names[i] = o.Name
	}
	hint := "choose from " + strings.Join(names, ", ")
	if near := value.Nearest(lit.v.Raw(), names); near != "" {
		hint = "did you mean " + near + "?"
	}
	return c.fail(CodeNoChoice, literal, "%q is not one of the choices of %s: %s", lit.v.Raw(), name.column.Name, hint)
}
