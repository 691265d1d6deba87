package reconcile

import (
	"fmt"
	"hash/fnv"
	"strconv"

	"example.org/kavlo/internal/value"
)

// Plan is what a sync would do.
type Plan struct {
	Policy    Policy
	Outcomes  []Outcome
	Unchanged int
	Left      int // on one side only, and meant to be so
	Troubles  []Trouble
	inList    int // records and rows that were compared, for the guard
	inTab     int
	based     int
}

// comparer is one comparison under way.
type comparer struct {
	*Plan
	list, tab []Item
	base      []Base
	names     []string // of the fields
	byTab     map[string]int32
	byBase    map[string]int32
	usedTab   []bool
	usedBase  []bool
	skip      map[string]bool // keys in trouble: nothing is done about them

	newInList, newInTab       []int32
	goneFromList, goneFromTab [][2]int32 // index in tab or list, and in base
}

// Compare works out, key by key, what a list and a tab are to become, from
// what both are now and what both were after the last sync. Names are the
// fields', for messages. It alters nothing.
//
// Keys meet trimmed and without letter case. A blank or odd key, and a key that
// is there twice on one side, is a trouble: it is named, and nothing is done
// about its records. A key changed on one side only is followed by what the
// base knows: the row's identity, or the list's own id of the record.
func Compare(list, tab []Item, base []Base, names []string, p Policy) *Plan {
	c := &comparer{Plan: &Plan{Policy: p, inList: len(list), inTab: len(tab), based: len(base)}, list: list, tab: tab, base: base, names: names, skip: map[string]bool{}}
	c.byTab = c.index(tab, "row", "rows of the tab")
	c.byBase = make(map[string]int32, len(base))
	for i := range base {
		c.byBase[value.Fold(base[i].Key)] = int32(i)
	}
	c.usedTab, c.usedBase = make([]bool, len(tab)), make([]bool, len(base))
	c.pairList()
	c.pairRest()
	c.pairRenamed()
	c.single()
	return c.Plan
}

// index finds items by key and marks keys that cannot be used.
func (c *comparer) index(items []Item, one, many string) map[string]int32 {
	at := make(map[string]int32, len(items))
	for i := range items {
		key := c.usable(&items[i], one, i)
		if key == "" {
			continue
		}
		if _, twice := at[key]; twice {
			if !c.skip[key] {
				c.trouble(items[i].Key, "several %s have this key, so nothing is done about them", many)
			}
			c.skip[key] = true
			continue
		}
		at[key] = int32(i)
	}
	return at
}

// usable gives the folded key of an item, or "" where it has none to go by.
func (c *comparer) usable(it *Item, one string, i int) string {
	switch {
	case it.Key.IsOdd():
		c.trouble(it.Key, "the key of %s %s does not fit the key column", one, it.name(i))
		c.skip[Fold(it.Key)] = true
		return ""
	case it.Key.IsBlank():
		if !it.Away {
			c.trouble(it.Key, "the key of %s %s is blank", one, it.name(i))
		}
		return ""
	}
	return Fold(it.Key)
}

func (it *Item) name(i int) string {
	if it.Row != 0 {
		return it.Row.String()
	}
	return strconv.Itoa(i + 1)
}

func (c *comparer) trouble(key value.Value, format string, args ...any) {
	c.Troubles = append(c.Troubles, Trouble{Key: key.String(), Why: fmt.Sprintf(format, args...)})
}

// pairList goes through the list: what stands in both is compared.
func (c *comparer) pairList() {
	seen := make(map[string]struct{}, len(c.list))
	keys := make([]string, len(c.list))
	for i := range c.list {
		keys[i] = c.usable(&c.list[i], "record", i)
		if keys[i] == "" {
			continue
		}
		if _, twice := seen[keys[i]]; twice {
			if !c.skip[keys[i]] {
				c.trouble(c.list[i].Key, "several records of the list have this key, so nothing is done about them")
			}
			c.skip[keys[i]] = true
		}
		seen[keys[i]] = struct{}{}
	}
	for i, key := range keys {
		if key == "" {
			continue
		}
		t, inTab := c.byTab[key]
		b, known := c.byBase[key]
		if inTab {
			c.usedTab[t] = true
		}
		if known {
			c.usedBase[b] = true
		}
		switch {
		case len(c.skip) > 0 && c.skip[key]:
		case inTab && known:
			c.both(&c.list[i], &c.tab[t], &c.base[b], "")
		case inTab:
			c.both(&c.list[i], &c.tab[t], nil, "")
		case known:
			c.goneFromTab = append(c.goneFromTab, [2]int32{int32(i), b})
		default:
			c.newInList = append(c.newInList, int32(i))
		}
	}
}

// pairRest goes through the rows and the base for what the list lacks.
func (c *comparer) pairRest() {
	for i := range c.tab {
		if c.usedTab[i] || c.tab[i].Key.IsBlank() || c.tab[i].Key.IsOdd() {
			continue
		}
		key := Fold(c.tab[i].Key)
		b, known := c.byBase[key]
		if known {
			c.usedBase[b] = true
		}
		switch {
		case c.skip[key]:
		case known:
			c.goneFromList = append(c.goneFromList, [2]int32{int32(i), b})
		case !c.tab[i].Away:
			c.newInTab = append(c.newInTab, int32(i))
		default:
			c.inTab--
		}
	}
}

// pairRenamed finds, among what seems new on one side and gone from it, what
// only bears another key now.
func (c *comparer) pairRenamed() {
	if len(c.newInTab) > 0 && len(c.goneFromTab) > 0 {
		byRow := map[string]int32{}
		for i, t := range c.newInTab {
			byRow[c.tab[t].Row.String()] = int32(i)
		}
		c.goneFromTab = c.renamed(c.goneFromTab, func(b *Base) string { return b.Row.String() }, byRow, c.newInTab, func(gone, fresh int32, b *Base) {
			l, t := &c.list[gone], &c.tab[fresh]
			if c.Policy.Direction == In {
				c.both(l, t, b, ByList)
			} else if l.ID == "" || value.Fold(l.ID) == Fold(l.Key) {
				c.trouble(t.Key, "the row had the key %s at the last sync, by which the list names the record: change it back, or remove the record %s from the list", b.Key, b.Key)
			} else {
				c.both(l, t, b, ByTab)
			}
		})
		c.newInTab = without(c.newInTab)
	}
	if len(c.newInList) > 0 && len(c.goneFromList) > 0 {
		byID := map[string]int32{}
		for i, l := range c.newInList {
			if c.list[l].ID != "" {
				byID[c.list[l].ID] = int32(i)
			}
		}
		c.goneFromList = c.renamed(c.goneFromList, func(b *Base) string { return b.ID }, byID, c.newInList, func(gone, fresh int32, b *Base) {
			if c.Policy.Direction == Out {
				c.both(&c.list[fresh], &c.tab[gone], b, ByTab)
			} else {
				c.both(&c.list[fresh], &c.tab[gone], b, ByList)
			}
		})
		c.newInList = without(c.newInList)
	}
}

// renamed gives pair what is gone and new under one identity, marks the new one
// taken (-1), and gives what is truly gone.
func (c *comparer) renamed(gone [][2]int32, identity func(*Base) string, fresh map[string]int32, all []int32, pair func(gone, fresh int32, b *Base)) [][2]int32 {
	var rest [][2]int32
	for _, g := range gone {
		b := &c.base[g[1]]
		at, found := fresh[identity(b)]
		if !found || identity(b) == "" || all[at] < 0 {
			rest = append(rest, g)
			continue
		}
		pair(g[0], all[at], b)
		all[at] = -1
	}
	return rest
}

func without(all []int32) []int32 {
	out := all[:0]
	for _, i := range all {
		if i >= 0 {
			out = append(out, i)
		}
	}
	return out
}

// decide gives who wins a conflict that is the given one.
func (c *comparer) decide(o *Outcome) Winner {
	w := c.Policy.Conflict
	if d, ok := c.Policy.Decided[Fold(o.Key)]; ok && d.Seen == o.Seen {
		return d.Winner
	}
	if w == Newest {
		switch {
		case o.Lost != "" || o.List.Changed == 0 || o.Tab.Changed == 0 || o.List.Changed == o.Tab.Changed:
			return Hold // nothing says which is newer
		case o.List.Changed > o.Tab.Changed:
			return ByList
		}
		return ByTab
	}
	return w
}

// both compares a record and a row of one key.
func (c *comparer) both(l, t *Item, b *Base, rekey Winner) {
	o := Outcome{Kind: Update, Key: t.Key, List: l, Tab: t, Base: b, Rekey: rekey}
	stale := b == nil || b.Left != "" || b.Row != t.Row || b.ID != l.ID
	var clash []int
	for i := range l.Fields {
		lv, tv := &l.Fields[i], &t.Fields[i]
		bv := b.field(i)
		if same(lv, tv) {
			stale = stale || !same(lv, bv)
			continue
		}
		inList, inTab := !same(lv, bv), !same(tv, bv)
		switch {
		case inList && inTab:
			clash = append(clash, i)
		case inList && c.Policy.Direction != Out, inTab && c.Policy.Direction == In && c.Policy.Conflict == ByList:
			o.ToTab = append(o.ToTab, i)
		case inTab && c.Policy.Direction != In, inList && c.Policy.Direction == Out && c.Policy.Conflict == ByTab:
			c.send(&o, i)
		}
	}
	if len(clash) > 0 {
		c.clash(&o, clash)
	}
	switch {
	case len(o.Clash) > 0:
		o.Kind = Conflict
	case len(o.ToTab)+len(o.ToList) > 0 || rekey != "":
	case stale:
		o.Kind = Settled
		c.Unchanged++
	default:
		c.Unchanged++
		return
	}
	c.Outcomes = append(c.Outcomes, o)
}

// send lets the list take a field from the row. An odd cell stays at home.
func (c *comparer) send(o *Outcome, field int) {
	if v := &o.Tab.Fields[field]; v.IsOdd() {
		c.trouble(o.Key, "%s holds %q, which does not fit its column: the list keeps its own", c.names[field], v.Raw())
		return
	}
	o.ToList = append(o.ToList, field)
}

// clash decides fields that both sides have changed.
func (c *comparer) clash(o *Outcome, fields []int) {
	o.Seen = seen(o.List.Fields, o.Tab.Fields, fields)
	switch c.decide(o) {
	case ByList:
		if c.Policy.Direction != Out {
			o.ToTab = append(o.ToTab, fields...)
		}
	case ByTab:
		if c.Policy.Direction != In {
			for _, f := range fields {
				c.send(o, f)
			}
		}
	default:
		o.Clash = fields
	}
}

// seen marks the very values of a conflict.
func seen(list, tab []value.Value, fields []int) string {
	h := fnv.New64a()
	for _, f := range fields {
		for _, side := range [][]value.Value{list, tab} {
			text := "-"
			if side != nil {
				text = side[f].Kind().String() + side[f].String()
			}
			fmt.Fprintf(h, "%d %d:%s;", f, len(text), text)
		}
	}
	return strconv.FormatUint(h.Sum64(), 36)
}
