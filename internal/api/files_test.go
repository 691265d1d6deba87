package api

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"net/http"
	"net/url"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

func sampleFile(t *testing.T, name string) []byte {
	t.Helper()
	raw, err := os.ReadFile("../formats/testdata/" + name)
	require.NoError(t, err)
	return raw
}

func corrections(t *testing.T, said ...map[string]any) string {
	t.Helper()
	text, err := json.Marshal(said)
	require.NoError(t, err)
	return url.QueryEscape(string(text))
}

func TestAFileIsReadAndNothingIsStored(t *testing.T) {
	r := newRig(t)
	before := r.workspace.State()
	raw := sampleFile(t, "venue-sheet.xlsx")
	var read wire.Reading
	r.call("reader", "POST", "/readings?name=..%2F..%2Fvenue-sheet.xlsx", raw).into(t, &read)
	assert.Equal(t, "venue-sheet.xlsx", read.File, "a name leads nowhere")
	require.Len(t, read.Sheets, 1)
	s := read.Sheets[0]
	require.Len(t, s.Tables, 1)
	assert.Equal(t, "C6:H25", s.Tables[0].Range)
	assert.Equal(t, "Height (cm)", s.Tables[0].Columns[2].Name)
	assert.Equal(t, "Wall", s.Cells[5][2], "the picture shows the sheet from A1 on")
	assert.NotEmpty(t, s.LeftOut)
	assert.Same(t, before, r.workspace.State())

	var again wire.Reading
	r.call("reader", "POST", "/readings?name=v.xlsx&corrections="+corrections(t, map[string]any{"sheet": s.Name, "table": 1, "range": "C6:F9", "columns": []any{map[string]any{"column": 4, "type": "text"}}}), raw).into(t, &again)
	assert.Equal(t, 3, again.Sheets[0].Tables[0].Rows)
	assert.Equal(t, "text", again.Sheets[0].Tables[0].Columns[3].Type)
}

// bomb is a small file that unpacks to very much.
func bomb(t *testing.T) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	w, err := z.Create("xl/worksheets/sheet1.xml")
	require.NoError(t, err)
	_, err = w.Write(make([]byte, 64<<20))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return out.Bytes()
}

func TestFilesThatCannotBeReadAreClearProblems(t *testing.T) {
	r := newRig(t)
	whole := sampleFile(t, "loans-plain.xlsx")
	locked := append([]byte{0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1}, make([]byte, 600)...)
	for _, c := range "EncryptedPackage" {
		locked = append(locked, byte(c), 0)
	}
	for says, tc := range map[string]struct {
		query string
		body  []byte
	}{
		"cut short":                   {"name=a.xlsx", whole[:len(whole)/2]},
		"protected by a password":     {"name=a.xlsx", locked},
		"not a text file":             {"name=a.csv", []byte{1, 0, 2, 0, 3, 0, 0, 9}},
		"unknown field":               {"name=a.xlsx&corrections=" + corrections(t, map[string]any{"sheeet": "x"}), whole},
		`there is no sheet "Nowhere"`: {"name=a.xlsx&corrections=" + corrections(t, map[string]any{"sheet": "Nowhere", "table": 1}), whole},
		"goes beyond the sheet":       {"name=a.xlsx&corrections=" + corrections(t, map[string]any{"sheet": "Requested", "table": 1, "range": "A1:B999999"}), whole},
		"larger than can be read":     {"name=a.xlsx", bomb(t)},
		"the file is empty":           {"name=a.xlsx", nil},
	} {
		before := r.workspace.State()
		for _, path := range []string{"/readings?", "/trackers/Loans/imports?", "/trackers/Fresh/imports?new=yes&"} {
			p := r.call("keeper", "POST", path+tc.query, tc.body).problem(t)
			assert.Equal(t, http.StatusUnprocessableEntity, p.Status, says)
			assert.Contains(t, p.Detail, says)
		}
		assert.Same(t, before, r.workspace.State(), "nothing is stored of it")
	}
}

func TestAFileIsTakenInAsAPersonPutItRight(t *testing.T) {
	r := newRig(t)
	raw := sampleFile(t, "loans-plain.xlsx")
	said := corrections(t, map[string]any{"sheet": "Requested", "table": 1, "range": "A1:G11", "tab": "Spring", "key": "Number", "columns": []any{
		map[string]any{"column": 1, "name": "Number"}, map[string]any{"column": 7, "leave_out": true}}})
	var set wire.ChangeSet
	r.call("keeper", "POST", "/trackers/Files/imports?new=yes&name=l.xlsx&preview=yes&corrections="+said, raw).into(t, &set)
	assert.True(t, set.Preview)
	a := r.call("keeper", "POST", "/trackers/Files/imports?new=yes&name=l.xlsx&corrections="+said, raw)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var rows wire.Rows
	r.call("reader", "GET", "/trackers/Files/tabs/Spring/rows", nil).into(t, &rows)
	assert.Equal(t, 10, rows.Total)
	assert.Contains(t, rows.Rows[0].Cells, "Number")
	assert.NotContains(t, rows.Rows[0].Cells, "Image")
	a = r.call("editor", "POST", "/trackers/Files/imports?name=l.xlsx&corrections="+said, raw)
	a.into(t, &set)
	assert.Empty(t, set.Changes, "by its key, the same file again changes nothing")
}

func TestTabsGoOutInEveryForm(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	r.add("=Horn")
	a := r.call("reader", "GET", "/trackers/Loans/export?tab=Requested&format=csv&columns=Object,Due", nil)
	assert.Equal(t, "Object,Due\r\nBell,2026-03-01\r\n'=Horn,2026-03-01\r\n", string(a.body))
	assert.Equal(t, "text/csv; charset=utf-8", a.Header.Get("Content-Type"))
	assert.Equal(t, `attachment; filename=Requested.csv`, a.Header.Get("Content-Disposition"))

	a = r.call("reader", "GET", "/trackers/Loans/export?tab=Requested&format=json&where=Object%20is%20%22Bell%22", nil)
	var rows []wire.Row
	a.into(t, &rows)
	require.Len(t, rows, 1)
	assert.Equal(t, "Bell", rows[0].Cells["Object"])

	a = r.call("reader", "GET", "/trackers/Loans/export", nil)
	require.Equal(t, 200, a.StatusCode)
	var read wire.Reading
	r.call("reader", "POST", "/readings?name=l.xlsx", a.body).into(t, &read)
	require.Len(t, read.Sheets, 3)
	assert.Equal(t, "Agreed now", read.Sheets[1].Name, "what a sheet cannot be called is a space")
	assert.Equal(t, []string{"Requested", "Agreed", "Lost"}, read.Sheets[0].Tables[0].Columns[1].Choices)
	assert.Equal(t, "number", read.Sheets[0].Tables[0].Columns[4].Type, "what is computed goes out as it is now")

	for query, says := range map[string]string{"format=csv": "CSV holds one table, and Loans has 3 tabs", "tab=Requestd": "did you mean Requested", "tab=Requested&where=Objct%20is%20blank": "did you mean Object", "tab=Requested&columns=Objct": "did you mean Object"} {
		p := r.call("reader", "GET", "/trackers/Loans/export?"+query, nil).problem(t)
		assert.Contains(t, p.Detail+" "+p.Hint, says)
	}
}

// A file waits in a folder while it is read, and is gone afterwards.
func TestAFileTooLargeIsRefusedAndNoneIsLeftBehind(t *testing.T) {
	room := t.TempDir()
	t.Setenv("TMPDIR", room)
	r := newRig(t)
	for _, path := range []string{"/readings?name=a.csv", "/trackers/Loans/imports?name=a.csv"} {
		p := r.call("editor", "POST", path, make([]byte, MaxUpload+1)).problem(t)
		assert.Equal(t, http.StatusRequestEntityTooLarge, p.Status)
		assert.Contains(t, p.Detail, "at most 64 MB")
	}
	r.call("editor", "POST", "/readings?name=a.csv", []byte("Object,Due\nBell,2026-03-01\n")).into(t, &wire.Reading{})
	left, err := os.ReadDir(room)
	require.NoError(t, err)
	assert.Empty(t, left)
}
