package sheet

import (
	"cmp"
	"hash/maphash"
	"iter"
	"slices"
	"sync/atomic"

	"github.com/tidwall/btree"

	"example.org/kavlo/internal/value"
)

// An index finds the rows of a tracker by what they hold in a column, or by their
// origin, whichever tab they are in. It is made when first asked for and then kept
// with the state: a draft's changes to rows change it, and its copies share what they
// have in common.

// origins stands, in the place of a column, for the origins of rows.
const origins ColumnID = 0

// index is an ordered set of (hash of what is held, row).
type index struct {
	owner *token
	tree  *btree.BTreeG[entry]
}

type entry struct {
	hash uint64
	row  RowID
}

func inOrder(a, b entry) bool { return a.hash < b.hash || a.hash == b.hash && a.row < b.row }

// indexDegree is how many entries a node of an index holds at most, halved: small
// nodes are cheap to copy when one entry changes.
const indexDegree = 32

// indexes are a state's, by column. Readers of one state share it, so a link is put
// before the others and never altered.
type indexes struct {
	column ColumnID
	index  *index
	next   *indexes
}

func (l *indexes) find(column ColumnID) *index {
	for ; l != nil; l = l.next {
		if l.column == column {
			return l.index
		}
	}
	return nil
}

// held gives what a row of the tracker holds in a column; its origin as a text.
func (s *Shape) held(r *Row, column ColumnID) value.Value {
	switch {
	case r == nil:
		return value.Value{}
	case column == origins:
		return value.OfText(r.Origin())
	}
	return r.Get(s.TabByID(r.Tab), column)
}

func hashText(s string) uint64 { return maphash.String(hashSeed, value.Fold(s)) }

var hashSeed = maphash.MakeSeed()

// indexOf gives the index of a column, made if there is none.
func (t *Tracker) indexOf(column ColumnID) *index {
	if x := t.kept.Load().find(column); x != nil {
		return x
	}
	x := t.newIndex(column)
	if t.base != nil { // the next drafts from the same state find it there
		t.base.indexOf(column)
	}
	for {
		first := t.kept.Load()
		if other := first.find(column); other != nil { // another reader was faster
			return other
		}
		if t.kept.CompareAndSwap(first, &indexes{column, x, first}) {
			return x
		}
	}
}

func (t *Tracker) newIndex(column ColumnID) *index {
	var all []entry
	for i := range t.Tabs {
		for r := range t.Rows(t.Tabs[i].ID) {
			if v := t.held(r, column); !v.IsBlank() {
				all = append(all, entry{hashText(v.String()), r.ID})
			}
		}
	}
	slices.SortFunc(all, func(a, b entry) int { return cmp.Or(cmp.Compare(a.hash, b.hash), cmp.Compare(a.row, b.row)) })
	x := &index{owner: t.owner, tree: btree.NewBTreeGOptions(inOrder, btree.Options{Degree: indexDegree})}
	for _, e := range all {
		x.tree.Load(e) // in order, which is quick
	}
	return x
}

// follow lets the indexes of a draft's tracker know that a row was one thing and is
// now another; nil where it was not, or is not, in the tracker.
func (t *Tracker) follow(was, now *Row) {
	for l := t.kept.Load(); l != nil; l = l.next {
		before, after := t.held(was, l.column), t.held(now, l.column)
		if before == after {
			continue
		}
		x := t.ownIndex(l)
		if !before.IsBlank() {
			x.tree.Delete(entry{hashText(before.String()), was.ID})
		}
		if !after.IsBlank() {
			x.tree.Set(entry{hashText(after.String()), now.ID})
		}
	}
}

// ownIndex gives an index that the draft may alter. The links of a draft's tracker
// are its own; see Draft.tracker.
func (t *Tracker) ownIndex(l *indexes) *index {
	if l.index.owner != t.owner {
		l.index = &index{owner: t.owner, tree: l.index.tree.Copy()}
	}
	return l.index
}

// shareIndexes gives links of a draft's own to the indexes of the state it begins from.
func shareIndexes(l *indexes) *indexes {
	if l == nil {
		return nil
	}
	return &indexes{l.column, l.index, shareIndexes(l.next)}
}

// Holding gives the rows whose value in a column, in whichever tab, equals v, letter
// case and outer spaces apart, by id. Nothing holds a blank. Rows must not be changed
// in the draft meanwhile.
func (t *Tracker) Holding(column ColumnID, v value.Value) iter.Seq[*Row] {
	return t.found(column, v)
}

// From gives the rows of that origin.
func (t *Tracker) From(origin string) iter.Seq[*Row] { return t.found(origins, value.OfText(origin)) }

func (t *Tracker) found(column ColumnID, v value.Value) iter.Seq[*Row] {
	if t.lazy != nil {
		t = t.loaded()
	}
	if t.mask != nil {
		if column != origins && t.mask.hides(column) {
			return func(func(*Row) bool) {}
		}
		return t.shownRows(t.mask.base.found(column, v))
	}
	return func(yield func(*Row) bool) {
		if v.IsBlank() {
			return
		}
		folded := value.Fold(v.String())
		hash := hashText(folded)
		t.indexOf(column).tree.Ascend(entry{hash: hash}, func(e entry) bool {
			if e.hash != hash {
				return false
			}
			r := t.Row(e.row)
			return value.Fold(t.held(r, column).String()) != folded || yield(r)
		})
	}
}

// Prepare makes the indexes that an edit of the tracker will ask for, so that the edit
// need not wait for them.
func (t *Tracker) Prepare() {
	t = t.Masking().Load()
	for i := range t.Tabs {
		for j := range t.Tabs[i].Columns {
			if c := &t.Tabs[i].Columns[j]; c.Unique && !c.Computed() {
				t.indexOf(c.ID)
			}
		}
	}
}

// largest holds, for a part of a tab that does not change, the largest whole number in
// some columns; the next automatic number follows from it.
type largest struct {
	slot int
	most int64 // math.MinInt64 where there is none
	next *largest
}

// mostIn gives the largest whole number in a slot, remembered in the list that a chunk
// or a block has of them.
func mostIn(known *atomic.Pointer[largest], slot int, work func() int64) int64 {
	first := known.Load()
	for l := first; l != nil; l = l.next {
		if l.slot == slot {
			return l.most
		}
	}
	l := &largest{slot: slot, most: work(), next: first}
	known.CompareAndSwap(first, l) // lost to another reader: worked out again when next asked for
	return l.most
}
