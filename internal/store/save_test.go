package store

import (
	"context"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// twoTrackers are shapes to save rows in: tabs that share columns and tabs that
// do not, in two trackers.
func twoTrackers() []*sheet.Shape {
	text := func(id sheet.ColumnID) sheet.Column {
		return sheet.Column{ID: id, Name: fmt.Sprint("C", id), Type: value.Type{Kind: value.Text}}
	}
	return []*sheet.Shape{
		{Name: "One", Zone: "UTC", Tabs: []sheet.TabShape{{ID: 11, Name: "A", Columns: []sheet.Column{text(1), text(2), text(3)}}, {ID: 12, Name: "B", Columns: []sheet.Column{text(1), text(4)}}}},
		{Name: "Two", Zone: "UTC", Tabs: []sheet.TabShape{{ID: 21, Name: "C", Columns: []sheet.Column{text(5)}}}},
	}
}

// dump writes a workspace out, row by row.
func dump(w *sheet.Workspace) string {
	var b strings.Builder
	for _, t := range w.Trackers() {
		fmt.Fprintln(&b, t.ID, t.Name)
		for i := range t.Tabs {
			for r := range t.Rows(t.Tabs[i].ID) {
				fmt.Fprint(&b, "  ", t.Tabs[i].Name, " ", r.ID, " ", r.Pos, " ", r.Version, " ", r.Origin())
				for _, id := range []sheet.ColumnID{1, 2, 3, 4, 5} {
					if v := r.Get(&t.Tabs[i], id); v.Kind() != value.Blank {
						fmt.Fprintf(&b, " %d=%s %q", id, v.Kind(), v)
					}
				}
				for _, texts := range []map[sheet.ColumnID]string{r.Notes(), r.Styles()} {
					for _, id := range slices.Sorted(maps.Keys(texts)) {
						fmt.Fprintf(&b, " %d:%q", id, texts[id])
					}
				}
				fmt.Fprintln(&b)
			}
		}
	}
	return b.String()
}

// keeper saves drafts as the workspace does.
type keeper struct {
	store *Store
	state *sheet.Workspace
	seq   int64
	next  sheet.RowID
}

// save has f work on a draft, and saves what came of it; a change that does not
// hold is left out.
func (k *keeper) save(t require.TestingT, f func(*sheet.Draft)) *sheet.ChangeSet {
	k.seq++
	d := k.state.Edit(k.seq, k.next)
	f(d)
	set := &sheet.ChangeSet{Seq: k.seq, At: time.Unix(1_774_000_000+k.seq, 0).UTC(), Who: "Ines", Causes: []sheet.Cause{{Kind: sheet.ByEdit, Woke: -1}}, Changes: d.Changes()}
	k.next = d.NextRow()
	k.state = d.Done()
	ctx := context.Background()
	b, err := k.store.Begin(ctx)
	require.NoError(t, err)
	defer b.Rollback()
	require.NoError(t, b.Save(ctx, k.state, set.Changes))
	require.NoError(t, b.Journal(ctx, set, nil))
	require.NoError(t, b.Commit())
	return set
}

// begin makes the two trackers.
func (k *keeper) begin(t require.TestingT) {
	k.save(t, func(d *sheet.Draft) {
		for i, shape := range twoTrackers() {
			require.NoError(t, d.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: sheet.TrackerID(i + 1), ShapeAfter: shape}))
		}
	})
}

// anyRowChange draws a change of a row, or a row to add.
func anyRowChange(t *rapid.T, d *sheet.Draft) sheet.Change {
	tracker := d.Tracker(sheet.TrackerID(rapid.IntRange(1, 2).Draw(t, "tracker")))
	tab := &tracker.Tabs[rapid.IntRange(0, len(tracker.Tabs)-1).Draw(t, "tab")]
	rows := tracker.Page(tab.ID, 0, 1000)
	if len(rows) == 0 || rapid.IntRange(0, 3).Draw(t, "add") == 0 {
		cells, besides := make([]value.Value, len(tab.Columns)), sheet.Besides{Origin: rapid.SampledFrom([]string{"", "import x #1"}).Draw(t, "origin")}
		for i := range cells {
			cells[i] = anyStored(t)
		}
		if rapid.Bool().Draw(t, "noted") {
			besides.Notes = map[sheet.ColumnID]string{tab.Columns[0].ID: "a note"}
		}
		if rapid.Bool().Draw(t, "looked") {
			besides.Styles = map[sheet.ColumnID]string{tab.Columns[0].ID: "bold"}
		}
		return sheet.Change{Kind: sheet.Add, Tracker: tracker.ID, Tab: tab.ID, Row: d.NewRow(), Image: sheet.LaidOut(tab, cells, besides)}
	}
	r := rows[rapid.IntRange(0, len(rows)-1).Draw(t, "row")]
	c := sheet.Change{Tracker: tracker.ID, Tab: tab.ID, Row: r.ID}
	column := sheet.ColumnID(rapid.IntRange(1, 5).Draw(t, "column"))
	switch rapid.IntRange(0, 4).Draw(t, "kind") {
	case 0:
		c.Kind = sheet.Remove
	case 1:
		to := d.Tracker(sheet.TrackerID(rapid.IntRange(1, 2).Draw(t, "to")))
		c.Kind, c.ToTracker, c.ToTab = sheet.Move, to.ID, to.Tabs[rapid.IntRange(0, len(to.Tabs)-1).Draw(t, "to tab")].ID
	case 2:
		c.Kind, c.Column, c.Before, c.After = sheet.Note, column, value.OfText(r.Notes()[column]), value.OfText(rapid.SampledFrom([]string{"", "n", "m"}).Draw(t, "note"))
	case 3:
		c.Kind, c.Column, c.Before, c.After = sheet.Style, column, value.OfText(r.Styles()[column]), value.OfText(rapid.SampledFrom([]string{"", "bold", "struck"}).Draw(t, "look"))
	default:
		c.Kind, c.Column, c.Before, c.After = sheet.Set, column, r.Get(tab, column), anyStored(t)
	}
	return c
}

// Whatever happened to rows, what is loaded is what was saved, and the journal
// holds each set as it was.
func TestWhatIsSavedIsWhatIsLoaded(t *testing.T) {
	root, n := t.TempDir(), 0
	rapid.Check(t, func(rt *rapid.T) {
		n++
		dir := filepath.Join(root, fmt.Sprint(n))
		s, err := Open(t.Context(), dir, Options{Careless: true})
		require.NoError(rt, err)
		defer func() { _ = s.Close(); _ = os.RemoveAll(dir) }()
		k := &keeper{store: s, state: sheet.Empty(), next: 1}
		k.begin(rt)
		for range rapid.IntRange(1, 5).Draw(rt, "sets") {
			set := k.save(rt, func(d *sheet.Draft) {
				for range rapid.IntRange(1, 12).Draw(rt, "changes") {
					if err := d.Apply(anyRowChange(rt, d)); err != nil {
						rt.Fatal(err)
					}
				}
			})
			loaded := whole(t, s)
			if got, want := dump(loaded), dump(k.state); got != want {
				rt.Fatalf("saved\n%sand loaded\n%s", want, got)
			}
			kept, err := s.ChangeSet(t.Context(), set.Seq)
			require.NoError(rt, err)
			require.Len(rt, kept.Changes, len(set.Changes))
			for i := range set.Changes {
				a, b := set.Changes[i], kept.Changes[i]
				require.Equal(rt, a.Image == nil, b.Image == nil)
				if a.Image != nil {
					require.Equal(rt, sayImage(a.Image), sayImage(b.Image))
				}
				a.Image, b.Image = nil, nil
				require.Equal(rt, a, b)
			}
		}
	})
}

func sayImage(i *sheet.Image) string {
	cells := map[sheet.ColumnID]string{}
	for id, v := range i.Cells() {
		cells[id] = v.Kind().String() + " " + v.String()
	}
	return fmt.Sprint(i.Pos(), cells, i.Notes(), i.Styles(), i.Origin())
}

// Very many new rows are written another way than few, and their histories too.
func TestVeryManyNewRowsAreWhole(t *testing.T) {
	s, dir := open1(t)
	k := &keeper{store: s, state: sheet.Empty(), next: 1}
	k.begin(t)
	const rows = 20*historyLag + rowsAtOnce/2
	k.save(t, func(d *sheet.Draft) {
		tab := d.Tracker(1).TabByID(11)
		d.Expect(rows)
		for i := range rows {
			img := sheet.LaidOut(tab, []value.Value{value.OfText(fmt.Sprint("row ", i)), {}, value.OfInt(int64(i))}, sheet.Besides{})
			require.NoError(t, d.Apply(sheet.Change{Kind: sheet.Add, Tracker: 1, Tab: 11, Row: d.NewRow(), Image: img}))
		}
	})
	k.save(t, func(d *sheet.Draft) {
		require.NoError(t, d.Apply(sheet.Change{Kind: sheet.Move, Tracker: 1, Tab: 11, Row: 7, ToTab: 12}))
	})
	for _, close := range []bool{false, true} {
		if close {
			require.NoError(t, s.Close())
			var err error
			s, err = Open(t.Context(), dir, Options{})
			require.NoError(t, err)
			t.Cleanup(func() { _ = s.Close() })
		}
		loaded := whole(t, s)
		assert.Equal(t, dump(k.state), dump(loaded))
		for row, sets := range map[sheet.RowID]int{1: 1, 7: 2, rows / 2: 1, rows: 1, rows + 1: 0} {
			history, err := s.RowHistory(t.Context(), row, 10)
			require.NoError(t, err)
			assert.Len(t, history, sets, "row %s", row)
		}
	}
}

func TestADroppedTrackerIsGone(t *testing.T) {
	s, _ := open1(t)
	k := &keeper{store: s, state: sheet.Empty(), next: 1}
	k.begin(t)
	k.save(t, func(d *sheet.Draft) {
		require.NoError(t, d.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: 2, ShapeBefore: d.Tracker(2).Shape}))
	})
	loaded := whole(t, s)
	assert.Len(t, loaded.Trackers(), 1)
	assert.Equal(t, dump(k.state), dump(loaded))
}
