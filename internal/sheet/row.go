package sheet

import (
	"iter"
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
// or a remove carries, and what the store keeps. It is never altered, so a row
// and the change that added it share their cells.
type Image struct {
	row *Row
	tab *TabShape // in whose order the cells stand; nil: all of them are carried
}

// NewImage gives the image of a row that is to be: its cells by column, blank
// ones left out, the notes on them, and which copy, put, import or sync made it.
// It takes over the maps.
func NewImage(cells map[ColumnID]value.Value, notes map[ColumnID]string, origin string) *Image {
	return &Image{row: &Row{extra: &extra{carried: cells, notes: notes, origin: origin}}}
}

// LaidOut is NewImage with the cells in the order of a tab's columns. It takes
// over the slice, which rows of that tab then share.
func LaidOut(tab *TabShape, cells []value.Value, notes map[ColumnID]string, origin string) *Image {
	img := &Image{row: &Row{cells: cells}, tab: tab}
	if len(notes) > 0 || origin != "" {
		img.row.extra = &extra{notes: notes, origin: origin}
	}
	return img
}

// At gives the same image at a position in its tab.
func (i *Image) At(pos int64) *Image {
	row := *i.row
	row.Pos = pos
	return &Image{row: &row, tab: i.tab}
}

// Pos gives the row's position in its tab, or 0 while it has none.
func (i *Image) Pos() int64 { return i.row.Pos }

// Notes gives the notes on the row's cells by column; not to be altered.
func (i *Image) Notes() map[ColumnID]string { return i.row.Notes() }

// Origin tells which copy, put, import or sync made the row, or "".
func (i *Image) Origin() string { return i.row.Origin() }

// Get gives the value for a column; blank where the row holds none.
func (i *Image) Get(column ColumnID) value.Value {
	if i.tab == nil {
		return i.row.Carried()[column]
	}
	return i.row.Get(i.tab, column)
}

// Cells gives the cells that are not blank, carried ones too.
func (i *Image) Cells() iter.Seq2[ColumnID, value.Value] {
	return func(yield func(ColumnID, value.Value) bool) {
		for slot, v := range i.row.cells {
			if v.Kind() != value.Blank && !yield(i.tab.Columns[slot].ID, v) {
				return
			}
		}
		for id, v := range i.row.Carried() {
			if v.Kind() != value.Blank && !yield(id, v) {
				return
			}
		}
	}
}

// Image gives the row in full.
func (r *Row) Image(tab *TabShape) *Image { return &Image{row: r, tab: tab} }

// sameContent reports whether two images hold the same cells and notes, wherever
// their rows stand.
func (i *Image) sameContent(other *Image) bool {
	return i.within(other) && other.within(i) && maps.Equal(i.Notes(), other.Notes())
}

// within reports whether the other image holds all that this one's cells do.
func (i *Image) within(other *Image) bool {
	for id, v := range i.Cells() {
		if other.Get(id) != v {
			return false
		}
	}
	return true
}

// noTab has no columns: what comes from it is carried.
var noTab = &TabShape{}

// newRow lays an image out for a tab.
func newRow(id RowID, tab *TabShape, img *Image, version int64) *Row {
	r := img.row
	switch {
	case img.tab == nil:
		r = r.relaid(noTab, tab, r.Pos, version)
	case img.tab == tab || sameColumns(img.tab.Columns, tab.Columns):
		r = &Row{Tab: tab.ID, Pos: r.Pos, Version: version, cells: r.cells, extra: r.extra}
	default:
		r = r.relaid(img.tab, tab, r.Pos, version)
	}
	r.ID = id
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
