package workspace_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/output"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/trigger"
)

// fromTemplate is a bench with a tracker of fees and a template for them.
func fromTemplate(t *testing.T) *bench {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(`
tracker: Fees
zone: UTC
tabs:
  Open: { columns: { Hall: { type: text }, Item: { type: text }, Fee: { type: number }, Due: { type: date } } }
`)))
	tr, tab, err := b.FindTab("Fees", "Open")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, []map[string]any{
		{"Hall": "Pier", "Item": "Bell", "Fee": 5, "Due": "2026-04-01"}, {"Hall": "Pier", "Item": "Horn", "Fee": 7}, {"Hall": "Mill", "Item": "Lamp", "Fee": 9}}))
	require.NoError(t, os.MkdirAll(filepath.Join(b.dir, "templates"), 0o750))
	f := excelize.NewFile()
	for cell, v := range map[string]any{"A1": "Fees of {today}", "C1": "{count in Open}", "A3": "Item", "B3": "Fee", "A4": "{Item}", "B4": "{Fee}", "C4": "{Due}", "D4": "for {Hall}", "A5": "Total", "A7": "Without tax"} {
		require.NoError(t, f.SetCellValue("Sheet1", cell, v))
	}
	require.NoError(t, f.SetCellFormula("Sheet1", "B5", "SUM(B4:B4)"))
	require.NoError(t, f.SetCellFormula("Sheet1", "E4", "B4*2"))
	require.NoError(t, f.SaveAs(filepath.Join(b.dir, "templates", "month.xlsx")))
	return b
}

// write runs a rule of one write step, and says what became of it.
func (b *bench) write(step string) (string, error) {
	b.t.Helper()
	fees, err := b.Find("Fees")
	require.NoError(b.t, err)
	rule := b.PutDefinition(testkit.By("Ines"), fees.ID, sheet.KindRule, []byte(fmt.Sprintf("{ name: Out, steps: [ { write: %s } ] }", step)), 0)
	if _, err = b.Commit(b.t.Context(), rule); err != nil {
		return "", err
	}
	fees, err = b.Find("Fees")
	require.NoError(b.t, err)
	r, err := b.FindRule(fees, "Out")
	require.NoError(b.t, err)
	done, err := b.Commit(b.t.Context(), b.RunRule(testkit.By("Ines"), fees, r))
	if err != nil {
		return "", err
	}
	return trigger.OutcomeOf(done.Note.Report).Reports[0].Steps[0].Says, nil
}

func (b *bench) cells(name string, cells ...string) []string {
	b.t.Helper()
	f, err := excelize.OpenFile(filepath.Join(b.dir, "outbound", name))
	require.NoError(b.t, err)
	defer f.Close()
	var out []string
	for _, c := range cells {
		v, err := f.GetCellValue("Sheet1", c)
		require.NoError(b.t, err)
		out = append(out, v)
	}
	return out
}

// A new workbook is made of a template: its holes are filled, a row of it is repeated for
// each row, and its own formulas add up.
func TestAWorkbookIsMadeOfATemplate(t *testing.T) {
	b := fromTemplate(t)
	says, err := b.write(`{ tab: Open, from: templates/month.xlsx, file: "month {today}.xlsx" }`)
	require.NoError(t, err)
	assert.Equal(t, "wrote 3 rows to outbound/month 2026-03-25.xlsx, from templates/month.xlsx, 6 holes filled, rows at Sheet1!A4:E6", says)
	assert.Equal(t, []string{"Fees of 2026-03-25", "3", "Bell", "5", "for Pier", "10", "Lamp", "9", "for Mill", "18", "Total", "21", "Without tax"},
		b.cells("month 2026-03-25.xlsx", "A1", "C1", "A4", "B4", "D4", "E4", "A6", "B6", "D6", "E6", "A7", "B7", "A9"))
	_, err = b.write(`{ tab: Open, where: Fee > 100, from: templates/month.xlsx, file: none.xlsx }`)
	require.NoError(t, err)
	assert.Equal(t, []string{"", "Total", "0"}, b.cells("none.xlsx", "A4", "A5", "B5"))
	_, err = b.write(`{ tab: Open, from: templates/year.xlsx, file: year.xlsx }`)
	require.ErrorContains(t, err, "there is no such workbook: put it into the folder templates")
	_, err = b.write(`{ tab: Open, from: "templates/../kavlo.xlsx", file: year.xlsx }`)
	require.ErrorContains(t, err, "is no workbook below templates/")
}

// Where the file's name asks for columns, there is a file for each name.
func TestAFileForEachGroupOfRows(t *testing.T) {
	b := fromTemplate(t)
	says, err := b.write(`{ tab: Open, from: templates/month.xlsx, file: "cards/{Hall}.xlsx" }`)
	require.NoError(t, err)
	assert.Contains(t, says, "wrote 2 rows to outbound/cards/Pier.xlsx")
	assert.Contains(t, says, "wrote 1 rows to outbound/cards/Mill.xlsx")
	assert.Equal(t, []string{"Bell", "Horn", "12"}, b.cells("cards/Pier.xlsx", "A4", "A5", "B6"))
	assert.Equal(t, []string{"Lamp", "9"}, b.cells("cards/Mill.xlsx", "A4", "B5"))
	says, err = b.write(`{ tab: Open, where: Fee > 100, empty: skip, file: "late {today}.xlsx" }`)
	require.NoError(t, err)
	assert.Equal(t, "no rows: nothing was written", says)
	_, err = os.Stat(filepath.Join(b.dir, "outbound", "late 2026-03-25.xlsx"))
	require.ErrorIs(t, err, os.ErrNotExist)
}

func TestAMistakeInATemplateIsNamedByItsCell(t *testing.T) {
	b := fromTemplate(t)
	f := excelize.NewFile()
	require.NoError(t, f.SetCellValue("Sheet1", "B2", "{Itm}"))
	require.NoError(t, f.SaveAs(filepath.Join(b.dir, "templates", "odd.xlsx")))
	_, err := b.write(`{ tab: Open, from: templates/odd.xlsx, file: odd.xlsx }`)
	require.ErrorContains(t, err, `template templates/odd.xlsx: sheet Sheet1: cell B2: there is no column "Itm" in Open: did you mean Item?`)
}

// Figures go beside their labels; labels that are not there are named, or added.
func TestFiguresGoBesideTheirLabels(t *testing.T) {
	b := fromTemplate(t)
	f := excelize.NewFile()
	for cell, v := range map[string]any{"B2": "Open fees:", "C2": 1, "B4": "Halls", "D4": "kept"} {
		require.NoError(t, f.SetCellValue("Sheet1", cell, v))
	}
	require.NoError(t, os.MkdirAll(filepath.Join(b.dir, "outbound"), 0o750))
	require.NoError(t, f.SaveAs(filepath.Join(b.dir, "outbound", "board.xlsx")))
	step := `{ tab: Open, file: board.xlsx, sheet: Sheet1, labels: { Open fees: "{sum Fee in Open}", Halls: "{count distinct Hall in Open}", Late: "{count in Open where Due before 2026-01-01}" }%s }`
	says, err := b.write(fmt.Sprintf(step, ""))
	require.NoError(t, err)
	assert.Contains(t, says, "Sheet1: 2 figures set by their labels; no cell says Late")
	assert.Equal(t, []string{"21", "2", "kept", ""}, b.cells("board.xlsx", "C2", "C4", "D4", "B5"))
	says, err = b.write(fmt.Sprintf(step, ", insert: yes"))
	require.NoError(t, err)
	assert.Contains(t, says, "added Late")
	assert.Equal(t, []string{"Late", "0"}, b.cells("board.xlsx", "B5", "C5"))
}

// Workbooks may lie in a folder that the service was told of: they are written into, made
// others of and put back there, and what stands in a cell leads to no such folder.
func TestWorkbooksOfAFolderElsewhere(t *testing.T) {
	b := fromTemplate(t)
	_, err := b.write(`{ tab: Open, file: /srv/books/list.csv }`)
	require.ErrorContains(t, err, `"/srv/books/list.csv" is in no folder that files may be written into: name it below the folder outbound, or start the service with --file-folder`)

	books, away := t.TempDir(), t.TempDir()
	text, err := os.ReadFile(filepath.Join(b.dir, "templates", "month.xlsx"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(books, "form.xlsx"), text, 0o640))
	require.NoError(t, os.Symlink(away, filepath.Join(books, "out")))
	b.files = []string{books}
	b.reopen()
	says, err := b.write(fmt.Sprintf(`{ tab: Open, from: %[1]s/form.xlsx, file: "%[1]s/cards/{Hall}.xlsx", replace: yes }`, books))
	require.NoError(t, err)
	assert.Contains(t, says, "wrote 2 rows to "+books+"/cards/Pier.xlsx, from "+books+"/form.xlsx")
	says, err = b.write(fmt.Sprintf(`{ tab: Open, file: %[1]s/form.xlsx, sheet: Ledger, at: B2 }`, books))
	require.NoError(t, err)
	assert.Equal(t, "wrote 3 rows to "+books+"/form.xlsx, Ledger!B2:E5, on a new sheet", says)
	info, err := os.Stat(filepath.Join(books, "form.xlsx"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o640), info.Mode(), "whoever could read it still can")

	fees, err := b.Find("Fees")
	require.NoError(t, err)
	all, err := b.Snapshots(t.Context(), fees)
	require.NoError(t, err)
	require.Len(t, all, 3)
	for _, s := range all {
		assert.True(t, strings.HasPrefix(s.Path, books) && !s.Gone, s.Path)
	}
	versions, err := b.Store().Versions(t.Context(), fees.ID, books+"/form.xlsx")
	require.NoError(t, err)
	require.Len(t, versions, 1)
	set, err := b.FindSet(t.Context(), versions[0].Run)
	require.NoError(t, err)
	req, err := b.Undo(t.Context(), testkit.By("Ines"), set, false)
	require.NoError(t, err)
	b.must(req)
	now, err := os.ReadFile(filepath.Join(books, "form.xlsx"))
	require.NoError(t, err)
	assert.Equal(t, text, now)

	_, err = b.write(fmt.Sprintf(`{ tab: Open, file: %s/out/list.csv }`, books))
	require.ErrorContains(t, err, "escapes")
	_, err = b.write(fmt.Sprintf(`{ tab: Open, file: %s/../list.csv }`, books))
	require.ErrorContains(t, err, "leads out of its folder")
	fees, tab, err := b.FindTab("Fees", "Open")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), fees.ID, tab.ID, []map[string]any{{"Hall": books + "/theirs", "Item": "Gull"}}))
	says, err = b.write(`{ tab: Open, where: Item is "Gull", file: "{Hall}.csv" }`)
	require.NoError(t, err)
	assert.NotContains(t, says, " "+books)
	assert.NoFileExists(t, filepath.Join(books, "theirs.csv"))

	for folder, why := range map[string]string{
		"books": "give its full path", filepath.Join(books, "form.xlsx"): "it is not a folder", filepath.Dir(b.dir): "it holds the data folder",
		filepath.Join(b.dir, "outbound"): "or lies in it", filepath.Join(books, "none"): "no such file",
	} {
		require.ErrorContains(t, output.CheckFolder(b.dir, folder), why)
	}
}

// A file that is written over is kept as it was; undoing the run puts it back, and a
// preview says what would be written, and fails where the run would.
func TestAFileWrittenOverIsKeptAndPutBack(t *testing.T) {
	b := fromTemplate(t)
	_, err := b.write(`{ tab: Open, file: list.csv, replace: yes }`)
	require.NoError(t, err)
	first, err := b.Read("list.csv")
	require.NoError(t, err)
	fees, tab, err := b.FindTab("Fees", "Open")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), fees.ID, tab.ID, []map[string]any{{"Hall": "Quay", "Item": "Gull", "Fee": 1}}))
	fees, err = b.Find("Fees")
	require.NoError(t, err)
	rule, err := b.FindRule(fees, "Out")
	require.NoError(t, err)
	preview, err := b.Preview(t.Context(), b.RunRule(testkit.By("Ines"), fees, rule))
	require.NoError(t, err)
	assert.Equal(t, "would write 4 rows to outbound/list.csv, A1:D5", trigger.OutcomeOf(preview.Note.Report).Writes[0].Would)
	again := b.must(b.RunRule(testkit.By("Ines"), fees, rule))
	second, err := b.Read("list.csv")
	require.NoError(t, err)
	assert.NotEqual(t, first, second)
	versions, err := b.Store().Versions(t.Context(), fees.ID, "list.csv")
	require.NoError(t, err)
	require.Len(t, versions, 1)
	assert.Equal(t, again.Run, versions[0].Run)
	kept, err := b.ReadVersion("list.csv", 1)
	require.NoError(t, err)
	assert.Equal(t, first, kept)

	undo := func(run string) string {
		set, err := b.FindSet(t.Context(), run)
		require.NoError(t, err)
		req, err := b.Undo(t.Context(), testkit.By("Ines"), set, false)
		require.NoError(t, err)
		return b.must(req).Run
	}
	undone := undo(again.Run)
	now, err := b.Read("list.csv")
	require.NoError(t, err)
	assert.Equal(t, first, now)
	undo(undone)
	now, err = b.Read("list.csv")
	require.NoError(t, err)
	assert.Equal(t, second, now, "and that, too, can be undone")

	require.NoError(t, os.Remove(filepath.Join(b.dir, "versions", "list.csv", "1.csv")))
	set, err := b.FindSet(t.Context(), again.Run)
	require.NoError(t, err)
	req, err := b.Undo(t.Context(), testkit.By("Ines"), set, false)
	require.NoError(t, err)
	_, err = b.Commit(t.Context(), req)
	require.ErrorContains(t, err, "outbound/list.csv as it was before is not kept any more")
	req, err = b.Undo(t.Context(), testkit.By("Ines"), set, true)
	require.NoError(t, err)
	b.must(req)

	for _, at := range []string{"2026-07-28 06:30", "2026-07-28 08:00"} {
		b.clock.set(at)
		_, err = b.Tick(t.Context())
		require.NoError(t, err)
	}
	versions, err = b.Store().Versions(t.Context(), fees.ID, "list.csv")
	require.NoError(t, err)
	require.Len(t, versions, 1, "of what is long past the newest stays")
	files, err := os.ReadDir(filepath.Join(b.dir, "versions", "list.csv"))
	require.NoError(t, err)
	require.Len(t, files, 1)

	b.must(b.LoadSetup(testkit.By("Ines"), []byte("tracker: Other\nzone: UTC\ntabs: { Open: { columns: { Item: { type: text } } } }\nrules:\n  - { name: Out, steps: [ { write: { tab: Open, file: list.csv, replace: yes } } ] }")))
	other, err := b.Find("Other")
	require.NoError(t, err)
	rule, err = b.FindRule(other, "Out")
	require.NoError(t, err)
	_, err = b.Commit(t.Context(), b.RunRule(testkit.By("Ines"), other, rule))
	require.ErrorContains(t, err, "outbound/list.csv is written by a rule of tracker Fees: give the file another name")
}
