package workspace_test

import (
	"bytes"
	"fmt"
	"maps"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

// everyType is a tracker with a column of each type.
const everyType = `
tracker: %s
zone: UTC
tabs:
  All & sundry:
    columns:
      Ref: { type: text, required: yes }
      Words: { type: text }
      Fee: { type: number, format: EUR }
      Share: { type: number, format: percent }
      Count: { type: number }
      Day: { type: date }
      Moment: { type: date-time }
      Done: { type: checkbox }
      Stage: { type: choice, options: { Agreed: blue, In transit: amber, Plain: "" } }
      Tags: { type: choice, several: yes, options: [oil, glass, "a; b"] }
      Registrar: { type: person }
      Image: { type: link }
      Report: { type: file }
`

// anyCellOf draws what somebody might type into a column, now and then what does
// not fit it.
func anyCellOf(t *rapid.T, c *sheet.Column) any {
	from := map[string][]string{
		"Words":     {"", "007", "=1+1", "line\nbreak", " padded", "yes", "2026-03-31", "Łódź"},
		"Fee":       {"", "12.5", "-0.01", "1250000", "ask"},
		"Share":     {"", "0.125", "1"},
		"Count":     {"", "0", "42", "-7", "123456789012345678"},
		"Day":       {"", "2026-03-31", "1899-12-31", "TBC"},
		"Moment":    {"", "2026-03-31T08:30", "2026-03-31T08:30:05"},
		"Done":      {"", "yes", "no"},
		"Stage":     {"", "Agreed", "In transit", "Plain", "Lost"},
		"Tags":      {"", "oil", `glass; "a; b"`},
		"Registrar": {"", "a@example.org", "nobody"},
		"Image":     {"", "https://example.org/1", "photo <https://example.org/2#x>"},
		"Report":    {"", "report.pdf", "the report <files/1.pdf>"},
	}
	return rapid.SampledFrom(from[c.Name]).Draw(t, c.Name)
}

// What a tracker holds comes back from a workbook into another tracker as it was:
// columns with their types, every value, odd ones too, notes and looks.
func TestWhatGoesOutComesBackIn(t *testing.T) {
	b := newBench(t)
	n := 0
	rapid.Check(t, func(rt *rapid.T) {
		n++
		out, in := fmt.Sprint("Out ", n), fmt.Sprint("In ", n)
		b.must(b.LoadSetup(testkit.By("Ines"), fmt.Appendf(nil, everyType, out)))
		tr, tab, err := b.FindTab(out, "All & sundry")
		require.NoError(rt, err)
		var rows []map[string]any
		for i := range rapid.IntRange(1, 5).Draw(rt, "rows") {
			cells := map[string]any{"Ref": fmt.Sprint("R", i)}
			for j := 1; j < len(tab.Columns); j++ {
				cells[tab.Columns[j].Name] = anyCellOf(rt, &tab.Columns[j])
			}
			rows = append(rows, cells)
		}
		added := b.must(b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, rows))
		var edits []edit.RowEdit
		for _, id := range added.Set.Rows() {
			column := tab.Columns[rapid.IntRange(0, len(tab.Columns)-1).Draw(rt, "column")].Name
			edits = append(edits, edit.RowEdit{Row: id, Notes: map[string]string{column: rapid.SampledFrom([]string{"", "mind the <frame>"}).Draw(rt, "note")},
				Styles: map[string]string{column: rapid.SampledFrom([]string{"plain", "fill violet, bold", "ink #123456, struck"}).Draw(rt, "look")}})
		}
		b.must(b.SetRows(testkit.By("Ines"), tr.ID, edits))

		tr, tab, err = b.FindTab(out, "All & sundry")
		require.NoError(rt, err)
		table, _, err := b.Select(tr, query.Query{Tab: tab}, nil)
		require.NoError(rt, err)
		var file bytes.Buffer
		require.NoError(rt, xlsx.Write(&file, []outbound.Table{table}))
		read, err := formats.Read("all.xlsx", bytes.NewReader(file.Bytes()), int64(file.Len()))
		require.NoError(rt, err)
		b.must(b.Take(testkit.By("Ines"), read, intake.Import{New: in, Zone: "UTC"}))
		back, there, err := b.FindTab(in, "All & sundry")
		require.NoError(rt, err)
		journaled, err := b.Store().Journaled(t.Context(), store.Which{Tracker: back.ID, Limit: 10})
		require.NoError(rt, err)
		require.NotEmpty(rt, journaled, "what made a tracker is not in its journal")
		for i := range tab.Columns {
			require.Equal(rt, tab.Columns[i].Name, there.Columns[i].Name)
			require.Equal(rt, tab.Columns[i].Type, there.Columns[i].Type, tab.Columns[i].Name)
		}
		require.Equal(rt, sayRows(tr, tab), sayRows(back, there))
	})
}

// sayRows writes a tab's rows out with the names of columns.
func sayRows(t *sheet.Tracker, tab *sheet.TabShape) string {
	out := ""
	for r := range t.Rows(tab.ID) {
		for i := range tab.Columns {
			v := r.At(i)
			if v.IsBlank() {
				v = value.Value{} // white space alone is blank
			}
			out += fmt.Sprintf("%s=%s %q; ", tab.Columns[i].Name, v.Kind(), v)
		}
		for _, texts := range []map[sheet.ColumnID]string{r.Notes(), r.Styles()} {
			named := map[string]string{}
			for id, text := range maps.All(texts) {
				named[tab.ByID(id).Name] = text
			}
			out += fmt.Sprint(named)
		}
		out += "\n"
	}
	return out
}
