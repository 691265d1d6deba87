package api

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

func (r *rig) columns(tab string) []wire.Column {
	r.t.Helper()
	var out []wire.Column
	r.call("reader", "GET", "/trackers/Loans/tabs/"+tab+"/columns", nil).into(r.t, &out)
	return out
}

func TestColumnsOverTheNetwork(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	at := "/trackers/Loans/tabs/Requested/columns"
	a := r.call("keeper", "POST", at, wire.NewColumn{Name: "Weight", After: "Object", Definition: map[string]any{"type": "number", "minimum": "0", "format": "plain", "required": false}})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	columns := r.columns("Requested")
	assert.Equal(t, "Weight", columns[1].Name)
	assert.Equal(t, "0", columns[1].Minimum)
	assert.Equal(t, "plain", columns[1].Format)

	a = r.call("keeper", "PATCH", at+"/Object?preview=yes", wire.ColumnChange{Definition: map[string]any{"type": "date"}})
	var set wire.ChangeSet
	a.into(t, &set)
	assert.True(t, set.Preview)
	require.NotEmpty(t, set.Warnings)
	assert.Contains(t, set.Warnings[0], "1 cells of Object do not fit date and are kept as odd cells: Bell (Bell)")
	assert.Equal(t, "text", r.columns("Requested")[0].Type)

	a = r.call("keeper", "PATCH", at+"/Weight", wire.ColumnChange{Name: "Mass", Definition: map[string]any{"minimum": nil, "automatic number": true}})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	mass := r.columns("Requested")[1]
	assert.Equal(t, columns[1].ID, mass.ID)
	assert.Equal(t, "", mass.Minimum)
	assert.True(t, mass.AutoNo)

	a = r.call("keeper", "DELETE", at+"/Mass", nil)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	assert.Len(t, r.columns("Requested"), len(columns)-1)
}

func TestColumnsThatCannotBeAreRefusedWithReasons(t *testing.T) {
	r := newRig(t)
	at := "/trackers/Loans/tabs/Requested/columns"
	for _, tc := range []struct {
		method, path string
		body         any
		status       int
		says         string
	}{
		{"POST", at, wire.NewColumn{Name: "Object", Definition: map[string]any{"type": "text"}}, http.StatusUnprocessableEntity, "is a column of Requested already"},
		{"POST", at, wire.NewColumn{Name: "New", Definition: map[string]any{"type": "dat"}}, http.StatusUnprocessableEntity, "did you mean date"},
		{"POST", at, wire.NewColumn{Name: "New", Definition: map[string]any{"type": "text", "longst text": 3}}, http.StatusUnprocessableEntity, "did you mean longest text"},
		{"POST", at, wire.NewColumn{Name: "New", Definition: map[string]any{"type": "computed", "clause": "Valu + 1"}}, http.StatusUnprocessableEntity, "did you mean Value"},
		{"POST", at, wire.NewColumn{Name: "a[b]", Definition: map[string]any{"type": "text"}}, http.StatusUnprocessableEntity, "holds a bracket"},
		{"POST", "/trackers/Loans/tabs/Requestd/columns", wire.NewColumn{Name: "New", Definition: map[string]any{"type": "text"}}, http.StatusNotFound, "did you mean Requested"},
		{"PATCH", at + "/Objct", wire.ColumnChange{Name: "X"}, http.StatusUnprocessableEntity, "did you mean Object"},
		{"PATCH", at + "/Due", wire.ColumnChange{Name: "Value"}, http.StatusUnprocessableEntity, "is blank or used twice"},
		{"DELETE", at + "/Stage", nil, http.StatusUnprocessableEntity, "while it is needed by rule Move"},
		{"DELETE", at + "/Due", nil, http.StatusUnprocessableEntity, "computed column Days"},
	} {
		a := r.call("keeper", tc.method, tc.path, tc.body)
		p := a.problem(t)
		assert.Equal(t, tc.status, p.Status, tc.says)
		assert.Contains(t, p.Detail+" "+p.Hint, tc.says)
		assert.Equal(t, tc.method == "DELETE", p.Title == "Still needed", p.Title)
	}
	assert.Len(t, r.columns("Requested"), 5)
}
