package clause

import (
	"fmt"
	"iter"
	"math/big"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

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

var plainColumns = []Column{
	{ID: 1, Name: "N", Type: value.Type{Kind: value.Number}, Slot: 0}, {ID: 2, Name: "M", Type: value.Type{Kind: value.Number}, Slot: 1},
	{ID: 3, Name: "D", Type: value.Type{Kind: value.Date}, Slot: 2}, {ID: 4, Name: "T", Type: value.Type{Kind: value.DateTime}, Slot: 3},
	{ID: 5, Name: "S", Type: value.Type{Kind: value.Text}, Slot: 4}, {ID: 6, Name: "B", Type: value.Type{Kind: value.Checkbox}, Slot: 5},
}

var plainScope = &Scope{Name: "Here", Columns: plainColumns, Tables: []Table{{ID: 90, Name: "There", Columns: plainColumns}}}

// clauses draws the text of a clause of a kind: number, time, text or truth. this is
// written before names of the row at hand, within a look.
func clauses(t *rapid.T, kind string, depth int, within bool) string {
	name := func(names ...string) string {
		n := rapid.SampledFrom(names).Draw(t, "name")
		if within && rapid.Bool().Draw(t, "this") {
			return "this." + n
		}
		return n
	}
	pick := func(of ...string) string { return rapid.SampledFrom(of).Draw(t, "pick") }
	sub := func(kind string) string { return clauses(t, kind, depth-1, within) }
	deep := depth > 0
	switch kind {
	case "number":
		if !deep || rapid.IntRange(0, 2).Draw(t, "leaf") == 0 {
			return pick(name("N", "M"), name("N", "M"), "0", "3", "0.05", "120", "-2.5", "1000000000000")
		}
		switch rapid.IntRange(0, 4).Draw(t, "number") {
		case 0:
			return "(days between " + sub("time") + " and " + sub("time") + ")"
		case 1:
			return "(if " + sub("truth") + " then " + sub("number") + " else " + sub("number") + ")"
		case 2:
			if !within {
				where := ""
				if rapid.Bool().Draw(t, "where") {
					where = " where " + clauses(t, "truth", depth-1, true)
				}
				what := pick("count", "count distinct N", "count distinct S", "sum N", "average M", "smallest N", "largest M", "first N", "last M")
				return "(" + what + " in There" + where + ")"
			}
		}
		return "(" + sub("number") + " " + pick("+", "-", "*", "/") + " " + sub("number") + ")"
	case "time":
		if !deep || rapid.Bool().Draw(t, "leaf") {
			return pick(name("D", "T"), name("D", "T"), "today", "now", "2026-03-31", "2026-02-28T23:30")
		}
		return "(" + sub("time") + pick(" + ", " - ") + pick("1 day", "40 days", "2 weeks", "1 month", "13 months") + ")"
	case "text":
		return pick(name("S"), `"Bell"`, `"lamp"`, `" BELL "`)
	}
	if !deep {
		return pick(name("B"), name("N", "D", "S", "T")+" is blank", name("N", "D", "T", "S")+" is odd", "yes")
	}
	switch rapid.IntRange(0, 7).Draw(t, "truth") {
	case 0:
		return "(" + sub("truth") + " and " + sub("truth") + " and " + sub("truth") + ")"
	case 1:
		return "(" + sub("truth") + " or " + sub("truth") + ")"
	case 2:
		return "not (" + sub("truth") + ")"
	case 3:
		return sub("number") + pick(" is ", " is not ", " < ", " <= ", " > ", " >= ") + sub("number")
	case 4:
		return sub("time") + pick(" is ", " is not ", " before ", " after ", " on or before ", " on or after ") + sub("time")
	case 5:
		return sub("text") + pick(" is ", " is not ", " contains ", " starts with ") + sub("text")
	case 6:
		return sub("time") + " between " + sub("time") + " and " + sub("time")
	}
	return sub("time") + " within " + pick("3 hours", "1 day", "30 days", "2 months")
}

func drawCell(t *rapid.T, c Column) value.Value {
	switch rapid.IntRange(0, 9).Draw(t, "cell") {
	case 0:
		return value.Value{}
	case 1:
		return value.OfOdd("TBC")
	}
	switch c.Type.Kind {
	case value.Number:
		return value.MustNumber(rapid.SampledFrom([]string{"0", "1", "2", "3", "-2.5", "0.1", "0.05", "7", "120", "99999999999.99"}).Draw(t, "number"))
	case value.Date:
		return value.OfDays(20_537 + rapid.Int64Range(-40, 40).Draw(t, "day"))
	case value.DateTime:
		return value.OfSeconds((20_537*86400 + 9*3600) + 1800*rapid.Int64Range(-200, 200).Draw(t, "moment"))
	case value.Checkbox:
		return value.OfBool(rapid.Bool().Draw(t, "tick"))
	}
	return value.OfText(rapid.SampledFrom([]string{"Bell", "bell", " Bell", "Lamp", "Bell tower", "oar"}).Draw(t, "text"))
}

func drawRow(t *rapid.T, tab string) ([]value.Value, plainRow) {
	cells, plain := make([]value.Value, len(plainColumns)), plainRow{cells: map[string]thing{}, tab: tab}
	for i, c := range plainColumns {
		cells[i] = drawCell(t, c)
		plain.cells[c.Name] = thingOf(cells[i])
	}
	return cells, plain
}

func TestThePlainEvaluatorAgrees(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom([]string{"truth", "truth", "number", "time"}).Draw(t, "kind")
		text := clauses(t, kind, 3, false)
		expr, err := CheckValue(text, plainScope)
		require.NoError(t, err, text)
		again, err := CheckValue(expr.Print(ByID), plainScope)
		require.NoError(t, err, "%s, printed as %s", text, expr.Print(ByID))

		w := &world{today: 20_537 * 86400, now: 20_537*86400 + 9*3600}
		var rows [][]value.Value
		for range rapid.IntRange(0, 6).Draw(t, "rows") {
			cells, plain := drawRow(t, "There")
			rows, w.others = append(rows, cells), append(w.others, plain)
		}
		env := &Env{Tab: "Here", Today: value.OfDays(20_537), Now: value.OfSeconds(w.now),
			Rows: func(int64) iter.Seq2[string, []value.Value] {
				return func(yield func(string, []value.Value) bool) {
					for _, r := range rows {
						if !yield("There", r) {
							return
						}
					}
				}
			},
			Stamp: func(int64) any { return 1 }, // the same rows all along: lookups may sort them by key
		}
		compute, reprinted := expr.Value(), again.Value()
		for range 6 {
			cells, plain := drawRow(t, "Here")
			w.row = &plain
			env.Next(cells)
			want := w.eval(expr.root)
			got := compute(env)
			env.Next(cells)
			require.Equal(t, got, reprinted(env), "%s, printed as %s", text, expr.Print(ByID))
			if tooLarge(want) {
				require.True(t, got.IsOdd(), text)
				continue
			}
			if got.IsOdd() && strings.Contains(env.Fault, "too large") {
				continue // something on the way was
			}
			require.Equal(t, want.String(), thingOf(got).String(), "%s of %v", text, cells)
		}
	})
}

func tooLarge(a thing) bool {
	return a.kind == "number" && new(big.Rat).Abs(a.num).Cmp(new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(18), nil))) >= 0
}
