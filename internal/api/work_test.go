package api

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
)

// reminded is a tracker with a rule, a reminder and a round, whose rows are long
// past their day.
const reminded = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text, required: yes }, Stage: &s { type: choice, options: [Requested, Agreed] }, Due: { type: date }, Registrar: { type: person } } }
  Agreed:    { columns: { Object: { type: text }, Stage: *s } }
` + moveRule + `
  - name: Note the late
    in: Requested
    where: Due before today
    steps: [ { set: { Stage: Requested } } ]
reminders:
  - { name: Late, in: Requested, where: Due before today, show: [Object, Due], to: "{Registrar}" }
rounds:
  - { name: Morning round, clock: weekdays at 08:30, reminders: all, subject: "{count} late" }
`

func newRemindedRig(t *testing.T) *rig {
	t.Helper()
	r := newRig(t)
	_, err := r.workspace.Commit(t.Context(), r.workspace.LoadSetup(testkit.By("Keeper"), []byte(reminded)))
	require.NoError(t, err)
	rows := []map[string]any{
		{"Object": "Bell", "Stage": "Requested", "Due": "2026-03-01", "Registrar": "editor@example.org"},
		{"Object": "Lamp", "Stage": "Requested", "Due": "2026-03-02", "Registrar": "editor@example.org"},
		{"Object": "Horn", "Stage": "Requested", "Due": "2026-03-03"},
		{"Object": "Lens", "Stage": "Requested", "Due": "TBC"},
		{"Object": "Gull", "Stage": "Requested", "Due": "2999-01-01", "Registrar": "reader@example.org"},
	}
	require.Equal(t, 200, r.call("editor", "POST", "/trackers/Loans/tabs/Requested/rows", wire.NewRows{Rows: rows}).StatusCode)
	return r
}

func TestTodayTellsWhatIsLateAndWhose(t *testing.T) {
	r := newRemindedRig(t)
	var today wire.Today
	r.call("reader", "GET", "/today", nil).into(t, &today)
	require.Len(t, today.Overdue, 2, "Horn is nobody's")
	labels := map[string][]string{}
	for _, o := range today.Overdue {
		labels[o.Label] = o.To
		assert.Equal(t, "Late", o.Reminder)
		assert.Equal(t, "Requested", o.Tab)
	}
	assert.Equal(t, map[string][]string{"Bell": {"Editor"}, "Lamp": {"Editor"}}, labels)
	require.Len(t, today.People, 1)
	require.Len(t, today.Nobody, 1)
	assert.Equal(t, "Horn", today.Nobody[0].Label)
	require.NotEmpty(t, today.Next)
	assert.Equal(t, "Morning round", today.Next[0].Name)
	require.Len(t, today.Rounds, 1)
	assert.Empty(t, today.Failed)
	assert.Empty(t, today.Held)
}

func TestARoundIsPreviewedAndRun(t *testing.T) {
	r := newRemindedRig(t)
	var result wire.RoundResult
	r.call("editor", "POST", "/trackers/Loans/rounds/Morning%20round/run?preview=yes", nil).into(t, &result)
	require.Len(t, result.Letters, 1)
	assert.Equal(t, "editor@example.org", result.Letters[0].To)
	assert.Equal(t, "2 late", result.Letters[0].Subject)
	assert.Contains(t, result.Letters[0].Text, "Bell")
	assert.NotContains(t, result.Letters[0].Text, "Gull")
	assert.Len(t, result.Nobody, 1)
	assert.Len(t, result.PassedOver, 1, "Lens, whose day is odd")
	var outbox []wire.OutboxMail
	r.call("reader", "GET", "/outbox", nil).into(t, &outbox)
	assert.Empty(t, outbox, "a preview sends nothing")

	assert.Equal(t, http.StatusForbidden, r.call("reader", "POST", "/trackers/Loans/rounds/Morning%20round/run", nil).StatusCode)
	r.call("editor", "POST", "/trackers/Loans/rounds/Morning%20round/run", nil).into(t, &result)
	assert.Equal(t, 1, result.Queued)
	r.call("reader", "GET", "/outbox", nil).into(t, &outbox)
	require.Len(t, outbox, 1)
	assert.Equal(t, "waiting", outbox[0].State)
	assert.Equal(t, result.Run, outbox[0].Run)
	p := r.call("editor", "POST", "/trackers/Loans/rounds/Morning%20rund/run", nil).problem(t)
	assert.Equal(t, "did you mean Morning round?", p.Hint)
}

func TestRunsAndTheJournalTellWhatHappened(t *testing.T) {
	r := newRemindedRig(t)
	var set wire.ChangeSet
	r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", wire.RowEdit{Cells: map[string]any{"Stage": "Agreed"}}).into(t, &set)
	var runs []wire.Run
	r.call("reader", "GET", "/trackers/Loans/runs", nil).into(t, &runs)
	require.NotEmpty(t, runs)
	assert.Equal(t, set.Run, runs[0].ID)
	assert.Equal(t, "done", runs[0].Outcome)
	var run wire.Run
	r.call("reader", "GET", "/runs/"+set.Run, nil).into(t, &run)
	require.Len(t, run.Rules, 1)
	assert.Equal(t, "Move", run.Rules[0].Rule)
	assert.Equal(t, 1, run.Rules[0].Matched)
	require.Len(t, run.Changes, 2)
	assert.Equal(t, "move", run.Changes[1].Kind)
	assert.Equal(t, "Agreed", run.Changes[1].After)

	r.call("editor", "POST", "/trackers/Loans/rules/Note%20the%20late/run", nil).into(t, &set)
	require.Len(t, set.PassedOver, 1)
	assert.Contains(t, set.PassedOver[0].Why, "Due")

	var journal []wire.JournalEntry
	r.call("reader", "GET", "/trackers/Loans/journal?limit=2", nil).into(t, &journal)
	require.Len(t, journal, 2)
	assert.Equal(t, map[string]int{"set": 1, "move": 1}, journal[0].Counts)
	require.Equal(t, 200, r.call("editor", "POST", "/undo/"+run.ID, nil).StatusCode)
	r.call("reader", "GET", "/runs/"+run.ID, nil).into(t, &run)
	assert.True(t, run.Undone)
	assert.Equal(t, http.StatusNotFound, r.call("reader", "GET", "/runs/01JQ6A0000000000000000000A", nil).problem(t).Status)
}

func TestNotesAndLooksAreSetAndTold(t *testing.T) {
	r := newRemindedRig(t)
	var set wire.ChangeSet
	edit := wire.RowEdit{Notes: map[string]string{"Object": "cracked"}, Styles: map[string]string{"Object": "bold, fill amber", "Due": "struck"}}
	r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", edit).into(t, &set)
	assert.Equal(t, map[string]int{"note": 1, "look": 2}, set.Counts)
	require.Len(t, set.Rows, 1)
	assert.Equal(t, map[string]string{"Object": "fill #F6E7CC, bold", "Due": "struck"}, set.Rows[0].Styles)
	assert.Equal(t, map[string]string{"Object": "cracked"}, set.Rows[0].Notes)
	var history []wire.JournalEntry
	r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows/Bell/history", nil).into(t, &history)
	require.Len(t, history, 2)
	assert.Equal(t, `put a note on Object of "Bell"; set off Object of "Bell": fill amber, bold; set off Due of "Bell": struck`, history[0].Says)
	p := r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", wire.RowEdit{Styles: map[string]string{"Object": "loud"}}).problem(t)
	assert.Equal(t, http.StatusUnprocessableEntity, p.Status)
	assert.Contains(t, p.Detail, `"loud" is not a style`)
	p = r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", wire.RowEdit{Styles: map[string]string{"Objet": "bold"}}).problem(t)
	assert.Equal(t, "did you mean Object?", p.Hint)
}

func TestSecretsAreNamedAndNeverShown(t *testing.T) {
	r := newRig(t)
	assert.Equal(t, http.StatusForbidden, r.call("editor", "GET", "/access/secrets", nil).StatusCode)
	put := r.call("keeper", "PUT", "/access/secrets/REGISTER", map[string]string{"value": "s3cret"})
	require.Less(t, put.StatusCode, 300, string(put.body))
	a := r.call("keeper", "GET", "/access/secrets", nil)
	assert.Contains(t, string(a.body), "REGISTER")
	assert.NotContains(t, string(a.body), "s3cret")
	require.Less(t, r.call("keeper", "DELETE", "/access/secrets/REGISTER", nil).StatusCode, 300)
	assert.NotContains(t, string(r.call("keeper", "GET", "/access/secrets", nil).body), "REGISTER")
}

// Rules that chase each other are stopped; that stands on Today under their names, until
// one of them has been changed.
func TestAStoppedChaseStandsOnTodayUntilItIsMended(t *testing.T) {
	r := newRig(t)
	r.setup(`
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Object: { type: text }, Value: { type: number }, Stage: { type: text }, Due: { type: date } } }
rules:
  - { name: Up, wake: { edit: Value }, where: Value is 1, steps: [ { set: { Value: 2 } } ] }
  - { name: Down, wake: { edit: Value }, where: Value is 2, steps: [ { set: { Value: 1 } } ] }
`)
	row := r.add("Bell")
	edited := r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/"+row.ID, wire.RowEdit{Cells: map[string]any{"Value": 1}})
	require.Equal(t, 409, edited.StatusCode, string(edited.body))
	assert.Contains(t, edited.problem(t).Detail, "Up")
	failed := func() (names []string) {
		var today wire.Today
		r.call("reader", "GET", "/today", nil).into(t, &today)
		for _, f := range today.Failed {
			names = append(names, f.Name+" "+f.Outcome)
		}
		return names
	}
	assert.Equal(t, []string{"Down, Up stopped"}, failed())
	mended := map[string]any{"name": "Down", "wake": map[string]any{"edit": "Value"}, "where": "Value is 3", "steps": []any{map[string]any{"set": map[string]any{"Value": "1"}}}}
	a := r.call("keeper", "PUT", "/trackers/Loans/rules/Down", mended)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	assert.Empty(t, failed())
	require.Equal(t, 200, r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/"+row.ID, wire.RowEdit{Cells: map[string]any{"Value": 1}}).StatusCode)
}
