package rule

import (
	"errors"
	"fmt"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/derive"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// run is one rule's steps being run on the rows it matched.
type run struct {
	rule    *Compiled
	tracker sheet.TrackerID
	step    int
	because int
	envs    map[sheet.TabID]*clause.Env
}

// errPassOver makes a step pass over a row; what follows the colon says why.
type errPassOver struct{ column, why string }

func (e *errPassOver) Error() string { return e.why }

// runSteps runs a rule's steps in order, each on all rows before the next.
func (c *cascade) runSteps(r *Compiled, tracker sheet.TrackerID, rows []candidate) error {
	causes := map[[2]int]int{}
	for i := range r.Steps {
		u := &run{rule: r, tracker: tracker, step: i, envs: map[sheet.TabID]*clause.Env{}}
		for _, cand := range rows {
			row := c.draft.Tracker(tracker).Row(cand.id)
			if row == nil { // moved to another tracker or removed by an earlier step
				continue
			}
			tr := r.tabs[row.Tab]
			if tr == nil {
				continue // an earlier step moved it to where the rule has no say
			}
			u.because = c.causeFor(causes, r, i, cand.cause)
			before := len(c.draft.Changes())
			if err := tr.steps[i](c, u, row); err != nil {
				if err := c.stepFailed(u, row, err); err != nil {
					return err
				}
			}
			rep := c.report(r)
			rep.Steps[i].Rows++
			rep.Steps[i].Changed += len(c.draft.Changes()) - before
		}
	}
	return nil
}

func (c *cascade) stepFailed(u *run, row *sheet.Row, err error) error {
	t := c.draft.Tracker(u.tracker)
	if now := t.Row(row.ID); now != nil {
		row = now
	}
	label := t.Label(row)
	var over *errPassOver
	if errors.As(err, &over) {
		c.report(u.rule).pass(Passed{Row: row.ID.String(), Label: label, Tab: t.TabOf(row).Name, Column: over.column, Why: over.why})
		return nil
	}
	e := &StepError{Rule: u.rule.Name, Step: u.step + 1, Kind: u.rule.Steps[u.step].Kind(), Row: row.ID, Label: label, Err: err}
	var refusal *sheet.Refusal
	if errors.As(err, &refusal) {
		e.Column = refusal.Column
	}
	return e
}

func (c *cascade) causeFor(known map[[2]int]int, r *Compiled, step, woke int) int {
	key := [2]int{step, woke}
	i, ok := known[key]
	if !ok {
		i = len(c.out.Causes)
		c.out.Causes = append(c.out.Causes, sheet.Cause{Kind: sheet.ByRule, Name: r.Name, Part: r.ID, Step: step + 1, Woke: woke, Says: r.Steps[step].Remark})
		known[key] = i
	}
	return i
}

func compileStep(s Step, tab *sheet.TabShape, scope *clause.Scope, shape *sheet.Shape) (stepFunc, error) {
	switch {
	case s.Move != nil:
		return compileMove(s.Move, tab, scope, shape)
	case s.Put != nil:
		return compilePut(s.Put, scope, shape)
	case len(s.Set) > 0:
		cells, err := compileCells(s.Set, tab, shape, scope)
		if err != nil {
			return nil, err
		}
		return func(c *cascade, u *run, row *sheet.Row) error {
			return c.setCells(u, row, cells, c.env(u, row))
		}, nil
	}
	return nil, errors.New("the step does nothing: say move, set or put")
}

// env lays the row, as the draft has it now, before the step's clauses.
func (c *cascade) env(u *run, row *sheet.Row) *clause.Env {
	e := u.envs[row.Tab]
	if e == nil {
		t := c.draft.Tracker(u.tracker)
		e = u.rule.bound.Env(t, t.TabOf(row), c.now)
		u.envs[row.Tab] = e
	}
	derive.Look(e, row)
	return e
}

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

func (c *cascade) setCells(u *run, row *sheet.Row, cells []cellSetter, env *clause.Env) error {
	for _, cell := range cells {
		v, err := c.evaluate(u, cell.to, env)
		if err != nil {
			return err
		}
		if err := c.setCell(u, row.ID, cell.column, v); err != nil {
			return err
		}
	}
	return nil
}

// setCell sets one cell unless it already holds the value.
func (c *cascade) setCell(u *run, id sheet.RowID, col *sheet.Column, v value.Value) error {
	fitted, err := value.Fit(v, col.Type)
	if err == nil {
		_, err = col.Read(fitted.String())
	}
	if err != nil {
		var refusal *sheet.Refusal
		if errors.As(err, &refusal) || col.BadInput == sheet.Refuse {
			return &sheet.Refusal{Row: id, Column: col.Name, Reason: err.Error()}
		}
	}
	t := c.draft.Tracker(u.tracker)
	row := t.Row(id)
	before := row.Get(t.TabOf(row), col.ID)
	if before == fitted {
		return nil
	}
	return c.draft.Apply(sheet.Change{Kind: sheet.Set, Tracker: u.tracker, Tab: row.Tab, Row: id, Column: col.ID, Before: before, After: fitted, Because: u.because})
}

func compileMove(m *Move, tab *sheet.TabShape, scope *clause.Scope, shape *sheet.Shape) (stepFunc, error) {
	expr, err := clause.CheckTemplate(m.To, scope)
	if err != nil {
		return nil, fmt.Errorf("to: %w", err)
	}
	if name, ok := expr.Constant(); ok {
		if _, err := shape.Tab(name); err != nil {
			return nil, err
		}
	}
	to := expr.Value()
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
	return func(c *cascade, u *run, row *sheet.Row) error {
		env := c.env(u, row)
		where, err := c.evaluate(u, to, env)
		if err != nil {
			return err
		}
		name := strings.TrimSpace(where.String())
		if name == "" {
			return &errPassOver{why: "the tab to move to is blank"}
		}
		t := c.draft.Tracker(u.tracker)
		target, err := t.Tab(name)
		if err != nil {
			return err
		}
		if target.ID == row.Tab {
			return nil
		}
		return c.move(u, row, tab, target, cells, clear, env)
	}, nil
}

func (c *cascade) move(u *run, row *sheet.Row, from, to *sheet.TabShape, cells []cellSetter, clear []*sheet.Column, env *clause.Env) error {
	values := make([]value.Value, len(cells)) // worked out where the row still stands
	for i, cell := range cells {
		v, err := c.evaluate(u, cell.to, env)
		if err != nil {
			return err
		}
		values[i] = v
	}
	err := c.draft.Apply(sheet.Change{Kind: sheet.Move, Tracker: u.tracker, Tab: row.Tab, Row: row.ID, ToTab: to.ID, Because: u.because})
	if err != nil {
		return err
	}
	for _, pair := range namesakes(from, to) {
		if v := row.At(pair.slot); !v.IsBlank() {
			if err := c.fillNamesake(u, row.ID, pair.column, v); err != nil {
				return err
			}
		}
	}
	for i, cell := range cells {
		if err := c.setCell(u, row.ID, cell.column, values[i]); err != nil {
			return err
		}
	}
	for _, col := range clear {
		if err := c.setCell(u, row.ID, col, value.Value{}); err != nil {
			return err
		}
	}
	return nil
}

type namesake struct {
	slot   int // in the tab left
	column *sheet.Column
}

// namesakes gives the columns that the two tabs call the same but hold in
// different types, so that their values must be read anew.
func namesakes(from, to *sheet.TabShape) []namesake {
	var out []namesake
	for slot := range from.Columns {
		f := &from.Columns[slot]
		if f.Computed() || to.Slot(f.ID) >= 0 {
			continue
		}
		if t, err := to.Column(f.Name); err == nil && !t.Computed() {
			out = append(out, namesake{slot, t})
		}
	}
	return out
}

// fillNamesake gives a moved row its value for a column of another type; what
// does not fit stands there as an odd cell.
func (c *cascade) fillNamesake(u *run, id sheet.RowID, col *sheet.Column, v value.Value) error {
	t := c.draft.Tracker(u.tracker)
	row := t.Row(id)
	before := row.Get(t.TabOf(row), col.ID)
	if !before.IsBlank() {
		return nil
	}
	fitted, _ := value.Fit(v, col.Type) // a misfit is kept, as an odd value
	return c.draft.Apply(sheet.Change{Kind: sheet.Set, Tracker: u.tracker, Tab: row.Tab, Row: id, Column: col.ID, Before: before, After: fitted, Because: u.because})
}

func compilePut(p *Put, scope *clause.Scope, shape *sheet.Shape) (stepFunc, error) {
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
	return func(c *cascade, u *run, row *sheet.Row) error {
		env := c.env(u, row)
		values := make([]value.Value, len(cells))
		for i, cell := range cells {
			v, err := c.evaluate(u, cell.to, env)
			if err != nil {
				return err
			}
			if values[i], err = value.Fit(v, cell.column.Type); err != nil && cell.column.BadInput == sheet.Refuse {
				return &sheet.Refusal{Column: cell.column.Name, Reason: err.Error()}
			}
		}
		if values[keyAt].IsBlank() {
			return &errPassOver{column: cells[keyAt].column.Name, why: "the key is blank"}
		}
		return c.put(u, tab, cells, values, keyAt)
	}, nil
}

func (c *cascade) put(u *run, tab *sheet.TabShape, cells []cellSetter, values []value.Value, keyAt int) error {
	index := c.keyIndex(u.tracker, tab, cells[keyAt].column.ID)
	key := value.Fold(values[keyAt].String())
	if id, ok := index[key]; ok {
		for i, cell := range cells {
			if i != keyAt {
				if err := c.setCell(u, id, cell.column, values[i]); err != nil {
					return err
				}
			}
		}
		return nil
	}
	img := &sheet.Image{Cells: map[sheet.ColumnID]value.Value{}, Origin: "put by " + u.rule.ID.String()}
	for i, cell := range cells {
		if !values[i].IsBlank() {
			img.Cells[cell.column.ID] = values[i]
		}
	}
	id := c.draft.NewRow()
	index[key] = id
	return c.draft.Apply(sheet.Change{Kind: sheet.Add, Tracker: u.tracker, Tab: tab.ID, Row: id, Image: img, Because: u.because})
}

// keyIndex gives the rows of a tab by their folded key, the first of each.
func (c *cascade) keyIndex(tracker sheet.TrackerID, tab *sheet.TabShape, column sheet.ColumnID) map[string]sheet.RowID {
	at := keyColumn{tracker, tab.ID, column}
	if index := c.keys[at]; index != nil {
		return index
	}
	index := map[string]sheet.RowID{}
	slot := tab.Slot(column)
	for r := range c.draft.Tracker(tracker).Rows(tab.ID) {
		if v := r.At(slot); !v.IsBlank() {
			if key := value.Fold(v.String()); index[key] == 0 {
				index[key] = r.ID
			}
		}
	}
	c.keys[at] = index
	return index
}
