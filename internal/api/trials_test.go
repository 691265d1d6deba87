package api

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

func moving(where string) wire.Document {
	return wire.DocumentOf(map[string]any{"name": "Flag", "wake": map[string]any{"edit": []string{"Due"}}, "where": where, "steps": []any{map[string]any{"set": map[string]any{"Stage": "Agreed"}}}})
}

// A rule that is not saved is tried: which rows it matches, what it would change, what it
// would start; and nothing is changed by that.
func TestARuleIsTriedBeforeItIsSaved(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	r.add("Horn")
	before := r.workspace.Seq()
	var tried wire.Tried
	a := r.call("keeper", "POST", "/trackers/Loans/try/rule", wire.Trial{Body: moving(`Object is "Bell"`)})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a.into(t, &tried)
	require.NotNil(t, tried.Matched)
	assert.Equal(t, 1, *tried.Matched)
	assert.Equal(t, 2, tried.Considered)
	assert.Equal(t, "Bell", tried.Rows[0].Label)
	assert.Equal(t, []string{"Move"}, tried.Starts)
	assert.Equal(t, "When Due changes, if `Object is \"Bell\"`: set Stage to Agreed.", tried.Says)

	var set wire.ChangeSet
	a = r.call("keeper", "POST", "/trackers/Loans/try/rule/preview", wire.Trial{Body: moving(`Object is "Bell"`)})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a.into(t, &set)
	assert.True(t, set.Preview)
	kinds := map[string]int{}
	for _, c := range set.Changes {
		kinds[c.Kind]++
	}
	assert.Equal(t, map[string]int{"reshape": 1, "set": 1, "move": 1}, kinds, "the rule, what it sets, and what follows")
	assert.Equal(t, before, r.workspace.Seq())

	a = r.call("keeper", "POST", "/trackers/Loans/try/rule", wire.Trial{Body: moving(`Objct is "Bell"`), Replaces: "Move"})
	assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, "did you mean")
	assert.Equal(t, 404, r.call("keeper", "POST", "/trackers/Loans/try/rule", wire.Trial{Body: moving("yes"), Replaces: "Nothing"}).StatusCode)
	assert.Equal(t, 403, r.call("editor", "POST", "/trackers/Loans/try/rule", wire.Trial{Body: moving("yes")}).StatusCode)
}

// So are reminders, with who would be told; other kinds say what they do, and whether they read.
func TestOtherDefinitionsAreTried(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	var tried wire.Tried
	a := r.call("keeper", "POST", "/trackers/Loans/try/reminder", wire.Trial{Body: wire.DocumentOf(map[string]any{"name": "Late", "in": "Requested", "where": "Due before today", "show": []string{"Object"}, "to": "editor@example.org"})})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a.into(t, &tried)
	require.NotNil(t, tried.Matched)
	assert.Equal(t, 1, *tried.Matched)
	assert.Equal(t, []string{"editor@example.org"}, tried.Rows[0].To)
	a = r.call("keeper", "POST", "/trackers/Loans/try/round", wire.Trial{Body: wire.DocumentOf(map[string]any{"name": "Morning", "clock": "daily at 8:30", "reminders": "all"})})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	tried = wire.Tried{}
	a.into(t, &tried)
	assert.Nil(t, tried.Matched)
	assert.NotEmpty(t, tried.Says)
	a = r.call("keeper", "POST", "/trackers/Loans/try/round", wire.Trial{Body: wire.DocumentOf(map[string]any{"name": "Morning", "clock": "at noon", "reminders": "all"})})
	assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode)
}

// The figures of a chart stay in the order in which they were written.
func TestDefinitionsKeepTheirOrder(t *testing.T) {
	r := newRig(t)
	text := `{"name":"Count","of":"Requested","figures":{"Rows":"count","Apart":"count distinct Object","Last":"largest Due"},"draw":"bar"}`
	a := r.call("keeper", "POST", "/trackers/Loans/tallies", []byte(text), "Content-Type", "application/json")
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a = r.call("keeper", "GET", "/trackers/Loans/tallies/Count", nil)
	assert.Contains(t, string(a.body), `"figures":{"Rows":"count","Apart":"count distinct Object","Last":"largest Due"}`)
}
