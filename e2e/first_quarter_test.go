package e2e

import (
	"fmt"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/client"
)

type sheetOf struct {
	name string
	rows [][]any
}

// workbook writes a workbook, sheet by sheet, and lets more be done to it before it is saved.
func workbook(t *testing.T, name string, more func(f *excelize.File), sheets ...sheetOf) string {
	t.Helper()
	f := excelize.NewFile()
	for _, sheet := range sheets {
		_, err := f.NewSheet(sheet.name)
		require.NoError(t, err)
		for i, row := range sheet.rows {
			require.NoError(t, f.SetSheetRow(sheet.name, fmt.Sprintf("A%d", i+1), &row))
		}
	}
	require.NoError(t, f.DeleteSheet("Sheet1"))
	more(f)
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, f.SaveAs(path))
	return path
}

// tourBook writes a workbook as somebody keeps it who has no tool: a tab for each stage.
func tourBook(t *testing.T) string {
	t.Helper()
	lists := func(f *excelize.File) {
		for _, sheet := range []string{"Asked", "Lent"} {
			list := excelize.NewDataValidation(true)
			list.SetSqref("C2:C100")
			require.NoError(t, list.SetDropList([]string{"Asked", "Lent"}))
			require.NoError(t, f.AddDataValidation(sheet, list))
		}
	}
	return workbook(t, "tour.xlsx", lists,
		sheetOf{"Asked", [][]any{{"No", "Object", "Stage", "Clerk", "Due"}, {1, "Bell", "Asked", "ines.valadar@example.org", "2026-01-05"}, {2, "Horn", "Asked", "ines.valadar@example.org", "2031-01-05"}, {3, "Lamp", "Lent", "joren.aske@example.org", "2031-02-05"}}},
		sheetOf{"Lent", [][]any{{"No", "Object", "Stage", "Clerk", "Due"}, {4, "Oar", "Lent", "joren.aske@example.org", "2026-01-06"}}})
}

// Somebody who has never seen a setup file begins with an empty workspace and a workbook:
// rows route, dates are watched, a mail server is set and the mail goes, all by what is
// offered, and all of it can be undone.
func TestTheFirstQuarterOfAnHour(t *testing.T) {
	bothIn(t, blank, func(t *testing.T, w *world, h hand) {
		is := func(title, text string) error {
			return w.page.Holds(fmt.Sprintf(`document.querySelector("section[aria-label='%s']")?.innerText.includes(%q)`, title, text))
		}
		h.press("Import a file")
		w.do(w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", tourBook(t)), w.page.Says("A1:E4"))
		h.press("Preview")
		w.told("rows added")
		h.press("Import")
		w.told("What should run by itself?")
		w.do(is("Move rows by Stage", "Matches 1 row now"))
		for _, offer := range []string{"Move rows by Stage", "Overdue rows of Asked", "Overdue rows of Lent", "One morning email"} {
			h.press("Set up " + offer)
			w.do(is(offer, "Set up."))
		}
		h.press("Undo One morning email")
		w.do(is("One morning email", "What it does"))
		h.press("Set up One morning email")
		w.do(is("One morning email", "Set up."))
		rules, err := w.api.Definitions(t.Context(), "tour", "rules")
		require.NoError(t, err)
		require.Len(t, rules, 1)

		h.press("Go to the rows")
		w.told("Bell")
		h.put(0, 2, "Lent")
		w.told("moved to Lent")
		lent, err := w.api.Rows(t.Context(), "tour", "Lent", client.Which{})
		require.NoError(t, err)
		assert.Len(t, lent.Rows, 2)

		h.press("Workspace")
		w.told("No mail server is set.")
		h.write("Mail server", w.mail)
		h.choose("Connection", "not encrypted")
		h.press("Save mail server")
		w.do(w.page.Holds(`!document.body.innerText.includes("No mail server is set.")`))
		h.press("Send me a test email")
		w.told("Sent a test email to ines.valadar@example.org.")
		require.Len(t, w.office.Messages(), 1)

		h.press("Reminders")
		w.told("Overdue in Lent")
		h.press("Send now")
		w.told("ines.valadar@example.org: 1 row", "joren.aske@example.org: 1 row")
		h.press("Close")
		h.press("Today")
		w.told("Morning round")
	})
}

// People and tabs are set up in the console, and what is deleted by mistake comes back.
func TestPeopleAndTabsAreSetUpInTheConsole(t *testing.T) {
	w := newWorld(t)
	w.do(w.page.Go(w.address+"/people"), w.page.Says("who may sign in"))
	w.fill(`document.querySelector(".new-person input[aria-label=Name]")`, "Orla Teal")
	w.fill(`document.querySelector(".new-person input[type=email]")`, "orla.teal@example.org")
	w.do(w.page.Press("Add person"), w.page.Says("orla.teal@example.org"), w.page.Click("[aria-label='Sign-in link for Orla Teal']"), w.page.Says("/sign-in#"), w.page.Press("Close"))
	people, err := w.api.People(t.Context())
	require.NoError(t, err)
	found := ""
	for _, p := range people {
		if p.Address == "orla.teal@example.org" {
			found = p.Access
		}
	}
	assert.Equal(t, "editor", found)
	w.do(w.page.Go(w.home+"/settings"), w.page.Says("with the columns of"), w.page.Click("[aria-label='Delete tab Watch list']"), w.page.Says("needed by"))
	w.fill(`document.querySelector("input[aria-label='Name of the new tab']")`, "Refused")
	w.do(w.page.Press("Add tab"), w.page.Says("Added tab Refused"), w.page.Holds("document.querySelector(\"input[aria-label='Name of tab Refused']\")"))
	w.do(w.page.Holds(`(b => b && (b.click(), true))([...document.querySelectorAll(".ant-notification button")].find(b => b.innerText === "Undo"))`), w.page.Holds("!document.querySelector(\"input[aria-label='Name of tab Refused']\")"))
}
