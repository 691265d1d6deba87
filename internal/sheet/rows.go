package sheet

import (
	"iter"
	"slices"
	"sort"
	"sync/atomic"

	"example.org/kavlo/internal/value"
)

// chunkRows is how many rows stand together; a change copies one such chunk.
const chunkRows = value.VectorRows

// token marks what a draft has already copied and may alter in place.
type token struct{ _ byte }

type chunk struct {
	owner *token
	rows  []*Row // by position
	// columns are the vectors of columns asked for so far. Readers of one state
	// share a chunk, so a link is put before the others and never altered.
	columns atomic.Pointer[columnLink]
}

type columnLink struct {
	slot int
	next *columnLink
	value.Vector
}

// column gives the chunk's cells in a slot as a vector, made when first asked for.
func (c *chunk) column(slot int) *value.Vector {
	first := c.columns.Load()
	if v := first.find(slot); v != nil {
		return v
	}
	link := &columnLink{slot: slot, next: first}
	link.Fill(len(c.rows), func(i int) *value.Value {
		if cells := c.rows[i].cells; slot < len(cells) {
			return &cells[slot]
		}
		return nil
	})
	c.columns.CompareAndSwap(first, link) // lost to another reader: made again when next asked for
	return &link.Vector
}

func (l *columnLink) find(slot int) *value.Vector {
	for ; l != nil; l = l.next {
		if l.slot == slot {
			return &l.Vector
		}
	}
	return nil
}

// Chunk is some neighbouring rows of a tab, at most value.VectorRows.
type Chunk struct {
	Rows    []*Row // in order; not to be altered
	columns *columnLink
	chunk   *chunk
}

// Column gives the rows' cells in a slot of their tab, close together.
func (c *Chunk) Column(slot int) *value.Vector {
	if v := c.columns.find(slot); v != nil {
		return v
	}
	return c.chunk.column(slot)
}

// rowList is a tab's rows in order of position, in chunks.
type rowList struct {
	owner  *token
	chunks []*chunk
	count  int
	edits  int64 // since the list was copied
}

func (l *rowList) all() iter.Seq[*Row] {
	return func(yield func(*Row) bool) {
		for _, c := range l.chunks {
			for _, r := range c.rows {
				if !yield(r) {
					return
				}
			}
		}
	}
}

// slice gives up to n rows from an offset on.
func (l *rowList) slice(offset, n int) []*Row {
	var out []*Row
	for _, c := range l.chunks {
		if offset >= len(c.rows) {
			offset -= len(c.rows)
			continue
		}
		take := min(len(c.rows)-offset, n-len(out))
		out = append(out, c.rows[offset:offset+take]...)
		offset = 0
		if len(out) >= n {
			break
		}
	}
	return out
}

// chunkOf gives the index of the chunk in which a row of that position stands
// or would stand.
func (l *rowList) chunkOf(pos int64) int {
	i := sort.Search(len(l.chunks), func(i int) bool {
		rows := l.chunks[i].rows
		return rows[len(rows)-1].Pos >= pos
	})
	return min(i, len(l.chunks)-1)
}

func placeIn(rows []*Row, pos int64) (int, bool) {
	return slices.BinarySearchFunc(rows, pos, func(r *Row, p int64) int {
		switch {
		case r.Pos < p:
			return -1
		case r.Pos > p:
			return 1
		}
		return 0
	})
}

func (l *rowList) own(i int, t *token) *chunk {
	c := l.chunks[i]
	if c.owner == t {
		c.columns.Store(nil)
		return c
	}
	rows := make([]*Row, len(c.rows), chunkRows)
	copy(rows, c.rows)
	c = &chunk{owner: t, rows: rows}
	l.chunks[i] = c
	return c
}

// insert puts a row at its position; the caller has made sure it is free.
func (l *rowList) insert(r *Row, t *token) {
	l.count++
	l.edits++
	if len(l.chunks) == 0 {
		l.chunks = append(l.chunks, &chunk{owner: t, rows: append(make([]*Row, 0, chunkRows), r)})
		return
	}
	i := l.chunkOf(r.Pos)
	c := l.chunks[i]
	if len(c.rows) == chunkRows {
		if i == len(l.chunks)-1 && c.rows[chunkRows-1].Pos < r.Pos { // appending: begin a new chunk
			l.chunks = append(l.chunks, &chunk{owner: t, rows: append(make([]*Row, 0, chunkRows), r)})
			return
		}
		half := chunkRows / 2
		left := &chunk{owner: t, rows: append(make([]*Row, 0, chunkRows), c.rows[:half]...)}
		right := &chunk{owner: t, rows: append(make([]*Row, 0, chunkRows), c.rows[half:]...)}
		l.chunks = slices.Replace(l.chunks, i, i+1, left, right)
		if r.Pos > left.rows[half-1].Pos {
			i++
		}
	}
	c = l.own(i, t)
	at, _ := placeIn(c.rows, r.Pos)
	c.rows = slices.Insert(c.rows, at, r)
}

func (l *rowList) remove(pos int64, t *token) {
	i := l.chunkOf(pos)
	at, found := placeIn(l.chunks[i].rows, pos)
	if !found {
		return
	}
	l.count--
	l.edits++
	if len(l.chunks[i].rows) == 1 {
		l.chunks = slices.Delete(l.chunks, i, i+1)
		return
	}
	c := l.own(i, t)
	c.rows = slices.Delete(c.rows, at, at+1)
}

func (l *rowList) replace(r *Row, t *token) {
	l.edits++
	c := l.own(l.chunkOf(r.Pos), t)
	at, _ := placeIn(c.rows, r.Pos)
	c.rows[at] = r
}

// taken reports whether a row stands at that position.
func (l *rowList) taken(pos int64) bool {
	if len(l.chunks) == 0 {
		return false
	}
	_, found := placeIn(l.chunks[l.chunkOf(pos)].rows, pos)
	return found
}

// pageRows is how many row ids one page of the index covers.
const pageRows = 128

type page struct {
	owner *token
	rows  [pageRows]*Row
}

// rowIndex finds rows by id: pages of consecutive ids, copied when written.
type rowIndex struct {
	owner *token
	pages []*page
}

func (x *rowIndex) get(id RowID) *Row {
	p := int(id / pageRows)
	if id < 0 || p >= len(x.pages) || x.pages[p] == nil {
		return nil
	}
	return x.pages[p].rows[id%pageRows]
}

func (x *rowIndex) set(id RowID, r *Row, t *token) {
	if x.owner != t {
		x.pages = slices.Clone(x.pages)
		x.owner = t
	}
	p := int(id / pageRows)
	if p >= len(x.pages) {
		x.pages = append(x.pages, make([]*page, p+1-len(x.pages))...)
	}
	switch pg := x.pages[p]; {
	case pg == nil:
		x.pages[p] = &page{owner: t}
	case pg.owner != t:
		c := *pg
		c.owner = t
		x.pages[p] = &c
	}
	x.pages[p].rows[id%pageRows] = r
}
