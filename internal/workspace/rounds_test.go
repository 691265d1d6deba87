package workspace_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/notify"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/syncing"
	"example.org/kavlo/internal/testkit"
)

func TestTheClockRunsWhatIsDueOnce(t *testing.T) {
	b := newBench(t)
	b.lists.records = []any{map[string]any{"id": "001", "name": "Quillmoor"}}
	row := b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Stage": "Requested", "Registrar": "marta@example.org"})
	tick := func(at string) {
		b.clock.set(at)
		_, err := b.Tick(t.Context())
		require.NoError(t, err)
	}
	tick("2026-03-25 09:00") // first seen: counts from here
	assert.Equal(t, "Requested", b.tabOf(row))
	tick("2026-03-26 06:00")
	_, lenders, err := b.FindTab("Loans", "Lenders")
	require.NoError(t, err)
	assert.Equal(t, 1, b.tracker().Count(lenders.ID))
	b.reopen()
	tick("2026-03-26 08:00")
	assert.Equal(t, "Agreed", b.tabOf(row), "the rule ran, and the move followed")
	runs, err := b.Store().Runs(t.Context(), b.tracker().ID, "", 50)
	require.NoError(t, err)
	tick("2026-03-26 08:10")
	after, err := b.Store().Runs(t.Context(), b.tracker().ID, "", 50)
	require.NoError(t, err)
	assert.Len(t, after, len(runs), "an occurrence runs once")
	tick("2026-03-27 12:00") // down for a day: each missed thing runs once
	final, err := b.Store().Runs(t.Context(), b.tracker().ID, "", 50)
	require.NoError(t, err)
	assert.Len(t, final, len(runs)+3, "a sync, a rule, and one round: the round of Thursday and of Friday count as one")
}

func TestARoundSendsOneMailAPersonAndOccurrence(t *testing.T) {
	b := newBench(t)
	b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	b.add(map[string]any{"Object": "Lamp", "Due": "2026-03-02", "Registrar": "marta@example.org"})
	run := func() *notify.Detail {
		plan, err := b.PlanRound(t.Context(), b.tracker(), "Morning")
		require.NoError(t, err)
		_, detail, err := b.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, b.tracker(), plan)
		require.NoError(t, err)
		_, err = b.SendDue(t.Context())
		require.NoError(t, err)
		return detail
	}
	assert.Equal(t, 1, run().Queued)
	assert.Equal(t, 1, run().Already)
	require.Len(t, b.mail.sent, 1)
	assert.Equal(t, "2 wait", b.mail.sent[0].Subject)
	assert.Contains(t, b.mail.sent[0].HTML, "http://kavlo.example.org/t/")
	b.clock.set("2026-03-26 08:45")
	assert.Equal(t, 1, run().Queued, "the next day's is another occurrence")
}

func TestMailWaitsForAServerThatIsAway(t *testing.T) {
	b := newBench(t)
	b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	plan, err := b.PlanRound(t.Context(), b.tracker(), "Morning")
	require.NoError(t, err)
	_, _, err = b.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, b.tracker(), plan)
	require.NoError(t, err)
	try := func(at string) int {
		b.clock.set(at)
		n, err := b.SendDue(t.Context())
		require.NoError(t, err)
		return n
	}
	b.mail.err = errors.New("connection refused")
	assert.Zero(t, try("2026-03-25 09:00"))
	box, err := b.Outbox(t.Context(), 10)
	require.NoError(t, err)
	require.Len(t, box, 1)
	assert.Equal(t, "waiting", box[0].State)
	assert.Contains(t, box[0].Problem, "connection refused")
	b.mail.err = nil
	assert.Zero(t, try("2026-03-25 09:00"), "not before its next try")
	b.reopen()
	assert.Equal(t, 1, try("2026-03-25 09:01"))
	assert.Zero(t, try("2026-03-25 10:00"), "and not twice")
	assert.Len(t, b.mail.sent, 1)
}

// refused runs the morning's round at a post office that knows no mailbox, and
// gives the outbox.
func (b *bench) refused(t *testing.T) []*store.Outgoing {
	t.Helper()
	plan, err := b.PlanRound(t.Context(), b.tracker(), "Morning")
	require.NoError(t, err)
	_, _, err = b.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, b.tracker(), plan)
	require.NoError(t, err)
	b.mail.err = permanent{errors.New("no such mailbox")}
	_, err = b.SendDue(t.Context())
	require.NoError(t, err)
	box, err := b.Outbox(t.Context(), 10)
	require.NoError(t, err)
	return box
}

func TestMailThatCanNeverArriveIsGivenUp(t *testing.T) {
	b := newBench(t)
	b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	box := b.refused(t)
	assert.Equal(t, "given up", box[0].State)
}

func TestAListIsTakenInOnceAndAFailureIsOnRecord(t *testing.T) {
	b := newBench(t)
	b.lists.records = []any{map[string]any{"id": "001", "name": "Quillmoor"}, map[string]any{"id": "002", "name": "Averin"}}
	sync := func() (*engine.Result, error) {
		return b.RunSync(t.Context(), testkit.By("Ines"), sheet.ByHand, b.tracker(), "Lenders", syncing.How{})
	}
	r, err := sync()
	require.NoError(t, err)
	assert.Len(t, r.Set.Changes, 2)
	r, err = sync()
	require.NoError(t, err)
	assert.Empty(t, r.Set.Changes)
	b.lists.err = errors.New("it answered 500")
	_, err = sync()
	require.ErrorContains(t, err, "it answered 500")
	runs, err := b.Store().Runs(t.Context(), b.tracker().ID, "", 1)
	require.NoError(t, err)
	assert.Equal(t, "failed", runs[0].Outcome)
}

func TestMailIsSentAgainByHandAndAtItsPace(t *testing.T) {
	b := newBench(t)
	for i := range 6 {
		b.add(map[string]any{"Object": fmt.Sprint("Bell ", i), "Due": "2026-03-01", "Registrar": fmt.Sprintf("p%d@example.org", i)})
	}
	box := b.refused(t)
	require.Len(t, box, 6)
	b.mail.err = nil
	m, err := b.Resend(t.Context(), box[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "waiting", m.State)
	sent, err := b.SendDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 1, sent)
	assert.Equal(t, box[0].ID, b.mail.sent[len(b.mail.sent)-1].ID, "the same mail")
	_, err = b.Resend(t.Context(), "nothing")
	require.ErrorContains(t, err, "nothing")

	l, err := b.TryRound(t.Context(), b.tracker(), "Morning", "ines@example.org")
	require.NoError(t, err)
	look := b.mail.sent[len(b.mail.sent)-1]
	assert.Equal(t, "ines@example.org", look.To)
	assert.Equal(t, "Test: "+l.Subject, look.Subject)
	assert.NotContains(t, look.HTML, notify.ActPath, "its links do nothing")
	_, err = b.TryRound(t.Context(), b.tracker(), "Morning", "nobody")
	require.ErrorContains(t, err, "is not a mail address")
}

// A rule and a sync let missed occurrences go where they say so.
func TestMissedOccurrencesAreLetGo(t *testing.T) {
	b := newBench(t)
	text := strings.Replace(loans, "wake: { clock: weekdays at 08:00 }", "wake: { clock: weekdays at 08:00, missed: skip }", 1)
	text = strings.Replace(text, "clock: daily at 6:00 }", "clock: daily at 6:00, missed: skip }", 1)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(text)))
	b.lists.records = []any{map[string]any{"id": "001", "name": "Quillmoor"}}
	row := b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Stage": "Requested"})
	tick := func(at string) {
		b.clock.set(at)
		_, err := b.Tick(t.Context())
		require.NoError(t, err)
	}
	tick("2026-03-25 09:00")
	tick("2026-03-26 12:00") // both were missed
	_, lenders, err := b.FindTab("Loans", "Lenders")
	require.NoError(t, err)
	assert.Zero(t, b.tracker().Count(lenders.ID))
	assert.Equal(t, "Requested", b.tabOf(row))
	tick("2026-03-27 06:00")
	tick("2026-03-27 08:00")
	assert.Equal(t, 1, b.tracker().Count(lenders.ID))
	assert.Equal(t, "Agreed", b.tabOf(row))
}

// A list that does not answer holds up no rule.
func TestASlowListHoldsUpNothing(t *testing.T) {
	b := newBench(t)
	b.lists.hold = make(chan struct{})
	row := b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Stage": "Requested"})
	_, err := b.Tick(t.Context())
	require.NoError(t, err)
	b.clock.set("2026-03-26 08:05")
	b.Serve(t.Context())
	require.Eventually(t, func() bool { return b.tabOf(row) == "Agreed" }, 10*time.Second, 5*time.Millisecond, "the rule of 08:00 ran")
	close(b.lists.hold)
	require.Eventually(t, func() bool {
		runs, err := b.Store().Runs(t.Context(), b.tracker().ID, "", 50)
		return err == nil && slices.ContainsFunc(runs, func(r *store.Run) bool { return r.Kind == "sync" })
	}, 10*time.Second, 5*time.Millisecond, "and the sync of 06:00 once its list answered")
}

const elsewhere = `
tracker: Crates
zone: UTC
tabs:
  Packing: { columns: { Crate: { type: text }, Who: { type: person }, Ready: { type: date } } }
reminders:
  - { name: Crates late, in: Packing, where: Ready before today, show: [Crate, Ready], to: "{Who}" }
rounds:
  - { name: All, clock: daily at 09:00, reminders: all trackers, subject: "{count} wait" }
  - { name: Own, clock: daily at 10:00, reminders: all, subject: "{count} wait" }
`

func TestARoundOfEveryTrackerIsOneMailAPerson(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(elsewhere)))
	b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	crates, tab, err := b.FindTab("Crates", "Packing")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), crates.ID, tab.ID, []map[string]any{{"Crate": "K-1", "Who": "marta@example.org", "Ready": "2026-03-20"}}))
	crates, err = b.Find("Crates")
	require.NoError(t, err)
	for name, want := range map[string]int{"All": 2, "Own": 1} {
		plan, err := b.PlanRound(t.Context(), crates, name)
		require.NoError(t, err)
		require.Len(t, plan.Letters, 1, name)
		assert.Equal(t, want, plan.Letters[0].Count, name)
		assert.Equal(t, want == 2, strings.Contains(plan.Letters[0].Text, "Due (1), in Loans"), name)
		_, _, err = b.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, crates, plan)
		require.NoError(t, err)
	}
	plan, err := b.PlanRound(t.Context(), crates, "All")
	require.NoError(t, err)
	assert.Zero(t, plan.Letters[0].New, "what a round has told of is not new, in whatever tracker")
}
