package workspace_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/syncing"
	"example.org/kavlo/internal/testkit"
)

const pagedLenders = `
tracker: Loans
tabs:
  Lenders: { columns: { No: { type: text }, Name: { type: text } } }
lists:
  - { name: Register, from: { http: "http://lists.example.org", items: /records%s } }
syncs:
  - { name: Lenders, list: Register, tab: Lenders, key: { No: id }, fields: { Name: name/first }, gone: remove, guard: 100%% }
`

func lender(n int) any {
	return map[string]any{"id": fmt.Sprintf("%03d", n), "name": map[string]any{"first": fmt.Sprintf("Lender %d", n)}}
}

func lenders(except ...int) []any {
	var out []any
	for n := 1; n <= 10; n++ {
		if len(except) == 0 || n != except[0] && (len(except) < 2 || n != except[1]) {
			out = append(out, lender(n))
		}
	}
	return out
}

func (b *bench) syncLenders() *syncing.Detail {
	b.t.Helper()
	r, err := b.RunSync(b.t.Context(), testkit.By("Ines"), sheet.ByHand, b.tracker(), "Lenders", syncing.How{})
	require.NoError(b.t, err)
	return r.Note.Detail.(*syncing.Detail)
}

func (b *bench) lenderRows() int {
	b.t.Helper()
	_, tab, err := b.FindTab("Loans", "Lenders")
	require.NoError(b.t, err)
	return b.tracker().Count(tab.ID)
}

func (b *bench) withLenders(next string) {
	b.t.Helper()
	b.must(b.DropTracker(testkit.By("Ines"), b.tracker().ID))
	b.must(b.LoadSetup(testkit.By("Ines"), fmt.Appendf(nil, pagedLenders, next)))
	b.lists.fetch = func() []any { return lenders() }
	b.syncLenders()
	require.Equal(b.t, 10, b.lenderRows())
}

// One that slips from page to page while a list is fetched counted as gone; gone is
// what is missing twice.
func TestARecordIsGoneWhenItIsMissingTwice(t *testing.T) {
	b := newBench(t)
	b.withLenders(", next: link")
	fetched := 0
	b.lists.fetch = func() []any {
		fetched++
		return lenders(map[bool]int{true: 4, false: 7}[fetched == 1]) // another one each time
	}
	d := b.syncLenders()
	assert.Equal(t, 2, fetched)
	assert.Zero(t, d.GoneList)
	assert.Equal(t, 10, b.lenderRows())
	fetched = 0
	b.lists.fetch = func() []any { fetched++; return lenders(4) }
	assert.Equal(t, 1, b.syncLenders().GoneList)
	assert.Equal(t, 9, b.lenderRows(), "it is missing both times")
	b.syncLenders()
	assert.Equal(t, 3, fetched, "where nothing is missing, once does")

	whole := newBench(t)
	whole.withLenders("")
	fetched = 0
	whole.lists.fetch = func() []any { fetched++; return lenders(4) }
	assert.Equal(t, 1, whole.syncLenders().GoneList)
	assert.Equal(t, 1, fetched, "what comes in one piece is whole")
}

// One record that cannot be read is named, and the rest goes on.
func TestARecordThatCannotBeReadIsNamedAndTheRestGoesOn(t *testing.T) {
	b := newBench(t)
	b.withLenders("")
	b.lists.fetch = func() []any {
		out := lenders(4)
		out = append(out, map[string]any{"id": "004", "name": "plain"}, lender(11)) // its name is no object
		return out
	}
	d := b.syncLenders()
	assert.Equal(t, 11, b.lenderRows(), "004 stays as it is, 011 is new")
	require.Len(t, d.Troubles, 1)
	assert.Equal(t, reconcile.Trouble{Where: "record 10", Key: "004", Why: `the record cannot be read: field name/first: "name/first" leads into a plain value`}, d.Troubles[0])

	b.lists.fetch = func() []any { return append(lenders(4, 5), "nonsense", lender(11), lender(12)) }
	d = b.syncLenders()
	assert.Equal(t, 12, b.lenderRows(), "012 is new; none is gone while one is not known")
	assert.Zero(t, d.GoneList)
	require.Len(t, d.Troubles, 2)
	assert.Equal(t, "record 9", d.Troubles[0].Where)
	assert.Contains(t, d.Troubles[1].Why, "2 records seem to be gone, and are left as they are")
}
