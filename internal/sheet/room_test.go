package sheet_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

func inOrder(k *testkit.Kit, tab sheet.TabID) (ids []sheet.RowID) {
	for row := range k.Tracker().Rows(tab) {
		ids = append(ids, row.ID)
	}
	return ids
}

// Rows that are put before and after others, however often at one spot, stand as a list has
// them, and undo puts all of them back.
func TestRandomRowsStandWhereTheyArePut(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, loans)
		tab := k.Tab("Crating").ID
		at := sheet.Place{Tracker: k.ID, Tab: tab}
		for i := range 4 {
			k.Add("Crating", fmt.Sprint("Object=", i))
		}
		want := inOrder(k, tab)
		index := rapid.IntRange(0, 3).Draw(rt, "favourite spot")
		for range rapid.IntRange(1, 60).Draw(rt, "steps") {
			if rapid.IntRange(0, 4).Draw(rt, "elsewhere") == 0 {
				index = rapid.IntRange(0, len(want)-1).Draw(rt, "spot")
			}
			spot := sheet.Spot{Row: want[index], After: rapid.Bool().Draw(rt, "after")}
			n := rapid.IntRange(1, 3).Draw(rt, "rows")
			place := rapid.Bool().Draw(rt, "of those that are there")
			before, dump := slices.Clone(want), k.Dump()
			var ids []sheet.RowID
			changes := k.Must(func(d *sheet.Draft) error {
				var moving []sheet.RowID
				for i := 0; place && i < n; i++ {
					if id := want[(index+1+7*i)%len(want)]; id != spot.Row && !slices.Contains(moving, id) {
						moving = append(moving, id)
					}
				}
				if place {
					n = len(moving)
				}
				places, err := d.MakeRoom(at, spot, n, 0)
				require.NoError(t, err)
				require.True(t, slices.IsSorted(places) && len(slices.Compact(slices.Clone(places))) == n, places)
				for i := range n {
					if place {
						ids = append(ids, moving[i])
						require.NoError(t, d.Apply(sheet.Change{Kind: sheet.Move, Tracker: k.ID, Tab: tab, Row: moving[i], ToTab: tab, ToPos: places[i]}))
						continue
					}
					id, err := d.AddRow(sheet.Place{Tracker: k.ID, Tab: tab, Pos: places[i]}, nil, 0)
					require.NoError(t, err)
					ids = append(ids, id)
				}
				return nil
			})
			want = slices.DeleteFunc(want, func(id sheet.RowID) bool { return slices.Contains(ids, id) })
			to := slices.Index(want, spot.Row)
			if spot.After {
				to++
			}
			want = slices.Insert(want, to, ids...)
			require.Equal(t, want, inOrder(k, tab))
			if rapid.IntRange(0, 5).Draw(rt, "undone") == 0 {
				k.Must(func(d *sheet.Draft) error {
					for _, c := range slices.Backward(changes) {
						if err := d.Apply(c.Invert()); err != nil {
							return err
						}
					}
					return nil
				})
				want = before
				require.Equal(t, dump, k.Dump())
			}
			index = min(index, len(want)-1)
		}
	})
}

func TestRoomIsMadeBesideARowOfTheTabAlone(t *testing.T) {
	k := testkit.New(t, loans)
	other := k.Add("Returned", "Object=Bell")
	_, err := k.Try(func(d *sheet.Draft) error {
		_, err := d.MakeRoom(sheet.Place{Tracker: k.ID, Tab: k.Tab("Crating").ID}, sheet.Spot{Row: other}, 1, 0)
		return err
	})
	require.ErrorContains(t, err, "in Crating")
	c := sheet.Change{Kind: sheet.Move, Tab: 1, ToTab: 1}
	assert.True(t, c.InPlace())
	c.ToTab = 2
	assert.False(t, c.InPlace())
}
