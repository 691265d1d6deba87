package rule

import (
	"errors"
	"fmt"
	"math"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// evaluate works out a value; one that hangs on an odd cell passes the row over.
func (c *cascade) evaluate(u *run, f clause.ValueFunc, env *clause.Env) (value.Value, error) {
	v := f(env)
	if !v.IsOdd() {
		return v, nil
	}
	why, column := env.Fault, ""
	if col := c.draft.Tracker(u.tracker).ColumnByID(sheet.ColumnID(env.OddColumn)); col != nil && why == "" {
		column, why = col.Name, fmt.Sprintf("%s is not %s", col.Name, col.Type.Kind.Phrase())
	}
	return v, &errPassOver{column, why}
}

func compileSet(cells []Cell, tab *sheet.TabShape, scope *clause.Scope, shape *sheet.Shape) (stepFunc, error) {
	setters, err := compileCells(cells, tab, shape, scope)
	if err != nil {
		return nil, err
	}
	return func(c *cascade, u *run, row *sheet.Row) error {
		return c.setCells(u, row, setters, c.env(u, row))
	}, nil
}

func (c *cascade) setCells(u *run, row *sheet.Row, cells []cellSetter, env *clause.Env) error {
	for _, cell := range cells {
		env.Missed = ""
		v, err := c.evaluate(u, cell.to, env)
		if err != nil {
			return err
		}
		if v.IsBlank() && env.Missed != "" { // a lookup without a match leaves the cell as it is, and says so
			t := c.draft.Tracker(u.tracker)
			c.report(u.rule).pass(Passed{Row: row.ID.String(), Label: t.Label(row), Tab: t.TabOf(row).Name, Column: cell.column.Name,
				Why: fmt.Sprintf("no row of %s matches, so %s stays as it is", env.Missed, cell.column.Name)})
			continue
		}
		if err := c.setCell(u, u.tracker, row.ID, cell.column, v); err != nil {
			return err
		}
	}
	return nil
}

// setCell sets one cell unless it already holds the value. A value that fits does not give
// way to one that does not; the report says so.
func (c *cascade) setCell(u *run, tracker sheet.TrackerID, id sheet.RowID, col *sheet.Column, v value.Value) error {
	t := c.draft.Tracker(tracker)
	read, said, err := col.Read(v, c.draft.Form(t))
	if err != nil {
		return refused(err, id, col)
	}
	if read.IsOdd() {
		row := t.Row(id)
		if was := row.Get(t.TabOf(row), col.ID); !was.IsOdd() && !was.IsBlank() {
			c.report(u.rule).Unmet = true
			c.report(u.rule).pass(Passed{Row: id.String(), Label: t.Label(row), Tab: t.TabOf(row).Name, Column: col.Name, Why: misfit(read, said, col) + "; " + col.Name + " stays as it is"})
			return nil
		}
	}
	if said != nil {
		if read, err = c.draft.Read(t, col, v); err != nil { // once more, to be noted
			return refused(err, id, col)
		}
	}
	return c.write(u, tracker, id, col.ID, read)
}

// misfit says why a value does not fit its column.
func misfit(v value.Value, said *sheet.Reading, col *sheet.Column) string {
	if said != nil && said.Misfit != nil {
		return said.Misfit.Error()
	}
	return fmt.Sprintf("%q is not %s", v.Raw(), col.Type.Kind.Phrase())
}

// refused tells a refusal which row it is about.
func refused(err error, id sheet.RowID, col *sheet.Column) error {
	var r *sheet.Refusal
	if !errors.As(err, &r) {
		return &sheet.Refusal{Row: id, Column: col.Name, Reason: err.Error()}
	}
	r.Row = id
	return err
}

// write puts a value into a cell that does not hold it.
func (c *cascade) write(u *run, tracker sheet.TrackerID, id sheet.RowID, column sheet.ColumnID, v value.Value) error {
	return c.draft.Put(sheet.Cell{Tracker: tracker, Row: id, Column: column}, v, u.because)
}

func compilePut(p *Put, scope *clause.Scope, shape *sheet.Shape) (stepFunc, error) {
	put, err := putter(p, scope, shape)
	if err != nil {
		return nil, err
	}
	return func(c *cascade, u *run, row *sheet.Row) error { return put(c, u, c.env(u, row)) }, nil
}

// putter compiles a put for whatever its clauses look at.
func putter(p *Put, scope *clause.Scope, shape *sheet.Shape) (fileStep, error) {
	tab := shape.TabByID(p.Tab)
	if tab == nil {
		return nil, &sheet.NotFound{What: "tab", Name: p.Tab.String(), In: shape.Name}
	}
	cells, err := compileCells(p.Values, tab, shape, scope)
	if err != nil {
		return nil, err
	}
	keyAt := -1
	for i := range cells {
		if cells[i].column.ID == p.Key {
			keyAt = i
		}
	}
	if keyAt < 0 {
		return nil, errors.New("put needs a value for its key column")
	}
	return func(c *cascade, u *run, env *clause.Env) error {
		values := make([]value.Value, len(cells))
		for i, cell := range cells {
			v, err := c.evaluate(u, cell.to, env)
			if err != nil {
				return err
			}
			if values[i], err = c.draft.Read(c.draft.Tracker(u.tracker), cell.column, v); err != nil {
				return refused(err, 0, cell.column)
			}
		}
		if values[keyAt].IsBlank() {
			return &errPassOver{column: cells[keyAt].column.Name, why: "the key is blank"}
		}
		return c.put(u, tab, cells, values, keyAt)
	}, nil
}

func (c *cascade) put(u *run, tab *sheet.TabShape, cells []cellSetter, values []value.Value, keyAt int) error {
	if id, ok := c.byKey(u.tracker, tab, cells[keyAt].column.ID, values[keyAt]); ok {
		for i, cell := range cells {
			if i != keyAt {
				if err := c.setCell(u, u.tracker, id, cell.column, values[i]); err != nil {
					return err
				}
			}
		}
		return nil
	}
	laid, spoken := make([]value.Value, len(tab.Columns)), make([]bool, len(tab.Columns))
	for i, cell := range cells {
		slot := tab.Slot(cell.column.ID)
		laid[slot], spoken[slot] = values[i], true
	}
	_, err := c.draft.AddLaid(sheet.Place{Tracker: u.tracker, Tab: tab.ID}, laid, spoken, sheet.Besides{Origin: "put by " + u.rule.ID.String()}, u.because)
	return err
}

// byKey gives the row of a tab with a key: the first, where several have it.
func (c *cascade) byKey(tracker sheet.TrackerID, tab *sheet.TabShape, column sheet.ColumnID, key value.Value) (id sheet.RowID, found bool) {
	first := int64(math.MaxInt64)
	for r := range c.draft.Own(tracker).Holding(column, key) {
		if r.Tab == tab.ID && r.Pos < first {
			id, first, found = r.ID, r.Pos, true
		}
	}
	return id, found
}

// Unfit says which fixed values of the rule do not fit their columns as things are, such
// as names that nobody bears, whoever is asked by the form.
func (c *Compiled) Unfit(form *local.Form) []string {
	var out []string
	for i, s := range c.Steps {
		cells := s.Set
		switch {
		case s.Move != nil:
			cells = s.Move.Set
		case s.Copy != nil:
			cells = s.Copy.Set
		case s.Put != nil:
			cells = s.Put.Values
		}
		for _, cell := range cells {
			col := c.bound.Shape.ColumnByID(cell.Column)
			text, constant := plainText(cell.To)
			if col == nil || !constant {
				continue
			}
			if _, said, err := col.Read(text, form); err == nil && said != nil && said.Misfit != nil {
				out = append(out, fmt.Sprintf("rule %s, step %d (%s), column %s: %s", c.Name, i+1, s.Kind(), col.Name, said.Misfit))
			}
		}
	}
	return out
}
