package api

import (
	"net/http"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Scripts go in the smallest form that a browser takes, and are not told from one another
// by caches that lie between.
func TestTheConsoleIsSentPacked(t *testing.T) {
	r := newRig(t)
	for name, text := range map[string]string{"assets/a.js": "plain", "assets/a.js.br": "br", "assets/a.js.gz": "gz"} {
		r.console[name] = &fstest.MapFile{Data: []byte(text)}
	}
	for accepts, want := range map[string][2]string{
		"":                       {"plain", ""},
		"gzip, deflate, br":      {"br", "br"},
		"gzip;q=0.8":             {"gz", "gzip"},
		"br;q=0, gzip":           {"gz", "gzip"},
		"identity, zstd":         {"plain", ""},
		"GZIP ; q=1.0, br;q=0.0": {"gz", "gzip"},
	} {
		req, err := http.NewRequest(http.MethodGet, r.server.URL+"/assets/a.js", nil)
		require.NoError(t, err)
		req.Header.Set("Accept-Encoding", accepts)
		res, err := (&http.Transport{DisableCompression: true}).RoundTrip(req)
		require.NoError(t, err)
		body := make([]byte, 10)
		n, _ := res.Body.Read(body)
		require.NoError(t, res.Body.Close())
		assert.Equal(t, want, [2]string{string(body[:n]), res.Header.Get("Content-Encoding")}, accepts)
		assert.Contains(t, res.Header.Get("Content-Type"), "javascript")
		assert.Equal(t, "Accept-Encoding", res.Header.Get("Vary"))
		assert.Contains(t, res.Header.Get("Cache-Control"), "immutable")
	}
}
