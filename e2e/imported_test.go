package e2e

import (
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/standin/listserver"
)

// loansBook writes the workbook of an office that lends objects out, with a tab for each stage.
func loansBook(t *testing.T) string {
	t.Helper()
	const ines, joren = "ines.valadar@example.org", "joren.aske@example.org"
	loans := []any{"Loan no", "Object", "Lender", "Stage", "Due", "Registrar", "Value", "Flag", "Remarks"}
	lists := func(f *excelize.File) {
		for _, tab := range []string{"Requested", "Agreed", "Returned"} {
			for cells, options := range map[string][]string{"D2:D100": {"Requested", "Agreed", "Returned"}, "H2:H100": {"Late", "Hold"}} {
				if tab == "Returned" && cells[0] == 'H' {
					continue
				}
				list := excelize.NewDataValidation(true)
				list.SetSqref(cells)
				require.NoError(t, list.SetDropList(options))
				require.NoError(t, f.AddDataValidation(tab, list))
			}
		}
	}
	return workbook(t, demo.Tracker+".xlsx", lists,
		sheetOf{"Requested", [][]any{
			loans,
			{"L-1001", "Brass sextant", "Tarn House", "Requested", "2031-03-02", joren, 1200, nil, nil},
			{"L-1002", "Ship's bell", "Port Averin Archive", "Requested", "2031-03-09", ines, 900.5, "Hold", nil},
			{"L-1009", "Rope ladder", "Tarn House", "Requested", "2026-02-20", ines, 80, nil, nil},
			{"L-1003", "Signal lamp", "Tarn House", "Requested", nil, joren, 4000, nil, "Call first"},
		}},
		sheetOf{"Agreed", [][]any{
			loans,
			{"L-1004", "Tide clock", "Ostrel Society", "Agreed", "2026-02-02", joren, 650, nil, nil},
			{"L-1005", "Chart of the bay", "Tarn House", "Agreed", "2026-02-09", ines, 98000, "Late", nil},
			{"L-1006", "Harbour light", "Port Averin Archive", "Agreed", "2031-05-01", joren, 12000, nil, nil},
		}},
		sheetOf{"Returned", [][]any{
			{"Loan no", "Object", "Lender", "Stage", "Registrar", "Returned on", "Flag", "Remarks"},
			{"L-1007", "Oar", "Ostrel Society", "Returned", ines, "2026-01-12", "Late", nil},
			{"L-1008", "Fog horn", "Tarn House", "Returned", joren, "2026-01-20", "Hold", "Scratched"},
		}},
		sheetOf{"Watch list", [][]any{{"Object", "Crate"}, {"Glass float", "C-9"}, {"Figurehead", "C-4"}}},
		sheetOf{"Lenders", [][]any{
			{"Lender no", "Name", "Country", "Contact", "Insured until"},
			{"001", "Tarn House", "Averin", "tarn@example.org", "2031-01-01"},
			{"002", "Port Averin Archive", "Averin", "archive@example.org", "2031-06-01"},
			{"003", "Ostrel Society", "Ostrel", "ostrel@example.org", "2032-01-01"},
		}},
		sheetOf{"Cover by lender", [][]any{{"Lender", "Policies", "Covered"}, {"Tarn House", 2, 3000}, {"Ostrel Society", 1, 500}}},
		sheetOf{"Venues", [][]any{{"Name", "Hall", "Places"}, {"North Pier", "East", 40}, {"Old Mill", "Loft", 25}, {"Annex", "Ground", 60}}},
	)
}

// imported is a workspace that was blank until its admin imported one workbook in the console.
// Nothing is set up in it; a list server and a mail server are there to be named.
func imported(t *testing.T) *world {
	t.Helper()
	w := blank(t)
	w.lists = listserver.New(nil)
	demo.ServeLists(w.lists, time.Now())
	register := httptest.NewServer(w.lists.Handler())
	t.Cleanup(register.Close)
	w.register = register.URL + "/lenders"
	w.do(w.page.Go(w.address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", loansBook(t)), w.page.Says("A1:I5"),
		w.page.Press("Preview"), w.page.Says("rows added"), w.page.ClickOn(`[...document.querySelectorAll("#page button")].find(b => b.innerText.trim() === "Import")`), w.page.Says("What should run by itself?"))
	tr, err := w.api.Tracker(t.Context(), demo.Tracker)
	require.NoError(t, err)
	for _, tab := range tr.Tabs {
		w.tabs[tab.Name] = tab.ID
	}
	w.home = w.address + "/t/" + tr.ID
	return w
}

// allow lets the service reach this machine, where the list server is.
func (w *world) allow(h hand) {
	w.t.Helper()
	w.do(w.page.Go(w.address + "/workspace"))
	h.write("Address to allow", "127.0.0.1")
	h.press("Allow address")
	w.do(w.page.Holds(`document.querySelector("[aria-label='Remove address 127.0.0.1']")`))
}

// lookAt sets up the list of lenders, with what looking at it finds.
func (w *world) lookAt(h hand, name string) {
	w.t.Helper()
	w.do(w.page.Go(w.home + "/lists/list/new"))
	h.write("Name", name)
	h.write("Address", w.register)
	h.press("Look at the list")
	w.told("They were found at /records")
	h.press("Take records from there")
	w.told("The list has more pages.")
	h.press("Fetch every page")
	w.do(w.page.Holds(`!document.body.innerText.includes("The list has more pages.")`))
	h.write("How records are written: add", "POST "+w.register)
	h.write("How records are written: change", "PATCH "+w.register+"/{id}")
	h.press("Save")
	w.told("Saved list " + name)
}

// taken takes a ready beginning as it is offered, and saves it.
func (w *world) taken(h hand, page, create, title, saved string) {
	w.t.Helper()
	w.do(w.page.Go(w.home + "/" + page))
	_, err := browser.Eval[bool](w.page, findNamed)
	require.NoError(w.t, err)
	offered := "!!named(" + quote(title) + ")" // where there is none yet, the beginnings are shown
	w.do(w.page.Holds("named(" + quote(create) + ") || " + offered))
	if is, err := browser.Eval[bool](w.page, offered); err == nil && !is {
		h.press(create)
	}
	h.press(title)
	w.do(w.page.Holds(`named("Save") && !named("Save").disabled`), w.page.Holds(`!document.body.innerText.includes("What it would do appears here")`))
	require.NotContains(w.t, w.eval("document.body.innerText"), "Request refused", title)
	h.press("Save")
	w.told("Saved " + saved)
}

// mailSet sets the mail server up.
func (w *world) mailSet(h hand) {
	w.t.Helper()
	w.do(w.page.Go(w.address + "/workspace"))
	w.told("No mail server is set.")
	h.write("Mail server", w.mail)
	h.choose("Connection", "not encrypted")
	h.press("Save mail server")
	w.do(w.page.Holds(`!document.body.innerText.includes("No mail server is set.")`))
}

// syncBothWays keeps the tab Lenders in step with a list.
func (w *world) syncBothWays(h hand, name, list string) {
	w.t.Helper()
	w.do(w.page.Go(w.home + "/lists/sync/new"))
	h.write("Name", name)
	h.choose("List", list)
	h.choose("Tab", "Lenders")
	h.choose("Direction", "both ways")
	h.press("Pair fields")
	w.do(w.page.Holds("document.querySelectorAll('.cells-field .inline-fields').length >= 3"))
	h.press("Preview both sides")
	w.told("Preview only. No changes made.")
	h.press("Close")
	h.press("Save")
	w.told("Saved sync " + name)
}
