package tally

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

var kinds = program.Kinds{{Name: sheet.KindTally, Plural: "tallies", New: func() program.Definition { return &Tally{} }}}

const loans = `
tracker: T
zone: UTC
tabs:
  Loans: { columns: { Hall: { type: text }, Who: { type: text }, Value: { type: number, format: EUR }, Due: { type: date }, Twice: { type: computed, clause: Value * 2 } } }
  Done:  { columns: { Hall: { type: text }, Value: { type: number, format: EUR } } }
tallies:
  - { name: By hall, of: Loans, by: Hall, figures: { Rows: count, Who: count distinct Who, Worth: sum Value, Mean: average Value, Middle: median Value, Least: smallest Value, Last: largest Due, Share: share Value, Part: share }, show: Worth, limit: 3 }
  - { name: By month, of: Loans, where: Value > 0, by: [ { Month: month of Due }, Hall ], figures: { Rows: count }, draw: stacked bar }
  - { name: By week, of: Loans, by: week of Due, figures: { Rows: count }, draw: line }
  - { name: By quarter, of: Loans, by: quarter of Due, figures: { Rows: count } }
  - { name: By day, of: Loans, where: Due is not blank, by: Due, figures: { Rows: count } }
  - { name: By year, of: Loans, by: year of Due, figures: { Rows: count } }
  - { name: All, of: [Loans, Done], figures: { Rows: count, Worth: sum Value }, draw: number, compare: 7 days, today: yes }
  - { name: Late, of: Loans, where: Due before today, by: upper(Hall), figures: { Doubled: sum Twice } }
`

var format = setup.With(kinds)

type bench struct {
	t     require.TestingT
	state *sheet.Workspace
	seq   int64
	next  sheet.RowID
}

func newBench(t require.TestingT) *bench {
	n := int64(0)
	shape, err := format.Parse([]byte(loans), nil, func() int64 { n++; return n })
	require.NoError(t, err)
	b := &bench{t: t, state: sheet.Empty(), seq: 1, next: 1}
	b.do(func(d *sheet.Draft) error {
		return d.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: 1, ShapeAfter: shape})
	})
	return b
}

func (b *bench) do(f func(*sheet.Draft) error) {
	d := b.state.Edit(b.seq, b.next)
	require.NoError(b.t, f(d))
	b.seq++
	b.next = d.NextRow()
	b.state = d.Done()
}

func (b *bench) tracker() *sheet.Tracker { return b.state.Tracker(1) }

func (b *bench) add(tab string, texts ...any) {
	shape, err := b.tracker().Tab(tab)
	require.NoError(b.t, err)
	given := map[sheet.ColumnID]any{}
	for i, v := range texts {
		given[shape.Columns[i].ID] = v
	}
	b.do(func(d *sheet.Draft) error {
		_, err := d.AddRow(sheet.Place{Tracker: 1, Tab: shape.ID}, given, 0)
		return err
	})
}

var now = time.Date(2026, time.March, 25, 9, 0, 0, 0, time.UTC)

func compiled(t require.TestingT, shape *sheet.Shape, name string) *Compiled {
	p, err := program.Compile(shape, kinds)
	require.NoError(t, err)
	def, err := shape.Definition(sheet.KindTally, name)
	require.NoError(t, err)
	c, err := program.Ready[*Compiled](p, def.ID)
	require.NoError(t, err)
	return c
}

// say writes an answer in a line for each group.
func say(a *Answer) string {
	var out []string
	group := func(g *Group) {
		var values []string
		for i, v := range g.Values {
			values = append(values, v.String()+g.Why[i])
		}
		line := strings.Join(g.Labels, "/") + ": " + strings.Join(values, " ")
		if g.Before != nil {
			line += fmt.Sprintf(" was %s", g.Before[0])
		}
		out = append(out, line)
	}
	for i := range a.Groups {
		group(&a.Groups[i])
	}
	if a.Others != nil {
		group(a.Others)
	}
	return strings.Join(out, "\n")
}

func (b *bench) work(name string) *Answer {
	a, err := compiled(b.t, b.tracker().Shape, name).Work(b.tracker(), nil, now, nil)
	require.NoError(b.t, err)
	return a
}

func TestRowsAreGroupedWithTheirFigures(t *testing.T) {
	b := newBench(t)
	assert.Empty(t, b.work("By hall").Groups)
	assert.Empty(t, b.work("All").Groups)
	b.add("Loans", "Pier", "Ann", 1, "2026-01-31")
	b.add("Loans", "pier ", "Ben", 3, "2026-03-02")
	b.add("Loans", "Mill", "ann", "2.5", "2026-03-09")
	b.add("Loans", nil, "Cid", nil, nil)
	b.add("Loans", "Quay", "Cid", "TBC", "2026-03-10")
	b.add("Loans", "Annex", "Cid", 0, "2026-03-10")
	a := b.work("By hall")
	assert.Equal(t, "Annex: 1 1 0 0 0 0 2026-03-10 0 0.2\nMill: 1 1 2.5 2.5 2.5 2.5 2026-03-09 0.3846 0.2\nPier: 2 2 4 2 2 1 2026-03-02 0.6154 0.4\n1 other: 1 1 0     0 0.2", say(a), "an odd value leaves its row out")
	assert.Equal(t, 1, a.Odd)
	assert.Equal(t, "Value is not a number", a.Passed[0].Why)

	months := say(b.work("By month"))
	for _, line := range []string{"2026-01/Pier: 1", "2026-01/Mill: 0", "2026-02/Mill: 0", "2026-03/Pier: 1"} {
		assert.Contains(t, months, line, "months between are there")
	}
	assert.Contains(t, say(b.work("By week")), "2026 W05: 1\n2026 W06: 0")
	assert.Contains(t, say(b.work("By quarter")), "2026 Q1: 5")
	assert.Contains(t, say(b.work("By year")), "2026: 5\n(blank): 1")
	german := b.tracker().Clone()
	german.Dates = "31.03.2026"
	days, err := compiled(t, german, "By day").Work(b.tracker(), nil, now, nil)
	require.NoError(t, err)
	assert.Contains(t, say(days), "31.01.2026: 1", "as the tracker writes dates")
	b.add("Done", "Pier", 6)
	assert.Equal(t, ": 6 12.5", say(b.work("All")))
	assert.Contains(t, say(b.work("Late")), "PIER: 8")
}

// Of very many groups the largest are shown, and the others together.
func TestTheLargestGroupsAreShown(t *testing.T) {
	for _, n := range []int{10, 10_000} {
		b := newBench(t)
		for i := range n {
			b.add("Loans", fmt.Sprintf("Hall %d", i), "Ann", i, "2026-03-01")
		}
		a := b.work("By hall")
		require.Len(t, a.Groups, 3)
		assert.Equal(t, fmt.Sprintf("Hall %d", n-3), a.Groups[0].Labels[0])
		assert.Equal(t, n-3, a.Hidden)
		assert.Equal(t, fmt.Sprintf("%d others", n-3), a.Others.Labels[0])
		assert.Equal(t, fmt.Sprint((n-3)*(n-4)/2), a.Others.Values[2].String())
		assert.Equal(t, fmt.Sprint(n*(n-1)/2), a.Total.Values[2].String())
	}
}

// What has vanished since an earlier day is zero; another setup of that day does not matter.
func TestATallyIsComparedWithAnEarlierDay(t *testing.T) {
	b := newBench(t)
	b.add("Loans", "Pier", "Ann", 5, "2026-03-01")
	b.add("Loans", "Mill", "Ann", 7, "2026-03-01")
	before := b.tracker()
	b.do(func(d *sheet.Draft) error {
		r := d.Tracker(1).Page(d.Tracker(1).Tabs[0].ID, 0, 1)[0]
		return d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: 1, Tab: r.Tab, Row: r.ID})
	})
	c := compiled(t, b.tracker().Shape, "By hall")
	a, err := c.Work(b.tracker(), &Then{before, compiled(t, before.Shape, "By hall")}, now, nil)
	require.NoError(t, err)
	assert.Contains(t, say(a), "Mill: 1 1 7 7 7 7 2026-03-01 1 1 was 1\nPier: 0 0 0")
	assert.Equal(t, "5", a.Groups[1].Before[2].String())
	end, ok := compiled(t, b.tracker().Shape, "All").ComparedWith(now)
	assert.True(t, ok)
	assert.Equal(t, "2026-03-18 23:59:59", end.Format(time.DateTime))
}

// What is kept with the rows equals working it all out anew, after any history.
func TestRandomHistoriesKeepTalliesRight(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		b := newBench(rt)
		names := []string{"By hall", "By month", "By week", "All", "Late"}
		ready := map[string]*Compiled{}
		for _, name := range names {
			ready[name] = compiled(rt, b.tracker().Shape, name)
		}
		hall := rapid.SampledFrom([]any{"Pier", "pier", "Mill", nil})
		amount := rapid.SampledFrom([]any{1, 2.5, "TBC", nil, 0})
		due := rapid.SampledFrom([]any{"2026-03-24", "2026-03-25", "2025-12-31", "soon", nil})
		for range rapid.IntRange(1, 200).Draw(rt, "rows") {
			b.add("Loans", hall.Draw(rt, "hall"), "Ann", amount.Draw(rt, "value"), due.Draw(rt, "due"))
		}
		for range rapid.IntRange(1, 6).Draw(rt, "steps") {
			loans := b.tracker().Tabs[0].ID
			n := b.tracker().Count(loans)
			if n == 0 {
				break
			}
			r := b.tracker().Page(loans, rapid.IntRange(0, n-1).Draw(rt, "nth"), 1)[0]
			b.do(func(d *sheet.Draft) error {
				switch rapid.IntRange(0, 2).Draw(rt, "what") {
				case 0:
					return d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: 1, Tab: loans, Row: r.ID})
				case 1:
					return d.Apply(sheet.Change{Kind: sheet.Move, Tracker: 1, Tab: loans, Row: r.ID, ToTab: b.tracker().Tabs[1].ID})
				}
				return d.Set(sheet.Cell{Tracker: 1, Row: r.ID, Column: b.tracker().Tabs[0].Columns[2].ID}, amount.Draw(rt, "value"), 0)
			})
			for _, name := range names {
				kept, err := ready[name].Work(b.tracker(), nil, now, nil)
				require.NoError(rt, err)
				fresh := compiled(rt, b.tracker().Shape, name)
				fresh.kept = false
				anew, err := fresh.Work(b.tracker(), nil, now, nil)
				require.NoError(rt, err)
				require.Equal(rt, say(anew), say(kept), name)
				require.Equal(rt, anew.Odd, kept.Odd)
				require.Equal(rt, anew.Passed, kept.Passed)
			}
		}
	})
}

func TestMistakesOfATallyAreNamed(t *testing.T) {
	for text, says := range map[string]string{
		"{ name: A, of: Loens, figures: { N: count } }":                              `there is no tab "Loens"`,
		"{ name: A, of: Loans }":                                                     "say which figures each group has",
		"{ name: A, figures: { N: count } }":                                         "say which tab's rows are counted",
		"{ name: A, of: Loans, figures: { N: count Value } }":                        "count counts rows; to count values, write count distinct Value",
		"{ name: A, of: Loans, figures: { N: sum } }":                                "say of what: sum COLUMN",
		"{ name: A, of: Loans, figures: { N: total Value } }":                        "is no figure",
		"{ name: A, of: Loans, figures: { N: sum Hall } }":                           "a sum is one of numbers",
		"{ name: A, of: Loans, figures: { N: sum Valu } }":                           `there is no column "Valu"`,
		"{ name: A, of: Loans, by: month of Hall, figures: { N: count } }":           "a month is one of a date",
		"{ name: A, of: Loans, by: [Hall, Who, Due], figures: { N: count } }":        "one or two things",
		"{ name: A, of: Loans, by: Hall, figures: { N: count }, draw: stacked bar }": "wants two things to group by",
		"{ name: A, of: Loans, by: Hall, figures: { N: count }, draw: pie }":         `"pie" is not known here`,
		"{ name: A, of: Loans, by: Hall, figures: { N: count }, show: M }":           `there is no figure "M"`,
		"{ name: A, of: Loans, by: Hall, figures: { N: count }, compare: then }":     "is no earlier day",
		"{ name: A, of: Loans, by: Hall, figures: { N: count }, limit: 5000 }":       "at most 1000 groups",
	} {
		n := int64(0)
		_, err := format.Parse([]byte(strings.Split(loans, "tallies:")[0]+"tallies:\n  - "+text), nil, func() int64 { n++; return n })
		require.ErrorContains(t, err, says, text)
	}
}

func TestATallyIsWrittenAsItWasRead(t *testing.T) {
	n := int64(0)
	ids := func() int64 { n++; return n }
	shape, err := format.Parse([]byte(loans), nil, ids)
	require.NoError(t, err)
	text, err := format.Encode(shape)
	require.NoError(t, err)
	again, err := format.Parse(text, shape, ids)
	require.NoError(t, err)
	assert.Equal(t, shape, again)
	says, err := format.Sentence(&shape.Definitions[1], shape)
	require.NoError(t, err)
	assert.Equal(t, "Counts rows in Loans where `Value > 0` by `month of Due` and `Hall`: Rows.", says)
}
