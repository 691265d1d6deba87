package rule

import (
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// match gives the rows of a tab, or those of only where it is not nil, for which
// a rule's condition holds, in order.
func (c *cascade) match(t *sheet.Tracker, tab sheet.TabID, r *Compiled, only map[sheet.RowID]bool) []*sheet.Row {
	tr := r.tabs[tab]
	env := r.bound.Env(t, t.TabByID(tab), c.Now, c.Meter)
	if tr.screen == nil || only != nil {
		var rows []*sheet.Row
		for row := range t.Rows(tab) {
			if (only == nil || only[row.ID]) && c.judge(r, tr, env, t, row, nil) {
				rows = append(rows, row)
			}
		}
		return rows
	}
	marks := program.Mark(tr.screen, env, t, tab)
	rows := make([]*sheet.Row, 0, marks.Most)
	rep := c.report(r)
	rep.Considered += marks.Rows
	for row, ask := range marks.All() {
		if ask {
			rep.Considered-- // judge counts it again
			if !c.judge(r, tr, env, t, row, nil) {
				continue
			}
		} else {
			rep.Matched++
		}
		rows = append(rows, row)
	}
	return rows
}
