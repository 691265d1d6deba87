package api

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

func (r *rig) sit(as, page string, at wire.Place) int {
	return r.call(as, "PUT", "/trackers/Loans/presence/"+page, at).StatusCode
}

func (r *rig) present(as string) (out []wire.Present) {
	r.t.Helper()
	a := r.call(as, "GET", "/presence", nil)
	require.Equal(r.t, http.StatusOK, a.StatusCode, string(a.body))
	a.into(r.t, &out)
	return out
}

func TestWhoIsWhereIsSaid(t *testing.T) {
	r := newRig(t)
	bell := r.add("Bell")
	tab := r.workspace.Trackers()[0].Tabs[0].ID.String()
	require.Equal(t, http.StatusNoContent, r.sit("editor", "one", wire.Place{Tab: tab, Row: bell.ID, Column: "Stage"}))
	require.Equal(t, http.StatusNoContent, r.sit("editor", "three", wire.Place{}))
	require.Len(t, r.present("reader"), 2, "two pages of one person")
	require.Equal(t, http.StatusNoContent, r.call("editor", "DELETE", "/trackers/Loans/presence/three", nil).StatusCode)
	require.Equal(t, http.StatusNoContent, r.sit("reader", "two", wire.Place{}))
	all := r.present("reader")
	require.Len(t, all, 2)
	assert.Equal(t, wire.Place{Tab: tab, Row: bell.ID, Column: "Stage"}, all[0].Place)
	assert.Equal(t, []string{"Editor", "Bell"}, []string{all[0].Name, all[0].Label})
	assert.Equal(t, wire.Place{}, all[1].Place)

	for says, at := range map[string]wire.Place{
		"no tab Nowhere":    {Tab: "Nowhere"},
		"no column Nothing": {Tab: tab, Column: "Nothing"},
		"no row ?":          {Tab: tab, Row: "?"},
	} {
		assert.GreaterOrEqual(t, r.sit("editor", "one", at), 400, says)
	}
	assert.Equal(t, http.StatusNoContent, r.sit("editor", "one", wire.Place{Tab: tab, Row: "r999"}), "a row that has just gone")
	assert.Empty(t, r.present("reader")[0].Row)

	require.Equal(t, http.StatusNoContent, r.call("reader", "DELETE", "/trackers/Loans/presence/one", nil).StatusCode)
	require.Len(t, r.present("reader"), 2, "nobody closes the page of another")
	require.Equal(t, http.StatusNoContent, r.call("editor", "DELETE", "/trackers/Loans/presence/one", nil).StatusCode)
	require.Len(t, r.present("reader"), 1)
}

// Whoever does not see a tab is not told that somebody is in it.
func TestWhereSomebodyIsStaysHidden(t *testing.T) {
	r := barredRig(t)
	tr := r.workspace.Trackers()[0]
	hidden := tr.Tabs[2]
	require.Equal(t, http.StatusNoContent, r.sit("keeper", "one", wire.Place{Tab: hidden.ID.String(), Column: hidden.Columns[0].Name}))
	assert.Equal(t, hidden.ID.String(), r.present("keeper")[0].Tab)
	seen := r.present("reader")
	require.Len(t, seen, 1)
	assert.Equal(t, wire.Place{}, seen[0].Place)
	assert.GreaterOrEqual(t, r.sit("reader", "two", wire.Place{Tab: hidden.ID.String()}), 400)

	open := tr.Tabs[0]
	require.Equal(t, http.StatusNoContent, r.sit("keeper", "one", wire.Place{Tab: open.ID.String(), Column: "Hushprice"}))
	assert.Equal(t, wire.Place{Tab: open.ID.String()}, r.present("reader")[0].Place)
}

// A move is told to all that listen, soon, and once.
func TestComingAndGoingIsToldToWhoeverListens(t *testing.T) {
	r := newRig(t)
	bell := r.add("Bell")
	tab := r.workspace.Trackers()[0].Tabs[0].ID.String()
	l := r.listen("reader", "")
	for _, column := range []string{"Object", "Stage", "Due"} {
		require.Equal(t, http.StatusNoContent, r.sit("editor", "one", wire.Place{Tab: tab, Row: bell.ID, Column: column}))
	}
	next := func() (all []wire.Present) {
		t.Helper()
		told := false
		for l.lines.Scan() {
			if l.lines.Text() == "event: present" {
				told = true
			} else if data, is := strings.CutPrefix(l.lines.Text(), "data: "); is && told {
				require.NoError(t, json.Unmarshal([]byte(data), &all))
				return all
			}
		}
		t.Fatal("nothing was told")
		return nil
	}
	all := next()
	require.Len(t, all, 1)
	assert.Equal(t, "Due", all[0].Column, "where they are now, and not where they came by")
	require.Equal(t, http.StatusNoContent, r.call("editor", "DELETE", "/trackers/Loans/presence/one", nil).StatusCode)
	assert.Empty(t, next())
}
