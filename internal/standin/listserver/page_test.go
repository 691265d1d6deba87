package listserver_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/standin/listserver"
)

// Somebody plays the other side on the page, and the feed tells what changed.
func TestThePageAndTheFeedOfChanges(t *testing.T) {
	s := listserver.New(map[string][]listserver.Record{"lenders": {{"id": "001", "name": `Hask & "Daughters" <b>`, "address": map[string]any{"country": "Averin", "town": "Harbour Row"}}}})
	server := httptest.NewServer(s.Handler())
	defer server.Close()
	get := func(path string) string {
		res, err := http.Get(server.URL + path)
		require.NoError(t, err)
		defer res.Body.Close()
		text, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, res.StatusCode)
		return string(text)
	}
	page := get("/")
	assert.Contains(t, page, `value="Hask &amp; &#34;Daughters&#34; &lt;b&gt;"`, "what a list holds is never markup")
	assert.Contains(t, page, `name="address/country" value="Averin"`)
	edit := func(form url.Values) {
		res, err := http.PostForm(server.URL+"/edit/lenders", form)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		require.Equal(t, http.StatusOK, res.StatusCode, "it leads back to the page")
	}
	edit(url.Values{"record": {"001"}, "do": {"change"}, "id": {"001"}, "name": {"Hask"}, "address/country": {"Corrin"}})
	edit(url.Values{"record": {""}, "do": {"change"}, "id": {"002"}, "name": {"Tarn"}})
	edit(url.Values{"record": {""}, "do": {"change"}, "id": {""}, "name": {"nobody"}})
	assert.Equal(t, []listserver.Record{{"id": "001", "name": "Hask", "address": map[string]any{"country": "Corrin", "town": "Harbour Row"}}, {"id": "002", "name": "Tarn"}}, s.Records("lenders"))
	edit(url.Values{"record": {"001"}, "do": {"remove"}})
	var feed struct{ Changes []listserver.Change }
	require.NoError(t, json.Unmarshal([]byte(get("/lenders/changes?since=1")), &feed))
	assert.Equal(t, []listserver.Change{{2, "add", "002"}, {3, "remove", "001"}}, feed.Changes)

	s.Slow("lenders", 50*time.Millisecond)
	quick := http.Client{Timeout: 10 * time.Millisecond}
	_, err := quick.Get(server.URL + "/lenders")
	require.Error(t, err, "a slow list lets its reader wait")
	s.Slow("lenders", 0)
	s.Configure("lenders", listserver.Settings{Token: "t"})
	res, err := http.Get(server.URL + "/lenders")
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, http.StatusUnauthorized, res.StatusCode)
}
