package clause

import (
	"fmt"
	"math/big"
	"strings"
	"time"

	"example.org/kavlo/internal/value"
)

// A second evaluator, the plainest that can be: it walks the tree, knows nothing of
// columns of numbers, indexes or shortcuts, and reckons with fractions. It is written from
// the reference page. On random clauses, rows and tabs it must agree with the compiled one.

// thing is what the plain evaluator holds: nothing, one of Go's own kinds, or odd.
type thing struct {
	kind string // "", odd, text, number, day, moment, tick
	text string
	num  *big.Rat
	secs int64 // of a day or moment
	yes  bool
}

var odd = thing{kind: "odd"}

func thingOf(v value.Value) thing {
	switch {
	case v.IsOdd():
		return odd
	case v.IsBlank():
		return thing{}
	}
	switch v.Kind() {
	case value.Number:
		r, _ := new(big.Rat).SetString(v.String())
		return thing{kind: "number", num: r}
	case value.Date:
		return thing{kind: "day", secs: v.Days() * 86400}
	case value.DateTime:
		return thing{kind: "moment", secs: v.Seconds()}
	case value.Checkbox:
		return thing{kind: "tick", yes: v.IsTrue()}
	}
	return thing{kind: "text", text: v.Raw()}
}

func (a thing) String() string {
	switch a.kind {
	case "number":
		return a.num.RatString()
	case "day":
		return time.Unix(a.secs, 0).UTC().Format("2006-01-02")
	case "moment":
		return time.Unix(a.secs, 0).UTC().Format("2006-01-02T15:04")
	case "tick":
		return fmt.Sprint(a.yes)
	}
	return a.kind + ":" + a.text
}

// plainRow is a row of a plain tab.
type plainRow struct {
	cells map[string]thing
	tab   string
}

// world is all that a clause can look at.
type world struct {
	row, table *plainRow
	others     []plainRow
	today, now int64
}

func folded(s string) string { return strings.ToLower(strings.TrimSpace(s)) }

// order orders two things of one sort; a day beside a moment stands for its whole day.
func order(a, b thing) int {
	switch a.kind {
	case "number":
		return a.num.Cmp(b.num)
	case "tick":
		return map[bool]int{false: 0, true: 1}[a.yes] - map[bool]int{false: 0, true: 1}[b.yes]
	case "text":
		return strings.Compare(folded(a.text), folded(b.text))
	}
	x, y := a.secs, b.secs
	if a.kind != b.kind {
		x, y = midnight(x), midnight(y)
	}
	switch {
	case x < y:
		return -1
	case x > y:
		return 1
	}
	return 0
}

func midnight(s int64) int64 { return s - ((s%86400)+86400)%86400 }

func (w *world) compare(op string, a, b thing) thing {
	if a.kind == "odd" || b.kind == "odd" {
		return odd
	}
	if op == "is" || op == "is not" {
		same := a.kind == "" && b.kind == "" || a.kind != "" && b.kind != "" && order(a, b) == 0
		return thing{kind: "tick", yes: same == (op == "is")}
	}
	if a.kind == "" || b.kind == "" {
		return thing{kind: "tick"}
	}
	o := order(a, b)
	return thing{kind: "tick", yes: map[string]bool{"<": o < 0, "before": o < 0, "<=": o <= 0, "on or before": o <= 0, ">": o > 0, "after": o > 0, ">=": o >= 0, "on or after": o >= 0,
		"contains": strings.Contains(folded(a.text), folded(b.text)), "starts with": strings.HasPrefix(folded(a.text), folded(b.text))}[op]}
}

// shifted adds a duration to a day or moment.
func shifted(a thing, n int64, unit string) thing {
	t := time.Unix(a.secs, 0).UTC()
	switch unit {
	case "hours":
		t = t.Add(time.Duration(n) * time.Hour)
	case "days":
		t = t.AddDate(0, 0, int(n))
	case "weeks":
		t = t.AddDate(0, 0, 7*int(n))
	case "months": // the month's last day where it has no such day
		first := time.Date(t.Year(), t.Month()+time.Month(n), 1, t.Hour(), t.Minute(), 0, 0, time.UTC)
		last := first.AddDate(0, 1, -1).Day()
		t = first.AddDate(0, 0, min(t.Day(), last)-1)
	}
	return thing{kind: a.kind, secs: t.Unix()}
}

func (w *world) eval(n Node) thing {
	switch x := n.(type) {
	case *literalNode:
		return thingOf(x.v)
	case *clockNode:
		if x.now {
			return thing{kind: "moment", secs: w.now}
		}
		return thing{kind: "day", secs: w.today}
	case *nameNode:
		row := w.row
		if x.level == levelTable {
			row = w.table
		}
		return row.cells[x.column.Name]
	case *arithmeticNode:
		return w.reckon(x)
	case *compareNode:
		if x.op == "within" {
			a, d := w.eval(x.l), x.r.(*durationNode)
			from := thing{kind: "day", secs: w.today}
			if d.unit == "hours" {
				from = thing{kind: "moment", secs: w.now}
			}
			return w.both(w.compare(">=", a, from), w.compare("<=", a, shifted(from, d.n, d.unit)))
		}
		return w.compare(x.op, w.eval(x.l), w.eval(x.r))
	case *betweenNode:
		return w.both(w.compare(">=", w.eval(x.x), w.eval(x.low)), w.compare("<=", w.eval(x.x), w.eval(x.high)))
	case *testNode:
		a := w.eval(x.x)
		is := a.kind == "odd"
		if x.what == "blank" {
			is = a.kind == ""
		}
		return thing{kind: "tick", yes: is != x.not}
	case *notNode:
		a := w.eval(x.x)
		if a.kind == "odd" {
			return odd
		}
		return thing{kind: "tick", yes: !a.yes}
	case *joinNode:
		out := thing{kind: "tick", yes: !x.or}
		for _, part := range x.list {
			switch a := w.eval(part); {
			case a.kind == "odd":
				out = odd
			case a.yes == x.or:
				return thing{kind: "tick", yes: x.or}
			}
		}
		return out
	case *ifNode:
		switch c := w.eval(x.cond); {
		case c.kind == "odd":
			return odd
		case c.yes:
			return w.eval(x.then)
		}
		return w.eval(x.other)
	case *spanNode:
		a, b := w.eval(x.a), w.eval(x.b)
		switch {
		case a.kind == "odd" || b.kind == "odd":
			return odd
		case a.kind == "" || b.kind == "":
			return thing{}
		}
		return thing{kind: "number", num: big.NewRat((midnight(b.secs)-midnight(a.secs))/86400, 1)}
	case *tableNode:
		return w.look(x)
	}
	panic(fmt.Sprintf("%T", n))
}

func (w *world) both(a, b thing) thing {
	switch {
	case a.kind != "odd" && !a.yes, b.kind != "odd" && !b.yes:
		return thing{kind: "tick"}
	case a.kind == "odd" || b.kind == "odd":
		return odd
	}
	return thing{kind: "tick", yes: true}
}

func (w *world) reckon(x *arithmeticNode) thing {
	a := w.eval(x.l)
	if d, is := x.r.(*durationNode); is {
		if a.kind == "odd" || a.kind == "" {
			return a
		}
		return shifted(a, map[byte]int64{'+': d.n, '-': -d.n}[x.op], d.unit)
	}
	b := w.eval(x.r)
	switch {
	case a.kind == "odd" || b.kind == "odd":
		return odd
	case a.kind == "" || b.kind == "":
		return thing{}
	case a.kind != "number":
		return thing{kind: "number", num: big.NewRat((midnight(a.secs)-midnight(b.secs))/86400, 1)}
	}
	out := new(big.Rat)
	switch x.op {
	case '+':
		out.Add(a.num, b.num)
	case '-':
		out.Sub(a.num, b.num)
	case '*':
		out.Mul(a.num, b.num)
	case '/':
		if b.num.Sign() == 0 {
			return odd
		}
		out.Quo(a.num, b.num)
	}
	return thing{kind: "number", num: rounded18(out)}
}

// rounded18 rounds half to even to 18 significant digits.
func rounded18(r *big.Rat) *big.Rat {
	if r.Sign() == 0 {
		return r
	}
	ten, unit, abs := big.NewRat(10, 1), big.NewRat(1, 1), new(big.Rat).Abs(r)
	low, high := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(17), nil)), new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(18), nil))
	for abs.Cmp(low) < 0 {
		abs.Mul(abs, ten)
		unit.Quo(unit, ten)
	}
	for abs.Cmp(high) >= 0 {
		abs.Quo(abs, ten)
		unit.Mul(unit, ten)
	}
	whole, rest := new(big.Int).QuoRem(abs.Num(), abs.Denom(), new(big.Int))
	if c := new(big.Int).Lsh(rest, 1).Cmp(abs.Denom()); c > 0 || c == 0 && whole.Bit(0) == 1 {
		whole.Add(whole, big.NewInt(1))
	}
	out := unit.Mul(unit, new(big.Rat).SetInt(whole))
	if r.Sign() < 0 {
		out.Neg(out)
	}
	return out
}

func (w *world) look(x *tableNode) thing {
	var found []thing
	ends := x.op == "first" || x.op == "last"
	hangs, count := false, int64(0)
	for i := range w.others {
		inner := *w
		inner.table = &w.others[i]
		if x.where != nil {
			c := inner.eval(x.where)
			if c.kind == "odd" {
				if x.op == "first" && len(found) > 0 {
					continue
				}
				hangs = true
				continue
			}
			if !c.yes {
				continue
			}
		}
		if x.column == nil {
			count++
			continue
		}
		switch a := inner.eval(x.column); {
		case a.kind == "", a.kind == "odd" && ends:
		case a.kind == "odd":
			hangs = true
		default:
			found = append(found, a)
			if x.op == "last" {
				hangs = false
			}
		}
	}
	switch {
	case hangs:
		return odd
	case x.op == "count" && x.distinct:
		different := map[string]bool{}
		for _, a := range found {
			a.text = folded(a.text)
			different[a.String()] = true
		}
		return thing{kind: "number", num: big.NewRat(int64(len(different)), 1)}
	case x.op == "count":
		return thing{kind: "number", num: big.NewRat(count, 1)}
	case x.op == "sum" || x.op == "average":
		sum := new(big.Rat)
		for _, a := range found {
			sum.Add(sum, a.num)
		}
		if x.op == "average" && len(found) == 0 {
			return thing{}
		}
		if x.op == "average" {
			sum.Quo(sum, big.NewRat(int64(len(found)), 1))
		}
		return thing{kind: "number", num: rounded18(sum)}
	case len(found) == 0:
		return thing{}
	}
	best := found[0]
	for _, a := range found[1:] {
		if o := order(a, best); x.op == "last" || x.op == "smallest" && o < 0 || x.op == "largest" && o > 0 {
			best = a
		}
	}
	return best
}
