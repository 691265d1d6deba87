// Package e2e drives whole programs the way their users do: the console in
// headless Chromium, the service killed in the middle of its work.
package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/console"
	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/service"
	"example.org/kavlo/internal/standin/listserver"
	"example.org/kavlo/internal/standin/post"
	"example.org/kavlo/internal/wire"
)

// world is a demo with a signed-in page and a client.
type world struct {
	t       *testing.T
	demo    *service.Demo
	page    *browser.Page
	api     *client.Client
	address string // of the service
	home    string // of the tracker's pages
	tabs    map[string]string

	// of a workspace that is blank at first: a mail server that could be set
	mail     string
	office   *post.Office
	lists    *listserver.Server
	register string // the address of its list of lenders
}

func newWorld(t *testing.T) *world {
	t.Helper()
	t.Parallel() // what takes time is mostly waiting for pages
	require.NotNil(t, console.Files(), "the console has not been built: run make build")
	dir := t.TempDir()
	d, err := service.StartDemo(t.Context(), service.Settings{Version: "0", Dir: dir, Listen: "127.0.0.1:0", Console: console.Files()},
		service.DemoSettings{Lists: "127.0.0.1:0", Post: "127.0.0.1:0", SMTP: "127.0.0.1:0"})
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, d.Stop()) })
	token, err := os.ReadFile(filepath.Join(dir, access.KeeperFile))
	require.NoError(t, err)
	w := &world{t: t, demo: d, address: d.Address, tabs: map[string]string{}}
	w.api, err = client.New(d.Address, string(token))
	require.NoError(t, err)
	tr, err := w.api.Tracker(t.Context(), demo.Tracker)
	require.NoError(t, err)
	for _, tab := range tr.Tabs {
		w.tabs[tab.Name] = tab.ID
	}
	w.home = d.Address + "/t/" + tr.ID
	w.page, err = browser.Share()
	require.NoError(t, err)
	t.Cleanup(w.page.Close)
	w.do(w.page.Go(d.SignIn), w.page.Says("Scheduled"))
	return w
}

func (w *world) do(errs ...error) {
	w.t.Helper()
	for _, err := range errs {
		require.NoError(w.t, err)
	}
}

// open opens a tab and waits for its rows.
func (w *world) open(tab string) {
	w.t.Helper()
	w.do(w.page.Go(w.home+"/"+w.tabs[tab]), w.page.Holds("document.querySelectorAll('.grid-row').length > 3"))
}

func cellAt(row, col int) string {
	return fmt.Sprintf("[data-row='%d'] > [data-col='%d']", row, col)
}

// text gives the text of a cell as a JavaScript expression.
func text(row, col int) string {
	return fmt.Sprintf("document.querySelector(\"%s\").innerText", cellAt(row, col))
}

func (w *world) read(row, col int) string {
	w.t.Helper()
	s, err := browser.Eval[string](w.page, text(row, col))
	require.NoError(w.t, err)
	return s
}

func TestAOneTimeLinkSignsInOnce(t *testing.T) {
	w := newWorld(t)
	other, err := w.page.Another()
	require.NoError(t, err)
	defer other.Close()
	w.do(other.Go(w.demo.SignIn), other.Says("not known or has expired"))
	w.do(other.Go(w.address), other.Says("Sign in to Kavlo"))
	w.do(w.page.Says("Ines Valadar"), w.page.Press("Sign out"), w.page.Says("Sign in to Kavlo"))
	w.do(w.page.Go(w.address+"/mail"), w.page.Says("Sign in to Kavlo"))
}

// TestSigningOutSlowlyLeavesTheNextOneIn holds back the answer to a sign-out: that the session
// is over, the page may hear before that from whatever else it asks.
func TestSigningOutSlowlyLeavesTheNextOneIn(t *testing.T) {
	w := newWorld(t)
	p, err := w.api.PutPerson(t.Context(), wire.NewPerson{Name: "Orla Reader", Address: "orla@example.org", Access: "reader"})
	require.NoError(t, err)
	link, err := w.api.NewLink(t.Context(), p.Address)
	require.NoError(t, err)
	_, err = browser.Eval[bool](w.page, `(() => {
		const fetch = window.fetch;
		window.fetch = async (request) => {
			const answer = await fetch(request);
			if (request.method === "DELETE") {
				await new Promise((go) => { window.letGo = go; });
				setTimeout(() => { window.wentOn = true; }, 300);
			}
			return answer;
		};
		return true;
	})()`)
	require.NoError(t, err)
	w.do(w.page.Says("Ines Valadar"), w.page.Press("Sign out"), w.page.Holds("window.letGo !== undefined"), w.page.Says("Sign in to Kavlo"))
	w.do(w.page.Go(w.address+"/sign-in#"+link.Secret), w.page.Says("Orla Reader"))
	w.do(w.page.Holds("(window.letGo(), true)"), w.page.Holds("window.wentOn"), w.page.Says("Orla Reader"), w.page.Says("Scheduled"))
}

func TestAStatusChangedByKeyboardMovesTheRowAndCtrlZBringsItBack(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(1, 1)
	w.do(w.page.Click(cellAt(0, 2)), w.page.Keys(kb.ArrowDown), w.page.Keys(kb.ArrowRight))
	w.do(w.page.Letter("A"), w.page.Keys(kb.Enter), w.page.Says("Rule \"Move loans to their stage\": moved to Agreed"))
	w.do(w.page.Holds(text(1, 1) + " !== " + quote(object)))
	row, err := w.api.Row(t.Context(), demo.Tracker, "Agreed", object)
	require.NoError(t, err)
	assert.Equal(t, "Agreed", row.Cells["Stage"])
	w.do(w.page.Keys("z", chromedp.ModifierCtrl), w.page.Says("Undone"), w.page.Holds(text(1, 1)+" === "+quote(object)))
	_, err = w.api.Row(t.Context(), demo.Tracker, "Requested", object)
	require.NoError(t, err)
}

func quote(s string) string {
	text, _ := json.Marshal(s) // a string always marshals
	return string(text)
}

func TestWhatOthersDoShowsAtOnceAndTheDrawerSaysWhy(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(2, 1)
	_, err := w.api.SetRow(t.Context(), client.How{}, demo.Tracker, "Requested", object, wire.RowEdit{Cells: map[string]any{"Lender": "Lantern Friends"}})
	require.NoError(t, err)
	w.do(w.page.Holds(text(2, 2) + " === 'Lantern Friends'"))
	w.do(w.page.Click(cellAt(2, 2)), w.page.Keys(kb.F4), w.page.Says("Why Lender is Lantern Friends"), w.page.Says("by Admin"))
	_, err = w.api.SetRow(t.Context(), client.How{}, demo.Tracker, "Requested", object, wire.RowEdit{Cells: map[string]any{"Stage": "Agreed"}})
	require.NoError(t, err)
	w.do(w.page.Holds(text(2, 1) + " !== " + quote(object)))
	w.open("Agreed")
	w.do(w.page.Says(object))
}

func TestACellIsSetOffFromTheDrawerAndSaidInWords(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(2, 1)
	w.do(w.page.Click(cellAt(2, 1)), w.page.Keys(kb.F4), w.page.Says("Style of Object"))
	w.do(w.page.Click(".look-fills button[aria-label=amber]"))
	says := fmt.Sprintf("document.querySelector(%q).getAttribute('aria-description')", cellAt(2, 1))
	w.do(w.page.Holds(says + ".endsWith('Style: amber fill')"))
	w.do(w.page.Click(".look-marks label:nth-child(3)"))
	w.do(w.page.Holds(says+".endsWith('Style: amber fill, strikethrough')"),
		w.page.Holds(fmt.Sprintf("getComputedStyle(document.querySelector(%q)).textDecorationLine === 'line-through'", cellAt(2, 1))))
	row, err := w.api.Row(t.Context(), demo.Tracker, "Requested", object)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"Object": "fill #F6E7CC, struck"}, row.Styles)
	w.do(w.page.Click(".look > label"), w.page.Click(".look-fills button[aria-label=teal]"))
	w.do(w.page.Holds(fmt.Sprintf("document.querySelector(%q).getAttribute('aria-description')?.endsWith('Style: teal fill, strikethrough')", cellAt(2, 2))))
	row, err = w.api.Row(t.Context(), demo.Tracker, "Requested", object)
	require.NoError(t, err)
	assert.Greater(t, len(row.Styles), 5, "the whole row")

	w.do(w.page.Click(cellAt(4, 1)), w.page.Keys(kb.ArrowDown, chromedp.ModifierShift), w.page.Keys(kb.ArrowDown, chromedp.ModifierShift), w.page.Says("Style of 3 cells"))
	w.do(w.page.Click(".look-fills button[aria-label=violet]"))
	for at := 4; at <= 6; at++ {
		w.do(w.page.Holds(fmt.Sprintf("document.querySelector(%q).getAttribute('aria-description') === 'Style: violet fill'", cellAt(at, 1))))
	}
	w.do(w.page.Click(cellAt(5, 2)), w.page.Keys("z", chromedp.ModifierCtrl), w.page.Holds(fmt.Sprintf("!document.querySelector(%q).hasAttribute('aria-description')", cellAt(5, 1))))
	assert.Empty(t, w.violations(everyRule))
}

func TestTwoPeopleInOneCellAreBothShown(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	object := w.read(0, 1)
	edit := func(column, v string) {
		_, err := w.api.SetRow(t.Context(), client.How{}, demo.Tracker, "Requested", object, wire.RowEdit{Cells: map[string]any{column: v}})
		require.NoError(t, err)
	}
	stands := func() any {
		row, err := w.api.Row(t.Context(), demo.Tracker, "Requested", object)
		require.NoError(t, err)
		return row.Cells["Lender"]
	}
	begin := func(typed string) {
		w.do(w.page.Click(cellAt(0, 2)), w.page.Keys(kb.F2), w.page.Holds("document.activeElement.className === 'cell-editor'"), w.page.Keys(typed))
	}
	begin(" of mine")
	edit("Lender", "Theirs")
	w.do(w.page.Keys(kb.Enter), w.page.Says("Someone else changed Lender of "+object), w.page.Says("to “Theirs”"), w.page.Holds(text(0, 2)+".endsWith(' of mine')"))
	assert.Equal(t, "Theirs", stands())
	w.do(w.page.Press("Keep theirs"), w.page.Holds(text(0, 2)+" === 'Theirs'"))

	begin(" and mine")
	edit("Lender", "Theirs again")
	w.do(w.page.Keys(kb.Enter), w.page.Press("Use mine"), w.page.Holds(text(0, 2)+" === 'Theirs and mine' && !document.querySelector('.cell-pending')"))
	assert.Equal(t, "Theirs and mine", stands())

	begin("!") // another cell of the row: both edits stand, and nobody is asked
	edit("Remarks", "call first")
	w.do(w.page.Keys(kb.Enter), w.page.Holds(text(0, 2)+" === 'Theirs and mine!' && !document.querySelector('.cell-pending')"))
	assert.Equal(t, "Theirs and mine!", stands())
}

func TestBadInputIsToldAndNothingIsLost(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	due := w.read(0, 4)
	w.do(w.page.Click(cellAt(0, 4)), w.page.Letter("s"), w.page.Keys("oon"), w.page.Keys(kb.Enter), w.page.Says("write it as 2026-03-31"), w.page.Holds(text(0, 4)+" === 'soon'"))
	assert.Equal(t, due, w.cell("Requested", w.read(0, 1), "Due"))
	w.do(w.page.Go(w.home+"/"+w.tabs["On display"]+"?x"), w.page.Holds("document.querySelectorAll('.cell-odd').length > 0"))
	w.do(w.page.Go(w.home+"/"+w.tabs["On display"]+"?where=Stge+is+blank"), w.page.Says("did you mean Stage?"), w.page.Holds("document.querySelectorAll('.grid-row').length === 0"))
}

// paste puts a block into the grid, as text or as a page would have it.
func (w *world) paste(kind, block string) {
	w.t.Helper()
	_, err := browser.Eval[bool](w.page, fmt.Sprintf(`document.activeElement.dispatchEvent(new ClipboardEvent("paste", { bubbles: true, cancelable: true, clipboardData: (() => { const d = new DataTransfer(); d.setData(%q, %s); return d; })() }))`, kind, quote(block)))
	require.NoError(w.t, err)
}

// A table of a page goes in with what its cells mean, and beyond the last row into new rows,
// after it has been said what has no place.
func TestATableIsPastedAndAddsRows(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	w.do(w.page.Click(cellAt(2, 2)), w.page.Keys(kb.ArrowDown, chromedp.ModifierCtrl), w.page.Keys(kb.Home))
	w.do(w.page.Holds(`document.activeElement.parentElement?.dataset.row === "27"`))
	rows := `<tr><td>%s</td><td>%s</td><td>Harbour Friends</td><td>Requested</td><td><time datetime="2027-03-04">4 March</time></td><td>Marta Quell</td></tr>`
	w.paste("text/html", "<table>"+fmt.Sprintf(rows, "L-2001", "Tin whistle")+fmt.Sprintf(rows, "L-2002", "Brass gong")+"</table>")
	w.do(w.page.Says("1 row is added at the end of the tab"), w.page.Says("6 cells are written."))
	_, err := w.api.Row(t.Context(), demo.Tracker, "Requested", "Brass gong")
	require.Error(t, err, "it is asked before it is done")
	w.do(w.page.Press("Paste and add 1 row"), w.page.Says("29 rows"), w.page.Holds("!document.querySelector('.cell-pending')"))
	for _, object := range []string{"Tin whistle", "Brass gong"} {
		require.Eventually(t, func() bool {
			_, err := w.api.Row(t.Context(), demo.Tracker, "Requested", object)
			return err == nil
		}, browser.Wait, tick)
		assert.Equal(t, "2027-03-04", w.cell("Requested", object, "Due"))
		assert.Equal(t, "marta.quell@example.org", w.cell("Requested", object, "Registrar"))
	}
}

func TestABlockIsPastedAllOrNone(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	paste := func(block string) { w.paste("text/plain", block) }
	w.do(w.page.Click(cellAt(0, 2)))
	paste("First lender\nSecond lender\nThird lender")
	w.do(w.page.Holds(text(2, 2)+" === 'Third lender'"), w.page.Holds(text(0, 2)+" === 'First lender'"))
	w.do(w.page.Click(cellAt(0, 4)))
	before := []string{w.read(0, 4), w.read(1, 4)}
	paste("2027-01-01\nnever\n2027-01-03")
	w.do(w.page.Says("is not a date"), w.page.Holds("document.querySelectorAll('.cell-refused').length === 3"))
	assert.Equal(t, before[0], w.cell("Requested", w.read(0, 1), "Due"))
	w.do(w.page.Press("Discard"), w.page.Holds("!document.querySelector('.cell-refused')"))
	assert.Equal(t, before, []string{w.read(0, 4), w.read(1, 4)})
}

func TestColumnsAreAddedRenamedAndDropped(t *testing.T) {
	w := newWorld(t)
	const name = "[...document.querySelectorAll('.columns-form label')].find(l => l.innerText.startsWith('Name')).querySelector('input')"
	w.do(w.page.Go(w.home+"/"+w.tabs["Crating"]), w.page.Says("Add row"), w.page.Press("Columns"), w.page.Press("Add a column"), w.page.Holds(name))
	enabled := func(button string) error {
		return w.page.Holds(fmt.Sprintf("[...document.querySelectorAll('.columns-form button')].some(b => b.innerText === %q && !b.disabled)", button))
	}
	const closed = "!document.querySelector('.columns-form')"
	w.fill(name, "Weight")
	w.do(enabled("Add column"), w.page.Press("Add column"), w.page.Holds(closed), w.page.Press("Weight text"), w.page.Holds(name))
	w.fill(name, "Mass")
	w.do(enabled("Save"), w.page.Press("Save"), w.page.Holds(closed), w.page.Press("Mass text"), w.page.Holds(name), w.page.Press("Delete column"), w.page.Says("Delete column Mass?"), w.confirm(), w.page.Holds("!document.querySelector('.columns-list').innerText.includes('Mass')"))
	w.do(w.page.Press("Stage choice"), w.page.Press("Delete column"), w.page.Says("cannot be deleted from Crating while it is needed by rule Move loans to their stage"))
	sets, err := w.api.Journal(t.Context(), demo.Tracker, client.JournalOf{}, 4)
	require.NoError(t, err)
	assert.Equal(t, "setup", sets[0].Says)
}

func TestConflictsAreSettledAndTheGuardIsToldOf(t *testing.T) {
	w := newWorld(t)
	w.do(w.page.Go(w.address+"/"), w.page.Says("Open conflicts"), w.page.Press("Ostrel Island Society"), w.page.Says("Open conflicts"))
	w.do(w.page.Says("office.ostrel@example.org"), w.page.Says("keeper.ostrel@example.org"), w.page.Press("Keep tab value"), w.page.Says("None: wherever both sides changed something"))
	held, err := w.api.Conflicts(t.Context(), demo.Tracker, "")
	require.NoError(t, err)
	assert.Empty(t, held)
	for _, r := range w.demo.Lists.Records("lenders") {
		if r["id"] == "004" {
			assert.Equal(t, "keeper.ostrel@example.org", r["contact"])
		}
	}
	w.demo.Lists.Set("lenders", "005", listserver.Record{"contact": "new.contact@example.org"})
	w.do(w.page.Press("Preview"), w.page.Says("new.contact@example.org"), w.page.Press("Sync now"), w.page.Says("Records: 1 changed in the tab, 35 the same."))
	w.do(w.page.Press("Close"), w.page.Holds(`(b => (b.click(), true))([...document.querySelectorAll("button")].filter(b => b.innerText === "Preview")[1])`))
	w.do(w.page.Says("Sync stopped"), w.page.Says("32 of 40 rows of the tab would change or go"), w.page.Press("Preview anyway"), w.page.Says("more than the change limit lets change"), w.page.Press("Sync anyway"), w.page.Says("Records: 32 gone from the list, 8 the same."))
	assert.Eventually(t, func() bool {
		rows, err := w.api.Rows(t.Context(), demo.Tracker, "Insurance", client.Which{})
		return err == nil && len(rows.Rows) == 8
	}, browser.Wait, 30*time.Millisecond, "the preview says the same as the sync")
}

func TestDaysAreCompared(t *testing.T) {
	w := newWorld(t)
	write := func() {
		_, err := w.api.RunDefinition(t.Context(), client.How{}, demo.Tracker, "rules", "Planner of the day", "")
		require.NoError(t, err)
	}
	write()
	rows, err := w.api.Rows(t.Context(), demo.Tracker, "In transit", client.Which{})
	require.NoError(t, err)
	first := rows.Rows[0]
	_, err = w.api.SetRow(t.Context(), client.How{}, demo.Tracker, "In transit", first.ID, wire.RowEdit{Cells: map[string]any{"Lender": "Somebody else"}})
	require.NoError(t, err)
	write()
	w.do(w.page.Go(w.home+"/outbound"), w.page.Says("transit"), w.page.Holds(`document.querySelectorAll("input[aria-label^='Mark transit']").length === 2`))
	w.do(w.page.Holds(`(all => (all.forEach(e => e.click()), true))([...document.querySelectorAll("input[aria-label^='Mark transit']")])`), w.page.Says("1 cell changed"), w.page.Says("Somebody else"), w.page.Says("rows matched by Loan no"))
}

// A page: reached from its row, edited in place, which edits the row, with an entry in its
// log; and printed without what only a screen needs.
func TestAPageOfARow(t *testing.T) {
	w := newWorld(t)
	link := func(text string) error {
		return w.page.Holds(fmt.Sprintf("(a => a && (a.click(), true))([...document.querySelectorAll('main a')].find(a => a.innerText.trim() === %q))", text))
	}
	w.do(w.page.Go(w.home+"/pages"), w.page.Says("Venue file"), link("North Pier"), w.page.Says("Worth on display"))
	w.do(w.page.Click("[title='Edit Opens']"), w.page.Holds("document.activeElement.value.length === 10 && (document.activeElement.select(), true)"), w.page.Keys("2027-02-01\r"), w.page.Holds("document.querySelector(\"[title='Edit Opens']\")?.innerText === '2027-02-01'"))
	w.do(w.page.Click("[title='Edit Visitors expected']"), w.page.Keys("many\r"), w.page.Says("is not a number"))
	w.do(w.page.Click(".page-entry textarea"), w.page.Keys("Walked through"), w.page.Press("Add entry"), w.page.Holds("document.querySelector('[aria-label=Log] tbody')?.innerText.includes('Walked through')"))
	rows, err := w.api.Rows(t.Context(), demo.Tracker, "Venues", client.Which{})
	require.NoError(t, err)
	assert.Equal(t, "2027-02-01", rows.Rows[0].Cells["Opens"])
	pdf, err := w.page.Print()
	require.NoError(t, err)
	assert.Greater(t, len(pdf), 10_000)
	w.do(link("Venues"), w.page.Holds("location.pathname.endsWith('"+w.tabs["Venues"]+"')"))
	titled := func(title string) error {
		return w.page.Holds(fmt.Sprintf("(e => e && (e.click(), true))([...document.querySelectorAll('[cmdk-item]')].find(e => e.innerText === 'Open the page of the title “%s”'))", title))
	}
	w.do(w.page.Keys("k", chromedp.ModifierCtrl), w.page.Holds("document.activeElement.hasAttribute('cmdk-input')"), w.page.Keys("Old Mil"), titled("Old Mil"), w.page.Says(`there is no page "Old Mil": did you mean Old Mill?`))
	w.do(w.page.Keys("l"), titled("Old Mill"), w.page.Holds("document.querySelector('h1').innerText === 'Old Mill'"))
	w.do(w.page.Size(390, 800), w.page.Holds("document.documentElement.scrollWidth <= 390"), w.page.Press("Menu"), w.page.Holds("getComputedStyle(document.querySelector('.side')).display === 'flex'"))
}

// Somebody without a way in fills in a form by its private link, on a telephone; the entry
// is a row, and a closed link leads nowhere.
func TestAFormByAPrivateLink(t *testing.T) {
	w := newWorld(t)
	link, err := w.api.FormLink(t.Context(), demo.Tracker, "Request a loan", 7)
	require.NoError(t, err)
	other, err := w.page.Another()
	require.NoError(t, err)
	defer other.Close()
	w.do(other.Size(390, 800), other.Go(link.Link), other.Says("As the lender calls it"), other.Press("Send"), other.Says("Object must be filled in"))
	for label, text := range map[string]string{"Loan no": "L-9001", "Object": "Ship in a bottle", "Lender": "The Tarn Collection"} {
		w.do(other.Click("[aria-label='"+label+"']"), other.Keys(text))
	}
	w.do(other.Press("Send"), other.Says("Your request has arrived"), other.Holds("document.documentElement.scrollWidth <= 390"))
	rows, err := w.api.Rows(t.Context(), demo.Tracker, "Requested", client.Which{Where: `[Loan no] is "L-9001"`})
	require.NoError(t, err)
	require.Len(t, rows.Rows, 1)
	assert.Equal(t, "Requested", rows.Rows[0].Cells["Stage"])
	_, err = w.api.CloseFormLinks(t.Context(), demo.Tracker, "Request a loan")
	require.NoError(t, err)
	w.do(other.Go("about:blank"), other.Go(link.Link), other.Says("has been closed or has expired"))
}

// Tallies are drawn, and drawn anew when a row changes.
func TestTalliesFollowTheRows(t *testing.T) {
	w := newWorld(t)
	drawn := "[...document.querySelectorAll('.tally-picture')].every(i => i.complete && i.naturalWidth > 0)"
	w.do(w.page.Go(w.home+"/tallies"), w.page.Says("Worth by venue"), w.page.Holds(drawn))
	rows, err := w.api.Rows(t.Context(), demo.Tracker, "On display", client.Which{Where: `Venue is "Annex"`})
	require.NoError(t, err)
	_, err = w.api.SetRow(t.Context(), client.How{}, demo.Tracker, "On display", rows.Rows[0].ID, wire.RowEdit{Cells: map[string]any{"Value": 9_000_000}})
	require.NoError(t, err)
	w.do(w.page.Holds("document.querySelector('[aria-label=\"Worth by venue\"] .tally-table').innerText.replace(/\\s/g, '').includes('000.00EUR')"), w.page.Holds(drawn), w.page.Go(w.address+"/"), w.page.Says("Arrivals by month and venue"))
}

// A workbook is uploaded for rules to write into, and, written over, leads to what it was.
func TestAWorkbookIsUploaded(t *testing.T) {
	w := newWorld(t)
	upload := func() {
		w.do(w.page.Press("Upload a workbook"), w.page.Choose(".ant-modal input[type=file]", sample(t, "awkward/asides.xlsx")))
		w.do(w.page.Holds(`document.querySelector(".ant-modal .field input").value === "asides.xlsx"`), w.page.Holds(`(b => !b.disabled && (b.click(), true))(document.querySelector(".ant-modal .ant-btn-primary"))`), w.page.Says(`it is "file: asides.xlsx"`))
	}
	w.do(w.page.Go(w.home + "/outbound"))
	upload()
	w.do(w.page.Click("[aria-label='Earlier versions of asides.xlsx']"), w.page.Says("it has not been written over"))
	upload()
	w.do(w.page.Says("Version 1"))
}

// sample gives the path of a sample file.
func sample(t *testing.T, name string) string {
	t.Helper()
	path, err := filepath.Abs(filepath.Join("../internal/formats/testdata", name))
	require.NoError(t, err)
	return path
}

func TestAFileIsPutRightByHandAndTakenIn(t *testing.T) {
	w := newWorld(t)
	w.do(w.page.Go(w.address+"/import"), w.page.Says("Drop a workbook"), w.page.Choose("input[type=file]", sample(t, "awkward/asides.xlsx")))
	w.do(w.page.Says("A4:E15: 11 rows"), w.page.Holds("document.querySelector('td.left-out').title.includes('labels with their values')"))
	// fewer rows than were found, and one column not at all
	_, err := browser.Eval[bool](w.page, `(() => { const e = document.querySelector(".table-form-fields input"); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, "A4:E9"); e.dispatchEvent(new Event("input", { bubbles: true })); e.dispatchEvent(new FocusEvent("focusout", { bubbles: true })); return true; })()`)
	require.NoError(t, err)
	w.do(w.page.Says("A4:E9: 5 rows"), w.page.Click("input[aria-label='Import Fee']"), w.page.Press("Preview"), w.page.Says("Board: 5 rows added"))
	_, err = w.api.Tracker(t.Context(), "asides")
	require.Error(t, err, "nothing is stored before it is asked for")
	w.do(w.page.Click(".target .ant-btn-primary"), w.page.Says("What should run by itself?"), w.page.Press("Go to the rows"), w.page.Says("Ship's bell"))
	board, err := w.api.Rows(t.Context(), "asides", "Board", client.Which{})
	require.NoError(t, err)
	assert.Len(t, board.Rows, 5)
	assert.NotContains(t, board.Rows[0].Cells, "Fee")
	assert.Equal(t, "2026-02-02", board.Rows[0].Cells["Due"])
}
