package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
)

// Kinds of lists and how they are paged; a sync with its key, fields, guard, hour and what
// wins; a conflict settled.
func TestEachPartOfAListAndASyncIsSetByEitherHand(t *testing.T) {
	each(t, "mouse", func(t *testing.T, w *world, h hand) {
		w.allow(h)
		w.lookAt(h, "Lender register")
		address := w.register
		w.do(w.page.Go(w.home + "/lists/list/new"))
		h.write("Name", "Numbered")
		h.write("Address", address)
		h.write("records at", "/records")
		h.choose("Paging", "page by page, by number")
		h.write("Paging: number in the parameter", "p")
		h.write("id in", "id")
		h.write("Token", "harbour-light")
		w.told("Everybody who reads the setup sees this.")
		h.write("Token", "${REGISTER_TOKEN}")
		w.do(w.page.Holds(`!document.body.innerText.includes("Everybody who reads the setup sees this.")`))
		h.write("How records are written: remove", "DELETE "+address+"/{id}")
		h.press("Save")
		w.told("Saved list Numbered")
		from := w.fieldsOf("lists", "Numbered")["from"].(map[string]any)
		assert.Equal(t, map[string]any{"http": address, "items": "/records", "next": map[string]any{"page": "p"}, "id": "id", "token": "${REGISTER_TOKEN}"}, from)

		w.do(w.page.Go(w.home + "/lists/sync/new"))
		h.write("Name", "By the hour")
		h.choose("List", "Lender register")
		h.choose("Tab", "Lenders")
		h.choose("Key column", "Lender no")
		h.press("Pair fields")
		paired := `[...document.querySelectorAll("[aria-label^='Do not sync ']")].map(b => b.ariaLabel.slice(12))`
		w.do(w.page.Holds(paired + `.includes("Country")`))
		for _, name := range strings.Split(w.eval(paired+`.join("|")`), "|") {
			h.press("Do not sync " + name)
		}
		w.pair(h, "address/country", "Country")
		w.do(w.page.Holds(paired + `.join() === "Country"`))
		h.press("Add field")
		h.choose("Column #2", "Contact")
		h.choose("Field for Contact", w.eval(`"contact (" + document.querySelector("[title*='@example.org'].pairable").title.split(", ")[0] + ")"`))
		h.choose("How often", "Every few hours")
		h.write("Hours between", "3")
		h.choose("Conflicts", "takes the newest value")
		h.choose("Missing rows", "are marked with a note")
		h.write("Change limit in percent", "25")
		h.press("Save")
		w.told("Saved sync By the hour")
		sync := w.fieldsOf("syncs", "By the hour")
		assert.Equal(t, map[string]any{"Lender no": "id"}, sync["key"])
		assert.Equal(t, map[string]any{"Country": "address/country", "Contact": "contact"}, sync["fields"])
		assert.Equal(t, []any{"every 3 hours", "newest", "mark", "25%"}, []any{sync["clock"], sync["conflict"], sync["gone"], sync["guard"]})
	})
}

// pair brings a field of a list and a column together: the mouse drags the one onto the other.
func (w *world) pair(h hand, field, column string) {
	w.t.Helper()
	m, isMouse := h.(*mouse)
	if !isMouse {
		h.press(field)
		h.press(column)
		return
	}
	chip := func(group, name string) browser.Point {
		return m.still(`[...document.querySelectorAll("[aria-label='` + group + `'] button")].find(b => b.innerText.trim() === ` + quote(name) + `)`)
	}
	from, to := chip("Fields not in sync", field), chip("Columns not in sync", column)
	w.do(w.page.Drag(from.X, from.Y, to.X, to.Y))
}

// A chart's condition, groups, figures and comparison; a form's fields and who may fill it in;
// a kind of page with all that stands on it.
func TestEachPartOfChartsFormsAndPagesIsSetByEitherHand(t *testing.T) {
	each(t, "keyboard", func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.home + "/tallies/new"))
		h.write("Name", "Due by month")
		h.choose("Tabs", "Agreed")
		h.choose("Group by", "Due")
		h.choose("Period", "month of")
		h.press("Add figure")
		h.write("Name of figure 2", "Worth")
		h.choose("What figure 2 is", "sum of")
		h.choose("Of what figure 2 is", "Value")
		h.choose("Figure that is drawn", "Worth")
		h.choose("Compared with", "4 weeks")
		h.press("Show it on Today")
		h.press("Save")
		w.told("Saved chart Due by month")
		chart := w.fieldsOf("tallies", "Due by month")
		assert.Equal(t, "sum Value", chart["figures"].(map[string]any)["Worth"])
		assert.Equal(t, []any{"Worth", "4 weeks", "yes"}, []any{chart["show"], chart["compare"], chart["today"]})
		w.do(w.page.Go(w.address + "/"))
		w.told("Due by month")

		w.do(w.page.Go(w.home + "/forms/new/edit"))
		h.write("Name", "Ask for an object")
		h.choose("Tab", "Requested")
		h.write("Above the fields", "Tell us what you need.")
		h.write("Help for Object", "As the lender calls it")
		h.press("Required #2")
		h.press("Add field")
		h.choose("Field 4", "Remarks")
		h.press("Move Remarks up")
		h.press("Delete field Loan no")
		h.press("Set another cell")
		h.choose("Column to set", "Stage")
		h.write("What Stage is set to", "Requested")
		h.drop("What Stage is set to")
		h.write("Thanks", "We answer within a week.")
		h.write("Entries an hour", "12")
		h.choose("Also filled in by", "everyone who is signed in")
		h.press("Save")
		w.told("Saved form Ask for an object")
		form := w.fieldsOf("forms", "Ask for an object")
		assert.Equal(t, []any{"We answer within a week.", []any{"readers"}}, []any{form["thanks"], form["filled in by"]})
		assert.EqualValues(t, 12, form["hourly"])
		assert.Equal(t, []any{map[string]any{"Object": map[string]any{"help": "As the lender calls it", "required": "yes"}}, "Remarks", "Lender"}, form["fields"])
		assert.Equal(t, map[string]any{"Stage": "Requested"}, form["set"])
		h.write("for days", "7")
		h.press("Make a private link")
		w.told("Copy it now; it is not shown again:")
		h.press("Close 1 link")
		h.press("Close them")
		w.do(w.page.Holds(`!document.querySelector(".form-links .ant-btn-dangerous")`))

		w.do(w.page.Go(w.home + "/patterns/new"))
		h.write("Name", "Loan sheet")
		h.choose("Tabs", "Agreed")
		h.choose("Opened", "by itself")
		h.write("Title", "Loan {[Loan no]}")
		h.choose("Add to columns of the row", "Value")
		h.press("Keep Value as it was when the page was opened")
		h.press("Add field")
		h.write("Fields of the page's own: name 1", "Checked")
		h.choose("Fields of the page's own: type 1", "date")
		h.press("Add figure")
		h.write("Name of figure 1", "Cover")
		h.write("Clause of figure 1", "Value * 2")
		h.press("Add table")
		h.write("Name of table 1", "The lender")
		h.choose("Tab of table 1", "Lenders")
		h.choose("Column of table 1 that matches", "Name")
		h.choose("Column of the row that table 1 matches", "Lender")
		h.choose("Table 1 is sorted by", "Country")
		h.write("Most rows of table 1", "5")
		h.press("Add column to the log")
		h.write("Columns of the log: name 1", "What happened")
		h.press("Save")
		w.told("Saved kind of page Loan sheet")
		kind := w.fieldsOf("dossiers", "Loan sheet")
		assert.Equal(t, []any{"by itself", "Loan {[Loan no]}"}, []any{kind["open"], kind["title"]})
		assert.Equal(t, map[string]any{"Cover": "Value * 2"}, kind["figures"])
		assert.Contains(t, kind["own"], "Checked")
		table := kind["tables"].(map[string]any)["The lender"].(map[string]any)
		assert.Equal(t, []any{"Lenders", "Country"}, []any{table["tab"], table["order"]})
		assert.EqualValues(t, 5, table["limit"])
		assert.Contains(t, kind["log"].(map[string]any)["columns"], "What happened")

		w.do(w.page.Go(w.home+"/pages"), w.page.Says("Loan sheet"))
		h.press("Open missing pages")
		open := `[...document.querySelectorAll(".ant-modal-footer button, .ant-modal-confirm-btns button")].map(b => b.innerText).find(s => /^Open \d+ pages/.test(s)) ?? ""`
		w.do(w.page.Holds(open))
		h.press(w.eval(open))
		w.told("opened")
	})
}

// Trackers, tabs and columns are made, changed and deleted, with what depends on them said first.
func TestTrackersAndColumnsAreMadeByEitherHand(t *testing.T) {
	eachIn(t, blank, "mouse", func(t *testing.T, w *world, h hand) {
		h.press("Start blank")
		h.write("Name", "Parcels")
		h.write("First tab", "Sent")
		h.press("Create")
		w.told("with the columns of")
		h.press("Sent 0")
		w.told("No rows yet")
		h.press("Columns")
		column := func(name, kind string, fill func()) {
			h.press("Add a column")
			h.write("Name", name)
			h.choose("Type", kind)
			fill()
			h.press("Add column")
			w.do(w.page.Holds(`[...document.querySelectorAll(".columns-list button")].some(b => b.innerText.startsWith(` + quote(name) + `)) && !document.querySelector(".columns-form")`))
		}
		column("Parcel", "text", func() { h.press("Required"); h.press("Unique in this tab"); h.write("Maximum length", "40") })
		column("Where", "choice", func() {
			h.write("Options, one per line; colour optional", "Here = blue")
			h.write("Default", "Here")
			h.press("Reject invalid values")
		})
		column("Weight", "number", func() { h.write("Minimum", "0"); h.write("Maximum", "30") })
		column("Double", "computed", func() { h.write("Computed from", "Weight * 2"); h.choose("Place after", "Parcel") })
		h.press("Weight number")
		h.press("Delete column")
		w.told("cannot be deleted from", "while it is needed by computed column Double")
		h.press("Cancel")
		tr, err := w.api.Tracker(t.Context(), "Parcels")
		require.NoError(t, err)
		var names []string
		for _, c := range tr.Tabs[0].Columns {
			names = append(names, c.Name)
		}
		assert.Equal(t, []string{"Parcel", "Double", "Where", "Weight"}, names[len(names)-4:], "what a computed column reads stays")
	})
}

// What people may do, and what lets them in; working and closed days; a tracker renamed and deleted.
func TestAccessAndDaysAreSetByEitherHand(t *testing.T) {
	each(t, "keyboard", func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.address + "/people"))
		h.write("Name", "Joren Aske")
		h.write("Email address", "joren.aske@example.org")
		h.press("Add person")
		w.told("joren.aske@example.org")
		h.choose("Role of Joren Aske", "Reader: sees rows")
		h.press("Tokens and calendar of Joren Aske")
		h.press("New calendar address")
		w.told("Copy it now")
		h.write("What the token is for", "Figures")
		h.write("Days that it lasts", "30")
		h.press("New token")
		w.do(w.page.Holds(`document.querySelector("[aria-label='Revoke access token Figures']")`))
		h.press("Revoke access token Figures")
		h.press("Revoke")
		w.do(w.page.Holds(`!document.querySelector("[aria-label='Revoke access token Figures']")`))
		h.press("Close")
		h.press("Remove Joren Aske")
		h.press("Remove")
		w.do(w.page.Holds(`!document.querySelector("[aria-label='Remove Joren Aske']")`))

		w.do(w.page.Go(w.home + "/settings"))
		w.told("Working days")
		h.press("Sat")
		h.press("Save")
		w.told("Saved dates, numbers and working days")
		h.write("Name", "Loans on tour")
		h.press("Rename")
		w.told("Renamed to Loans on tour")
		h.press("New tracker")
		h.write("Name", "Next tour")
		h.choose("With the tabs and columns of", "Loans on tour")
		h.press("Create")
		w.do(w.page.Holds(`document.querySelector("h1 + *")?.innerText.includes("Next tour") || document.title.includes("Next tour")`))
		next, err := w.api.Tracker(t.Context(), "Next tour")
		require.NoError(t, err)
		assert.Len(t, next.Tabs, len(w.tabs))
		w.do(w.page.Go(w.home+"/settings"), w.page.Says("Working days"))
		h.press("Delete tracker")
		h.press("Delete tracker") // in what asks
		w.told("Deleted tracker Loans on tour")
		h.press("Undo")
		w.do(w.page.Holds(`document.body.innerText.includes("Loans on tour")`))
	})
}

// A file goes into a tab that is there, its table matched by a column; what both sides changed
// is settled, and what is left out is said.
func TestAFileGoesIntoATabByEitherHand(t *testing.T) {
	each(t, "mouse", func(t *testing.T, w *world, h hand) {
		rows, err := w.api.Rows(t.Context(), demo.Tracker, "Lenders", client.Which{})
		require.NoError(t, err)
		name := fmt.Sprint(rows.Rows[0].Cells["Name"])
		file := csvFile(t, "lenders.csv", "Kept for the harbour,\nName,Country\n"+name+",Averin\nHouse of Tides,Corrin\n")
		w.do(w.page.Go(w.address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", file), w.page.Says("Match rows by"))
		h.choose("Into", demo.Tracker)
		h.choose("Tab", "Lenders")
		h.choose("Match rows by", "Name")
		h.choose("Changed on both sides", "use the file's value")
		h.press("Preview")
		w.told("1 row added")
		h.press("Import")
		w.told("House of Tides")
		after, err := w.api.Rows(t.Context(), demo.Tracker, "Lenders", client.Which{})
		require.NoError(t, err)
		assert.Len(t, after.Rows, len(rows.Rows)+1)
		assert.Equal(t, name, after.Rows[0].Cells["Name"])
	})
}
