package sheet

import (
	"iter"
	"slices"
)

// Access says who may read, edit and keep a tracker, and who may see and change single
// tabs and columns of it. It is part of the shape, so that a change of it is previewed,
// journaled and undone as any other. Tabs and columns are named by id: entries outlive
// what they name, and a column is barred in every tab that has it, and where it is
// carried. Package policy says what the words mean.
type Access struct {
	Read    Who              `json:"read,omitempty"`
	Edit    Who              `json:"edit,omitempty"`
	Keep    Who              `json:"keep,omitempty"`
	Tabs    map[TabID]Bar    `json:"tabs,omitempty"`
	Columns map[ColumnID]Bar `json:"columns,omitempty"`
}

// Who are people by their addresses, or by their role in the workspace: "readers",
// "editors", "keepers"; each role includes those above it. Nil: whoever may otherwise.
type Who []string

// Bar says who alone may see and who alone may change something.
type Bar struct {
	See    Who `json:"see,omitempty"`
	Change Who `json:"change,omitempty"`
}

// mask lays a tracker out without some tabs and columns.
type mask struct {
	base   *Tracker
	hidden map[ColumnID]bool // whatever the shape lacks that the base has
	also   func(ColumnID) bool
}

// Masked gives a tracker as somebody sees it for whom some of it is not there: with a
// shape that lacks tabs and columns, and without what rows carry of columns that are
// hidden and in no tab. Nothing of it can be altered. Rows are laid out when they are
// asked for.
func (t *Tracker) Masked(shape *Shape, hidden func(ColumnID) bool) *Tracker {
	m := &mask{base: t, hidden: map[ColumnID]bool{}, also: hidden}
	for i := range t.Tabs {
		for _, c := range t.Tabs[i].Columns {
			if shape.ColumnByID(c.ID) == nil {
				m.hidden[c.ID] = true
			}
		}
	}
	return &Tracker{ID: t.ID, Version: t.Version, Shape: shape, mask: m}
}

// Masking gives the tracker that a masked one is laid out from, or itself.
func (t *Tracker) Masking() *Tracker {
	if t.mask != nil {
		return t.mask.base
	}
	return t
}

// shown gives a row as the mask lays it out; nil where its tab is not there.
func (t *Tracker) shown(r *Row) *Row {
	if r == nil {
		return nil
	}
	to, from := t.TabByID(r.Tab), t.mask.base.TabByID(r.Tab)
	if to == nil || from == nil {
		return nil
	}
	out := &Row{ID: r.ID, Tab: r.Tab, Pos: r.Pos, Version: r.Version, cells: r.cells, extra: r.extra}
	if len(to.Columns) != len(from.Columns) {
		full := out.cells
		out.cells = nil
		for i := range to.Columns {
			if slot := from.Slot(to.Columns[i].ID); slot < len(full) && slot >= 0 {
				out.setSlot(i, full[slot], len(to.Columns))
			}
		}
	}
	if x := r.extra; x != nil {
		besides := x.besides()
		kept := Besides{Notes: without(besides.notes, t.mask), Styles: without(besides.looks, t.mask), Origin: x.origin}
		carried := without(x.carried, t.mask)
		if len(carried) == 0 {
			carried = nil
		}
		out.extra = kept.extra(carried)
	}
	return out
}

func (m *mask) hides(c ColumnID) bool { return m.hidden[c] || m.also(c) }

func without[V any](m map[ColumnID]V, by *mask) map[ColumnID]V {
	out := make(map[ColumnID]V, len(m))
	for id, v := range m {
		if !by.hides(id) {
			out[id] = v
		}
	}
	return out
}

// shownRows gives those of some rows that the mask shows, as it lays them out.
func (t *Tracker) shownRows(rows iter.Seq[*Row]) iter.Seq[*Row] {
	return func(yield func(*Row) bool) {
		for r := range rows {
			if s := t.shown(r); s != nil && !yield(s) {
				return
			}
		}
	}
}

func (t *Tracker) shownChunks(tab TabID) []Chunk {
	var out []Chunk
	rows := slices.Collect(t.Rows(tab))
	for some := range slices.Chunk(rows, chunkRows) {
		out = append(out, Chunk{Rows: some, chunk: &chunk{rows: some}})
	}
	return out
}

// Seen gives the workspace with each tracker as see gives it; nil leaves one out.
func (w *Workspace) Seen(see func(*Tracker) *Tracker) *Workspace {
	out := Empty()
	for id, t := range w.trackers {
		if s := see(t); s != nil {
			out.trackers[id] = s
		}
	}
	return out
}

// Hides reports whether a column is hidden in the tracker as it is seen.
func (t *Tracker) Hides(c ColumnID) bool { return t.mask != nil && t.mask.hides(c) }
