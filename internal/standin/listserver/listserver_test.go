package listserver_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/standin/listserver"
)

func TestListsComeInPages(t *testing.T) {
	var records []listserver.Record
	for i := range 60 {
		records = append(records, listserver.Record{"id": i})
	}
	s := listserver.New(map[string][]listserver.Record{"lenders": records})
	server := httptest.NewServer(s.Handler())
	defer server.Close()
	page := func(path string) (status int, link string, ids []any) {
		res, err := http.Get(server.URL + path)
		require.NoError(t, err)
		defer res.Body.Close()
		var body struct{ Records []map[string]any }
		if res.StatusCode == http.StatusOK {
			require.NoError(t, json.NewDecoder(res.Body).Decode(&body))
		}
		for _, r := range body.Records {
			ids = append(ids, r["id"])
		}
		return res.StatusCode, res.Header.Get("Link"), ids
	}
	_, link, ids := page("/lenders")
	assert.Equal(t, `</lenders?page=2>; rel="next"`, link)
	assert.Len(t, ids, 25)
	_, link, ids = page("/lenders?page=3")
	assert.Empty(t, link, "the last page leads nowhere")
	assert.Equal(t, "59", fmt.Sprint(ids[len(ids)-1]))
	for path, want := range map[string]int{"/nothing": http.StatusNotFound, "/lenders?page=0": http.StatusBadRequest, "/lenders?page=x": http.StatusBadRequest, "/lenders?page=99": http.StatusOK} {
		status, _, _ := page(path)
		assert.Equal(t, want, status, path)
	}
	s.FailAt("lenders", 2)
	status, _, _ := page("/lenders?page=2")
	assert.Equal(t, http.StatusInternalServerError, status)
	s.FailAt("lenders", 0)
	s.Put("lenders", records[:1])
	_, link, ids = page("/lenders")
	assert.Empty(t, link)
	assert.Len(t, ids, 1)
}
