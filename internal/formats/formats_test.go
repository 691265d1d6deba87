package formats_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/testkit"
)

// expected is the reading that a person gives of a sample file.
type expected struct {
	File   string
	Sheets []struct {
		Name   string
		Tables []struct {
			Range      string
			HeaderRows int `json:"header_rows"`
			Headers    []string
			Rows       int
			Types      map[string]any // a type, or several of which any is fine
			Choices    map[string][]string
			Odd        map[string]int
			Notes      []struct{ Cell, Text string }
			Looks      []struct{ Cell, Look string }
			First      map[string]string // values of the first row
			Filled     string            // a column of which no cell is blank
		}
	}
}

// The samples were written by other programs than the library that Kavlo
// writes with; testdata/awkward/make.py says what each is about, and
// testdata/corpus/make.py writes each of its layouts by four of them.
func TestFilesAreReadAsAPersonReadsThem(t *testing.T) {
	for _, dir := range []string{"testdata", "testdata/awkward", "testdata/corpus"} {
		text, err := os.ReadFile(filepath.Join(dir, "expected.json"))
		require.NoError(t, err)
		var files []expected
		require.NoError(t, json.Unmarshal(text, &files))
		require.NotEmpty(t, files)
		for _, want := range files {
			t.Run(want.File, func(t *testing.T) { checkReading(t, filepath.Join(dir, want.File), &want) })
		}
	}
}

func checkReading(t *testing.T, path string, want *expected) {
	t.Helper()
	got, err := formats.ReadFile(path)
	require.NoError(t, err)
	require.Len(t, got.Sheets, len(want.Sheets))
	for i, sheet := range want.Sheets {
		assert.Empty(t, testkit.Unaccounted(&got.Sheets[i]), "cells of %s that are neither in a table nor named", sheet.Name)
		assert.Equal(t, sheet.Name, got.Sheets[i].Name)
		require.Len(t, got.Sheets[i].Tables, len(sheet.Tables), "tables of %s", sheet.Name)
		for j, table := range sheet.Tables {
			found := &got.Sheets[i].Tables[j]
			assert.Equal(t, table.Range, found.Range.String(), sheet.Name)
			assert.Equal(t, table.HeaderRows, found.HeaderRows, sheet.Name)
			assert.Equal(t, table.Headers, found.Headers, sheet.Name)
			assert.Equal(t, table.Rows, found.Rows, sheet.Name)
			records := testkit.Records(&got.Sheets[i], found)
			assert.Len(t, records, table.Rows)
			for n, c := range found.Columns {
				assert.Contains(t, anyOf(table.Types[c.Name]), c.Type, "type of %s", c.Name)
				assert.Len(t, c.Odd, table.Odd[c.Name], "odd cells of %s", c.Name)
				if choices := table.Choices[c.Name]; choices != nil {
					assert.Equal(t, choices, c.Choices)
				}
				if first := table.First[c.Name]; first != "" {
					assert.Equal(t, first, records[0].Cells[n].String())
				}
				if table.Filled == c.Name {
					for _, r := range records {
						assert.False(t, r.Cells[n].IsBlank(), "row %d", r.Row)
					}
				}
			}
			if table.Looks != nil {
				assert.ElementsMatch(t, table.Looks, looksOf(records, found), sheet.Name)
			}
			for _, n := range table.Notes {
				assert.Equal(t, n.Text, noteAt(&got.Sheets[i], found, n.Cell))
			}
		}
	}
}

func anyOf(v any) []string {
	if s, ok := v.(string); ok {
		return []string{s}
	}
	var out []string
	for _, s := range v.([]any) {
		out = append(out, s.(string))
	}
	return out
}

func looksOf(records []reading.Record, t *reading.Table) (out []struct{ Cell, Look string }) {
	for _, rec := range records {
		for i, look := range rec.Styles {
			if look != "" {
				out = append(out, struct{ Cell, Look string }{reading.CellName(rec.Row, t.Range.Left+i), look})
			}
		}
	}
	return out
}

func noteAt(s *reading.Sheet, t *reading.Table, cell string) string {
	for rec := range s.Records(t) {
		for i, note := range rec.Notes {
			if reading.CellName(rec.Row, t.Range.Left+i) == cell {
				return note
			}
		}
	}
	return ""
}

func allBytes() []byte {
	out := make([]byte, 4096)
	for i := range out {
		out[i] = byte(i)
	}
	return out
}

func TestBrokenFilesSayWhatIsWrong(t *testing.T) {
	whole, err := os.ReadFile("testdata/loans-plain.xlsx")
	require.NoError(t, err)
	for name, tc := range map[string]struct {
		content []byte
		says    string
	}{
		"cut.xlsx":    {whole[:len(whole)/2], "cut short"},
		"locked.xlsx": {slices.Concat([]byte{0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1}, make([]byte, 600), []byte("E\x00n\x00c\x00r\x00y\x00p\x00t\x00e\x00d\x00P\x00a\x00c\x00k\x00a\x00g\x00e\x00")), "password"},
		"old.xls":     {slices.Concat([]byte{0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1}, make([]byte, 600)), "old binary form"},
		"page.xls":    {[]byte("\ufeff\r\n<html><table><tr><td>1</td></tr></table></html>"), "this is a web page"},
		"sheet.xml":   {[]byte("<?xml version='1.0'?><Workbook/>"), "an XML document"},
		"paper.csv":   {[]byte("%PDF-1.7"), "a document"},
		"binary.csv":  {[]byte{1, 0, 2, 0, 3}, "not a text file"},
		"bytes.csv":   {allBytes(), "not a text file"},
		"empty.xlsx":  {nil, "the file is empty"},
	} {
		t.Run(name, func(t *testing.T) {
			path := filepath.Join(t.TempDir(), name)
			require.NoError(t, os.WriteFile(path, tc.content, 0o600))
			_, err := formats.ReadFile(path)
			require.ErrorContains(t, err, tc.says)
			assert.ErrorContains(t, err, name)
		})
	}
}
