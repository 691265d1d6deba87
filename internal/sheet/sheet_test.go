package sheet_test

import (
	"fmt"
	"iter"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

const loans = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text, required: yes }, No: { type: number, unique: yes }, Due: { type: date } } }
  Crating:   { columns: { Object: { type: text }, Crate: { type: text }, No: { type: number } } }
  Returned:  { columns: { Object: { type: text } } }
`

func TestAMovedRowCarriesWhatItsTabLacks(t *testing.T) {
	k := testkit.New(t, loans)
	id := k.Add("Requested", "Object=Bell", "No=7", "Due=2026-04-01")
	note := sheet.Change{Kind: sheet.Note, Tracker: k.ID, Tab: k.Tab("Requested").ID, Row: id, Column: k.Column("Due").ID, After: value.OfText("ask first")}
	k.Must(func(d *sheet.Draft) error { return d.Apply(note) })
	move := func(from, to string) {
		k.Must(func(d *sheet.Draft) error {
			return d.Apply(sheet.Change{Kind: sheet.Move, Tracker: k.ID, Tab: k.Tab(from).ID, Row: id, ToTab: k.Tab(to).ID})
		})
	}
	move("Requested", "Returned")
	assert.Equal(t, "Returned:\n  Object=Bell | Due=2026-04-01, No=7\n", k.Dump())
	move("Returned", "Crating")
	assert.Equal(t, "Crating:\n  Object=Bell, No=7 | Due=2026-04-01\n", k.Dump())
	move("Crating", "Requested")
	assert.Equal(t, "Requested:\n  Object=Bell, No=7, Due=2026-04-01 (ask first)\n", k.Dump())
	assert.Equal(t, id, k.Row("Bell").ID)
}

func TestAChangeWhoseBeforeDoesNotHoldIsAConflict(t *testing.T) {
	k := testkit.New(t, loans)
	id := k.Add("Requested", "Object=Bell")
	before := k.Dump()
	tab, object := k.Tab("Requested").ID, k.Column("Object").ID
	for what, c := range map[string]sheet.Change{
		"another value":  {Kind: sheet.Set, Tracker: k.ID, Tab: tab, Row: id, Column: object, Before: value.OfText("Lamp"), After: value.OfText("Horn")},
		"another note":   {Kind: sheet.Note, Tracker: k.ID, Tab: tab, Row: id, Column: object, Before: value.OfText("x"), After: value.OfText("y")},
		"another tab":    {Kind: sheet.Set, Tracker: k.ID, Tab: k.Tab("Crating").ID, Row: id, Column: object, Before: value.OfText("Bell"), After: value.OfText("Horn")},
		"no such row":    {Kind: sheet.Remove, Tracker: k.ID, Tab: tab, Row: 99},
		"the same id":    {Kind: sheet.Add, Tracker: k.ID, Tab: tab, Row: id, Image: sheet.NewImage(nil, sheet.Besides{})},
		"a tab gone":     {Kind: sheet.Move, Tracker: k.ID, Tab: tab, Row: id, ToTab: 999},
		"a tracker gone": {Kind: sheet.Move, Tracker: k.ID, Tab: tab, Row: id, ToTracker: 999, ToTab: 1},
	} {
		_, err := k.Try(func(d *sheet.Draft) error { return d.Apply(c) })
		var conflict *sheet.Conflict
		require.ErrorAs(t, err, &conflict, what)
		assert.Equal(t, before, k.Dump(), what)
	}
}

func TestRowsAreHeldToTheirColumns(t *testing.T) {
	k := testkit.New(t, loans)
	k.Add("Requested", "Object=Bell", "No=7")
	id := k.Add("Requested", "Object=Lamp", "No=8")
	tab := k.Tab("Requested")
	for says, c := range map[string]sheet.Change{
		"is required":         {Kind: sheet.Set, Column: k.Column("Object").ID, Before: value.OfText("Lamp")},
		`"7" is already used`: {Kind: sheet.Set, Column: k.Column("No").ID, Before: value.OfInt(8), After: value.OfInt(7)},
	} {
		c.Tracker, c.Tab, c.Row = k.ID, tab.ID, id
		_, err := k.Try(func(d *sheet.Draft) error {
			if err := d.Apply(c); err != nil {
				return err
			}
			return sheet.CheckRows(d)
		})
		var refusal *sheet.Refusal
		require.ErrorAs(t, err, &refusal)
		assert.ErrorContains(t, err, says)
		assert.Equal(t, id, refusal.Row)
	}
}

func TestColumnsReadWhatFitsAndRefuseOrMarkTheRest(t *testing.T) {
	due := sheet.Column{Name: "Due", Type: value.Type{Kind: value.Date}, BadInput: sheet.Refuse}
	_, _, err := due.Read("TBC", &local.Form{})
	require.ErrorContains(t, err, "is not a date")
	due.BadInput = sheet.Mark
	v, _, err := due.Read("TBC", &local.Form{})
	require.NoError(t, err)
	assert.True(t, v.IsOdd())
	rating := sheet.Column{Name: "Fragility", Type: value.Type{Kind: value.Number}, Min: "0", Max: "5"}
	_, _, err = rating.Read("6", &local.Form{})
	require.ErrorContains(t, err, "at most 5")
	computed := sheet.Column{Name: "Days", Clause: "1"}
	_, _, err = computed.Read("3", &local.Form{})
	require.ErrorContains(t, err, "is computed")
	short := sheet.Column{Name: "Code", Type: value.Type{Kind: value.Text}, Longest: 3}
	_, _, err = short.Read("ÄÖÜ", &local.Form{})
	require.NoError(t, err)
	_, _, err = short.Read("ÄÖÜß", &local.Form{})
	require.ErrorContains(t, err, "at most 3 characters")
}

func TestNamesThatAreNotThereGetTheNearest(t *testing.T) {
	k := testkit.New(t, loans)
	k.Add("Requested", "Object=Signal lamp")
	k.Add("Requested", "Object=Bell")
	k.Add("Requested", "Object=Bell")
	tab := k.Tab("Requested")
	_, err := k.Tracker().Tab("Craeting")
	require.EqualError(t, err, `there is no tab "Craeting" in Loans: did you mean Crating?`)
	_, err = tab.Column("Objet")
	require.EqualError(t, err, `there is no column "Objet" in Requested: did you mean Object?`)
	_, err = k.Tracker().FindRow(tab, "signal lmp")
	require.ErrorContains(t, err, "did you mean Signal lamp?")
	_, err = k.Tracker().FindRow(tab, "bell")
	var several *sheet.Ambiguous
	require.ErrorAs(t, err, &several)
	assert.Len(t, several.Rows, 2)
	_, err = k.Tracker().FindRow(k.Tab("Crating"), "r1")
	require.ErrorContains(t, err, "it is in Requested")
}

// anyChange draws a change that holds now.
func anyChange(t *rapid.T, k *testkit.Kit, d *sheet.Draft) (sheet.Change, bool) {
	tr := d.Tracker(k.ID)
	var rows []*sheet.Row
	for i := range tr.Tabs {
		for r := range tr.Rows(tr.Tabs[i].ID) {
			rows = append(rows, r)
		}
	}
	tab := &tr.Tabs[rapid.IntRange(0, len(tr.Tabs)-1).Draw(t, "tab")]
	if len(rows) == 0 || rapid.IntRange(0, 5).Draw(t, "kind") == 0 {
		img := sheet.NewImage(map[sheet.ColumnID]value.Value{tab.Columns[0].ID: value.OfText(rapid.StringN(1, 3, -1).Draw(t, "label"))}, sheet.Besides{Origin: rapid.SampledFrom([]string{"", "here", "there"}).Draw(t, "origin")})
		return sheet.Change{Kind: sheet.Add, Tracker: k.ID, Tab: tab.ID, Row: d.NewRow(), Image: img}, true
	}
	r := rows[rapid.IntRange(0, len(rows)-1).Draw(t, "row")]
	own := tr.TabOf(r)
	c := sheet.Change{Tracker: k.ID, Tab: r.Tab, Row: r.ID}
	switch rapid.IntRange(0, 5).Draw(t, "what") {
	case 0:
		c.Kind = sheet.Remove
	case 1:
		c.Kind, c.ToTab = sheet.Move, tab.ID
	case 2:
		c.Kind, c.Column = sheet.Note, own.Columns[0].ID
		c.Before, c.After = value.OfText(r.Notes()[c.Column]), value.OfText(rapid.StringN(0, 3, -1).Draw(t, "note"))
	case 3:
		c.Kind, c.Column = sheet.Style, own.Columns[len(own.Columns)-1].ID
		c.Before, c.After = value.OfText(r.Styles()[c.Column]), value.OfText(rapid.SampledFrom([]string{"", "bold", "fill #F6E7CC"}).Draw(t, "look"))
	default:
		col := own.Columns[rapid.IntRange(0, len(own.Columns)-1).Draw(t, "column")]
		c.Kind, c.Column, c.Before = sheet.Set, col.ID, r.Get(own, col.ID)
		c.After, _ = value.Fit(value.OfText(rapid.SampledFrom([]string{"", "7", "2026-04-01", "TBC", "Bell"}).Draw(t, "value")), col.Type)
	}
	return c, true
}

// columnsHold says where a chunk's columns are not those of its rows.
func columnsHold(tr *sheet.Tracker) error {
	for i := range tr.Tabs {
		chunks := tr.Chunks(tr.Tabs[i].ID)
		for j := range chunks {
			for slot := range tr.Tabs[i].Columns {
				var fresh value.Vector
				fresh.Fill(len(chunks[j].Rows), func(at int) *value.Value { v := chunks[j].Rows[at].At(slot); return &v })
				if *chunks[j].Column(slot) != fresh {
					return fmt.Errorf("%s: column %s of chunk %d is not that of its rows", tr.Tabs[i].Name, tr.Tabs[i].Columns[slot].Name, j)
				}
			}
		}
	}
	return nil
}

// indexesHold says where an index does not find the rows that a scan finds.
func indexesHold(tr *sheet.Tracker) error {
	same := func(what string, scan map[sheet.RowID]bool, found iter.Seq[*sheet.Row]) error {
		n := 0
		for r := range found {
			n++
			if !scan[r.ID] {
				return fmt.Errorf("the index finds row %s for %s, wrongly", r.ID, what)
			}
		}
		if n != len(scan) {
			return fmt.Errorf("the index finds %d rows for %s, and there are %d", n, what, len(scan))
		}
		return nil
	}
	columns := map[sheet.ColumnID]bool{}
	var all []*sheet.Row
	for i := range tr.Tabs {
		for _, c := range tr.Tabs[i].Columns {
			columns[c.ID] = true
		}
		for r := range tr.Rows(tr.Tabs[i].ID) {
			all = append(all, r)
		}
	}
	for column := range columns {
		for _, r := range all {
			v := r.Get(tr.TabOf(r), column)
			scan := map[sheet.RowID]bool{}
			for _, other := range all {
				if w := other.Get(tr.TabOf(other), column); !v.IsBlank() && value.Fold(w.String()) == value.Fold(v.String()) {
					scan[other.ID] = true
				}
			}
			if err := same(column.String()+" "+v.String(), scan, tr.Holding(column, v)); err != nil {
				return err
			}
		}
		if err := same("what nobody holds", nil, tr.Holding(column, value.OfText("nobody holds this"))); err != nil {
			return err
		}
	}
	for _, r := range all {
		scan := map[sheet.RowID]bool{}
		for _, other := range all {
			if r.Origin() != "" && other.Origin() == r.Origin() {
				scan[other.ID] = true
			}
		}
		if err := same("the origin "+r.Origin(), scan, tr.From(r.Origin())); err != nil {
			return err
		}
	}
	for i := range tr.Tabs {
		for slot := range tr.Tabs[i].Columns {
			next := int64(1)
			for r := range tr.Rows(tr.Tabs[i].ID) {
				if n, ok := r.At(slot).Int(); ok {
					next = max(next, n+1)
				}
			}
			if got := tr.NextNumber(tr.Tabs[i].ID, slot); got != next {
				return fmt.Errorf("the next number of %s is %d and not %d", tr.Tabs[i].Columns[slot].Name, got, next)
			}
		}
	}
	return nil
}

// What is kept with a state beside its rows is what a look at all rows gives, whenever
// it was first asked for, in drafts and in states that others began from.
func TestIndexesFindWhatAScanFinds(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, loans)
		for range rapid.IntRange(1, 6).Draw(rt, "sets") {
			before := k.State
			k.Must(func(d *sheet.Draft) error {
				for range rapid.IntRange(1, 8).Draw(rt, "changes") {
					if c, ok := anyChange(rt, k, d); ok {
						if err := d.Apply(c); err != nil {
							return err
						}
					}
					if rapid.IntRange(0, 3).Draw(rt, "asked") == 0 {
						if err := indexesHold(d.Tracker(k.ID)); err != nil {
							return err
						}
					}
				}
				return nil
			})
			for _, w := range []*sheet.Workspace{before, k.State} {
				if tr := w.Tracker(k.ID); tr != nil && rapid.Bool().Draw(rt, "asked after") {
					if err := indexesHold(tr); err != nil {
						rt.Fatal(err)
					}
				}
			}
		}
	})
}

// The laws of the package: the inverse of a change set gives the tracker back
// exactly, and a row is in exactly one tab.
func TestRandomHistoriesCanBeTakenBack(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, loans)
		var states []string
		var sets [][]sheet.Change
		for range rapid.IntRange(1, 6).Draw(rt, "sets") {
			states = append(states, k.Dump())
			sets = append(sets, k.Must(func(d *sheet.Draft) error {
				for range rapid.IntRange(1, 8).Draw(rt, "changes") {
					if c, ok := anyChange(rt, k, d); ok {
						if err := d.Apply(c); err != nil {
							return fmt.Errorf("%+v: %w", c, err)
						}
						if err := columnsHold(d.Tracker(k.ID)); err != nil {
							return err
						}
					}
				}
				return nil
			}))
			seen := map[sheet.RowID]int{}
			tr := k.Tracker()
			if err := columnsHold(tr); err != nil {
				rt.Fatal(err)
			}
			for i := range tr.Tabs {
				n := 0
				for r := range tr.Rows(tr.Tabs[i].ID) {
					seen[r.ID]++
					n++
					if tr.Row(r.ID) != r || r.Tab != tr.Tabs[i].ID {
						rt.Fatalf("row %s stands in %s and is known otherwise", r.ID, tr.Tabs[i].Name)
					}
				}
				if n != tr.Count(tr.Tabs[i].ID) {
					rt.Fatalf("%s counts %d rows and holds %d", tr.Tabs[i].Name, tr.Count(tr.Tabs[i].ID), n)
				}
			}
			for id, n := range seen {
				if n != 1 {
					rt.Fatalf("row %s is there %d times", id, n)
				}
			}
		}
		held := k.State
		for i := len(sets) - 1; i >= 0; i-- {
			set := &sheet.ChangeSet{Changes: sets[i]}
			k.Must(func(d *sheet.Draft) error {
				for _, c := range set.Invert() {
					if err := d.Apply(c); err != nil {
						return err
					}
				}
				return nil
			})
			if got := k.Dump(); got != states[i] {
				rt.Fatalf("taking set %d back gave\n%s\ninstead of\n%s", i, got, states[i])
			}
		}
		if held == k.State {
			rt.Fatal("a state was altered")
		}
	})
}

// Order and positions hold over many rows, chunk after chunk.
func TestManyRowsKeepTheirOrder(t *testing.T) {
	k := testkit.New(t, loans)
	tab := k.Tab("Requested")
	const n = 5000
	k.Must(func(d *sheet.Draft) error {
		for i := range n {
			img := sheet.NewImage(map[sheet.ColumnID]value.Value{k.Column("No").ID: value.OfInt(int64(i))}, sheet.Besides{})
			if err := d.Apply(sheet.Change{Kind: sheet.Add, Tracker: k.ID, Tab: tab.ID, Row: d.NewRow(), Image: img}); err != nil {
				return err
			}
		}
		return nil
	})
	old := k.State
	k.Must(func(d *sheet.Draft) error {
		for id := sheet.RowID(2); id < n; id += 3 {
			if err := d.Apply(sheet.Change{Kind: sheet.Move, Tracker: k.ID, Tab: tab.ID, Row: id, ToTab: k.Tab("Crating").ID}); err != nil {
				return err
			}
		}
		return nil
	})
	assert.Equal(t, n, old.Tracker(k.ID).Count(tab.ID), "a held state changed")
	for _, name := range []string{"Requested", "Crating"} {
		last := int64(-1)
		for r := range k.Tracker().Rows(k.Tab(name).ID) {
			at, _ := r.Get(k.Tab(name), k.Column("No").ID).Int()
			require.Greater(t, at, last)
			last = at
		}
	}
	page := k.Tracker().Page(k.Tab("Crating").ID, 1000, 3)
	require.Len(t, page, 3)
	no, _ := page[0].Get(k.Tab("Crating"), k.Column("No").ID).Int()
	assert.Equal(t, int64(3001), no)
}

// An order is taken back as anything else is, whatever has been added since, but for where
// it has been changed again.
func TestAnOrderIsTakenBack(t *testing.T) {
	shape := func(tabs string, rules string) *sheet.Shape {
		s := &sheet.Shape{Name: "Loans"}
		for _, name := range strings.Fields(tabs) {
			s.Tabs = append(s.Tabs, sheet.TabShape{ID: sheet.TabID(name[0]), Name: name, Columns: []sheet.Column{{ID: sheet.ColumnID(name[0]), Name: "A" + name}}})
		}
		for _, name := range strings.Fields(rules) {
			s.Definitions = append(s.Definitions, sheet.Definition{ID: sheet.DefinitionID(name[0]), Kind: sheet.KindRule, Name: name})
		}
		return s
	}
	order := func(s *sheet.Shape) (out string) {
		for i := range s.Tabs {
			out += s.Tabs[i].Name
		}
		for i := range s.Definitions {
			out += s.Definitions[i].Name
		}
		return out
	}
	back, err := shape("c a n b", "z y n x").TakenBack(shape("a b c", "x y z"), shape("c a b", "z y x"))
	require.NoError(t, err)
	assert.Equal(t, "abncxynz", order(back))
	_, err = shape("c b a", "x").TakenBack(shape("a b c", "x"), shape("c a b", "x"))
	require.ErrorContains(t, err, "the order of tab c and others has been changed since")
	back, err = shape("c b", "x").TakenBack(shape("a b c", "x"), shape("c b", "x")) // a tab comes back, and the order with it
	require.NoError(t, err)
	assert.Equal(t, "abcx", order(back))
}
