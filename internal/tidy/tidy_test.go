package tidy_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/tidy"
)

const jobs = `
tracker: Desk
zone: UTC
tabs:
  Jobs: { columns: { Hall: { type: text }, Due: { type: date }, Hours: { type: number, minimum: 1, maximum: 40 }, Level: { type: choice, options: [Low, High], default: Low } } }
`

func look(t require.TestingT, k *testkit.Kit) []tidy.Finding {
	found, err := tidy.Look(k.Tracker(), k.Tracker().Form(sheet.Writing{Now: testkit.Now}), testkit.Now, nil)
	require.NoError(t, err)
	return found
}

func TestSpellingsThatAreOneThingAreFound(t *testing.T) {
	for name, tc := range map[string]struct {
		halls []string
		want  string
	}{
		"letter case and spaces": {[]string{"North Pier", "North Pier", "north pier", "North  Pier", "Annex", "Annex", "Annex", "Annex"}, "North Pier: 2"},
		"accents and marks":      {[]string{"Café Noir", "Café Noir", "Cafe Noir", "Café-Noir", "X", "X", "X", "X"}, "Café Noir: 2"},
		"a slip":                 {[]string{"Harbour", "Harbour", "Harbour", "Harbuor", "X", "X", "X", "X"}, "Harbour: 1"},
		"no slip in numbers":     {[]string{"Crate 101", "Crate 101", "Crate 101", "Crate 102", "X", "X", "X", "X"}, ""},
		"two common words":       {[]string{"Marsh", "Marsh", "Marsh", "Harsh", "Harsh", "Harsh", "X", "X"}, ""},
		"mostly different":       {[]string{"a lamp", "A lamp", "b", "c", "d", "e", "f", "g"}, ""},
		"short words":            {[]string{"Ann", "Ann", "Ann", "Anna", "X", "X", "X", "X"}, ""},
	} {
		k := testkit.New(t, jobs)
		for _, h := range tc.halls {
			k.Add("Jobs", "Hall="+h)
		}
		got := ""
		for _, f := range look(t, k) {
			require.Equal(t, tidy.Spelling, f.Kind, name)
			got += fmt.Sprintf("%s: %d", f.Cells[0].After, f.Count)
		}
		assert.Equal(t, tc.want, got, name)
	}
}

func TestWhatDoesNotFitIsFoundWithItsMend(t *testing.T) {
	k := testkit.New(t, jobs)
	k.Add("Jobs", "Hall=A", "Due=1026-03-01", "Hours=0", "Level=High")
	k.Add("Jobs", "Hall=B", "Due=2126-03-01", "Hours=99", "Level=High")
	tab := k.Tab("Jobs")
	k.Must(func(d *sheet.Draft) error {
		_, err := d.AddRow(sheet.Place{Tracker: k.ID, Tab: tab.ID}, map[sheet.ColumnID]any{tab.Columns[1].ID: "soon", tab.Columns[3].ID: "Hihg"}, 0)
		return err
	})
	says := []string{}
	for _, f := range look(t, k) {
		for _, c := range f.Cells {
			says = append(says, fmt.Sprintf("%s %s %s -> %s", f.Kind, f.Column.Name, c.Before.String(), c.After))
		}
	}
	assert.Equal(t, []string{
		"odd Due soon -> ", "impossible date Due 1026-03-01 -> ", "impossible date Due 2126-03-01 -> ",
		"out of bounds Hours 0 -> ", "out of bounds Hours 99 -> ", "odd Level Hihg -> High",
	}, says)
}

// Putting right what is found leaves nothing of it to be found.
func TestMendsLeaveNothingToMend(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, jobs)
		tab := k.Tab("Jobs")
		hall := rapid.SampledFrom([]string{"North Pier", "north pier", "North  Pier ", "Nórth-Pier", "Annex", "ANNEX", "Anex", "Harbour", "Harbuor", ""})
		level := rapid.SampledFrom([]any{"Low", "High", "Hihg", "lo", nil})
		for range rapid.IntRange(0, 40).Draw(rt, "rows") {
			k.Must(func(d *sheet.Draft) error {
				_, err := d.AddRow(sheet.Place{Tracker: k.ID, Tab: tab.ID}, map[sheet.ColumnID]any{tab.Columns[0].ID: hall.Draw(rt, "hall"), tab.Columns[3].ID: level.Draw(rt, "level")}, 0)
				return err
			})
		}
		for _, f := range look(rt, k) {
			k.Must(func(d *sheet.Draft) error {
				for _, c := range f.Cells {
					if c.After.IsBlank() {
						continue
					}
					if err := d.Set(sheet.Cell{Tracker: k.ID, Row: c.Row, Column: f.Column.ID}, c.After, 0); err != nil {
						return err
					}
				}
				return nil
			})
		}
		for _, f := range look(rt, k) {
			require.Zero(rt, f.Mended, "%s: %s", f.ID(), f.Says)
		}
	})
}
