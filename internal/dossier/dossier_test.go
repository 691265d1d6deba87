package dossier_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/dossier"
	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

const halls = `
tracker: Tour
zone: UTC
tabs:
  Halls:
    columns:
      Name: { type: text }
      Fee:  { type: number }
      Due:  { type: date }
  Annexes:
    columns:
      Name: { type: text }
      Fee:  { type: number }
  Closed:
    columns:
      Name: { type: text }
  Loans:
    columns:
      Object: { type: text }
      Hall:   { type: text }
      Value:  { type: number }
dossiers:
  - name: Hall file
    for: [Halls, Annexes]
    where: Fee > 0
    open: by itself
    title: "{Name} at {Fee}"
    facts: [Name, { Fee: filled once }, Due]
    own: { Goal: { type: number, default: 7 } }
    figures: { Loans: count in Loans where Hall is this.Name, Worth: sum Value in Loans where Hall is this.Name, Visits: count in log }
    tables: { Loans: { tab: Loans, where: Hall is this.Name, columns: [Object], order: Value descending, limit: 2 } }
    log: { columns: { When: { type: date }, What: { type: text } } }
`

type bench struct {
	*testkit.Kit
	t require.TestingT
}

func (b *bench) pattern() *dossier.Compiled {
	ready, err := program.Compile(b.Tracker().Shape, kinds.All)
	require.NoError(b.t, err)
	c, err := program.Ready[*dossier.Compiled](ready, b.Tracker().Definitions[0].ID)
	require.NoError(b.t, err)
	return c
}

// do changes something and lets pages follow.
func (b *bench) do(f func(*sheet.Draft) error) []sheet.Change {
	changes, err := b.Try(func(d *sheet.Draft) error {
		if err := f(d); err != nil {
			return err
		}
		return dossier.Follow(d, func(sheet.TrackerID) ([]*dossier.Compiled, error) {
			return []*dossier.Compiled{b.pattern()}, nil
		}, func(*dossier.Compiled) int { return 0 }, testkit.Now, nil)
	})
	require.NoError(b.t, err)
	return changes
}

func (b *bench) lay(row sheet.RowID) *dossier.Page {
	c, t := b.pattern(), b.Tracker()
	p, err := c.Lay(t, c.PageOf(t, row), dossier.Here{Row: row, Tracker: t, Now: t.Row(row)}, testkit.Now, nil)
	require.NoError(b.t, err)
	return p
}

func (b *bench) add(tab string, cells map[string]any) sheet.RowID {
	var id sheet.RowID
	b.do(func(d *sheet.Draft) (err error) {
		given := map[sheet.ColumnID]any{}
		for name, v := range cells {
			col, err := b.Tab(tab).Column(name)
			require.NoError(b.t, err)
			given[col.ID] = v
		}
		id, err = d.AddRow(sheet.Place{Tracker: b.ID, Tab: b.Tab(tab).ID}, given, 0)
		return err
	})
	return id
}

func TestAPageIsLaidOutFromItsRow(t *testing.T) {
	b := &bench{testkit.New(t, halls), t}
	pier := b.add("Halls", map[string]any{"Name": "Pier"})
	c := b.pattern()
	assert.Nil(t, c.PageOf(b.Tracker(), pier), "its fee is not known")
	fee := func(v any) []sheet.Change {
		return b.do(func(d *sheet.Draft) error {
			return d.Set(sheet.Cell{Tracker: b.ID, Row: pier, Column: b.Column("Fee").ID}, v, 0)
		})
	}
	assert.Len(t, fee(5), 2, "the cell, and the page")
	assert.Len(t, fee(6), 1, "it is open already")
	for i, object := range []string{"Bell", "Horn", "Lamp"} {
		b.add("Loans", map[string]any{"Object": object, "Hall": "pier", "Value": i})
	}
	b.do(func(d *sheet.Draft) error {
		return c.AddEntry(d, b.ID, pier, map[string]any{"What": "first", "When": "2026-03-01"})
	})
	b.do(func(d *sheet.Draft) error { return c.AddEntry(d, b.ID, pier, map[string]any{"What": "undated"}) })
	b.do(func(d *sheet.Draft) error {
		return c.AddEntry(d, b.ID, pier, map[string]any{"What": "second", "When": "2026-03-02"})
	})
	p := b.lay(pier)
	assert.Equal(t, "Pier at 6", p.Title)
	say := func(cells []dossier.Cell) (out []string) {
		for _, cell := range cells {
			out = append(out, fmt.Sprintf("%s=%s", cell.Column.Name, cell.Value))
		}
		return out
	}
	assert.Equal(t, []string{"Name=Pier", "Fee=5", "Due="}, say(p.Facts), "the fee as it was when the page was opened")
	assert.Equal(t, []string{"Goal=7"}, say(p.Own))
	figures := []string{}
	for _, f := range p.Figures {
		figures = append(figures, fmt.Sprintf("%s=%s%s", f.Name, f.Value, f.Why))
	}
	assert.Equal(t, []string{"Loans=3", "Worth=3", "Visits=3"}, figures)
	assert.Equal(t, 3, p.Tables[0].Total)
	require.Len(t, p.Tables[0].Cells, 2)
	assert.Equal(t, "Lamp", p.Tables[0].Cells[0][0].String())
	what := []string{}
	for _, r := range p.Log {
		what = append(what, r.At(1).String())
	}
	assert.Equal(t, []string{"second", "first", "undated"}, what)

	annex := b.add("Annexes", map[string]any{"Name": "Annex", "Fee": 1})
	assert.Len(t, b.lay(annex).Facts, 3)
	assert.True(t, b.lay(annex).Facts[2].Gone, "the tab has no such column")
	assert.Empty(t, b.lay(annex).Log)
	blank := b.add("Halls", map[string]any{"Fee": 2})
	assert.Equal(t, "at 2", b.lay(blank).Title)
}

// Whatever happens to rows, each that should have a page of its own and once had what it
// needs has exactly one, with what only the page has as it was typed; and closing
// them all leaves nothing.
func TestRandomHistoriesKeepOnePageForARow(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		b := &bench{testkit.New(t, halls), rt}
		c := b.pattern()
		var rows []sheet.RowID
		goals := map[sheet.RowID]int64{}
		tabs := []string{"Halls", "Annexes", "Closed"}
		for range rapid.IntRange(1, 25).Draw(rt, "steps") {
			switch what := rapid.IntRange(0, 6).Draw(rt, "what"); {
			case what < 2 || len(rows) == 0:
				rows = append(rows, b.add(rapid.SampledFrom(tabs[:2]).Draw(rt, "tab"), map[string]any{"Name": rapid.SampledFrom([]string{"Pier", "Mill", ""}).Draw(rt, "name"), "Fee": rapid.IntRange(0, 2).Draw(rt, "fee")}))
			default:
				id := rapid.SampledFrom(rows).Draw(rt, "row")
				row := b.Tracker().Row(id)
				if row == nil {
					continue
				}
				page := c.PageOf(b.Tracker(), id)
				b.do(func(d *sheet.Draft) error {
					switch {
					case what == 2:
						return d.Set(sheet.Cell{Tracker: b.ID, Row: id, Column: b.Column("Fee").ID}, rapid.IntRange(0, 3).Draw(rt, "fee"), 0)
					case what == 3:
						to := b.Tab(rapid.SampledFrom(tabs).Draw(rt, "to")).ID
						if to == row.Tab {
							return nil
						}
						return d.Apply(sheet.Change{Kind: sheet.Move, Tracker: b.ID, Tab: row.Tab, Row: id, ToTab: to})
					case what == 4 && page != nil:
						n := rapid.Int64Range(8, 99).Draw(rt, "goal")
						goals[id] = n
						return d.Set(sheet.Cell{Tracker: b.ID, Row: page.ID, Column: b.Column("Goal").ID}, n, 0)
					case what == 5 && page != nil:
						return c.AddEntry(d, b.ID, id, map[string]any{"What": "x"})
					case what == 6:
						return d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: b.ID, Tab: row.Tab, Row: id})
					}
					return nil
				})
			}
			t := b.Tracker()
			pages := map[sheet.RowID]int{}
			for page := range t.Rows(c.Pages) {
				_, of, is := sheet.PageOf(page.Origin())
				require.True(rt, is)
				pages[of]++
				want, typed := goals[of]
				if !typed {
					want = 7
				}
				require.Equal(rt, value.OfInt(want).String(), page.Get(t.TabByID(c.Pages), b.Column("Goal").ID).String())
			}
			for _, id := range rows {
				require.LessOrEqual(rt, pages[id], 1)
				if row := t.Row(id); row != nil {
					wants, _ := c.Wants(t, row, testkit.Now, nil)
					require.True(rt, !wants || pages[id] == 1, "row %s has no page", id)
				}
			}
		}
		b.do(func(d *sheet.Draft) error {
			for _, id := range rows {
				if c.PageOf(b.Tracker(), id) != nil {
					if err := c.Close(d, b.ID, id, 0); err != nil {
						return err
					}
				}
			}
			return nil
		})
		require.Zero(rt, b.Tracker().Count(c.Pages))
		require.Zero(rt, b.Tracker().Count(c.Log.Tab))
	})
}
