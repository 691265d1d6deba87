package e2e

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
)

const files = `
tracker: Halls
zone: UTC
tabs:
  Open:   { columns: { Name: { type: text, unique: yes }, Visits: { type: number } } }
  Closed: { columns: { Name: { type: text }, Visits: { type: number } } }
rules:
  - { name: Close, wake: { edit: [Visits] }, in: Open, where: Visits is 2, steps: [ { move: { to: Closed } } ] }
dossiers:
  - name: Hall file
    for: [Open, Closed]
    where: Name is not blank
    open: by itself
    title: "{Name}"
    facts: [Name, Visits]
    figures: { Logged: count in log }
    log: { columns: { Visit: { type: number, required: yes } } }
tallies:
  - { name: Visits, of: [Open, Closed], by: Name, figures: { Rows: count, Visits: sum Visits } }
`

// visitor adds halls and writes about each in its log, twice; what it was answered counts.
type visitor struct {
	name    string
	entries map[string]int // by hall
	visits  map[string]int
	asked   string // the hall last sent, perhaps without an answer
}

func (v *visitor) stream(ctx context.Context, api *client.Client) {
	for ctx.Err() == nil {
		hall := fmt.Sprintf("%s %d", v.name, len(v.entries))
		v.asked = hall
		if _, err := api.AddRows(ctx, client.How{}, "Halls", "Open", []map[string]any{{"Name": hall, "Visits": 0}}); err != nil {
			return // the service was killed
		}
		v.entries[hall], v.visits[hall] = 0, 0
		for n := 1; n <= 2; n++ {
			if _, err := api.AddEntry(ctx, client.How{}, "Halls", hall, "", map[string]any{"Visit": n}); err != nil {
				return
			}
			v.entries[hall] = n
			if _, err := api.SetPage(ctx, client.How{}, "Halls", hall, "", wire.PageEdit{Cells: map[string]any{"Visits": n}}); err != nil {
				return
			}
			v.visits[hall] = n
		}
	}
}

// settle compares a hall's page with what was answered, at most one step behind it, and
// takes it as the state from now on.
func (v *visitor) settle(t *testing.T, p *wire.Page) {
	hall := p.Title
	answered, known := v.entries[hall]
	if !known {
		require.Equal(t, v.asked, hall, "a hall that nobody added")
	}
	require.Contains(t, []int{answered, answered + 1}, p.Entries, "entries of %s", hall)
	seen := map[string]bool{}
	for _, e := range p.Log {
		seen[fmt.Sprint(e.Cells["Visit"])] = true
	}
	require.Len(t, seen, p.Entries, "each entry once")
	assert.Equal(t, fmt.Sprint(p.Entries), fmt.Sprint(p.Figures["Logged"]))
	visits := fmt.Sprint(p.Facts["Visits"])
	require.Contains(t, []string{fmt.Sprint(v.visits[hall]), fmt.Sprint(v.visits[hall] + 1)}, visits, "visits of %s", hall)
	want := "Open"
	if visits == "2" {
		want = "Closed"
	}
	assert.Equal(t, want, p.In, "an edit without what follows from it")
	n, err := strconv.Atoi(visits)
	require.NoError(t, err)
	v.entries[hall], v.visits[hall] = p.Entries, n
}

// Killed while pages open and their logs are written, the service has a page for each row,
// each entry that it answered once, and tallies of what is there.
func TestKilledAtAnyMomentPagesAndLogsAreWhole(t *testing.T) {
	const kills, writers = 8, 3
	program, dir := built(t), t.TempDir()
	rng := testkit.Rand(testkit.Seed(t), 0)
	p := start(t, program, dir)
	_, err := p.api.LoadSetup(t.Context(), client.How{}, files, true)
	require.NoError(t, err)
	all := make([]*visitor, writers)
	for i := range all {
		all[i] = &visitor{name: string(rune('A' + i)), entries: map[string]int{}, visits: map[string]int{}}
	}
	pages := 0
	for range kills {
		killWhile(t, p, time.Duration(20+rng.IntN(120))*time.Millisecond, all)
		p = start(t, program, dir)
		rows := map[string]bool{}
		for _, tab := range []string{"Open", "Closed"} {
			found, err := p.api.Rows(t.Context(), "Halls", tab, client.Which{})
			require.NoError(t, err)
			for _, r := range found.Rows {
				require.False(t, rows[r.Label], "%s is there twice", r.Label)
				rows[r.Label] = true
			}
		}
		listed, err := p.api.PagesOf(t.Context(), "Halls", "Hall file")
		require.NoError(t, err)
		require.Len(t, listed, len(rows), "a page for each row")
		sum := 0
		for _, at := range listed {
			require.True(t, rows[at.Title], "%s has no row", at.Title)
			page, err := p.api.Page(t.Context(), "Halls", at.Row, "")
			require.NoError(t, err)
			for _, v := range all {
				if strings.HasPrefix(at.Title, v.name+" ") {
					v.settle(t, page)
					sum += v.visits[at.Title]
				}
			}
		}
		for _, v := range all {
			for hall := range v.entries {
				require.True(t, rows[hall], "%s was answered and is lost", hall)
			}
		}
		now, err := p.api.Tally(t.Context(), "Halls", "Visits")
		require.NoError(t, err)
		assert.Equal(t, fmt.Sprint(len(rows)), fmt.Sprint(now.Total.Values["Rows"]))
		assert.Equal(t, fmt.Sprint(sum), fmt.Sprint(now.Total.Values["Visits"]))
		pages = len(listed)
	}
	p.kill()
	assert.Greater(t, pages, kills*writers, "hardly anything was written")
}
