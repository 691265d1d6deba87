package api

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/testkit/notice"
	"example.org/kavlo/internal/wire"
	"example.org/kavlo/internal/workspace"
)

// A kind of definition that is registered is listed, shown, put, refused and removed
// through the interface, which knows nothing of it.
func TestAKindOfItsOwnIsServed(t *testing.T) {
	d, err := workspace.Open(t.Context(), workspace.Config{Dir: t.TempDir(), Setup: setup.With(append(program.Kinds{notice.Kind}, kinds.All...))})
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, d.Close()) })
	r := &rig{t: t, workspace: d, tokens: map[string]string{}}
	p, err := d.PutPerson(t.Context(), "Keeper", "keeper@example.org", "keeper")
	require.NoError(t, err)
	r.tokens["keeper"], err = d.IssueToken(t.Context(), p.ID, "test", 0)
	require.NoError(t, err)
	_, err = d.Commit(t.Context(), d.LoadSetup(testkit.By("Keeper"), []byte(loans)))
	require.NoError(t, err)
	r.server = httptest.NewServer(New(d, Options{Version: "0"}))
	t.Cleanup(r.server.Close)

	wrong := r.call("keeper", http.MethodPost, "/trackers/Loans/notices", map[string]any{"name": "Closed week", "tab": "Requestd", "says": "x"})
	assert.Contains(t, wrong.problem(t).Detail, "did you mean Requested?")
	res := r.call("keeper", http.MethodPost, "/trackers/Loans/notices", map[string]any{"name": "Closed week", "tab": "Requested", "says": "No loans leave"})
	require.Equal(t, http.StatusOK, res.StatusCode, string(res.body))
	var all []wire.Definition
	r.call("keeper", http.MethodGet, "/trackers/Loans/notices", nil).into(t, &all)
	require.Len(t, all, 1)
	assert.Equal(t, "Above Requested: No loans leave.", all[0].Says)
	var one wire.Definition
	r.call("keeper", http.MethodGet, "/trackers/Loans/notices/closed%20week", nil).into(t, &one)
	assert.Equal(t, "No loans leave", one.Fields()["says"])
	assert.Equal(t, http.StatusOK, r.call("keeper", http.MethodDelete, "/trackers/Loans/notices/Closed%20week", nil).StatusCode)
	assert.Equal(t, http.StatusNotFound, r.call("keeper", http.MethodGet, "/trackers/Loans/notices/Closed%20week", nil).StatusCode)
}
