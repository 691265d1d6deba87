package rule

import (
	"math/bits"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// match gives the rows of a tab, or those of only where it is not nil, for which
// a rule's condition holds, in order. What can be told from columns is, a chunk
// of rows at a time: most rows are never looked at.
func (c *cascade) match(t *sheet.Tracker, tab sheet.TabID, r *Compiled, only map[sheet.RowID]bool) []*sheet.Row {
	tr := r.tabs[tab]
	env := r.bound.Env(t, t.TabByID(tab), c.Now)
	if tr.screen == nil || only != nil {
		var rows []*sheet.Row
		for row := range t.Rows(tab) {
			if (only == nil || only[row.ID]) && c.judge(r, tr, env, t, row, nil) {
				rows = append(rows, row)
			}
		}
		return rows
	}
	chunks := t.Chunks(tab)
	marks, most := screen(tr.screen, env, chunks)
	rows := make([]*sheet.Row, 0, most)
	rep := c.report(r)
	for i := range chunks {
		all, m := chunks[i].Rows, &marks[i]
		rep.Considered += len(all)
		for half, word := range m.yes.Or(m.ask) {
			for ; word != 0; word &= word - 1 {
				at := 64*half + bits.TrailingZeros64(word)
				if m.ask.Has(at) {
					rep.Considered-- // judge counts it again
					if !c.judge(r, tr, env, t, all[at], nil) {
						continue
					}
				} else {
					rep.Matched++
				}
				rows = append(rows, all[at])
			}
		}
	}
	return rows
}

// marked are the rows of a chunk for which a condition holds, and those that
// must be asked one by one.
type marked struct{ yes, ask value.Bits }

// screen marks the rows of chunks by their columns, and counts the marks.
func screen(s *clause.Screen, env *clause.Env, chunks []sheet.Chunk) (marks []marked, count int) {
	bounds := s.Bounds(env)
	marks = make([]marked, len(chunks))
	for i := range chunks {
		m, c := &marks[i], &chunks[i]
		m.yes, m.ask = s.Judge(bounds, len(c.Rows), c.Column)
		count += m.yes.Or(m.ask).Count()
	}
	return marks, count
}
