package clause

import (
	"maps"
	"slices"
	"sync"
	"sync/atomic"

	"example.org/kavlo/internal/value"
)

// Looks into another tab that ask for figures of the rows of a key, as in
// "sum Value in Requested where Venue is this.Name", are not worked out anew each time. A
// tab's rows stand in parts that a change copies one of; each part keeps what its rows come
// to, by key, and a look adds up what the parts have. So a change costs the part that it
// touches, and reading costs the parts, not the rows.

// Leaf is a few neighbouring rows of a tab.
type Leaf interface {
	keeping
	Cells(i int) []value.Value // of a row
}

// Part is many of them.
type Part interface {
	keeping
	Leaves() []Leaf
}

type keeping interface {
	Len() int // how many rows there are
	// Kept gives what is kept with the rows under a key, worked out if nothing is; it goes with
	// the first change of any of them.
	Kept(key any, work func() any) any
}

// added are what the rows of a part come to, each key's when it is first asked for.
type added struct {
	mu sync.Mutex
	by map[string]*sum
}

// sums are what the rows of a leaf come to, by key. There are many of them: they take little
// room.
type sums struct {
	keys []string // in order
	list []sum
	odd  bool // a row could be of any key
}

type sum struct {
	Gathered
	odd bool // it hangs on an odd cell
}

// of gives what the rows of a key come to; nil: there are none.
func (s *sums) of(key string) *sum {
	if at, found := slices.BinarySearch(s.keys, key); found {
		return &s.list[at]
	}
	return nil
}

// keeper keeps what a look comes to by part.
type keeper struct {
	look   *tableNode
	key    *seeker // nil: there is one group alone
	rest   Condition
	column ValueFunc
	today  bool         // it hangs on what day it is
	asked  atomic.Int64 // how often
	crowd  atomic.Int64 // until how often it is asked there are too many keys for it to pay
}

// keeperOf gives what keeps a look's figures, or nil where they hang on more than the key
// and the rows looked at.
func keeperOf(x *tableNode) *keeper {
	k := &keeper{look: x, key: seekerOf(x.where)}
	if x.column != nil {
		if x.column.column.Computed != nil {
			return nil
		}
		k.column = valueOf(x.column)
	}
	var rest []Node
	switch w := x.where.(type) {
	case nil:
	case *joinNode:
		if w.or {
			rest = append(rest, w)
			break
		}
		parted := false
		for _, n := range w.list {
			if s := seekerOf(n); !parted && s != nil {
				k.key, parted = s, true
				continue
			}
			rest = append(rest, n)
		}
	default:
		if k.key == nil {
			rest = append(rest, w)
		}
	}
	var conditions []Condition
	for _, n := range rest {
		ok, today := ofItsRow(n)
		if !ok {
			return nil
		}
		k.today = k.today || today
		conditions = append(conditions, logic(n))
	}
	if conditions != nil {
		k.rest = allOf(conditions)
	}
	return k
}

// ofItsRow reports whether a condition hangs on stored cells of the row looked at and on
// nothing else, but perhaps on what day it is.
func ofItsRow(n Node) (ok, today bool) {
	ok = true
	walk(n, func(n Node) {
		switch x := n.(type) {
		case *nameNode:
			ok = ok && x.level == levelTable && x.column.Computed == nil
		case *clockNode:
			ok, today = ok && !x.now, true
		case *tabNode, *tableNode, *runningNode, *changedNode, *wasNode:
			ok = false
		case *callNode:
			ok = ok && x.fn.ofRow == nil
		}
	})
	return ok, today
}

// The rows of a part must fall into few keys for it to pay to keep what they come to: at
// most one for mostKeys of them. Of a part with fewer than fewRows it does not matter.
// Whether they do is asked again after crowdAgain looks.
const (
	mostKeys   = 3
	fewRows    = 64
	crowdAgain = 4096
	mostAsked  = 4096 // keys whose figures a part keeps
)

// figure gives what the look comes to for the row at hand; not ok where the rows have to be
// looked at.
func (k *keeper) figure(e *Env) (v value.Value, ok bool) {
	if k == nil || e.Parts == nil {
		return v, false
	}
	asked := k.asked.Add(1)
	if asked < worthwhile || asked < k.crowd.Load() {
		return v, false
	}
	key := ""
	if k.key != nil {
		if key, ok = seekKey(k.key.want(e)); !ok {
			return v, false
		}
	}
	parts, ok := e.Parts(k.look.table.ID)
	if !ok {
		return v, false
	}
	g := k.look.gather()
	for _, part := range parts {
		one := k.ofPart(e, part, key)
		switch {
		case one == nil:
			k.crowd.Store(asked + crowdAgain)
			return v, false
		case one.odd || e.Meter != nil && e.Meter.err != nil:
			return v, false
		}
		g.Merge(&one.Gathered)
	}
	v, err := g.Result()
	if err != nil {
		return e.fault("%v", err), true
	}
	if v.IsBlank() && (k.look.op == "first" || k.look.op == "last") {
		e.Missed = k.look.table.Name
	}
	return v, true
}

// ofDay is what figures are kept under that hang on what day it is.
type ofDay struct {
	k   *keeper
	day int64
}

// under gives what figures are kept under.
func (k *keeper) under(e *Env) any {
	if k.today {
		return ofDay{k, e.Today.Days()}
	}
	return k
}

// ofPart gives what the rows of a part come to for a key; nil where they fall into too many
// keys for that to be kept.
func (k *keeper) ofPart(e *Env, part Part, key string) *sum {
	under := k.under(e)
	known := part.Kept(under, func() any { return &added{by: map[string]*sum{}} }).(*added)
	known.mu.Lock()
	defer known.mu.Unlock()
	if one := known.by[key]; one != nil {
		return one
	}
	all, odd := k.look.gather(), false
	for _, leaf := range part.Leaves() {
		if !e.Meter.Use(1) {
			return &sum{}
		}
		s := leaf.Kept(under, func() any { return k.work(e, leaf) }).(*sums)
		if k.key != nil && len(s.keys)*mostKeys > leaf.Len() && leaf.Len() >= fewRows {
			return nil
		}
		one := s.of(key)
		if s.odd || one != nil && one.odd {
			odd = true
			break
		}
		if one != nil {
			all.Merge(&one.Gathered)
		}
	}
	out := &sum{all.Gathered, odd}
	if len(known.by) == mostAsked {
		clear(known.by)
	}
	known.by[key] = out
	return out
}

func (k *keeper) work(e *Env, part Leaf) *sums {
	outer, outerTab, outerID, odd, fault := e.table, e.tableTab, e.tableID, e.OddColumn, e.Fault
	defer func() {
		e.table, e.tableTab, e.tableID, e.OddColumn, e.Fault = outer, outerTab, outerID, odd, fault
	}()
	e.tableID, e.tableTab = k.look.table.ID, k.look.table.Name
	s := &sums{}
	type one struct {
		Gather
		odd bool
	}
	by := map[string]*one{}
	ends := k.look.op == "first" || k.look.op == "last"
	for i := range part.Len() {
		cells := part.Cells(i)
		e.table = cells
		holds := Yes
		if k.rest != nil {
			if holds = k.rest(e); holds == No {
				continue
			}
		}
		key := ""
		if k.key != nil {
			v := cell(cells, k.key.slot)
			var is bool
			if key, is = seekKey(v); !is {
				s.odd = s.odd || v.IsOdd()
				continue
			}
		}
		g := by[key]
		if g == nil {
			g = &one{Gather: k.look.gather()}
			by[key] = g
		}
		if holds == Odd {
			g.odd = true
			continue
		}
		if k.column == nil {
			g.count++
			continue
		}
		switch v := k.column(e); {
		case v.IsBlank(), v.IsOdd() && ends:
		case v.IsOdd():
			g.odd = true
		case k.look.op == "first" && g.count > 0:
		default:
			g.Take(v)
		}
	}
	s.keys = slices.AppendSeq(make([]string, 0, len(by)), maps.Keys(by))
	slices.Sort(s.keys)
	s.list = make([]sum, len(s.keys))
	for i, key := range s.keys {
		s.list[i] = sum{by[key].Gathered, by[key].odd}
	}
	return s
}

// OfItsRow reports whether the clause hangs on stored cells of the row at hand and on
// nothing else, but perhaps on what day it is.
func (e *Expr) OfItsRow() (ok, today bool) {
	ok = true
	walk(e.root, func(n Node) {
		switch x := n.(type) {
		case *nameNode:
			ok = ok && x.level == levelRow && x.column.Computed == nil
		case *clockNode:
			ok, today = ok && !x.now, true
		case *tableNode, *runningNode, *changedNode, *wasNode:
			ok = false
		case *callNode:
			ok = ok && x.fn.ofRow == nil
		}
	})
	return ok, today
}
