package api

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/notify"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
)

const withActs = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text }, Who: { type: person }, Due: { type: date }, Seen: { type: text } } }
reminders:
  - { name: Late <b>, in: Requested, where: Due before today, show: [Object, Due], to: "{Who}", due: Due, act: { done: { Seen: "{today}" }, date: Due } }
rounds:
  - { name: Morning, clock: daily at 08:30, reminders: all, subject: "{count} wait" }
`

// page gets or posts a page as a browser or a mail program does.
func (r *rig) page(method, path string, form url.Values) (int, string, http.Header) {
	r.t.Helper()
	req, err := http.NewRequest(method, r.server.URL+path, strings.NewReader(form.Encode()))
	require.NoError(r.t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	res, err := r.server.Client().Do(req)
	require.NoError(r.t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(r.t, err)
	return res.StatusCode, string(body), res.Header
}

func TestPagesOfLinksInMails(t *testing.T) {
	r := newRig(t)
	ctx := context.Background()
	_, err := r.workspace.Commit(ctx, r.workspace.DropTracker(testkit.By("Keeper"), r.workspace.State().Trackers()[0].ID))
	require.NoError(t, err)
	_, err = r.workspace.Commit(ctx, r.workspace.LoadSetup(testkit.By("Keeper"), []byte(withActs)))
	require.NoError(t, err)
	tr, tab, err := r.workspace.FindTab("Loans", "Requested")
	require.NoError(t, err)
	_, err = r.workspace.Commit(ctx, r.workspace.AddRows(testkit.By("Keeper"), tr.ID, tab.ID, []map[string]any{{"Object": `<script>"Bell"`, "Who": "editor@example.org", "Due": "2026-03-01"}}))
	require.NoError(t, err)
	plan, err := r.workspace.PlanRound(ctx, r.workspace.State().Trackers()[0], "Morning")
	require.NoError(t, err)
	require.Len(t, plan.Letters, 1)
	assert.Equal(t, "editor@example.org", plan.Letters[0].To)
	require.NoError(t, r.workspace.Show(ctx, "editor@example.org", &plan.Letters[0].Text))
	links := map[string]string{}
	for _, found := range regexp.MustCompile(`(Mark done|Remind me later|Change date|Pause these emails): http://\S+?(/act/\S+)`).FindAllStringSubmatch(plan.Letters[0].Text, -1) {
		links[found[1]] = found[2]
	}
	require.Len(t, links, 4)
	state := r.workspace.State()
	for what, at := range links { // as whatever looks through mail does
		for _, method := range []string{http.MethodGet, http.MethodHead} {
			status, body, header := r.page(method, at, nil)
			if method == http.MethodGet {
				require.Equal(t, 200, status, what)
				assert.NotContains(t, body, "<script>")
			}
			assert.NotContains(t, header.Get("Set-Cookie"), "session")
		}
	}
	assert.Same(t, state, r.workspace.State(), "looking changes nothing")
	paused, err := r.workspace.Store().Paused(ctx)
	require.NoError(t, err)
	assert.Empty(t, paused)

	_, body, header := r.page("GET", links["Change date"], nil)
	assert.Contains(t, body, "Change the date of &lt;script&gt;&#34;Bell&#34;?")
	assert.Contains(t, body, "You are Editor.")
	assert.Contains(t, header.Get("Content-Security-Policy"), "default-src 'none'")
	assert.Equal(t, "no-store", header.Get("Cache-Control"))
	status, body, _ := r.page("POST", links["Change date"], url.Values{"date": {"whenever"}})
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "choose a day")
	status, body, _ = r.page("POST", links["Change date"], url.Values{"date": {"2099-05-01"}})
	assert.Equal(t, 200, status)
	assert.Contains(t, body, "Due is 2099-05-01 now.")
	var journal []wire.JournalEntry
	r.call("reader", "GET", "/trackers/Loans/journal", nil).into(t, &journal)
	assert.Equal(t, "Editor, by mail", journal[0].Who)
	_, body, _ = r.page("GET", links["Mark done"], nil)
	assert.Contains(t, body, "dealt with already")

	status, body, _ = r.page("POST", links["Pause these emails"], url.Values{"List-Unsubscribe": {"One-Click"}}) // as RFC 8058 has it
	assert.Equal(t, 200, status)
	assert.Contains(t, body, "Resume emails")
	paused, err = r.workspace.Store().Paused(ctx)
	require.NoError(t, err)
	assert.Contains(t, paused, "editor@example.org")
	_, body, _ = r.page("POST", links["Pause these emails"], url.Values{"again": {"yes"}})
	assert.Contains(t, body, "Emails resumed")
	for _, bad := range []string{"/act/nothing", links["Mark done"] + "x", strings.Replace(links["Mark done"], "/act/ey", "/act/eY", 1)} {
		status, body, _ = r.page("POST", bad, nil)
		assert.Equal(t, 404, status)
		assert.Contains(t, body, "invalid or expired")
	}
}

// The calendar is read by a parser that has nothing to do with what wrote it.
func TestTheCalendarReadsElsewhere(t *testing.T) {
	r := newRig(t)
	ctx := context.Background()
	_, err := r.workspace.Commit(ctx, r.workspace.LoadSetup(testkit.By("Keeper"), []byte(strings.Replace(withActs, "tracker: Loans", "tracker: More loans", 1))))
	require.NoError(t, err)
	tr, tab, err := r.workspace.FindTab("More loans", "Requested")
	require.NoError(t, err)
	_, err = r.workspace.Commit(ctx, r.workspace.AddRows(testkit.By("Keeper"), tr.ID, tab.ID, []map[string]any{{"Object": "Bell; \"large\", ä\\b", "Who": "editor@example.org", "Due": "2026-03-01"}, {"Object": strings.Repeat("Long name ", 20), "Who": "editor@example.org", "Due": r.workspace.Now().AddDate(0, 1, 0).Format("2006-01-02")}}))
	require.NoError(t, err)
	var made wire.Secret
	r.call("keeper", "POST", "/people/Editor/feed", nil).into(t, &made)
	at := made.Link[strings.Index(made.Link, notify.FeedPath):]
	status, body, header := r.page("GET", at, nil)
	require.Equal(t, 200, status)
	assert.Equal(t, "text/calendar; charset=utf-8", header.Get("Content-Type"))
	for line := range strings.SplitSeq(body, "\r\n") {
		assert.LessOrEqual(t, len(line), 75, "lines are folded")
	}
	cal, err := ics.ParseCalendar(bytes.NewReader([]byte(body)))
	require.NoError(t, err)
	events := cal.Events()
	require.Len(t, events, 2)
	assert.Equal(t, "Bell; \"large\", ä\\b: Late <b>", ics.FromText(events[0].GetProperty(ics.ComponentPropertySummary).Value))
	day, err := events[0].GetAllDayStartAt()
	require.NoError(t, err)
	assert.Equal(t, "2026-03-01", day.Format("2006-01-02"))
	assert.NotEqual(t, events[0].Id(), events[1].Id())
	assert.Contains(t, body, "X-WR-CALNAME:")
	assert.Contains(t, header.Get("Content-Disposition"), ".ics")
	etag := header.Get("ETag")
	require.NotEmpty(t, etag)
	req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, r.server.URL+at, nil)
	require.NoError(t, err)
	req.Header.Set("If-None-Match", etag)
	res, err := r.server.Client().Do(req)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, http.StatusNotModified, res.StatusCode, "what has not changed is not sent again")
	for _, bad := range []string{notify.FeedPath + "nothing.ics", strings.TrimSuffix(at, ".ics")} {
		status, _, _ = r.page("GET", bad, nil)
		assert.Equal(t, 404, status)
	}
	assert.Equal(t, 204, r.call("keeper", "DELETE", "/people/Editor/feed", nil).StatusCode)
	status, _, _ = r.page("GET", at, nil)
	assert.Equal(t, 404, status)
	assert.Equal(t, 403, r.call("editor", "POST", "/people/Editor/feed", nil).StatusCode)
}
