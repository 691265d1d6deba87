package workspace_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/history"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/workspace"
)

// counting is a rule whose condition counts over its own tab, once a row.
const counting = `{name: Count, wake: {clock: daily at 7:00}, in: Requested, where: "(count in Requested where Object contains this.Object) > 5000", steps: [{set: {Stage: Agreed}}]}`

// fill adds so many rows.
func (b *bench) fill(n int) {
	b.t.Helper()
	rows := make([]map[string]any, n)
	for i := range rows {
		rows[i] = map[string]any{"Object": fmt.Sprintf("Object %d", i)}
	}
	t, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(b.t, err)
	b.must(b.AddRows(testkit.By("Ines"), t.ID, tab.ID, rows))
}

// A rule that counted over its own tab once stopped all writing, and stopping.
func TestARuleThatAsksTooMuchIsRefusedAndStopsNothing(t *testing.T) {
	b := newBench(t)
	b.Budgets.Looks = 100_000
	b.must(b.PutDefinition(testkit.By("Ines"), b.tracker().ID, sheet.KindRule, []byte(counting), 0))
	rule := func() error {
		r, err := b.FindRule(b.tracker(), "Count")
		require.NoError(t, err)
		_, err = b.Commit(t.Context(), b.RunRule(testkit.By("Ines"), b.tracker(), r))
		return err
	}
	b.fill(100)
	require.NoError(t, rule(), "100 rows each look at 100")
	b.fill(900)
	var much *clause.TooMuch
	before := b.State()
	require.ErrorAs(t, rule(), &much)
	assert.Same(t, before, b.State())
	runs, err := b.Store().FailedSince(t.Context(), b.clock.Now().Add(-time.Hour), 5)
	require.NoError(t, err)
	require.Len(t, runs, 1)
	assert.Contains(t, string(runs[0].Body), "would look at more than 100000 rows")
	b.add(map[string]any{"Object": "Bell"}) // and others write on
}

func TestWhatIsWorkedOutEndsWhenItsAskerLeavesOrTheServiceStops(t *testing.T) {
	b := newBench(t)
	b.Budgets.Looks = 1 << 60
	b.must(b.PutDefinition(testkit.By("Ines"), b.tracker().ID, sheet.KindRule, []byte(counting), 0))
	b.fill(20_000) // 400 million looks, which would take long
	r, err := b.FindRule(b.tracker(), "Count")
	require.NoError(t, err)
	ctx, leave := context.WithCancel(t.Context())
	went := make(chan error)
	go func() {
		_, err := b.Commit(ctx, b.RunRule(testkit.By("Ines"), b.tracker(), r))
		went <- err
	}()
	go func() {
		_, err := b.Preview(ctx, b.RunRule(testkit.By("Ines"), b.tracker(), r))
		went <- err
	}()
	leave()
	require.ErrorIs(t, <-went, context.Canceled)
	require.ErrorIs(t, <-went, context.Canceled)
	b.Budgets.Turn = time.Millisecond
	var long *engine.TookTooLong
	_, err = b.Commit(t.Context(), b.RunRule(testkit.By("Ines"), b.tracker(), r))
	require.ErrorAs(t, err, &long)
	b.Budgets.Turn = time.Hour
	go func() {
		_, err := b.Commit(t.Context(), b.RunRule(testkit.By("Ines"), b.tracker(), r))
		went <- err
	}()
	require.NoError(t, b.Close())
	require.ErrorIs(t, <-went, engine.ErrClosed)
	b.open()
}

// Heavy requests wait for their turn, few at once, and give it up when they leave.
func TestHeavyRequestsWaitForTheirTurn(t *testing.T) {
	b := newBench(t)
	require.NoError(t, b.Close())
	d, err := workspace.Open(t.Context(), workspace.Config{Dir: b.dir, Now: b.clock.Now, Budgets: engine.Budgets{Looks: 100, Read: time.Minute, Turn: time.Minute, Replayed: 2, AtOnce: 1, Waiting: 1}})
	require.NoError(t, err)
	b.Workspace = d
	first, done, err := d.Heavy(t.Context())
	require.NoError(t, err)
	_, again, err := d.Heavy(first)
	require.NoError(t, err, "one at work has its place")
	again()
	ctx, leave := context.WithCancel(t.Context())
	went := make(chan error)
	var busy *engine.Busy
	go func() {
		for {
			_, _, err := d.Heavy(ctx)
			if full := new(engine.Busy); !errors.As(err, &full) {
				went <- err
				return
			}
		}
	}()
	require.Eventually(t, func() bool {
		tried, cancel := context.WithTimeout(t.Context(), time.Millisecond)
		defer cancel()
		_, _, err := d.Heavy(tried)
		return errors.As(err, &busy)
	}, 5*time.Second, time.Millisecond)
	leave()
	require.ErrorIs(t, <-went, context.Canceled)
	done()
	_, done, err = d.Heavy(t.Context())
	require.NoError(t, err)
	done()
}

func TestALookBackIsBoundedAndKept(t *testing.T) {
	b := newBench(t)
	at := b.clock.Now()
	b.clock.set("2026-03-25 10:00")
	row := b.add(map[string]any{"Object": "Bell"})
	then := b.clock.Now()
	b.clock.set("2026-03-25 11:00")
	_, err := b.set(row, "Object", "Lamp")
	require.NoError(t, err)
	first, err := b.AsOf(t.Context(), then)
	require.NoError(t, err)
	_, err = b.set(row, "Object", "Horn")
	require.NoError(t, err)
	again, err := b.AsOf(t.Context(), then.Add(time.Minute))
	require.NoError(t, err)
	assert.Same(t, first, again, "played back once, whatever has happened since")
	b.Budgets.Replayed = 2
	_, err = b.AsOf(t.Context(), at)
	var ago *history.TooLongAgo
	require.ErrorAs(t, err, &ago)
	ctx, leave := context.WithCancel(t.Context())
	leave()
	b.Budgets.Replayed = 100
	_, err = b.AsOf(ctx, at)
	require.ErrorIs(t, err, context.Canceled)
}

// Computed columns that name others twice once cost twice as much each: 24 of them
// made a workspace that took minutes to list.
func TestComputedColumnsAreWorkedOutOnceARow(t *testing.T) {
	b := newBench(t)
	chain := func(n int) string {
		var text strings.Builder
		text.WriteString("tracker: Chain\ntabs:\n  A:\n    columns:\n      Object: { type: text }\n      C0: { type: computed, clause: \"length(Object)\" }\n")
		for i := 1; i < n; i++ {
			fmt.Fprintf(&text, "      C%d: { type: computed, clause: \"C%d + C%d\" }\n", i, i-1, i-1)
		}
		text.WriteString("  B:\n    columns:\n      N: { type: text }\n      Sum: { type: computed, clause: \"sum C" + fmt.Sprint(n-1) + " in A where C" + fmt.Sprint(n-1) + " > 0\" }\n")
		return text.String()
	}
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(chain(48))))
	tr, a, err := b.FindTab("Chain", "A")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), tr.ID, a.ID, []map[string]any{{"Object": "x"}, {"Object": "xy"}}))
	tr, second, err := b.FindTab("Chain", "B")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), tr.ID, second.ID, []map[string]any{{"N": "1"}}))
	tr, _, err = b.FindTab("Chain", "A")
	require.NoError(t, err)
	for tab, want := range map[*sheet.TabShape]string{a: fmt.Sprint(1 << 47), second: fmt.Sprint(3 << 47)} {
		table, _, err := b.Select(tr, query.Query{Tab: tab}, nil)
		require.NoError(t, err)
		for row := range table.Rows {
			assert.Equal(t, want, row.Cells[len(row.Cells)-1].String())
			break
		}
	}
	_, err = b.Commit(t.Context(), b.LoadSetup(testkit.By("Ines"), []byte(strings.Replace(chain(60), "tracker: Chain", "tracker: Deeper", 1))))
	require.ErrorContains(t, err, "computed columns stand more than 50 behind one another")
}

// A request that its asker has given up is not done behind their back.
func TestWhatNobodyWaitsForIsNotDone(t *testing.T) {
	b := newBench(t)
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	ctx, leave := context.WithCancel(t.Context())
	req := b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, []map[string]any{{"Object": "Bell"}})
	add := req.Work
	req.Work = func(turn *engine.Turn) error {
		leave()
		return add(turn)
	}
	_, err = b.Commit(ctx, req)
	require.ErrorIs(t, err, context.Canceled)
	assert.Zero(t, b.tracker().Count(tab.ID))
}
