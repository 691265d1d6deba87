package sheet_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

// anyBesides draws what an image holds besides its cells.
func anyBesides(t *rapid.T, columns []sheet.Column) sheet.Besides {
	texts := func(of ...string) map[sheet.ColumnID]string {
		out := map[sheet.ColumnID]string{}
		for i := range columns {
			if rapid.IntRange(0, 2).Draw(t, "some") == 0 {
				out[columns[i].ID] = rapid.SampledFrom(of).Draw(t, "text")
			}
		}
		return out
	}
	return sheet.Besides{Notes: texts("ask first", "cracked"), Styles: texts("bold", "fill #F6E7CC"), Origin: rapid.SampledFrom([]string{"", "import x #1"}).Draw(t, "origin")}
}

func say(img *sheet.Image) string {
	cells := map[sheet.ColumnID]string{}
	for id, v := range img.Cells() {
		cells[id] = v.Kind().String() + " " + v.String()
		if img.Get(id) != v {
			return fmt.Sprintf("%s is %q when asked for and %q in turn", id, img.Get(id), v)
		}
	}
	return fmt.Sprint(img.Pos(), cells, img.Notes(), img.Styles(), img.Origin())
}

// A row made of cells in a tab's order is the one made of the same cells by
// column, whichever tab it is added to; and the change that added it says what
// the row holds, for good.
func TestImagesOfEitherMakeAreTheSameRow(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, loans)
		from := k.Tab(rapid.SampledFrom([]string{"Requested", "Crating", "Returned"}).Draw(rt, "laid out for"))
		to := k.Tab(rapid.SampledFrom([]string{"Requested", "Crating", "Returned"}).Draw(rt, "added to"))
		laid, keyed := make([]value.Value, len(from.Columns)), map[sheet.ColumnID]value.Value{}
		for i := range laid {
			if rapid.Bool().Draw(rt, "filled") {
				laid[i], _ = value.Fit(value.OfText(rapid.SampledFrom([]string{"Bell", "7", "2026-04-01", "TBC"}).Draw(rt, "cell")), from.Columns[i].Type)
				keyed[from.Columns[i].ID] = laid[i]
			}
		}
		besides := anyBesides(rt, from.Columns)
		one := sheet.LaidOut(from, laid, besides)
		two := sheet.NewImage(maps.Clone(keyed), sheet.Besides{Notes: maps.Clone(besides.Notes), Styles: maps.Clone(besides.Styles), Origin: besides.Origin})
		require.Equal(rt, say(two), say(one))
		add := func(img *sheet.Image) (string, *sheet.Image) {
			changes := k.Must(func(d *sheet.Draft) error {
				return d.Apply(sheet.Change{Kind: sheet.Add, Tracker: k.ID, Tab: to.ID, Row: d.NewRow(), Image: img})
			})
			was := say(changes[0].Image)
			k.Must(func(d *sheet.Draft) error { // what happens to the row later is not in it
				r := d.Tracker(k.ID).Row(changes[0].Row)
				return d.Apply(sheet.Change{Kind: sheet.Set, Tracker: k.ID, Tab: to.ID, Row: r.ID, Column: to.Columns[0].ID, Before: r.At(0), After: value.OfText("another")})
			})
			require.Equal(rt, was, say(changes[0].Image))
			dump := k.Dump()
			k.Must(func(d *sheet.Draft) error {
				return d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: k.ID, Tab: to.ID, Row: changes[0].Row})
			})
			return dump, changes[0].Image.At(0)
		}
		dumpOne, imgOne := add(one)
		dumpTwo, imgTwo := add(two)
		require.Equal(rt, dumpTwo, dumpOne)
		require.Equal(rt, say(imgTwo), say(imgOne))
	})
}

// Columns that go leave what rows hold for them with the rows; columns that come
// back find it.
func TestRowsKeepWhatDroppedColumnsHeld(t *testing.T) {
	k := testkit.New(t, loans)
	k.Add("Requested", "Object=Bell", "No=7", "Due=2026-04-01")
	whole := k.Dump()
	full := k.Tracker().Shape
	fewer := full.Clone()
	fewer.Tabs[0].Columns = slices.DeleteFunc(fewer.Tabs[0].Columns, func(c sheet.Column) bool { return c.Name == "No" })
	reshape := func(from, to *sheet.Shape) error {
		_, err := k.Try(func(d *sheet.Draft) error {
			return d.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: k.ID, ShapeBefore: from, ShapeAfter: to})
		})
		return err
	}
	require.NoError(t, reshape(full, fewer))
	assert.Equal(t, "Requested:\n  Object=Bell, Due=2026-04-01 | No=7\n", k.Dump())
	var conflict *sheet.Conflict
	require.ErrorAs(t, reshape(full, fewer), &conflict, "the setup is another by now")
	require.NoError(t, reshape(fewer, full))
	assert.Equal(t, whole, k.Dump())

	without := full.Clone()
	without.Tabs = without.Tabs[1:]
	require.ErrorContains(t, reshape(full, without), "tab Requested still holds 1 rows: move or remove them first")
	require.ErrorContains(t, reshape(full, nil), "still holds rows")
	assert.Equal(t, whole, k.Dump())
}

func TestChangesAreSaidInWords(t *testing.T) {
	k := testkit.New(t, loans)
	id := k.Add("Requested", "Object=Bell", "No=7")
	tab, object, no := k.Tab("Requested").ID, k.Column("Object").ID, k.Column("No").ID
	for _, tc := range []struct {
		c    sheet.Change
		want string
	}{
		{sheet.Change{Kind: sheet.Add}, `added "Bell" to Requested`},
		{sheet.Change{Kind: sheet.Remove}, `removed "Bell" from Requested`},
		{sheet.Change{Kind: sheet.Set, Column: no, Before: value.OfInt(6), After: value.OfInt(7)}, `set No of "Bell" from "6" to "7"`},
		{sheet.Change{Kind: sheet.Set, Column: no, After: value.OfInt(7)}, `set No of "Bell" from blank to "7"`},
		{sheet.Change{Kind: sheet.Move, ToTracker: k.ID, ToTab: k.Tab("Crating").ID}, `moved "Bell" from Requested to Crating`},
		{sheet.Change{Kind: sheet.Note, Column: object, After: value.OfText("x")}, `put a note on Object of "Bell"`},
		{sheet.Change{Kind: sheet.Note, Column: object, Before: value.OfText("x")}, `took the note off Object of "Bell"`},
		{sheet.Change{Kind: sheet.Style, Column: object, After: value.OfText("fill #F6E7CC, bold")}, `set off Object of "Bell": fill amber, bold`},
		{sheet.Change{Kind: sheet.Style, Column: object, Before: value.OfText("bold")}, `made Object of "Bell" plain again`},
		{sheet.Change{Kind: sheet.Reshape, ShapeAfter: &sheet.Shape{Name: "New"}}, "made the tracker New"},
		{sheet.Change{Kind: sheet.Reshape, ShapeBefore: &sheet.Shape{Name: "Old"}}, "dropped the tracker Old"},
	} {
		tc.c.Tracker, tc.c.Tab, tc.c.Row = k.ID, tab, id
		assert.Equal(t, tc.want, k.State.Describe(tc.c))
	}
	bold := func(column sheet.ColumnID, look string) sheet.Change {
		return sheet.Change{Kind: sheet.Style, Tracker: k.ID, Tab: tab, Row: id, Column: column, After: value.OfText(look)}
	}
	assert.Equal(t, []string{`set off 2 cells of "Bell": bold`, `set off No of "Bell": struck`},
		k.State.DescribeAll([]sheet.Change{bold(object, "bold"), bold(no, "bold"), bold(no, "struck")}))
	gone := sheet.Change{Kind: sheet.Remove, Tracker: k.ID, Tab: tab, Row: 99}
	assert.Equal(t, "removed r99 from Requested", k.State.Describe(gone))
}

func TestIdsAreReadAsTheyAreWritten(t *testing.T) {
	for _, n := range []int64{1, 42, 1 << 40} {
		tracker, ok := sheet.ParseTrackerID(sheet.TrackerID(n).String())
		assert.True(t, ok)
		assert.Equal(t, sheet.TrackerID(n), tracker)
		tab, ok := sheet.ParseTabID(sheet.TabID(n).String())
		assert.True(t, ok)
		assert.Equal(t, sheet.TabID(n), tab)
		column, ok := sheet.ParseColumnID(sheet.ColumnID(n).String())
		assert.True(t, ok)
		assert.Equal(t, sheet.ColumnID(n), column)
		row, ok := sheet.ParseRowID(sheet.RowID(n).String())
		assert.True(t, ok)
		assert.Equal(t, sheet.RowID(n), row)
		part, ok := sheet.ParseDefinitionID(sheet.DefinitionID(n).String())
		assert.True(t, ok)
		assert.Equal(t, sheet.DefinitionID(n), part)
	}
	for _, s := range []string{"", "r", "r-1", "r+1", "r0", "r1x", "t1", "1", "r99999999999999999999"} {
		_, ok := sheet.ParseRowID(s)
		assert.False(t, ok, s)
	}
}

func TestTrackersAreFoundByNameOrId(t *testing.T) {
	k := testkit.New(t, loans)
	for _, name := range []string{"Loans", " loans", k.ID.String()} {
		tr, err := k.State.Find(name)
		require.NoError(t, err, name)
		assert.Equal(t, k.ID, tr.ID)
	}
	_, err := k.State.Find("Laons")
	require.EqualError(t, err, `there is no tracker "Laons": did you mean Loans?`)
	require.Len(t, k.State.Trackers(), 1)
	first := k.Tracker().NextPos(k.Tab("Returned").ID)
	k.Add("Returned", "Object=Bell")
	assert.Equal(t, first, k.Row("Bell").Pos, "it is appended there")
	assert.Greater(t, k.Tracker().NextPos(k.Tab("Returned").ID), first)
}

func TestALoaderRefusesWhatCannotBe(t *testing.T) {
	k := testkit.New(t, loans)
	tab := k.Tab("Requested")
	row := func() *sheet.Image {
		return sheet.NewImage(map[sheet.ColumnID]value.Value{tab.Columns[0].ID: value.OfText("Bell")}, sheet.Besides{}).At(65536)
	}
	l := sheet.NewLoader()
	l.Tracker(k.ID, 3, k.Tracker().Shape)
	require.NoError(t, l.Row(k.ID, tab.ID, 5, 7, row()))
	require.ErrorContains(t, l.Row(999, tab.ID, 6, 7, row()), "its tracker t999 is not there")
	require.ErrorContains(t, l.Row(k.ID, 999, 6, 7, row()), "its tab b999 is not there")
	require.ErrorContains(t, l.Row(k.ID, tab.ID, 6, 7, row()), "its place 65536 in tab Requested is taken")
	require.ErrorContains(t, l.Row(k.ID, tab.ID, 5, 7, row().At(1)), "is taken")
	w := l.Done()
	assert.Equal(t, "Bell", w.Tracker(k.ID).Row(5).At(0).String())
	assert.Equal(t, int64(7), w.Tracker(k.ID).Version)
	assert.Equal(t, 1, w.Tracker(k.ID).Count(tab.ID))
}

func TestShapesThatCannotBeAreRefused(t *testing.T) {
	text, number := value.Type{Kind: value.Text}, value.Type{Kind: value.Number}
	shape := func(change func(*sheet.Shape)) *sheet.Shape {
		s := &sheet.Shape{Name: "T", Zone: "UTC", Tabs: []sheet.TabShape{{ID: 1, Name: "A", Columns: []sheet.Column{{ID: 3, Name: "X", Type: text}}}, {ID: 2, Name: "B", Columns: []sheet.Column{{ID: 3, Name: "X", Type: text}}}},
			Definitions: []sheet.Definition{{ID: 9, Kind: sheet.KindRule, Name: "R"}}}
		change(s)
		return s
	}
	require.NoError(t, shape(func(*sheet.Shape) {}).Check())
	wide := make([]sheet.Column, sheet.MaxColumns)
	for i := range wide {
		wide[i] = sheet.Column{ID: sheet.ColumnID(i + 10), Name: fmt.Sprint("C", i), Type: text}
	}
	require.NoError(t, shape(func(s *sheet.Shape) { s.Tabs[0].Columns = wide }).Check(), "as many as may be")
	for says, change := range map[string]func(*sheet.Shape){
		"a tracker needs a name":               func(s *sheet.Shape) { s.Name = " " },
		`there is no time zone "Lisbon"`:       func(s *sheet.Shape) { s.Zone = "Lisbon" },
		`there is no time zone ""`:             func(s *sheet.Shape) { s.Zone = "" },
		`tab name " a" is blank or used twice`: func(s *sheet.Shape) { s.Tabs[1].Name = " a" },
		`column name "x " is blank or used twice`: func(s *sheet.Shape) {
			s.Tabs[0].Columns = append(s.Tabs[0].Columns, sheet.Column{ID: 4, Name: "x ", Type: text})
		},
		"holds a bracket or a line break":    func(s *sheet.Shape) { s.Tabs[0].Columns[0].Name = "a [b]" },
		"is text in one tab and number in B": func(s *sheet.Shape) { s.Tabs[1].Columns[0].Type = number },
		"has 1001 columns: 1000 is the most": func(s *sheet.Shape) {
			s.Tabs[0].Columns = append(wide, sheet.Column{ID: 5, Name: "one more", Type: text})
		},
		`rule name "r" is blank or used twice`: func(s *sheet.Shape) {
			s.Definitions = append(s.Definitions, sheet.Definition{ID: 8, Kind: sheet.KindRule, Name: "r"})
		},
	} {
		require.ErrorContains(t, shape(change).Check(), says)
	}
	one := shape(func(*sheet.Shape) {})
	other := one.Clone()
	other.Tabs[0].Columns[0].Name, other.Definitions[0].Name = "Y", "S"
	assert.Equal(t, "X", one.Tabs[0].Columns[0].Name, "a clone is its own")
	assert.Equal(t, "R", one.Definitions[0].Name)
}
