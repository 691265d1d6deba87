package reconcile

import (
	"example.org/kavlo/internal/value"
)

// single decides what only one side has.
func (c *comparer) single() {
	dir := c.Policy.Direction
	for _, i := range c.newInList {
		if dir == Out {
			c.Left++
			continue
		}
		c.Outcomes = append(c.Outcomes, Outcome{Kind: AddToTab, Key: c.list[i].Key, List: &c.list[i]})
	}
	for _, i := range c.newInTab {
		if dir == In {
			c.Left++
			c.inTab-- // the tab's own row
			continue
		}
		c.addToList(Outcome{Key: c.tab[i].Key, Tab: &c.tab[i]})
	}
	for _, g := range c.goneFromTab {
		c.lost(Outcome{Kind: GoneTab, Key: c.list[g[0]].Key, List: &c.list[g[0]], Base: &c.base[g[1]]}, ByTab, c.list[g[0]].Fields)
	}
	for _, g := range c.goneFromList {
		c.lost(Outcome{Kind: GoneList, Key: c.tab[g[0]].Key, Tab: &c.tab[g[0]], Base: &c.base[g[1]]}, ByList, c.tab[g[0]].Fields)
	}
	for i := range c.base {
		if !c.usedBase[i] && (len(c.skip) == 0 || !c.skip[value.Fold(c.base[i].Key)]) {
			c.Outcomes = append(c.Outcomes, Outcome{Kind: Settled, Key: value.OfText(c.base[i].Key), Base: &c.base[i]})
		}
	}
}

// addToList adds a row's record to the list, its odd cells left out.
func (c *comparer) addToList(o Outcome) {
	o.Kind = AddToList
	for f := range o.Tab.Fields {
		if !o.Tab.Fields[f].IsBlank() {
			c.send(&o, f)
		}
	}
	c.Outcomes = append(c.Outcomes, o)
}

// lost decides about what one side has lost and the other still has.
func (c *comparer) lost(o Outcome, from Winner, kept []value.Value) {
	truth := map[Direction]Winner{In: ByList, Out: ByTab}[c.Policy.Direction]
	switch {
	case o.Base.Left == from:
		c.Left++
		return
	case truth != "" && truth != from: // the side that lost it is not the truth
		if c.Policy.Conflict == from {
			o.Kind, o.Leave = Settled, from
			c.Left++
			c.Outcomes = append(c.Outcomes, o)
			return
		}
		c.restore(o)
		return
	case truth == "": // both ways: has the other side changed it since?
		var changed []int
		for i := range kept {
			if !same(&kept[i], o.Base.field(i)) {
				changed = append(changed, i)
			}
		}
		if len(changed) == 0 {
			break
		}
		o.Lost, o.Clash = from, changed
		if from == ByTab {
			o.Seen = seen(o.List.Fields, nil, changed)
		} else {
			o.Seen = seen(nil, o.Tab.Fields, changed)
		}
		switch c.decide(&o) {
		case from:
		case ByList, ByTab:
			c.restore(o)
			return
		default:
			o.Kind = Conflict
			c.Outcomes = append(c.Outcomes, o)
			return
		}
		o.Clash = nil
	}
	if c.Policy.Gone != Remove {
		o.Leave = from
	}
	c.Outcomes = append(c.Outcomes, o)
}

// restore gives a side back what it has lost.
func (c *comparer) restore(o Outcome) {
	o.Clash, o.Lost = nil, ""
	if o.List != nil {
		o.Kind = AddToTab
		c.Outcomes = append(c.Outcomes, o)
		return
	}
	c.addToList(o)
}
