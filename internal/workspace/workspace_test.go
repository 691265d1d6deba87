package workspace_test

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/workspace"
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
	mu   sync.Mutex
	sent []mail.Mail
	err  error
}

func (m *mailer) Send(_ context.Context, mail *mail.Mail) error {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.err == nil {
		m.sent = append(m.sent, *mail)
	}
	return m.err
}

type permanent struct{ error }

func (permanent) Temporary() bool { return false }

// lists are lists that a test fills.
type lists struct {
	hold    chan struct{} // not nil: an answer waits until it is closed
	records []any
	fetch   func() []any // not nil: in the place of records
	err     error
}

func (l *lists) Look(ctx context.Context, list *reconcile.List) ([]reconcile.Entry, reconcile.Pages, error) {
	out, err := l.Fetch(ctx, list)
	return out, reconcile.Pages{}, err
}

func (l *lists) Fetch(context.Context, *reconcile.List) ([]reconcile.Entry, error) {
	if l.hold != nil {
		<-l.hold
	}
	records := l.records
	if l.fetch != nil {
		records = l.fetch()
	}
	out := make([]reconcile.Entry, len(records))
	for i, r := range records {
		out[i].Doc, out[i].Where = r, fmt.Sprintf("record %d", i+1)
	}
	return out, l.err
}

func (l *lists) Send(context.Context, *reconcile.List, *reconcile.Write) (reconcile.Written, error) {
	return reconcile.Written{}, errors.New("this list is only read")
}

type bench struct {
	*workspace.Workspace
	t     *testing.T
	dir   string
	clock *clock
	mail  *mailer
	lists *lists
	files []string // folders besides the workspace's own
}

func newBench(t *testing.T) *bench {
	b := &bench{t: t, dir: t.TempDir(), clock: &clock{}, mail: &mailer{}, lists: &lists{}}
	b.clock.set("2026-03-25 09:00") // a Wednesday
	b.open()
	t.Cleanup(func() { assert.NoError(t, b.Close()) })
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(loans)))
	return b
}

func (b *bench) open() {
	d, err := workspace.Open(b.t.Context(), workspace.Config{Dir: b.dir, Now: b.clock.Now, Mailer: b.mail, Lists: b.lists, Console: "http://kavlo.example.org", FileFolders: b.files})
	require.NoError(b.t, err)
	b.Workspace = d
}

func (b *bench) reopen() {
	require.NoError(b.t, b.Close())
	b.open()
}

func (b *bench) must(req engine.Request) *engine.Result {
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
	return b.must(b.AddRows(testkit.By("Ines"), t.ID, tab.ID, []map[string]any{cells})).Set.Changes[0].Row
}

func (b *bench) set(row sheet.RowID, column string, v any) (*engine.Result, error) {
	return b.Commit(b.t.Context(), b.SetRows(testkit.By("Ines"), b.tracker().ID, []edit.RowEdit{{Row: row, Cells: map[string]any{column: v}}}))
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
	why, err := b.Why(t.Context(), b.State(), everything, row, 0)
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
	var failed *engine.RunError
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
	require.ErrorContains(t, err, "is required")
	_, err = b.set(row, "Objct", "x")
	require.ErrorContains(t, err, "did you mean Object?")
}

func TestTheSecondOfTwoEditorsIsToldTheCurrentRow(t *testing.T) {
	b := newBench(t)
	row := b.add(map[string]any{"Object": "Bell"})
	seen := b.tracker().Row(row).Version
	_, err := b.set(row, "Object", "Ship's bell")
	require.NoError(t, err)
	_, err = b.Commit(t.Context(), b.SetRows(testkit.By("Joren"), b.tracker().ID, []edit.RowEdit{{Row: row, Version: seen, Cells: map[string]any{"Object": "Horn"}}}))
	var stale *edit.Stale
	require.ErrorAs(t, err, &stale)
	assert.Equal(t, "Ship's bell", stale.Current.At(0).String())
}

func TestTheSameIdempotencyKeyChangesOnce(t *testing.T) {
	b := newBench(t)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	add := func() *engine.Result {
		req := b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, []map[string]any{{"Object": "Bell"}})
		req.Key = engine.Key{ID: "k", Hash: "h"}
		return b.must(req)
	}
	first := add()
	again := add()
	assert.Equal(t, fmt.Sprint(first.Set.Seq), again.Again)
	b.reopen()
	assert.Equal(t, fmt.Sprint(first.Set.Seq), add().Again)
	assert.Equal(t, 1, b.tracker().Count(tab.ID))
	other := b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, []map[string]any{{"Object": "Lamp"}})
	other.Key = engine.Key{ID: "k", Hash: "another"}
	_, err = b.Commit(t.Context(), other)
	require.ErrorIs(t, err, engine.ErrOtherRequest)
	assert.Equal(t, 1, b.tracker().Count(tab.ID))
	for _, at := range []string{"2026-03-26 10:00", "2026-03-26 11:00"} {
		b.clock.set(at)
		_, err = b.Tick(t.Context())
		require.NoError(t, err)
	}
	assert.Empty(t, add().Again, "after a day a key is new")
}

func TestWhatWasAnsweredIsThereAfterwards(t *testing.T) {
	b := newBench(t)
	var wg sync.WaitGroup
	rows := make([]sheet.RowID, 40)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	for i := range rows {
		wg.Go(func() {
			r, err := b.Commit(context.Background(), b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, []map[string]any{{"Object": fmt.Sprintf("Bell %d", i), "Stage": "Requested"}}))
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
	require.ErrorIs(t, err, access.ErrNoAccess)
	_, err = b.Bearer(t.Context(), session, "session")
	require.NoError(t, err)
	require.NoError(t, b.CloseSession(t.Context(), session))
	_, err = b.Bearer(t.Context(), session, "session")
	require.ErrorIs(t, err, access.ErrNoAccess)
	_, err = b.PutPerson(t.Context(), "x", "not an address", "editor")
	require.Error(t, err)
	_, err = b.PutPerson(t.Context(), "x", "x@example.org", "king")
	require.ErrorContains(t, err, "admin, editor or reader")
}

// everything is what a keeper sees of a change set.
func everything(set *sheet.ChangeSet) *sheet.ChangeSet { return set }
