package api

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

// One's own changes are listed with what they did and whether they stand, however often they
// were undone and redone.
func TestOnesOwnChangesAreListedWithWhetherTheyStand(t *testing.T) {
	r := newRig(t)
	row := r.add("Bell")
	at := "/trackers/Loans/tabs/Requested/rows/" + row.ID
	require.Equal(t, 200, r.call("keeper", "PATCH", at, wire.RowEdit{Cells: map[string]any{"Object": "Bell of others"}}).StatusCode)
	var set wire.ChangeSet
	r.call("editor", "PATCH", at, wire.RowEdit{Cells: map[string]any{"Object": "Brass bell"}}).into(t, &set)
	mine := func() (all []wire.JournalEntry) {
		t.Helper()
		r.call("editor", "GET", "/trackers/Loans/journal?mine=yes", nil).into(t, &all)
		return all
	}
	all := mine()
	require.Len(t, all, 2) // with the adding of the row
	assert.Equal(t, set.Seq, all[0].Seq)
	assert.Contains(t, all[0].Says, "Brass bell")
	assert.Zero(t, all[0].Undone)

	last := set.Seq
	for n := range 4 {
		var undo wire.ChangeSet
		a := r.call("editor", "POST", fmt.Sprintf("/undo/%d", last), nil)
		require.Equal(t, 200, a.StatusCode)
		a.into(t, &undo)
		last = undo.Seq
		all = mine()
		assert.Equal(t, n%2 == 0, all[len(all)-2].Undone != 0, "after %d", n)
		assert.Zero(t, all[0].Undone)
	}
}
