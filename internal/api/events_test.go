package api

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

// events reads events from a stream until n have come.
func (r *rig) events(n int, last string) []wire.Event {
	r.t.Helper()
	ctx, cancel := context.WithTimeout(r.t.Context(), 10*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, r.server.URL+"/api/v1/events", nil)
	require.NoError(r.t, err)
	req.Header.Set("Authorization", "Bearer "+r.tokens["reader"])
	req.Header.Set("Last-Event-ID", last)
	res, err := r.server.Client().Do(req)
	require.NoError(r.t, err)
	defer res.Body.Close()
	require.Equal(r.t, "text/event-stream", res.Header.Get("Content-Type"))
	var out []wire.Event
	lines := bufio.NewScanner(res.Body)
	lines.Buffer(nil, 1<<20)
	for len(out) < n && lines.Scan() {
		if data, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
			var e wire.Event
			require.NoError(r.t, json.Unmarshal([]byte(data), &e))
			out = append(out, e)
		}
	}
	return out
}

// listener is a stream of events that is open.
type listener struct {
	t     *testing.T
	lines *bufio.Scanner
}

// listen opens a stream and waits until it listens.
func (r *rig) listen(as, last string) *listener {
	r.t.Helper()
	ctx, cancel := context.WithTimeout(r.t.Context(), 10*time.Second)
	r.t.Cleanup(cancel)
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, r.server.URL+"/api/v1/events", nil)
	require.NoError(r.t, err)
	req.Header.Set("Authorization", "Bearer "+r.tokens[as])
	if last != "" {
		req.Header.Set("Last-Event-ID", last)
	}
	res, err := r.server.Client().Do(req)
	require.NoError(r.t, err)
	r.t.Cleanup(func() { _ = res.Body.Close() })
	l := &listener{r.t, bufio.NewScanner(res.Body)}
	require.True(r.t, l.lines.Scan())
	require.Equal(r.t, ": listening", l.lines.Text())
	return l
}

// next gives the next event.
func (l *listener) next() (e wire.Event) {
	l.t.Helper()
	for l.lines.Scan() {
		if data, is := strings.CutPrefix(l.lines.Text(), "data: "); is {
			require.NoError(l.t, json.Unmarshal([]byte(data), &e))
			return e
		}
	}
	require.Fail(l.t, "the stream ended before an event came")
	return e
}

// rest gives what comes until the service ends the stream.
func (l *listener) rest() string {
	var b strings.Builder
	for l.lines.Scan() {
		b.WriteString(l.lines.Text() + "\n")
	}
	require.NoError(l.t, l.lines.Err(), "the service did not end the stream")
	return b.String()
}

func TestEventsResumeFromTheLastOneSeen(t *testing.T) {
	r := newRig(t)
	from := r.workspace.Seq()
	row := r.add("Bell")
	r.add("Lamp")
	r.call("editor", "DELETE", "/trackers/Loans/tabs/Requested/rows/Lamp", nil)
	got := r.events(3, fmt.Sprint(from))
	require.Len(t, got, 3)
	assert.Equal(t, []int64{from + 1, from + 2, from + 3}, []int64{got[0].Seq, got[1].Seq, got[2].Seq})
	assert.Equal(t, row.ID, got[0].Rows[0].ID)
	assert.Len(t, got[2].Gone, 1)

	live := make(chan []wire.Event)
	go func() { live <- r.events(1, fmt.Sprint(from+3)) }()
	require.Eventually(t, func() bool {
		select {
		case e := <-live:
			return len(e) == 1 && e[0].Seq > from+3
		default:
			r.add(fmt.Sprintf("Horn %d", time.Now().UnixNano()))
			return false
		}
	}, 10*time.Second, 20*time.Millisecond)
}

func TestTheConsoleIsServedWithItsGuards(t *testing.T) {
	r := newRig(t)
	get := func(path string) (*http.Response, string) {
		res, err := r.server.Client().Get(r.server.URL + path)
		require.NoError(t, err)
		defer res.Body.Close()
		var b bytes.Buffer
		_, err = b.ReadFrom(res.Body)
		require.NoError(t, err)
		return res, b.String()
	}
	for _, path := range []string{"/", "/t/t1/b2", "/sign-in"} {
		res, page := get(path)
		assert.Equal(t, 200, res.StatusCode, path)
		assert.Contains(t, page, "<title>console", path)
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'self'")
	}
	res, _ := get("/assets/a.js")
	assert.Contains(t, res.Header.Get("Cache-Control"), "immutable")
	for path, want := range map[string]string{"/healthz": "ok", "/readyz": "ready", "/metrics": "kavlo_request_seconds"} {
		_, text := get(path)
		assert.Contains(t, text, want)
	}
	bare := httptest.NewServer(New(r.workspace, Options{}))
	defer bare.Close()
	res, err := bare.Client().Get(bare.URL + "/")
	require.NoError(t, err)
	defer res.Body.Close()
	var page bytes.Buffer
	_, err = page.ReadFrom(res.Body)
	require.NoError(t, err)
	assert.Contains(t, page.String(), "console was not built")
}

// An event is worked out once for all who see the same of it, and each is told what they see.
func TestAnEventIsWrittenOnceForAllWhoSeeTheSame(t *testing.T) {
	var r rendered
	worked := map[string]int{}
	var mu sync.Mutex
	get := func(key string) string {
		return string(r.get(key, func() []byte {
			mu.Lock()
			defer mu.Unlock()
			worked[key]++
			return []byte("of " + key)
		}))
	}
	var all sync.WaitGroup
	for i := range 40 {
		all.Go(func() { assert.Equal(t, fmt.Sprintf("of %d", i%2), get(fmt.Sprint(i%2))) })
	}
	all.Wait()
	assert.Equal(t, map[string]int{"0": 1, "1": 1}, worked)
	for i := range keepRendered {
		get(fmt.Sprint("later", i))
	}
	assert.Len(t, r.of, keepRendered)
	get("0")
	assert.Equal(t, 2, worked["0"], "an old one is not kept")
}

func TestListenersWhoSeeTheSameShareAnEvent(t *testing.T) {
	r := newRig(t)
	r.setup("tracker: Loans\nzone: UTC\ntabs:\n  Requested: { columns: { Object: { type: text }, Fee: { type: number } } }\naccess: { columns: { Fee: { see: [editors] } } }\n")
	reader, reader2, editor, keeper := r.listen("reader", ""), r.listen("reader", ""), r.listen("editor", ""), r.listen("keeper", "")
	require.Equal(t, http.StatusOK, r.call("keeper", "POST", "/trackers/Loans/tabs/Requested/rows", map[string]any{"rows": []any{map[string]any{"Object": "Bell", "Fee": 7}}}).StatusCode)
	for l, sees := range map[*listener]bool{reader: false, reader2: false, editor: true, keeper: true} {
		e := l.next()
		require.Len(t, e.Rows, 1)
		_, has := e.Rows[0].Cells["Fee"]
		assert.Equal(t, sees, has)
	}
}

// An event names the tabs that rows left and came to, of those that its listener may see.
func TestAnEventNamesTheTabsThatItTouches(t *testing.T) {
	r := newRig(t)
	r.setup("tracker: Loans\nzone: UTC\ntabs:\n  Requested: { columns: { Object: { type: text } } }\n  Closed: { columns: { Object: { type: text } } }\naccess: { tabs: { Closed: { see: [editors] } } }\n")
	r.addTo("Requested", map[string]any{"Object": "Bell"})
	tracker := r.workspace.State().Trackers()[0]
	requested, closed := tracker.Tabs[0].ID.String(), tracker.Tabs[1].ID.String()
	var rows wire.Rows
	r.call("editor", "GET", "/trackers/Loans/tabs/Requested/rows", nil).into(t, &rows)
	reader, editor := r.listen("reader", ""), r.listen("editor", "")
	a := r.call("editor", "POST", "/trackers/Loans/rows/move", wire.MoveRows{Rows: []string{rows.Rows[0].ID}, To: "Closed"})
	require.Equal(t, http.StatusOK, a.StatusCode, string(a.body))
	assert.Equal(t, []string{requested, closed}, editor.next().Tabs)
	e := reader.next()
	assert.Equal(t, []string{requested}, e.Tabs)
	assert.Equal(t, []string{rows.Rows[0].ID}, e.Gone)
}
