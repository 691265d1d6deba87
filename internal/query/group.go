package query

import (
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/value"
)

// Figures are the kinds of figure, longest name first.
var Figures = []string{"count distinct", "count", "sum", "average", "smallest", "largest"}

// Grouping says how rows or records are grouped, and which figures each group has.
type Grouping struct {
	Where   *Filter
	By      clause.ValueFunc
	Figures []Figure
}

// Figure is a figure of each group.
type Figure struct {
	What string           // one of Figures
	Of   clause.ValueFunc // what is added or compared; nil for a plain count
}

// Groups are the groups found so far, in the order in which they were met.
type Groups struct {
	how   *Grouping
	known map[string]*Group
	All   []*Group
}

// Group is one group with its figures.
type Group struct {
	Key     value.Value
	figures []clause.Gather
}

// Start gives no groups yet.
func (g *Grouping) Start() *Groups { return &Groups{how: g, known: map[string]*Group{}} }

// New gives a group of that key in which there is nothing.
func (g *Grouping) New(key value.Value) *Group {
	out := &Group{Key: key, figures: make([]clause.Gather, len(g.Figures))}
	for i, f := range g.Figures {
		op, distinct := strings.CutSuffix(f.What, " distinct")
		out.figures[i] = clause.Gather{Op: op, Distinct: distinct}
	}
	return out
}

// Has reports whether there is a group of that key.
func (g *Groups) Has(key value.Value) bool { return g.known[value.Fold(key.String())] != nil }

// Take takes what is laid before env into its group. passed is told, with a reason where
// env has none, of all that could not be judged.
func (g *Groups) Take(env *clause.Env, passed func(why string)) {
	switch g.how.Where.Judge(env) {
	case clause.No:
		return
	case clause.Odd:
		passed("")
		return
	case clause.Yes:
	}
	key := g.how.By(env)
	switch {
	case key.IsOdd():
		passed("")
		return
	case key.IsBlank():
		passed("its group is blank")
		return
	}
	folded := value.Fold(key.String())
	group := g.known[folded]
	if group == nil {
		group = g.how.New(key)
		g.known[folded] = group
		g.All = append(g.All, group)
	}
	for i, f := range g.how.Figures {
		if f.Of == nil {
			group.figures[i].Take(key)
			continue
		}
		env.OddColumn, env.Fault = 0, ""
		switch v := f.Of(env); {
		case v.IsOdd():
			passed("")
		case !v.IsBlank():
			group.figures[i].Take(v)
		}
	}
}

// Figure gives a group's figure, in the order of the grouping.
func (g *Group) Figure(i int) (value.Value, error) { return g.figures[i].Result() }
