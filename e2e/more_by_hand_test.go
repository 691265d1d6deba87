package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Rules about files: one takes a file in, one writes one into the place of a workbook that is
// picked on its picture, one counts into a tab; a rule is paused.
func TestStepsWithFilesAreMadeByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		begin := func(name, step string) {
			w.do(w.page.Go(w.home + "/rules/new?from=empty"))
			w.told("Missing: a name")
			h.write("Name", name)
			h.press("Add step")
			h.choose("What step 1 does", step)
		}
		saved := func(name string) map[string]any {
			h.press("Save")
			w.told("Saved rule " + name)
			return w.fieldsOf("rules", name)["steps"].([]any)[0].(map[string]any)
		}
		begin("Plan of the week", "write a file")
		h.write("Name of the file", "outbound/plan.xlsx")
		h.press("Pick the place")
		w.do(w.page.Choose(".ant-modal input[type=file]", sample(t, "awkward/kinds.xlsx")))
		h.pick("C5", 2, 4)
		label := `[...document.querySelectorAll(".ant-modal-footer button")].map(b => b.innerText).find(s => s.startsWith("Write from C5 of ")) ?? ""`
		w.do(w.page.Holds(label))
		h.press(w.eval(label))
		w.do(w.page.Holds(`document.querySelector("input[aria-label='First cell']")?.value === "C5"`))
		assert.Equal(t, "C5", saved("Plan of the week")["write"].(map[string]any)["at"])

		begin("Lenders counted", "count into a tab")
		h.choose("Rows of which tab", "Agreed")
		h.choose("Group by", "Lender")
		h.choose("Into which tab", "Cover by lender")
		require.Contains(t, saved("Lenders counted"), "tally")

		begin("Take in what comes", "import the file's rows")
		h.choose("What starts it", "a file arrives")
		h.choose("Into which tab", "Requested")
		require.Contains(t, saved("Take in what comes"), "take")
	})
}

// A file's columns are named and one is left out before it is imported.
func TestAnImportIsPutRightByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.demo.Address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", tourBook(t)), w.page.Says("A1:E4"))
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
		w.do(w.page.Go(w.home + "/rules"))
		h.press("Pause Clear every hold")
		w.do(w.page.Holds(`document.querySelector("[aria-label='Resume Clear every hold']")`))
		h.press("Resume Clear every hold")
		w.do(w.page.Holds(`document.querySelector("[aria-label='Pause Clear every hold']")`))
		w.do(w.page.Go(w.home + "/runs?show=changes"))
		lines := `document.querySelectorAll("tbody .ant-table-row").length`
		w.do(w.page.Holds(lines + " > 1"))
		h.choose("Changes by", "Ines Valadar")
		w.do(w.page.Holds(lines + ` > 1 && [...document.querySelectorAll("tbody .ant-table-row")].every(r => r.innerText.includes("Ines Valadar"))`))
		h.choose("Changes in tab", "Venues")
		w.told("No changes match these filters.")
	})
}
