package lists_test

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/testkit/servers"
)

// Against two real CalDAV servers.
func TestTaskLists(t *testing.T) {
	for name, serve := range map[string]func(testing.TB) string{"one": servers.Tasks, "another": servers.MoreTasks} {
		t.Run(name, func(t *testing.T) { taskList(t, serve(t)) })
	}
}

func taskList(t *testing.T, at string) {
	c := quick()
	c.Secret = func(context.Context, string) (string, error) { return "any", nil }
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	l := (&reconcile.List{Tasks: at, Name: "ines", Password: "${TASKS}"}).On(lisbon)
	send := func(w reconcile.Write) (reconcile.Written, error) { return c.Send(t.Context(), l, &w) }
	fetch := func() []reconcile.Entry {
		got, err := c.Fetch(t.Context(), l)
		require.NoError(t, err)
		return got
	}
	assert.Empty(t, fetch())
	add := reconcile.Write{Kind: reconcile.AddToList, Key: "L-1001", Once: "a", Fields: map[string]any{"uid": "L-1001", "title": "Tide clock; call, then crate", "due": "2026-03-31", "priority": json.Number("3"), "notes": "two\nlines"}}
	made, err := send(add)
	require.NoError(t, err)
	again, err := send(add)
	require.NoError(t, err, "an answer that was lost costs nothing")
	assert.Equal(t, made, again)
	got := fetch()
	require.Len(t, got, 1)
	doc := got[0].Doc.(map[string]any)
	assert.Equal(t, made.ID, got[0].ID)
	assert.NotEmpty(t, got[0].Version)
	assert.False(t, got[0].Changed.IsZero())
	for field, want := range map[string]any{"uid": "L-1001", "title": "Tide clock; call, then crate", "due": "2026-03-31", "priority": "3", "notes": "two\nlines", "done": false} {
		assert.Equal(t, want, doc[field], field)
	}
	// what the other program keeps in the task stays there
	putTask(t, got[0].ID, at, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:other\r\nBEGIN:VTODO\r\nUID:L-1001\r\nDTSTAMP:20260301T080000Z\r\nSUMMARY:Tide clock\r\nDUE;TZID=Europe/Lisbon:20260401T170000\r\nX-COLOUR:amber\r\nEND:VTODO\r\nEND:VCALENDAR\r\n")
	_, err = send(reconcile.Write{Kind: reconcile.Update, ID: got[0].ID, Version: got[0].Version, Fields: map[string]any{"title": "Mine"}})
	var declined *reconcile.Declined
	require.ErrorAs(t, err, &declined, "changed there meanwhile")
	got = fetch()
	assert.Equal(t, "2026-04-01T17:00:00", got[0].Doc.(map[string]any)["due"])
	_, err = send(reconcile.Write{Kind: reconcile.Update, ID: got[0].ID, Version: got[0].Version, Fields: map[string]any{"title": "Mine", "due": "2026-05-02T09:30", "done": true}})
	require.NoError(t, err)
	doc = fetch()[0].Doc.(map[string]any)
	assert.Equal(t, []any{"Mine", "2026-05-02T09:30:00", true, "COMPLETED"}, []any{doc["title"], doc["due"], doc["done"], doc["status"]})
	assert.Contains(t, getTask(t, got[0].ID, at), "X-COLOUR:amber")
	got = fetch()
	_, err = send(reconcile.Write{Kind: reconcile.Update, ID: got[0].ID, Version: got[0].Version, Fields: map[string]any{"done": false, "due": nil}})
	require.NoError(t, err)
	doc = fetch()[0].Doc.(map[string]any)
	assert.Equal(t, []any{false, nil}, []any{doc["done"], doc["due"]})
	_, err = send(reconcile.Write{Kind: reconcile.GoneTab, ID: got[0].ID})
	require.NoError(t, err)
	assert.Empty(t, fetch())
	_, err = send(reconcile.Write{Kind: reconcile.GoneTab, ID: got[0].ID})
	require.NoError(t, err, "gone is gone")
}

// Times are told by the tracker's clock, and go back in the form that they came in.
func TestTimesOfTasks(t *testing.T) {
	for name, serve := range map[string]func(testing.TB) string{"one": servers.Tasks, "another": servers.MoreTasks} {
		t.Run(name, func(t *testing.T) { taskTimes(t, serve(t)) })
	}
}

func taskTimes(t *testing.T, at string) {
	c := quick()
	c.Secret = func(context.Context, string) (string, error) { return "any", nil }
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	l := (&reconcile.List{Tasks: at, Name: "ines", Password: "${TASKS}"}).On(lisbon)
	u, err := url.Parse(at)
	require.NoError(t, err)
	for _, form := range []struct{ is, due, reads, becomes string }{
		{"utc", "DUE:20260701T080000Z", "2026-07-01T09:00:00", "DUE:20260702T083000Z"},
		{"utc in winter", "DUE:20260101T080000Z", "2026-01-01T08:00:00", "DUE:20260702T083000Z"},
		{"zone", "DUE;TZID=Europe/Helsinki:20260701T080000", "2026-07-01T06:00:00", "DUE;TZID=Europe/Helsinki:20260702T113000"},
		{"wall clock", "DUE:20260701T080000", "2026-07-01T08:00:00", "DUE:20260702T093000"},
		{"zone of its own", "DUE;TZID=Harbour:20260701T080000", "2026-07-01T08:00:00", "DUE;TZID=Harbour:20260702T093000"},
		{"day", "DUE;VALUE=DATE:20260701", "2026-07-01", "DUE:20260702T083000Z"},
		{"none", "X-NOTHING:1", "", "DUE:20260702T083000Z"},
	} {
		uid := strings.ReplaceAll(form.is, " ", "-")
		putTask(t, u.Path+uid+".ics", at, "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:other\r\nBEGIN:VTIMEZONE\r\nTZID:Harbour\r\nBEGIN:STANDARD\r\nDTSTART:19700101T000000\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0100\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\n"+
			"BEGIN:VTODO\r\nUID:"+uid+"\r\nDTSTAMP:20260301T080000Z\r\nLAST-MODIFIED:20260301T080000Z\r\nSUMMARY:"+form.is+"\r\n"+form.due+"\r\nCOMPLETED:20260301T080000Z\r\nEND:VTODO\r\nEND:VCALENDAR\r\n")
		all, err := c.Fetch(t.Context(), l)
		require.NoError(t, err)
		i := slices.IndexFunc(all, func(e reconcile.Entry) bool { return e.Doc.(map[string]any)["uid"] == uid })
		require.GreaterOrEqual(t, i, 0, form.is)
		doc := all[i].Doc.(map[string]any)
		due, _ := doc["due"].(string)
		assert.Equal(t, form.reads, due, form.is)
		assert.Equal(t, true, doc["done"], "a task with a time of completion is done")
		assert.Equal(t, time.Date(2026, 3, 1, 8, 0, 0, 0, time.UTC), all[i].Changed.UTC())
		_, err = c.Send(t.Context(), l, &reconcile.Write{Kind: reconcile.Update, ID: all[i].ID, Version: all[i].Version, Fields: map[string]any{"due": "2026-07-02T09:30"}})
		require.NoError(t, err, form.is)
		assert.Contains(t, strings.ReplaceAll(getTask(t, all[i].ID, at), "\r", ""), "\n"+form.becomes+"\n", form.is)
	}
}

func putTask(t *testing.T, path, collection, text string) {
	task(t, http.MethodPut, path, collection, text)
}

func getTask(t *testing.T, path, collection string) string {
	return task(t, http.MethodGet, path, collection, "")
}

// task plays the other program.
func task(t *testing.T, method, path, collection, text string) string {
	u, err := url.Parse(collection)
	require.NoError(t, err)
	u, err = u.Parse(path)
	require.NoError(t, err)
	req, err := http.NewRequestWithContext(t.Context(), method, u.String(), strings.NewReader(text))
	require.NoError(t, err)
	req.SetBasicAuth("ines", "any")
	req.Header.Set("Content-Type", "text/calendar")
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.Less(t, res.StatusCode, 300, "%s", body)
	return string(body)
}
