package query

import (
	"iter"
	"math/bits"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// marks are the rows of a tab for which a condition holds, or may hold, as far as
// their columns tell.
type marks struct {
	most   int // rows that are marked
	chunks []sheet.Chunk
	of     []marked
}

// marked are the rows of a chunk for which a condition holds, and those that
// must be asked one by one.
type marked struct{ yes, ask value.Bits }

// mark asks a condition's column filter of the columns of a tab, a chunk of rows at a
// time: most rows are never looked at.
func mark(s *clause.ColumnFilter, env *clause.Env, t *sheet.Tracker, tab sheet.TabID) *marks {
	m := &marks{chunks: t.Chunks(tab)}
	bounds := s.Bounds(env)
	m.of = make([]marked, len(m.chunks))
	for i := range m.chunks {
		c, at := &m.chunks[i], &m.of[i]
		at.yes, at.ask = s.Judge(bounds, len(c.Rows), c.Column)
		m.most += at.yes.Or(at.ask).Count()
	}
	return m
}

// all gives the marked rows in order, and whether each must be judged by itself.
func (m *marks) all() iter.Seq2[*sheet.Row, bool] {
	return func(yield func(*sheet.Row, bool) bool) {
		for i := range m.chunks {
			rows, at := m.chunks[i].Rows, &m.of[i]
			for half, word := range at.yes.Or(at.ask) {
				for ; word != 0; word &= word - 1 {
					n := 64*half + bits.TrailingZeros64(word)
					if !yield(rows[n], at.ask.Has(n)) {
						return
					}
				}
			}
		}
	}
}
