package api

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

// Several rows are moved and removed at once, all or none, and undo brings them back.
func TestSeveralRowsAreMovedAndRemoved(t *testing.T) {
	r := newRig(t)
	in := func(tab string) (ids []string) {
		var page wire.Rows
		r.call("reader", "GET", "/trackers/Loans/tabs/"+tab+"/rows", nil).into(t, &page)
		for _, row := range page.Rows {
			ids = append(ids, row.ID)
		}
		return ids
	}
	require.Equal(t, 200, r.call("editor", "POST", "/trackers/Loans/tabs/Requested/rows", wire.NewRows{Rows: []map[string]any{{"Object": "Oar"}, {"Object": "Buoy"}, {"Object": "Lamp"}}}).StatusCode)
	ids := in("Requested")
	require.GreaterOrEqual(t, len(ids), 3)
	two, before := ids[:2], in("Agreed")
	a := r.call("editor", "POST", "/trackers/Loans/rows/move", wire.MoveRows{Rows: append(two[:2:2], two[0]), To: "Agreed"})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	assert.Equal(t, append(before, two...), in("Agreed"))
	assert.Equal(t, ids[2:], in("Requested"))

	a = r.call("editor", "POST", "/trackers/Loans/rows/remove", wire.RemoveRows{Rows: append(two[:1:1], "r999999")})
	assert.Equal(t, 404, a.StatusCode)
	assert.Contains(t, string(a.body), "r999999")
	assert.Len(t, in("Agreed"), len(before)+2, "all or none")
	a = r.call("editor", "POST", "/trackers/Loans/rows/remove", wire.RemoveRows{Rows: two})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(t, &set)
	assert.Equal(t, before, in("Agreed"))
	require.Equal(t, 200, r.call("editor", "POST", fmt.Sprint("/undo/", set.Seq), nil).StatusCode)
	assert.Len(t, in("Agreed"), len(before)+2)
	for _, act := range []string{"move", "remove"} {
		assert.Equal(t, 403, r.call("reader", "POST", "/trackers/Loans/rows/"+act, wire.MoveRows{Rows: two, To: "Agreed"}).StatusCode)
	}
}

// Rows are added and put before or after others; no rule is started by it, and undo restores
// the order.
func TestRowsArePutInPlaces(t *testing.T) {
	r := newRig(t)
	at := "/trackers/Loans/tabs/Requested/rows"
	in := func() (labels []string) {
		var page wire.Rows
		r.call("reader", "GET", at, nil).into(t, &page)
		for _, row := range page.Rows {
			labels = append(labels, row.Label)
		}
		return labels
	}
	var set wire.ChangeSet
	r.call("editor", "POST", at, wire.NewRows{Rows: []map[string]any{{"Object": "Oar"}, {"Object": "Buoy"}, {"Object": "Lamp"}}}).into(t, &set)
	lamp := set.Changes[2].Row
	require.Equal(t, 200, r.call("editor", "POST", at, wire.NewRows{Rows: []map[string]any{{"Object": "One"}, {"Object": "Two"}}, RowSpot: wire.RowSpot{Before: "Buoy"}}).StatusCode)
	assert.Equal(t, []string{"Oar", "One", "Two", "Buoy", "Lamp"}, in())
	r.call("editor", "POST", at+"/place", wire.PlaceRows{Rows: []string{lamp, set.Changes[0].Row}, RowSpot: wire.RowSpot{After: "One"}}).into(t, &set)
	assert.Equal(t, []string{"One", "Lamp", "Oar", "Two", "Buoy"}, in())
	assert.Empty(t, set.Followed)
	require.Equal(t, 200, r.call("editor", "POST", fmt.Sprint("/undo/", set.Seq), nil).StatusCode)
	assert.Equal(t, []string{"Oar", "One", "Two", "Buoy", "Lamp"}, in())
	for body, want := range map[*wire.PlaceRows]int{
		{Rows: []string{lamp}}: 422,
		{Rows: []string{lamp}, RowSpot: wire.RowSpot{Before: "Oar", After: "One"}}: 422,
		{Rows: []string{lamp}, RowSpot: wire.RowSpot{Before: "Anchor"}}:            404,
		{Rows: []string{"r999999"}, RowSpot: wire.RowSpot{Before: "Oar"}}:          404,
	} {
		assert.Equal(t, want, r.call("editor", "POST", at+"/place", body).StatusCode, body)
	}
	assert.Equal(t, 403, r.call("reader", "POST", at+"/place", wire.PlaceRows{Rows: []string{lamp}, RowSpot: wire.RowSpot{Before: "Oar"}}).StatusCode)
}
