package dossier

import (
	"iter"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Here is a row as it stands somewhere: in a tab of the pattern's tracker, in another
// tracker, or removed, as it was then.
type Here struct {
	Row     sheet.RowID
	Tracker *sheet.Tracker  // where the row is; nil: it was removed
	Now     *sheet.Row      // in Tracker
	Last    *sheet.Image    // of a row that was removed, as it was
	LastOf  *sheet.Tracker  // and the tracker that it was in
	LastIn  *sheet.TabShape // and the tab, if that is there still
}

// Page is what stands on a page.
type Page struct {
	Title   string
	Row     sheet.RowID
	Page    *sheet.Row // the row that the page is
	Facts   []Cell
	Own     []Cell
	Figures []Worked
	Log     []*sheet.Row // the entries shown
	Entries int          // how many there are
	Tables  []Extract
}

// Cell is a column with what stands in it.
type Cell struct {
	Column *sheet.Column
	Value  value.Value
	Note   string
	Style  string
	// InStep says that it is the row's own cell, and no cell of the page.
	InStep bool
	// Gone says that the tab in which the row is has no such column.
	Gone bool
}

// Worked is a figure as it came out.
type Worked struct {
	Name  string
	Type  value.Type
	Value value.Value
	Why   string // it could not be worked out
	// Sum is the figure as arithmetic with cells of the row; nil: it is more than that.
	Sum *clause.Arithmetic
}

// Extract is a table as it came out.
type Extract struct {
	Name    string
	Tab     *sheet.TabShape
	Columns []*sheet.Column
	Rows    []*sheet.Row
	Cells   [][]value.Value
	Total   int    // rows that concern the page's, before the limit
	Odd     int    // rows that could not be judged
	Why     string // it could not be worked out
}

// seat gives the row as the pattern sees it: in the tab of the pattern that it is in or,
// where it has gone elsewhere, as it would be in the first.
func (c *Compiled) seat(t *sheet.Tracker, h Here) (*onTab, *sheet.Row) {
	if h.Now != nil && h.Tracker.ID == t.ID && c.tabs[h.Now.Tab] != nil {
		return c.tabs[h.Now.Tab], h.Now
	}
	on := c.tabs[c.For[0]]
	if h.LastIn != nil && h.LastOf.ID == t.ID && c.tabs[h.LastIn.ID] != nil {
		on = c.tabs[h.LastIn.ID]
	}
	cells := make([]value.Value, len(on.tab.Columns))
	for i := range on.tab.Columns {
		cells[i] = h.cell(t, &on.tab.Columns[i])
	}
	return on, sheet.RowOf(h.Row, on.tab, cells)
}

// cell gives what the row holds in a column of the pattern's tracker t, wherever it is:
// in another tracker, in the column of the same name and type.
func (h *Here) cell(t *sheet.Tracker, c *sheet.Column) value.Value {
	if c.Computed() {
		return value.Value{}
	}
	if h.Now == nil {
		if h.Last == nil {
			return value.Value{}
		}
		return h.Last.Get(h.lastColumn(t, c))
	}
	tab, id := h.column(t, c)
	return h.Now.Get(tab, id)
}

// lastColumn gives the column that was c where the row was removed.
func (h *Here) lastColumn(t *sheet.Tracker, c *sheet.Column) sheet.ColumnID {
	if h.LastOf != nil && h.LastOf.ID != t.ID && h.LastIn != nil {
		if other, err := h.LastIn.Column(c.Name); err == nil && other.Type.Kind == c.Type.Kind {
			return other.ID
		}
	}
	return c.ID
}

func (h *Here) column(t *sheet.Tracker, c *sheet.Column) (*sheet.TabShape, sheet.ColumnID) {
	tab := h.Tracker.TabOf(h.Now)
	if h.Tracker.ID != t.ID {
		if other, err := tab.Column(c.Name); err == nil && other.Type.Kind == c.Type.Kind {
			return tab, other.ID
		}
	}
	return tab, c.ID
}

// notes gives the notes or styles of the row by the columns of the pattern's tracker.
func (h *Here) text(t *sheet.Tracker, c *sheet.Column, kind sheet.Kind) string {
	if h.Now == nil {
		switch id := h.lastColumn(t, c); {
		case h.Last == nil:
			return ""
		case kind == sheet.Style:
			return h.Last.Styles()[id]
		default:
			return h.Last.Notes()[id]
		}
	}
	_, id := h.column(t, c)
	return h.Now.Texts(kind)[id]
}

// env gives what the pattern's clauses look at for a row: its tabs, and its own log.
func (c *Compiled) env(t *sheet.Tracker, on *onTab, row *sheet.Row, now time.Time, m *clause.Meter) *clause.Env {
	e := c.program.Env(t, on.tab, now, m)
	if c.Log != nil {
		rows, parts := e.Rows, e.Parts
		e.Parts = func(table int64) ([]clause.Part, bool) {
			if table == int64(c.Log.Tab) { // of one page alone
				return nil, false
			}
			return parts(table)
		}
		e.Rows = func(table int64) iter.Seq2[string, []value.Value] {
			if table != int64(c.Log.Tab) {
				return rows(table)
			}
			return func(yield func(string, []value.Value) bool) {
				for r := range t.From(sheet.PageOrigin(c.ID, row.ID, entry)) {
					if !yield(LogName, r.Cells()) {
						return
					}
				}
			}
		}
	}
	program.Look(e, row)
	return e
}

// Titled gives what the page of a row is called.
func (c *Compiled) Titled(t *sheet.Tracker, h Here, now time.Time, m *clause.Meter) string {
	on, row := c.seat(t, h)
	return titled(on, c.env(t, on, row, now, m), h)
}

func titled(on *onTab, e *clause.Env, h Here) string {
	if s := strings.TrimSpace(value.OneLine(on.title(e).String())); s != "" {
		return s
	}
	return h.Row.String()
}

// Lay lays a page out: t is the pattern's tracker as whoever asks sees it.
func (c *Compiled) Lay(t *sheet.Tracker, page *sheet.Row, h Here, now time.Time, m *clause.Meter) (*Page, error) {
	on, row := c.seat(t, h)
	e := c.env(t, on, row, now, m)
	out := &Page{Title: titled(on, e, h), Row: h.Row, Page: page}
	c.facts(out, t, on, row, e, h)
	for i, f := range c.Figures {
		e.Next(row.Cells())
		v := on.figures[i].of(e)
		w := Worked{Name: f.Name, Type: on.figures[i].typ, Value: v, Sum: on.figures[i].sum}
		if v.IsOdd() {
			if _, w.Why = query.Fault(t, e); w.Why == "" {
				w.Why = v.Raw()
			}
			w.Value = value.Value{}
		}
		out.Figures = append(out.Figures, w)
	}
	out.Log = c.Entries(t, h.Row)
	if out.Entries = len(out.Log); out.Entries > MostShown {
		out.Log = out.Log[:MostShown]
	}
	for i := range c.Tables {
		e.Next(row.Cells())
		x, err := c.extract(t, &c.Tables[i], on.tables[i], e, now, m)
		if err != nil {
			return nil, err
		}
		out.Tables = append(out.Tables, x)
	}
	return out, m.Err()
}

// facts puts the facts on a page, and what it has for itself.
func (c *Compiled) facts(out *Page, t *sheet.Tracker, on *onTab, row *sheet.Row, e *clause.Env, h Here) {
	tab := t.TabByID(c.Pages)
	kept := map[sheet.ColumnID]bool{}
	ofPage := func(slot int) Cell {
		col := &tab.Columns[slot]
		return Cell{Column: col, Value: out.Page.At(slot), Note: out.Page.Notes()[col.ID], Style: out.Page.Styles()[col.ID]}
	}
	for _, f := range c.Facts {
		if f.Kept != 0 {
			kept[f.Kept] = true
			if slot := tab.Slot(f.Kept); slot >= 0 {
				out.Facts = append(out.Facts, ofPage(slot))
			}
			continue
		}
		slot := on.tab.Slot(f.Column)
		if slot < 0 { // of another tab of the pattern
			col := t.ColumnByID(f.Column)
			if col == nil {
				continue
			}
			out.Facts = append(out.Facts, Cell{Column: col, Value: h.cell(t, col), Note: h.text(t, col, sheet.Note), InStep: true, Gone: true})
			continue
		}
		col := &on.tab.Columns[slot]
		e.Next(row.Cells())
		cell := Cell{Column: col, Value: c.program.Value(e, row, slot), Note: h.text(t, col, sheet.Note), Style: h.text(t, col, sheet.Style), InStep: true}
		cell.Gone = h.Now == nil || h.Tracker.ID != t.ID || t.TabOf(h.Now).ByID(f.Column) == nil
		out.Facts = append(out.Facts, cell)
	}
	for i := range tab.Columns {
		if !kept[tab.Columns[i].ID] {
			out.Own = append(out.Own, ofPage(i))
		}
	}
}

// extract finds the rows of a table, those of its order first.
func (c *Compiled) extract(t *sheet.Tracker, x *Table, where clause.Condition, e *clause.Env, now time.Time, m *clause.Meter) (Extract, error) {
	out := Extract{Name: x.Name, Tab: t.TabByID(x.Tab)}
	only := map[sheet.RowID]bool{}
	for r := range t.Rows(x.Tab) {
		if !m.Use(1) {
			return out, m.Err()
		}
		if where != nil {
			e.Look(int64(x.Tab), out.Tab.Name, r.Cells())
			switch where(e) {
			case clause.No:
				continue
			case clause.Odd:
				out.Odd++
				continue
			case clause.Yes:
			}
		}
		only[r.ID] = true
	}
	q := query.Query{Tab: out.Tab, Only: only, Order: x.Order, Limit: x.Limit}
	if q.Limit == 0 {
		q.Limit = MostShown
	}
	for _, id := range x.Columns {
		col := out.Tab.ByID(id)
		out.Columns = append(out.Columns, col)
		q.Columns = append(q.Columns, id.String())
	}
	if len(x.Columns) == 0 {
		for i := range out.Tab.Columns {
			out.Columns = append(out.Columns, &out.Tab.Columns[i])
		}
	}
	found, err := query.Select(c.program, t, q, now, m)
	if err != nil {
		return out, err
	}
	out.Rows, out.Total = found.Rows, len(only)
	for _, r := range found.Rows {
		out.Cells = append(out.Cells, append([]value.Value{}, found.Cells(r)...))
	}
	return out, nil
}

// Names gives what everything on the pattern's pages is called: fields, figures, tables and
// their columns, as TABLE.COLUMN.
func (c *Compiled) Names(t *sheet.Tracker) (out []string) {
	for _, f := range c.Facts {
		if col := t.ColumnByID(f.Column); col != nil {
			out = append(out, col.Name)
		}
	}
	columns := func(prefix string, tab *sheet.TabShape) {
		if tab == nil {
			return
		}
		for i := range tab.Columns {
			out = append(out, prefix+tab.Columns[i].Name)
		}
	}
	columns("", t.TabByID(c.Pages))
	for _, f := range c.Figures {
		out = append(out, f.Name)
	}
	for _, x := range c.Tables {
		out = append(out, x.Name)
		columns(x.Name+".", t.TabByID(x.Tab))
	}
	if c.Log != nil {
		out = append(out, LogName)
		columns(LogName+".", t.TabByID(c.Log.Tab))
	}
	return out
}
