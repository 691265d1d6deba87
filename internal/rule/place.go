package rule

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// destination is a place ready to be found for a row.
type destination struct {
	*Place
	to clause.ValueFunc
}

func compilePlace(p *Place, scope *clause.Scope, shape *sheet.Shape) (*destination, error) {
	expr, err := clause.CheckTemplate(p.To, scope)
	if err != nil {
		return nil, fmt.Errorf("to: %w", err)
	}
	if p.Tracker == "" {
		if p.Create != "" {
			if _, err := shape.Tab(p.Create); err != nil {
				return nil, fmt.Errorf("create: %w", err)
			}
		} else if name, ok := expr.Constant(); ok {
			if _, err := shape.Tab(name); err != nil {
				return nil, err
			}
		}
	}
	for _, pair := range p.Columns {
		if shape.ColumnByID(pair.From) == nil {
			return nil, &sheet.NotFound{What: "column", Name: pair.From.String(), In: shape.Name}
		}
	}
	return &destination{p, expr.Value()}, nil
}

// find gives the tracker and tab that a row goes to, making the tab where the
// place says so.
func (d *destination) find(c *cascade, u *run, env *clause.Env) (*sheet.Tracker, *sheet.TabShape, error) {
	where, err := c.evaluate(u, d.to, env)
	if err != nil {
		return nil, nil, err
	}
	name := strings.TrimSpace(where.String())
	if name == "" {
		return nil, nil, &errPassOver{why: "the tab to go to is blank"}
	}
	own := c.draft.Tracker(u.tracker)
	t := own
	if d.Tracker != "" {
		if t, err = c.draft.Now().Find(d.Tracker); err != nil {
			return nil, nil, err
		}
	}
	tab, err := t.Tab(name)
	if err == nil || d.Create == "" {
		return t, tab, err
	}
	like, err := t.Tab(d.Create)
	if err != nil {
		if like, err = own.Tab(d.Create); err != nil {
			return nil, nil, err
		}
	}
	after := t.Clone()
	after.Tabs = append(after.Tabs, sheet.TabShape{ID: sheet.TabID(c.NewID()), Name: name, Label: like.Label, Columns: like.Columns})
	err = c.draft.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: t.ID, ShapeBefore: t.Shape, ShapeAfter: after, Because: u.because})
	if err != nil {
		return nil, nil, err
	}
	t = c.draft.Tracker(t.ID)
	tab, err = t.Tab(name)
	return t, tab, err
}

// route is the way between two tabs, and pairing a column of the one left whose
// value goes to another column of the one reached.
type route struct{ from, to sheet.TabID }

type pairing struct {
	slot int // in the tab left
	from sheet.ColumnID
	to   *sheet.Column
}

// pairings gives the columns whose values must be handed over: those that the
// place pairs, and namesakes that are different columns. A column that both
// tabs have needs no handing over.
func (d *destination) pairings(u *run, from, to *sheet.TabShape) ([]pairing, error) {
	key := route{from.ID, to.ID}
	if known, ok := u.routes[key]; ok {
		return known, nil
	}
	out := []pairing{}
	paired := map[sheet.ColumnID]bool{}
	for _, p := range d.Columns {
		slot := from.Slot(p.From)
		if slot < 0 {
			continue
		}
		c, err := to.Column(p.To)
		if err != nil {
			return nil, err
		}
		if c.Computed() {
			return nil, fmt.Errorf("column %s of %s is computed and takes no values", c.Name, to.Name)
		}
		paired[p.From] = true
		out = append(out, pairing{slot, p.From, c})
	}
	for slot := range from.Columns {
		f := &from.Columns[slot]
		if f.Computed() || paired[f.ID] || to.Slot(f.ID) >= 0 {
			continue
		}
		if c, err := to.Column(f.Name); err == nil && !c.Computed() {
			out = append(out, pairing{slot, f.ID, c})
		}
	}
	u.routes[key] = out
	return out, nil
}

// setHere gives the column of a tab that a cell of a step means: the column
// itself, or its namesake in another tracker.
func setHere(tab *sheet.TabShape, c *sheet.Column) (*sheet.Column, error) {
	if own := tab.ByID(c.ID); own != nil {
		return own, nil
	}
	return tab.Column(c.Name)
}

func compileMove(m *Move, tab *sheet.TabShape, scope *clause.Scope, shape *sheet.Shape) (stepFunc, error) {
	place, err := compilePlace(&m.Place, scope, shape)
	if err != nil {
		return nil, err
	}
	cells, err := compileCells(m.Set, nil, shape, scope)
	if err != nil {
		return nil, err
	}
	var clear []*sheet.Column
	for _, id := range m.Clear {
		col := shape.ColumnByID(id)
		if col == nil {
			return nil, &sheet.NotFound{What: "column", Name: id.String(), In: shape.Name}
		}
		clear = append(clear, col)
	}
	there, err := compileThere(m.SetThere, m.ClearThere, scope)
	if err != nil {
		return nil, err
	}
	return func(c *cascade, u *run, row *sheet.Row) error {
		env := c.env(u, row)
		t, to, err := place.find(c, u, env)
		if err != nil || to.ID == row.Tab {
			return err
		}
		values, err := c.evaluateAll(u, cells, env) // where the row still stands
		if err != nil {
			return err
		}
		named, err := c.evaluateThere(u, there, to, env)
		if err != nil {
			return err
		}
		if err := c.move(u, place, row, tab, t, to); err != nil {
			return err
		}
		for _, n := range named {
			if err := c.setCell(u, t.ID, row.ID, n.column, n.value); err != nil {
				return err
			}
		}
		for i, cell := range cells {
			col, err := setHere(to, cell.column)
			if t.ID == u.tracker { // a column that the tab lacks is carried
				col, err = cell.column, nil
			}
			if err != nil {
				return err
			}
			if err := c.setCell(u, t.ID, row.ID, col, values[i]); err != nil {
				return err
			}
		}
		for _, col := range clear {
			if own, err := setHere(to, col); err == nil {
				col = own
			}
			if err := c.write(u, t.ID, row.ID, col.ID, value.Value{}); err != nil {
				return err
			}
		}
		return nil
	}, nil
}

// namedSetter is a column of another tracker with its compiled new value.
type namedSetter struct {
	name string
	to   clause.ValueFunc // nil: it is cleared
}

type namedValue struct {
	column *sheet.Column
	value  value.Value
}

func compileThere(set []NamedCell, clear []string, scope *clause.Scope) ([]namedSetter, error) {
	var out []namedSetter
	for _, cell := range set {
		expr, err := clause.CheckTemplate(cell.To, scope)
		if err != nil {
			return nil, fmt.Errorf("column %s: %w", cell.Column, err)
		}
		out = append(out, namedSetter{cell.Column, expr.Value()})
	}
	for _, name := range clear {
		out = append(out, namedSetter{name: name})
	}
	return out, nil
}

// evaluateThere finds the columns in the tab that a row goes to, and works out their values.
func (c *cascade) evaluateThere(u *run, cells []namedSetter, to *sheet.TabShape, env *clause.Env) ([]namedValue, error) {
	out := make([]namedValue, len(cells))
	for i, cell := range cells {
		var err error
		if out[i].column, err = to.Column(cell.name); err != nil {
			return nil, err
		}
		if cell.to == nil {
			continue
		}
		if out[i].value, err = c.evaluate(u, cell.to, env); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (c *cascade) evaluateAll(u *run, cells []cellSetter, env *clause.Env) ([]value.Value, error) {
	values := make([]value.Value, len(cells))
	for i, cell := range cells {
		v, err := c.evaluate(u, cell.to, env)
		if err != nil {
			return nil, err
		}
		values[i] = v
	}
	return values, nil
}

// move takes a row to its tab and hands its values, notes and looks over to
// columns of other identity; what does not fit there stands as an odd cell.
func (c *cascade) move(u *run, place *destination, row *sheet.Row, from *sheet.TabShape, t *sheet.Tracker, to *sheet.TabShape) error {
	pairs, err := place.pairings(u, from, to)
	if err != nil {
		return err
	}
	err = c.draft.Apply(sheet.Change{Kind: sheet.Move, Tracker: u.tracker, Tab: row.Tab, Row: row.ID, ToTracker: t.ID, ToTab: to.ID, Because: u.because})
	if err != nil {
		return err
	}
	for _, p := range pairs {
		v := row.At(p.slot)
		fitted, _ := value.Fit(v, p.to.Type) // a misfit is kept, as an odd value
		if err := c.write(u, t.ID, row.ID, p.to.ID, fitted); err != nil {
			return err
		}
		if p.from == p.to.ID {
			continue
		}
		if err := c.write(u, t.ID, row.ID, p.from, value.Value{}); err != nil {
			return err
		}
		for _, kind := range []sheet.Kind{sheet.Note, sheet.Style} {
			text := row.Texts(kind)[p.from]
			at := sheet.Cell{Tracker: t.ID, Row: row.ID, Column: p.to.ID}
			if err := c.draft.Annotate(at, kind, text, u.because); err != nil {
				return err
			}
			at.Column = p.from
			if err := c.draft.Annotate(at, kind, "", u.because); err != nil {
				return err
			}
		}
	}
	return nil
}

func compileCopy(m *Copy, tab *sheet.TabShape, scope *clause.Scope, shape *sheet.Shape) (stepFunc, error) {
	place, err := compilePlace(&m.Place, scope, shape)
	if err != nil {
		return nil, err
	}
	cells, err := compileCells(m.Set, nil, shape, scope)
	if err != nil {
		return nil, err
	}
	there, err := compileThere(m.SetThere, nil, scope)
	if err != nil {
		return nil, err
	}
	return func(c *cascade, u *run, row *sheet.Row) error {
		env := c.env(u, row)
		t, to, err := place.find(c, u, env)
		if err != nil {
			return err
		}
		origin := fmt.Sprintf("copy of %s by %s step %d", row.ID, u.rule.ID, u.step+1)
		if !m.Again {
			for range c.draft.Own(t.ID).From(origin) {
				return nil
			}
		}
		values, err := c.evaluateAll(u, cells, env)
		if err != nil {
			return err
		}
		laid, spoken, besides, err := place.image(u, row, tab, to)
		if err != nil {
			return err
		}
		for i, cell := range cells {
			col, err := setHere(to, cell.column)
			if err != nil {
				return err
			}
			slot := to.Slot(col.ID)
			if laid[slot], err = c.draft.Read(t, col, values[i]); err != nil {
				return refused(err, 0, col)
			}
			spoken[slot] = true
		}
		named, err := c.evaluateThere(u, there, to, env)
		if err != nil {
			return err
		}
		for _, n := range named {
			slot := to.Slot(n.column.ID)
			if laid[slot], err = c.draft.Read(t, n.column, n.value); err != nil {
				return refused(err, 0, n.column)
			}
			spoken[slot] = true
		}
		besides.Origin = origin
		_, err = c.draft.AddLaid(sheet.Place{Tracker: t.ID, Tab: to.ID}, laid, spoken, besides, u.because)
		return err
	}, nil
}

// image gives what a copy of a row holds in the tab it goes to: its cells in the
// order of that tab's columns, which of these the row has something to say of, and
// their notes and looks.
func (d *destination) image(u *run, row *sheet.Row, from, to *sheet.TabShape) (laid []value.Value, spoken []bool, besides sheet.Besides, err error) {
	pairs, err := d.pairings(u, from, to)
	if err != nil {
		return nil, nil, besides, err
	}
	laid, spoken = make([]value.Value, len(to.Columns)), make([]bool, len(to.Columns))
	besides.Notes, besides.Styles = map[sheet.ColumnID]string{}, map[sheet.ColumnID]string{}
	take := func(slot int, source sheet.ColumnID, c *sheet.Column) {
		if v, _ := value.Fit(row.At(slot), c.Type); v.Kind() != value.Blank { // a misfit is kept, as an odd value
			laid[to.Slot(c.ID)] = v
		}
		spoken[to.Slot(c.ID)] = !c.AutoNo // a copy is a row of its own, with a number of its own
		if note := row.Notes()[source]; note != "" {
			besides.Notes[c.ID] = note
		}
		if look := row.Styles()[source]; look != "" {
			besides.Styles[c.ID] = look
		}
	}
	for slot := range from.Columns {
		if c := to.ByID(from.Columns[slot].ID); c != nil && !c.Computed() {
			take(slot, c.ID, c)
		}
	}
	for _, p := range pairs {
		take(p.slot, p.from, p.to)
	}
	return laid, spoken, besides, nil
}
