package api

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
)

// What asks for too much is refused, in words that say what to do, and what is
// long comes a part at a time.

func (r *rig) fill(tab string, n int, cells map[string]any) {
	r.t.Helper()
	rows := make([]map[string]any, n)
	for i := range rows {
		rows[i] = map[string]any{"Object": fmt.Sprintf("Object %d", i)}
		for k, v := range cells {
			rows[i][k] = v
		}
	}
	a := r.call("editor", "POST", "/trackers/Loans/tabs/"+tab+"/rows", wire.NewRows{Rows: rows})
	require.Equal(r.t, 200, a.StatusCode, string(a.body))
}

func TestAFilterThatAsksTooMuchIsRefused(t *testing.T) {
	r := newRig(t)
	r.workspace.Budgets.Looks = 50_000
	const where = "?where=" + "(count+in+Requested+where+Object+contains+this.Object)+%3E+5"
	r.fill("Requested", 100, nil)
	assert.Equal(t, 200, r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows"+where, nil).StatusCode)
	r.fill("Requested", 400, nil)
	for _, path := range []string{"/trackers/Loans/tabs/Requested/rows" + where, "/trackers/Loans/export" + where + "&tab=Requested&format=csv", "/trackers/Loans/export" + where + "&tab=Requested&format=json"} {
		a := r.call("reader", "GET", path, nil)
		require.Equal(t, 422, a.StatusCode, path)
		p := a.problem(t)
		assert.Equal(t, "urn:kavlo:too-much", p.Type)
		assert.Contains(t, p.Detail, `compare a column with "is"`)
	}
}

func TestAReminderThatAsksTooMuchIsNamedAndTheRestIsTold(t *testing.T) {
	r := newRig(t)
	r.setup(strings.Replace(withActs, "reminders:", "reminders:\n  - { name: Dear, in: Requested, where: \"(count in Requested where Object contains this.Object) > 5\", to: keeper@example.org }", 1))
	r.workspace.Budgets.Looks = 1000
	r.fill("Requested", 100, nil)
	var today wire.Today
	a := r.call("reader", "GET", "/today", nil)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a.into(t, &today)
	require.NotEmpty(t, today.Notices)
	assert.Contains(t, today.Notices[0].Says, "reminder Dear")
	assert.Equal(t, 200, r.call("reader", "GET", "/trackers", nil).StatusCode)
}

func TestTodayListsAPartAndSaysHowManyMore(t *testing.T) {
	r := newRig(t)
	r.setup(withActs)
	r.fill("Requested", 30, map[string]any{"Who": "keeper@example.org", "Due": "2026-03-01"})
	r.fill("Requested", 20, map[string]any{"Due": "2026-03-01"})
	var today wire.Today
	r.call("reader", "GET", "/today?limit=7", nil).into(t, &today)
	assert.Len(t, today.Overdue, 7)
	assert.Len(t, today.Nobody, 7)
	assert.Equal(t, wire.TodayMore{Overdue: 23, Nobody: 13}, today.More)
	assert.Equal(t, 30, today.People[0].Rows)
}

func TestACellHoldsSoMuchAndNoMore(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	set := func(n int) answer {
		return r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", wire.RowEdit{Notes: map[string]string{"Due": strings.Repeat("é", n)}})
	}
	require.Equal(t, 200, set(sheet.MaxText).StatusCode)
	a := set(sheet.MaxText + 1)
	assert.Equal(t, 422, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, "longer than 100000 characters")
	a = r.call("editor", "POST", "/trackers/Loans/tabs/Requested/rows", wire.NewRows{Rows: []map[string]any{{"Object": strings.Repeat("x", 15<<20)}}})
	assert.Equal(t, 422, a.StatusCode)
	a = r.upload("editor", "/trackers/Loans/imports?name=a.csv", "No,Object\n1,"+strings.Repeat("x", sheet.MaxText+1)+"\n2,Bell\n")
	assert.Equal(t, 422, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, "Object: the text is longer than")
}

// A page of long texts ends early, and the next begins where it ended.
func TestAPageOfLongTextsEndsEarly(t *testing.T) {
	r := newRig(t)
	long := strings.Repeat("x", sheet.MaxText-20)
	tr, tab, err := r.workspace.FindTab("Loans", "Requested")
	require.NoError(t, err)
	rows := make([]map[string]any, 300)
	for i := range rows {
		rows[i] = map[string]any{"Object": fmt.Sprintf("%d %s", i, long)}
	}
	_, err = r.workspace.Commit(t.Context(), r.workspace.AddRows(testkit.By("x"), tr.ID, tab.ID, rows))
	require.NoError(t, err)
	seen, path := 0, "/trackers/Loans/tabs/Requested/rows?limit=5000"
	for pages := 0; path != ""; pages++ {
		require.Less(t, pages, 5)
		a := r.call("reader", "GET", path, nil)
		require.Less(t, len(a.body), 3*mostOfPage)
		var page wire.Rows
		a.into(t, &page)
		seen += len(page.Rows)
		path = ""
		if link := a.Header.Get("Link"); link != "" {
			path = strings.TrimPrefix(link[1:strings.Index(link, ">")], "/api/v1")
		}
	}
	assert.Equal(t, 300, seen)
}

func TestNothingOfAnUploadIsLeftBehind(t *testing.T) {
	r := newRig(t)
	room := t.TempDir()
	t.Setenv("TMPDIR", room)
	for _, path := range []string{"/trackers/Loans/imports", "/trackers/Nothing/imports?name=a.csv", "/readings?name=a.csv&corrections=%7B", "/trackers/Loans/imports?name=a.csv&new=perhaps", "/readings?name=a.csv"} {
		r.upload("editor", path, "No,Object\n1,Bell\n2,Lamp\n")
	}
	req, err := http.NewRequest(http.MethodPost, r.server.URL+"/api/v1/readings?name=a.csv", io.LimitReader(strings.NewReader("half"), 4))
	require.NoError(t, err)
	req.ContentLength = 100 // which never come
	req.Header.Set("Authorization", "Bearer "+r.tokens["editor"])
	_, err = r.server.Client().Do(req)
	require.Error(t, err)
	r.call("reader", "GET", "/trackers/Loans/export", nil)
	entries, err := os.ReadDir(room)
	require.NoError(t, err)
	assert.Empty(t, entries)
}

// The method of a request is a stranger's to choose, and no label of its own.
func TestStrangeMethodsAreCountedAsOne(t *testing.T) {
	r := newRig(t)
	for i := range 30 {
		req, err := http.NewRequest(fmt.Sprintf("ODD%d", i), r.server.URL+"/api/v1/today", nil)
		require.NoError(t, err)
		res, err := r.server.Client().Do(req)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
	}
	res, err := r.server.Client().Get(r.server.URL + "/metrics")
	require.NoError(t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.NotContains(t, string(text), "ODD")
	assert.Contains(t, string(text), `method="other"`)
}

func TestBusyIsSaid(t *testing.T) {
	p := (&server{}).known(t.Context(), &engine.Busy{Waiting: 64})
	assert.Equal(t, http.StatusServiceUnavailable, p.Status)
	assert.Contains(t, p.Detail, "try again in a moment")
}
