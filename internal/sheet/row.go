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
	beside  *beside
	origin  string
}

// beside is what a row's cells have besides their values.
type beside struct {
	notes, looks map[ColumnID]string
}

var noExtra = &extra{}

func (x *extra) besides() beside {
	if x.beside == nil {
		return beside{}
	}
	return *x.beside
}

// keep gives what is to be held of it: nil for nothing.
func (b beside) keep() *beside {
	if len(b.notes) == 0 && len(b.looks) == 0 {
		return nil
	}
	return &b
}

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
func (r *Row) Notes() map[ColumnID]string { return r.more().besides().notes }

// Styles gives the looks of the row's cells by column, as value.CellStyle writes them;
// not to be altered.
func (r *Row) Styles() map[ColumnID]string { return r.more().besides().looks }

// Origin tells which copy, put, import or sync made the row, or "".
func (r *Row) Origin() string { return r.more().origin }

// Texts gives what a kind of change sets beside cells: the notes or the looks.
func (r *Row) Texts(kind Kind) map[ColumnID]string {
	if kind == Style {
		return r.Styles()
	}
	return r.Notes()
}

// Image is a row in full, apart from any tab's order of columns: what an add
// or a remove carries, and what the store keeps. It is never altered, so a row
// and the change that added it share their cells.
type Image struct {
	row *Row
	tab *TabShape // in whose order the cells stand; nil: all of them are carried
}

// Besides is what an image holds besides its cells.
type Besides struct {
	Notes  map[ColumnID]string // remarks on cells, by column
	Styles map[ColumnID]string // how cells are set off, as value.CellStyle writes it
	Origin string              // which copy, put, import or sync made the row
}

func (b *Besides) extra(carried map[ColumnID]value.Value) *extra {
	if x := (extra{carried, beside{b.Notes, b.Styles}.keep(), b.Origin}); carried != nil || x.beside != nil || x.origin != "" {
		return &x
	}
	return nil
}

// RowOf gives a row as it would be in a tab with these cells, in the order of the tab's
// columns; it stands in no state.
func RowOf(id RowID, tab *TabShape, cells []value.Value) *Row {
	return &Row{ID: id, Tab: tab.ID, cells: cells}
}

// NewImage gives the image of a row that is to be: its cells by column, blank
// ones left out, and what it holds besides. It takes over the maps.
func NewImage(cells map[ColumnID]value.Value, besides Besides) *Image {
	return &Image{row: &Row{extra: besides.extra(cells)}}
}

// LaidOut is NewImage with the cells in the order of a tab's columns. It takes
// over the slice, which rows of that tab then share.
func LaidOut(tab *TabShape, cells []value.Value, besides Besides) *Image {
	return &Image{row: &Row{cells: cells, extra: besides.extra(nil)}, tab: tab}
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

// Styles gives the looks of the row's cells by column; not to be altered.
func (i *Image) Styles() map[ColumnID]string { return i.row.Styles() }

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

// sameContent reports whether two images hold the same cells, notes and looks,
// wherever their rows stand.
func (i *Image) sameContent(other *Image) bool {
	return i.within(other) && other.within(i) && maps.Equal(i.Notes(), other.Notes()) && maps.Equal(i.Styles(), other.Styles())
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
	b := r.more().besides()
	b.notes = withText(b.notes, column, text)
	return r.with(b, version)
}

func (r *Row) withLook(column ColumnID, look string, version int64) *Row {
	b := r.more().besides()
	b.looks = withText(b.looks, column, look)
	return r.with(b, version)
}

func (r *Row) with(b beside, version int64) *Row {
	c, x := *r, *r.more()
	c.Version, x.beside = version, b.keep()
	c.extra = &x
	return &c
}

// withText gives a copy of texts by column with one put, or taken away.
func withText(texts map[ColumnID]string, column ColumnID, text string) map[ColumnID]string {
	out := maps.Clone(texts)
	if text == "" {
		delete(out, column)
		return out
	}
	if out == nil {
		out = map[ColumnID]string{}
	}
	out[column] = text
	return out
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
	if x := (extra{carried: keep, beside: r.more().beside, origin: r.more().origin}); keep != nil || x.beside != nil || x.origin != "" {
		c.extra = &x
	}
	return c
}

// setSlot puts a value into a slot of a row that is being made, of so many.
func (r *Row) setSlot(slot int, v value.Value, of int) {
	if r.cells == nil {
		r.cells = make([]value.Value, of)
	}
	r.cells[slot] = v
}
