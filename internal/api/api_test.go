package api

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/desk"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/wire"
)

const loans = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested:  { columns: { Object: { type: text, required: yes }, Stage: &s { type: choice, options: [Requested, Agreed, Lost] }, Due: { type: date, bad input: refuse }, Value: { type: number }, Days: { type: computed, clause: days between Due and today } } }
  Agreed/now: { columns: { Object: { type: text }, Stage: *s } }
  Agreed:     { columns: { Object: { type: text }, Stage: *s } }
rules:
  - name: Move
    wake: { edit: [Stage] }
    where: Stage is not blank and Stage is not tab
    steps: [ { move: { to: "{Stage}" } } ]
`

type rig struct {
	t       *testing.T
	desk    *desk.Desk
	server  *httptest.Server
	tokens  map[string]string // by access
	console fstest.MapFS
}

func newRig(t *testing.T) *rig {
	r := &rig{t: t, desk: testDesk(t), tokens: map[string]string{}, console: fstest.MapFS{"index.html": {Data: []byte("<title>console</title>")}, "assets/a.js": {Data: []byte("1")}}}
	for _, access := range []string{"keeper", "editor", "reader"} {
		p, err := r.desk.PutPerson(t.Context(), strings.ToUpper(access[:1])+access[1:], access+"@example.org", access)
		require.NoError(t, err)
		r.tokens[access], err = r.desk.IssueToken(t.Context(), p.ID, "test")
		require.NoError(t, err)
	}
	_, err := r.desk.Commit(t.Context(), r.desk.LoadSetup("Keeper", []byte(loans)))
	require.NoError(t, err)
	r.server = httptest.NewServer(New(r.desk, Options{Version: "0", Console: r.console}))
	t.Cleanup(r.server.Close)
	return r
}

type answer struct {
	*http.Response
	body []byte
}

func (a answer) into(t *testing.T, v any) {
	t.Helper()
	require.NoError(t, json.Unmarshal(a.body, v), string(a.body))
}

func (a answer) problem(t *testing.T) wire.Problem {
	t.Helper()
	assert.Equal(t, "application/problem+json", a.Header.Get("Content-Type"))
	var p wire.Problem
	a.into(t, &p)
	assert.Equal(t, a.StatusCode, p.Status)
	assert.NotEmpty(t, p.Title)
	return p
}

// call makes a request; more is header, value pairs.
func (r *rig) call(access, method, path string, body any, more ...string) answer {
	r.t.Helper()
	var in bytes.Buffer
	switch x := body.(type) {
	case nil:
	case []byte:
		in.Write(x)
	default:
		require.NoError(r.t, json.NewEncoder(&in).Encode(body))
	}
	req, err := http.NewRequest(method, r.server.URL+"/api/v1"+path, &in)
	require.NoError(r.t, err)
	if access != "" {
		req.Header.Set("Authorization", "Bearer "+r.tokens[access])
	}
	req.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(more); i += 2 {
		req.Header.Set(more[i], more[i+1])
	}
	res, err := r.server.Client().Do(req)
	require.NoError(r.t, err)
	defer res.Body.Close()
	var out bytes.Buffer
	_, err = out.ReadFrom(res.Body)
	require.NoError(r.t, err)
	return answer{res, out.Bytes()}
}

func (r *rig) add(object string) wire.Row {
	r.t.Helper()
	a := r.call("editor", "POST", "/trackers/Loans/tabs/Requested/rows", wire.NewRows{Rows: []map[string]any{{"Object": object, "Stage": "Requested", "Due": "2026-03-01"}}})
	require.Equal(r.t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(r.t, &set)
	return set.Rows[0]
}

// A route without an access rule would be open to nobody but a keeper; that no
// route lacks one is held here.
func TestEveryRouteSaysWhoMayUseIt(t *testing.T) {
	r := newRig(t)
	var doc struct {
		Paths map[string]map[string]struct {
			OperationID string `json:"operationId"`
			Security    []any
		}
	}
	res, err := r.server.Client().Get(r.server.URL + "/api/openapi.json")
	require.NoError(t, err)
	defer res.Body.Close()
	require.NoError(t, json.NewDecoder(res.Body).Decode(&doc))
	open := map[string]bool{"sign-in": true, "sign-out": true, "call-rule": true} // a call is known by its signature
	tried := 0
	for path, methods := range doc.Paths {
		for method, op := range methods {
			assert.Equal(t, open[op.OperationID], len(op.Security) == 0, op.OperationID)
			if open[op.OperationID] {
				continue
			}
			tried++
			at := strings.TrimPrefix(strings.NewReplacer("{tracker}", "Loans", "{tab}", "Requested", "{row}", "x", "{part}", "Move", "{run}", "x", "{seq}", "1", "{what}", "1", "{person}", "x").Replace(path), "/api/v1")
			a := r.call("", strings.ToUpper(method), at, nil)
			assert.Equal(t, http.StatusUnauthorized, a.StatusCode, op.OperationID)
			if method != "get" && op.OperationID != "check-clause" { // which asks and changes nothing
				a = r.call("reader", strings.ToUpper(method), at, nil)
				assert.Equal(t, http.StatusForbidden, a.StatusCode, op.OperationID)
			}
		}
	}
	assert.Greater(t, tried, 40)
}

func TestKeepersAloneChangeTheSetup(t *testing.T) {
	r := newRig(t)
	a := r.call("editor", "POST", "/setup", wire.Setup{Text: loans})
	assert.Equal(t, http.StatusForbidden, a.StatusCode)
	a = r.call("keeper", "POST", "/setup", wire.Setup{Text: loans})
	assert.Equal(t, http.StatusOK, a.StatusCode, string(a.body))
}

func TestAnEditAnswersWithWhatFollowed(t *testing.T) {
	r := newRig(t)
	row := r.add("Bell")
	a := r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", wire.RowEdit{Cells: map[string]any{"Stage": "Agreed"}})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(t, &set)
	assert.Equal(t, []string{"moved to Agreed by Move"}, set.Followed)
	require.Len(t, set.Rows, 1)
	assert.Equal(t, row.ID, set.Rows[0].ID)
	assert.Equal(t, "Agreed", set.Rows[0].Tab)
	assert.Equal(t, map[string]any{"Due": "2026-03-01"}, set.Rows[0].Carried)
	assert.Equal(t, map[string]int{"set": 1, "move": 1}, set.Counts)

	a = r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows/"+row.ID, nil)
	p := a.problem(t)
	assert.Equal(t, http.StatusNotFound, p.Status)
	assert.Equal(t, "it is in Agreed", p.Hint)

	a = r.call("reader", "GET", "/trackers/Loans/tabs/Agreed/rows/Bell/why", nil)
	var why wire.Why
	a.into(t, &why)
	require.Len(t, why.Chain, 2)
	assert.Contains(t, why.Chain[0].Says, `the rule "Move"`)

	a = r.call("editor", "POST", "/undo/"+set.Run, nil)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a = r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows/Bell", nil)
	assert.Equal(t, 200, a.StatusCode)
}

func TestPreviewsChangeNothing(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	before := r.desk.State()
	for _, c := range []struct {
		method, path string
		body         any
	}{
		{"PATCH", "/trackers/Loans/tabs/Requested/rows/Bell?preview=yes", wire.RowEdit{Cells: map[string]any{"Stage": "Agreed"}}},
		{"POST", "/trackers/Loans/tabs/Requested/rows?preview=yes", wire.NewRows{Rows: []map[string]any{{"Object": "x"}}}},
		{"DELETE", "/trackers/Loans/tabs/Requested/rows/Bell?preview=yes", nil},
		{"POST", "/trackers/Loans/tabs/Requested/rows/Bell/move?preview=yes", wire.MoveRow{To: "Agreed"}},
		{"POST", "/trackers/Loans/rules/Move/run?preview=yes", nil},
		{"POST", "/trackers/Loans/rules/Move/pause?preview=yes", nil},
		{"DELETE", "/trackers/Loans?preview=yes", nil},
		{"POST", "/setup?preview=yes", wire.Setup{Text: "tracker: Other"}},
		{"POST", "/undo/2?preview=yes", nil},
	} {
		a := r.call("keeper", c.method, c.path, c.body)
		require.Equal(t, 200, a.StatusCode, c.path+string(a.body))
		var set wire.ChangeSet
		a.into(t, &set)
		assert.True(t, set.Preview, c.path)
		assert.Zero(t, set.Seq, c.path)
		assert.Same(t, before, r.desk.State(), c.path)
	}
}

func TestTheSecondEditorGetsTheCurrentRow(t *testing.T) {
	r := newRig(t)
	row := r.add("Bell")
	at := "/trackers/Loans/tabs/Requested/rows/" + row.ID
	etag := r.call("reader", "GET", at, nil).Header.Get("ETag")
	assert.Equal(t, fmt.Sprintf(`"%d"`, row.Version), etag)
	a := r.call("editor", "PATCH", at, wire.RowEdit{Cells: map[string]any{"Value": 5}}, "If-Match", etag)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	p := r.call("editor", "PATCH", at, wire.RowEdit{Cells: map[string]any{"Value": 7}}, "If-Match", etag).problem(t)
	assert.Equal(t, http.StatusPreconditionFailed, p.Status)
	require.NotNil(t, p.Current)
	assert.InDelta(t, 5, p.Current.Cells["Value"], 0)
	assert.Equal(t, 400, r.call("editor", "PATCH", at, wire.RowEdit{}, "If-Match", "soon").StatusCode)
}

func TestProblemsSayWhereAndWhatToDo(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	r.add("Bell")
	row := "/trackers/Loans/tabs/Requested/rows"
	for _, c := range []struct {
		method, path string
		body         any
		status       int
		says, hint   string
		field        string
	}{
		{"GET", "/trackers/Lones", nil, 404, "there is no tracker", "did you mean Loans?", "Lones"},
		{"GET", "/trackers/Loans/tabs/Requestd/rows", nil, 404, "there is no tab", "did you mean Requested?", ""},
		{"GET", row + "?where=" + url.QueryEscape("Stge is blank"), nil, 422, "did you mean Stage?", "", ""},
		{"GET", row + "?columns=Objct", nil, 422, "did you mean Object?", "", ""},
		{"GET", row + "/Bell", nil, 409, "2 rows in Requested are called", "", ""},
		{"GET", row + "?limit=99999", nil, 422, "expected number <= 5000", "", "query.limit"},
		{"PATCH", row + "/r1", wire.RowEdit{Cells: map[string]any{"Due": "TBC"}}, 422, "is not a date", "write it as 2026-03-31", "Due"},
		{"PATCH", row + "/r1", wire.RowEdit{Cells: map[string]any{"Days": 5}}, 422, "is computed", "", "Days"},
		{"PATCH", row + "/r1", wire.RowEdit{Cells: map[string]any{"Stage": "Lost"}}, 409, `there is no tab "Lost"`, "", ""},
		{"PATCH", row + "/r1", []byte(`{"cells": `), 400, "", "", ""},
		{"PATCH", row + "/r1", map[string]any{"celsl": 1}, 422, "unexpected property", "", ""},
		{"PATCH", "/trackers/Loans/rows", wire.RowEdits{Edits: []wire.RowEdit{{Row: "one"}}}, 422, "is not the id of a row", "", ""},
		{"POST", "/trackers/Loans/rules", map[string]any{"name": "R", "where": "Stge is blank", "steps": []any{map[string]any{"set": map[string]any{"Object": "x"}}}}, 422, "did you mean Stage?", "", ""},
		{"POST", "/trackers/Loans/rules", map[string]any{"name": "R", "in": "Requestd", "steps": []any{map[string]any{"set": map[string]any{"Object": "x"}}}}, 422, "did you mean Requested?", "", ""},
		{"POST", "/trackers/Loans/rules/Moove/run", nil, 404, "did you mean Move?", "", ""},
		{"POST", "/undo/99", nil, 404, "not found", "", ""},
		{"GET", "/runs/nothing", nil, 404, "not found", "", ""},
		{"GET", "/nowhere", nil, 404, "not part of the interface", "", ""},
		{"POST", "/people/Nobody/link", nil, 404, "not found", "", ""},
		{"PUT", "/people", wire.NewPerson{Address: "nobody", Access: "editor"}, 422, "is not a mail address", "", ""},
	} {
		t.Run(c.method+" "+c.path, func(t *testing.T) {
			a := r.call("keeper", c.method, c.path, c.body)
			p := a.problem(t)
			assert.Equal(t, c.status, p.Status, p.Detail)
			assert.Contains(t, p.Detail, c.says)
			if c.hint != "" {
				assert.Equal(t, c.hint, p.Hint)
			}
			if c.field != "" {
				assert.Equal(t, c.field, p.Field)
			}
		})
	}
	p := r.call("keeper", "GET", row+"?where="+url.QueryEscape("Object is blank and Stge is blank"), nil).problem(t)
	assert.Equal(t, "Object is blank and Stge is blank\n                    ^", p.Caret)
	assert.Equal(t, 21, p.Col)
}

func TestRowsAreFilteredPagedAndComputed(t *testing.T) {
	r := newRig(t)
	for i := range 7 {
		r.add(fmt.Sprintf("Bell %d", i))
	}
	var rows wire.Rows
	a := r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows?limit=3&columns=Object", nil)
	a.into(t, &rows)
	assert.Equal(t, 7, rows.Total)
	require.Len(t, rows.Rows, 3)
	assert.Equal(t, map[string]any{"Object": "Bell 0"}, rows.Rows[0].Cells)
	assert.Contains(t, a.Header.Get("Link"), `offset=3`)
	assert.Contains(t, a.Header.Get("Link"), `rel="next"`)
	a = r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows?where="+url.QueryEscape(`Object ends with "5" and Days > 3`), nil)
	a.into(t, &rows)
	require.Len(t, rows.Rows, 1)
	assert.NotNil(t, rows.Rows[0].Cells["Days"])
	a = r.call("reader", "GET", "/trackers/Loans/tabs/"+url.PathEscape("Agreed/now")+"/rows", nil)
	assert.Equal(t, 200, a.StatusCode, "a name may hold a slash")
}

func TestTheSameKeyAddsOnce(t *testing.T) {
	r := newRig(t)
	body := wire.NewRows{Rows: []map[string]any{{"Object": "Bell"}}}
	first := r.call("editor", "POST", "/trackers/Loans/tabs/Requested/rows", body, "Idempotency-Key", "one")
	again := r.call("editor", "POST", "/trackers/Loans/tabs/Requested/rows", body, "Idempotency-Key", "one")
	var a, b wire.ChangeSet
	first.into(t, &a)
	again.into(t, &b)
	assert.Equal(t, a.Seq, b.Seq)
	assert.Equal(t, a.Rows, b.Rows)
	var rows wire.Rows
	r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows", nil).into(t, &rows)
	assert.Equal(t, 1, rows.Total)
}

func TestSessionsOpenOnceAndStayOnTheirSite(t *testing.T) {
	r := newRig(t)
	var link wire.Secret
	r.call("keeper", "POST", "/people/Editor/link", nil).into(t, &link)
	assert.Equal(t, "http://kavlo.example.org/sign-in#"+link.Secret, link.Link)
	a := r.call("", "POST", "/session", wire.Secret{Secret: link.Secret})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	cookie := a.Header.Get("Set-Cookie")
	for _, part := range []string{"kavlo_session=", "HttpOnly", "SameSite=Strict"} {
		assert.Contains(t, cookie, part)
	}
	assert.Equal(t, 401, r.call("", "POST", "/session", wire.Secret{Secret: link.Secret}).StatusCode)
	session, _, _ := strings.Cut(cookie, ";")
	assert.Equal(t, 200, r.call("", "GET", "/session", nil, "Cookie", session).StatusCode)
	body := wire.NewRows{Rows: []map[string]any{{"Object": "Bell"}}}
	a = r.call("", "POST", "/trackers/Loans/tabs/Requested/rows", body, "Cookie", session, "Sec-Fetch-Site", "cross-site")
	assert.Equal(t, 403, a.StatusCode)
	assert.Contains(t, a.problem(t).Title, "another site")
	assert.Equal(t, 200, r.call("", "POST", "/trackers/Loans/tabs/Requested/rows", body, "Cookie", session, "Sec-Fetch-Site", "same-origin").StatusCode)
	r.call("", "DELETE", "/session", nil, "Cookie", session)
	assert.Equal(t, 401, r.call("", "GET", "/session", nil, "Cookie", session).StatusCode)
}

func TestAFileIsTakenInOnce(t *testing.T) {
	r := newRig(t)
	file, err := os.ReadFile("../formats/testdata/loans-plain.xlsx")
	require.NoError(t, err)
	at := "/trackers/Loans/imports?name=loans-plain.xlsx&key=" + url.QueryEscape("Loan no") + "&tab=Requested"
	var set wire.ChangeSet
	a := r.call("editor", "POST", at, file, "Content-Type", "application/octet-stream")
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a.into(t, &set)
	assert.Equal(t, 60, set.Counts["add"])
	var again wire.ChangeSet
	r.call("editor", "POST", at, file, "Content-Type", "application/octet-stream").into(t, &again)
	assert.Empty(t, again.Counts)
	p := r.call("editor", "POST", at, file[:2000], "Content-Type", "application/octet-stream").problem(t)
	assert.Contains(t, p.Detail, "cut short")
	assert.Equal(t, 403, r.call("editor", "POST", at+"&new=yes", file, "Content-Type", "application/octet-stream").StatusCode)
}

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

func TestEventsResumeFromTheLastOneSeen(t *testing.T) {
	r := newRig(t)
	row := r.add("Bell")
	r.add("Lamp")
	r.call("editor", "DELETE", "/trackers/Loans/tabs/Requested/rows/Lamp", nil)
	got := r.events(3, "1")
	require.Len(t, got, 3)
	assert.Equal(t, []int64{2, 3, 4}, []int64{got[0].Seq, got[1].Seq, got[2].Seq})
	assert.Equal(t, row.ID, got[0].Rows[0].ID)
	assert.Len(t, got[2].Gone, 1)

	live := make(chan []wire.Event)
	go func() { live <- r.events(1, "4") }()
	require.Eventually(t, func() bool {
		select {
		case e := <-live:
			return len(e) == 1 && e[0].Seq > 4
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
	bare := httptest.NewServer(New(r.desk, Options{}))
	defer bare.Close()
	res, err := bare.Client().Get(bare.URL + "/")
	require.NoError(t, err)
	defer res.Body.Close()
	var page bytes.Buffer
	_, err = page.ReadFrom(res.Body)
	require.NoError(t, err)
	assert.Contains(t, page.String(), "console was not built")
}

func TestAPanicIsAProblemAndNotTheEnd(t *testing.T) {
	s := &server{Options: Options{Log: slog.New(slog.DiscardHandler)}}
	engine := gin.New()
	engine.Use(s.recovered)
	engine.GET("/boom", func(*gin.Context) { panic("a secret") })
	w := httptest.NewRecorder()
	engine.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/boom", nil))
	assert.Equal(t, 500, w.Code)
	assert.NotContains(t, w.Body.String(), "secret")
	assert.Contains(t, w.Body.String(), "nothing was changed")
}

func TestABrokenFileIsAProblemThatNamesSheetAndCell(t *testing.T) {
	s := &server{Options: Options{Log: slog.New(slog.DiscardHandler)}}
	p := s.problem(t.Context(), asked(fmt.Errorf("loans.xlsx: %w", &xlsx.Error{Sheet: "On display", Cell: "B7", Err: errors.New("it names shared text 99, which is not there")})))
	assert.Equal(t, http.StatusUnprocessableEntity, p.Status)
	assert.Equal(t, "'On display'!B7", p.Field)
	assert.Contains(t, p.Detail, "loans.xlsx: sheet On display: cell B7: it names shared text 99")
}

// What went wrong inside is logged and not told to strangers.
func TestTheServicesOwnFaultsAreToldWithoutDetail(t *testing.T) {
	s := &server{Options: Options{Log: slog.New(slog.DiscardHandler)}}
	for _, err := range []error{errors.New("disk secret"), asked(&desk.Failure{Err: errors.New("disk secret")})} {
		p := s.problem(t.Context(), err)
		assert.Equal(t, http.StatusInternalServerError, p.Status)
		assert.NotContains(t, p.Error(), "secret")
	}
	assert.Equal(t, http.StatusServiceUnavailable, s.problem(t.Context(), asked(desk.ErrClosed)).Status)
}

func TestSignedCallsWakeTheirRuleOnce(t *testing.T) {
	r := newRig(t)
	rule := map[string]any{"name": "From outside", "wake": map[string]any{"call": "yes"}, "in": "Requested", "steps": []any{map[string]any{"set": map[string]any{"Value": "{if Value is blank then 1 else Value + 1}"}}}}
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/rules", rule).StatusCode)
	assert.Equal(t, 422, r.call("keeper", "POST", "/trackers/Loans/rules/Move/secret", nil).StatusCode, "a rule that calls do not wake")
	var secret wire.Secret
	r.call("keeper", "POST", "/trackers/Loans/rules/From%20outside/secret", nil).into(t, &secret)
	r.add("Bell")
	r.add("Lamp")
	const path = "/calls/Loans/From%20outside"
	call := func(body, signed []byte, path, key string, at time.Time) answer {
		var more []string
		for k, v := range SignCall(http.MethodPost, "/api/v1"+path, signed, key, at) {
			more = append(more, k, v)
		}
		return r.call("", "POST", path, body, more...)
	}
	now, body := time.Now(), []byte(`{"rows":["Bell"]}`)
	a := call(body, body, path, secret.Secret, now)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var first, again wire.ChangeSet
	a.into(t, &first)
	assert.Equal(t, map[string]int{"set": 1}, first.Counts)
	assert.Equal(t, desk.Called, first.Who)
	call(body, body, path, secret.Secret, now).into(t, &again)
	assert.Equal(t, first.Seq, again.Seq, "the same call again changes nothing")

	for what, a := range map[string]answer{
		"another secret":     call(body, body, path, "x", now),
		"another body":       call([]byte(`{"rows":[]}`), body, path, secret.Secret, now),
		"an old signature":   call(body, body, path, secret.Secret, now.Add(-time.Hour)),
		"no signature":       r.call("", "POST", path, body),
		"another rule":       call(body, body, "/calls/Loans/Move", secret.Secret, now),
		"no such rule":       call(body, body, "/calls/Loans/Nothing", secret.Secret, now),
		"no such tracker":    call(body, body, "/calls/Nothing/Nothing", secret.Secret, now),
		"no signature of it": r.call("", "POST", path, body, "Signature", "call=:AAAA:", "Signature-Input", `call=("@method");created=1`, "Content-Digest", contentDigest(body)),
	} {
		assert.Equal(t, 401, a.StatusCode, what)
	}
	wrong := []byte(`{"rows":["Horn"]}`)
	assert.Equal(t, 404, call(wrong, wrong, path, secret.Secret, now).StatusCode)
	bad := []byte(`{"rows":`)
	assert.Equal(t, 400, call(bad, bad, path, secret.Secret, now).StatusCode)
}

func TestClausesAreCheckedWhileTyped(t *testing.T) {
	r := newRig(t)
	ask := func(q wire.ClauseQuestion) wire.ClauseAnswer {
		t.Helper()
		q.Tracker = "Loans"
		a := r.call("reader", "POST", "/clauses/check", q)
		require.Equal(t, 200, a.StatusCode, string(a.body))
		var out wire.ClauseAnswer
		a.into(t, &out)
		return out
	}
	fine := ask(wire.ClauseQuestion{Text: "stage IS 'x'"})
	assert.NotNil(t, fine.Mistake)
	fine = ask(wire.ClauseQuestion{Text: `stage IS "agreed"`, Tabs: []string{"Requested"}})
	assert.Equal(t, `Stage is "agreed"`, fine.Printed)
	assert.Nil(t, fine.Mistake)
	wrong := ask(wire.ClauseQuestion{Text: "Object is blank and Stge is blank"})
	require.NotNil(t, wrong.Mistake)
	assert.Equal(t, 20, wrong.Mistake.Offset)
	assert.Contains(t, wrong.Mistake.Says, "did you mean Stage?")
	at := 4
	typing := ask(wire.ClauseQuestion{Text: "Obje", At: &at})
	require.NotEmpty(t, typing.Completions)
	assert.Equal(t, wire.Completion{Text: "Object", Kind: "column", Says: "text"}, typing.Completions[0])
	assert.Equal(t, "a number", ask(wire.ClauseQuestion{Text: "Value + 1", Kind: "value"}).Type)
	assert.Equal(t, 404, r.call("reader", "POST", "/clauses/check", wire.ClauseQuestion{Tracker: "Loans", Tabs: []string{"x"}, Text: "yes"}).StatusCode)
}

func TestRowsAreGivenAsOfATime(t *testing.T) {
	r := newRig(t)
	row := r.add("Bell")
	time.Sleep(2 * time.Millisecond) // the journal's times are kept to the millisecond
	between := time.Now().UTC().Format(time.RFC3339Nano)
	time.Sleep(2 * time.Millisecond)
	r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/"+row.ID, wire.RowEdit{Cells: map[string]any{"Stage": "Agreed", "Object": "Ship's bell"}})
	r.add("Lamp")
	var then, now wire.Rows
	r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows?as_of="+url.QueryEscape(between), nil).into(t, &then)
	require.Len(t, then.Rows, 1)
	assert.Equal(t, "Bell", then.Rows[0].Label)
	r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows", nil).into(t, &now)
	require.Len(t, now.Rows, 1)
	assert.Equal(t, "Lamp", now.Rows[0].Label)
	assert.Equal(t, 422, r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows?as_of=yesterday", nil).StatusCode)
}

func TestASetupThatCouldChaseItselfIsWarnedOf(t *testing.T) {
	r := newRig(t)
	a := r.call("keeper", "POST", "/trackers/Loans/rules?preview=yes", map[string]any{"name": "Up", "wake": map[string]any{"edit": "Value"}, "in": "Requested", "steps": []any{map[string]any{"set": map[string]any{"Value": "{Value + 1}"}}}})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(t, &set)
	require.Len(t, set.Warnings, 1)
	assert.Contains(t, set.Warnings[0], "Up -> Up")
	require.Len(t, set.Changes, 1)
	assert.Contains(t, set.Changes[0].Differences[0], "added rules / Up")
}
