package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/client"
)

func csvFile(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

// What a file holds is offered: a column by which rows are known, one that is the running
// total of another. A file that looks like it goes into the same tab, its columns paired, the
// order of its dates said by hand.
func TestAFileOffersAKeyAndATotalAndIsKnownAgain(t *testing.T) {
	w := newWorld(t)
	offered := func(title string) error {
		return w.page.Holds(fmt.Sprintf(`(b => b && !b.disabled && (b.click(), true))([...document.querySelectorAll("section[aria-label='%s'] button")].find(b => b.innerText === "Set up"))`, title))
	}
	gone := func(title string) error {
		return w.page.Holds(fmt.Sprintf(`!document.querySelector("section[aria-label='%s']")`, title))
	}
	first := csvFile(t, "payments.csv", "Ref no,Paid,Total,Day\nP-1,10,10,2026-01-05\nP-2,5,15,2026-01-06\nP-3,7,22,2026-01-07\nP-4,1,23,2026-01-08\nP-5,2,25,2026-01-09\n")
	w.do(w.page.Go(w.demo.Address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", first), w.page.Says("A1:D6"), w.page.Click(".target .ant-btn-primary"))
	w.do(w.page.Says("What should run by itself?"), offered("Know the rows of payments by Ref no"), gone("Know the rows of payments by Ref no"))
	w.do(offered("Compute Total in payments"), gone("Compute Total in payments"))
	there, err := w.api.Tracker(t.Context(), "payments")
	require.NoError(t, err)
	columns := there.Tabs[0].Columns
	assert.True(t, columns[0].Unique)
	assert.Equal(t, "running sum Paid", columns[2].Clause)

	again := csvFile(t, "more.csv", "Ref no,Paid,Day,Remark of it\nP-2,6,03/04/2026,late\nP-9,1,04/05/2026,\n")
	w.do(w.page.Go(w.demo.Address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", again), w.page.Says("This looks like payments of payments"))
	w.do(w.page.Press("Import into payments, matched by Ref no"), w.page.Says("Column of payments"))
	w.choose("Dates of Day", "month first: 03/04 is 4 March")
	w.do(w.page.Says("set by hand"))
	w.do(w.page.Click("input[aria-label='Name of Remark of it']"))
	w.fill(`document.querySelector("input[aria-label='Name of Remark of it']")`, "Remark")
	w.do(w.page.Holds("(document.activeElement.blur(), true)"), w.page.Holds(`document.querySelector("input[aria-label='Name of Remark']")`))
	w.do(w.page.Press("Preview"), w.page.Says("1 row added, 1 updated"), w.page.Click(".target .ant-btn-primary"), w.page.Holds("location.pathname.startsWith('/t/')"), w.page.Says("P-9"))
	rows, err := w.api.Rows(t.Context(), "payments", "payments", client.Which{})
	require.NoError(t, err)
	require.Len(t, rows.Rows, 6)
	assert.Equal(t, "2026-03-04", rows.Rows[1].Cells["Day"])
	assert.Equal(t, "late", rows.Rows[1].Cells["Remark"])
	assert.Equal(t, "16", fmt.Sprint(rows.Rows[1].Cells["Total"]))
}
