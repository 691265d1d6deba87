package workspace_test

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/store/storetest"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/workspace"
)

// faulty is a workspace on a database that fails when its plan says so.
type faulty struct {
	*workspace.Workspace
	t     *testing.T
	dir   string
	plan  *storetest.Plan
	given map[int64]bool // ids of tabs, columns and definitions that were ever committed
}

func newFaulty(t *testing.T) *faulty {
	f := &faulty{t: t, dir: t.TempDir(), plan: &storetest.Plan{}, given: map[int64]bool{}}
	f.open()
	t.Cleanup(func() { assert.NoError(t, f.Close()) })
	_, err := f.Commit(t.Context(), f.LoadSetup(testkit.By("Ines"), []byte(loans)))
	require.NoError(t, err)
	_, err = f.Commit(t.Context(), f.LoadSetup(testkit.By("Ines"), []byte(filing)))
	require.NoError(t, err)
	return f
}

const filing = `
tracker: Files
zone: UTC
tabs:
  In: { columns: { Object: { type: text } } }
rules:
  - { name: File, wake: { new row: yes }, in: In, steps: [ { write: { tab: In, file: outbound/now.csv, replace: yes } } ] }
`

// file gives what the file holds that the rule writes.
func (f *faulty) file() string {
	text, err := os.ReadFile(filepath.Join(f.dir, "outbound", "now.csv"))
	if !errors.Is(err, fs.ErrNotExist) {
		require.NoError(f.t, err)
	}
	return string(text)
}

func (f *faulty) open() {
	d, err := workspace.Open(f.t.Context(), workspace.Config{Dir: f.dir, Store: store.Options{Careless: true, Driver: storetest.Failing(store.SQLite, f.plan)}})
	require.NoError(f.t, err)
	f.Workspace = d
}

// loans gives the tracker, and a tab of it.
func (f *faulty) loans(tab string) (*sheet.Tracker, *sheet.TabShape) {
	tr, at, err := f.FindTab("Loans", tab)
	require.NoError(f.t, err)
	return tr, at
}

// sound holds that the file has what the workspace holds, and nothing else.
func (f *faulty) sound(what string) {
	f.t.Helper()
	found, _, err := f.Check(f.t.Context(), true)
	require.NoError(f.t, err, what)
	require.Empty(f.t, found, what)
}

// ids gives the ids of all that the tracker's shape has.
func (f *faulty) ids() map[int64]bool {
	out := map[int64]bool{}
	tr, _ := f.loans("Requested")
	for i := range tr.Tabs {
		out[int64(tr.Tabs[i].ID)] = true
		for _, c := range tr.Tabs[i].Columns {
			out[int64(c.ID)] = true
		}
	}
	for _, p := range tr.Definitions {
		out[int64(p.ID)] = true
	}
	return out
}

// A database that fails at any call, before or after the commit took effect, leaves
// what is in memory, what is in the file and what was answered as one: either all of
// a change is there, or none.
func TestADatabaseThatFailsAtAnyCall(t *testing.T) {
	f := newFaulty(t)
	ctx := t.Context()
	n := 0
	key := engine.Key{}
	commit := func(req engine.Request, err error) error {
		if err != nil {
			return err
		}
		_, err = f.Commit(ctx, req)
		return err
	}
	first := func(tab string) *sheet.Row {
		tr, at := f.loans(tab)
		for r := range tr.Rows(at.ID) {
			return r
		}
		return nil
	}
	addRow := func() error {
		tr, at := f.loans("Requested")
		n++
		return commit(f.AddRows(testkit.By("Ines"), tr.ID, at.ID, []map[string]any{{"Object": fmt.Sprintf("Bell %d", n), "Stage": "Requested"}}), nil)
	}
	actions := []struct {
		name  string
		do    func() error
		ready func() error // before the fault, or nil
	}{
		{name: "a row is added", do: addRow},
		{name: "an edit moves a row", do: func() error {
			tr, _ := f.loans("Requested")
			from, to := "Requested", "Agreed"
			if first(from) == nil {
				from, to = to, from
			}
			return commit(f.SetRows(testkit.By("Ines"), tr.ID, []edit.RowEdit{{Row: first(from).ID, Cells: map[string]any{"Stage": to}}}), nil)
		}},
		{name: "the same request comes again", do: func() error {
			tr, at := f.loans("Requested")
			n++
			key = engine.Key{ID: fmt.Sprint("key ", n), Hash: "h"}
			req := f.AddRows(testkit.By("Ines"), tr.ID, at.ID, []map[string]any{{"Object": fmt.Sprintf("Twice %d", n)}})
			req.Key = key
			err := commit(req, nil)
			f.plan.Set(nil)
			require.NoError(f.t, commit(req, nil))
			again := 0
			for r := range f.State().Tracker(tr.ID).Rows(at.ID) {
				if r.Get(at, at.Columns[0].ID).String() == fmt.Sprintf("Twice %d", n) {
					again++
				}
			}
			require.Equal(f.t, 1, again, "sent twice, and there %d times", again)
			return err
		}},
		{name: "a rule is run", do: func() error {
			tr, _ := f.loans("Requested")
			r, err := f.FindRule(tr, "Mark")
			require.NoError(f.t, err)
			return commit(f.RunRule(testkit.By("Ines"), tr, r), nil)
		}},
		{name: "a column is added", do: func() error {
			tr, at := f.loans("Requested")
			n++
			return commit(f.AddColumn(testkit.By("Ines"), tr.ID, at.ID, fmt.Sprintf("Extra %d", n), edit.NewColumn{ColumnChange: edit.ColumnChange{Definition: map[string]any{"type": "text"}}}), nil)
		}},
		{name: "a rule writes a file", ready: addRow, do: func() error {
			tr, err := f.Find("Files")
			require.NoError(f.t, err)
			n++
			_, err = f.Commit(ctx, f.AddRows(testkit.By("Ines"), tr.ID, tr.Tabs[0].ID, []map[string]any{{"Object": fmt.Sprint("row ", n)}}))
			return err
		}},
		{name: "a change set is undone", ready: addRow, do: func() error {
			last := f.Seq()
			set, err := f.Store().ChangeSet(ctx, last)
			if err != nil {
				return err
			}
			req, err := f.Undo(ctx, testkit.By("Ines"), set, true)
			return commit(req, err)
		}},
	}
	faults := 0
	for _, a := range actions {
		for _, unheard := range []bool{false, true} {
			for call := 1; ; call++ {
				what := fmt.Sprintf("%s, and call %d fails", a.name, call)
				if a.ready != nil {
					require.NoError(t, a.ready(), a.name)
				}
				before, ids, file := f.State(), f.ids(), f.file()
				failed := false
				f.plan.Set(func(op string, at int) bool {
					if unheard && op != storetest.Unheard || !unheard && op == storetest.Unheard || at < call || failed {
						return false
					}
					failed = true
					return true
				})
				err := a.do()
				f.plan.Set(nil)
				if !failed {
					require.NoError(t, err, a.name)
					break
				}
				faults++
				if err != nil {
					var fault *storetest.Fault
					require.ErrorAs(t, err, &fault, what)
					if a.name != "the same request comes again" {
						require.Same(t, before, f.State(), what)
						require.Equal(t, file, f.file(), what)
					}
				}
				for id := range f.ids() {
					if a.name != "a change set is undone" { // which brings ids back
						require.False(t, !ids[id] && f.given[id], "%s: id %d was given before", what, id)
					}
					f.given[id] = true
				}
				f.sound(what)
				if call%5 == 0 {
					require.NoError(t, f.Close())
					f.open()
					f.sound(what + ", and the service starts anew")
				}
			}
		}
	}
	assert.Greater(t, faults, 50, "hardly any call failed")
	t.Logf("%d calls failed", faults)
}

// A start that fails at any call of the database fails as a whole, and the next one
// has everything.
func TestAStartThatFailsAtAnyCall(t *testing.T) {
	f := newFaulty(t)
	tr, at := f.loans("Requested")
	_, err := f.Commit(t.Context(), f.AddRows(testkit.By("Ines"), tr.ID, at.ID, []map[string]any{{"Object": "Bell"}}))
	require.NoError(t, err)
	faults := 0
	for call := 1; ; call++ {
		require.NoError(t, f.Close())
		f.plan.Set(func(_ string, at int) bool { return at == call })
		d, err := workspace.Open(t.Context(), workspace.Config{Dir: f.dir, Store: store.Options{Driver: storetest.Failing(store.SQLite, f.plan)}})
		calls := f.plan.Calls()
		f.plan.Set(nil)
		if err == nil {
			f.Workspace = d
			f.sound("after a fault that did no harm")
		} else {
			f.open()
		}
		if calls < call {
			break
		}
		faults++
		if err != nil {
			var fault *storetest.Fault
			require.True(t, errors.As(err, &fault), "call %d: %v", call, err)
		}
		now, tab := f.loans("Requested")
		require.Equal(t, 1, now.Count(tab.ID))
	}
	assert.Greater(t, faults, 20)
	require.NotEmpty(t, slices.Collect(f.State().Tracker(tr.ID).Rows(at.ID)))
}
