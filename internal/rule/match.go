package rule

import "example.org/kavlo/internal/sheet"

// match gives the rows of a tab, or those of only where it is not nil, for which
// a rule's condition holds, in order.
func (c *cascade) match(t *sheet.Tracker, tab sheet.TabID, r *Compiled, only map[sheet.RowID]bool) []*sheet.Row {
	tr := r.tabs[tab]
	env := r.bound.Env(t, t.TabByID(tab), c.Now, c.Meter)
	var rows []*sheet.Row
	if only != nil {
		for row := range t.Rows(tab) {
			if only[row.ID] && c.judge(r, tr, env, t, row, nil) {
				rows = append(rows, row)
			}
		}
		return rows
	}
	candidates, most := tr.where.Candidates(env, t, tab)
	if tr.where.ByColumn() {
		rows = make([]*sheet.Row, 0, most)
	}
	rep := c.report(r)
	rep.Considered += t.Count(tab)
	for row, ask := range candidates {
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
