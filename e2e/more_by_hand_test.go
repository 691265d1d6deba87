package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
)

// A rule writes a file into the place of a workbook that is picked on its picture.
func TestAPlaceInAWorkbookIsPickedByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		step := firstStep(w.ruleBy(h, "Plan of the week", "write a file", func() {
			h.write("Name of the file", "outbound/plan.xlsx")
			h.press("Pick the place")
			w.do(w.page.Choose(".ant-modal input[type=file]", sample(t, "awkward/kinds.xlsx")))
			h.pick("C5", 2, 4)
			label := `[...document.querySelectorAll(".ant-modal-footer button")].map(b => b.innerText).find(s => s.startsWith("Write from C5 of ")) ?? ""`
			w.do(w.page.Holds(label))
			h.press(w.eval(label))
			w.do(w.page.Holds(`document.querySelector("input[aria-label='First cell']")?.value === "C5"`))
		}), "write").(map[string]any)
		assert.Equal(t, "C5", step["at"])
		assert.NotEmpty(t, step["sheet"])
	})
}

// csvFile writes a file to import.
func csvFile(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

// A file's columns are named and one is left out before it is imported.
func TestAnImportIsPutRightByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", tourBook(t)), w.page.Says("A1:E4"))
		h.write("Name of Clerk", "Assigned to")
		h.press("Import Due")
		h.choose("Type of Object", "choice")
		h.press("Preview")
		w.told("rows added")
		h.press("Import")
		w.told("What should run by itself?")
		tr, err := w.api.Tracker(t.Context(), "tour")
		require.NoError(t, err)
		types := map[string]string{}
		for _, c := range tr.Tabs[0].Columns {
			types[c.Name] = c.Type
		}
		assert.Equal(t, map[string]string{"No": "number", "Object": "choice", "Stage": "choice", "Assigned to": "person"}, types)
	})
}

// A rule is paused and goes on; history is filtered by tab and person.
func TestRulesArePausedAndHistoryIsFilteredByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		w.taken(h, "rules", "New rule", "Move rows by Stage", "rule Move rows by Stage")
		h.press("Pause Move rows by Stage")
		w.do(w.page.Holds(`document.querySelector("[aria-label='Resume Move rows by Stage']")`))
		h.press("Resume Move rows by Stage")
		w.do(w.page.Holds(`document.querySelector("[aria-label='Pause Move rows by Stage']")`))
		w.set("Requested", "Loan no=L-1001", map[string]any{"Remarks": "Asked again"}) // not by Ines
		w.do(w.page.Go(w.home + "/runs?show=changes"))
		lines := `document.querySelectorAll("tbody .ant-table-row").length`
		w.do(w.page.Holds(lines + " > 1"))
		h.choose("Changes by", "Ines Valadar")
		w.do(w.page.Holds(lines + ` > 1 && [...document.querySelectorAll("tbody .ant-table-row")].every(r => r.innerText.includes("Ines Valadar"))`))
		h.choose("Changes in tab", "Venues")
		w.do(w.page.Holds(lines + " === 1")) // their import
	})
}

// Rules are put in another order; a tab is seen as it was, with what differs from now.
func TestRulesAreOrderedAndATabIsSeenAsItWasByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		named := func() []string {
			rules, err := w.api.Definitions(t.Context(), demo.Tracker, "rules")
			require.NoError(t, err)
			var out []string
			for _, r := range rules {
				out = append(out, r.Name)
			}
			return out
		}
		w.taken(h, "rules", "New rule", "Move rows by Stage", "rule Move rows by Stage")
		w.taken(h, "rules", "New rule", "Mark what is late", "rule Mark what is late")
		before := named()
		h.lift(before[1], before[0], 1)
		require.Eventually(t, func() bool { return named()[0] == before[1] }, browser.Wait, tick)
		w.set("Requested", "Loan no=L-1001", map[string]any{"Remarks": "Asked again"})
		w.do(w.page.Go(w.home + "/runs?show=as-of"))
		h.choose("Tab", "Requested")
		h.write("At", time.Now().Add(time.Hour).Format("2006-01-02T15:04"))
		w.told("Nothing differs from now.")
		h.press("Show all rows and columns")
		w.told("Asked again")
	})
}

// What an import suggests is set up: a column by which rows are known, and a running total.
func TestWhatAnImportSuggestsIsSetUpByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		file := csvFile(t, "payments.csv", "Ref no,Payer,Paid,Total,Day\nP-1,Tarn House,10,10,2026-01-05\nP-2,tarn house,5,15,2026-01-06\nP-3,Tarn House,7,22,2026-01-07\nP-4,Averin,1,23,2026-01-08\nP-5,Tarn House,2,25,2026-01-09\n")
		w.do(w.page.Go(w.address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", file), w.page.Says("A1:E6"))
		h.press("Preview")
		w.told("rows added")
		h.press("Import")
		w.told("What should run by itself?")
		for _, offer := range []string{"Know the rows of payments by Ref no", "Compute Total in payments"} {
			h.press("Set up " + offer)
			w.do(w.page.Holds(`!document.querySelector("section[aria-label='` + offer + `'] button.ant-btn-primary")`))
		}
		there, err := w.api.Tracker(t.Context(), "payments")
		require.NoError(t, err)
		assert.True(t, there.Tabs[0].Columns[0].Unique)
		assert.Equal(t, "running sum Paid", there.Tabs[0].Columns[3].Clause)
	})
}

// stockBook has a sheet of two tables with a remark beside them, and one without headers.
func stockBook(t *testing.T, held string) string {
	t.Helper()
	return workbook(t, "stock.xlsx", func(*excelize.File) {},
		sheetOf{"Stock", [][]any{{"Object", "Count", nil, nil, "Counted by hand"}, {"Bell", 4}, {"Horn", 2}, {"Lamp", 7}, {}, {"Crate", "Holds", "Packed on"}, {"C-1", held, "2026-02-01"}, {"C-2", "Horn", "2026-02-02"}, {"C-3", "Lamp", "2026-02-03"}}},
		sheetOf{"Places", [][]any{{"Averin", 12}, {"Tarn", 7}, {"Quay", 3}}})
}

// Of a sheet with two tables one is left out and taken again; columns without headers are named
// by hand; what is no table is named. Long work is stopped. Another version of the file shows cell
// by cell what it would change.
func TestAnAwkwardFileIsPutRightByEitherHand(t *testing.T) {
	eachIn(t, blank, "keyboard", func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", stockBook(t, "Bell")))
		w.told("A1:B4: 3 rows", "A6:C9: 3 rows")
		h.press("Import this table #2")
		h.press("Preview")
		w.told("Stock: 3 rows added", "Stock E1: a single column of remarks", "Stock A6:C9: left out by hand")
		assert.Equal(t, "Stock", w.eval(`document.querySelector(".table-form input[aria-label=Tab]").closest(".ant-select").innerText.trim() || document.querySelector(".table-form input[aria-label=Tab]").value`), "as it will be called")
		h.press("Import this table #2")
		h.press("Places: 1 table")
		w.told("A1:B3: 3 rows")
		h.write("Name of Column A", "Place")
		h.write("Name of Column B", "Objects")
		h.write("Tab", "Halls")
		w.do(w.page.Enter())
		h.press("Preview")
		w.told("Halls: 3 rows added", "new columns: Place, Objects")

		_, err := browser.Eval[bool](w.page, `(() => {
			const fetch = window.fetch;
			window.fetch = (request) => !request.url.includes("/imports") ? fetch(request) :
				new Promise((_, no) => request.signal.addEventListener("abort", () => no(new DOMException("stopped", "AbortError"))));
			window.letThrough = () => { window.fetch = fetch; };
			return true;
		})()`)
		require.NoError(t, err)
		h.press("Import")
		w.told("Importing 9 rows")
		h.press("Stop")
		w.told("Stopped. If it had been saved already, History has it.")
		_, err = browser.Eval[bool](w.page, "(window.letThrough(), true)")
		require.NoError(t, err)
		h.press("Import")
		w.told("What should run by itself?")
		rows, err := w.api.Rows(t.Context(), "stock", "Halls", client.Which{})
		require.NoError(t, err)
		require.Len(t, rows.Rows, 3)
		assert.Equal(t, "12", fmt.Sprint(rows.Rows[0].Cells["Objects"]))

		w.do(w.page.Go(w.address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", stockBook(t, "Drum")))
		h.press("Import into Stock 2, matched by Crate")
		h.press("Import this table #1")
		h.press("Places: 1 table")
		h.press("Import this table")
		h.press("Preview")
		w.told("1 updated, 2 unchanged", "C-1", "Holds", "Bell", "Drum")
		h.press("Import")
		w.do(w.page.Holds("location.pathname.startsWith('/t/')"))
		rows, err = w.api.Rows(t.Context(), "stock", "Stock 2", client.Which{Where: `Crate is "C-1"`})
		require.NoError(t, err)
		require.Len(t, rows.Rows, 1)
		assert.Equal(t, "Drum", rows.Rows[0].Cells["Holds"])
	})
}
