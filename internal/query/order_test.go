package query_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

const sorted = `
tracker: T
zone: UTC
tabs:
  A:
    columns:
      Name:     { type: text }
      Amount:   { type: number }
      Due on:   { type: date }
      Size:     { type: choice, options: [Small, Large] }
      Done:     { type: checkbox }
      "A, B":   { type: text }
      Twice:    { type: computed, clause: Amount * 2 }
`

func TestRowsAreSortedByWhatTheyHold(t *testing.T) {
	k := testkit.New(t, sorted)
	for _, r := range [][]string{
		{"Name=zebra", "Amount=10", "Due on=2026-03-01", "Size=Large"},
		{"Name=Émile", "Amount=9.5", "Due on=soon", "Done=yes", "A, B=x"},
		{"Name=eve", "Amount=", "Size=Small", "Due on=2026-02-01", "A, B=y"},
		{"Name=Ärger", "Amount=100", "Done=no", "Size=Huge"},
		{"Name=area", "Amount=some", "Due on=2025-12-31"},
		{"Name=item 10", "Amount=-2"},
		{"Name=item 9", "Amount=10"},
	} {
		k.Add("A", r...)
	}
	ready, err := testkit.Program(k.Tracker().Shape)
	require.NoError(t, err)
	for text, want := range map[string][]string{
		"Name":                              {"area", "Ärger", "Émile", "eve", "item 9", "item 10", "zebra"},
		"name descending":                   {"zebra", "item 10", "item 9", "eve", "Émile", "Ärger", "area"},
		"Amount":                            {"item 10", "Émile", "zebra", "item 9", "Ärger", "area", "eve"},
		"Amount descending":                 {"Ärger", "zebra", "item 9", "Émile", "item 10", "area", "eve"},
		"Twice down, Name":                  {"Ärger", "item 9", "zebra", "Émile", "item 10", "area", "eve"},
		"[Due on]":                          {"area", "eve", "zebra", "Émile", "Ärger", "item 10", "item 9"},
		"Due on descending":                 {"zebra", "eve", "area", "Émile", "Ärger", "item 10", "item 9"},
		"Size, Name":                        {"eve", "zebra", "Ärger", "area", "Émile", "item 9", "item 10"},
		"Done, Name":                        {"Ärger", "Émile", "area", "eve", "item 9", "item 10", "zebra"},
		"[A, B] descending, Name ascending": {"eve", "Émile", "area", "Ärger", "item 9", "item 10", "zebra"},
	} {
		tab := k.Tab("A")
		order, err := query.ParseOrder(text, tab)
		require.NoError(t, err, text)
		found, err := query.Select(ready, k.Tracker(), query.Query{Tab: tab, Order: order}, testkit.Now, nil)
		require.NoError(t, err, text)
		assert.Equal(t, want, labels(k, found.Rows), text)
		page, err := query.Select(ready, k.Tracker(), query.Query{Tab: tab, Order: order, Offset: 2, Limit: 3}, testkit.Now, nil)
		require.NoError(t, err, text)
		assert.Equal(t, want[2:5], labels(k, page.Rows), text)
		assert.Equal(t, 7, page.Total)
		again, err := query.ParseOrder(order.String(tab), tab)
		require.NoError(t, err, text)
		assert.Equal(t, order, again)
	}
	for text, says := range map[string]string{"Nam": "did you mean Name?", "Name, name descending": "twice", "Name,": "a column is missing"} {
		_, err := query.ParseOrder(text, k.Tab("A"))
		assert.ErrorContains(t, err, says, text)
	}
}

// However large or small, numbers sort as they compare, and what is the same stays in the
// tab's order.
func TestNumbersSortAsTheyCompare(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, sorted)
		amounts := rapid.SliceOfN(rapid.StringMatching(`-?(0|[1-9][0-9]{0,15})(\.[0-9]{1,2}|\.0{1,25}[0-9])?`), 1, 12).Draw(rt, "amounts")
		for _, a := range amounts {
			k.Add("A", "Amount="+a)
		}
		ready, err := testkit.Program(k.Tracker().Shape)
		require.NoError(rt, err)
		tab := k.Tab("A")
		order, err := query.ParseOrder("Amount", tab)
		require.NoError(rt, err)
		found, err := query.Select(ready, k.Tracker(), query.Query{Tab: tab, Order: order}, testkit.Now, nil)
		require.NoError(rt, err)
		want := slices.Collect(k.Tracker().Rows(tab.ID))
		slot := tab.Slot(order[0].Column)
		slices.SortStableFunc(want, func(a, b *sheet.Row) int {
			if x, y := a.At(slot).IsOdd(), b.At(slot).IsOdd(); x != y {
				if x {
					return 1
				}
				return -1
			}
			if a.At(slot).IsOdd() {
				return 0
			}
			return value.Compare(a.At(slot), b.At(slot))
		})
		require.Equal(rt, labels(k, want), labels(k, found.Rows))
	})
}
