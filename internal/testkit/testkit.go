// Package testkit makes small trackers for the tests of the core: a setup in
// YAML, rows as "Column=value" lines, and the tracker written out again as
// text, so that a test shows before and after at a glance.
package testkit

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Now is the moment at which tests happen: Wednesday 25 March 2026, 09:00 in Lisbon.
var Now = time.Date(2026, time.March, 25, 9, 0, 0, 0, time.UTC)

// Kit is a workspace with one tracker.
type Kit struct {
	T     testing.TB
	State *sheet.Workspace
	ID    sheet.TrackerID
	Seq   int64
	next  sheet.RowID
	ids   int64
}

// New makes a tracker as a setup has it.
func New(t testing.TB, text string) *Kit {
	t.Helper()
	k := &Kit{T: t, State: sheet.Empty(), Seq: 1, next: 1, ids: 1}
	k.ID = k.AddTracker(text)
	return k
}

// AddTracker makes one more tracker and gives its id.
func (k *Kit) AddTracker(text string) sheet.TrackerID {
	k.T.Helper()
	shape, err := kinds.Setup.Parse([]byte(text), nil, k.NewID)
	require.NoError(k.T, err)
	id := sheet.TrackerID(k.NewID())
	k.Must(func(d *sheet.Draft) error {
		return d.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: id, ShapeAfter: shape})
	})
	return id
}

// NewID gives an id that nothing has had.
func (k *Kit) NewID() int64 { k.ids++; return k.ids }

// Tracker gives the tracker as it is now.
func (k *Kit) Tracker() *sheet.Tracker { return k.State.Tracker(k.ID) }

// Tab finds a tab that is there.
func (k *Kit) Tab(name string) *sheet.TabShape {
	k.T.Helper()
	tab, err := k.Tracker().Tab(name)
	require.NoError(k.T, err)
	return tab
}

// Column finds a column that is there, in any tab.
func (k *Kit) Column(name string) *sheet.Column {
	k.T.Helper()
	for i := range k.Tracker().Tabs {
		if c, err := k.Tracker().Tabs[i].Column(name); err == nil {
			return c
		}
	}
	require.Fail(k.T, "no column "+name)
	return nil
}

// Row finds a row by label, in whatever tab.
func (k *Kit) Row(label string) *sheet.Row {
	k.T.Helper()
	t := k.Tracker()
	for i := range t.Tabs {
		for r := range t.Rows(t.Tabs[i].ID) {
			if t.Label(r) == label || r.ID.String() == label {
				return r
			}
		}
	}
	require.Fail(k.T, "no row "+label)
	return nil
}

// Try works on a draft and keeps it where f gives no error. It gives the
// changes that were made.
func (k *Kit) Try(f func(*sheet.Draft) error) ([]sheet.Change, error) {
	d := k.State.Edit(k.Seq, k.next)
	if err := f(d); err != nil {
		return nil, err
	}
	changes := d.Changes()
	k.next = d.NextRow()
	k.State = d.Done()
	k.Seq++
	return changes, nil
}

// Must is Try for what cannot fail.
func (k *Kit) Must(f func(*sheet.Draft) error) []sheet.Change {
	k.T.Helper()
	changes, err := k.Try(f)
	require.NoError(k.T, err)
	return changes
}

// Cells reads "Column=value" as an edit does.
func (k *Kit) Cells(tab *sheet.TabShape, given ...string) map[sheet.ColumnID]value.Value {
	k.T.Helper()
	cells := map[sheet.ColumnID]value.Value{}
	for _, g := range given {
		name, text, _ := strings.Cut(g, "=")
		c, err := tab.Column(name)
		require.NoError(k.T, err)
		v, err := value.Parse(text, c.Type)
		if err != nil {
			v = value.OfOdd(text)
		}
		if !v.IsBlank() {
			cells[c.ID] = v
		}
	}
	return cells
}

// Add adds a row and gives its id.
func (k *Kit) Add(tab string, given ...string) sheet.RowID {
	k.T.Helper()
	s := k.Tab(tab)
	changes := k.Must(func(d *sheet.Draft) error {
		return d.Apply(sheet.Change{Kind: sheet.Add, Tracker: k.ID, Tab: s.ID, Row: d.NewRow(), Image: sheet.NewImage(k.Cells(s, given...), sheet.Besides{})})
	})
	return changes[0].Row
}

// Program compiles a shape.
func Program(s *sheet.Shape) (*program.Program, error) { return program.Compile(s, kinds.All) }

// Rules compiles a shape's rules, all of which must be right.
func Rules(s *sheet.Shape) ([]*rule.Compiled, error) {
	p, err := Program(s)
	if err != nil {
		return nil, err
	}
	return rule.Of(p), program.Check(s, kinds.All)
}

// Edit sets cells of a row and lets the rules follow.
func (k *Kit) Edit(label string, given ...string) (*rule.Outcome, []sheet.Change, error) {
	k.T.Helper()
	row := k.Row(label)
	tab := k.Tracker().TabOf(row)
	var out *rule.Outcome
	changes, err := k.Try(func(d *sheet.Draft) error {
		for _, g := range given {
			name, _, _ := strings.Cut(g, "=")
			c, err := tab.Column(name)
			require.NoError(k.T, err)
			after := k.Cells(tab, g)[c.ID]
			before := d.Tracker(k.ID).Row(row.ID).Get(tab, c.ID)
			if err := d.Apply(sheet.Change{Kind: sheet.Set, Tracker: k.ID, Tab: tab.ID, Row: row.ID, Column: c.ID, Before: before, After: after}); err != nil {
				return err
			}
		}
		var err error
		out, err = rule.Follow(d, []sheet.Cause{{Kind: sheet.ByEdit, Woke: -1}}, rule.Setting{Program: Program, Now: Now, Limits: rule.DefaultLimits, NewID: k.NewID})
		return err
	})
	return out, changes, err
}

// Dump writes the tracker out: a line a tab, a line a row with its filled cells
// in the order of its tab, carried cells behind a bar, notes in parentheses.
func (k *Kit) Dump() string {
	var b strings.Builder
	t := k.Tracker()
	for i := range t.Tabs {
		tab := &t.Tabs[i]
		if t.Count(tab.ID) == 0 {
			continue
		}
		fmt.Fprintf(&b, "%s:\n", tab.Name)
		for r := range t.Rows(tab.ID) {
			b.WriteString("  " + k.line(tab, r) + "\n")
		}
	}
	return b.String()
}

func (k *Kit) line(tab *sheet.TabShape, r *sheet.Row) string {
	var parts []string
	for i := range tab.Columns {
		c := &tab.Columns[i]
		v := r.At(i)
		if v.Kind() == value.Blank {
			continue
		}
		text := c.Name + "=" + v.String()
		if v.IsOdd() {
			text += "?"
		}
		if note := r.Notes()[c.ID]; note != "" {
			text += " (" + note + ")"
		}
		if look := r.Styles()[c.ID]; look != "" {
			text += " <" + look + ">"
		}
		parts = append(parts, text)
	}
	line := strings.Join(parts, ", ")
	var carried []string
	for id, v := range r.Carried() {
		carried = append(carried, k.Tracker().ColumnByID(id).Name+"="+v.String())
	}
	if slices.Sort(carried); len(carried) > 0 {
		line += " | " + strings.Join(carried, ", ")
	}
	return line
}

// Records gives all rows of a table that was read.
func Records(s *reading.Sheet, t *reading.Table) []reading.Record {
	var out []reading.Record
	for r := range s.Records(t) {
		out = append(out, reading.Record{Row: r.Row, Cells: slices.Clone(r.Cells), Notes: slices.Clone(r.Notes), Styles: slices.Clone(r.Styles)})
	}
	return out
}

// By is a keeper of that name.
func By(name string) policy.Principal {
	return policy.Principal{Kind: policy.Person, Name: name, Access: policy.Keeper}
}

// Unaccounted gives the cells of a sheet that hold something and are neither in a table
// nor named as left out.
func Unaccounted(s *reading.Sheet) []string {
	in := map[[2]int]bool{}
	cover := func(r reading.Range) {
		for row := r.Top; row <= r.Bottom; row++ {
			for col := r.Left; col <= r.Right; col++ {
				in[[2]int{row, col}] = true
			}
		}
	}
	for i := range s.Tables {
		t := &s.Tables[i]
		cover(reading.Range{Top: t.Range.Top, Left: t.Range.Left, Bottom: t.Range.Top + t.HeaderRows - 1, Right: t.Range.Right})
		for _, r := range Records(s, t) {
			cover(reading.Range{Top: r.Row, Left: t.Range.Left, Bottom: r.Row, Right: t.Range.Right})
		}
		for _, l := range t.LeftOut {
			cover(l.Range)
		}
	}
	for _, l := range s.LeftOut {
		cover(l.Range)
	}
	var out []string
	for row := range s.Grid().Height() {
		for col := range s.Grid().Width(row) {
			if !s.Grid().At(row, col).Value.IsBlank() && !in[[2]int{row, col}] {
				out = append(out, reading.CellName(row, col))
			}
		}
	}
	return out
}
