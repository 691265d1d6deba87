package rule

import (
	"errors"
	"fmt"
	"slices"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Steps run in the order written, on the rows that the rule matched, wherever an earlier
// step has taken them. What follows a step that moves rows is about the tab in which they
// come to stand: its clauses name that tab's columns.

// moves gives the first step that moves rows within their tracker; where there is none,
// the number of steps.
func (r *Rule) moves() int {
	for i, s := range r.Steps {
		if s.Move != nil && s.Move.Tracker == "" {
			return i
		}
	}
	return len(r.Steps)
}

// standing gives the tabs in which rows stand before a step: none where that depends on
// the row, or where the rule names no tabs.
func (r *Rule) standing(shape *sheet.Shape, step int) []sheet.TabID {
	in := r.In
	for _, s := range r.Steps[:min(step, len(r.Steps))] {
		if s.Move == nil || s.Move.Tracker != "" {
			continue
		}
		in = nil
		if name, ok := plainText(s.Move.To); ok {
			if tab, err := shape.Tab(name); err == nil {
				in = []sheet.TabID{tab.ID}
			}
		}
	}
	return in
}

// TabRenamed follows a tab that has got another name.
func (r *Rule) TabRenamed(was, is string) {
	for i := range r.Steps {
		place := r.Steps[i].Place()
		if place == nil || place.Tracker != "" {
			continue
		}
		if name, constant := plainText(place.To); constant && value.EqualText(name, was) {
			place.To = clause.TemplateOf(is)
		}
		if value.EqualText(place.Create, was) {
			place.Create = is
		}
	}
}

// Follow calls by their new names what a rule names of another tracker, in steps that bring
// rows there: that tracker, a tab of it, columns.
func (r *Rule) Follow(was, is *sheet.Shape) {
	for i := range r.Steps {
		place := r.Steps[i].Place()
		if place == nil || !value.EqualText(place.Tracker, was.Name) {
			continue
		}
		place.Tracker = is.Name
		tabs := was.Tabs
		if name, constant := plainText(place.To); constant {
			if tab, err := was.Tab(name); err == nil {
				tabs = []sheet.TabShape{*tab}
				if now := is.TabByID(tab.ID); now != nil && now.Name != tab.Name {
					place.To = clause.TemplateOf(now.Name)
				}
			}
		}
		if tab, err := was.Tab(place.Create); err == nil && place.Create != "" {
			if now := is.TabByID(tab.ID); now != nil {
				place.Create = now.Name
			}
		}
		for _, name := range r.Steps[i].columnsThere() {
			for j := range tabs {
				c, err := tabs[j].Column(*name)
				if err != nil {
					continue
				}
				if now := is.ColumnByID(c.ID); now != nil {
					*name = now.Name
				}
				break
			}
		}
	}
}

// columnsThere gives where a step names columns of another tracker.
func (s Step) columnsThere() (names []*string) {
	place := s.Place()
	for i := range place.Columns {
		names = append(names, &place.Columns[i].To)
	}
	var set []NamedCell
	switch {
	case s.Move != nil:
		for i := range s.Move.ClearThere {
			names = append(names, &s.Move.ClearThere[i])
		}
		set = s.Move.SetThere
	case s.Copy != nil:
		set = s.Copy.SetThere
	}
	for i := range set {
		names = append(names, &set[i].Column)
	}
	return names
}

// Fits says what of a step that goes to another tracker is not there, in a tracker of that
// shape, or nil. A tab that depends on the row, or is made on the way, is not asked for.
func (s Step) Fits(there *sheet.Shape) error {
	place := s.Place()
	name, constant := plainText(place.To)
	if !constant || place.Create != "" {
		return nil
	}
	tab, err := there.Tab(name)
	if err != nil {
		return err
	}
	for _, n := range s.columnsThere() {
		if _, err := tab.Column(*n); err != nil {
			return err
		}
	}
	return nil
}

// compileAfter compiles what follows the step that moves rows, for every tab that they
// may come to.
func (c *Compiled) compileAfter() (part string, err error) {
	first := c.moves() + 1
	if first >= len(c.Steps) {
		return "", nil
	}
	c.after = map[sheet.TabID][]stepFunc{}
	shape := c.bound.Shape
	for i := range shape.Tabs {
		tab := &shape.Tabs[i]
		steps := make([]stepFunc, len(c.Steps))
		for n := first; n < len(c.Steps); n++ {
			step, err := compileStep(c.Steps[n], tab, c.bound.Scope(tab.ID, c.Wake.ByEdit()), shape)
			if err != nil {
				to := c.standing(shape, n)
				if slices.Contains(to, tab.ID) || !lacksName(err) {
					return fmt.Sprintf("step %d (%s)", n+1, c.Steps[n].Kind()), err
				}
				step = passes(tab, err)
			}
			steps[n] = step
		}
		c.after[tab.ID] = steps
	}
	return "", nil
}

// passes makes a step that a tab has no columns for, and which says so of each row.
func passes(tab *sheet.TabShape, err error) stepFunc {
	return func(c *cascade, u *run, _ *sheet.Row) error {
		c.report(u.rule).Unmet = true
		return &errPassOver{why: fmt.Sprintf("step %d (%s) is not done in %s: %v", u.step+1, u.rule.Steps[u.step].Kind(), tab.Name, err)}
	}
}

// wayBack takes rows home whose condition an edit has made fail.
type wayBack struct {
	from, home sheet.TabID
	where      *query.Filter // in the tab that they come from
	step       int
	move       stepFunc
}

func (c *Compiled) compileBack() (part string, err error) {
	for i, s := range c.Steps {
		if s.Move == nil || !s.Move.Back {
			continue
		}
		part = fmt.Sprintf("step %d (move), and back", i+1)
		shape := c.bound.Shape
		to := c.standing(shape, i+1)
		switch {
		case c.back != nil:
			return part, errors.New("another step of the rule moves rows back already")
		case s.Move.Tracker != "":
			return part, errors.New("rows come back from tabs of their own tracker alone")
		case !c.Wake.ByEdit() || c.Where == "":
			return part, errors.New("rows move back when an edit makes the condition fail: let an edit of a column start the rule, and give it a condition")
		case len(c.In) != 1 || len(to) != 1 || c.In[0] == to[0]:
			return part, errors.New("rows move back to one tab: let the rule work in one tab alone, and move to one other")
		}
		home, from := shape.TabByID(c.In[0]), shape.TabByID(to[0])
		scope := c.bound.Scope(from.ID, true)
		back := &wayBack{from: from.ID, home: home.ID, step: i}
		if back.where, err = query.Compile(c.Where, scope); err != nil {
			return part, err
		}
		back.move = func(c *cascade, u *run, row *sheet.Row) error {
			t := c.draft.Own(u.tracker)
			return c.move(u, &destination{Place: &Place{}}, row, from, t, t.TabByID(home.ID))
		}
		c.back = back
	}
	return "", nil
}

// returns gives the rows that an edit sends home.
func (c *cascade) returns(r *Compiled, t *sheet.Tracker, events []event) []candidate {
	var rows []candidate
	if r.back == nil {
		return nil
	}
	env := r.bound.Env(t, t.TabByID(r.back.from), c.Now, c.Meter)
	for i := range events {
		e := &events[i]
		row := t.Row(e.row)
		if row == nil || row.Tab != r.back.from || e.added || !r.wokenBy(e) {
			continue
		}
		if e.before != nil && e.before.Tab != row.Tab { // it has only just come
			continue
		}
		program.Look(env, row)
		env.Before = beforeCells(e, t.TabOf(row))
		if r.back.where.Judge(env) == clause.No {
			rows = append(rows, candidate{row.ID, e.cause})
		}
	}
	return rows
}

// sendBack moves rows home.
func (c *cascade) sendBack(r *Compiled, tracker sheet.TrackerID, rows []candidate) error {
	u := &run{rule: r, tracker: tracker, step: r.back.step, envs: map[sheet.TabID]*clause.Env{}, routes: map[route][]pairing{}}
	causes, first := map[[2]int]int{}, len(c.draft.Changes())
	for _, cand := range rows {
		row := c.draft.Tracker(tracker).Row(cand.id)
		u.because = c.causeFor(causes, r, r.back.step, cand.cause)
		if err := r.back.move(c, u, row); err != nil {
			if err := c.stepFailed(u, row, err); err != nil {
				return err
			}
		}
		rep := c.report(r)
		rep.Matched++
		rep.Steps[r.back.step].Rows++
	}
	c.report(r).Steps[r.back.step].Changed += len(c.draft.Changes()) - first
	return c.withinLimit(r, first)
}
