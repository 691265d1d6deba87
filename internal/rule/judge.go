package rule

import (
	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// judge says whether a rule's condition holds for a row and keeps the count.
func (c *cascade) judge(r *Compiled, tr *tabRule, env *clause.Env, t *sheet.Tracker, row *sheet.Row, e *event) bool {
	rep := c.report(r)
	rep.Considered++
	if tr.where == nil {
		rep.Matched++
		return true
	}
	program.Look(env, row)
	if e != nil {
		env.Before = beforeCells(e, t.TabOf(row))
	}
	switch tr.where.Judge(env) {
	case clause.Yes:
		rep.Matched++
		return true
	case clause.Odd:
		rep.pass(query.PassedOver(t, row, env))
	}
	return false
}

func (r *Report) pass(p Passed) {
	r.Passed++
	if len(r.PassedOver) < maxNamed {
		r.PassedOver = append(r.PassedOver, p)
	}
}

// noCells stands for the cells of a row before it was added.
var noCells = []value.Value{}

// beforeCells gives a row's cells before the edit, in the order of the tab in
// which it stands now.
func beforeCells(e *event, tab *sheet.TabShape) []value.Value {
	switch {
	case e.before == nil:
		return noCells
	case e.before.Tab == tab.ID:
		return e.before.Cells()
	}
	cells := make([]value.Value, len(tab.Columns))
	for i := range tab.Columns {
		cells[i] = e.before.Get(e.tabWas, tab.Columns[i].ID)
	}
	return cells
}
