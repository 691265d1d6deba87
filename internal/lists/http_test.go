package lists_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/lists"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/standin/listserver"
)

// serve serves sixty lenders.
func serve(t *testing.T, s listserver.Settings) (*listserver.Server, string) {
	server := listserver.New(nil)
	server.Configure("lenders", s)
	var records []listserver.Record
	for i := range 60 {
		records = append(records, listserver.Record{"id": fmt.Sprintf("%03d", i), "name": fmt.Sprintf("Lender %d", i), "fee": json.Number("0.10"), "address": map[string]any{"country": "Averin", "town": "Harbour Row"}})
	}
	server.Put("lenders", records)
	h := httptest.NewServer(server.Handler())
	t.Cleanup(h.Close)
	return server, h.URL
}

func quick() *lists.Connectors { return &lists.Connectors{Pause: time.Millisecond} }

func TestEveryPageIsFetched(t *testing.T) {
	for mode, set := range map[string]func(*reconcile.List){
		"link":   func(l *reconcile.List) { l.Next = "link" },
		"cursor": func(l *reconcile.List) { l.Next, l.Cursor, l.As = "cursor", "/next", "after" },
		"page":   func(l *reconcile.List) { l.Next, l.As = "page", "page" },
	} {
		t.Run(mode, func(t *testing.T) {
			server, at := serve(t, listserver.Settings{Paged: mode, Revs: true})
			l := &reconcile.List{HTTP: at + "/lenders", Items: "/records", Version: "rev"}
			set(l)
			c := quick()
			got, err := c.Fetch(t.Context(), l)
			require.NoError(t, err)
			require.Len(t, got, 60)
			fee, err := reconcile.Pointer(got[59].Doc, "/fee")
			require.NoError(t, err)
			assert.Equal(t, json.Number("0.10"), fee, "numbers are kept as written")
			assert.Equal(t, "0", got[3].Version)
			again, err := c.Fetch(t.Context(), l)
			require.NoError(t, err)
			assert.Equal(t, got, again, "pages that have not changed are known")
			server.Set("lenders", "003", listserver.Record{"name": "Changed"})
			again, err = c.Fetch(t.Context(), l)
			require.NoError(t, err)
			assert.Equal(t, "1", again[3].Version)
			server.FailAt("lenders", 2)
			_, err = c.Fetch(t.Context(), l)
			require.ErrorContains(t, err, "page 2 of the list")
			require.ErrorContains(t, err, "500 Internal Server Error, 4 times")
		})
	}
}

func TestAListThatIsNotAsItShouldBe(t *testing.T) {
	for answer, says := range map[string]string{
		`not json`:              "is not JSON",
		`{"records": {}}`:       "no array of records",
		`{"other": []}`:         "no array of records",
		`{"records": []} extra`: "",
	} {
		h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, answer) }))
		got, err := quick().Fetch(t.Context(), &reconcile.List{HTTP: h.URL, Items: "/records"})
		h.Close()
		if says == "" {
			require.NoError(t, err)
			assert.Empty(t, got)
			continue
		}
		require.ErrorContains(t, err, says, answer)
	}
	_, err := quick().Fetch(t.Context(), &reconcile.List{HTTP: "http://127.0.0.1:1/x"})
	require.ErrorContains(t, err, "refused")
}

// A list that is fetched as one page says by what the others could be had.
func TestAListSaysThatThereAreMorePages(t *testing.T) {
	for mode, want := range map[string]reconcile.Pages{
		"link":   {Fetched: 1, Offers: "link"},
		"cursor": {Fetched: 1, Offers: "cursor", Cursor: "/next"},
		"page":   {Fetched: 1},
	} {
		t.Run(mode, func(t *testing.T) {
			_, at := serve(t, listserver.Settings{Paged: mode})
			l := &reconcile.List{HTTP: at + "/lenders", Items: "/records"}
			got, pages, err := quick().Look(t.Context(), l)
			require.NoError(t, err)
			assert.Less(t, len(got), 60)
			assert.Equal(t, want, pages)
			if l.Next, l.Cursor, l.As = want.Offers, want.Cursor, "after"; l.Next == "" {
				return
			}
			got, pages, err = quick().Look(t.Context(), l)
			require.NoError(t, err)
			assert.Len(t, got, 60)
			assert.Empty(t, pages.Offers)
			assert.Greater(t, pages.Fetched, 1)
		})
	}
}

func TestPagesThatLeadAstray(t *testing.T) {
	for next, says := range map[string]string{"HERE": "in a circle", "http://elsewhere.example.org/": "lies with another host"} {
		h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			w.Header().Set("Link", fmt.Sprintf(`<http://elsewhere.example.org>; rel="prev", <%s>; rel=next`, strings.ReplaceAll(next, "HERE", r.URL.Path)))
			fmt.Fprint(w, `[]`)
		}))
		_, err := quick().Fetch(t.Context(), &reconcile.List{HTTP: h.URL + "/a", Next: "link"})
		h.Close()
		require.ErrorContains(t, err, says)
	}
}

func TestCallsAreMadeAgainWhenAListIsBusy(t *testing.T) {
	calls := 0
	h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		if calls++; calls < 4 {
			w.Header().Set("Retry-After", "0")
			w.WriteHeader([]int{429, 503, 500}[calls-1])
			return
		}
		fmt.Fprint(w, `[{"id": 1}]`)
	}))
	defer h.Close()
	got, err := quick().Fetch(t.Context(), &reconcile.List{HTTP: h.URL})
	require.NoError(t, err)
	assert.Len(t, got, 1)
	assert.Equal(t, 4, calls)
}

func TestAccountsAndSecrets(t *testing.T) {
	_, at := serve(t, listserver.Settings{Token: "s3cret"})
	c := quick()
	l := &reconcile.List{HTTP: at + "/lenders", Items: "/records", Token: "${REGISTER}"}
	_, err := c.Fetch(t.Context(), l)
	require.ErrorContains(t, err, "the list needs the secret REGISTER")
	c.Secret = func(context.Context, string) (string, error) { return "wrong", nil }
	_, err = c.Fetch(t.Context(), l)
	require.ErrorContains(t, err, "401")
	c.Secret = func(_ context.Context, name string) (string, error) {
		return map[string]string{"REGISTER": "s3cret"}[name], nil
	}
	got, err := c.Fetch(t.Context(), l)
	require.NoError(t, err)
	assert.Len(t, got, 25)
	_, err = c.Fetch(t.Context(), &reconcile.List{HTTP: "http://127.0.0.1:1/${REGISTER}", Next: "link"})
	require.ErrorContains(t, err, "/${REGISTER}")
	assert.NotContains(t, err.Error(), "s3cret")

	h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name, password, _ := r.BasicAuth()
		fmt.Fprintf(w, `[{"id": %q}]`, name+" "+password)
	}))
	defer h.Close()
	got, err = c.Fetch(t.Context(), &reconcile.List{HTTP: h.URL, Name: "kavlo", Password: "${REGISTER}", ID: "id"})
	require.NoError(t, err)
	assert.Equal(t, "kavlo s3cret", got[0].ID)
}

func TestWritesOverHTTP(t *testing.T) {
	server, at := serve(t, listserver.Settings{Revs: true})
	l := &reconcile.List{HTTP: at + "/lenders", Items: "/records", ID: "id", Send: reconcile.Send{Add: "POST /lenders", Change: "PATCH /lenders/{id}", Remove: "DELETE " + at + "/lenders/{id}"}}
	c := quick()
	send := func(w reconcile.Write) (reconcile.Written, error) { return c.Send(t.Context(), l, &w) }
	find := func(id string) listserver.Record {
		for _, r := range server.Records("lenders") {
			if r["id"] == id {
				return r
			}
		}
		return nil
	}
	server.FailWrites("lenders", 2)
	add := reconcile.Write{Kind: reconcile.AddToList, Fields: map[string]any{"id": "x/1", "/address/country": "Corrin"}, Once: "a"}
	got, err := send(add)
	require.NoError(t, err, "a busy list is tried again")
	assert.Equal(t, "x/1", got.ID)
	_, err = send(add)
	require.NoError(t, err, "the same write again is done once")
	assert.Len(t, server.Records("lenders"), 61)
	assert.Equal(t, map[string]any{"country": "Corrin"}, find("x/1")["address"])

	change := reconcile.Write{Kind: reconcile.Update, ID: "003", Version: "0", Fields: map[string]any{"address/country": "Ostrel"}, Once: "b"}
	_, err = send(change)
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"country": "Ostrel", "town": "Harbour Row"}, find("003")["address"], "what is not spoken of stays")
	change.Once = "c"
	_, err = send(change)
	var declined *reconcile.Declined
	require.ErrorAs(t, err, &declined)
	assert.Contains(t, declined.Why, "changed in the list meanwhile")

	l.Send.Change = "PUT /lenders/{id}"
	entries, err := c.Fetch(t.Context(), l)
	require.NoError(t, err)
	_, err = send(reconcile.Write{Kind: reconcile.Update, ID: "004", Entry: entries[4].Doc, Fields: map[string]any{"name": nil, "address/country": "Tarnland"}, Once: "d"})
	require.NoError(t, err)
	r := find("004")
	assert.Equal(t, "Harbour Row", r["address"].(map[string]any)["town"], "a whole record is sent whole")
	assert.Nil(t, r["name"])
	assert.Equal(t, "Averin", entries[4].Doc.(map[string]any)["address"].(map[string]any)["country"], "what was fetched is not altered")

	_, err = send(reconcile.Write{Kind: reconcile.GoneTab, ID: "005", Once: "e"})
	require.NoError(t, err)
	assert.Nil(t, find("005"))
	_, err = send(reconcile.Write{Kind: reconcile.GoneTab, ID: "005", Once: "f"})
	require.NoError(t, err, "gone is gone")
	_, err = send(reconcile.Write{Kind: reconcile.AddToList, Fields: map[string]any{"id": "003"}, Once: "g"})
	require.ErrorAs(t, err, &declined)
	assert.Contains(t, declined.Why, "there is a record 003 already")
	server.FailWrites("lenders", 100)
	_, err = send(reconcile.Write{Kind: reconcile.GoneTab, ID: "006", Once: "h"})
	require.ErrorContains(t, err, "503 Service Unavailable, 4 times")
	assert.False(t, errors.As(err, &declined), "a list out of order is not a refusal")
}

func TestLargeAndSlowAnswersAreCutOff(t *testing.T) {
	h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/slow" {
			<-r.Context().Done()
			return
		}
		chunk := strings.Repeat(" ", 1<<20)
		for range lists.MaxPage>>20 + 1 {
			fmt.Fprint(w, chunk)
		}
	}))
	defer h.Close()
	_, err := quick().Fetch(t.Context(), &reconcile.List{HTTP: h.URL})
	require.ErrorContains(t, err, "larger than 32 MB")
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer cancel()
	_, err = quick().Fetch(ctx, &reconcile.List{HTTP: h.URL + "/slow"})
	require.ErrorIs(t, err, context.DeadlineExceeded)
}
