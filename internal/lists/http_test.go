package lists_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/lists"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/standin/listserver"
)

func TestEveryPageIsFetched(t *testing.T) {
	var records []listserver.Record
	for i := range 60 {
		records = append(records, listserver.Record{"id": i, "fee": json.Number("0.10")})
	}
	server := listserver.New(map[string][]listserver.Record{"lenders": records})
	h := httptest.NewServer(server.Handler())
	defer h.Close()
	l := &setup.List{HTTP: h.URL + "/lenders", Items: "/records", Next: "link"}
	got, err := (&lists.Connectors{}).Fetch(t.Context(), l)
	require.NoError(t, err)
	require.Len(t, got, 60)
	assert.Equal(t, map[string]any{"id": json.Number("59"), "fee": json.Number("0.10")}, got[59], "numbers are exact")

	server.FailAt("lenders", 2)
	_, err = (&lists.Connectors{}).Fetch(t.Context(), l)
	require.ErrorContains(t, err, "page 2 of the list")
	require.ErrorContains(t, err, "500")
	server.FailAt("lenders", 0)
	server.Put("lenders", records[:3])
	got, err = (&lists.Connectors{}).Fetch(t.Context(), l)
	require.NoError(t, err)
	assert.Len(t, got, 3)
}

func TestAListThatIsNotAsItShouldBe(t *testing.T) {
	for answer, says := range map[string]string{
		`not json`:              "is not JSON",
		`{"records": {}}`:       "no array of records",
		`{"other": []}`:         "no array of records",
		`{"records": []} extra`: "",
	} {
		h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, answer) }))
		got, err := (&lists.Connectors{}).Fetch(t.Context(), &setup.List{HTTP: h.URL, Items: "/records"})
		h.Close()
		if says == "" {
			require.NoError(t, err)
			assert.Empty(t, got)
			continue
		}
		require.ErrorContains(t, err, says, answer)
	}
	_, err := (&lists.Connectors{}).Fetch(t.Context(), &setup.List{HTTP: "http://127.0.0.1:1/x"})
	require.ErrorContains(t, err, "refused")
}

func TestPagesThatLeadRoundInACircle(t *testing.T) {
	h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Link", fmt.Sprintf(`<http://elsewhere.example.org>; rel="prev", <%s>; rel=next`, r.URL.Path))
		fmt.Fprint(w, `[]`)
	}))
	defer h.Close()
	_, err := (&lists.Connectors{}).Fetch(t.Context(), &setup.List{HTTP: h.URL + "/a", Next: "link"})
	require.ErrorContains(t, err, "in a circle")
}
