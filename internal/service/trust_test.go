package service_test

import (
	"encoding/pem"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/service"
	"example.org/kavlo/internal/standin/listserver"
)

// A list behind a certificate of the house's own is reached once that is trusted.
func TestACertificateOfOnesOwnIsTrusted(t *testing.T) {
	records := listserver.New(nil)
	records.Put("tasks", []listserver.Record{{"id": "1", "no": "A", "title": "Bell"}})
	house := httptest.NewTLSServer(records.Handler())
	t.Cleanup(house.Close)
	file := filepath.Join(t.TempDir(), "house.pem")
	require.NoError(t, os.WriteFile(file, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: house.Certificate().Raw}), 0o600))
	list := "  - { name: Tasks, from: { http: \"" + house.URL + "/tasks\", items: /records, id: id } }\n"
	sync := "  - { name: Bring, list: Tasks, tab: Tasks, key: { No: no }, fields: { Title: title }, direction: in }\n"

	s := siteWith(t, service.Settings{Version: "0", Listen: "127.0.0.1:0"}, list, sync)
	_, err := s.api.RunSync(t.Context(), client.How{}, "Loans", "Bring", true)
	require.ErrorContains(t, err, "start the service with --trust")

	s = siteWith(t, service.Settings{Version: "0", Listen: "127.0.0.1:0", Trust: []string{file}}, list, sync)
	s.run("Bring")
	assert.Contains(t, s.rows("No", "Title"), "Bell")

	empty := filepath.Join(t.TempDir(), "empty.pem")
	require.NoError(t, os.WriteFile(empty, []byte("nothing"), 0o600))
	for says, path := range map[string]string{"no certificate in PEM form": empty, "reading a certificate to trust": empty + "x"} {
		_, err = service.Start(t.Context(), service.Settings{Version: "0", Dir: t.TempDir(), Listen: "127.0.0.1:0", Trust: []string{path}})
		require.ErrorContains(t, err, says)
	}
}

// HEAD is answered as GET is, without a body.
func TestHeadAnswersAsGet(t *testing.T) {
	dir := t.TempDir()
	s, err := service.Start(t.Context(), settings(dir))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Stop()) })
	token, err := os.ReadFile(filepath.Join(dir, access.KeeperFile))
	require.NoError(t, err)
	for _, path := range []string{"/healthz", "/readyz", "/metrics", "/api/v1/trackers", "/api/v1/events", "/api/v1/trackers/none", "/api/v1/backup", "/feed/none.ics", "/"} {
		var answers [2]*http.Response
		for i, method := range []string{http.MethodHead, http.MethodGet} {
			req, err := http.NewRequestWithContext(t.Context(), method, s.Address+path, nil)
			require.NoError(t, err)
			req.Header.Set("Authorization", "Bearer "+strings.TrimSpace(string(token)))
			answers[i], err = http.DefaultClient.Do(req)
			require.NoError(t, err, path)
			require.NoError(t, answers[i].Body.Close())
		}
		assert.Equal(t, answers[1].StatusCode, answers[0].StatusCode, path)
		assert.Equal(t, answers[1].Header.Get("Content-Type"), answers[0].Header.Get("Content-Type"), path)
	}
}
