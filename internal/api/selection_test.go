package api

import (
	"fmt"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

const wares = `
tracker: Wares
zone: UTC
tabs:
  Shelf: { columns: { Name: { type: text }, Pieces: { type: number }, Double: { type: computed, clause: Pieces * 2 }, So far: { type: computed, clause: running sum Pieces }, Left: { type: computed, clause: 'days between today and Due' }, Due: { type: date } } }
  Other: { columns: { Name: { type: text } } }
views:
  - { name: Many, tab: Shelf, where: Pieces > 1, order: Pieces descending, columns: [Pieces, Name] }
`

// Rows are chosen and put in order alike by whoever lists them, asks for their ids, or exports.
func TestASelectionIsTheSameThroughEveryDoor(t *testing.T) {
	r := newRig(t)
	r.setup(wares)
	for name, pieces := range map[string]any{"Rope": 3, "Sail cloth": 7, "Sail needle": 1, "Tar": "some"} {
		require.Equal(t, 200, r.call("editor", "POST", "/trackers/Wares/tabs/Shelf/rows", wire.NewRows{Rows: []map[string]any{{"Name": name, "Pieces": pieces}}}).StatusCode)
	}
	for query, want := range map[string][]string{
		"words=SAIL":                      {"Sail cloth", "Sail needle"},
		"words=sail&where=Pieces+%3E+1":   {"Sail cloth"},
		"view=many":                       {"Sail cloth", "Rope"},
		"view=many&words=rope":            {"Rope"},
		"view=many&order=Name":            {"Rope", "Sail cloth"},
		"view=many&where=Pieces+%3C+5":    {"Rope"},
		"where=Pieces+is+odd":             {"Tar"},
		"order=Name+descending&words=sai": {"Sail needle", "Sail cloth"},
	} {
		var page wire.Rows
		r.call("reader", "GET", "/trackers/Wares/tabs/Shelf/rows?"+query, nil).into(t, &page)
		var names, ids []string
		for _, row := range page.Rows {
			names, ids = append(names, fmt.Sprint(row.Cells["Name"])), append(ids, row.ID)
		}
		if strings.Contains(query, "order") || strings.Contains(query, "view") {
			assert.Equal(t, want, names, query)
		} else {
			assert.ElementsMatch(t, want, names, query)
		}
		var order wire.RowOrder
		r.call("reader", "GET", "/trackers/Wares/tabs/Shelf/order?"+query, nil).into(t, &order)
		assert.Equal(t, ids, order.Rows, query)
		csv := string(r.call("reader", "GET", "/trackers/Wares/export?tab=Shelf&format=csv&"+query, nil).body)
		assert.Len(t, strings.Split(strings.TrimSpace(csv), "\n"), len(want)+1, query)
		if strings.HasPrefix(query, "view") {
			assert.Equal(t, []string{"Pieces", "Name"}, page.Columns, query)
			assert.True(t, strings.HasPrefix(csv, "Pieces,Name\r\n"), csv)
		}
	}
	var order wire.RowOrder
	r.call("reader", "GET", "/trackers/Wares/tabs/Shelf/order?where=Pieces+%3E+1", nil).into(t, &order)
	require.Len(t, order.PassedOver, 1)
	assert.Equal(t, "Tar", order.PassedOver[0].Label)
	assert.Equal(t, 1, order.Odd)
	for query, says := range map[string]string{"view=mani": "did you mean Many", "order=Nam": "did you mean Name", "where=Nam+is+1": "did you mean Name", "columns=Nam": "did you mean Name"} {
		for _, door := range []string{"/trackers/Wares/tabs/Shelf/rows?", "/trackers/Wares/tabs/Shelf/order?", "/trackers/Wares/export?tab=Shelf&"} {
			a := r.call("reader", "GET", door+query, nil)
			assert.GreaterOrEqual(t, a.StatusCode, 400, query)
			assert.Contains(t, string(a.body), says, door+query)
		}
	}
	assert.Equal(t, 422, r.call("reader", "GET", "/trackers/Wares/tabs/Other/rows?view=Many", nil).StatusCode)
	assert.Equal(t, 422, r.call("reader", "GET", "/trackers/Wares/export?words=sail", nil).StatusCode)
}

// Rows are asked for by their ids, so that what is computed from other rows can be kept current.
func TestRowsAreAskedForByTheirIds(t *testing.T) {
	r := newRig(t)
	r.setup(wares)
	var added wire.ChangeSet
	r.call("editor", "POST", "/trackers/Wares/tabs/Shelf/rows", wire.NewRows{Rows: []map[string]any{{"Name": "Rope", "Pieces": 3}, {"Name": "Tar", "Pieces": 4}, {"Name": "Oar", "Pieces": 5}}}).into(t, &added)
	var all, some wire.Rows
	r.call("reader", "GET", "/trackers/Wares/tabs/Shelf/rows", nil).into(t, &all)
	r.call("reader", "GET", "/trackers/Wares/tabs/Shelf/rows?rows="+url.QueryEscape(all.Rows[2].ID+", "+all.Rows[0].ID+",r999999"), nil).into(t, &some)
	assert.Equal(t, []wire.Row{all.Rows[0], all.Rows[2]}, some.Rows, "in the order of the tab, and those alone that are there")
	assert.Equal(t, "12", fmt.Sprint(some.Rows[1].Cells["So far"]))
	assert.Equal(t, 422, r.call("reader", "GET", "/trackers/Wares/tabs/Shelf/rows?rows=x", nil).StatusCode)
	many := make([]string, 501)
	for i := range many {
		many[i] = fmt.Sprint("r", i+1)
	}
	a := r.call("reader", "GET", "/trackers/Wares/tabs/Shelf/rows?rows="+strings.Join(many, ","), nil)
	assert.Equal(t, 422, a.StatusCode)
	assert.Contains(t, string(a.body), "501 rows are named, and 500 may be")

	around := map[string]bool{}
	var columns []wire.Column
	r.call("reader", "GET", "/trackers/Wares/tabs/Shelf/columns", nil).into(t, &columns)
	for _, c := range columns {
		around[c.Name] = c.Around
	}
	assert.Equal(t, map[string]bool{"Name": false, "Pieces": false, "Double": false, "So far": true, "Left": true, "Due": false}, around)
}

// Listeners fetch rows again where a change of setup may have altered them, and not when a
// rule alone has changed.
func TestRowsAreFetchedAgainOnlyWhereTheyMayHaveChanged(t *testing.T) {
	r := newRig(t)
	r.setup(wares)
	from := r.workspace.Seq()
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Wares/views", map[string]any{"name": "All", "tab": "Shelf"}).StatusCode)
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Wares/tabs/Shelf/columns", wire.NewColumn{Name: "Place", Definition: map[string]any{"type": "text"}}).StatusCode)
	got := r.events(2, fmt.Sprint(from))
	assert.False(t, got[0].Reload)
	assert.True(t, got[1].Reload)
}
