package workspace_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/dossier"
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/pages"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

// withPages is a bench with a tracker whose rows have pages, and another to which rows go.
func withPages(t *testing.T) (*bench, *sheet.Tracker) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(`
tracker: Past
zone: UTC
tabs: { Halls: { columns: { Name: { type: text }, Fee: { type: number }, Year: { type: number } } } }
`)))
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(`
tracker: Tour
zone: UTC
tabs:
  Halls:
    columns: { Name: { type: text, required: yes }, Fee: { type: number }, Done: { type: checkbox } }
rules:
  - { name: Shelve, wake: { edit: [Done] }, in: Halls, where: Done, steps: [ { move: { tracker: Past, to: Halls } } ] }
dossiers:
  - { name: File, for: Halls, where: Fee > 1, open: by itself, title: "{Name}", facts: [Name, Fee], own: { Goal: { type: number } }, figures: { Twice: Fee * 2 }, log: { columns: { What: { type: text } } } }
`)))
	tour, err := b.Find("Tour")
	require.NoError(t, err)
	return b, tour
}

// file gives the pattern, as the tracker is now.
func (b *bench) file() (*sheet.Tracker, *dossier.Compiled) {
	b.t.Helper()
	t, err := b.Find("Tour")
	require.NoError(b.t, err)
	c, err := b.Pages.Pattern(t, "File")
	require.NoError(b.t, err)
	return t, c
}

func (b *bench) shown(name string) *dossier.Page {
	b.t.Helper()
	t, c := b.file()
	at, err := b.Pages.Find(b.t.Context(), b.State(), t, c, name)
	require.NoError(b.t, err)
	p, err := b.Pages.Lay(b.t.Context(), t, c, at)
	require.NoError(b.t, err)
	return p
}

// A page goes where its row goes, into another tracker, and stays when it is removed there;
// a restart changes nothing of that.
func TestAPageGoesWithItsRowToAnotherTracker(t *testing.T) {
	b, tour := withPages(t)
	hall := tour.Tabs[0].ID
	b.must(b.AddRows(testkit.By("Ines"), tour.ID, hall, []map[string]any{{"Name": "Pier", "Fee": 5}}))
	tour, c := b.file()
	row := tour.Page(hall, 0, 1)[0]
	b.must(b.Pages.AddEntry(testkit.By("Ines"), tour.ID, c, row.ID, map[string]any{"What": "seen"}))
	b.must(b.SetRows(testkit.By("Ines"), tour.ID, editOf(row.ID, "Done", true)))
	tour, c = b.file()
	require.Nil(t, tour.Row(row.ID))
	p := b.shown("Pier")
	assert.Equal(t, "5", p.Facts[1].Value.String())
	assert.Equal(t, "10", p.Figures[0].Value.String())
	assert.Len(t, p.Log, 1)

	past, err := b.Find("Past")
	require.NoError(t, err)
	b.must(b.SetRows(testkit.By("Ines"), past.ID, editOf(row.ID, "Name", "Old pier")))
	assert.Equal(t, "Old pier", b.shown("Old pier").Title)
	b.must(b.RemoveRows(testkit.By("Ines"), past.ID, []sheet.RowID{row.ID}))
	b.reopen()
	all, err := b.Pages.List(t.Context(), b.State(), tour, c)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Nil(t, all[0].Where.Now)
	p = b.shown("Old pier")
	assert.Equal(t, "5", p.Facts[1].Value.String())
	assert.Len(t, p.Log, 1)
}

// Rows that a rule, an import or a hand brings all get their pages, in the same change set.
func TestPagesOpenWithTheChangeThatCallsForThem(t *testing.T) {
	b, tour := withPages(t)
	hall := tour.Tabs[0].ID
	set := b.must(b.AddRows(testkit.By("Ines"), tour.ID, hall, []map[string]any{{"Name": "Pier", "Fee": 5}, {"Name": "Mill", "Fee": 1}, {"Name": "Quay", "Fee": 2}})).Set
	assert.Len(t, set.Changes, 5)
	var c *dossier.Compiled
	req, err := b.Undo(t.Context(), testkit.By("Ines"), set, false)
	require.NoError(t, err)
	b.must(req)
	tour, c = b.file()
	assert.Zero(t, tour.Count(c.Pages))
	assert.Zero(t, tour.Count(hall))

	var rows []map[string]any
	for i := range 320 {
		rows = append(rows, map[string]any{"Name": fmt.Sprintf("Hall %03d", i), "Fee": 1})
	}
	b.must(b.AddRows(testkit.By("Ines"), tour.ID, hall, rows))
	b.must(b.PutDefinition(testkit.By("Ines"), tour.ID, sheet.KindDossier, []byte(`{ name: All, for: Halls, title: "{Name}" }`), 0))
	tour, err = b.Find("Tour")
	require.NoError(t, err)
	every, err := b.Pages.Pattern(tour, "All")
	require.NoError(t, err)
	run := func(limit int) pages.Outcome {
		return b.must(b.Pages.Open(testkit.By("Ines"), tour.ID, every, pages.Opening{Limit: limit})).Note.Detail.(pages.Outcome)
	}
	first := run(12)
	assert.Equal(t, pages.Outcome{Pattern: "All", Opened: 12, Left: 308}, first)
	second := run(40)
	assert.Equal(t, pages.Outcome{Pattern: "All", Opened: 40, There: 12, Left: 268}, second)
}

func editOf(row sheet.RowID, column string, v any) []edit.RowEdit {
	return []edit.RowEdit{{Row: row, Cells: map[string]any{column: v}}}
}
