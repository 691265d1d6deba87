package workspace_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/trigger"
)

const telling = `
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Object: { type: text }, Due: { type: date }, Registrar: { type: person }, Seen: { type: checkbox }, Value: { type: number } } }
  Agreed: { columns: { Object: { type: text }, Due: { type: date }, Registrar: { type: person }, Seen: { type: checkbox }, Value: { type: number } } }
rules:
  - name: Tell
    in: Requested
    wake: { edit: Seen }
    where: Seen
    steps:
      - move: { to: Agreed }
      - mail: { to: ["{Registrar}"], copy: head@example.org, show: [Object, Due, { Worth: Value * 2 }], order: Due, totals: yes, subject: "{count} agreed for {name}" }
        remark: Call the lender.
      - remove: yes
`

// sentSince gives subject and text of the mails sent since, by address.
func (m *mailed) sentSince(before int) map[string][]string {
	m.t.Helper()
	_, err := m.SendDue(m.t.Context())
	require.NoError(m.t, err)
	out := map[string][]string{}
	for _, sent := range m.mail.sent[before:] {
		out[sent.To] = append(out[sent.To], sent.Subject+"\n"+sent.Text)
	}
	return out
}

func newTelling(t *testing.T, setup string) *mailed {
	m := newMailed(t)
	m.must(m.DropTracker(testkit.By("Ines"), m.tracker().ID))
	m.must(m.LoadSetup(testkit.By("Ines"), []byte(setup)))
	return m
}

func outcome(t *testing.T, m *mailed, r *engine.Result) string {
	run, err := m.Store().Run(t.Context(), r.Run)
	require.NoError(t, err)
	return run.Outcome
}

func (m *mailed) inTab(name string) (n int) {
	t, tab, err := m.FindTab("Loans", name)
	require.NoError(m.t, err)
	for range t.Rows(tab.ID) {
		n++
	}
	return n
}

// A rule tells people of the rows that it matched, as they stand at its place among the
// steps: one mail a person, for all rows of a change.
func TestARuleMailsJustItsRows(t *testing.T) {
	m := newTelling(t, telling)
	bell := m.add(map[string]any{"Object": "Bell", "Due": "2026-03-09", "Registrar": "Marta Quell", "Value": 4})
	oar := m.add(map[string]any{"Object": "Oar", "Due": "2026-03-02", "Registrar": "marta@example.org", "Value": 1.5})
	m.add(map[string]any{"Object": "Lamp", "Registrar": "marta@example.org"})
	edits := []edit.RowEdit{{Row: bell, Cells: map[string]any{"Seen": true}}, {Row: oar, Cells: map[string]any{"Seen": true}}}

	preview, err := m.Preview(t.Context(), m.SetRows(testkit.By("Ines"), m.tracker().ID, edits))
	require.NoError(t, err)
	says := trigger.OutcomeOf(preview.Note.Report).Reports[0].Steps[1].Says
	assert.Equal(t, "email to head@example.org (2 rows), Marta Quell (2 rows)", says)
	assert.Empty(t, m.sentSince(0), "a preview sends nothing")

	r := m.must(m.SetRows(testkit.By("Ines"), m.tracker().ID, edits))
	sent := m.sentSince(0)
	require.Len(t, sent["marta@example.org"], 1)
	require.Len(t, sent["head@example.org"], 1)
	text := sent["marta@example.org"][0]
	assert.True(t, strings.HasPrefix(text, "2 agreed for Marta Quell\n"), text)
	assert.Contains(t, text, "Hello Marta Quell, 2 rows need your attention.")
	assert.Contains(t, text, "Call the lender.")
	assert.Contains(t, text, "Sent by the rule “Tell”.")
	assert.NotContains(t, text, "Lamp")
	assert.Less(t, strings.Index(text, "Oar"), strings.Index(text, "Bell"), "in the order asked for")
	assert.Contains(t, text, "11", "sums of what is shown")
	assert.NotContains(t, text, "Mark done", "a rule's mail only tells, and can be paused")
	assert.Contains(t, text, "Pause these emails")
	assert.Equal(t, engine.Done, outcome(t, m, r))
	assert.Zero(t, m.inTab("Agreed"), "later steps were done all the same")
	assert.Empty(t, m.sentSince(len(m.mail.sent)), "and nobody gets it twice")
}

func TestARuleNamesWhomItCannotMail(t *testing.T) {
	m := newTelling(t, strings.Replace(telling, "      - remove: yes\n", "", 1))
	bell := m.add(map[string]any{"Object": "Bell", "Registrar": "Nobody Known"})
	oar := m.add(map[string]any{"Object": "Oar", "Registrar": "marta@example.org"})
	b, err := m.Store().Begin(t.Context())
	require.NoError(t, err)
	require.NoError(t, b.SetPaused(t.Context(), "marta@example.org", true, m.Now()))
	require.NoError(t, b.Commit())
	r := m.must(m.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: bell, Cells: map[string]any{"Seen": true}}, {Row: oar, Cells: map[string]any{"Seen": true}}}))
	rep := trigger.OutcomeOf(r.Note.Report).Reports[0]
	assert.Equal(t, "email to head@example.org (1 row); no email to marta@example.org, who paused theirs", rep.Steps[1].Says)
	require.Len(t, rep.PassedOver, 1)
	assert.Equal(t, "Bell", rep.PassedOver[0].Label)
	assert.Contains(t, rep.PassedOver[0].Why, "nobody is called Nobody Known")
	assert.Equal(t, engine.PartlyDone, outcome(t, m, r), "it stands on Today until it is mended")
	assert.Equal(t, 2, m.inTab("Agreed"), "the rows have moved")
}

func TestAMailThatShowsMoreThanSomebodyMaySeeIsNotForThem(t *testing.T) {
	m := newTelling(t, strings.Replace(telling, "      - remove: yes\n", "access:\n  columns: { Value: { see: [keepers] } }\n", 1))
	oar := m.add(map[string]any{"Object": "Oar", "Registrar": "marta@example.org"})
	r := m.must(m.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: oar, Cells: map[string]any{"Seen": true}}}))
	assert.Empty(t, m.sentSince(0)["marta@example.org"])
	rep := trigger.OutcomeOf(r.Note.Report).Reports[0]
	require.Len(t, rep.PassedOver, 1)
	assert.Equal(t, "marta@example.org is not told: this email shows what they may not see", rep.PassedOver[0].Why)
}

func TestAMailGoesOnlyWithItsChange(t *testing.T) {
	m := newTelling(t, strings.Replace(telling, "      - remove: yes\n", "      - put: { tab: Agreed, key: Object, values: { Object: \"{Object}\", Due: \"{Registrar}\" } }\n    limit: 1\n", 1))
	bell := m.add(map[string]any{"Object": "Bell", "Registrar": "marta@example.org"})
	oar := m.add(map[string]any{"Object": "Oar", "Registrar": "marta@example.org"})
	_, err := m.Commit(t.Context(), m.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: bell, Cells: map[string]any{"Seen": true}}, {Row: oar, Cells: map[string]any{"Seen": true}}}))
	require.ErrorContains(t, err, "its limit is 1")
	assert.Empty(t, m.sentSince(0), "what was taken back is told to nobody")
}

func TestWhatARuleMailsIsCheckedWhenItIsSaved(t *testing.T) {
	m := newTelling(t, telling)
	for body, says := range map[string]string{
		`{ name: A, in: Requested, steps: [ { mail: { to: "{Registar}" } } ] }`:                                     `did you mean Registrar`,
		`{ name: A, in: Requested, steps: [ { mail: { show: Object } } ] }`:                                         `say who must be told`,
		`{ name: A, in: Requested, steps: [ { mail: { to: x@example.org, show: [Objct] } } ] }`:                     `did you mean Object`,
		`{ name: A, in: Requested, steps: [ { mail: { to: x@example.org, subject: "{rows}" } } ] }`:                 `subject`,
		`{ name: A, in: Requested, steps: [ { mail: { to: x@example.org, due: Due } } ] }`:                          `due`,
		`{ name: A, steps: [ { mail: { to: x@example.org } } ] }`:                                                   `say in which tabs the rule's rows are`,
		`{ name: A, in: Requested, steps: [ { remove: yes }, { mail: { to: x@example.org } } ] }`:                   `the step before removes the rows`,
		`{ name: A, wake: { file: "intake/**" }, steps: [ { mail: { to: x@example.org } } ] }`:                      `say in which tabs`,
		`{ name: A, in: Requested, steps: [ { mail: { to: x@example.org, show: [{ Twice: Value + Object }] } } ] }`: `text cannot be added`,
	} {
		_, err := m.Commit(t.Context(), m.PutDefinition(testkit.By("Ines"), m.tracker().ID, sheet.KindRule, []byte(body), 0))
		if assert.Error(t, err, body) {
			assert.ErrorContains(t, err, says, body)
		}
	}
	tab, due := m.column("Agreed", "Due")
	_, err := m.Commit(t.Context(), m.DropColumn(testkit.By("Ines"), m.tracker().ID, tab, due.ID))
	require.ErrorContains(t, err, "needed by rule Tell")
}
