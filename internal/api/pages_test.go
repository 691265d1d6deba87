package api

import (
	"bytes"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/wire"
)

const halls = `
tracker: Tour
zone: UTC
tabs:
  Halls:
    columns:
      Name:    { type: text }
      Fee:     { type: number }
      Terms:   { type: text }
  Secret:
    columns:
      Name:    { type: text }
      Hall:    { type: text }
  Elsewhere:
    columns:
      Name:    { type: text }
dossiers:
  - name: Hall file
    for: Halls
    title: "{Name}"
    facts: [Name, Fee, { Terms: filled once }]
    own: { Goal: { type: number } }
    figures: { Twice: Fee * 2, Secrets: count in Secret where Hall is this.Name, Days: length(Name) }
    tables: { Secrets: { tab: Secret, where: Hall is this.Name } }
    log: { columns: { What: { type: text } } }
  - name: Secret file
    for: Secret
    title: "{Name}"
    own: { Goal: { type: number } }
tallies:
  - { name: Fees, of: Halls, by: Name, figures: { Sum: sum Fee } }
  - { name: Names, of: Halls, by: Name, figures: { Rows: count } }
access:
  columns:
    Fee: { see: [keepers] }
    Terms: { see: [keepers] }
  tabs:
    Secret: { see: [keepers] }
`

// pageRig has pages that keepers see whole, and others in part.
func pageRig(t *testing.T) *rig {
	r := newRig(t)
	require.Equal(t, 200, r.call("keeper", "POST", "/setup", wire.Setup{Text: halls}).StatusCode)
	for tab, row := range map[string]map[string]any{"Halls": {"Name": "Pier", "Fee": 5, "Terms": "in secret"}, "Secret": {"Name": "Vault", "Hall": "Pier"}} {
		require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Tour/tabs/"+tab+"/rows", wire.NewRows{Rows: []map[string]any{row}}).StatusCode)
	}
	for _, dossier := range []string{"Hall%20file", "Secret%20file"} {
		a := r.call("keeper", "POST", "/trackers/Tour/dossiers/"+dossier+"/open", wire.Pages{})
		require.Equal(t, 200, a.StatusCode, string(a.body))
	}
	return r
}

// Whoever may not see a column or a tab sees nothing of it on a page: no fact, no copy that
// the page keeps, no figure worked out from it, no table, no page of its rows.
func TestAPageShowsWhatItsReaderMaySee(t *testing.T) {
	r := pageRig(t)
	var whole, part wire.Page
	r.call("keeper", "GET", "/trackers/Tour/pages/Pier", nil).into(t, &whole)
	assert.Equal(t, map[string]any{"Name": "Pier", "Fee": 5.0, "Terms": "in secret"}, whole.Facts)
	assert.Equal(t, map[string]any{"Twice": 10.0, "Secrets": 1.0, "Days": 4.0}, whole.Figures)
	require.Len(t, whole.Tables, 1)
	assert.Equal(t, []map[string]any{{"Name": "Vault", "Hall": "Pier"}}, whole.Tables[0].Rows)

	for _, who := range []string{"editor", "reader"} {
		a := r.call(who, "GET", "/trackers/Tour/pages/pier", nil)
		a.into(t, &part)
		assert.Equal(t, map[string]any{"Name": "Pier"}, part.Facts, who)
		assert.Equal(t, map[string]any{"Days": 4.0}, part.Figures, who)
		assert.Empty(t, part.Tables, who)
		assert.NotContains(t, string(a.body), "in secret", who)
		for _, path := range []string{"/trackers/Tour/pages", "/pages?title=Vaul", "/trackers/Tour/dossiers", "/trackers/Tour/tabs/Hall%20file%20(pages)/rows", "/trackers/Tour/tabs/Secret%20file%20(pages)/rows", "/trackers/Tour/journal"} {
			body := string(r.call(who, "GET", path, nil).body)
			for _, hidden := range []string{"in secret", "Vault\"", "Fee"} {
				assert.NotContains(t, body, hidden, "%s as %s", path, who)
			}
		}
		assert.Equal(t, 404, r.call(who, "GET", "/trackers/Tour/pages/Vault", nil).StatusCode, who)
	}
	a := r.call("editor", "PATCH", "/trackers/Tour/pages/Pier", wire.PageEdit{Cells: map[string]any{"Goal": 9, "Fee": 1}})
	assert.Equal(t, 404, a.StatusCode, "a field that is hidden is not there")
	require.Equal(t, 200, r.call("editor", "PATCH", "/trackers/Tour/pages/Pier", wire.PageEdit{Cells: map[string]any{"Goal": 9, "Name": "Old Pier"}}).StatusCode)
	r.call("keeper", "GET", "/trackers/Tour/pages/Old%20Pier", nil).into(t, &whole)
	assert.Equal(t, map[string]any{"Name": "Old Pier", "Fee": 5.0, "Terms": "in secret"}, whole.Facts)
	assert.Equal(t, map[string]any{"Goal": 9.0}, whole.Own)
}

// A workbook of pages holds what whoever saves it may see, and no more.
func TestAWorkbookOfPagesHoldsWhatItsReaderMaySee(t *testing.T) {
	r := pageRig(t)
	const book = "/trackers/Tour/dossiers/Hall%20file/workbook"
	fields := func(who, query string) map[string]string {
		a := r.call(who, "GET", book+query, nil)
		require.Equal(t, 200, a.StatusCode, string(a.body))
		f, err := excelize.OpenReader(bytes.NewReader(a.body))
		require.NoError(t, err)
		rows, err := f.GetRows("Pier")
		require.NoError(t, err)
		out := map[string]string{}
		for _, row := range rows {
			if len(row) == 2 && out[row[0]] == "" {
				out[row[0]] = row[1]
			}
		}
		return out
	}
	assert.Equal(t, map[string]string{"Name": "Pier", "Fee": "5", "Terms": "in secret", "Twice": "10", "Secrets": "1", "Days": "4", "Vault": "Pier"}, fields("keeper", ""))
	assert.Equal(t, map[string]string{"Name": "Pier", "Days": "4"}, fields("reader", "?page=pier"))
	for query, status := range map[string]int{"?page=Pie": 404, "?page=r999": 404, "?page=Pier&page=nowhere": 404} {
		assert.Equal(t, status, r.call("keeper", "GET", book+query, nil).StatusCode, query)
	}
	assert.Equal(t, 404, r.call("reader", "GET", "/trackers/Tour/dossiers/Secret%20file/workbook", nil).StatusCode)
}

// A template of pages is filled with what whoever saves them may see: the rest of it stays
// blank for them, and what no page has is an error for all.
func TestATemplateOfPagesHoldsWhatItsReaderMaySee(t *testing.T) {
	r := newRig(t)
	require.Equal(t, 200, r.call("keeper", "POST", "/setup", wire.Setup{Text: strings.Replace(halls, "    own: { Goal", "    template: templates/hall.xlsx\n    own: { Goal", 1)}).StatusCode)
	a := r.call("keeper", "GET", "/trackers/Tour/setup", nil)
	assert.Contains(t, string(a.body), "template: templates/hall.xlsx")
	for tab, row := range map[string]map[string]any{"Halls": {"Name": "Pier", "Fee": 5, "Terms": "in secret"}, "Secret": {"Name": "Vault", "Hall": "Pier"}} {
		require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Tour/tabs/"+tab+"/rows", wire.NewRows{Rows: []map[string]any{row}}).StatusCode)
	}
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Tour/dossiers/Hall%20file/open", wire.Pages{}).StatusCode)
	require.Equal(t, 200, r.call("editor", "POST", "/trackers/Tour/pages/Pier/log", wire.NewEntry{Cells: map[string]any{"What": "rang"}}).StatusCode)
	const book = "/trackers/Tour/dossiers/Hall%20file/workbook"
	a = r.call("keeper", "GET", book, nil)
	assert.Equal(t, 422, a.StatusCode)
	assert.Contains(t, string(a.body), "template templates/hall.xlsx: there is no such workbook: put it into the folder templates of the data folder")
	template := func(last string) {
		f := excelize.NewFile()
		for i, text := range []string{"{title} in {row in}", "{Fee}", "{Terms}", "{Twice}", "{Days}", "{log.What}", "{Secrets.Name}", last} {
			require.NoError(t, f.SetCellValue("Sheet1", fmt.Sprint("A", i+1), text))
		}
		var out bytes.Buffer
		require.NoError(t, f.Write(&out))
		a := r.upload("keeper", "/trackers/Tour/outbound/file?path=hall.xlsx&template=yes", out.String())
		require.Equal(t, 200, a.StatusCode, string(a.body))
	}
	template("{Tems}")
	a = r.call("keeper", "GET", book, nil)
	assert.Contains(t, string(a.body), `nothing on the page is called \"Tems\": did you mean {Terms}?`)
	template("on {row in}")
	column := func(who string) (out []string) {
		a := r.call(who, "GET", book, nil)
		require.Equal(t, 200, a.StatusCode, string(a.body))
		f, err := excelize.OpenReader(bytes.NewReader(a.body))
		require.NoError(t, err)
		for i := range 8 {
			v, err := f.GetCellValue("Pier", fmt.Sprint("A", i+1))
			require.NoError(t, err)
			out = append(out, v)
		}
		return out
	}
	assert.Equal(t, []string{"Pier in Halls", "5", "in secret", "10", "4", "rang", "Vault", "on Halls"}, column("keeper"))
	assert.Equal(t, []string{"Pier in Halls", "", "", "", "4", "rang", "", "on Halls"}, column("reader"))
}

// A tally of what somebody may not see is not there for them; others count what they see.
func TestATallyCountsWhatItsReaderMaySee(t *testing.T) {
	r := pageRig(t)
	var whole wire.Tally
	r.call("keeper", "GET", "/trackers/Tour/tallies/Fees/figures", nil).into(t, &whole)
	assert.Equal(t, map[string]any{"Sum": 5.0}, whole.Groups[0].Values)
	for _, what := range []string{"figures", "picture", "table"} {
		assert.Equal(t, 200, r.call("keeper", "GET", "/trackers/Tour/tallies/Fees/"+what, nil).StatusCode, what)
		assert.Equal(t, 404, r.call("reader", "GET", "/trackers/Tour/tallies/Fees/"+what, nil).StatusCode, what)
		assert.Equal(t, 200, r.call("reader", "GET", "/trackers/Tour/tallies/Names/"+what, nil).StatusCode, what)
	}
	var now []wire.Tally
	r.call("editor", "GET", "/trackers/Tour/tallies-now", nil).into(t, &now)
	require.Len(t, now, 1)
	assert.Equal(t, map[string]any{"Rows": 1.0}, now[0].Groups[0].Values)
	a := r.call("keeper", "GET", "/trackers/Tour/tallies/Fees/picture?format=png", nil)
	assert.Equal(t, "image/png", a.Header.Get("Content-Type"))
	assert.Equal(t, "\x89PNG", string(a.body[:4]))
}

// A jump by name says so where nothing is called so, and names the nearest.
func TestPagesAreFoundByTitleFromAnywhere(t *testing.T) {
	r := pageRig(t)
	var found []wire.PageRef
	r.call("keeper", "GET", "/pages?title=pier", nil).into(t, &found)
	require.Len(t, found, 1)
	assert.Equal(t, "Halls", found[0].In)
	a := r.call("keeper", "GET", "/pages?title=Peir", nil)
	require.Equal(t, http.StatusNotFound, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, `there is no page "Peir": did you mean Pier?`)
	a = r.call("keeper", "GET", "/trackers/Tour/pages/Gone", nil)
	assert.Equal(t, http.StatusNotFound, a.StatusCode)

	r.call("keeper", "POST", "/trackers/Tour/tabs/Halls/rows", wire.NewRows{Rows: []map[string]any{{"Name": "Annex"}, {"Name": "Quay"}}})
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Tour/dossiers/Hall%20file/open", wire.Pages{Rows: []string{"Quay"}}).StatusCode)
	var page wire.Page
	r.call("keeper", "GET", "/trackers/Tour/pages/Pier?beside=yes", nil).into(t, &page)
	assert.Nil(t, page.Prev)
	require.NotNil(t, page.Next)
	assert.Equal(t, "Quay", page.Next.Title)
	a = r.call("keeper", "GET", "/trackers/Tour/pages/"+rowOf(t, r, "Annex"), nil)
	assert.Contains(t, a.problem(t).Detail, "the row has no page yet: open it first")
}

func rowOf(t *testing.T, r *rig, label string) string {
	t.Helper()
	var rows wire.Rows
	r.call("keeper", "GET", "/trackers/Tour/tabs/Halls/rows", nil).into(t, &rows)
	for _, row := range rows.Rows {
		if row.Label == label {
			return row.ID
		}
	}
	t.Fatalf("no row is called %s", label)
	return ""
}
