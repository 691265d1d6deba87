package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
	"sync/atomic"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
	"example.org/kavlo/internal/workspace"
)

const loans = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested:  { columns: { Object: { type: text, required: yes }, Stage: &s { type: choice, options: [Requested, Agreed, Lost] }, Due: { type: date, bad input: refuse }, Value: { type: number }, Days: { type: computed, clause: days between Due and today } } }
  Agreed/now: { columns: { Object: { type: text }, Stage: *s } }
  Agreed:     { columns: { Object: { type: text }, Stage: *s } }
` + moveRule

const moveRule = `rules:
  - name: Move
    wake: { edit: [Stage] }
    where: Stage is not blank and Stage is not tab
    steps: [ { move: { to: "{Stage}" } } ]
`

type rig struct {
	t         *testing.T
	workspace *workspace.Workspace
	server    *httptest.Server
	tokens    map[string]string // by access
	console   fstest.MapFS
	ahead     *atomic.Int64 // how far the service's clock is ahead of the machine's, in nanoseconds
	made      int64         // the change set that made the tracker
}

func newRig(t *testing.T) *rig {
	ahead := &atomic.Int64{}
	now := func() time.Time { return time.Now().Add(time.Duration(ahead.Load())) }
	r := &rig{t: t, ahead: ahead, workspace: testWorkspace(t, now), tokens: map[string]string{}, console: fstest.MapFS{"index.html": {Data: []byte("<title>console</title>")}, "assets/a.js": {Data: []byte("1")}}}
	for _, access := range []string{"keeper", "editor", "reader"} {
		p, err := r.workspace.PutPerson(t.Context(), strings.ToUpper(access[:1])+access[1:], access+"@example.org", access)
		require.NoError(t, err)
		r.tokens[access], err = r.workspace.IssueToken(t.Context(), p.ID, "test", 0)
		require.NoError(t, err)
	}
	_, err := r.workspace.Commit(t.Context(), r.workspace.LoadSetup(testkit.By("Keeper"), []byte(loans)))
	require.NoError(t, err)
	r.made = r.workspace.Seq()
	r.server = httptest.NewServer(New(r.workspace, Options{Version: "0", Console: r.console}))
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
	if host := req.Header.Get("Host"); host != "" {
		req.Host = host
	}
	res, err := r.server.Client().Do(req)
	require.NoError(r.t, err)
	defer res.Body.Close()
	var out bytes.Buffer
	_, err = out.ReadFrom(res.Body)
	require.NoError(r.t, err)
	return answer{res, out.Bytes()}
}

// upload sends a file.
func (r *rig) upload(access, path, text string, more ...string) answer {
	r.t.Helper()
	return r.call(access, "POST", path, []byte(text), append([]string{"Content-Type", "application/octet-stream"}, more...)...)
}

// setup puts another tracker in the place of the one there is.
func (r *rig) setup(text string) {
	r.t.Helper()
	_, err := r.workspace.Commit(r.t.Context(), r.workspace.DropTracker(testkit.By("Keeper"), r.workspace.State().Trackers()[0].ID))
	require.NoError(r.t, err)
	_, err = r.workspace.Commit(r.t.Context(), r.workspace.LoadSetup(testkit.By("Keeper"), []byte(text)))
	require.NoError(r.t, err)
}

func (r *rig) addTo(tab string, cells map[string]any) {
	r.t.Helper()
	a := r.call("editor", "POST", "/trackers/Loans/tabs/"+tab+"/rows", wire.NewRows{Rows: []map[string]any{cells}})
	require.Equal(r.t, 200, a.StatusCode, string(a.body))
}

func (r *rig) add(object string) wire.Row {
	r.t.Helper()
	a := r.call("editor", "POST", "/trackers/Loans/tabs/Requested/rows", wire.NewRows{Rows: []map[string]any{{"Object": object, "Stage": "Requested", "Due": "2026-03-01"}}})
	require.Equal(r.t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(r.t, &set)
	return set.Rows[0]
}

func TestAnEditAnswersWithWhatFollowed(t *testing.T) {
	r := newRig(t)
	row := r.add("Bell")
	a := r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", wire.RowEdit{Cells: map[string]any{"Stage": "Agreed"}})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(t, &set)
	assert.Equal(t, []string{`Rule "Move": moved to Agreed`}, set.Followed)
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
	before := r.workspace.State()
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
		{"POST", fmt.Sprintf("/undo/%d?preview=yes", r.workspace.Seq()), nil},
	} {
		a := r.call("keeper", c.method, c.path, c.body)
		require.Equal(t, 200, a.StatusCode, c.path+string(a.body))
		var set wire.ChangeSet
		a.into(t, &set)
		assert.True(t, set.Preview, c.path)
		assert.Zero(t, set.Seq, c.path)
		assert.Same(t, before, r.workspace.State(), c.path)
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

func TestTheSecondEditorOfARuleOverwritesNothingUnseen(t *testing.T) {
	r := newRig(t)
	rule := func(value int) map[string]any {
		return map[string]any{"name": "Mark", "in": "Requested", "where": fmt.Sprintf("Value >= %d", value), "steps": []any{map[string]any{"remove": true}}}
	}
	a := r.call("keeper", "POST", "/trackers/Loans/rules", rule(1))
	require.Equal(t, 200, a.StatusCode, string(a.body))
	const at = "/trackers/Loans/rules/Mark"
	seen := r.call("reader", "GET", at, nil)
	etag := seen.Header.Get("ETag")
	var d wire.Definition
	seen.into(t, &d)
	assert.Equal(t, fmt.Sprintf("%q", d.Version), etag)

	a = r.call("keeper", "PUT", at, rule(2), "If-Match", etag)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	for _, method := range []string{"PUT", "DELETE"} {
		var body any
		if method == "PUT" {
			body = rule(3)
		}
		p := r.call("keeper", method, at, body, "If-Match", etag).problem(t)
		assert.Equal(t, http.StatusPreconditionFailed, p.Status, method)
		assert.Contains(t, p.Detail, "someone else changed rule Mark", method)
	}
	now := r.call("reader", "GET", at, nil).Header.Get("ETag")
	assert.NotEqual(t, etag, now)
	assert.Equal(t, 200, r.call("keeper", "PUT", at, rule(3), "If-Match", now).StatusCode)
	assert.Equal(t, 200, r.call("keeper", "DELETE", at, nil, "If-Match", "*").StatusCode)
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
	a = r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows?order="+url.QueryEscape("Object descending")+"&limit=1", nil)
	a.into(t, &rows)
	assert.Equal(t, "Bell 6", rows.Rows[0].Cells["Object"])
	a = r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows?sort=Object", nil)
	assert.Equal(t, 422, a.StatusCode, "a parameter that there is not is not passed over")
	assert.Contains(t, a.problem(t).Detail, `nothing here is called "sort"`)
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
	r.ahead.Add(int64(time.Minute))
	between := time.Now().Add(30 * time.Second).UTC().Format(time.RFC3339Nano)
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
	rule := func(name, wake, sets, to string) map[string]any {
		return map[string]any{"name": name, "wake": map[string]any{"edit": wake}, "in": "Requested", "steps": []any{map[string]any{"set": map[string]any{sets: to}}}}
	}
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/rules", rule("Down", "Object", "Value", "1")).StatusCode)
	a := r.call("keeper", "POST", "/trackers/Loans/rules?preview=yes", rule("Up", "Value", "Object", "{Value}"))
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(t, &set)
	require.Len(t, set.Warnings, 1)
	assert.Contains(t, set.Warnings[0], "Up -> Down")
	require.Len(t, set.Changes, 1)
	assert.Contains(t, set.Changes[0].Differences[0], "added rules / Up")
}
