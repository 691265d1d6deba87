package tally

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// group is what rows of one group come to.
type group struct {
	keys    []value.Value
	figures []clause.Gather
}

// groups are what some rows come to.
type groups struct {
	by     map[string]*group
	passed []query.Passed // rows that could not be judged, the first of them
	odd    int            // how many those are
}

// packed are groups as they are kept with rows: close together, for there are many of them,
// and not altered.
type packed struct {
	names   []string          // of the groups
	keys    []value.Value     // of all of them, one group's after another's
	figures []clause.Gathered // likewise
	passed  []query.Passed
	odd     int
}

func (g *groups) pack(c *Compiled) *packed {
	p := &packed{
		names: make([]string, 0, len(g.by)), keys: make([]value.Value, 0, len(g.by)*len(c.By)),
		figures: make([]clause.Gathered, 0, len(g.by)*len(c.Figures)), passed: g.passed, odd: g.odd,
	}
	for name, one := range g.by {
		p.names, p.keys = append(p.names, name), append(p.keys, one.keys...)
		for i := range one.figures {
			p.figures = append(p.figures, one.figures[i].Gathered)
		}
	}
	return p
}

// named is how many rows that could not be judged are named; all are counted.
const named = 100

func newGroups() *groups { return &groups{by: map[string]*group{}} }

func (c *Compiled) newGroup(keys []value.Value) *group {
	g := &group{keys: keys, figures: make([]clause.Gather, len(c.Figures))}
	for i, f := range c.Figures {
		op, distinct := strings.CutSuffix(f.What, " distinct")
		if op == "share" {
			if op = "sum"; f.Of == "" {
				op = "count"
			}
		}
		g.figures[i] = clause.Gather{Op: op, Distinct: distinct}
	}
	return g
}

// work gives the groups of a tracker's rows.
func (c *Compiled) work(t *sheet.Tracker, now time.Time, m *clause.Meter) (*groups, error) {
	out := newGroups()
	for _, id := range c.Of {
		on := c.tabs[id]
		tab := t.TabByID(id)
		if tab == nil {
			continue
		}
		env := c.program.Env(t, tab, now, m)
		blocks, keeps := t.Blocks(id)
		if !c.kept || !keeps {
			for row := range t.Rows(id) {
				if !m.Use(1) {
					return nil, m.Err()
				}
				c.take(out, on, t, env, row)
			}
			continue
		}
		under := c.under(id, env)
		for i := range blocks {
			if !m.Use(1) {
				return nil, m.Err()
			}
			out.merge(c, c.ofBlock(&blocks[i], under, on, t, env))
		}
	}
	return out, m.Err()
}

// keptFor is what groups are kept under: a tally, a tab and, where it matters, a day.
type keptFor struct {
	c   *Compiled
	tab sheet.TabID
	day int64
}

func (c *Compiled) under(tab sheet.TabID, env *clause.Env) keptFor {
	k := keptFor{c: c, tab: tab}
	if c.today {
		k.day = env.Today.Days()
	}
	return k
}

func (c *Compiled) ofBlock(b *sheet.Block, under keptFor, on *onTab, t *sheet.Tracker, env *clause.Env) *packed {
	return b.Kept(under, func() any {
		all := newGroups()
		chunks := b.Chunks()
		for i := range chunks {
			chunk := &chunks[i]
			all.merge(c, chunk.Kept(under, func() any {
				out := newGroups()
				for _, row := range chunk.Rows {
					c.take(out, on, t, env, row)
				}
				return out.pack(c)
			}).(*packed))
		}
		return all.pack(c)
	}).(*packed)
}

// take takes a row into its group.
func (c *Compiled) take(out *groups, on *onTab, t *sheet.Tracker, env *clause.Env, row *sheet.Row) {
	program.Look(env, row)
	pass := func(why string) {
		if out.odd++; len(out.passed) < named {
			p := query.PassedOver(t, row, env)
			if why != "" {
				p.Column, p.Why = "", why
			}
			out.passed = append(out.passed, p)
		}
	}
	switch on.where.Judge(env) {
	case clause.No:
		return
	case clause.Odd:
		pass("")
		return
	case clause.Yes:
	}
	keys := make([]value.Value, len(on.by))
	var key strings.Builder
	for i, of := range on.by {
		v := of(env)
		switch {
		case v.IsOdd():
			pass("")
			return
		case c.By[i].Period != "" && !v.IsBlank():
			v = c.By[i].Period.start(v)
		}
		keys[i] = v
		key.WriteString(value.Fold(v.String()))
		key.WriteByte(0)
	}
	values := make([]value.Value, len(on.of))
	for i, of := range on.of {
		if of == nil {
			values[i] = value.OfInt(1)
			continue
		}
		env.OddColumn, env.Fault = 0, ""
		if values[i] = of(env); values[i].IsOdd() {
			pass("")
			return
		}
	}
	g := out.by[key.String()]
	if g == nil {
		g = c.newGroup(keys)
		out.by[key.String()] = g
	}
	for i, v := range values {
		if !v.IsBlank() {
			g.figures[i].Take(v)
		}
	}
}

// merge takes in what other rows come to, which stand after these.
func (g *groups) merge(c *Compiled, o *packed) {
	by, figures := len(c.By), len(c.Figures)
	for n, name := range o.names {
		mine := g.by[name]
		if mine == nil {
			mine = c.newGroup(o.keys[n*by : (n+1)*by : (n+1)*by])
			g.by[name] = mine
		}
		for i := range mine.figures {
			mine.figures[i].Merge(&o.figures[n*figures+i])
		}
	}
	g.odd += o.odd
	if room := named - len(g.passed); room > 0 {
		g.passed = append(g.passed, o.passed[:min(room, len(o.passed))]...)
	}
}

// start gives the first day of the period that a date or time lies in.
func (p Period) start(v value.Value) value.Value {
	day := v
	if v.Kind() == value.DateTime {
		day = value.DateOf(v.Time())
	}
	at := day.Time()
	switch p {
	case Week:
		at = at.AddDate(0, 0, -(int(at.Weekday())+6)%7)
	case Month:
		at = time.Date(at.Year(), at.Month(), 1, 0, 0, 0, 0, time.UTC)
	case Quarter:
		at = time.Date(at.Year(), (at.Month()-1)/3*3+1, 1, 0, 0, 0, 0, time.UTC)
	case Year:
		at = time.Date(at.Year(), 1, 1, 0, 0, 0, 0, time.UTC)
	}
	return value.DateOf(at)
}

// next gives the first day of the period after.
func (p Period) next(v value.Value) value.Value {
	at := v.Time()
	switch p {
	case Week:
		at = at.AddDate(0, 0, 7)
	case Month:
		at = at.AddDate(0, 1, 0)
	case Quarter:
		at = at.AddDate(0, 3, 0)
	case Year:
		at = at.AddDate(1, 0, 0)
	default:
		at = at.AddDate(0, 0, 1)
	}
	return value.DateOf(at)
}

// Label writes the period that begins on a day, as people read it.
func (p Period) Label(v value.Value) string {
	if v.IsBlank() {
		return ""
	}
	at := v.Time()
	switch p {
	case Week:
		year, week := at.ISOWeek()
		return fmt.Sprintf("%d W%02d", year, week)
	case Month:
		return at.Format("2006-01")
	case Quarter:
		return fmt.Sprintf("%d Q%d", at.Year(), (at.Month()+2)/3)
	case Year:
		return at.Format("2006")
	}
	return v.String()
}

// inOrder gives groups in the order of their keys.
func inOrder(all []*group) []*group {
	slices.SortStableFunc(all, func(a, b *group) int {
		for i := range a.keys {
			x, y := a.keys[i], b.keys[i]
			if x.IsBlank() != y.IsBlank() { // what is blank stands last
				if x.IsBlank() {
					return 1
				}
				return -1
			}
			if n := compareKeys(x, y); n != 0 {
				return n
			}
		}
		return 0
	})
	return all
}

func compareKeys(x, y value.Value) int {
	if x.Kind() == value.Text || x.Kind() == value.Choice || x.Kind() == value.Person {
		return value.CompareText(x.String(), y.String())
	}
	return value.Compare(x, y)
}
