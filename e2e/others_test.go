package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
)

// Who else is in a tab is named, and where they are is marked, as they come, move and go.
func TestOthersAreSeenWhereTheyAre(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	link, err := w.api.NewLink(t.Context(), "Marta Quell")
	require.NoError(t, err)
	theirs, err := browser.Open(t.Context())
	require.NoError(t, err)
	t.Cleanup(theirs.Close)
	w.do(theirs.Go(link.Link), theirs.Says("Scheduled"), theirs.Go(w.home+"/"+w.tabs["Requested"]), theirs.Says("Also here: Ines Valadar"))
	w.do(theirs.Click(cellAt(4, 2)))
	w.do(w.page.Says("Also here: Marta Quell"), w.page.Holds("document.querySelector(\""+cellAt(4, 2)+" .cell-who\")?.innerText === 'MQ'"))
	w.do(theirs.Keys(kb.ArrowDown), w.page.Holds("document.querySelector(\""+cellAt(5, 2)+" .cell-who\") && document.querySelectorAll('.cell-who').length === 1"))
	described, err := browser.Eval[string](w.page, "document.querySelector(\""+cellAt(5, 2)+"\").getAttribute('aria-description')")
	require.NoError(t, err)
	assert.Contains(t, described, "Here: Marta Quell")
	// and the way there, though they are in another tab
	w.do(theirs.Go(w.home+"/"+w.tabs["Agreed"]), theirs.Holds("document.querySelectorAll('.grid-row').length > 3"), theirs.Click(cellAt(3, 1)))
	w.do(w.page.Holds("document.querySelector('.also-here a')?.title.startsWith('Agreed')"), w.page.Holds("!document.querySelector('.cell-who')"))
	w.do(w.page.Click(".also-here a"), w.page.Holds("document.querySelector('h1').innerText === 'Agreed'"), w.page.Holds("document.querySelector('.cell-who')"))
	w.do(theirs.Go("about:blank"), w.page.Holds("!document.querySelector('.also-here')"))
}

// Several cells have one note put on them, say what made them so, and lead to the changes of
// their tab, by the mouse and by the keyboard.
func TestSeveralCellsHaveDetails(t *testing.T) {
	bothIn(t, newWorld, func(t *testing.T, w *world, h hand) {
		w.open("Requested")
		w.set("Requested", "Enamelled sextant", map[string]any{"Lender": "Harbour Friends"})
		w.do(w.page.Click(cellAt(1, 2)), w.page.Keys(kb.ArrowDown, chromedp.ModifierShift), w.page.Keys(kb.ArrowRight, chromedp.ModifierShift))
		h.press("Details")
		assert.Empty(t, w.violations(everyRule))
		w.do(w.page.Says("4 cells in 2 rows"), w.page.Says("1 cell: "), w.page.Says("3 cells: Demo"), w.page.Says("Harbour Friends"))
		h.write("Note on all of them", "call them first")
		h.press("Save note")
		w.do(w.page.Holds("document.querySelectorAll('.cell-note').length >= 4"))
		row, err := w.api.Row(t.Context(), demo.Tracker, "Requested", "Enamelled sextant")
		require.NoError(t, err)
		assert.Equal(t, "call them first", row.Notes["Lender"])
		assert.Equal(t, "call them first", row.Notes["Stage"])
		w.do(w.page.Holds("document.querySelector('.why textarea').value === 'call them first'"))
		h.press("Changes")
		h.press("All changes in Requested")
		w.do(w.page.Says("note"), w.page.Holds("location.search.includes('tab="+w.tabs["Requested"]+"')"))
		w.open("Requested")
		h.press("Changes")
		h.press("Requested at an earlier time")
		w.do(w.page.Says("as it was at"))
	})
}

// In a narrow window each row is a card; it is opened, edited, and moves as a row of the grid does.
func TestRowsAreCardsInANarrowWindow(t *testing.T) {
	bothIn(t, newWorld, func(t *testing.T, w *world, h hand) {
		w.do(w.page.Size(390, 800), w.page.Go(w.home+"/"+w.tabs["Requested"]), w.page.Holds("document.querySelectorAll('.card').length > 2"))
		h.press("Enamelled sextant")
		w.do(w.page.Says("in Requested"))
		assert.Empty(t, w.violations(everyRule))
		h.press("Edit Lender")
		w.do(w.page.Holds("document.activeElement.classList.contains('cell-editor') && (document.activeElement.select(), true)"), w.page.Keys("Harbour Friends"), w.page.Enter())
		w.do(w.page.Holds("document.querySelector('.row-card').innerText.includes('Harbour Friends')"))
		h.press("Edit Stage")
		w.do(w.page.Holds("document.activeElement.classList.contains('cell-editor') && (document.activeElement.select(), true)"), w.page.Keys("Agr"), w.page.Enter())
		w.do(w.page.Says("in Agreed"))
		row, err := w.api.Row(t.Context(), demo.Tracker, "Agreed", "Enamelled sextant")
		require.NoError(t, err)
		assert.Equal(t, "Harbour Friends", row.Cells["Lender"])
		h.press("Details")
		w.do(w.page.Says("Why it is in Agreed"), w.page.Holds("document.querySelector('.why').getBoundingClientRect().width === innerWidth"))
		h.press("Details")
		h.press("Back")
		w.do(w.page.Holds("!document.querySelector('.row-card')"), w.page.Holds("!document.querySelector('.cards').innerText.includes('Enamelled sextant')"))
		h.press("Show as grid")
		w.do(w.page.Holds("document.querySelectorAll('.grid-head .cell-frozen').length === 1"))
		h.press("Show as cards")
		w.do(w.page.Holds("document.querySelectorAll('.card').length > 2"), w.page.Holds("document.documentElement.scrollWidth <= innerWidth"))
	})
}

// What is half written in a form waits for one, whatever closed it.
func TestAHalfWrittenRowWaits(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	h := &mouse{w}
	h.press("Add row")
	h.write("Object", "Half a bell")
	w.do(w.page.Mouse("mousePressed", 20, 20), w.page.Mouse("mouseReleased", 20, 20), w.page.Says("Add a row to Requested"))
	w.set("Requested", "Enamelled sextant", map[string]any{"Lender": "Harbour Friends"})
	w.do(w.page.Says("Add a row to Requested"))
	w.do(w.page.Go(w.home+"/"+w.tabs["Requested"]), w.page.Holds("document.querySelectorAll('.grid-row').length > 3"))
	h.press("Add row")
	w.do(w.page.Says("What you began to write is here again."), w.page.Holds("[...document.querySelectorAll('.ant-modal input, .ant-modal textarea')].some(e => e.value === 'Half a bell')"))
}

// On a telephone one goes from Today to a row that is overdue, acts on it, and works on a page.
func TestTodaysRowsAndPagesOnATelephone(t *testing.T) {
	w := newWorld(t)
	h := &mouse{w}
	w.do(w.page.Size(390, 800), w.page.Go(w.address+"/"), w.page.Holds("document.querySelector('.held a')"))
	label, err := browser.Eval[string](w.page, "document.querySelector('.held a').innerText")
	require.NoError(t, err)
	h.press(label)
	w.do(w.page.Holds("document.querySelector('.row-card h2')?.innerText === " + quote(label)))
	h.press("Edit Remarks")
	w.do(w.page.Holds("document.activeElement.classList.contains('cell-editor')"), w.page.Keys("asked by phone"), w.page.Enter())
	w.do(w.page.Holds("document.querySelector('.row-card').innerText.includes('asked by phone')"), w.page.Holds("document.documentElement.scrollWidth <= innerWidth"))
	h.press("Rows")
	w.do(w.page.Says("Move row to"))
	found, err := w.api.FindPages(t.Context(), "North Pier")
	require.NoError(t, err)
	w.do(w.page.Go(found[0].Address), w.page.Says("Worth on display"), w.page.Holds("document.documentElement.scrollWidth <= innerWidth"))
}
