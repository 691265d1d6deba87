package api

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

// Of several cells it is told what changed them, how many of them each change still stands
// in, and how many hold what nothing changed.
func TestSeveralCellsTellWhatChangedThem(t *testing.T) {
	r := newRig(t)
	bell, drum := r.add("Bell"), r.add("Drum")
	must := func(row wire.Row, e wire.RowEdit) {
		a := r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/"+row.ID, e)
		require.Equal(t, 200, a.StatusCode, string(a.body))
	}
	must(bell, wire.RowEdit{Cells: map[string]any{"Object": "Bell 2"}})
	must(bell, wire.RowEdit{Cells: map[string]any{"Due": nil}, Notes: map[string]string{"Due": "ask again"}})
	must(drum, wire.RowEdit{Notes: map[string]string{"Object": "old"}})

	ask := func(rows, columns []string) answer {
		return r.call("reader", "GET", "/trackers/Loans/tabs/Requested/cells/why?"+url.Values{"rows": rows, "columns": columns}.Encode(), nil)
	}
	var why wire.CellsWhy
	a := ask([]string{bell.ID, drum.ID}, []string{"Object", "Due"})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a.into(t, &why)
	assert.Equal(t, 4, why.Cells)
	assert.Zero(t, why.Untouched)
	require.Len(t, why.Sets, 5)
	type told struct{ changed, stand int }
	var got []told
	for i, s := range why.Sets {
		got = append(got, told{s.Changed, s.Stand})
		assert.NotEmpty(t, s.Says, "%d", i)
	}
	assert.Equal(t, []told{{1, 0}, {1, 1}, {1, 1}, {2, 2}, {2, 0}}, got, "a note, a deadline with its note, a name, and two rows added of which one holds what it began with")
	assert.Len(t, why.Sets[1].Says, 2)
	assert.Contains(t, why.Sets[2].Says[0], "Bell 2")

	a = ask([]string{bell.ID}, []string{"Stage"})
	a.into(t, &why)
	assert.Equal(t, 1, why.Cells)
	assert.Len(t, why.Sets, 1)

	for _, bad := range []struct {
		rows, columns []string
		status        int
	}{
		{[]string{"r999"}, []string{"Object"}, 404},
		{[]string{bell.ID}, []string{"Nothing"}, 422},
		{nil, []string{"Object"}, 422},
		{[]string{bell.ID}, nil, 422},
	} {
		a := ask(bad.rows, bad.columns)
		assert.Equal(t, bad.status, a.StatusCode, "%v: %s", bad, a.body)
	}
}
