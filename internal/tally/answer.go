package tally

import (
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Answer is what a tally came to.
type Answer struct {
	Groups []Group
	Others *Group // what the groups that are not shown come to together; nil: all are shown
	Hidden int    // how many those are
	Total  Group  // all rows together
	Passed []query.Passed
	Odd    int // rows that could not be judged
}

// Group is one group with its figures, in the order of the tally's.
type Group struct {
	Keys   []value.Value
	Labels []string // of the keys, as people read them
	Values []value.Value
	Why    []string      // a figure could not be worked out; blank: it could
	Before []value.Value // the figures of the earlier day; nil: nothing is compared
	Rows   int64
}

// Then is a tracker as it was on an earlier day, and the tally compiled for it.
type Then struct {
	Tracker *sheet.Tracker
	Tally   *Compiled
}

// Work works the tally out; before is the earlier day that it is compared with, or nil.
func (c *Compiled) Work(t *sheet.Tracker, before *Then, now time.Time, m *clause.Meter) (*Answer, error) {
	found, err := c.work(t, now, m)
	if err != nil {
		return nil, err
	}
	var then *groups
	if before != nil {
		if then, err = before.Tally.work(before.Tracker, now, m); err != nil {
			return nil, err
		}
	}
	out := &Answer{Passed: found.passed, Odd: found.odd}
	total := c.allOf(found)
	if then != nil { // what has vanished since is zero
		for key, g := range then.by {
			if found.by[key] == nil {
				found.by[key] = c.newGroup(g.keys)
			}
		}
	}
	spell(found)
	c.fill(found)
	all := make([]*group, 0, len(found.by))
	for _, g := range found.by {
		all = append(all, g)
	}
	all = inOrder(all)
	shown, rest := c.cut(all)
	var thenTotal *group
	if then != nil {
		thenTotal = c.allOf(then)
	}
	for _, g := range shown {
		out.Groups = append(out.Groups, c.group(g, total, then, thenTotal))
	}
	if len(rest) > 0 {
		others := c.newGroup(make([]value.Value, len(c.By)))
		for _, g := range rest {
			for i := range others.figures {
				others.figures[i].Merge(&g.figures[i].Gathered)
			}
		}
		g := c.group(others, total, nil, nil)
		g.Labels = []string{fmt.Sprintf("%d others", len(rest))}
		if len(rest) == 1 {
			g.Labels[0] = "1 other"
		}
		out.Others, out.Hidden = &g, len(rest)
	}
	out.Total = c.group(total, total, nil, nil)
	return out, nil
}

// allOf gives what all groups come to together.
func (c *Compiled) allOf(found *groups) *group {
	all := c.newGroup(make([]value.Value, len(c.By)))
	for _, g := range found.by {
		for i := range all.figures {
			all.figures[i].Merge(&g.figures[i].Gathered)
		}
	}
	return all
}

// spell gives what is written in several ways, in letter case or outer spaces, one of them
// everywhere.
func spell(all *groups) {
	var one []map[string]value.Value
	for _, g := range all.by {
		for i, v := range g.keys {
			for len(one) <= i {
				one = append(one, map[string]value.Value{})
			}
			key := value.Fold(v.String())
			if was, known := one[i][key]; !known || v.String() < was.String() {
				one[i][key] = v
			}
		}
	}
	for _, g := range all.by {
		keys := make([]value.Value, len(g.keys)) // those of a group may be kept with rows
		for i, v := range g.keys {
			keys[i] = one[i][value.Fold(v.String())]
		}
		g.keys = keys
	}
}

// fill puts groups of nothing for the periods between the first and the last.
func (c *Compiled) fill(all *groups) {
	for i, by := range c.By {
		if by.Period == "" || i > 0 {
			continue
		}
		var low, high value.Value
		second := map[string]value.Value{"": {}}
		for _, g := range all.by {
			at := g.keys[i]
			if at.IsBlank() {
				continue
			}
			if low.IsBlank() || value.Compare(at, low) < 0 {
				low = at
			}
			if high.IsBlank() || value.Compare(at, high) > 0 {
				high = at
			}
			if len(g.keys) > 1 {
				second[value.Fold(g.keys[1].String())] = g.keys[1]
			}
		}
		if low.IsBlank() {
			return
		}
		for at, n := low, 0; value.Compare(at, high) <= 0 && n < mostFilled; at, n = by.Period.next(at), n+1 {
			prefix := value.Fold(at.String()) + "\x00"
			if len(c.By) == 1 {
				if all.by[prefix] == nil {
					all.by[prefix] = c.newGroup([]value.Value{at})
				}
				continue
			}
			for key, v := range second {
				if whole := prefix + key + "\x00"; !v.IsBlank() && all.by[whole] == nil {
					all.by[whole] = c.newGroup([]value.Value{at, v})
				}
			}
		}
	}
}

// mostFilled is how many periods are filled in between others at most.
const mostFilled = 1000

// cut parts the groups that are shown from the others: the largest by the figure that is
// drawn, or the latest where groups are periods.
func (c *Compiled) cut(all []*group) (shown, rest []*group) {
	limit := c.Limit
	if limit == 0 {
		limit = MostGroups
	}
	if len(all) <= limit {
		return all, nil
	}
	if len(c.By) > 0 && c.By[0].Period != "" {
		return all[len(all)-limit:], all[:len(all)-limit]
	}
	bySize := slices.Clone(all)
	slices.SortStableFunc(bySize, func(a, b *group) int {
		x, _ := a.figures[c.Show].Result()
		y, _ := b.figures[c.Show].Result()
		return value.Compare(y, x)
	})
	keep := map[*group]bool{}
	for _, g := range bySize[:limit] {
		keep[g] = true
	}
	for _, g := range all {
		if keep[g] {
			shown = append(shown, g)
		} else {
			rest = append(rest, g)
		}
	}
	return shown, rest
}

func (c *Compiled) group(g, total *group, then *groups, thenTotal *group) Group {
	out := Group{Keys: g.keys, Labels: make([]string, len(g.keys))}
	key := ""
	for i, v := range g.keys {
		key += value.Fold(v.String()) + "\x00"
		switch {
		case v.IsBlank():
			out.Labels[i] = "(blank)"
		case c.By[i].Period != "":
			out.Labels[i] = c.By[i].Period.Label(v)
		default:
			out.Labels[i] = value.OneLine(v.ShowIn(c.ByTypes[i], c.Style()))
		}
	}
	out.Values, out.Why = c.figures(g, total)
	if then != nil {
		was := then.by[key]
		if was == nil {
			was = c.newGroup(g.keys)
		}
		out.Before, _ = c.figures(was, thenTotal)
	}
	return out
}

func (c *Compiled) figures(g, total *group) (values []value.Value, why []string) {
	values, why = make([]value.Value, len(c.Figures)), make([]string, len(c.Figures))
	for i, f := range c.Figures {
		v, err := g.figures[i].Result()
		if err == nil && f.What == "share" {
			v, err = shareOf(v, &total.figures[i])
		}
		if err != nil {
			why[i] = err.Error()
			continue
		}
		values[i] = v
	}
	return values, why
}

// shareOf gives a group's part of all, to four decimals.
func shareOf(v value.Value, all *clause.Gather) (value.Value, error) {
	sum, err := all.Result()
	if err != nil || value.Equal(sum, value.OfInt(0)) {
		return value.OfInt(0), err
	}
	q, err := value.Div(v, sum)
	if err != nil {
		return q, err
	}
	return value.Round(q, 4)
}
