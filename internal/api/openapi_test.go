package api

import (
	"bytes"
	"encoding/json"
	"flag"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/workspace"
)

var update = flag.Bool("update", false, "write docs/openapi.json anew")

const openAPIFile = "../../docs/openapi.json"

func testWorkspace(t *testing.T, now func() time.Time) *workspace.Workspace {
	t.Helper()
	d, err := workspace.Open(t.Context(), workspace.Config{Now: now, Dir: t.TempDir(), Console: "http://kavlo.example.org"})
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, d.Close()) })
	return d
}

// The document that the client package and the console's types are held
// against is the one that the service serves.
func TestOpenAPIDocumentIsUpToDate(t *testing.T) {
	h := New(testWorkspace(t, time.Now), Options{Version: "0", Log: slog.New(slog.DiscardHandler)})
	w := httptest.NewRecorder()
	h.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "http://localhost/api/openapi.json", nil))
	require.Equal(t, http.StatusOK, w.Code)
	var live bytes.Buffer
	require.NoError(t, json.Indent(&live, w.Body.Bytes(), "", "  "))
	live.WriteByte('\n')
	if *update {
		require.NoError(t, os.WriteFile(openAPIFile, live.Bytes(), 0o644))
	}
	kept, err := os.ReadFile(openAPIFile)
	require.NoError(t, err)
	assert.True(t, bytes.Equal(kept, live.Bytes()), "docs/openapi.json is out of date: run make openapi")
}
