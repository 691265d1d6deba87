package sheet

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// same holds a list against the positions that it is to have.
func same(t *testing.T, l *rowList, want []int64) {
	t.Helper()
	got := make([]int64, 0, l.count)
	for r := range l.all() {
		got = append(got, r.Pos)
	}
	require.Equal(t, want, got)
	require.Equal(t, len(want), l.count)
	for _, b := range l.blocks {
		n := 0
		require.NotEmpty(t, b.chunks)
		require.LessOrEqual(t, len(b.chunks), blockChunks)
		for _, c := range b.chunks {
			require.NotEmpty(t, c.rows)
			n += len(c.rows)
		}
		require.Equal(t, n, b.count)
	}
	for _, offset := range []int{0, 1, chunkRows, len(want) / 2, max(0, len(want)-3), len(want) + 1} {
		page := l.slice(offset, 200)
		lo := max(0, min(offset, len(want)))
		hi := min(lo+200, len(want))
		require.Len(t, page, hi-lo, "from %d", offset)
		for i, r := range page {
			require.Equal(t, want[lo+i], r.Pos)
		}
	}
}

// Rows put in and taken out in any order, so many that blocks part and go, stand in
// order; a copy made before does not change.
func TestAListIsLikeASortedSlice(t *testing.T) {
	const n = 3 * blockChunks * chunkRows
	rng := rand.New(rand.NewPCG(1, 2))
	first := &token{}
	l := &rowList{owner: first}
	var want []int64
	for _, i := range rng.Perm(n) {
		l.insert(&Row{Pos: int64(2 * i)}, first)
	}
	for i := range n {
		want = append(want, int64(2*i))
	}
	same(t, l, want)

	second := &token{}
	copied := &rowList{owner: second, blocks: slices.Clone(l.blocks), count: l.count}
	var kept []int64
	gone := map[int64]bool{}
	for _, i := range rng.Perm(n)[:n*9/10] {
		copied.remove(int64(2*i), second)
		gone[int64(2*i)] = true
	}
	for range 1000 { // odd positions come between
		pos := int64(2*rng.IntN(n) + 1)
		if !copied.taken(pos) {
			copied.insert(&Row{Pos: pos}, second)
			kept = append(kept, pos)
		}
	}
	for _, pos := range want {
		if !gone[pos] {
			kept = append(kept, pos)
			require.True(t, copied.taken(pos))
		} else {
			require.False(t, copied.taken(pos))
		}
	}
	slices.Sort(kept)
	same(t, copied, kept)
	same(t, l, want)

	for _, pos := range kept {
		copied.remove(pos, second)
	}
	same(t, copied, []int64{})
	copied.insert(&Row{Pos: 5}, second)
	same(t, copied, []int64{5})
}

// The index of rows finds what was put into it, and a copy made before does not
// change.
func TestAnIndexInTwoLevels(t *testing.T) {
	const far = 5 * pageRows * shelfPages
	first, second := &token{}, &token{}
	x := &rowIndex{}
	ids := []RowID{0, 1, pageRows - 1, pageRows, pageRows*shelfPages - 1, pageRows * shelfPages, far}
	rows := map[RowID]*Row{}
	for _, id := range ids {
		rows[id] = &Row{ID: id}
		x.set(id, rows[id], first)
	}
	y := *x
	y.set(far, nil, second)
	y.set(pageRows, &Row{ID: 7}, second)
	y.set(2*far, &Row{ID: 2 * far}, second)
	for _, id := range ids {
		require.Same(t, rows[id], x.get(id))
	}
	require.Nil(t, y.get(far))
	require.Equal(t, RowID(7), y.get(pageRows).ID)
	require.NotNil(t, y.get(2*far))
	for _, id := range []RowID{-1, 2, far - 1, far + pageRows, 2 * far} {
		require.Nil(t, x.get(id), "%d", id)
	}
}
