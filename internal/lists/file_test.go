package lists_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/lists"
	"example.org/kavlo/internal/reconcile"
)

func TestFilesAreLists(t *testing.T) {
	workspace := t.TempDir()
	dir := filepath.Join(workspace, lists.Folder)
	require.NoError(t, os.Mkdir(dir, 0o700))
	write := func(name, text string) {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	write("lenders.csv", "Register of lenders\n\nNo;Name;Fee;Until\n007;Quillmoor;1.250,50;31.03.2026\n008;Hask;TBC;01.04.2026\n009;Tarn;3,25;15.05.2026\n;;;\n")
	write("lenders.json", "\ufeff{\"all\": [{\"No\": \"007\", \"Name\": \"Quillmoor\"}]}")
	write("broken.json", `{"all": [`)
	write("empty.csv", "")
	book := excelize.NewFile()
	require.NoError(t, book.SetSheetName("Sheet1", "Lenders"))
	for i, row := range [][]any{{"No", "Name", "Fee"}, {"007", "Quillmoor", 1250.5}, {"008", "Hask", 3}} {
		require.NoError(t, book.SetSheetRow("Lenders", fmt.Sprintf("B%d", i+3), &row))
	}
	require.NoError(t, book.SaveAs(filepath.Join(dir, "lenders.xlsx")))
	c := quick()
	c.Dir = workspace
	for name, want := range map[string]int{"lenders.csv": 3, "lenders.json": 1, "lenders.xlsx": 2} {
		got, err := c.Fetch(t.Context(), &reconcile.List{File: "lists/" + name, Items: map[string]string{"lenders.json": "/all"}[name], ID: "No"})
		require.NoError(t, err, name)
		require.Len(t, got, want, name)
		doc := got[0].Doc.(map[string]any)
		assert.Equal(t, "007", doc["No"], name)
		assert.Equal(t, "Quillmoor", doc["Name"], name)
		assert.Equal(t, "007", got[0].ID)
	}
	got, err := c.Fetch(t.Context(), &reconcile.List{File: "lists/lenders.csv"})
	require.NoError(t, err)
	assert.Equal(t, "2026-03-31", got[0].Doc.(map[string]any)["Until"], "local dates are dates")
	assert.Equal(t, "1250.5", fmt.Sprint(got[0].Doc.(map[string]any)["Fee"]))
	assert.Equal(t, "TBC", got[1].Doc.(map[string]any)["Fee"], "what does not fit is kept")

	h := httptest.NewServer(http.FileServer(http.Dir(dir)))
	defer h.Close()
	got, err = c.Fetch(t.Context(), &reconcile.List{File: h.URL + "/lenders.xlsx"})
	require.NoError(t, err)
	assert.Len(t, got, 2)

	for file, says := range map[string]string{"../secret.csv": "is not a file that lists may read", "/etc/passwd": "is not a file that lists may read", "lists/none.csv": "is not there",
		"lists/broken.json": "not whole JSON", "lists/empty.csv": "holds no table", h.URL + "/none.csv": "404"} {
		_, err := c.Fetch(t.Context(), &reconcile.List{File: file, Items: "/all"})
		require.ErrorContains(t, err, says, file)
	}
	_, err = c.Fetch(t.Context(), &reconcile.List{File: "lists/lenders.xlsx", Sheet: "Lender"})
	require.ErrorContains(t, err, "did you mean Lenders?")
}
