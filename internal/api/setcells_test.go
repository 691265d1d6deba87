package api

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

// Rows get the same cells in one change set, which one undo takes back; or none of them does.
func TestManyRowsGetTheSame(t *testing.T) {
	r := newRig(t)
	var rows []string
	for _, name := range []string{"Bell", "Drum", "Gong"} {
		rows = append(rows, r.add(name).ID)
	}
	set := func(as string, body wire.SameCells) answer {
		return r.call(as, "POST", "/trackers/Loans/rows/cells", body)
	}
	due := func() (out []any) {
		for _, id := range rows {
			var row wire.Row
			r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows/"+id, nil).into(t, &row)
			out = append(out, row.Cells["Due"])
		}
		return out
	}
	before := due()
	a := set("editor", wire.SameCells{Rows: rows, Cells: map[string]any{"Due": "2026-05-06"}})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var done wire.ChangeSet
	a.into(t, &done)
	assert.Equal(t, map[string]int{"set": 3}, done.Counts)
	assert.Equal(t, []any{"2026-05-06", "2026-05-06", "2026-05-06"}, due())
	require.Equal(t, 200, r.call("editor", "POST", fmt.Sprintf("/undo/%d", done.Seq), nil).StatusCode)
	assert.Equal(t, before, due())

	seq := r.workspace.Seq()
	for says, bad := range map[string]wire.SameCells{
		"no such row":      {Rows: append([]string{"r999"}, rows...), Cells: map[string]any{"Due": nil}},
		"no such column":   {Rows: rows, Cells: map[string]any{"Nothing": 1}},
		"does not fit":     {Rows: rows, Cells: map[string]any{"Due": "soon"}},
		"no rows":          {Cells: map[string]any{"Due": nil}},
		"nothing to set":   {Rows: rows},
		"the same row odd": {Rows: []string{"?"}, Cells: map[string]any{"Due": nil}},
	} {
		a := set("editor", bad)
		assert.GreaterOrEqual(t, a.StatusCode, 400, "%s: %s", says, a.body)
	}
	assert.Equal(t, 403, set("reader", wire.SameCells{Rows: rows, Cells: map[string]any{"Due": nil}}).StatusCode)
	assert.Equal(t, seq, r.workspace.Seq(), "nothing was changed")
}
