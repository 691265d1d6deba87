package workspace_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/history"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/store/storetest"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/workspace"
)

// machine is a workspace under random use, with what it must come to.
type machine struct {
	t         *rapid.T
	dir       string
	workspace *workspace.Workspace
	clock     *clock
	then      []moment      // the state after each change set
	sets      []int64       // change sets that may be undone
	rows      []sheet.RowID // rows there were ever
	hour      int
	plan      *storetest.Plan // of the database's faults
}

type moment struct {
	at   time.Time
	dump string
}

func (m *machine) open() {
	d, err := workspace.Open(context.Background(), workspace.Config{Dir: m.dir, Now: m.clock.Now, Store: store.Options{Careless: true, Driver: storetest.Failing(store.SQLite, m.plan)}})
	if err != nil {
		m.t.Fatal(err)
	}
	m.workspace = d
}

// commit makes a change; what the workspace refuses with reason must change nothing.
func (m *machine) commit(req engine.Request) {
	before := m.dump(m.workspace.State())
	m.hour++
	m.clock.set(fmt.Sprintf("2026-03-%02d %02d:00", 1+m.hour/24, m.hour%24))
	said, foreErr := m.workspace.Preview(context.Background(), req)
	r, err := m.workspace.Commit(context.Background(), req)
	if err == nil && foreErr == nil && !reflect.DeepEqual(said.Set.Counts(), r.Set.Counts()) {
		m.t.Fatalf("the preview said %v and the commit did %v", said.Set.Counts(), r.Set.Counts())
	}
	if err != nil {
		var run *engine.RunError
		var undo *history.UndoRefused
		var refusal *sheet.Refusal
		var missing *sheet.NotFound
		var over *edit.Overwrites
		var fault *storetest.Fault
		if !errors.As(err, &fault) && !errors.As(err, &run) && !errors.As(err, &undo) && !errors.As(err, &refusal) && !errors.As(err, &missing) && !errors.As(err, &over) {
			m.t.Fatalf("refused without reason: %v", err)
		}
		if got := m.dump(m.workspace.State()); got != before {
			m.t.Fatalf("refused (%v), and yet\n%s\nbecame\n%s", err, before, got)
		}
		return
	}
	for _, id := range r.Set.Rows() {
		if !slices.Contains(m.rows, id) {
			m.rows = append(m.rows, id)
		}
	}
	if r.Set.Seq > 0 {
		m.sets = append(m.sets, r.Set.Seq)
		m.then = append(m.then, moment{m.clock.Now(), m.dump(m.workspace.State())})
	}
}

func (m *machine) tracker() *sheet.Tracker {
	t, err := m.workspace.Find("Loans")
	if err != nil {
		m.t.Fatal(err)
	}
	return t
}

// dump writes the tracker out, and holds that every row is in one tab alone and
// found there.
func (m *machine) dump(w *sheet.Workspace) string {
	var b strings.Builder
	t, err := w.Find("Loans")
	if err != nil {
		return ""
	}
	seen := map[sheet.RowID]string{}
	for i := range t.Tabs {
		tab := &t.Tabs[i]
		fmt.Fprintln(&b, tab.Name)
		for r := range t.Rows(tab.ID) {
			if other := seen[r.ID]; other != "" {
				m.t.Fatalf("row %s is in %s and in %s", r.ID, other, tab.Name)
			}
			seen[r.ID] = tab.Name
			if t.Row(r.ID) != r {
				m.t.Fatalf("row %s is known otherwise than it stands", r.ID)
			}
			fmt.Fprint(&b, "  ", r.ID, " ", r.Pos)
			for _, c := range tab.Columns {
				fmt.Fprintf(&b, " %s=%q", c.Name, r.Get(tab, c.ID).String())
			}
			fmt.Fprintln(&b, "", r.Notes(), r.Styles(), len(r.Carried()))
		}
	}
	return b.String()
}

func (m *machine) someRow(t *rapid.T) (sheet.RowID, bool) {
	if len(m.rows) == 0 {
		return 0, false
	}
	id := rapid.SampledFrom(m.rows).Draw(t, "row")
	return id, m.tracker().Row(id) != nil
}

func (m *machine) edit(t *rapid.T) {
	if id, there := m.someRow(t); there {
		cells := map[string]any{rapid.SampledFrom([]string{"Stage", "Object"}).Draw(t, "column"): rapid.SampledFrom([]string{"Requested", "Agreed", "Lost", "", "Bell"}).Draw(t, "value")}
		m.commit(m.workspace.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: id, Cells: cells, KeepOdd: rapid.Bool().Draw(t, "keep odd")}}))
	}
}

// remark notes something on a cell, or sets it off.
func (m *machine) remark(t *rapid.T) {
	id, there := m.someRow(t)
	if !there {
		return
	}
	change := edit.RowEdit{Row: id}
	text := map[string]string{"Object": rapid.SampledFrom([]string{"", "bold", "fill amber, struck"}).Draw(t, "text")}
	if rapid.Bool().Draw(t, "look") {
		change.Styles = text
	} else {
		change.Notes = text
	}
	m.commit(m.workspace.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{change}))
}

func (m *machine) add(t *rapid.T) {
	tab := rapid.SampledFrom(m.tracker().Tabs[:2]).Draw(t, "tab")
	m.commit(m.workspace.AddRows(testkit.By("Ines"), m.tracker().ID, tab.ID, []map[string]any{{"Object": rapid.StringMatching("[A-Z][a-z]{0,3}").Draw(t, "object"), "Stage": "Requested"}}))
}

func (m *machine) move(t *rapid.T) {
	if id, there := m.someRow(t); there {
		m.commit(m.workspace.MoveRows(testkit.By("Ines"), m.tracker().ID, rapid.SampledFrom(m.tracker().Tabs).Draw(t, "to").ID, []sheet.RowID{id}))
	}
}

func (m *machine) remove(t *rapid.T) {
	if id, there := m.someRow(t); there {
		m.commit(m.workspace.RemoveRows(testkit.By("Ines"), m.tracker().ID, []sheet.RowID{id}))
	}
}

func (m *machine) run(t *rapid.T) {
	var r *rule.Compiled
	r, err := m.workspace.FindRule(m.tracker(), rapid.SampledFrom([]string{"Move", "Mark"}).Draw(t, "rule"))
	if err != nil {
		t.Fatal(err)
	}
	m.commit(m.workspace.RunRule(testkit.By("Ines"), m.tracker(), r))
}

func (m *machine) undo(t *rapid.T) {
	if len(m.sets) == 0 {
		return
	}
	set, err := m.workspace.Store().ChangeSet(context.Background(), rapid.SampledFrom(m.sets).Draw(t, "set"))
	var fault *storetest.Fault
	if errors.As(err, &fault) {
		return
	}
	if err != nil {
		t.Fatal(err)
	}
	req, err := m.workspace.Undo(context.Background(), testkit.By("Ines"), set, rapid.Bool().Draw(t, "force"))
	if errors.Is(err, history.ErrUndone) || errors.As(err, &fault) {
		return
	}
	if err != nil {
		t.Fatal(err)
	}
	m.commit(req)
}

// stumble lets the database fail at some call of the next action, before or after
// what it does has taken effect.
func (m *machine) stumble(t *rapid.T, actions []func(*rapid.T)) {
	at, unheard := rapid.IntRange(1, 12).Draw(t, "call"), rapid.Bool().Draw(t, "unheard")
	m.plan.Set(func(op string, n int) bool { return n >= at && (op == storetest.Unheard) == unheard })
	defer m.plan.Set(nil)
	rapid.SampledFrom(actions).Draw(t, "action")(t)
}

func (m *machine) reopen(t *rapid.T) {
	before := m.dump(m.workspace.State())
	if err := m.workspace.Close(); err != nil {
		t.Fatal(err)
	}
	m.open()
	if got := m.dump(m.workspace.State()); got != before {
		t.Fatalf("stored\n%s\nand loaded\n%s", before, got)
	}
}

// Under random edits, rules, undos and restarts a row is always in one tab and
// never in two, what is stored is what was in memory, what is refused changes
// nothing, and every earlier state can be played back.
func TestRandomHistories(t *testing.T) {
	root := t.TempDir()
	n := 0
	rapid.Check(t, func(rt *rapid.T) {
		n++
		m := &machine{t: rt, dir: filepath.Join(root, fmt.Sprint(n)), clock: &clock{}, plan: &storetest.Plan{}}
		m.clock.set("2026-03-01 00:00")
		m.open()
		defer func() {
			_ = m.workspace.Close()
			_ = os.RemoveAll(m.dir)
		}()
		if _, err := m.workspace.Commit(context.Background(), m.workspace.LoadSetup(testkit.By("Ines"), []byte(loans))); err != nil {
			rt.Fatal(err)
		}
		m.then = append(m.then, moment{m.clock.Now(), m.dump(m.workspace.State())})
		m.add(rt)
		actions := []func(*rapid.T){m.edit, m.edit, m.edit, m.remark, m.add, m.move, m.remove, m.run, m.undo, m.undo}
		calm := actions
		actions = append(actions, m.reopen, func(t *rapid.T) { m.stumble(t, calm) }, func(t *rapid.T) { m.stumble(t, calm) })
		for range rapid.IntRange(1, 15).Draw(rt, "actions") {
			rapid.SampledFrom(actions).Draw(rt, "action")(rt)
		}
		for _, was := range m.then {
			w, err := m.workspace.AsOf(context.Background(), was.at)
			if err != nil {
				rt.Fatal(err)
			}
			if got := m.dump(w); got != was.dump {
				rt.Fatalf("as of %s it was\n%s\nand is played back as\n%s", was.at, was.dump, got)
			}
		}
	})
	require.Positive(t, n)
}
