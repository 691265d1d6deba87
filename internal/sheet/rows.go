package sheet

import (
	"iter"
	"math"
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
	most    atomic.Pointer[largest]
	kept    kept
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

// blockChunks is how many chunks one entry of a tab's directory holds. A change
// copies the directory, one block and one chunk: in a million rows some 250, 32 and
// 128 pointers. Figures kept with blocks are added up anew from as many.
const blockChunks = 32

type block struct {
	owner  *token
	chunks []*chunk
	count  int // of rows
	most   atomic.Pointer[largest]
	kept   kept
}

// last gives the position of the last row.
func (b *block) last() int64 { return b.chunks[len(b.chunks)-1].last() }

func (c *chunk) last() int64 { return c.rows[len(c.rows)-1].Pos }

// rowList is a tab's rows in order of position: a directory of blocks of chunks, none
// of them empty.
type rowList struct {
	owner  *token
	blocks []*block
	count  int
	edits  int64 // since the list was copied
}

func (l *rowList) all() iter.Seq[*Row] {
	return func(yield func(*Row) bool) {
		for _, b := range l.blocks {
			for _, c := range b.chunks {
				for _, r := range c.rows {
					if !yield(r) {
						return
					}
				}
			}
		}
	}
}

// slice gives up to n rows from an offset on.
func (l *rowList) slice(offset, n int) []*Row {
	var out []*Row
	for _, b := range l.blocks {
		if offset >= b.count {
			offset -= b.count
			continue
		}
		for _, c := range b.chunks {
			if offset >= len(c.rows) {
				offset -= len(c.rows)
				continue
			}
			take := min(len(c.rows)-offset, n-len(out))
			out = append(out, c.rows[offset:offset+take]...)
			offset = 0
			if len(out) >= n {
				return out
			}
		}
	}
	return out
}

// most gives the largest whole number in a slot, or math.MinInt64.
func (l *rowList) most(slot int) int64 {
	most := int64(math.MinInt64)
	for _, b := range l.blocks {
		most = max(most, mostIn(&b.most, slot, func() int64 {
			inBlock := int64(math.MinInt64)
			for _, c := range b.chunks {
				inBlock = max(inBlock, mostIn(&c.most, slot, func() int64 {
					inChunk := int64(math.MinInt64)
					for _, r := range c.rows {
						if n, ok := r.At(slot).Int(); ok {
							inChunk = max(inChunk, n)
						}
					}
					return inChunk
				}))
			}
			return inBlock
		}))
	}
	return most
}

// find gives the block, and the chunk in it, in which a row of that position stands
// or would stand.
func (l *rowList) find(pos int64) (b, c int) {
	b = min(sort.Search(len(l.blocks), func(i int) bool { return l.blocks[i].last() >= pos }), len(l.blocks)-1)
	chunks := l.blocks[b].chunks
	c = min(sort.Search(len(chunks), func(i int) bool { return chunks[i].last() >= pos }), len(chunks)-1)
	return b, c
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

// ownBlock gives a block that the draft of a token may alter.
func (l *rowList) ownBlock(i int, t *token) *block {
	b := l.blocks[i]
	if b.owner == t {
		b.most.Store(nil)
		b.kept.forget()
		return b
	}
	b = &block{owner: t, count: b.count, chunks: append(make([]*chunk, 0, len(b.chunks)+1), b.chunks...)}
	l.blocks[i] = b
	return b
}

// own gives a chunk of an owned block that the draft may alter.
func (b *block) own(i int, t *token) *chunk {
	c := b.chunks[i]
	if c.owner == t {
		c.columns.Store(nil)
		c.most.Store(nil)
		c.kept.forget()
		return c
	}
	rows := make([]*Row, len(c.rows), chunkRows)
	copy(rows, c.rows)
	c = &chunk{owner: t, rows: rows}
	b.chunks[i] = c
	return c
}

func newChunk(t *token, rows ...*Row) *chunk {
	return &chunk{owner: t, rows: append(make([]*Row, 0, chunkRows), rows...)}
}

func newBlock(t *token, chunks ...*chunk) *block {
	b := &block{owner: t, chunks: chunks}
	for _, c := range chunks {
		b.count += len(c.rows)
	}
	return b
}

// insert puts a row at its position; the caller has made sure it is free.
func (l *rowList) insert(r *Row, t *token) {
	l.count++
	l.edits++
	if len(l.blocks) == 0 {
		l.blocks = append(l.blocks, newBlock(t, newChunk(t, r)))
		return
	}
	at, i := l.find(r.Pos)
	b := l.ownBlock(at, t)
	if len(b.chunks[i].rows) < chunkRows {
		c := b.own(i, t)
		place, _ := placeIn(c.rows, r.Pos)
		c.rows = slices.Insert(c.rows, place, r)
		b.count++
		return
	}
	if at == len(l.blocks)-1 && i == len(b.chunks)-1 && b.last() < r.Pos { // appending: nothing is parted
		if len(b.chunks) == blockChunks {
			l.blocks = append(l.blocks, newBlock(t, newChunk(t, r)))
			return
		}
		b.chunks = append(b.chunks, newChunk(t, r))
		b.count++
		return
	}
	full := b.chunks[i].rows
	left, right := newChunk(t, full[:chunkRows/2]...), newChunk(t, full[chunkRows/2:]...)
	into := left
	if r.Pos > left.last() {
		into = right
	}
	place, _ := placeIn(into.rows, r.Pos)
	into.rows = slices.Insert(into.rows, place, r)
	b.chunks = slices.Replace(b.chunks, i, i+1, left, right)
	b.count++
	if len(b.chunks) > blockChunks {
		half := len(b.chunks) / 2
		l.blocks = slices.Replace(l.blocks, at, at+1, newBlock(t, slices.Clone(b.chunks[:half])...), newBlock(t, slices.Clone(b.chunks[half:])...))
	}
}

func (l *rowList) remove(pos int64, t *token) {
	at, i := l.find(pos)
	place, found := placeIn(l.blocks[at].chunks[i].rows, pos)
	if !found {
		return
	}
	l.count--
	l.edits++
	b := l.ownBlock(at, t)
	b.count--
	switch {
	case b.count == 0:
		l.blocks = slices.Delete(l.blocks, at, at+1)
	case len(b.chunks[i].rows) == 1:
		b.chunks = slices.Delete(b.chunks, i, i+1)
	default:
		c := b.own(i, t)
		c.rows = slices.Delete(c.rows, place, place+1)
	}
}

func (l *rowList) replace(r *Row, t *token) {
	l.edits++
	at, i := l.find(r.Pos)
	c := l.ownBlock(at, t).own(i, t)
	place, _ := placeIn(c.rows, r.Pos)
	c.rows[place] = r
}

// taken reports whether a row stands at that position.
func (l *rowList) taken(pos int64) bool {
	if len(l.blocks) == 0 {
		return false
	}
	at, i := l.find(pos)
	_, found := placeIn(l.blocks[at].chunks[i].rows, pos)
	return found
}

// pageRows is how many row ids one page of the index covers, and shelfPages how many
// pages one shelf holds. A change copies the directory of shelves, one shelf and one
// page.
const (
	pageRows   = 128
	shelfPages = 128
)

type page struct {
	owner *token
	rows  [pageRows]*Row
}

type shelf struct {
	owner *token
	pages [shelfPages]*page
}

// rowIndex finds rows by id, in two levels.
type rowIndex struct {
	owner   *token
	shelves []*shelf
}

func (x *rowIndex) get(id RowID) *Row {
	s := int(id / (pageRows * shelfPages))
	if id < 0 || s >= len(x.shelves) || x.shelves[s] == nil {
		return nil
	}
	p := x.shelves[s].pages[id/pageRows%shelfPages]
	if p == nil {
		return nil
	}
	return p.rows[id%pageRows]
}

func (x *rowIndex) set(id RowID, r *Row, t *token) {
	if x.owner != t {
		x.shelves = slices.Clone(x.shelves)
		x.owner = t
	}
	n := int(id / (pageRows * shelfPages))
	if n >= len(x.shelves) {
		x.shelves = append(x.shelves, make([]*shelf, n+1-len(x.shelves))...)
	}
	s := owned(&x.shelves[n], t, func(s *shelf) **token { return &s.owner })
	p := owned(&s.pages[id/pageRows%shelfPages], t, func(p *page) **token { return &p.owner })
	p.rows[id%pageRows] = r
}

// owned makes what a place holds, or a copy of it, the draft's own.
func owned[T any](place **T, t *token, owner func(*T) **token) *T {
	if *place != nil && *owner(*place) == t {
		return *place
	}
	c := new(T)
	if *place != nil {
		*c = **place
	}
	*owner(c) = t
	*place = c
	return c
}
