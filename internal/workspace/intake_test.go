package workspace_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/trigger"
)

const arriving = `
tracker: Files
zone: UTC
tabs:
  Log:       { columns: { File id: { type: text }, Name: { type: text }, Version: { type: number }, Kind: { type: text } } }
  Requested: { columns: { No: { type: text }, Object: { type: text }, Due: { type: date }, Value: { type: number } } }
rules:
  - name: Log what arrives
    wake: { file: intake/** }
    steps:
      - put: { tab: Log, key: File id, values: { File id: "{file.id}", Name: "{file.name}", Version: "{file.version}", Kind: "{file.extension}" } }
  - name: Take requests
    wake: { file: intake/requests*.csv }
    where: file.size > 0
    steps:
      - take: { tab: Requested, key: No }
      - write: { tab: Requested, where: Value > 5, columns: [Object, Value], file: "outbound/dear ones {today}.xlsx", totals: yes }
`

// arrive puts a file into the intake as one that has rested for a while.
func (b *bench) arrive(name, text string) {
	b.t.Helper()
	full := filepath.Join(b.dir, "intake", name)
	require.NoError(b.t, os.MkdirAll(filepath.Dir(full), 0o750))
	require.NoError(b.t, os.WriteFile(full, []byte(text), 0o600))
	rested := time.Now().Add(-time.Minute)
	require.NoError(b.t, os.Chtimes(full, rested, rested))
}

func (b *bench) look() {
	b.t.Helper()
	_, err := b.Look(b.t.Context())
	require.NoError(b.t, err)
}

// cellsOf gives a tab's rows as text.
func (b *bench) cellsOf(tracker, tab string) []string {
	b.t.Helper()
	t, shape, err := b.FindTab(tracker, tab)
	require.NoError(b.t, err)
	var out []string
	for r := range t.Rows(shape.ID) {
		var cells []string
		for i := range shape.Columns {
			cells = append(cells, r.At(i).String())
		}
		out = append(out, strings.Join(cells, "|"))
	}
	return out
}

var ulids = regexp.MustCompile(`[0-9A-Z]{26}`)

func (b *bench) log() []string {
	var out []string
	for _, line := range b.cellsOf("Files", "Log") {
		out = append(out, ulids.ReplaceAllString(line, "id"))
	}
	return out
}

func TestFilesThatArriveWakeRules(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(arriving)))
	b.arrive("requests 1.csv", "No,Object,Due,Value,Colour\r\nR1,Bell,2026-04-01,5\r\nR2,Horn,2026-04-02,7.5\r\n")
	b.arrive("~$requests 1.csv", "lock")
	b.arrive("deep/er/notes.txt", "hello")
	b.look()
	assert.ElementsMatch(t, []string{"id|requests 1.csv|1|csv", "id|notes.txt|1|txt"}, b.log(), "locks of office programs are no files")
	assert.Equal(t, []string{"R1|Bell|2026-04-01|5", "R2|Horn|2026-04-02|7.5"}, b.cellsOf("Files", "Requested"))
	written, err := formats.ReadFile(filepath.Join(b.dir, "outbound", "dear ones 2026-03-25.xlsx"))
	require.NoError(t, err)
	assert.Equal(t, "A1:B2", written.Sheets[0].Tables[0].Range.String())

	files, tab, err := b.FindTab("Files", "Requested")
	require.NoError(t, err)
	chain, err := b.Why(t.Context(), b.State(), everything, files.Page(tab.ID, 0, 1)[0].ID, 0)
	require.NoError(t, err)
	require.Len(t, chain, 2)
	assert.Equal(t, "because the file intake/requests 1.csv arrived or changed", chain[1].Says)

	before := b.State()
	b.look()
	assert.Same(t, before, b.State(), "what has been seen wakes nothing, nor does what Kavlo writes itself")

	b.arrive("requests 1.csv", "No,Object,Due,Value\r\nR1,Bell,2026-04-01,6\r\nR2,Horn,2026-04-02,7.5\r\nR3,Lamp,,1\r\n")
	b.look()
	assert.Contains(t, b.log(), "id|requests 1.csv|2|csv", "saved anew, it is the next version of the same file")
	assert.Len(t, b.log(), 2)
	assert.Equal(t, []string{"R1|Bell|2026-04-01|6", "R2|Horn|2026-04-02|7.5", "R3|Lamp||1"}, b.cellsOf("Files", "Requested"))
	_, err = os.Stat(filepath.Join(b.dir, "outbound", "dear ones 2026-03-25 (2).xlsx"))
	require.NoError(t, err, "a second file of the day does not write over the first")

	require.NoError(t, os.Rename(filepath.Join(b.dir, "intake", "requests 1.csv"), filepath.Join(b.dir, "intake", "old.csv")))
	b.look()
	assert.Contains(t, b.log(), "id|old.csv|2|csv", "renamed, it keeps its id and version")
	assert.Len(t, b.log(), 2)

	runs, err := b.Store().Runs(t.Context(), 0, "", 50)
	require.NoError(t, err)
	var says []string
	for _, r := range runs {
		says = append(says, string(r.Body))
	}
	all := strings.Join(says, "\n")
	assert.Contains(t, all, "took 2 rows of A1:E3: 2 added, 0 updated, 0 unchanged; the tab has no column Colour")
	assert.Contains(t, all, "wrote 1 rows to outbound/dear ones 2026-03-25.xlsx, A1:B2")
}

func TestWhatWasMissedWhileDownIsFound(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(arriving)))
	b.arrive("a.txt", "one")
	b.look()
	require.NoError(t, b.Close())
	b.arrive("a.txt", "two!")
	b.arrive("b.txt", "new")
	b.open()
	b.look()
	assert.ElementsMatch(t, []string{"id|a.txt|2|txt", "id|b.txt|1|txt"}, b.log())
}

func TestAFileStillBeingWrittenIsLeft(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(arriving)))
	require.NoError(t, os.MkdirAll(filepath.Join(b.dir, "intake"), 0o750))
	require.NoError(t, os.WriteFile(filepath.Join(b.dir, "intake", "half.txt"), []byte("ha"), 0o600))
	resting, err := b.Look(t.Context())
	require.NoError(t, err)
	assert.True(t, resting)
	assert.Empty(t, b.log())
	b.arrive("half.txt", "half and half")
	b.look()
	assert.Equal(t, []string{"id|half.txt|1|txt"}, b.log())
}

func TestABrokenFileIsOnRecordAndTheNextOneIsTaken(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(arriving)))
	b.arrive("requests 0.csv", "PK\x03\x04 this is no workbook")
	b.arrive("requests 1.csv", "No,Object\r\nR1,Bell\r\nR2,Horn\r\n")
	b.look()
	assert.Equal(t, []string{"R1|Bell||", "R2|Horn||"}, b.cellsOf("Files", "Requested"))
	failed, err := b.Store().FailedSince(t.Context(), time.Time{}, 5)
	require.NoError(t, err)
	require.Len(t, failed, 1)
	assert.Contains(t, string(failed[0].Body), "rule Take requests, step 1 (take), intake/requests 0.csv")
	assert.Contains(t, string(failed[0].Body), "not a workbook")
	b.look()
	again, err := b.Store().FailedSince(t.Context(), time.Time{}, 5)
	require.NoError(t, err)
	assert.Len(t, again, 1, "it is not tried again until it changes")
}

func TestFileRulesAreChecked(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(arriving)))
	files, err := b.Find("Files")
	require.NoError(t, err)
	for text, says := range map[string]string{
		"{ name: X, wake: { file: outbound/** }, steps: [ { take: { tab: Log, key: Name } } ] }":                    "only files that arrive there start rules",
		"{ name: X, wake: { file: intake/** }, in: Log, steps: [ { take: { tab: Log, key: Name } } ] }":             "has no rows",
		"{ name: X, wake: { file: intake/** }, steps: [ { set: { Name: a } } ] }":                                   "a file has none: put, take or tally",
		"{ name: X, wake: { file: intake/** }, where: file.siz > 1, steps: [ { take: { tab: Log, key: Name } } ] }": "file.size",
		"{ name: X, wake: { edit: [Name] }, steps: [ { take: { tab: Log, key: Name } } ] }":                         "only a rule that a file starts",
		"{ name: X, steps: [ { write: { tab: Log, file: x.xlsx, at: B2 } } ] }":                                     "write sheet and at",
		"{ name: X, steps: [ { write: { tab: Log, file: x.xlsx, sheet: S, at: 2B } } ] }":                           "not the name of a cell",
		"{ name: X, wake: { file: intake/** }, steps: [ { take: { tab: Log } } ] }":                                 "say by which column",
		"{ name: X, steps: [ { write: { tab: Log, where: Versoin > 1, file: x.xlsx } } ] }":                         "did you mean Version",
	} {
		_, err := b.Commit(t.Context(), b.PutDefinition(testkit.By("Ines"), files.ID, sheet.KindRule, []byte(text), 0))
		assert.ErrorContains(t, err, says, text)
	}
}

func TestFilesStayInTheirFolder(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(arriving)))
	files, err := b.Find("Files")
	require.NoError(t, err)
	run := func(file string) error {
		b.must(b.PutDefinition(testkit.By("Ines"), files.ID, sheet.KindRule, []byte(fmt.Sprintf("{ name: Out, steps: [ { write: { tab: Log, file: %q } } ] }", file)), 0))
		files, err = b.Find("Files")
		require.NoError(t, err)
		r, err := b.FindRule(files, "Out")
		require.NoError(t, err)
		_, err = b.Commit(t.Context(), b.RunRule(testkit.By("Ines"), files, r))
		return err
	}
	for _, file := range []string{"../out.xlsx", "a/../../out.xlsx", `..\out.xlsx`} {
		require.ErrorContains(t, run(file), "leads out of its folder", file)
	}
	require.ErrorContains(t, run("out.pdf"), "says no form")
	require.NoError(t, run(`C:\deep\con?.csv`))
	_, err = os.Stat(filepath.Join(b.dir, "outbound", "C", "deep", "_con.csv"))
	require.NoError(t, err)
	entries, err := os.ReadDir(b.dir)
	require.NoError(t, err)
	for _, e := range entries {
		assert.NotContains(t, e.Name(), "out.", "nothing beside the folder")
	}
}

// A workbook with a chart gets new numbers, and keeps all else.
func TestRowsArePutIntoAWorkbookThatIsThere(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(arriving)))
	files, err := b.Find("Files")
	require.NoError(t, err)
	tab, err := files.Tab("Requested")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), files.ID, tab.ID, []map[string]any{{"No": "R1", "Object": "=Bell", "Value": "5.5", "Due": "2026-04-01"}, {"No": "R2", "Object": "Horn", "Value": "7"}}))
	chart, err := os.ReadFile("testdata/chart.xlsx")
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(filepath.Join(b.dir, "outbound"), 0o750))
	full := filepath.Join(b.dir, "outbound", "report.xlsx")
	require.NoError(t, os.WriteFile(full, chart, 0o600))
	write := func(sheetName, over string) (string, error) {
		rule := fmt.Sprintf("{ name: Report, steps: [ { write: { tab: Requested, columns: [Object, Value, Due], file: report.xlsx, sheet: %s, at: B3, bare: yes, over: %s } } ] }", sheetName, over)
		b.must(b.PutDefinition(testkit.By("Ines"), files.ID, sheet.KindRule, []byte(rule), 0))
		files, err = b.Find("Files")
		require.NoError(t, err)
		r, err := b.FindRule(files, "Report")
		require.NoError(t, err)
		done, err := b.Commit(t.Context(), b.RunRule(testkit.By("Ines"), files, r))
		if err != nil {
			return "", err
		}
		return trigger.OutcomeOf(done.Note.Report).Reports[0].Steps[0].Says, nil
	}
	_, err = write("Figurs", "yes")
	require.ErrorContains(t, err, `there is no sheet "Figurs" in the workbook: did you mean Figures?`)
	now, err := os.ReadFile(full)
	require.NoError(t, err)
	assert.Equal(t, chart, now, "nothing was written")
	_, err = write("Figures", "no")
	require.ErrorContains(t, err, `such as "Bell" at B3: say over: yes`)
	says, err := write("Figures", "yes")
	require.NoError(t, err)
	assert.Equal(t, `wrote 2 rows to outbound/report.xlsx, Figures!B3:D4, over what stood there, such as "Bell" at B3`, says)
	now, err = os.ReadFile(full)
	require.NoError(t, err)
	parts := zipParts(t, now)
	for name, text := range zipParts(t, chart) {
		if strings.Contains(name, "chart") || strings.Contains(name, "drawing") {
			assert.NotEmpty(t, parts[name], name)
			assert.Equal(t, strings.Contains(text, "Figures!$C$3:$C$6"), strings.Contains(parts[name], "Figures!$C$3:$C$6"), name)
		}
	}
	r, err := formats.ReadFile(full)
	require.NoError(t, err)
	g := r.Sheets[0].Grid()
	for at, want := range map[string]string{"B3": "=Bell", "C3": "5.5", "D3": "2026-04-01", "B4": "Horn", "C4": "7", "B5": "Gull", "C5": "30", "B2": "Name"} {
		row, col := int(at[1]-'1'), int(at[0]-'A')
		assert.Equal(t, want, g.At(row, col).Value.String(), at)
		assert.False(t, g.At(row, col).Formula, at)
	}
	assert.Equal(t, "Other", r.Sheets[1].Name)
}

func zipParts(t *testing.T, raw []byte) map[string]string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	out := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		require.NoError(t, r.Close())
		out[f.Name] = string(text)
	}
	return out
}
