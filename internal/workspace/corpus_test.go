package workspace_test

import (
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/testkit"
)

// Each file of the corpus is imported, and what the import says accounts for every cell
// that holds something: it is in a table, or named as left out.
func TestImportsAccountForEveryCell(t *testing.T) {
	files, err := filepath.Glob("../formats/testdata/*/*.xlsx")
	require.NoError(t, err)
	require.Greater(t, len(files), 60)
	b := newBench(t)
	for _, path := range files {
		name := strings.TrimSuffix(filepath.Base(path), ".xlsx")
		read, err := formats.ReadFile(path)
		require.NoError(t, err, name)
		holds := false
		for i := range read.Sheets {
			holds = holds || len(read.Sheets[i].Tables) > 0 && !read.Sheets[i].Hidden
		}
		grids := map[string]*reading.Grid{}
		for i := range read.Sheets {
			grids[read.Sheets[i].Name] = read.Sheets[i].Grid()
		}
		filled := map[string][][2]int{} // asked before the import, which gives the cells up
		for sheet, g := range grids {
			for row := range g.Height() {
				for col := range g.Width(row) {
					if !g.At(row, col).Value.IsBlank() {
						filled[sheet] = append(filled[sheet], [2]int{row, col})
					}
				}
			}
		}
		req := b.Take(testkit.By("Ines"), read, intake.Import{New: name, Zone: "UTC"})
		if !holds {
			_, err := b.Commit(t.Context(), req)
			require.ErrorContains(t, err, "holds no table", name)
			continue
		}
		detail := b.must(req).Note.Detail.(*intake.ImportDetail)
		covered := map[string][]reading.Range{}
		cover := func(sheet, at string) {
			r, err := reading.ParseRange(at)
			require.NoError(t, err)
			covered[sheet] = append(covered[sheet], r)
		}
		for _, table := range detail.Tables {
			cover(table.Sheet, table.Range)
			for _, l := range table.LeftOut {
				cover(table.Sheet, l.Range.String())
			}
		}
		for _, l := range detail.LeftOut {
			cover(l.Sheet, l.Range)
		}
		for sheet, cells := range filled {
			for _, c := range cells {
				in := false
				for _, r := range covered[sheet] {
					in = in || r.Top <= c[0] && c[0] <= r.Bottom && r.Left <= c[1] && c[1] <= r.Right
				}
				assert.True(t, in, "%s: %s!%s is neither taken nor named", name, sheet, reading.CellName(c[0], c[1]))
			}
		}
	}
}
