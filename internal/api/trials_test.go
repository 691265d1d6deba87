package api

import (
	"fmt"
	"net/http"
	"slices"
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
	require.Len(t, tried.Next, 5)
	assert.Regexp(t, `T08:30:00`, tried.Next[0])
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

// Beside a reminder or a round that is not saved stands what each person would get.
func TestEmailsOfWhatIsNotSavedAreShown(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	late := map[string]any{"name": "Late", "in": "Requested", "where": "Due before today", "show": []string{"Object"}, "to": "editor@example.org"}
	var shown wire.TriedEmails
	a := r.call("keeper", "POST", "/trackers/Loans/try/reminder/emails", wire.Trial{Body: wire.DocumentOf(late)})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a.into(t, &shown)
	require.Len(t, shown.Emails, 1)
	assert.Equal(t, "editor@example.org", shown.Emails[0].To)
	assert.Contains(t, shown.Emails[0].Text, "Bell")
	assert.NotContains(t, shown.Emails[0].Text, "/act/", "nothing can be done from it")
	assert.Equal(t, 403, r.call("editor", "POST", "/trackers/Loans/try/reminder/emails", wire.Trial{Body: wire.DocumentOf(late)}).StatusCode)

	round := wire.DocumentOf(map[string]any{"name": "Morning", "clock": "daily at 8:30", "reminders": "all", "subject": "Hello"})
	a = r.call("keeper", "POST", "/trackers/Loans/try/round/emails", wire.Trial{Body: round})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	shown = wire.TriedEmails{}
	a.into(t, &shown)
	assert.Empty(t, shown.Emails, "no reminder is saved")
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/reminders", wire.DocumentOf(late)).StatusCode)
	a = r.call("keeper", "POST", "/trackers/Loans/try/round/emails", wire.Trial{Body: round})
	a.into(t, &shown)
	require.Len(t, shown.Emails, 1)
	assert.Equal(t, "Hello", shown.Emails[0].Subject)
	var outbox []wire.OutboxMail
	r.call("keeper", "GET", "/outbox", nil).into(t, &outbox)
	assert.Empty(t, outbox)
}

// Rules are put in order, and each tells when it ran last and runs next.
func TestRulesAreOrderedAndTellWhenTheyRan(t *testing.T) {
	r := newRig(t)
	clocked := wire.DocumentOf(map[string]any{"name": "Nightly", "wake": map[string]any{"clock": "daily at 2:00"}, "steps": []any{map[string]any{"set": map[string]any{"Stage": "Agreed"}}}})
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/rules", clocked).StatusCode)
	names := func() (out []string) {
		var rules []wire.Definition
		r.call("reader", "GET", "/trackers/Loans/rules", nil).into(t, &rules)
		for _, d := range rules {
			out = append(out, d.Name)
		}
		return out
	}
	before := names()
	require.Equal(t, "Nightly", before[len(before)-1])
	a := r.call("keeper", "POST", "/trackers/Loans/order", wire.Order{Kind: "rule", First: []string{"Nightly"}})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(t, &set)
	assert.Equal(t, append([]string{"Nightly"}, before[:len(before)-1]...), names())
	assert.Equal(t, 404, r.call("keeper", "POST", "/trackers/Loans/order", wire.Order{Kind: "rule", First: []string{"None"}}).StatusCode)
	assert.Equal(t, 403, r.call("editor", "POST", "/trackers/Loans/order", wire.Order{Kind: "rule", First: []string{"Nightly"}}).StatusCode)
	require.Equal(t, 200, r.call("keeper", "POST", fmt.Sprint("/undo/", set.Seq), nil).StatusCode)
	assert.Equal(t, before, names())

	require.Equal(t, 200, r.call("editor", "POST", "/trackers/Loans/rules/Nightly/run", nil).StatusCode)
	var all []wire.Scheduled
	r.call("reader", "GET", "/trackers/Loans/schedule", nil).into(t, &all)
	at := slices.IndexFunc(all, func(s wire.Scheduled) bool { return s.Name == "Nightly" })
	require.GreaterOrEqual(t, at, 0)
	require.NotNil(t, all[at].Next)
	require.NotNil(t, all[at].Last)
	assert.NotEmpty(t, all[at].Last.Run)
	assert.Equal(t, "daily at 2:00", all[at].Phrase)
}

// The history of a rule tells who added it and what was changed of it since.
func TestTheHistoryOfARuleIsTold(t *testing.T) {
	r := newRig(t)
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/rules", moving(`Object is "Bell"`)).StatusCode)
	require.Equal(t, 200, r.call("keeper", "PUT", "/trackers/Loans/rules/Flag", moving(`Object is "Horn"`)).StatusCode)
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/tabs", wire.NewTab{Name: "Else"}).StatusCode)
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/rules/Flag/pause", nil).StatusCode)
	var all []wire.DefinitionChange
	a := r.call("reader", "GET", "/trackers/Loans/rules/Flag/history", nil)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	a.into(t, &all)
	require.Len(t, all, 3, "a change of something else is none")
	assert.Equal(t, []string{"added paused: yes"}, all[0].Says)
	assert.Equal(t, []string{`where: Object is "Bell" → Object is "Horn"`}, all[1].Says)
	assert.Equal(t, []string{"added"}, all[2].Says)
	assert.NotEmpty(t, all[1].Who)
	assert.Equal(t, 404, r.call("reader", "GET", "/trackers/Loans/rules/None/history", nil).StatusCode)
}
