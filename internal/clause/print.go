package clause

import (
	"strconv"
	"strings"

	"example.org/kavlo/internal/value"
)

// Names tells how names are written: as people read them, or as ids for storing.
type Names uint8

// ByName writes columns and tabs by name; ByID as [#12], which survives renaming.
const (
	ByName Names = iota
	ByID
)

// Print writes a checked clause in its canonical form: parsing it gives the
// same clause again.
func (e *Expr) Print(names Names) string {
	p := &printer{names: names}
	if t, ok := e.root.(*templateNode); ok && e.template {
		p.holes(t)
	} else {
		p.node(e.root, 0)
	}
	return p.b.String()
}

type printer struct {
	b     strings.Builder
	names Names
}

// Binding strengths, weakest first.
const (
	bindJoin = iota + 1
	bindNot
	bindCompare
	bindSpan
	bindSum
	bindProduct
	bindPrimary
)

func (p *printer) write(parts ...string) {
	for _, s := range parts {
		p.b.WriteString(s)
	}
}

// wrap writes parentheses around what binds weaker than its place allows.
func (p *printer) wrap(own, outer int, body func()) {
	if own < outer {
		p.write("(")
		body()
		p.write(")")
		return
	}
	body()
}

func (p *printer) node(n Node, outer int) {
	switch x := n.(type) {
	case *nameNode:
		p.name(x)
	case *tabNode:
		p.write("tab")
	case *clockNode:
		if x.now {
			p.write("now")
		} else {
			p.write("today")
		}
	case *literalNode:
		p.literal(x.v)
	case *durationNode:
		p.write(x.String())
	case *templateNode:
		p.write(`"`)
		p.holes(x)
		p.write(`"`)
	case *arithmeticNode:
		own := bindSum
		if x.op == '*' || x.op == '/' {
			own = bindProduct
		}
		p.wrap(own, outer, func() {
			p.node(x.l, own)
			p.write(" ", string(x.op), " ")
			p.node(x.r, own+1)
		})
	case *negateNode:
		p.write("-")
		p.node(x.x, bindPrimary)
	case *compareNode:
		p.wrap(bindCompare, outer, func() {
			p.node(x.l, bindSpan)
			p.write(" ", x.op, " ")
			if x.op == "matches" {
				p.write(`"`, x.r.(*literalNode).v.Raw(), `"`)
				return
			}
			p.node(x.r, bindSpan)
		})
	case *notNode:
		p.wrap(bindNot, outer, func() {
			p.write("not ")
			p.node(x.x, bindNot)
		})
	case *joinNode:
		op := " and "
		if x.or {
			op = " or "
		}
		p.wrap(bindJoin, outer, func() {
			for i, o := range x.list {
				if i > 0 {
					p.write(op)
				}
				p.node(o, bindNot)
			}
		})
	default:
		p.phrase(n, outer)
	}
}

// phrase writes the nodes that read as a sentence.
func (p *printer) phrase(n Node, outer int) {
	switch x := n.(type) {
	case *betweenNode:
		p.wrap(bindCompare, outer, func() {
			p.node(x.x, bindSum)
			p.write(" between ")
			p.node(x.low, bindSum)
			p.write(" and ")
			p.node(x.high, bindSum)
		})
	case *oneOfNode:
		p.wrap(bindCompare, outer, func() {
			p.node(x.x, bindSum)
			p.write(" is", notWord(x.not), " one of (")
			p.list(x.list)
			p.write(")")
		})
	case *testNode:
		p.wrap(bindCompare, outer, func() {
			p.node(x.x, bindSum)
			p.write(" is", notWord(x.not), " ", x.what)
		})
	case *changedNode:
		p.wrap(bindCompare, outer, func() {
			p.name(x.name)
			p.write(" changed")
		})
	case *wasNode:
		p.wrap(bindCompare, outer, func() {
			p.name(x.name)
			p.write(" was", notWord(x.not), " ")
			if x.v == nil {
				p.write("blank")
			} else {
				p.node(x.v, bindSum)
			}
		})
	case *ifNode:
		p.wrap(bindCompare, outer, func() {
			p.write("if ")
			p.node(x.cond, bindJoin)
			p.write(" then ")
			p.node(x.then, bindSum)
			p.write(" else ")
			p.node(x.other, bindSum)
		})
	case *callNode:
		p.write(x.fn.name, "(")
		p.list(x.args)
		p.write(")")
	case *runningNode:
		p.write("running sum ")
		p.name(x.column)
	case *spanNode:
		p.wrap(bindSpan, outer, func() {
			if x.work {
				p.write("work")
			}
			p.write("days between ")
			p.node(x.a, bindSum)
			p.write(" and ")
			p.node(x.b, bindSum)
		})
	case *tableNode:
		p.look(x, outer)
	}
}

func notWord(not bool) string {
	if not {
		return " not"
	}
	return ""
}

func (p *printer) list(list []Node) {
	for i, o := range list {
		if i > 0 {
			p.write(", ")
		}
		p.node(o, 0)
	}
}

func (p *printer) look(x *tableNode, outer int) {
	own := bindPrimary
	if x.where != nil { // it reads on as far as it can
		own = 0
	}
	p.wrap(own, outer, func() {
		p.write(x.op, " ")
		if x.distinct {
			p.write("distinct ")
		}
		if x.column != nil {
			p.name(x.column)
			p.write(" ")
		}
		p.write("in ")
		switch {
		case p.names == ByID && x.table.ID != 0:
			p.write("[#", strconv.FormatInt(x.table.ID, 10), "]")
		case x.table.Name != "":
			p.bare(x.table.Name)
		default:
			p.bare(x.tabText)
		}
		if x.where != nil {
			p.write(" where ")
			p.node(x.where, bindJoin)
		}
	})
}

func (p *printer) name(n *nameNode) {
	if n.this {
		p.write("this.")
	}
	switch {
	case n.level == levelExtra:
		p.write(n.column.Name)
	case n.column.ID == 0:
		p.bare(n.text)
	case p.names == ByID:
		p.write("[#", strconv.FormatInt(n.column.ID, 10), "]")
	default:
		p.bare(n.column.Name)
	}
}

// bare writes a name without brackets where it can be read back so.
func (p *printer) bare(name string) {
	plain := name != "" && !reserved[strings.ToLower(name)] && !lookups[strings.ToLower(name)] && units[strings.ToLower(name)] == "" && !strings.EqualFold(name, "count")
	for i, r := range name {
		if i == 0 && !isWordStart(r) || !isWordPart(r) || r == '#' {
			plain = false
		}
	}
	if plain {
		p.write(name)
		return
	}
	p.write("[", name, "]")
}

func (p *printer) literal(v value.Value) {
	switch v.Kind() {
	case value.Text:
		p.write(`"`, escape(v.Raw()), `"`)
	case value.Blank:
		p.write("blank")
	default:
		p.write(v.String())
	}
}

func (p *printer) holes(t *templateNode) {
	for i, h := range t.holes {
		p.write(escape(t.texts[i]), "{")
		p.node(h, 0)
		p.write("}")
	}
	p.write(escape(t.texts[len(t.texts)-1]))
}

var escaper = strings.NewReplacer(`\`, `\\`, `"`, `\"`, "{", `\{`, "}", `\}`, "\n", `\n`)

func escape(s string) string { return escaper.Replace(s) }

// TemplateOf writes a plain text as a template, in which no hole is.
func TemplateOf(text string) string {
	return strings.NewReplacer(`\`, `\\`, "{", `\{`, "}", `\}`).Replace(text)
}

// String gives a duration as people write it: 1 day, 2 days.
func (d *durationNode) String() string {
	unit := d.unit
	if d.n == 1 {
		unit = strings.TrimSuffix(unit, "s")
	}
	return strconv.FormatInt(d.n, 10) + " " + unit
}
