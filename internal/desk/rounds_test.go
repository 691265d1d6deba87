package desk_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/desk"
	"example.org/kavlo/internal/sheet"
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
	run := func() *desk.RoundDetail {
		plan, err := b.PlanRound(t.Context(), b.tracker(), "Morning")
		require.NoError(t, err)
		_, detail, err := b.RunRound(t.Context(), "Ines", sheet.ByHand, b.tracker(), plan)
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
	_, _, err = b.RunRound(t.Context(), "Ines", sheet.ByHand, b.tracker(), plan)
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

func TestMailThatCanNeverArriveIsGivenUp(t *testing.T) {
	b := newBench(t)
	b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	plan, err := b.PlanRound(t.Context(), b.tracker(), "Morning")
	require.NoError(t, err)
	_, _, err = b.RunRound(t.Context(), "Ines", sheet.ByHand, b.tracker(), plan)
	require.NoError(t, err)
	b.mail.err = permanent{errors.New("no such mailbox")}
	_, err = b.SendDue(t.Context())
	require.NoError(t, err)
	box, err := b.Outbox(t.Context(), 10)
	require.NoError(t, err)
	assert.Equal(t, "given up", box[0].State)
}

func TestAListIsTakenInOnceAndAFailureIsOnRecord(t *testing.T) {
	b := newBench(t)
	b.lists.records = []any{map[string]any{"id": "001", "name": "Quillmoor"}, map[string]any{"id": "002", "name": "Averin"}}
	sync := func() (*desk.Result, error) {
		return b.RunSync(t.Context(), "Ines", sheet.ByHand, b.tracker(), "Lenders", desk.SyncHow{})
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
