package sheet

import (
	"sync/atomic"

	"example.org/kavlo/internal/value"
)

// kept are things worked out from some neighbouring rows, kept with them until one of them
// changes. Readers of one state share them, so a link is put before the others and never
// altered.
type kept struct{ first atomic.Pointer[keptLink] }

type keptLink struct {
	key, value any
	next       *keptLink
	depth      int
}

// mostKept is how many such things are kept with the same rows: those who ask for more
// share too little.
const mostKept = 32

// get gives what is kept under a key, worked out if nothing is.
func (k *kept) get(key any, work func() any) any {
	first := k.first.Load()
	for l := first; l != nil; l = l.next {
		if l.key == key {
			return l.value
		}
	}
	link := &keptLink{key: key, value: work(), next: first, depth: 1}
	if first != nil {
		link.depth += first.depth
	}
	if link.depth > mostKept {
		link.next, link.depth = nil, 1
	}
	k.first.CompareAndSwap(first, link) // lost to another reader: made again when next asked for
	return link.value
}

func (k *kept) forget() { k.first.Store(nil) }

// Len gives how many rows there are.
func (c *Chunk) Len() int { return len(c.Rows) }

// Cells gives the cells of a row; not to be altered.
func (c *Chunk) Cells(i int) []value.Value { return c.Rows[i].cells }

// Kept gives what is kept with the rows under a key, worked out if nothing is: it goes with
// the first change of any of them.
func (c *Chunk) Kept(key any, work func() any) any {
	if c.chunk == nil { // rows as somebody sees them
		return work()
	}
	return c.chunk.kept.get(key, work)
}

// Block is some neighbouring chunks of a tab.
type Block struct{ block *block }

// Len gives how many rows there are.
func (b *Block) Len() int { return b.block.count }

// Chunks gives the chunks, in order.
func (b *Block) Chunks() []Chunk {
	out := make([]Chunk, len(b.block.chunks))
	for i, c := range b.block.chunks {
		out[i] = Chunk{Rows: c.rows, columns: c.columns.Load(), chunk: c}
	}
	return out
}

// Kept gives what is kept with the rows under a key, as that of a chunk does.
func (b *Block) Kept(key any, work func() any) any { return b.block.kept.get(key, work) }

// Blocks gives a tab's rows in blocks, in order; not ok where rows are seen in part, with
// which nothing is kept.
func (t *Tracker) Blocks(tab TabID) (blocks []Block, ok bool) {
	if t.lazy != nil {
		t = t.loaded()
	}
	if t.mask != nil {
		return nil, false
	}
	rows := t.tabs[tab]
	if rows == nil {
		return nil, true
	}
	blocks = make([]Block, len(rows.blocks))
	for i, b := range rows.blocks {
		blocks[i].block = b
	}
	return blocks, true
}
