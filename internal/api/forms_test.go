package api

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/forms"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

const desk = `
tracker: Desk
zone: UTC
tabs:
  Asked: { columns: { What: { type: text }, Level: { type: choice, options: [Low, High] }, From: { type: text }, Secret: { type: number, default: 7 } } }
forms:
  - { name: Ask, tab: Asked, fields: [ { What: { required: yes } }, Level ], set: { From: form }, thanks: Thanks!, hourly: 6 }
access: { columns: { Secret: { see: [keepers] } } }
`

func deskRig(t *testing.T) (*rig, string) {
	r := newRig(t)
	require.Equal(t, 200, r.call("keeper", "POST", "/setup", wire.Setup{Text: desk}).StatusCode)
	var link wire.Secret
	r.call("keeper", "POST", "/trackers/Desk/forms/Ask/links", wire.NewLink{}).into(t, &link)
	require.True(t, strings.HasPrefix(link.Link, "http://kavlo.example.org/form#"), link.Link)
	return r, link.Secret
}

// By a private link a form is filled in without signing in, once where it is sent twice,
// and nothing else is to be had; closed, it leads nowhere.
func TestAFormIsFilledInByAPrivateLink(t *testing.T) {
	r, secret := deskRig(t)
	var shown wire.EntryForm
	a := r.call("", "POST", "/forms/shown", wire.ByLink{Secret: secret})
	a.into(t, &shown)
	assert.Len(t, shown.Fields, 2)
	assert.NotContains(t, string(a.body), "Secret")
	for range 2 {
		a = r.call("", "POST", "/forms/entries", wire.ByLink{Secret: secret, Key: "k1", Cells: map[string]any{"What": "Lamp", "Level": "High"}})
		require.Equal(t, 200, a.StatusCode, string(a.body))
		assert.JSONEq(t, `{"says":"Thanks!"}`, string(a.body), "and no more")
	}
	var rows wire.Rows
	r.call("keeper", "GET", "/trackers/Desk/tabs/Asked/rows", nil).into(t, &rows)
	require.Len(t, rows.Rows, 1)
	assert.Equal(t, map[string]any{"What": "Lamp", "Level": "High", "From": "form", "Secret": 7.0}, rows.Rows[0].Cells)

	for text, cells := range map[string]map[string]any{
		`no field`:       {"What": "x", "Secret": 1},
		`must be filled`: {"Level": "Low"},
		`not one of`:     {"What": "x", "Level": "Middle"},
	} {
		a = r.call("", "POST", "/forms/entries", wire.ByLink{Secret: secret, Cells: cells})
		assert.Contains(t, a.problem(t).Detail+a.problem(t).Title, text)
	}
	assert.Equal(t, 401, r.call("", "GET", "/trackers/Desk/tabs/Asked/rows", nil, "Authorization", "Bearer "+secret).StatusCode, "it is no token")
	assert.Equal(t, 404, r.call("", "POST", "/forms/shown", wire.ByLink{Secret: "guess"}).StatusCode)
	var closed wire.ClosedLinks
	r.call("keeper", "DELETE", "/trackers/Desk/forms/Ask/links", nil).into(t, &closed)
	assert.Equal(t, int64(1), closed.Closed)
	a = r.call("", "POST", "/forms/entries", wire.ByLink{Secret: secret, Cells: map[string]any{"What": "x"}})
	assert.Equal(t, http.StatusNotFound, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, "has been closed or has expired")
}

// Somebody who may only read fills it in by their own name, so many times an hour; readers
// make no links.
func TestAFormIsFilledInByWhoeverIsSignedIn(t *testing.T) {
	r, _ := deskRig(t)
	for n := range 3 {
		a := r.call("reader", "POST", "/trackers/Desk/forms/Ask/entries", wire.NewEntry{Cells: map[string]any{"What": "Lamp"}}, "Idempotency-Key", string(rune('a'+n)))
		if n < 2 {
			require.Equal(t, 200, a.StatusCode, string(a.body))
			continue
		}
		assert.Equal(t, http.StatusTooManyRequests, a.StatusCode)
	}
	assert.Equal(t, 403, r.call("editor", "POST", "/trackers/Desk/forms/Ask/links", wire.NewLink{}).StatusCode)
	body := string(r.call("keeper", "GET", "/trackers/Desk/journal", nil).body)
	assert.Contains(t, body, "Reader")
}

// The door, and not the handler, holds whoever fills a form in to what it is for.
func TestTheDoorRefusesWhatAFormIsNotFor(t *testing.T) {
	r, _ := deskRig(t)
	desk, tab, err := r.workspace.FindTab("Desk", "Asked")
	require.NoError(t, err)
	c, err := r.workspace.Forms.Find(desk, "Ask")
	require.NoError(t, err)
	by := forms.By("somebody", desk.ID, c)
	commit := func(req engine.Request) error {
		_, err := r.workspace.Commit(t.Context(), req)
		return err
	}
	require.NoError(t, commit(r.workspace.AddRows(by, desk.ID, tab.ID, []map[string]any{{"What": "Lamp"}})))
	row := r.workspace.State().Tracker(desk.ID).Page(tab.ID, 0, 1)[0]
	loans, other, err := r.workspace.FindTab("Loans", "Requested")
	require.NoError(t, err)
	for what, req := range map[string]engine.Request{
		"another column":      r.workspace.AddRows(by, desk.ID, tab.ID, []map[string]any{{"What": "x", "Secret": 1}}),
		"another tab":         r.workspace.AddRows(by, loans.ID, other.ID, []map[string]any{{"Object": "x"}}),
		"a row that is there": r.workspace.RemoveRows(by, desk.ID, []sheet.RowID{row.ID}),
		"the setup":           r.workspace.RenameTracker(by, desk.ID, "Mine"),
	} {
		require.ErrorIs(t, commit(req), engine.ErrForbidden, what)
	}
}
