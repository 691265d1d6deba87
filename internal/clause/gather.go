package clause

import (
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

// Gather works out one count, sum or choice over values: count, sum, average,
// first, last, smallest, largest, median or each.
type Gather struct {
	Op       string
	Distinct bool // count: equal values once
	Gathered
}

// Gathered is what values have come to so far. Many are kept with rows, most of them counts
// and sums, so what others need stands apart.
type Gathered struct {
	count int64
	sum   value.Sum
	more  *gatheredMore // not altered once others have it
}

type gatheredMore struct {
	best   value.Value
	seen   map[string]bool
	texts  []string      // of each
	values []value.Value // of median
}

// gather gives what works out a look.
func (x *tableNode) gather() Gather { return Gather{Op: x.op, Distinct: x.distinct} }

func (g *Gather) rest() *gatheredMore {
	if g.more == nil {
		g.more = &gatheredMore{}
	}
	return g.more
}

// see reports whether a key is met for the first time.
func (m *gatheredMore) see(key string) bool {
	if m.seen[key] {
		return false
	}
	if m.seen == nil {
		m.seen = map[string]bool{}
	}
	m.seen[key] = true
	return true
}

// Take takes one value in and reports whether more are wanted.
func (g *Gather) Take(v value.Value) bool {
	g.count++
	switch g.Op {
	case "count":
		if g.Distinct {
			g.rest().see(value.Fold(v.String()))
		}
	case "first":
		g.rest().best = v
		return false
	case "last":
		g.rest().best = v
	case "each":
		if m := g.rest(); m.see(value.Fold(v.String())) {
			m.texts = append(m.texts, v.String())
		}
	case "smallest":
		if m := g.rest(); g.count == 1 || value.Compare(v, m.best) < 0 {
			m.best = v
		}
	case "largest":
		if m := g.rest(); g.count == 1 || value.Compare(v, m.best) > 0 {
			m.best = v
		}
	case "sum", "average":
		g.sum.Add(v)
	case "median":
		g.rest().values = append(g.rest().values, v)
	}
	return true
}

// Merge takes in what the same has gathered of values that stand after these.
func (g *Gather) Merge(o *Gathered) {
	if o.count == 0 {
		return
	}
	switch theirs := o.more; g.Op {
	case "count":
		if g.Distinct && theirs != nil {
			for v := range theirs.seen {
				g.rest().see(v)
			}
		}
	case "first":
		if g.count == 0 {
			g.rest().best = theirs.best
		}
	case "last":
		g.rest().best = theirs.best
	case "smallest":
		if m := g.rest(); g.count == 0 || value.Compare(theirs.best, m.best) < 0 {
			m.best = theirs.best
		}
	case "largest":
		if m := g.rest(); g.count == 0 || value.Compare(theirs.best, m.best) > 0 {
			m.best = theirs.best
		}
	case "each":
		m := g.rest()
		for _, text := range theirs.texts {
			if m.see(value.Fold(text)) {
				m.texts = append(m.texts, text)
			}
		}
	case "sum", "average":
		g.sum.AddSum(&o.sum)
	case "median":
		g.rest().values = append(g.rest().values, theirs.values...)
	}
	g.count += o.count
}

// Result gives what the values came to; of none, counts and sums are zero.
func (g *Gather) Result() (value.Value, error) {
	switch {
	case g.Op == "count" && !g.Distinct:
		return value.OfInt(g.count), nil
	case g.Op == "sum":
		return g.sum.Value()
	case g.Op == "average" && g.count > 0:
		return g.sum.Mean(g.count)
	}
	m := g.more
	if m == nil {
		m = &gatheredMore{}
	}
	switch {
	case g.Op == "count":
		return value.OfInt(int64(len(m.seen))), nil
	case g.Op == "each":
		return value.OfText(strings.Join(m.texts, "; ")), nil
	case g.Op == "median" && g.count > 0:
		return median(m.values)
	}
	return m.best, nil
}

// median gives the middle of some numbers, or the mean of the two in the middle.
func median(values []value.Value) (value.Value, error) {
	sorted := slices.SortedFunc(slices.Values(values), value.Compare)
	n := len(sorted)
	if n%2 == 1 {
		return sorted[n/2], nil
	}
	var sum value.Sum
	sum.Add(sorted[n/2-1])
	sum.Add(sorted[n/2])
	return sum.Mean(2)
}
