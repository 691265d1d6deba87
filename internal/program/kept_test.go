package program_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

const halls = `
tracker: T
zone: UTC
tabs:
  Loans:
    columns:
      Hall:  { type: text }
      Who:   { type: text }
      Value: { type: number }
      Due:   { type: date }
      Day:   { type: date-time }
      Twice: { type: computed, clause: Value * 2 }
  Done:
    columns:
      Hall:  { type: text }
      Who:   { type: text }
      Value: { type: number }
  Halls:
    columns:
      Hall:     { type: text }
      Since:    { type: date }
      Count:    { type: computed, clause: count in Loans where Hall is this.Hall }
      Sum:      { type: computed, clause: sum Value in Loans where Hall is this.Hall }
      Mean:     { type: computed, clause: average Value in Loans where this.Hall is Hall and Value > 1 }
      Least:    { type: computed, clause: smallest Value in Loans where Hall is this.Hall }
      Last due: { type: computed, clause: largest Due in Loans where Hall is this.Hall }
      People:   { type: computed, clause: count distinct Who in Loans where Hall is this.Hall }
      First:    { type: computed, clause: first Who in Loans where Hall is this.Hall }
      Last:     { type: computed, clause: last Who in Loans where Hall is this.Hall and Value is not blank }
      Each:     { type: computed, clause: each Who in Loans where Hall is this.Hall }
      Late:     { type: computed, clause: count in Loans where Due before today }
      Later:    { type: computed, clause: sum Value in Loans where Hall is this.Hall and Due after today }
      Share:    { type: computed, clause: 'if Sum > 0 then round(Sum / (sum Value in Loans), 3) else 0' }
      Doubled:  { type: computed, clause: sum Twice in Loans where Hall is this.Hall }
      Done:     { type: computed, clause: sum Value in Done where Hall is this.Hall or Who is this.Hall }
      On day:   { type: computed, clause: count in Loans where Due is this.Since }
`

// worked gives what every computed column of a tab comes to.
func worked(t require.TestingT, p *program.Program, tr *sheet.Tracker, tab *sheet.TabShape, kept bool) []string {
	env := p.Env(tr, tab, testkit.Now, nil)
	if !kept {
		env.Parts = nil
	}
	var out []string
	for r := range tr.Rows(tab.ID) {
		program.Look(env, r)
		for slot := range tab.Columns {
			out = append(out, fmt.Sprintf("%s %s: %s", r.ID, tab.Columns[slot].Name, p.Value(env, r, slot)))
		}
	}
	return out
}

// What is kept with the rows always equals working everything out anew, whatever has been
// changed, moved, removed, tried out, taken back and set up in between.
func TestRandomHistoriesKeepFiguresRight(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, halls)
		var states []*sheet.Workspace
		ready, err := program.Compile(k.Tracker().Shape, kinds.All)
		require.NoError(rt, err)
		hall := rapid.SampledFrom([]any{"Pier", "pier ", "Mill", "", nil})
		amount := rapid.SampledFrom([]any{0, 1, 2.5, "0.1", "TBC", nil, 7})
		due := rapid.SampledFrom([]any{"2026-03-24", "2026-03-25", "2026-03-26", "soon", nil})
		row := func(tab string) map[sheet.ColumnID]any {
			given := map[sheet.ColumnID]any{}
			for name, of := range map[string]*rapid.Generator[any]{"Hall": hall, "Who": hall, "Value": amount, "Due": due} {
				if c, err := k.Tab(tab).Column(name); err == nil {
					given[c.ID] = of.Draw(rt, name)
				}
			}
			return given
		}
		k.Must(func(d *sheet.Draft) error {
			for _, name := range []string{"Pier", "Mill", "Quay", ""} {
				if _, err := d.AddRow(sheet.Place{Tracker: k.ID, Tab: k.Tab("Halls").ID}, map[sheet.ColumnID]any{k.Column("Hall").ID: name, k.Column("Since").ID: "2026-03-25"}, 0); err != nil {
					return err
				}
			}
			for range rapid.IntRange(0, 300).Draw(rt, "rows") / 2 {
				if _, err := d.AddRow(sheet.Place{Tracker: k.ID, Tab: k.Tab("Loans").ID}, row("Loans"), 0); err != nil {
					return err
				}
			}
			return nil
		})
		change := func(d *sheet.Draft) error {
			tr := d.Own(k.ID)
			loans, done := k.Tab("Loans").ID, k.Tab("Done").ID
			if n := tr.Count(loans); n > 0 && rapid.IntRange(0, 3).Draw(rt, "what") > 0 {
				r := tr.Page(loans, rapid.IntRange(0, n-1).Draw(rt, "nth"), 1)[0]
				switch rapid.IntRange(0, 3).Draw(rt, "how") {
				case 0:
					return d.Apply(sheet.Change{Kind: sheet.Move, Tracker: k.ID, Tab: loans, Row: r.ID, ToTab: done})
				case 1:
					return d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: k.ID, Tab: loans, Row: r.ID})
				}
				for id, v := range row("Loans") {
					if err := d.Set(sheet.Cell{Tracker: k.ID, Row: r.ID, Column: id}, v, 0); err != nil {
						return err
					}
				}
				return nil
			}
			_, err := d.AddRow(sheet.Place{Tracker: k.ID, Tab: loans}, row("Loans"), 0)
			return err
		}
		for range rapid.IntRange(1, 8).Draw(rt, "steps") {
			switch rapid.IntRange(0, 7).Draw(rt, "step") {
			case 0: // tried out, and looked at in between
				d := k.State.Edit(k.Seq, 90_000)
				require.NoError(rt, change(d))
				worked(rt, ready, d.Tracker(k.ID), k.Tab("Halls"), true)
			case 1: // as it was
				if len(states) > 0 {
					k.State = rapid.SampledFrom(states).Draw(rt, "state")
				}
			case 2: // another setup
				after := k.Tracker().Clone()
				after.Name += "+"
				k.Must(func(d *sheet.Draft) error { return program.Reshape(d, d.Own(k.ID), after) })
				ready, err = program.Compile(k.Tracker().Shape, kinds.All)
				require.NoError(rt, err)
			default:
				k.Must(func(d *sheet.Draft) error {
					for range rapid.IntRange(1, 3).Draw(rt, "changes") {
						if err := change(d); err != nil {
							return err
						}
						if rapid.Bool().Draw(rt, "look") {
							worked(rt, ready, d.Tracker(k.ID), k.Tab("Halls"), true)
						}
					}
					return nil
				})
			}
			states = append(states, k.State)
			fresh, err := program.Compile(k.Tracker().Shape, kinds.All)
			require.NoError(rt, err)
			require.Equal(rt, worked(rt, fresh, k.Tracker(), k.Tab("Halls"), false), worked(rt, ready, k.Tracker(), k.Tab("Halls"), true))
		}
	})
}
