package desk_test

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/desk"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

const loans = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested:  { columns: { Object: { type: text, required: yes }, Stage: &s { type: choice, options: [Requested, Agreed, Lost] }, Registrar: { type: person }, Due: { type: date, bad input: refuse } } }
  Agreed:     { columns: { Object: { type: text }, Stage: *s, Registrar: { type: person } } }
  Lenders:    { columns: { No: { type: text }, Name: { type: text } } }
rules:
  - name: Move
    wake: { edit: [Stage] }
    where: Stage is not blank and Stage is not tab
    steps: [ { move: { to: "{Stage}" } } ]
  - name: Mark
    wake: { clock: weekdays at 08:00 }
    in: Requested
    where: Due before today
    steps: [ { set: { Stage: Agreed } } ]
lists:
  - { name: Register, from: { http: "http://lists.example.org", items: /records } }
syncs:
  - { name: Lenders, list: Register, tab: Lenders, key: { No: id }, fields: { Name: name }, clock: daily at 6:00 }
reminders:
  - { name: Due, in: Requested, where: Due before today, show: [Object, Due], to: "{Registrar}" }
rounds:
  - { name: Morning, clock: weekdays at 08:30, reminders: all, subject: "{count} wait" }
`

// clock is a clock that a test moves.
type clock struct {
	mu  sync.Mutex
	now time.Time
}

func (c *clock) Now() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.now
}

func (c *clock) set(s string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	t, err := time.ParseInLocation("2006-01-02 15:04", s, time.UTC) // Lisbon keeps this in winter
	if err != nil {
		panic(err)
	}
	c.now = t
}

// mailer is a mail server that a test rules.
type mailer struct {
	sent []desk.Mail
	err  error
}

func (m *mailer) Send(_ context.Context, mail *desk.Mail) error {
	if m.err == nil {
		m.sent = append(m.sent, *mail)
	}
	return m.err
}

type permanent struct{ error }

func (permanent) Temporary() bool { return false }

// lists are lists that a test fills.
type lists struct {
	records []any
	err     error
}

func (l *lists) Fetch(context.Context, *setup.List) ([]any, error) { return l.records, l.err }

type bench struct {
	*desk.Desk
	t     *testing.T
	dir   string
	clock *clock
	mail  *mailer
	lists *lists
}

func newBench(t *testing.T) *bench {
	b := &bench{t: t, dir: t.TempDir(), clock: &clock{}, mail: &mailer{}, lists: &lists{}}
	b.clock.set("2026-03-25 09:00") // a Wednesday
	b.open()
	t.Cleanup(func() { assert.NoError(t, b.Close()) })
	b.must(b.LoadSetup("Ines", []byte(loans)))
	return b
}

func (b *bench) open() {
	d, err := desk.Open(b.t.Context(), desk.Config{Dir: b.dir, Now: b.clock.Now, Mailer: b.mail, Lists: b.lists, Console: "http://kavlo.example.org"})
	require.NoError(b.t, err)
	b.Desk = d
}

func (b *bench) reopen() {
	require.NoError(b.t, b.Close())
	b.open()
}

func (b *bench) must(req desk.Request) *desk.Result {
	b.t.Helper()
	r, err := b.Commit(b.t.Context(), req)
	require.NoError(b.t, err)
	return r
}

func (b *bench) tracker() *sheet.Tracker {
	t, err := b.Find("Loans")
	require.NoError(b.t, err)
	return t
}

func (b *bench) add(cells map[string]any) sheet.RowID {
	b.t.Helper()
	t, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(b.t, err)
	return b.must(b.AddRows("Ines", t.ID, tab.ID, []map[string]any{cells})).Set.Changes[0].Row
}

func (b *bench) set(row sheet.RowID, column string, v any) (*desk.Result, error) {
	return b.Commit(b.t.Context(), b.SetRows("Ines", b.tracker().ID, []desk.RowEdit{{Row: row, Cells: map[string]any{column: v}}}))
}

func (b *bench) tabOf(row sheet.RowID) string { return b.tracker().TabOf(b.tracker().Row(row)).Name }

func TestAnEditAndWhatFollowsAreOneChangeSet(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	r, err := b.set(row, "Stage", "Agreed")
	require.NoError(t, err)
	assert.Equal(t, "Agreed", b.tabOf(row))
	assert.Len(t, r.Set.Changes, 2)
	stored, err := b.Store().ChangeSet(t.Context(), r.Set.Seq)
	require.NoError(t, err)
	assert.Equal(t, r.Set.Changes, stored.Changes)
	why, err := b.Why(t.Context(), row, 0)
	require.NoError(t, err)
	require.Len(t, why, 2)
	assert.Contains(t, why[0].Says, `by the rule "Move" (step 1)`)
	assert.Contains(t, why[1].Says, `because Ines set Stage`)
}

func TestAFailedCascadeChangesNothingAndIsOnRecord(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	before := b.State()
	_, err := b.set(row, "Stage", "Lost")
	var failed *desk.RunError
	require.ErrorAs(t, err, &failed)
	require.ErrorContains(t, err, `there is no tab "Lost" in Loans`)
	assert.Same(t, before, b.State())
	run, err := b.Store().Run(t.Context(), failed.Run)
	require.NoError(t, err)
	assert.Equal(t, "failed", run.Outcome)
	assert.Contains(t, string(run.Body), "there is no tab")
	lately, err := b.Store().FailedSince(t.Context(), b.clock.Now().Add(-time.Hour), 5)
	require.NoError(t, err)
	assert.Len(t, lately, 1)
}

func TestBadInputIsRefusedOrMarked(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell"})
	_, err := b.set(row, "Due", "TBC")
	require.ErrorContains(t, err, "is not a date")
	_, err = b.set(row, "Registrar", "TBC")
	require.NoError(t, err)
	assert.True(t, b.tracker().Row(row).At(2).IsOdd())
	_, err = b.set(row, "Object", "")
	require.ErrorContains(t, err, "must not be blank")
	_, err = b.set(row, "Objct", "x")
	require.ErrorContains(t, err, "did you mean Object?")
}

func TestTheSecondOfTwoEditorsIsToldTheCurrentRow(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell"})
	seen := b.tracker().Row(row).Version
	_, err := b.set(row, "Object", "Ship's bell")
	require.NoError(t, err)
	_, err = b.Commit(t.Context(), b.SetRows("Joren", b.tracker().ID, []desk.RowEdit{{Row: row, Version: seen, Cells: map[string]any{"Object": "Horn"}}}))
	var stale *desk.Stale
	require.ErrorAs(t, err, &stale)
	assert.Equal(t, "Ship's bell", stale.Current.At(0).String())
}

func TestAPreviewChangesNothingAndIsWhatTheRunDoes(t *testing.T) {
	b := newBench(t)
	b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01"})
	rule, err := b.FindRule(b.tracker(), "Mark")
	require.NoError(t, err)
	before := b.State()
	preview, err := b.Preview(t.Context(), b.RunRule("Ines", b.tracker(), rule))
	require.NoError(t, err)
	assert.Same(t, before, b.State())
	done := b.must(b.RunRule("Ines", b.tracker(), rule))
	assert.Equal(t, preview.Set.Changes, done.Set.Changes)
	assert.NotEmpty(t, done.Set.Changes)
	again := b.must(b.RunRule("Ines", b.tracker(), rule))
	assert.Empty(t, again.Set.Changes)
}

func TestTheSameIdempotencyKeyChangesOnce(t *testing.T) {
	b := newBench(t)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	add := func() *desk.Result {
		req := b.AddRows("Ines", tr.ID, tab.ID, []map[string]any{{"Object": "Bell"}})
		req.Key = "k"
		return b.must(req)
	}
	first := add()
	again := add()
	assert.Equal(t, fmt.Sprint(first.Set.Seq), again.Again)
	b.reopen()
	assert.Equal(t, fmt.Sprint(first.Set.Seq), add().Again)
	assert.Equal(t, 1, b.tracker().Count(tab.ID))
}

func TestUndoPutsBackAllAndNamesWhatStandsInTheWay(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	place := b.tracker().Row(row).Pos
	r, err := b.set(row, "Stage", "Agreed")
	require.NoError(t, err)
	undo := func(set *sheet.ChangeSet, force bool) (*desk.Result, error) {
		req, err := b.Undo(t.Context(), "Ines", set, force)
		if err != nil {
			return nil, err
		}
		return b.Commit(t.Context(), req)
	}
	back, err := undo(r.Set, false)
	require.NoError(t, err)
	assert.Equal(t, "Requested", b.tabOf(row))
	assert.Equal(t, place, b.tracker().Row(row).Pos)
	_, err = undo(r.Set, false)
	require.ErrorIs(t, err, desk.ErrUndone)
	_, err = undo(back.Set, false) // an undo can be undone
	require.NoError(t, err)
	assert.Equal(t, "Agreed", b.tabOf(row))

	lamp := b.add(map[string]any{"Object": "Lamp", "Registrar": "a@example.org"})
	both, err := b.Commit(t.Context(), b.SetRows("Ines", b.tracker().ID, []desk.RowEdit{{Row: lamp, Cells: map[string]any{"Object": "Signal lamp", "Registrar": "b@example.org"}}}))
	require.NoError(t, err)
	_, err = b.set(lamp, "Object", "Old lamp")
	require.NoError(t, err)
	_, err = undo(both.Set, false)
	var refused *desk.UndoRefused
	require.ErrorAs(t, err, &refused)
	require.Len(t, refused.Conflicts, 1)
	assert.Contains(t, refused.Conflicts[0], `Object is "Old lamp" now`)
	_, err = undo(both.Set, true)
	require.NoError(t, err)
	assert.Equal(t, "Old lamp", b.tracker().Row(lamp).At(0).String())
	assert.Equal(t, "a@example.org", b.tracker().Row(lamp).At(2).String())
}

func TestWhatWasAnsweredIsThereAfterwards(t *testing.T) {
	b := newBench(t)
	var wg sync.WaitGroup
	rows := make([]sheet.RowID, 40)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	for i := range rows {
		wg.Go(func() {
			r, err := b.Commit(context.Background(), b.AddRows("Ines", tr.ID, tab.ID, []map[string]any{{"Object": fmt.Sprintf("Bell %d", i), "Stage": "Requested"}}))
			if assert.NoError(t, err) {
				rows[i] = r.Set.Changes[0].Row
			}
		})
	}
	wg.Wait()
	for _, row := range rows[:20] {
		_, err := b.set(row, "Stage", "Agreed")
		require.NoError(t, err)
	}
	before := map[sheet.RowID]string{}
	for _, row := range rows {
		before[row] = b.tabOf(row) + " " + b.tracker().Row(row).At(0).String()
	}
	require.Len(t, before, 40, "no two rows got one id")
	b.reopen()
	for row, want := range before {
		assert.Equal(t, want, b.tabOf(row)+" "+b.tracker().Row(row).At(0).String())
	}
	b.add(map[string]any{"Object": "One more"})
}

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
		req, err := b.Sync(t.Context(), "Ines", sheet.ByHand, b.tracker(), "Lenders")
		require.NoError(t, err)
		return b.Commit(t.Context(), req)
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

func TestSetupsLoadInPlace(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01"})
	shape := b.tracker().Shape
	r := b.must(b.LoadSetup("Ines", []byte(loans)))
	assert.Empty(t, r.Set.Changes, "loading the same again changes nothing")
	assert.Equal(t, shape, b.tracker().Shape)
	_, err := b.Commit(t.Context(), b.LoadSetup("Ines", []byte("tracker: Loans\nzone: UTC\ntabs: { Agreed: { columns: { Object: { type: text } } } }")))
	require.ErrorContains(t, err, "tab Requested still holds 1 rows")
	text := `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text }, Due: { type: text } } }
`
	b.must(b.LoadSetup("Ines", []byte(text)))
	assert.Equal(t, value.OfText("2026-03-01"), b.tracker().Row(row).At(1), "a column of another type keeps what stood in it")
}

func TestADroppedTrackerComesBack(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell"})
	r := b.must(b.DropTracker("Ines", b.tracker().ID))
	_, err := b.Find("Loans")
	require.Error(t, err)
	req, err := b.Undo(t.Context(), "Ines", r.Set, false)
	require.NoError(t, err)
	b.must(req)
	assert.Equal(t, "Requested", b.tabOf(row))
}

func TestListenersHearOfEveryChange(t *testing.T) {
	b := newBench(t)
	events, stop := b.Listen()
	row := b.add(map[string]any{"Object": "Bell"})
	e := <-events
	assert.Equal(t, row, e.Set.Changes[0].Row)
	assert.NotNil(t, e.State.Tracker(b.tracker().ID).Row(row))
	stop()
	_, open := <-events
	assert.False(t, open)
}

func TestOneTimeLinksServeOnce(t *testing.T) {
	b := newBench(t)
	p, err := b.PutPerson(t.Context(), "Marta", "marta@example.org", "editor")
	require.NoError(t, err)
	link, err := b.IssueLink(t.Context(), p.ID)
	require.NoError(t, err)
	session, who, err := b.OpenSession(t.Context(), link)
	require.NoError(t, err)
	assert.Equal(t, "Marta", who.Name)
	_, _, err = b.OpenSession(t.Context(), link)
	require.ErrorIs(t, err, desk.ErrNoAccess)
	_, err = b.Bearer(t.Context(), session, "session")
	require.NoError(t, err)
	require.NoError(t, b.CloseSession(t.Context(), session))
	_, err = b.Bearer(t.Context(), session, "session")
	require.ErrorIs(t, err, desk.ErrNoAccess)
	_, err = b.PutPerson(t.Context(), "x", "not an address", "editor")
	require.Error(t, err)
	_, err = b.PutPerson(t.Context(), "x", "x@example.org", "king")
	require.ErrorContains(t, err, "keeper, editor or reader")
}

func TestRunsAreKeptForNinetyDays(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	r, err := b.set(row, "Stage", "Agreed")
	require.NoError(t, err)
	tick := func(at string) error {
		b.clock.set(at)
		_, err := b.Tick(t.Context())
		require.NoError(t, err)
		_, err = b.Store().Run(t.Context(), r.Run)
		return err
	}
	require.NoError(t, tick("2026-06-23 08:59"))
	require.Error(t, tick("2026-06-23 09:01"))
	_, err = b.Store().ChangeSet(t.Context(), r.Set.Seq)
	require.NoError(t, err, "the journal is kept")
}

func TestAWatchingRuleIsOnRecordAndChangesNothing(t *testing.T) {
	b := newBench(t)
	b.must(b.PutPart("Ines", b.tracker().ID, sheet.PartRule, []byte("{ name: Trial, watching only: yes, wake: { edit: [Registrar] }, in: Requested, steps: [ { set: { Stage: Agreed } } ] }"), 0))
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	r, err := b.set(row, "Registrar", "a@example.org")
	require.NoError(t, err)
	assert.Len(t, r.Set.Changes, 1)
	assert.Equal(t, "Requested", b.tabOf(row))
	run, err := b.Store().Run(t.Context(), r.Run)
	require.NoError(t, err)
	assert.Equal(t, "done", run.Outcome, "the edit was done")
	trial, err := b.FindRule(b.tracker(), "Trial")
	require.NoError(t, err)
	byHand := b.must(b.RunRule("Ines", b.tracker(), trial))
	watched, err := b.Store().Run(t.Context(), byHand.Run)
	require.NoError(t, err)
	assert.Equal(t, "watched", watched.Outcome)
	assert.Contains(t, string(run.Body), `set Stage of \"Bell\" from \"Requested\" to \"Agreed\"`)
}

// A paste of 500 rows that each match is one cascade in one transaction.
func TestFiveHundredRowsAtOnceAreOneChangeSet(t *testing.T) {
	b := newBench(t)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	rows := make([]map[string]any, 500)
	for i := range rows {
		rows[i] = map[string]any{"Object": fmt.Sprintf("Bell %d", i), "Stage": "Requested"}
	}
	added := b.must(b.AddRows("Ines", tr.ID, tab.ID, rows))
	edits := make([]desk.RowEdit, len(rows))
	for i, c := range added.Set.Changes {
		edits[i] = desk.RowEdit{Row: c.Row, Cells: map[string]any{"Stage": "Agreed"}}
	}
	r := b.must(b.SetRows("Ines", tr.ID, edits))
	assert.Equal(t, map[sheet.Kind]int{sheet.Set: 500, sheet.Move: 500}, r.Set.Counts())
	assert.Equal(t, added.Set.Seq+1, r.Set.Seq)
	edits[7].Cells = map[string]any{"Stage": "Lost"}
	_, err = b.Commit(t.Context(), b.SetRows("Ines", tr.ID, edits))
	require.Error(t, err, "one that cannot be done stops all")
	_, agreed, err := b.FindTab("Loans", "Agreed")
	require.NoError(t, err)
	assert.Equal(t, 500, b.tracker().Count(agreed.ID))
}

func TestAColumnThatARuleNeedsIsNotRemoved(t *testing.T) {
	b := newBench(t)
	text := "tracker: Loans\nzone: Europe/Lisbon\ntabs:\n  Requested: { columns: { Object: { type: text } } }\n  Agreed: { columns: { Object: { type: text } } }\n" +
		"rules:\n  - { name: Move, wake: { edit: [Stage] }, steps: [ { move: { to: Agreed } } ] }\n"
	_, err := b.Commit(t.Context(), b.LoadSetup("Ines", []byte(text)))
	require.ErrorContains(t, err, `rules / Move / wake / edit: there is no column "Stage"`)
}

func TestTheStateOfATimeIsPlayedBack(t *testing.T) {
	b := newBench(t)
	var dumps []string
	var times []time.Time
	dump := func(w *sheet.Workspace) string {
		out := ""
		tr, err := w.Find("Loans")
		if err != nil {
			return "no tracker"
		}
		for i := range tr.Tabs {
			for r := range tr.Rows(tr.Tabs[i].ID) {
				out += fmt.Sprint(tr.Tabs[i].Name, r.ID, r.Pos, r.Cells(), r.Notes(), r.Carried(), "\n")
			}
		}
		return out
	}
	step := func(minute int, do func()) {
		b.clock.set(fmt.Sprintf("2026-03-25 09:%02d", minute))
		do()
		dumps, times = append(dumps, dump(b.State())), append(times, b.clock.Now())
	}
	var row sheet.RowID
	step(1, func() { row = b.add(map[string]any{"Object": "Bell", "Stage": "Requested"}) })
	step(2, func() { _, _ = b.set(row, "Stage", "Agreed") })
	step(3, func() { b.add(map[string]any{"Object": "Lamp"}) })
	step(4, func() { b.must(b.RemoveRows("Ines", b.tracker().ID, []sheet.RowID{row})) })
	step(5, func() {
		b.must(b.LoadSetup("Ines", []byte("tracker: Loans\nzone: UTC\ntabs: { Requested: { columns: { Object: { type: text }, Due: { type: text } } } }")))
	})
	for i := range dumps {
		w, err := b.AsOf(t.Context(), times[i])
		require.NoError(t, err)
		assert.Equal(t, dumps[i], dump(w), times[i])
	}
	w, err := b.AsOf(t.Context(), times[0].Add(-24*time.Hour))
	require.NoError(t, err)
	assert.Equal(t, "no tracker", dump(w))
}

// Taking back the coming of a row that has been edited since would lose the edit.
func TestARowEditedSinceItCameIsNotUndoneAway(t *testing.T) {
	b := newBench(t)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	added := b.must(b.AddRows("Ines", tr.ID, tab.ID, []map[string]any{{"Object": "Bell"}, {"Object": "Lamp"}}))
	row := added.Set.Changes[0].Row
	_, err = b.set(row, "Object", "Ship's bell")
	require.NoError(t, err)
	req, err := b.Undo(t.Context(), "Ines", added.Set, false)
	require.NoError(t, err)
	_, err = b.Commit(t.Context(), req)
	require.ErrorContains(t, err, "changed since it was added")
	req, err = b.Undo(t.Context(), "Ines", added.Set, true)
	require.NoError(t, err)
	b.must(req)
	assert.NotNil(t, b.tracker().Row(row), "with force it stays, and the rest goes")
	assert.Equal(t, 1, b.tracker().Count(tab.ID))
}
