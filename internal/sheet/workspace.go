package sheet

import (
	"cmp"
	"iter"
	"maps"
	"slices"
	"strings"
	"sync/atomic"

	"example.org/kavlo/internal/value"
)

// Workspace is one immutable state of the trackers in use.
type Workspace struct {
	trackers map[TrackerID]*Tracker
}

// Empty is a workspace without trackers.
func Empty() *Workspace { return &Workspace{trackers: map[TrackerID]*Tracker{}} }

// Tracker is one immutable state of a tracker.
type Tracker struct {
	ID TrackerID
	// Version is the journal number of a change set that touched it: of the last,
	// or after a start of the last that left something of itself.
	Version int64
	*Shape
	owner *token
	tabs  map[TabID]*tabRows
	rows  rowIndex
	kept  *atomic.Pointer[indexes]
	lazy  *Lazily  // of one whose rows are got when they are asked for; nil: they are here
	mask  *mask    // of a tracker as somebody sees it; nil: all of it
	base  *Tracker // of a draft's tracker: the state that it began from
}

type tabRows struct {
	rowList
	next int64 // the position that the next appended row takes
}

// posGap leaves room between appended rows for others to come between.
const posGap = 1 << 16

// Tracker gives a tracker by id, or nil.
func (w *Workspace) Tracker(id TrackerID) *Tracker { return w.trackers[id] }

// Trackers gives all trackers by their place, and those that have none after them by id.
func (w *Workspace) Trackers() []*Tracker {
	return slices.SortedFunc(maps.Values(w.trackers), func(a, b *Tracker) int {
		return cmp.Or(cmp.Compare(uint(a.Place-1), uint(b.Place-1)), cmp.Compare(a.ID, b.ID))
	})
}

// Find finds a tracker by name (without letter case) or id.
func (w *Workspace) Find(name string) (*Tracker, error) {
	var names []string
	for _, t := range w.Trackers() {
		if value.EqualText(t.Name, name) {
			return t, nil
		}
		names = append(names, t.Name)
	}
	if id, ok := ParseTrackerID(strings.TrimSpace(name)); ok && w.trackers[id] != nil {
		return w.trackers[id], nil
	}
	return nil, &NotFound{What: "tracker", Name: name, Nearest: value.Nearest(name, names)}
}

// FindTab finds a tracker and a tab by name or id.
func (w *Workspace) FindTab(tracker, tab string) (*Tracker, *TabShape, error) {
	t, err := w.Find(tracker)
	if err != nil {
		return nil, nil, err
	}
	s, err := t.Tab(tab)
	return t, s, err
}

// Row gives a row by id, or nil.
func (t *Tracker) Row(id RowID) *Row {
	if t.lazy != nil {
		t = t.loaded()
	}
	if t.mask != nil {
		return t.shown(t.mask.base.Row(id))
	}
	return t.rows.get(id)
}

// Rows gives the rows of a tab in order.
func (t *Tracker) Rows(tab TabID) iter.Seq[*Row] {
	if t.lazy != nil {
		t = t.loaded()
	}
	if t.mask != nil {
		return t.shownRows(t.mask.base.Rows(tab))
	}
	if rows := t.tabs[tab]; rows != nil {
		return rows.all()
	}
	return func(func(*Row) bool) {}
}

// Chunks gives the rows of a tab in order, some at a time. All chunks are looked
// up at once: waiting for memory then overlaps.
func (t *Tracker) Chunks(tab TabID) []Chunk {
	if t.lazy != nil {
		t = t.loaded()
	}
	if t.mask != nil {
		return t.shownChunks(tab)
	}
	rows := t.tabs[tab]
	if rows == nil {
		return nil
	}
	out := make([]Chunk, 0, len(rows.blocks)*blockChunks)
	for _, b := range rows.blocks {
		for _, c := range b.chunks {
			out = append(out, Chunk{Rows: c.rows, columns: c.columns.Load(), chunk: c})
		}
	}
	return out
}

// Stamp gives what is the same for as long as a tab's rows are, in this state or
// in a draft's.
func (t *Tracker) Stamp(tab TabID) any {
	if t.lazy != nil {
		t = t.loaded()
	}
	if t.mask != nil {
		return t.mask.base.Stamp(tab)
	}
	type stamp struct {
		rows  *tabRows
		edits int64
	}
	if rows := t.tabs[tab]; rows != nil {
		return stamp{rows, rows.edits}
	}
	return stamp{}
}

// Page gives up to n rows of a tab from an offset on.
func (t *Tracker) Page(tab TabID, offset, n int) []*Row {
	if t.lazy != nil {
		t = t.loaded()
	}
	if t.mask != nil {
		return slices.Collect(t.shownRows(slices.Values(t.mask.base.Page(tab, offset, n))))
	}
	if rows := t.tabs[tab]; rows != nil {
		return rows.slice(offset, n)
	}
	return nil
}

// Count gives how many rows a tab holds.
func (t *Tracker) Count(tab TabID) int {
	if t.lazy != nil {
		t = t.loaded()
	}
	if t.mask != nil {
		if t.TabByID(tab) == nil {
			return 0
		}
		return t.mask.base.Count(tab)
	}
	if rows := t.tabs[tab]; rows != nil {
		return rows.count
	}
	return 0
}

// NextNumber gives the automatic number that the next row of a tab gets in a slot: one
// more than the largest there.
func (t *Tracker) NextNumber(tab TabID, slot int) int64 {
	if t.lazy != nil {
		t = t.loaded()
	}
	rows := t.tabs[tab]
	if rows == nil {
		return 1
	}
	return max(0, rows.most(slot)) + 1
}

// NextPos gives the position at which a row appended to the tab would stand.
func (t *Tracker) NextPos(tab TabID) int64 {
	if t.lazy != nil {
		t = t.loaded()
	}
	if rows := t.tabs[tab]; rows != nil {
		return rows.next
	}
	return posGap
}

// TabOf gives the shape of the tab in which the row stands.
func (t *Tracker) TabOf(r *Row) *TabShape { return t.TabByID(r.Tab) }

// Label gives the text that names a row in messages.
func (t *Tracker) Label(r *Row) string {
	tab := t.TabOf(r)
	if tab == nil {
		return r.ID.String()
	}
	if !tab.Listed() { // a page goes by the row that it is of
		if _, of, is := PageOf(r.Origin()); is && of != r.ID {
			if row := t.Row(of); row != nil {
				return t.Label(row)
			}
		}
	}
	if c := tab.LabelColumn(); c != nil {
		if s := strings.TrimSpace(r.Get(tab, c.ID).Show(c.Type)); s != "" {
			return s
		}
	}
	return r.ID.String()
}

// LabelOf names a row of a tab by what it holds or held; "" where its label is blank.
func (t *TabShape) LabelOf(i *Image) string {
	if c := t.LabelColumn(); c != nil && i != nil {
		return strings.TrimSpace(i.Get(c.ID).Show(c.Type))
	}
	return ""
}
