package workspace_test

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/workspace"
)

// Tests of faults within: they bring panics about where no caller could.

const plain = `
tracker: Loans
tabs:
  Requested: { columns: { Object: { type: text }, Stage: { type: text }, Due: { type: date } } }
  Lenders:   { columns: { No: { type: text }, Name: { type: text } } }
rules:
  - { name: Early, wake: { clock: daily at 7:00 }, in: Requested, steps: [ { set: { Stage: early } } ] }
  - { name: Late, wake: { clock: daily at 8:00 }, in: Requested, steps: [ { set: { Stage: late } } ] }
  - { name: File, wake: { file: intake/** }, steps: [ { put: { tab: Requested, key: Object, values: { Object: "{file.name}" } } } ] }
lists:
  - { name: Register, from: { http: "http://lists.example.org", items: /records } }
syncs:
  - { name: Lenders, list: Register, tab: Lenders, key: { No: id }, fields: { Name: name }, clock: daily at 6:00 }
`

// wild is a workspace whose clock, mail and lists a test rules.
type wild struct {
	*workspace.Workspace
	t    *testing.T
	dir  string
	mu   sync.Mutex
	now  time.Time
	send func(*mail.Mail) error
	list func(context.Context) ([]reconcile.Entry, error)
}

func (w *wild) clock() time.Time {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.now
}

func (w *wild) at(s string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	var err error
	w.now, err = time.Parse("2006-01-02 15:04", s)
	require.NoError(w.t, err)
}

func (w *wild) Send(_ context.Context, m *mail.Mail) error { return w.send(m) }

type wildLists struct{ w *wild }

func (l wildLists) Fetch(ctx context.Context, _ *reconcile.List) ([]reconcile.Entry, error) {
	return l.w.list(ctx)
}

func (l wildLists) Look(ctx context.Context, list *reconcile.List) ([]reconcile.Entry, reconcile.Pages, error) {
	out, err := l.Fetch(ctx, list)
	return out, reconcile.Pages{}, err
}

func (l wildLists) Send(context.Context, *reconcile.List, *reconcile.Write) (reconcile.Written, error) {
	return reconcile.Written{}, nil
}

func newWild(t *testing.T) *wild {
	w := &wild{t: t, dir: t.TempDir(), send: func(*mail.Mail) error { return nil }, list: func(context.Context) ([]reconcile.Entry, error) { return nil, nil }}
	w.at("2026-03-25 09:00")
	w.open()
	t.Cleanup(func() { assert.NoError(t, w.Close()) })
	_, err := w.Commit(t.Context(), w.LoadSetup(testkit.By("Ines"), []byte(plain)))
	require.NoError(t, err)
	return w
}

func (w *wild) open() {
	d, err := workspace.Open(w.t.Context(), workspace.Config{Dir: w.dir, Now: w.clock, Mailer: w, Lists: wildLists{w}})
	require.NoError(w.t, err)
	w.Workspace = d
}

func (w *wild) add(object string) *engine.Result {
	w.t.Helper()
	t, tab, err := w.FindTab("Loans", "Requested")
	require.NoError(w.t, err)
	r, err := w.Commit(w.t.Context(), w.AddRows(testkit.By("Ines"), t.ID, tab.ID, []map[string]any{{"Object": object}}))
	require.NoError(w.t, err)
	return r
}

func (w *wild) tick(at string) {
	w.t.Helper()
	w.at(at)
	_, err := w.Tick(w.t.Context())
	require.NoError(w.t, err)
}

func (w *wild) stages() string {
	t, tab, err := w.FindTab("Loans", "Requested")
	require.NoError(w.t, err)
	c, err := tab.Column("Stage")
	require.NoError(w.t, err)
	var out []string
	for r := range t.Rows(tab.ID) {
		out = append(out, r.Get(tab, c.ID).String())
	}
	return strings.Join(out, " ")
}

func (w *wild) noticed() string {
	out := ""
	for _, n := range w.Notices() {
		out += n.Says + "\n"
	}
	return out
}

// A request that panics, wherever in its turn, fails alone; those that share its
// transaction are written.
func TestARequestThatPanicsFailsAlone(t *testing.T) {
	w := newWild(t)
	before := w.State()
	var none *sheet.Tracker
	by := testkit.By("x")
	storing := func(do func(context.Context, *store.Batch, *engine.Result) error) func(*engine.Turn) error {
		return func(t *engine.Turn) error { t.Store(do); return nil }
	}
	faults := map[string]engine.Request{
		"while it is worked out": {By: by, Work: func(*engine.Turn) error { _ = none.Name; return nil }},
		"while it is written":    {By: by, Work: storing(func(context.Context, *store.Batch, *engine.Result) error { panic("boom") })},
		"with a wrong write": {By: by, Work: storing(func(ctx context.Context, b *store.Batch, _ *engine.Result) error {
			return errors.Join(errors.New("no"), b.SetClocked(ctx, 1, 1, time.Now()))
		})},
		"while it gives up what it read": {By: by, Release: func() { panic("boom") }},
	}
	for what, req := range faults {
		_, err := w.Commit(t.Context(), req)
		var failure *engine.Failure
		require.ErrorAs(t, err, &failure, what)
	}
	assert.Same(t, before, w.State())

	tr, tab, err := w.FindTab("Loans", "Requested")
	require.NoError(t, err)
	blocked, release := make(chan struct{}), make(chan struct{})
	go func() { // the writer stands still while the group gathers
		_, _ = w.Commit(context.Background(), engine.Request{By: by, Work: func(*engine.Turn) error { close(blocked); <-release; return nil }})
	}()
	<-blocked
	errs := make([]error, 9)
	var group sync.WaitGroup
	for i := range errs {
		req := w.AddRows(by, tr.ID, tab.ID, []map[string]any{{"Object": "Bell"}})
		if i%3 == 1 {
			req = faults["while it is written"]
		}
		group.Go(func() { _, errs[i] = w.Commit(t.Context(), req) })
	}
	close(release)
	group.Wait()
	for i, err := range errs {
		assert.Equal(t, i%3 == 1, err != nil, "%d: %v", i, err)
	}
	tr, tab, err = w.FindTab("Loans", "Requested")
	require.NoError(t, err)
	assert.Equal(t, 6, tr.Count(tab.ID))
	now := w.State()
	require.NoError(t, w.Close())
	w.open()
	tr, tab, err = w.FindTab("Loans", "Requested")
	require.NoError(t, err)
	assert.Equal(t, 6, tr.Count(tab.ID), "as it was written")
	assert.NotSame(t, now, w.State())
}

// A clocked part that panics is set aside and said on Today; the others run.
func TestAClockedPartThatPanicsIsSetAside(t *testing.T) {
	w := newWild(t)
	w.add("Bell")
	tries := 0
	w.list = func(context.Context) ([]reconcile.Entry, error) { tries++; panic("boom") }
	w.tick("2026-03-25 09:00")
	w.tick("2026-03-26 09:00")
	assert.Equal(t, "late", w.stages(), "the other parts ran")
	assert.Contains(t, w.noticed(), "sync Lenders of Loans was set aside")
	w.tick("2026-03-27 09:00")
	assert.Equal(t, 1, tries, "it is not tried again")
	w.list = func(context.Context) ([]reconcile.Entry, error) { tries++; return nil, nil }
	_, err := w.Commit(t.Context(), w.RenameTracker(testkit.By("Ines"), w.State().Trackers()[0].ID, "Loans now"))
	require.NoError(t, err)
	w.tick("2026-03-28 09:00")
	assert.Equal(t, 2, tries, "until its setup changes")
}

// A file that the service does not outlive is not read for ever.
func TestAFileThatStopsTheServiceIsPutAside(t *testing.T) {
	w := newWild(t)
	old := time.Now().Add(-time.Minute)
	save := func(name, text string) {
		full := filepath.Join(w.dir, intake.IntakeFolder, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(full), 0o700))
		require.NoError(t, os.WriteFile(full, []byte(text), 0o600))
		require.NoError(t, os.Chtimes(full, old, old))
	}
	rows := func() int {
		tr, tab, err := w.FindTab("Loans", "Requested")
		require.NoError(t, err)
		return tr.Count(tab.ID)
	}
	look := func() {
		_, err := w.Look(t.Context())
		require.NoError(t, err)
	}
	save("bad.txt", "x")
	hash, err := hashOf(filepath.Join(w.dir, intake.IntakeFolder, "bad.txt"))
	require.NoError(t, err)
	for range intake.MostTries { // each time the service ended in the midst of it
		_, err := w.Store().Try(t.Context(), "intake/bad.txt", hash)
		require.NoError(t, err)
	}
	save("good.txt", "y")
	look()
	assert.Equal(t, 1, rows(), "the good one alone")
	assert.Contains(t, w.noticed(), "The file intake/bad.txt was put aside")
	look()
	assert.Equal(t, 1, rows())
	require.NoError(t, w.Close())
	w.open()
	assert.Contains(t, w.noticed(), "The file intake/bad.txt was put aside", "after a start too")
	save("bad.txt", "another")
	look()
	assert.Equal(t, 2, rows(), "saved anew, it is tried anew")
	assert.Empty(t, w.noticed())
}

// A mail that panics is given up, and the others go.
func TestAMailThatPanicsIsGivenUp(t *testing.T) {
	w := newWild(t)
	b, err := w.Store().Begin(t.Context())
	require.NoError(t, err)
	for _, to := range []string{"a@example.org", "b@example.org", "c@example.org"} {
		_, err := b.Enqueue(t.Context(), &store.Outgoing{ID: to, Tracker: 1, Round: 1, Recipient: to, Made: w.clock(), NextTry: w.clock()})
		require.NoError(t, err)
	}
	require.NoError(t, b.Commit())
	w.send = func(m *mail.Mail) error {
		if m.To == "b@example.org" {
			panic("boom")
		}
		return nil
	}
	n, err := w.SendDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	box, err := w.Outbox(t.Context(), 10)
	require.NoError(t, err)
	for _, m := range box {
		assert.Equal(t, m.Recipient == "b@example.org", m.State == "given up", m.Recipient)
	}
}

// Whatever goes on, closing is over soon, and who still asks is told.
func TestClosingIsOverWhateverGoesOn(t *testing.T) {
	w := newWild(t)
	began := make(chan struct{})
	w.list = func(ctx context.Context) ([]reconcile.Entry, error) { // a list that does not answer
		close(began)
		<-ctx.Done()
		return nil, ctx.Err()
	}
	w.tick("2026-03-25 09:00")
	w.at("2026-03-26 06:30")
	w.Serve(context.Background())
	<-began
	start := time.Now()
	require.NoError(t, w.Close())
	assert.Less(t, time.Since(start), engine.CloseWait)
	for range 300 { // more than the queue takes
		_, err := w.Commit(t.Context(), engine.Request{By: testkit.By("x")})
		require.ErrorIs(t, err, engine.ErrClosed)
	}
	w.open()
	stuck := make(chan struct{})
	defer close(stuck)
	w.Go(func() { <-stuck })
	start = time.Now()
	require.NoError(t, w.Close())
	assert.Less(t, time.Since(start), 2*engine.CloseWait, "what does not end is left behind")
	w.open()
}

// A clock that was ahead for a while silences nothing afterwards, and takes
// nothing with it.
func TestAClockThatJumpsAheadAndBackSilencesNothing(t *testing.T) {
	w := newWild(t)
	w.add("Bell")
	first := w.add("Lamp")
	w.tick("2026-03-25 09:00")
	w.tick("2026-03-25 11:00")
	w.tick("2036-01-01 09:00") // everything clocked runs, ten years ahead
	_, err := w.Store().ChangeSet(t.Context(), first.Set.Seq)
	require.NoError(t, err)
	runs, err := w.Store().Runs(t.Context(), w.State().Trackers()[0].ID, "", 50)
	require.NoError(t, err)
	w.tick("2026-03-25 11:01")
	kept, err := w.Store().Runs(t.Context(), w.State().Trackers()[0].ID, "", 50)
	require.NoError(t, err)
	assert.Len(t, kept, len(runs), "nothing was pruned")
	assert.Contains(t, w.noticed(), "clock was ahead")
	clocked, err := w.Clocked(t.Context())
	require.NoError(t, err)
	for _, c := range clocked {
		assert.Equal(t, 2026, c.Next.Year(), c.Definition.Name)
	}
	tr, _, err := w.FindTab("Loans", "Requested")
	require.NoError(t, err)
	_, tab, err := w.FindTab("Loans", "Requested")
	require.NoError(t, err)
	for r := range tr.Rows(tab.ID) {
		_, err := w.Commit(t.Context(), w.SetRows(testkit.By("Ines"), tr.ID, []edit.RowEdit{{Row: r.ID, Cells: map[string]any{"Stage": ""}}}))
		require.NoError(t, err)
	}
	w.tick("2026-03-26 07:30")
	assert.Equal(t, "early early", w.stages(), "the next day it runs as it should")
}

func TestMailThatWasPutOffByAClockAheadGoes(t *testing.T) {
	w := newWild(t)
	b, err := w.Store().Begin(t.Context())
	require.NoError(t, err)
	_, err = b.Enqueue(t.Context(), &store.Outgoing{ID: "a", Tracker: 1, Round: 1, Recipient: "a@example.org", Made: w.clock(), NextTry: w.clock().AddDate(10, 0, 0)})
	require.NoError(t, err)
	require.NoError(t, b.Commit())
	n, err := w.SendDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 1, n)
}

// A file stamped with a time still to come is taken in once it lies still.
func TestAFileFromTheFutureIsTakenIn(t *testing.T) {
	w := newWild(t)
	full := filepath.Join(w.dir, intake.IntakeFolder, "a.txt")
	require.NoError(t, os.MkdirAll(filepath.Dir(full), 0o700))
	require.NoError(t, os.WriteFile(full, []byte("x"), 0o600))
	ahead := time.Now().AddDate(3, 0, 0)
	require.NoError(t, os.Chtimes(full, ahead, ahead))
	resting, err := w.Look(t.Context())
	require.NoError(t, err)
	assert.True(t, resting)
	w.Machine = func() time.Time { return time.Now().Add(time.Minute) }
	resting, err = w.Look(t.Context())
	require.NoError(t, err)
	assert.False(t, resting)
	files, err := w.Store().Files(t.Context())
	require.NoError(t, err)
	assert.Len(t, files, 1)
}

// A rule runs as it is in its turn: one compiled before a change of columns once
// ran with the old places, and one that was paused or removed still ran.
func TestARuleRunsAsItIsInItsTurn(t *testing.T) {
	w := newWild(t)
	w.add("Bell")
	tr := w.State().Trackers()[0]
	old, err := w.FindRule(tr, "Early")
	require.NoError(t, err)
	hand, clocked := w.RunRule(testkit.By("Ines"), tr, old), w.RunRule(policy.Itself(policy.ByClock), tr, old)
	clocked.Cause.Kind = sheet.ByClock
	_, err = w.Commit(t.Context(), w.LoadSetup(testkit.By("Ines"), []byte(strings.Replace(plain, "{ Object: { type: text }, Stage", "{ Shelf: { type: text }, Object: { type: text }, Room: { type: text }, Stage", 1))))
	require.NoError(t, err)
	_, err = w.Commit(t.Context(), hand)
	require.NoError(t, err)
	assert.Equal(t, "early", w.stages())
	_, err = w.Commit(t.Context(), w.Pause(testkit.By("Ines"), tr.ID, old.ID, true))
	require.NoError(t, err)
	r, err := w.Commit(t.Context(), clocked)
	require.NoError(t, err)
	assert.Empty(t, r.Set.Changes)
	_, err = w.Commit(t.Context(), w.DropDefinition(testkit.By("Ines"), tr.ID, old.ID))
	require.NoError(t, err)
	var gone *sheet.NotFound
	for _, req := range []engine.Request{hand, clocked} {
		_, err = w.Commit(t.Context(), req)
		require.ErrorAs(t, err, &gone)
	}
}

func hashOf(path string) (string, error) {
	text, err := os.ReadFile(path)
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:]), err
}
