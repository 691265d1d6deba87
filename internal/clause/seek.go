package clause

import (
	"slices"
	"strconv"

	"example.org/kavlo/internal/value"
)

// seeker finds the rows of a tab that a look can match without going through all
// of them: those whose column is the same as what the row at hand says, as in
// "first Code in Countries where Country is this.Country".
type seeker struct {
	slot int       // of the column, in the rows of the tab looked into
	want ValueFunc // says nothing of those rows
}

// seekerOf gives the seeker for a look's condition, or nil where every row has to
// be looked at.
func seekerOf(where Node) *seeker {
	switch x := where.(type) {
	case *joinNode:
		for _, n := range x.list {
			if s := seekerOf(n); s != nil && !x.or {
				return s
			}
		}
	case *compareNode:
		if x.op != "is" {
			return nil
		}
		for _, side := range [][2]Node{{x.l, x.r}, {x.r, x.l}} {
			name, ok := side[0].(*nameNode)
			if ok && name.level == levelTable && name.column.Computed == nil && name.column.Slot >= 0 && !name.column.Type.Several && outside(side[1]) && oneMeasure(name.column, side[1]) {
				return &seeker{name.column.Slot, valueOf(side[1])}
			}
		}
	}
	return nil
}

// oneMeasure reports whether a column of dates or times is compared with the like: a day
// and a time are the same where the time is of that day, which no key says.
func oneMeasure(c Column, other Node) bool {
	if c.Type.Kind != value.Date && c.Type.Kind != value.DateTime {
		return true
	}
	switch x := other.(type) {
	case *nameNode:
		return x.column.Computed == nil && x.column.Type.Kind == c.Type.Kind
	case *literalNode:
		return x.v.Kind() == c.Type.Kind
	}
	return false
}

// outside reports whether nothing in a node is of the row looked at.
func outside(n Node) bool {
	ok := true
	walk(n, func(n Node) {
		switch x := n.(type) {
		case *nameNode:
			ok = ok && x.level != levelTable
		case *tabNode, *tableNode:
			ok = false
		}
	})
	return ok
}

// looked is what an environment knows of a tab that a clause has looked into.
type looked struct {
	stamp any // of the rows it knows
	times int // it was looked into since
	tab   string
	rows  map[string][]place // by key; nil: not worked out
	odd   []place            // rows whose key is odd: whether they match cannot be said
}

// place is a row with its number among the tab's.
type place struct {
	nth   int
	cells []value.Value
}

// of gives the rows of a key and those that could be, in their order.
func (l *looked) of(key string) []place {
	rows := l.rows[key]
	if len(l.odd) == 0 {
		return rows
	}
	all := append(slices.Clone(rows), l.odd...)
	slices.SortFunc(all, func(a, b place) int { return a.nth - b.nth })
	return all
}

// worthwhile is how often the same rows must be looked into until it pays to
// sort them by their keys.
const worthwhile = 3

// seek gives the rows that may match, in their order; not ok where all have to be
// looked at.
func (s *seeker) seek(e *Env, x *tableNode) (rows []place, tab string, ok bool) {
	if s == nil || e.Stamp == nil {
		return nil, "", false
	}
	l := e.looked[x]
	if stamp := e.Stamp(x.table.ID); l == nil || l.stamp != stamp {
		l = &looked{stamp: stamp}
		if e.looked == nil {
			e.looked = map[*tableNode]*looked{}
		}
		e.looked[x] = l
	}
	if l.times++; l.times < worthwhile {
		return nil, "", false
	}
	key, ok := seekKey(s.want(e))
	if !ok { // blank or odd: what follows from that is not for here to say
		return nil, "", false
	}
	if l.rows == nil {
		l.rows = map[string][]place{}
		n := 0
		for tab, cells := range e.Rows(x.table.ID) {
			if !e.Meter.Use(1) {
				break
			}
			l.tab = tab
			here := place{n, cells}
			n++
			v := cell(cells, s.slot)
			if k, ok := seekKey(v); ok {
				l.rows[k] = append(l.rows[k], here)
			} else if v.IsOdd() {
				l.odd = append(l.odd, here)
			}
		}
	}
	return l.of(key), l.tab, true
}

// seekKey gives a text that values have in common when, and only when, they are
// the same to "is"; none for blank and odd values and for ticks.
func seekKey(v value.Value) (string, bool) {
	switch {
	case v.IsBlank(), v.IsOdd():
		return "", false
	case v.Kind() == value.Number:
		return "n" + v.String(), true
	case v.Kind() == value.Date, v.Kind() == value.DateTime:
		return "d" + strconv.FormatInt(v.Seconds(), 10), true
	case v.Kind() == value.Checkbox:
		return "", false
	}
	return "t" + value.Fold(v.Raw()), true
}
