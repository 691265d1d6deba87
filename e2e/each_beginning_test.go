package e2e

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
)

// archiveBook writes a workbook whose rows are ticked when they are done, and an archive for them.
func archiveBook(t *testing.T) string {
	t.Helper()
	return workbook(t, "tasks.xlsx", func(*excelize.File) {},
		sheetOf{"Tasks", [][]any{{"Task", "Venue", "Done", "Due", "Status"}, {"Hang the bell", "Averin", true, "2026-01-05", ""}, {"Light the lamp", "averin", false, "2026-01-06", ""}, {"Fold the chart", "Averin", false, "2031-01-05", ""}, {"Oil the horn", "Averin", false, "2031-01-06", ""}}},
		sheetOf{"Archive", [][]any{{"Task", "Venue", "Done", "Due", "Status"}, {"Sweep the hall", "Averin", true, "2025-01-05", ""}}})
}

// What is ticked beside an archive, what is late, and what is spelt in several ways is offered
// after an import; the ready beginnings of a rule are filled in for what was imported.
func TestEachBeginningOfARuleIsTakenByEitherHand(t *testing.T) {
	eachIn(t, blank, "keyboard", func(t *testing.T, w *world, h hand) {
		h.press("Import a file")
		w.do(w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", archiveBook(t)), w.page.Says("A1:E5"))
		h.press("Preview")
		w.told("rows added")
		h.press("Import")
		w.told("What should run by itself?")
		for _, offer := range []string{"Archive what is ticked", "Mark what is late"} {
			h.press("Set up " + offer)
			w.do(w.page.Holds(`document.querySelector("section[aria-label='` + offer + `']")?.innerText.includes("Set up.")`))
		}
		h.press("Look at them")
		w.told("Tidy up", "averin")

		h.press("Rules")
		rule := func(id, title, name string) map[string]any {
			t.Helper()
			h.press("New rule")
			h.press(title)
			w.do(w.page.Holds(`location.search.includes("from=` + id + `")`))
			h.write("Name", name)
			w.do(w.page.Holds(`!named("Save")?.disabled && named("Save")`))
			h.press("Save")
			w.told("Saved rule " + name)
			return w.fieldsIn("tasks", "rules", name)
		}
		w.told("Archive what is ticked")
		got := rule("archive", "Archive what is ticked", "Archive, again")
		assert.Equal(t, map[string]any{"edit": []any{"Done"}}, got["wake"])
		assert.Equal(t, "Done", got["where"])
		assert.Equal(t, map[string]any{"to": "Archive"}, firstStep(got, "move"))
		got = rule("late", "Mark what is late", "Late, again")
		assert.Equal(t, "Due before today and Status is blank", got["where"])
		assert.Equal(t, map[string]any{"Status": "Late"}, firstStep(got, "set"))
		got = rule("intake", "Import a file that arrives", "Arrivals")
		assert.Equal(t, map[string]any{"file": "intake/*"}, got["wake"])
		assert.Equal(t, map[string]any{"tab": "Tasks", "key": "Task"}, firstStep(got, "take"))
		got = rule("report", "Write a file each day", "Daily file")
		assert.Equal(t, map[string]any{"clock": "weekdays at 07:00"}, got["wake"])
		assert.Equal(t, "outbound/Tasks {today}.xlsx", firstStep(got, "write").(map[string]any)["file"])

		tr, err := w.api.Tracker(t.Context(), "tasks")
		require.NoError(t, err)
		w.do(w.page.Go(w.eval("location.origin") + "/t/" + tr.ID + "/" + tr.Tabs[0].ID))
		w.told("Light the lamp")
		switch h := h.(type) {
		case *mouse:
			h.click(`document.querySelector("` + cellAt(1, 2) + `")`)
			w.do(w.page.DoubleClickOn(`document.querySelector("` + cellAt(1, 2) + `")`))
		case *keyboard:
			h.goTo(1, 2)
			w.do(w.page.Keys(" "))
		}
		w.told("moved to Archive")
	})
}

// Reminders, rounds, charts, kinds of page, forms, lists and syncs begin with what suits the
// tracker, and are saved as they are offered.
func TestEachOtherBeginningIsTakenByEitherHand(t *testing.T) {
	each(t, "mouse", func(t *testing.T, w *world, h hand) {
		w.taken(h, "reminders", "New reminder", "Overdue rows of Agreed", "reminder Overdue in Agreed")
		assert.Equal(t, "Due before today", w.fieldsOf("reminders", "Overdue in Agreed")["where"])
		w.taken(h, "reminders", "New round", "One morning email", "round Morning round")
		assert.Equal(t, "weekdays at 08:30", w.fieldsOf("rounds", "Morning round")["clock"])
		w.taken(h, "reminders", "New round", "One email a week", "round Weekly round")
		assert.Equal(t, "mondays at 08:30", w.fieldsOf("rounds", "Weekly round")["clock"])

		w.taken(h, "tallies", "New chart", "Rows by Stage", "chart Rows by Stage")
		w.taken(h, "tallies", "New chart", "Monthly figures", "chart Monthly figures")
		assert.Equal(t, map[string]any{"Rows": "count", "Value": "sum Value"}, w.fieldsOf("tallies", "Monthly figures")["figures"])
		w.taken(h, "tallies", "New chart", "Rows of each Registrar", "chart Rows of each Registrar")
		w.taken(h, "pages", "New kind of page", "A page for each row of Agreed", "kind of page Page of Agreed")
		assert.Equal(t, "Agreed", w.fieldsOf("dossiers", "Page of Agreed")["for"])
		w.taken(h, "forms", "New form", "Add rows to Requested", "form Add to Requested")
		assert.Contains(t, w.fieldsOf("forms", "Add to Requested")["fields"], "Lender")

		w.allow(h)
		w.do(w.page.Go(w.home + "/lists"))
		h.press("A web service (JSON)")
		w.told("Missing: a name")
		h.write("Name", "Lenders elsewhere")
		h.write("Address", w.register)
		h.press("Look at the list")
		w.told("They were found at /records")
		h.press("Take records from there")
		w.told("The list has more pages.")
		h.press("Save")
		w.told("Saved list Lenders elsewhere")
		w.taken(h, "lists", "New sync", "Read Lenders elsewhere into Lenders", "sync Read Lenders elsewhere")
		sync := w.fieldsOf("syncs", "Read Lenders elsewhere")
		assert.Equal(t, map[string]any{"Lender no": "id"}, sync["key"])
		assert.Equal(t, "name", sync["fields"].(map[string]any)["Name"])
	})
}

// A rule is previewed and run, a list is synced and its conflicts settled, a workbook is handed
// over for rules to write into.
func TestRulesAndListsAreRunByEitherHand(t *testing.T) {
	each(t, "keyboard", func(t *testing.T, w *world, h hand) {
		w.set("Requested", "Loan no=L-1003", map[string]any{"Due": "soon"})
		w.taken(h, "rules", "New rule", "Mark what is late", "rule Mark what is late")
		h.press("Preview Mark what is late")
		w.told("What Mark what is late would change now", "Skipped:")
		apply := `[...document.querySelectorAll(".ant-modal-footer button")].map(b => b.innerText).find(s => /^Apply \d+ changes?$/.test(s)) ?? ""`
		w.do(w.page.Holds(apply))
		h.press(w.eval(apply))
		w.told("Rows checked", "(manual)")
		h.press("Undo run")
		w.told("done, undone")

		// what list and tab have of three lenders differs from the start
		w.allow(h)
		w.lookAt(h, "Lender register")
		w.syncBothWays(h, "Lenders", "Lender register")
		h.press("Preview") // of the sync
		w.told("Changes to the")
		h.press("Sync now")
		names, keys := []string{"Tarn House", "Port Averin Archive", "Ostrel Society"}, []string{"001", "002", "003"}
		for _, key := range keys {
			w.do(w.page.Holds(`document.querySelector("article[aria-label='Conflict on ` + key + `']")`))
		}
		listed := func(i int) string {
			for _, r := range w.lists.Records("lenders") {
				if r["id"] == keys[i] {
					return fmt.Sprint(r["name"])
				}
			}
			return ""
		}
		name := func(i int) string {
			rows, err := w.api.Rows(t.Context(), demo.Tracker, "Lenders", client.Which{Where: `[Lender no] is "` + keys[i] + `"`})
			require.NoError(t, err)
			require.Len(t, rows.Rows, 1)
			return fmt.Sprint(rows.Rows[0].Cells["Name"])
		}
		settled := func(key string) {
			t.Helper()
			w.do(w.page.Holds(`!document.querySelector("article[aria-label='Conflict on ` + key + `']")`))
		}
		h.press("Keep list value of " + keys[0])
		settled(keys[0])
		assert.Equal(t, "Quillmoor Trust", name(0))
		h.press("Mark " + keys[1])
		h.press("Mark " + keys[2])
		h.press("Keep tab values of 2 selected")
		settled(keys[1])
		settled(keys[2])
		assert.Equal(t, names[2], name(2))
		assert.Equal(t, []string{"Quillmoor Trust", names[1], names[2]}, []string{listed(0), listed(1), listed(2)})

		w.do(w.page.Go(w.home + "/outbound"))
		h.press("Upload a workbook")
		w.do(w.page.Choose(".ant-modal input[type=file]", sample(t, "awkward/kinds.xlsx")))
		w.told("kinds.xlsx: drop another workbook here")
		h.write("Name", "monthly.xlsx")
		h.press("Template: rules make new workbooks from it")
		h.press("Upload")
		w.told("Uploaded", "from: templates/monthly.xlsx")
	})
}

// A file that looks like one that was imported goes into the same tab, its rows matched.
func TestAFileIsKnownAgainByEitherHand(t *testing.T) {
	each(t, "keyboard", func(t *testing.T, w *world, h hand) {
		venues, err := w.api.Rows(t.Context(), demo.Tracker, "Venues", client.Which{})
		require.NoError(t, err)
		tr, err := w.api.Tracker(t.Context(), demo.Tracker)
		require.NoError(t, err)
		var head, first string
		for _, tab := range tr.Tabs {
			if tab.Name != "Venues" {
				continue
			}
			for _, c := range tab.Columns {
				if c.Clause == "" {
					head += c.Name + ","
					first += fmt.Sprint(venues.Rows[0].Cells[c.Name]) + ","
				}
			}
		}
		file := csvFile(t, "more.csv", head+"Seen on\n"+first+"03/04/2026\n")
		w.do(w.page.Go(w.address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", file), w.page.Says("This looks like Venues of "+demo.Tracker))
		h.press("Import into Venues, matched by Name")
		w.told("Column of Venues")
		h.choose("Dates of Seen on", "month first: 03/04 is 4 March")
		w.told("set by hand")
		h.press("Preview")
		w.told("1 updated")
		h.press("Import")
		w.do(w.page.Holds("location.pathname.startsWith('/t/')"))
		after, err := w.api.Rows(t.Context(), demo.Tracker, "Venues", client.Which{})
		require.NoError(t, err)
		assert.Len(t, after.Rows, len(venues.Rows))
		assert.Equal(t, "2026-03-04", after.Rows[0].Cells["Seen on"])
	})
}

// Trackers are put in another order, and a column is copied with its values.
func TestTrackersAreOrderedAndColumnsCopiedByEitherHand(t *testing.T) {
	each(t, "mouse", func(t *testing.T, w *world, h hand) {
		names := func() (out []string) {
			all, err := w.api.Trackers(t.Context())
			require.NoError(t, err)
			for _, one := range all {
				out = append(out, one.Name)
			}
			return out
		}
		w.do(w.page.Go(w.home + "/settings"))
		h.press("New tracker")
		h.write("Name", "Past tours")
		h.press("Create")
		require.Eventually(t, func() bool { return len(names()) == 2 }, browser.Wait, tick)
		before := names()
		w.do(w.page.Go(w.address + "/workspace"))
		w.told("Everybody sees them in this order.")
		h.lift(before[1], before[0], 1)
		w.told("Moved tracker")
		require.Eventually(t, func() bool { return names()[0] == before[1] }, browser.Wait, tick)
		h.press("Undo")
		require.Eventually(t, func() bool { return names()[0] == before[0] }, browser.Wait, tick)

		w.do(w.page.Go(w.home+"/"+w.tabs["Requested"]), w.page.Says("Brass sextant"))
		h.press("Columns")
		h.press("Due date")
		h.press("Copy column")
		w.do(w.page.Holds(`document.querySelector(".columns-form input")?.value === "Due, copy"`))
		h.write("Name", "Due at first")
		w.do(w.page.Holds(`named("Add column") && !named("Add column").disabled`))
		h.press("Add column")
		w.do(w.page.Holds(`[...document.querySelectorAll(".columns-list button")].some(b => b.innerText.startsWith("Due at first"))`))
		rows, err := w.api.Rows(t.Context(), demo.Tracker, "Requested", client.Which{Where: "Due is not blank"})
		require.NoError(t, err)
		require.NotEmpty(t, rows.Rows)
		for _, r := range rows.Rows {
			assert.Equal(t, r.Cells["Due"], r.Cells["Due at first"])
		}
	})
}
