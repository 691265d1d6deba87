package clause

import (
	"strings"

	"example.org/kavlo/internal/value"
)

// Arithmetic is what a clause says that only reckons with numbers and dates of the row at
// hand, as workbooks write it (ISO/IEC 29500-1, 18.17): Columns[i] stands between Parts[i]
// and Parts[i+1].
type Arithmetic struct {
	Parts   []string
	Columns []int64
	divides bool
}

// Divides reports whether it may divide by zero.
func (a *Arithmetic) Divides() bool { return a.divides }

// Arithmetic gives a checked clause as arithmetic, or nil where it is more than that.
func (e *Expr) Arithmetic() *Arithmetic {
	if e.template {
		return nil
	}
	w := arithmeticWriter{out: &Arithmetic{}}
	if !w.write(e.root) || len(w.out.Columns) == 0 {
		return nil
	}
	w.out.Parts = append(w.out.Parts, w.text.String())
	return w.out
}

type arithmeticWriter struct {
	out  *Arithmetic
	text strings.Builder
}

// write adds a node, and reports whether it is one of arithmetic.
func (w *arithmeticWriter) write(n Node) bool {
	switch n := n.(type) {
	case *literalNode:
		w.text.WriteString(n.v.String())
		return n.v.Kind() == value.Number
	case *nameNode:
		return kindOf(n) == value.Number && w.column(n)
	case *negateNode:
		w.text.WriteString("(-")
		ok := w.write(n.x)
		w.text.WriteString(")")
		return ok
	case *arithmeticNode:
		if kindOf(n.l) == value.Date && (kindOf(n.r) == value.Date || days(n.r) != "") { // a day less a day, or some days on
			return w.pair(n, w.day, w.day)
		}
		w.out.divides = w.out.divides || n.op == '/'
		return w.pair(n, w.write, w.write)
	}
	return false
}

func (w *arithmeticWriter) pair(n *arithmeticNode, left, right func(Node) bool) bool {
	w.text.WriteString("(")
	if !left(n.l) {
		return false
	}
	w.text.WriteByte(n.op)
	if !right(n.r) {
		return false
	}
	w.text.WriteString(")")
	return true
}

// day adds a column of dates, or a number of days.
func (w *arithmeticWriter) day(n Node) bool {
	if text := days(n); text != "" {
		w.text.WriteString(text)
		return true
	}
	name, ok := n.(*nameNode)
	return ok && w.column(name)
}

func (w *arithmeticWriter) column(n *nameNode) bool {
	w.out.Parts = append(w.out.Parts, w.text.String())
	w.out.Columns = append(w.out.Columns, n.column.ID)
	w.text.Reset()
	return n.level == levelRow
}

// days gives a span of whole days as a number, or "".
func days(n Node) string {
	if d, ok := n.(*durationNode); ok {
		switch d.unit {
		case "days":
			return value.OfInt(d.n).String()
		case "weeks":
			return value.OfInt(d.n * 7).String()
		}
	}
	return ""
}

// kindOf gives the kind of a column that a node names; 0 of what is no column.
func kindOf(n Node) value.Kind {
	if name, ok := n.(*nameNode); ok {
		return name.column.Type.Kind
	}
	return 0
}
