package api

import (
	"bufio"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
)

// hushed is a tracker with one tab and one column that editors and readers do not see,
// and things of each kind that read them. What is hidden holds "hush" in its name, its
// values or its texts, and is found so wherever it comes out.
const hushed = `tracker: Loans
zone: UTC
tabs:
  Requested:
    columns:
      Object:   { type: text, required: yes }
      Stage:    { type: choice, options: [Requested, Agreed] }
      Hushprice: { type: number, minimum: 3, unique: yes }
      Hushnote: { type: text }
      Double:   { type: computed, clause: 'if Hushprice > 0 then "hush more" else "hush less"' }
      Twice:    { type: computed, clause: '"{Double}!"' }
      Looked:   { type: computed, clause: 'first Hushname in Hushtab where Hushname is not blank' }
      Owner:    { type: person }
  Agreed:
    columns: { Object: { type: text }, Stage: { type: choice, options: [Requested, Agreed] }, Owner: { type: person } }
  Hushtab:
    columns: { Hushname: { type: text }, Owner: { type: person } }
access:
  tabs:    { Hushtab: { see: [marta@example.org] } }
  columns: { Hushprice: { see: [keepers] }, Hushnote: { see: [marta@example.org], change: [marta@example.org] } }
rules:
  - { name: Move, wake: { edit: [Stage] }, where: Stage is not blank and Stage is not tab, steps: [ { move: { to: "{Stage}" } } ] }
  - { name: Price, in: Requested, where: Hushprice > 0, steps: [ { set: { Hushnote: "hush by rule" } } ] }
  - { name: Park, in: Requested, where: Object is "Lamp", steps: [ { move: { to: Hushtab } } ] }
  - { name: File, in: Requested, steps: [ { write: { tab: Requested, file: "outbound/hush.csv" } } ] }
reminders:
  - { name: Owned, in: Requested, where: Object is not blank, show: [Object], to: "{Owner}" }
  - { name: Priced, in: Requested, where: Hushprice > 0, show: [Object, Hushprice], to: "{Owner}" }
  - { name: Hushed, in: Hushtab, where: Hushname is not blank, show: [Hushname], to: "{Owner}" }
rounds:
  - { name: Morning, clock: daily at 8:00, reminders: all, subject: "{count} wait" }
  - { name: Every, clock: daily at 9:00, reminders: all trackers, subject: "{count} wait" }
`

// hushhouse is a tracker that they do not see at all.
const hushhouse = `tracker: Hushhouse
zone: UTC
tabs: { Hushrooms: { columns: { Object: { type: text }, Owner: { type: person } } } }
access: { read: [marta@example.org], edit: [marta@example.org] }
reminders:
  - { name: Rooms, in: Hushrooms, where: Object is not blank, show: [Object], to: "{Owner}" }
`

// barredRig is a workspace with what is hushed in it, used by an editor for whom it is
// not there.
func barredRig(t *testing.T) *rig {
	r := newRig(t)
	r.setup(hushed)
	_, err := r.workspace.Commit(t.Context(), r.workspace.LoadSetup(testkit.By("Keeper"), []byte(hushhouse)))
	require.NoError(t, err)
	_, err = r.workspace.PutPerson(t.Context(), "Marta", "marta@example.org", "reader")
	require.NoError(t, err)
	ctx, by := t.Context(), testkit.By("Keeper")
	tr, err := r.workspace.Find("Loans")
	require.NoError(t, err)
	add := func(tab string, rows ...map[string]any) {
		at, err := tr.Tab(tab)
		require.NoError(t, err)
		_, err = r.workspace.Commit(ctx, r.workspace.AddRows(by, tr.ID, at.ID, rows))
		require.NoError(t, err)
	}
	add("Requested", map[string]any{"Object": "Bell", "Hushprice": 918273641, "Hushnote": "hush hush", "Owner": "editor@example.org"},
		map[string]any{"Object": "Lamp", "Hushprice": 918273642, "Hushnote": "hush too", "Owner": "marta@example.org"})
	add("Hushtab", map[string]any{"Hushname": "hush row", "Owner": "editor@example.org"}, map[string]any{"Hushname": "hush other", "Owner": "marta@example.org"})
	house, rooms, err := r.workspace.FindTab("Hushhouse", "Hushrooms")
	require.NoError(t, err)
	_, err = r.workspace.Commit(ctx, r.workspace.AddRows(by, house.ID, rooms.ID, []map[string]any{{"Object": "hush bed", "Owner": "marta@example.org"}, {"Object": "hush chair", "Owner": "editor@example.org"}}))
	require.NoError(t, err)
	for _, name := range []string{"Price", "File", "Park"} {
		tr, err = r.workspace.Find("Loans")
		require.NoError(t, err)
		rule, err := r.workspace.FindRule(tr, name)
		require.NoError(t, err)
		_, err = r.workspace.Commit(ctx, r.workspace.RunRule(by, tr, rule))
		require.NoError(t, err)
	}
	require.Equal(t, 200, r.call("keeper", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", map[string]any{"notes": map[string]string{"Hushprice": "hush remark"}, "looks": map[string]string{"Hushprice": "bold"}}).StatusCode)
	require.Equal(t, 200, r.call("keeper", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", map[string]any{"cells": map[string]any{"Stage": "Agreed"}}).StatusCode, "now it carries what is hidden")
	add("Requested", map[string]any{"Object": "Oar", "Hushprice": 918273643, "Owner": "editor@example.org"})
	return r
}

// tells reports whether a text tells of what is hushed.
func tells(text string) bool {
	lower := strings.ToLower(text)
	return slices.ContainsFunc([]string{"hush", "918273641", "918273642", "918273643"}, func(s string) bool { return strings.Contains(lower, s) })
}

// addresses gives every address that a path stands for in the rig: of each tab, row,
// definition, run and change set.
func (r *rig) addresses(path string) []string {
	tr := r.workspace.Trackers()[0]
	out := []string{path}
	fill := func(hole string, with ...string) {
		if !strings.Contains(path, hole) {
			return
		}
		var next []string
		for _, at := range out {
			for _, w := range with {
				next = append(next, strings.ReplaceAll(at, hole, w))
			}
		}
		out = next
	}
	var tabs, rows, parts, columns, runs, sets []string
	for i := range tr.Tabs {
		tabs = append(tabs, tr.Tabs[i].ID.String())
		for row := range tr.Rows(tr.Tabs[i].ID) {
			rows = append(rows, row.ID.String())
		}
		for _, c := range tr.Tabs[i].Columns {
			columns = append(columns, c.ID.String())
		}
	}
	for _, p := range tr.Definitions {
		parts = append(parts, p.ID.String())
	}
	all, err := r.workspace.Store().Runs(r.t.Context(), tr.ID, "", 100)
	require.NoError(r.t, err)
	for _, run := range all {
		runs = append(runs, run.ID)
	}
	for seq := range r.workspace.Seq() {
		sets = append(sets, fmt.Sprint(seq+1))
	}
	fill("{tracker}", tr.ID.String())
	fill("{tab}", tabs...)
	fill("{row}", rows...)
	fill("{column}", columns...)
	fill("{definition}", parts...)
	fill("{run}", runs...)
	fill("{seq}", sets...)
	fill("{what}", sets...)
	fill("{person}", "Marta")
	fill("{token}", "x")
	fill("{mail}", "x")
	fill("{name}", "x")
	return out
}

// Every route is tried as somebody for whom one tab and some columns are not there, and
// tells them nothing of these: not in an answer, nor in what it says of a mistake.
func TestWhatIsHiddenIsInNoAnswer(t *testing.T) {
	r := barredRig(t)
	var doc struct {
		Paths map[string]map[string]struct{ OperationID string }
	}
	res, err := r.server.Client().Get(r.server.URL + "/api/openapi.json")
	require.NoError(t, err)
	defer res.Body.Close()
	require.NoError(t, json.NewDecoder(res.Body).Decode(&doc))
	queries := map[string][]string{
		"list-rows":       {"", "?where=Object%20is%20not%20blank", "?where=Hshprice%20%3E%200", "?as_of=" + time.Now().UTC().Add(time.Hour).Format(time.RFC3339), "?as_of=" + r.workspace.Now().UTC().Format("2006-01-02T15:04:05.000Z"), "?columns=Hshnote"},
		"export":          {"?format=json", "?format=csv&tab=Requested", "?format=json&where=Hshprice%20%3E%200", "?format=xlsx"},
		"why":             {"", "?column=Object", "?column=Hshnote"},
		"cells-why":       {"?rows=r1&columns=Object", "?rows=r1&columns=Object&columns=Hshnote", "?rows=r1&columns=Hshprice"},
		"list-conflicts":  {""},
		"compare-written": {"?before=hush.csv&after=hush.csv"},
		"get-written":     {"?path=hush.csv"},
	}
	bodies := map[string][]any{
		"set-row":      {map[string]any{"cells": map[string]any{"Object": "Bell 2"}}, map[string]any{"cells": map[string]any{"Hshprice": 1}}, map[string]any{"cells": map[string]any{"Object": ""}}, map[string]any{"cells": map[string]any{"Stage": "Agreed"}, "version": 1}},
		"add-rows":     {map[string]any{"rows": []any{map[string]any{"Object": "New"}}}, map[string]any{"rows": []any{map[string]any{"Hshnote": "x"}}}},
		"move-row":     {map[string]any{"to": "Agreed"}, map[string]any{"to": "Hshtab"}},
		"check-clause": {map[string]any{"tracker": "Loans", "tabs": []string{"Requested"}, "kind": "condition", "text": "Hshprice > 0", "at": 0}, map[string]any{"tracker": "Loans", "tabs": []string{"Requested"}, "kind": "value", "text": "count in Hshtab", "at": 9}},
	}
	sentOnly := []string{"hush.csv"} // what was sent may be said back
	tried, told := 0, map[string]bool{}
	for path, methods := range doc.Paths {
		for method, op := range methods {
			if slices.Contains([]string{"events", "sign-out", "sign-out-everywhere", "backup"}, op.OperationID) {
				continue
			}
			for _, at := range r.addresses(strings.TrimPrefix(path, "/api/v1")) {
				asked := queries[op.OperationID]
				if asked == nil {
					asked = []string{""}
				}
				sent := bodies[op.OperationID]
				if sent == nil {
					sent = []any{nil}
				}
				for _, query := range asked {
					for _, body := range sent {
						if method != "get" {
							query = "?preview=yes"
						}
						for _, role := range []string{"editor", "reader"} {
							a := r.call(role, strings.ToUpper(method), at+query, body)
							text := string(a.body)
							for _, own := range sentOnly {
								text = strings.ReplaceAll(text, own, "")
							}
							if op.OperationID == "setup-schema" {
								continue
							}
							tried++
							require.False(t, tells(text), "%s %s as %s: %d %s", method, at+query, role, a.StatusCode, a.body)
						}
						if method == "get" && tells(string(r.call("keeper", "GET", at+query, nil).body)) {
							told[op.OperationID] = true
						}
					}
				}
			}
		}
	}
	t.Logf("%d requests", tried)
	assert.Greater(t, tried, 500)
	for _, op := range []string{"list-rows", "get-row", "get-tracker", "list-trackers", "list-columns", "list-rules", "list-reminders", "get-setup", "export", "why", "cells-why", "row-history", "get-run", "list-runs", "get-change-set", "today", "list-written", "get-written"} {
		assert.True(t, told[op], "%s tells a keeper nothing either: the test would see nothing", op)
	}
}

// What is hidden cannot be changed either, by name or by id, whoever guesses it.
func TestWhatIsHiddenCannotBeChanged(t *testing.T) {
	r := barredRig(t)
	tr := r.workspace.Trackers()[0]
	price, hushtab := tr.Tabs[0].Columns[2], tr.Tabs[2]
	require.Equal(t, "Hushprice", price.Name)
	before := r.workspace.Seq()
	row := "/trackers/Loans/tabs/Requested/rows/Oar"
	for _, name := range []string{"Hushprice", price.ID.String(), "Hushnote", "Double"} {
		there := r.call("editor", "PATCH", row, map[string]any{"cells": map[string]any{name: 9}}).problem(t)
		not := r.call("editor", "PATCH", row, map[string]any{"cells": map[string]any{"Nonesuch": 9}}).problem(t)
		assert.Equal(t, not.Status, there.Status, "%s: what is hidden answers as what is not there", name)
		assert.Equal(t, not.Title, there.Title)
	}
	for _, at := range []string{"/trackers/Loans/tabs/Hushtab/rows", "/trackers/Loans/tabs/" + hushtab.ID.String() + "/rows"} {
		assert.Equal(t, http.StatusNotFound, r.call("editor", "GET", at, nil).StatusCode)
		assert.Equal(t, http.StatusNotFound, r.call("editor", "POST", at, map[string]any{"rows": []any{map[string]any{"Hushname": "x"}}}).StatusCode)
	}
	assert.Equal(t, http.StatusNotFound, r.call("editor", "POST", row+"/move", map[string]any{"to": "Hushtab"}).StatusCode)
	assert.Equal(t, before, r.workspace.Seq())

	// at the door, whatever a handler let through
	oar, err := tr.FindRow(&tr.Tabs[0], "Oar")
	require.NoError(t, err)
	editor := policy.Principal{Kind: policy.Person, Name: "E", Address: "editor@example.org", Access: policy.Editor}
	for what, change := range map[string]sheet.Change{
		"a hidden cell":     {Kind: sheet.Set, Tracker: tr.ID, Tab: oar.Tab, Row: oar.ID, Column: price.ID, Before: oar.At(2)},
		"a hidden note":     {Kind: sheet.Note, Tracker: tr.ID, Tab: oar.Tab, Row: oar.ID, Column: price.ID},
		"into a hidden tab": {Kind: sheet.Move, Tracker: tr.ID, Tab: oar.Tab, Row: oar.ID, ToTab: hushtab.ID},
	} {
		_, err := r.workspace.Commit(t.Context(), requestFor(editor, tr.ID, change))
		require.ErrorIs(t, err, policy.ErrForbidden, what)
	}
	// rules do what whoever set them up may
	require.Equal(t, 200, r.call("editor", "PATCH", row, map[string]any{"cells": map[string]any{"Stage": "Agreed"}}).StatusCode)
	// and new rows get their defaults, in hidden columns too
	require.Equal(t, 200, r.call("editor", "POST", "/trackers/Loans/tabs/Requested/rows", map[string]any{"rows": []any{map[string]any{"Object": "New"}}}).StatusCode)
	// Marta, a reader, sees some of it
	p, err := r.workspace.PutPerson(t.Context(), "Marta", "marta@example.org", "reader")
	require.NoError(t, err)
	r.tokens["marta"], err = r.workspace.IssueToken(t.Context(), p.ID, "test", 0)
	require.NoError(t, err)
	rows := r.call("marta", "GET", "/trackers/Loans/tabs/Hushtab/rows", nil)
	assert.Contains(t, string(rows.body), "hush row")
	assert.NotContains(t, string(r.call("marta", "GET", "/trackers/Loans/tabs/Requested/rows", nil).body), "Hushprice")
}

// Events, mails and calendars are for their readers' eyes as answers are.
func TestWhatIsHiddenIsInNoEventMailOrCalendar(t *testing.T) {
	r := barredRig(t)
	req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, r.server.URL+"/api/v1/events?after=1", nil)
	require.NoError(t, err)
	req.Header.Set("Authorization", "Bearer "+r.tokens["editor"])
	res, err := r.server.Client().Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	lines := make(chan string, 1000)
	go func() {
		scan := bufio.NewScanner(res.Body)
		scan.Buffer(nil, 1<<20)
		for scan.Scan() {
			lines <- scan.Text()
		}
	}()
	require.Equal(t, 200, r.call("keeper", "PATCH", "/trackers/Loans/tabs/Requested/rows/Oar", map[string]any{"cells": map[string]any{"Hushnote": "hush live"}}).StatusCode)
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/tabs/Requested/rows/Oar/move", map[string]any{"to": "Hushtab"}).StatusCode)
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/tabs/Requested/rows", map[string]any{"rows": []any{map[string]any{"Object": "The end"}}}).StatusCode)
	events := 0
	for text := range lines {
		require.False(t, tells(text), text)
		if strings.HasPrefix(text, "data:") {
			events++
		}
		if strings.Contains(text, "The end") {
			break
		}
	}
	assert.Greater(t, events, 3)

	tr := r.workspace.Trackers()[0]
	plan, err := r.workspace.PlanRound(t.Context(), tr, "Morning")
	require.NoError(t, err)
	letters := map[string]string{}
	for _, l := range plan.Letters {
		letters[l.To] = l.Subject + l.Text + l.HTML
	}
	assert.False(t, tells(letters["editor@example.org"]), letters["editor@example.org"])
	assert.NotContains(t, letters["marta@example.org"], "918273642")

	p, err := r.workspace.PutPerson(t.Context(), "Editor", "editor@example.org", "editor")
	require.NoError(t, err)
	at, err := r.workspace.IssueFeed(t.Context(), p.ID)
	require.NoError(t, err)
	secret := strings.TrimSuffix(at[strings.LastIndex(at, "/")+1:], ".ics")
	_, entries, err := r.workspace.Feed(t.Context(), secret)
	require.NoError(t, err)
	assert.False(t, tells(fmt.Sprint(entries)))
}

// Who may read, edit and keep a tracker is its own to say.
func TestRolesOfATracker(t *testing.T) {
	r := newRig(t)
	r.setup("tracker: Loans\nzone: UTC\ntabs:\n  Requested: { columns: { Object: { type: text } } }\naccess: { read: [marta@example.org], edit: [reader@example.org], keep: [editor@example.org] }\n")
	p, err := r.workspace.PutPerson(t.Context(), "Marta", "marta@example.org", "reader")
	require.NoError(t, err)
	r.tokens["marta"], err = r.workspace.IssueToken(t.Context(), p.ID, "test", 0)
	require.NoError(t, err)
	q, err := r.workspace.PutPerson(t.Context(), "Other", "other@example.org", "editor")
	require.NoError(t, err)
	r.tokens["other"], err = r.workspace.IssueToken(t.Context(), q.ID, "test", 0)
	require.NoError(t, err)
	rows := map[string]any{"rows": []any{map[string]any{"Object": "Bell"}}}
	column := map[string]any{"name": "More", "definition": map[string]any{"type": "text"}}
	for who, want := range map[string][3]int{"keeper": {200, 200, 200}, "editor": {200, 200, 200}, "reader": {200, 200, 403}, "marta": {200, 403, 403}, "other": {404, 404, 403}} {
		got := [3]int{
			r.call(who, "GET", "/trackers/Loans", nil).StatusCode,
			r.call(who, "POST", "/trackers/Loans/tabs/Requested/rows", rows).StatusCode,
			r.call(who, "POST", "/trackers/Loans/tabs/Requested/columns?preview=yes", column).StatusCode,
		}
		assert.Equal(t, want, got, who)
		if got[0] == http.StatusOK {
			var told wire.Tracker
			r.call(who, "GET", "/trackers/Loans", nil).into(t, &told)
			assert.Equal(t, map[bool]string{got[2] == 200: "admin", got[2] != 200 && got[1] == 200: "editor", got[1] != 200: "reader"}[true], told.Role, who)
		}
	}
	var all []any
	r.call("other", "GET", "/trackers", nil).into(t, &all)
	assert.Empty(t, all)
}

// A tracker says of its tabs and columns what its asker may not change, so that whoever
// shows it offers nothing that would be refused.
func TestATrackerSaysWhatItsAskerMayNotChange(t *testing.T) {
	r := newRig(t)
	r.setup("tracker: Loans\nzone: UTC\ntabs:\n  Requested: { columns: { Object: { type: text }, Fee: { type: number } } }\n  Closed: { columns: { Object: { type: text } } }\naccess: { tabs: { Closed: { change: [keepers] } }, columns: { Fee: { change: [keepers] } } }\n")
	for who, want := range map[string][4]bool{"keeper": {}, "editor": {false, false, true, true}, "reader": {true, true, true, true}} {
		var told wire.Tracker
		r.call(who, "GET", "/trackers/Loans", nil).into(t, &told)
		require.Len(t, told.Tabs, 2)
		requested, closed := told.Tabs[0], told.Tabs[1]
		assert.Equal(t, want, [4]bool{requested.ReadOnly, requested.Columns[0].ReadOnly, requested.Columns[1].ReadOnly, closed.ReadOnly}, who)
		var columns []wire.Column
		r.call(who, "GET", "/trackers/Loans/tabs/Requested/columns", nil).into(t, &columns)
		assert.Equal(t, requested.Columns, columns, who)
	}
}

func requestFor(by policy.Principal, tracker sheet.TrackerID, change sheet.Change) engine.Request {
	return engine.Request{By: by, Tracker: tracker, Cause: sheet.Cause{Kind: sheet.ByEdit}, Alone: true, Work: func(t *engine.Turn) error { return t.Draft.Apply(change) }}
}
