package clause

import "example.org/kavlo/internal/value"

// Node is a part of a clause. Nodes are made by the parser; the checker fills
// in what names mean and each node's type.
type Node interface {
	span() (start, end int)
}

type pos struct{ start, end int }

func (p pos) span() (int, int) { return p.start, p.end }

type (
	// nameNode is a column: of the row at hand, or in "in TAB where" of that
	// tab's row unless written after "this.".
	nameNode struct {
		pos
		text   string
		this   bool
		column Column
		level  scopeLevel
	}
	// tabNode is the name of the row's tab.
	tabNode struct{ pos }
	// clockNode is today or now.
	clockNode struct {
		pos
		now bool
	}
	literalNode struct {
		pos
		v value.Value
	}
	durationNode struct {
		pos
		n    int64
		unit string // days, weeks, months, years, hours, minutes, workdays
	}
	// templateNode is text with holes; texts and holes alternate, a text first.
	templateNode struct {
		pos
		texts []string
		holes []Node
		types []value.Type // of the holes, where they are plain columns
	}
	// arithmeticNode is + - * /.
	arithmeticNode struct {
		pos
		op   byte
		l, r Node
		typ  Type
	}
	negateNode struct {
		pos
		x Node
	}
	// compareNode is every comparison of two things.
	compareNode struct {
		pos
		op   string // see comparisons
		l, r Node
		re   matcher
	}
	betweenNode struct {
		pos
		x, low, high Node
	}
	oneOfNode struct {
		pos
		x    Node
		list []Node
		not  bool
	}
	// testNode is "is blank" or "is odd".
	testNode struct {
		pos
		what string
		x    Node
		not  bool
	}
	changedNode struct {
		pos
		name *nameNode
	}
	wasNode struct {
		pos
		name *nameNode
		v    Node // nil: was blank
		not  bool
	}
	notNode struct {
		pos
		x Node
	}
	// joinNode is a chain of "and" or of "or".
	joinNode struct {
		pos
		or   bool
		list []Node
	}
	ifNode struct {
		pos
		cond, then, other Node
		typ               Type
	}
	callNode struct {
		pos
		fn   *function
		args []Node
	}
	// spanNode is "days between A and B" or "workdays between A and B".
	spanNode struct {
		pos
		work bool
		a, b Node
	}
	// runningNode is "running sum Name": the sum of a column over the rows of the
	// tab down to the row at hand.
	runningNode struct {
		pos
		column *nameNode
	}
	// tableNode looks into another tab: count, sum, first and their like.
	tableNode struct {
		pos
		op       string
		distinct bool
		column   *nameNode // nil for a plain count
		tabText  string
		tabAt    pos // where the tab is named
		table    Table
		where    Node // may be nil
	}
)

type matcher interface{ MatchString(string) bool }

// scopeLevel says whose row a name is looked up in.
type scopeLevel uint8

const (
	levelRow   scopeLevel = iota // the row at hand
	levelTable                   // the row of the tab looked into
	levelExtra                   // Env.Extra
)

// comparisons lists the comparing operators as they are written, in the order
// in which the parser tries them, with what they need.
var comparisons = []struct {
	words []string
	op    string
	needs string // what both sides must be: same, time, text
}{
	{[]string{"is", "not", "exactly"}, "is not exactly", "same"},
	{[]string{"is", "exactly"}, "is exactly", "same"},
	{[]string{"is", "not"}, "is not", "same"},
	{[]string{"is"}, "is", "same"},
	{[]string{"on", "or", "before"}, "on or before", "time"},
	{[]string{"on", "or", "after"}, "on or after", "time"},
	{[]string{"before"}, "before", "time"},
	{[]string{"after"}, "after", "time"},
	{[]string{"contains"}, "contains", "text"},
	{[]string{"starts", "with"}, "starts with", "text"},
	{[]string{"ends", "with"}, "ends with", "text"},
	{[]string{"matches"}, "matches", "text"},
}

// Expr is a parsed and, once Check has passed, a checked clause.
type Expr struct {
	text     string
	root     Node
	typ      Type
	template bool // text with holes, not a clause
	compile  *compiled
	columns  []int64 // of the row at hand, those of computed columns among them; once checked
	deep     int     // how many computed columns stand behind one another in it
}

// Type gives the type that the checker found.
func (e *Expr) Type() Type { return e.typ }

// Columns gives the ids of the columns of the row at hand that the checked clause
// names, and of those from which computed ones among them are worked out.
func (e *Expr) Columns() []int64 { return e.columns }

// settle works out, once names are known, what is asked of the clause often.
func (e *Expr) settle() {
	e.compile = &compiled{}
	seen := map[int64]bool{}
	add := func(id int64) {
		if id != 0 && !seen[id] {
			seen[id] = true
			e.columns = append(e.columns, id)
		}
	}
	walk(e.root, func(n Node) {
		name, ok := n.(*nameNode)
		if !ok {
			return
		}
		if sub := name.column.Computed; sub != nil {
			e.deep = max(e.deep, sub.deep+1)
		}
		if name.level != levelRow {
			return
		}
		add(name.column.ID)
		if sub := name.column.Computed; sub != nil {
			for _, id := range sub.columns {
				add(id)
			}
		}
	})
}

// Deep gives how many computed columns stand behind one another in the checked
// clause: 0 where it names none.
func (e *Expr) Deep() int { return e.deep }

// Uses gives the ids of every column, of whatever tab, and of every tab that the clause names.
func (e *Expr) Uses() (columns, tables []int64) {
	walk(e.root, func(n Node) {
		switch x := n.(type) {
		case *nameNode:
			if x.level != levelExtra {
				columns = append(columns, x.column.ID)
			}
		case *tableNode:
			tables = append(tables, x.table.ID)
		}
	})
	return columns, tables
}

// Looks gives the tabs into which the clause looks, by itself or through computed columns
// that it names.
func (e *Expr) Looks() (tables []int64) {
	walk(e.root, func(n Node) {
		switch x := n.(type) {
		case *nameNode:
			if sub := x.column.Computed; sub != nil {
				tables = append(tables, sub.Looks()...)
			}
		case *tableNode:
			tables = append(tables, x.table.ID)
		}
	})
	return tables
}

// UsesEdit reports whether the clause asks what an edit changed.
func (e *Expr) UsesEdit() bool {
	found := false
	walk(e.root, func(n Node) {
		switch n.(type) {
		case *changedNode, *wasNode:
			found = true
		}
	})
	return found
}

func walk(n Node, visit func(Node)) {
	if n == nil {
		return
	}
	visit(n)
	each := func(list ...Node) {
		for _, c := range list {
			if c != nil {
				walk(c, visit)
			}
		}
	}
	switch x := n.(type) {
	case *templateNode:
		each(x.holes...)
	case *arithmeticNode:
		each(x.l, x.r)
	case *negateNode:
		each(x.x)
	case *compareNode:
		each(x.l, x.r)
	case *betweenNode:
		each(x.x, x.low, x.high)
	case *oneOfNode:
		each(x.x)
		each(x.list...)
	case *testNode:
		each(x.x)
	case *changedNode:
		each(x.name)
	case *wasNode:
		each(x.name, x.v)
	case *notNode:
		each(x.x)
	case *joinNode:
		each(x.list...)
	case *ifNode:
		each(x.cond, x.then, x.other)
	case *callNode:
		each(x.args...)
	case *runningNode:
		each(x.column)
	case *spanNode:
		each(x.a, x.b)
	case *tableNode:
		if x.column != nil {
			each(x.column)
		}
		each(x.where)
	}
}

// Constant gives the text of a template that has no holes.
func (e *Expr) Constant() (string, bool) {
	t, ok := e.root.(*templateNode)
	if !ok || len(t.holes) > 0 {
		return "", false
	}
	return t.texts[0], true
}

// OneColumn gives the column's id where the clause is nothing but the name of
// a column of the row at hand.
func (e *Expr) OneColumn() (int64, bool) {
	n, ok := e.root.(*nameNode)
	if !ok || n.level != levelRow {
		return 0, false
	}
	return n.column.ID, true
}
