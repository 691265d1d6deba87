package sheet

import (
	"maps"

	"example.org/kavlo/internal/value"
)

// Row is one row of a tab. A Row that has been published is never altered.
type Row struct {
	ID      RowID
	Tab     TabID
	Pos     int64 // order within the tab; positions are never used twice
	Version int64 // the journal number of the change set that last touched it
	cells   []value.Value
	extra   *extra
}

// extra holds what most rows lack.
type extra struct {
	carried map[ColumnID]value.Value
	notes   map[ColumnID]string
	origin  string
}

var noExtra = &extra{}

func (r *Row) more() *extra {
	if r.extra == nil {
		return noExtra
	}
	return r.extra
}

// At gives the value in a slot of the row's tab (see TabShape.Slot).
func (r *Row) At(slot int) value.Value {
	if slot < 0 || slot >= len(r.cells) {
		return value.Value{}
	}
	return r.cells[slot]
}

// Cells gives the row's values in the order of its tab's columns; trailing
// blanks may be missing. The slice is not to be altered.
func (r *Row) Cells() []value.Value { return r.cells }

// Get gives the row's value for a column, from its cells or, where its tab
// lacks the column, from its carried values.
func (r *Row) Get(tab *TabShape, column ColumnID) value.Value {
	if i := tab.Slot(column); i >= 0 {
		return r.At(i)
	}
	return r.more().carried[column]
}

// Carried gives what the row holds for columns that its tab lacks; not to be altered.
func (r *Row) Carried() map[ColumnID]value.Value { return r.more().carried }

// Notes gives the notes on the row's cells by column; not to be altered.
func (r *Row) Notes() map[ColumnID]string { return r.more().notes }

// Origin tells which copy, put, import or sync made the row, or "".
func (r *Row) Origin() string { return r.more().origin }

// Image is a row in full, apart from any tab's order of columns: what an add
// or a remove carries, and what the store keeps.
type Image struct {
	Pos    int64
	Cells  map[ColumnID]value.Value // blank ones left out; carried ones in
	Notes  map[ColumnID]string
	Origin string
}

// Image gives the row in full.
func (r *Row) Image(tab *TabShape) *Image {
	img := &Image{Pos: r.Pos, Cells: make(map[ColumnID]value.Value, len(tab.Columns)), Notes: maps.Clone(r.Notes()), Origin: r.Origin()}
	for i := range tab.Columns {
		if v := r.At(i); v.Kind() != value.Blank {
			img.Cells[tab.Columns[i].ID] = v
		}
	}
	maps.Copy(img.Cells, r.Carried())
	return img
}

// sameContent reports whether two images hold the same cells and notes, wherever
// their rows stand.
func (i *Image) sameContent(other *Image) bool {
	return sameEntries(i.Cells, other.Cells) && sameEntries(i.Notes, other.Notes)
}

// sameEntries compares maps in which a blank entry is as good as none.
func sameEntries[V comparable](a, b map[ColumnID]V) bool {
	var blank V
	for id, v := range a {
		if b[id] != v {
			return false
		}
	}
	for id, v := range b {
		if _, both := a[id]; !both && v != blank {
			return false
		}
	}
	return true
}

// newRow lays an image out for a tab. The row takes over the image's maps.
func newRow(id RowID, tab *TabShape, img *Image, version int64) *Row {
	r := &Row{ID: id, Tab: tab.ID, Pos: img.Pos, Version: version, cells: make([]value.Value, len(tab.Columns))}
	placed := 0
	for i := range tab.Columns {
		if v, ok := img.Cells[tab.Columns[i].ID]; ok {
			r.cells[i] = v
			placed++
		}
	}
	if placed < len(img.Cells) || len(img.Notes) > 0 || img.Origin != "" {
		x := &extra{origin: img.Origin}
		if len(img.Notes) > 0 {
			x.notes = maps.Clone(img.Notes)
		}
		if placed < len(img.Cells) {
			x.carried = map[ColumnID]value.Value{}
			for id, v := range img.Cells {
				if tab.Slot(id) < 0 {
					x.carried[id] = v
				}
			}
		}
		r.extra = x
	}
	return r
}

// withCell gives a copy of the row with one value replaced.
func (r *Row) withCell(tab *TabShape, column ColumnID, v value.Value, version int64) *Row {
	c := *r
	c.Version = version
	if slot := tab.Slot(column); slot >= 0 {
		c.cells = make([]value.Value, max(len(tab.Columns), len(r.cells)))
		copy(c.cells, r.cells)
		c.cells[slot] = v
		return &c
	}
	x := *r.more()
	x.carried = maps.Clone(x.carried)
	if x.carried == nil {
		x.carried = map[ColumnID]value.Value{}
	}
	if v.Kind() == value.Blank {
		delete(x.carried, column)
	} else {
		x.carried[column] = v
	}
	c.extra = &x
	return &c
}

func (r *Row) withNote(column ColumnID, text string, version int64) *Row {
	c, x := *r, *r.more()
	c.Version = version
	x.notes = maps.Clone(x.notes)
	if x.notes == nil {
		x.notes = map[ColumnID]string{}
	}
	if text == "" {
		delete(x.notes, column)
	} else {
		x.notes[column] = text
	}
	c.extra = &x
	return &c
}

// relaid gives the row as it stands in another tab (or in its own tab after its
// columns changed): what the new tab lacks is carried, what it has comes back.
func (r *Row) relaid(from, to *TabShape, pos, version int64) *Row {
	c := &Row{ID: r.ID, Tab: to.ID, Pos: pos, Version: version, cells: make([]value.Value, len(to.Columns))}
	carried := r.more().carried
	var keep map[ColumnID]value.Value
	for i := range to.Columns {
		id := to.Columns[i].ID
		if i < len(from.Columns) && from.Columns[i].ID == id { // the usual case: like tabs
			c.cells[i] = r.At(i)
		} else if slot := from.Slot(id); slot >= 0 {
			c.cells[i] = r.At(slot)
		} else if v, ok := carried[id]; ok {
			c.cells[i] = v
		}
	}
	for i := range from.Columns {
		if v := r.At(i); v.Kind() != value.Blank && to.Slot(from.Columns[i].ID) < 0 {
			if keep == nil {
				keep = map[ColumnID]value.Value{}
			}
			keep[from.Columns[i].ID] = v
		}
	}
	for id, v := range carried {
		if to.Slot(id) < 0 {
			if keep == nil {
				keep = map[ColumnID]value.Value{}
			}
			keep[id] = v
		}
	}
	if keep != nil || len(r.Notes()) > 0 || r.Origin() != "" {
		c.extra = &extra{carried: keep, notes: r.more().notes, origin: r.more().origin}
	}
	return c
}
