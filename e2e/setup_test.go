package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
)

// A rule that writes a file is made by picking the place in a workbook on its picture, and is
// put first with the keyboard and last with the mouse.
func TestAFileIsWrittenWhereItIsPickedAndRulesAreOrdered(t *testing.T) {
	w := newWorld(t)
	named := func() (names []string) {
		rules, err := w.api.Definitions(t.Context(), demo.Tracker, "rules")
		require.NoError(t, err)
		for _, r := range rules {
			names = append(names, r.Name)
		}
		return names
	}
	w.do(w.page.Go(w.home+"/rules/new?from=empty"), w.page.Says("Missing: a name, a step."))
	w.fill(`document.querySelector("input[aria-label=Name]")`, "Weekly plan")
	w.do(w.page.Press("Add step"))
	w.choose("What step 1 does", "write a file")
	w.fill(`document.querySelector("input[aria-label='Name of the file']")`, "outbound/plan.xlsx")
	w.do(w.page.Press("Pick the place"), w.page.Choose(".ant-modal input[type=file]", sample(t, "awkward/kinds.xlsx")), w.page.Holds(`(c => c && (c.click(), true))(document.querySelector("[aria-label='Cell C5']"))`), w.page.Holds(`(b => b && (b.click(), true))([...document.querySelectorAll(".ant-modal-footer button")].find(b => b.innerText.startsWith("Write from C5 of ")))`))
	w.do(w.page.Holds(`document.querySelector("input[aria-label='First cell']").value === "C5"`), w.page.Press("Save"), w.page.Says("Saved rule Weekly plan"))
	before := named()
	require.Equal(t, "Weekly plan", before[len(before)-1])
	rules, err := w.api.Definitions(t.Context(), demo.Tracker, "rules")
	require.NoError(t, err)
	step := rules[len(rules)-1].Fields()["steps"].([]any)[0].(map[string]any)["write"].(map[string]any)
	assert.Equal(t, "C5", step["at"])
	assert.NotEmpty(t, step["sheet"])

	const first = `document.querySelector("section.definition")?.getAttribute("aria-label")`
	second := before[1]
	w.do(w.page.Holds(`(h => h && (h.focus(), true))(document.querySelector("[aria-label='Move `+second+`']"))`), w.page.Keys(kb.ArrowUp, chromedp.ModifierAlt), w.page.Holds(first+" === "+quote(second)))
	require.Eventually(t, func() bool { return named()[0] == second }, browser.Wait, 50*time.Millisecond)
	at := func(part string) string {
		return `(window.moved ??= new DataTransfer(), ` + part + `, true)`
	}
	w.do(w.page.Holds(at(`document.querySelector("[aria-label='Move Weekly plan']").dispatchEvent(new DragEvent("dragstart", { bubbles: true, dataTransfer: window.moved }))`)))
	w.do(w.page.Holds(at(`document.querySelector("section.definition").dispatchEvent(new DragEvent("dragover", { bubbles: true, cancelable: true, dataTransfer: window.moved }))`)))
	w.do(w.page.Holds(at(`document.querySelector("section.definition").dispatchEvent(new DragEvent("drop", { bubbles: true, cancelable: true, dataTransfer: window.moved }))`)))
	w.do(w.page.Holds(first + ` === "Weekly plan"`))
	require.Eventually(t, func() bool { return named()[0] == "Weekly plan" }, browser.Wait, 50*time.Millisecond)
}

// How dates are shown is changed in the settings, and the grid follows; it is undone there.
func TestDatesAreShownAsTheSettingsSay(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	due := w.read(0, 4)
	require.Regexp(t, `^\d{4}-\d\d-\d\d$`, due)
	w.do(w.page.Go(w.home+"/settings"), w.page.Says("Working days"))
	w.choose("Dates are shown as", "31.03.2026")
	w.do(w.page.Press("Save"), w.page.Says("Saved dates, numbers and working days"))
	w.open("Requested")
	shown := due[8:] + "." + due[5:7] + "." + due[:4]
	w.do(w.page.Holds(text(0, 4) + " === " + quote(shown)))
}
