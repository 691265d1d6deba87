package e2e

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

// What somebody typed is lost to nothing: not to a click, not to a colleague, not
// to a refusal, not to a service that is away.

// tick is how often the service is asked whether what was typed has come.
const tick = 50 * time.Millisecond

// confirm presses the button of the question that has been asked.
func (w *world) confirm() error {
	return w.page.Holds("(e => e ? (e.click(), true) : false)(document.querySelector('.ant-popover:not(.ant-popover-hidden) .ant-btn-dangerous:enabled'))")
}

// typeOver begins to edit a cell and types over what it holds.
func (w *world) typeOver(row, col int, text string) {
	w.t.Helper()
	w.do(w.page.Click(cellAt(row, col)), w.page.Keys(kb.F2), w.page.Holds("document.activeElement.classList.contains('cell-editor') && (document.activeElement.select(), true)"), w.page.Keys(text))
}

func (w *world) cell(tab, row, column string) any {
	w.t.Helper()
	r, err := w.api.Row(w.t.Context(), demo.Tracker, tab, row)
	require.NoError(w.t, err)
	return r.Cells[column]
}

func (w *world) set(tab, row string, cells map[string]any) {
	w.t.Helper()
	_, err := w.api.SetRow(w.t.Context(), client.How{}, demo.Tracker, tab, row, wire.RowEdit{Cells: cells})
	require.NoError(w.t, err)
}

func TestAClickOnAnotherCellSavesWhatWasTyped(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(2, 1)
	w.typeOver(2, 2, "Harbour Friends")
	w.do(w.page.Click(cellAt(4, 3)))
	w.do(w.page.Holds(text(2, 2) + " === 'Harbour Friends'"))
	w.do(w.page.Holds("document.activeElement === document.querySelector(\"" + cellAt(4, 3) + "\")"))
	require.Eventually(t, func() bool { return w.cell("Requested", object, "Lender") == "Harbour Friends" }, browser.Wait, tick)
}

// Dates are read as people write them; what is no date takes the place of one only where
// somebody says so.
func TestDatesAreReadAsTypedAndGoodOnesKept(t *testing.T) {
	w := newWorld(t)
	w.open("On display")
	object, arrived := w.read(2, 1), 6
	w.typeOver(2, arrived, "27/11/2026")
	w.do(w.page.Keys(kb.Enter))
	require.Eventually(t, func() bool { return w.cell("On display", object, "Arrived") == "2026-11-27" }, browser.Wait, tick)
	w.typeOver(2, arrived, "03/04/2026")
	w.do(w.page.Keys(kb.Enter), w.page.Holds("document.body.innerText.includes('as 2026-04-03, the day first')"))

	for _, way := range []string{"Discard", "Keep as written"} {
		w.typeOver(2, arrived, "soon")
		w.do(w.page.Keys(kb.Enter), w.page.Says("It would replace 2026-04-03"), w.page.Holds(text(2, arrived)+" === 'soon'"))
		assert.Equal(t, "2026-04-03", w.cell("On display", object, "Arrived"))
		w.do(w.page.Press(way), w.page.Holds("!document.querySelector('.unsaved')"))
	}
	require.Eventually(t, func() bool { return w.cell("On display", object, "Arrived") == "soon" }, browser.Wait, tick)
}

func TestLineBreaksStay(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(2, 1)
	w.set("Requested", object, map[string]any{"Lender": "One\nTwo"})
	w.do(w.page.Holds(text(2, 2)+".includes('Two')"), w.page.Click(cellAt(2, 2)), w.page.Keys(kb.F2), w.page.Keys("!"))
	w.do(w.page.Keys(kb.Enter, chromedp.ModifierAlt), w.page.Keys("Three"))
	// the editor lies over the rows below, whole
	w.do(w.page.Holds(`(e => { const at = e.getBoundingClientRect(); return e.scrollHeight <= e.clientHeight && [0.1, 0.9].every(part => document.elementFromPoint(at.left + 5, at.top + at.height * part) === e); })(document.querySelector(".cell-editor"))`))
	w.do(w.page.Keys(kb.Enter))
	require.Eventually(t, func() bool { return w.cell("Requested", object, "Lender") == "One\nTwo!\nThree" }, browser.Wait, tick)
}

// A row that a colleague moves while one types stays until one has done, and what is typed goes
// to where it is now.
func TestARowThatLeavesTakesWhatIsTypedAlong(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object, next := w.read(2, 1), w.read(3, 1)
	before := w.cell("Requested", next, "Lender")
	w.typeOver(2, 2, "Lantern")
	w.set("Requested", object, map[string]any{"Stage": "Agreed"})
	w.do(w.page.Says(object+" moved to Agreed while you type"), w.page.Keys(" Friends"))
	w.do(w.page.Keys(kb.Enter), w.page.Holds("!document.querySelector('.cell-editor')"))
	require.Eventually(t, func() bool { return w.cell("Agreed", object, "Lender") == "Lantern Friends" }, browser.Wait, tick)
	assert.Equal(t, before, w.cell("Requested", next, "Lender"))
}

// A row that a colleague moves while it is selected leaves nothing selected in its place: the
// next key was meant for it, and changes no other.
func TestAKeyMeantForARowThatLeftChangesNoOther(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object, next := w.read(2, 1), w.read(3, 1)
	before := w.cell("Requested", next, "Lender")
	w.do(w.page.Click(cellAt(2, 2)))
	w.set("Requested", object, map[string]any{"Stage": "Agreed"})
	w.do(w.page.Holds(text(2, 1)+" === "+quote(next)), w.page.Keys(kb.Delete), w.page.Says("Nothing was changed"), w.page.Says(object+" is in Agreed now"))
	w.do(w.page.Keys("x"), w.page.Holds("!document.querySelector('.cell-editor')"))
	assert.Equal(t, before, w.cell("Requested", next, "Lender"))
	w.do(w.page.Keys(kb.ArrowDown), w.page.Keys(kb.ArrowUp), w.page.Keys(kb.Delete))
	require.Eventually(t, func() bool { return w.cell("Requested", next, "Lender") == nil }, browser.Wait, tick)
}

func TestWhatIsRefusedStaysUntilItIsSavedOrDiscarded(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(2, 1)
	// a column that refuses what does not fit
	_, err := w.api.ChangeColumn(t.Context(), client.How{}, demo.Tracker, "Requested", "Lender", wire.ColumnChange{Definition: map[string]any{"longest text": 12}})
	require.NoError(t, err)
	w.open("Requested")
	w.typeOver(2, 2, "Much too long a name")
	w.do(w.page.Keys(kb.Enter))
	w.do(w.page.Says("Not saved"), w.page.Says("at most 12 characters"), w.page.Click(cellAt(2, 2)), w.page.Holds("document.querySelector('.grid-beside')?.innerText.includes('at most 12 characters')"))
	w.open("Requested") // over a reload
	w.do(w.page.Says("Not saved"), w.page.Holds("document.querySelector('.unsaved textarea').value === 'Much too long a name'"))
	w.do(w.page.Click(".unsaved textarea"), w.page.Holds("(document.activeElement.select(), true)"), w.page.Keys("Shorter"), w.page.Press("Retry"), w.page.Holds("!document.body.innerText.includes('Not saved') && !document.querySelector('.cell-pending')"))
	assert.Equal(t, "Shorter", w.cell("Requested", object, "Lender"))
}

func TestAColumnIsDeletedAfterAQuestionAndComesBack(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(2, 1)
	const was = "call first"
	w.set("Requested", object, map[string]any{"Remarks": was})
	_, err := w.api.DropDefinition(t.Context(), client.How{}, demo.Tracker, "forms", "Request a loan") // it asks for remarks
	require.NoError(t, err)
	w.do(w.page.Press("Columns"), w.page.Press("Remarks text"), w.page.Press("Delete column"), w.page.Says("Delete column Remarks?"))
	assert.Equal(t, was, w.cell("Requested", object, "Remarks"), "asked, not done")
	w.do(w.confirm(), w.page.Holds("!document.querySelector('.columns-list').innerText.includes('Remarks')"))
	const closed = "[...document.querySelectorAll('.ant-modal-wrap')].every(m => getComputedStyle(m).display === 'none')"
	const close = "(document.querySelector('.ant-modal-close')?.click(), " + closed + ")" // the question may still lie over the dialog
	w.do(w.page.Holds(close), w.page.Click(cellAt(2, 1)), w.page.Keys("z", chromedp.ModifierCtrl), w.page.Says("Undone"))
	assert.Equal(t, was, w.cell("Requested", object, "Remarks"))
}

func TestAHalfWrittenNoteOutlivesAnEditOfTheRow(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(2, 1)
	const note = "textarea[aria-label='Note on Lender']"
	w.do(w.page.Click(cellAt(2, 2)), w.page.Keys(kb.F4), w.page.Click(note), w.page.Keys("Ask for the key"))
	w.set("Requested", object, map[string]any{"Stage": "Requested", "Lender": "Lantern Friends"})
	w.do(w.page.Holds(text(2, 2)+" === 'Lantern Friends'"), w.page.Holds(fmt.Sprintf("document.querySelector(%q).value === 'Ask for the key'", note)))
	w.do(w.page.Press("Save note"), w.page.Holds("!document.body.innerText.includes('Save note')"))
	r, err := w.api.Row(t.Context(), demo.Tracker, "Requested", object)
	require.NoError(t, err)
	assert.Equal(t, "Ask for the key", r.Notes["Lender"])
}

func TestAnUndoThatIsBlockedBlocksNoEarlierOne(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	first, second := w.read(1, 1), w.read(2, 1)
	was := w.cell("Requested", first, "Lender")
	w.typeOver(1, 2, "Mine one")
	w.do(w.page.Keys(kb.Enter), w.page.Holds(text(1, 2)+" === 'Mine one'"))
	w.typeOver(2, 2, "Mine two")
	w.do(w.page.Keys(kb.Enter))
	require.Eventually(t, func() bool { return w.cell("Requested", second, "Lender") == "Mine two" }, browser.Wait, tick)
	w.set("Requested", second, map[string]any{"Lender": "Theirs"})
	w.do(w.page.Holds(text(2, 2)+" === 'Theirs'"), w.page.Keys("z", chromedp.ModifierCtrl), w.page.Says("Undone"), w.page.Says("Skipped: set Lender of "))
	assert.Equal(t, was, w.cell("Requested", first, "Lender"))
	assert.Equal(t, "Theirs", w.cell("Requested", second, "Lender"))

	w.open("Requested") // over a reload, done again and listed
	w.do(w.page.Click(cellAt(3, 3)), w.page.Keys("Z", chromedp.ModifierCtrl, chromedp.ModifierShift), w.page.Says("Redone"))
	assert.Equal(t, "Mine one", w.cell("Requested", first, "Lender"))
	w.do(w.page.Press("Changes"), w.page.Says("Mine one"), w.page.Click(".my-changes li:nth-child(2) button"), w.page.Says("Redo this change"))
	assert.Equal(t, was, w.cell("Requested", first, "Lender"))
}

// away stands before a service and lets it be away.
type away struct {
	*httptest.Server
	gone atomic.Bool
}

func newAway(t *testing.T, address string) *away {
	to, err := url.Parse(address)
	require.NoError(t, err)
	proxy := httputil.NewSingleHostReverseProxy(to)
	proxy.FlushInterval = -1
	a := &away{}
	a.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if a.gone.Load() {
			http.Error(w, "bad gateway", http.StatusBadGateway)
			return
		}
		proxy.ServeHTTP(w, r)
	}))
	t.Cleanup(a.Close)
	t.Cleanup(a.CloseClientConnections)
	return a
}

// A page opened while the service is away once stayed a library's error page, and
// live events ended for good.
func TestAServiceThatIsAwayComesBackByItself(t *testing.T) {
	w := newWorld(t)
	a := newAway(t, w.address)
	home := strings.Replace(w.home, w.address, a.URL, 1)
	w.do(w.page.Go(a.URL+"/"), w.page.Says("Scheduled")) // the session's cookie is the host's, whatever the port
	a.gone.Store(true)
	a.CloseClientConnections()
	w.do(w.page.Says("What others change is not shown until it does"))
	w.do(w.page.Press("Rules"), w.page.Says("This page could not be loaded"))
	a.gone.Store(false)
	w.do(w.page.Says("what moves, marks and files rows"))

	w.do(w.page.Go(home+"/"+w.tabs["Requested"]), w.page.Holds("document.querySelectorAll('.grid-row').length > 3"))
	object := w.read(2, 1)
	a.gone.Store(true)
	a.CloseClientConnections()
	w.do(w.page.Says("What others change is not shown until it does"))
	w.typeOver(2, 2, "Typed while away")
	w.do(w.page.Keys(kb.Enter), w.page.Says("1 edit waits to be sent."))
	w.typeOver(3, 2, "And this")
	w.do(w.page.Keys(kb.Enter), w.page.Says("2 edits wait to be sent."))
	second := w.read(3, 1)
	a.gone.Store(false)
	w.do(w.page.Holds("!document.body.innerText.includes('to be sent') && !document.querySelector('.cell-pending')"))
	assert.Equal(t, "Typed while away", w.cell("Requested", object, "Lender"))
	assert.Equal(t, "And this", w.cell("Requested", second, "Lender"))
	w.do(w.page.Go(home+"/settings"), w.page.Says("with the columns of"))
	w.fill(`document.querySelector("input[aria-label='Name of the new tab']")`, "Made while away")
	a.gone.Store(true)
	a.CloseClientConnections()
	w.do(w.page.Press("Add tab"), w.page.Says("What others change is not shown until it does"))
	a.gone.Store(false)
	w.do(w.page.Says("Added tab Made while away"))
	tr, err := w.api.Tracker(t.Context(), demo.Tracker)
	require.NoError(t, err)
	assert.Len(t, tr.Tabs, len(w.tabs)+1)

	w.do(w.page.Go(home+"/"+w.tabs["Requested"]), w.page.Holds("document.querySelectorAll('.grid-row').length > 3"))
	w.set("Requested", w.read(3, 1), map[string]any{"Lender": "Live again"})
	w.do(w.page.Holds(text(3, 2) + " === 'Live again'"))
}

// A row that moves to another tracker appears there in an open console.
func TestARowThatComesFromAnotherTrackerAppears(t *testing.T) {
	w := newWorld(t)
	_, err := w.api.LoadSetup(t.Context(), client.How{}, "tracker: Store\ntabs: { Shelf: { columns: { Object: { type: text } } } }\n", true)
	require.NoError(t, err)
	store, err := w.api.Tracker(t.Context(), "Store")
	require.NoError(t, err)
	_, err = w.api.PutDefinition(t.Context(), client.How{}, demo.Tracker, "rules", wire.DocumentOf(map[string]any{"name": "To the store", "wake": map[string]any{"edit": []string{"Lender"}}, "in": "Requested", "where": `Lender is "Store"`,
		"steps": []any{map[string]any{"move": map[string]any{"tracker": "Store", "to": "Shelf"}}}}))
	require.NoError(t, err)
	w.open("Requested")
	object := w.read(2, 1)
	w.do(w.page.Go(w.address+"/t/"+store.ID+"/"+store.Tabs[0].ID), w.page.Says("No rows yet"))
	w.set("Requested", object, map[string]any{"Lender": "Store"})
	w.do(w.page.Says(object))
}

// A page that ends without a word, as in a crash, leaves what was being typed to the next one.
func TestWhatIsTypedOutlivesAPageThatEndsWithoutAWord(t *testing.T) {
	w := newWorld(t)
	w.do(w.page.Beforehand(`window.addEventListener("pagehide", (e) => e.stopImmediatePropagation(), true)`))
	w.open("Requested")
	object := w.read(2, 1)
	w.typeOver(2, 2, "half a lender")
	w.do(w.page.Do(chromedp.Reload()), w.page.Holds("document.querySelectorAll('.grid-row').length > 3"))
	require.Eventually(t, func() bool { return w.cell("Requested", object, "Lender") == "half a lender" }, browser.Wait, tick)
}
