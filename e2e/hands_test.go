package e2e

import (
	"net"
	"os"
	"path/filepath"
	"strings"
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
	"example.org/kavlo/internal/standin/post"
	"example.org/kavlo/internal/wire"
)

// hand works pages as somebody does who has the mouse alone, or the keyboard alone. Controls
// are called by the names that a screen reader would say; "Column #2" is the second of a name.
type hand interface {
	press(name string)                 // a button, link or tick box
	write(name, text string)           // into a field, in the place of what is there
	choose(name, option string)        // from a list that opens
	unchoose(name, option string)      // what was chosen among several
	drop(name string)                  // what lies open over the page
	put(row, col int, text string)     // into a cell of the grid
	pick(cell string, right, down int) // on the picture of a sheet: a cell so far from A1
	// lift takes an entry of a list above another one, which stands so many places before it.
	lift(name, above string, places int)
	menu(column string, col int) // of a column of the grid
}

// hands are the two kinds of hand.
var hands = map[string]func(w *world) hand{
	"mouse":    func(w *world) hand { return &mouse{w} },
	"keyboard": func(w *world) hand { return &keyboard{w} },
}

// blank is an empty workspace, with an admin at its page.
func blank(t *testing.T) *world {
	t.Helper()
	t.Parallel()
	dir := t.TempDir()
	office := &post.Office{}
	mail, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = mail.Close() })
	go func() { _ = office.ServeSMTP(mail) }() // ends when its listener is closed
	s, err := service.Start(t.Context(), service.Settings{Version: "0", Dir: dir, Listen: "127.0.0.1:0", Console: console.Files()})
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Stop()) })
	token, err := os.ReadFile(filepath.Join(dir, access.KeeperFile))
	require.NoError(t, err)
	w := &world{t: t, address: s.Address, mail: mail.Addr().String(), office: office, tabs: map[string]string{}}
	w.api, err = client.New(s.Address, string(token))
	require.NoError(t, err)
	_, err = w.api.PutPerson(t.Context(), wire.NewPerson{Name: "Ines Valadar", Address: "ines.valadar@example.org", Access: "admin"})
	require.NoError(t, err)
	link, err := w.api.NewLink(t.Context(), "Ines Valadar")
	require.NoError(t, err)
	w.page, err = browser.Share()
	require.NoError(t, err)
	t.Cleanup(w.page.Close)
	w.do(w.page.Go(link.Link), w.page.Says("There are no trackers yet."))
	return w
}

// both lets a piece of work be done by each hand, in a workspace of its own: one that was blank
// until a workbook was imported.
func both(t *testing.T, work func(t *testing.T, w *world, h hand)) { bothIn(t, imported, work) }

// each does a piece of work that sets every control of some pages by one hand, and by both
// where KAVLO_HANDS says so (make test-hands): that takes some minutes more.
func each(t *testing.T, by string, work func(t *testing.T, w *world, h hand)) {
	eachIn(t, imported, by, work)
}

func eachIn(t *testing.T, begin func(*testing.T) *world, by string, work func(t *testing.T, w *world, h hand)) {
	if os.Getenv("KAVLO_HANDS") == "both" {
		bothIn(t, begin, work)
		return
	}
	w := begin(t)
	work(t, w, hands[by](w))
}

func bothIn(t *testing.T, begin func(*testing.T) *world, work func(t *testing.T, w *world, h hand)) {
	for name, make := range hands {
		t.Run(name, func(t *testing.T) {
			w := begin(t)
			work(t, w, make(w))
		})
	}
}

// findNamed finds a control by its name: the first that is seen, within what lies over the
// page if anything does.
const findNamed = `window.named = (wanted, kind) => {
	const tidy = (s) => (s ?? "").replace(/\s+/g, " ").trim();
	const letters = (s) => (s ?? "").replace(/\s+/g, "");
	const label = (e) => [...e.labels[0].childNodes].filter((n) => !n.contains(e) && !n.ariaLive).map((n) => n.textContent).join(" ");
	const seen = (e) => e.getClientRects().length > 0 && !e.disabled;
	const over = [...document.querySelectorAll(".ant-popover:not(.ant-popover-hidden), .ant-modal-wrap")].filter(seen).at(-1);
	const all = [...(over ?? document).querySelectorAll("button, a[href], input, textarea, summary, [role=combobox], [role=tab], [contenteditable=true]")];
	const [, called, nth] = /^(.*) #(\d)$/.exec(wanted) ?? [, wanted];
	// what is seen of a text is slow to ask for, so that its letters are asked for first
	const isCalled = (e) => {
		const given = e.getAttribute("aria-label") ?? (e.labels?.length ? label(e) : undefined);
		if (given !== undefined) return tidy(given) === called;
		return letters(e.textContent).includes(letters(called)) && tidy(e.innerText) === called;
	};
	const found = all.filter((e) => !kind || e.role === kind || e.getAttribute("role") === kind).filter(isCalled).filter(seen);
	if (nth) return found[nth - 1];
	return found.filter((e) => e.closest(".ant-notification")).at(-1) ?? found.find((e) => e.closest("main, .ant-modal-wrap")) ?? found[0]; // of several notices the newest
}; true`

func (w *world) find(name string, kind ...string) string {
	w.t.Helper()
	_, err := browser.Eval[bool](w.page, findNamed)
	require.NoError(w.t, err)
	at := "named(" + quote(name) + "," + quote(strings.Join(kind, "")) + ")"
	w.do(w.page.Holds(at))
	return at
}

// chosen waits until a list shows what was chosen.
func (w *world) chosen(name, option string) {
	w.t.Helper()
	w.do(w.page.Holds(`(e => !e || e.ariaLabel?.startsWith("Add to ") || e.closest(".ant-select").innerText.includes(` + quote(option) + `))(named(` + quote(name) + `, "combobox"))`))
}

// openList is the list of options that is open, as a JavaScript expression.
const openList = `[...document.querySelectorAll(".ant-select-dropdown:not(.ant-select-dropdown-hidden)")].at(-1)`

type mouse struct{ *world }

func (m *mouse) click(at string) { m.t.Helper(); m.do(m.page.ClickOn(at)) }

// still gives the middle of an element once it can be clicked.
func (m *mouse) still(at string) browser.Point {
	m.t.Helper()
	p, err := m.page.Still(at)
	require.NoError(m.t, err)
	return p
}

func (m *mouse) press(name string) { m.t.Helper(); m.click(m.find(name)) }

func (m *mouse) write(name, text string) {
	m.t.Helper()
	if at := m.find(name); m.isTime(at) {
		left, err := browser.Eval[[]float64](m.page, "(r => [r.x + 14, r.y + r.height / 2])("+at+".getBoundingClientRect())")
		require.NoError(m.t, err)
		m.do(m.page.Do(chromedp.MouseClickXY(left[0], left[1])), m.page.Keys(clockKeys(text)))
		return
	}
	m.press(name)
	m.do(m.page.Keys("a", chromedp.ModifierCtrl), m.page.Type(text))
}

func (m *mouse) choose(name, option string) {
	m.t.Helper()
	m.click(m.find(name, "combobox"))
	in := `(d => d && [...d.querySelectorAll(".ant-select-item-option")].find(o => o.innerText.trim() === ` + quote(option) + `))(` + openList + `)`
	m.bring(in)
	m.click(in)
	m.chosen(name, option)
	m.drop(name)
}

func (m *mouse) unchoose(name, option string) {
	m.t.Helper()
	m.click(chosenTag(m.find(name, "combobox"), option) + `.querySelector(".ant-select-selection-item-remove")`)
	m.unchosen(name, option)
	m.drop(name)
}

func (k *keyboard) unchoose(name, option string) {
	k.t.Helper()
	k.reach(name, "combobox")
	for range 20 {
		there, err := browser.Eval[bool](k.page, "!!"+chosenTag(k.find(name, "combobox"), option))
		require.NoError(k.t, err)
		if !there {
			break
		}
		k.do(k.page.Keys(kb.Backspace), k.drawnAnew())
	}
	k.unchosen(name, option)
	k.drop(name)
}

// chosenTag is an option that a list shows as chosen, as a JavaScript expression.
func chosenTag(list, option string) string {
	return `[...` + list + `.closest(".ant-select").querySelectorAll(".ant-select-selection-item")].find(e => e.innerText.trim() === ` + quote(option) + `)`
}

func (w *world) unchosen(name, option string) {
	w.t.Helper()
	w.do(w.page.Holds("!" + chosenTag(w.find(name, "combobox"), option)))
}

// bring turns the wheel over an open list until an option is in sight: a long list draws those alone that are.
func (m *mouse) bring(option string) {
	m.t.Helper()
	m.do(m.page.Holds(openList + `?.querySelector(".ant-select-item-option")`))
	for notch := range 60 {
		in, err := browser.Eval[bool](m.page, "!!"+option)
		require.NoError(m.t, err)
		if in {
			return
		}
		p, err := browser.Eval[[]float64](m.page, `(r => [r.x + r.width / 2, r.y + r.height / 2])(`+openList+`.getBoundingClientRect())`)
		require.NoError(m.t, err)
		down := 100.0
		if notch >= 20 {
			down = -100 // it was further up
		}
		m.do(m.page.Wheel(p[0], p[1], down), m.drawnAnew())
	}
}

// drawnAnew waits until the page has been drawn anew.
func (w *world) drawnAnew() error {
	_, err := browser.Eval[bool](w.page, "window.drawn = false; requestAnimationFrame(() => requestAnimationFrame(() => (window.drawn = true))); true")
	if err != nil {
		return err
	}
	return w.page.Holds("window.drawn")
}

// drop closes a list that is open still: Escape would close a dialog else.
func (w *world) drop(string) {
	w.t.Helper()
	open, err := browser.Eval[bool](w.page, "!!"+openList)
	require.NoError(w.t, err)
	if open {
		w.do(w.page.Keys(kb.Escape), w.page.Holds(`!(`+openList+`)`))
	}
}

// isTime reports whether a field is the browser's own for a time of the day, or of a day.
func (w *world) isTime(at string) bool {
	is, err := browser.Eval[bool](w.page, `["time", "datetime-local"].includes(`+at+`.type)`)
	require.NoError(w.t, err)
	return is
}

// clockKeys are the keys by which such a field takes a time, part by part.
func clockKeys(text string) string {
	if at, err := time.Parse("2006-01-02T15:04", text); err == nil {
		return at.Format("01022006") + kb.ArrowRight + at.Format("0304PM")
	}
	at, err := time.Parse("15:04", text)
	if err != nil {
		panic(err)
	}
	return at.Format("0304PM")
}

func (m *mouse) put(row, col int, text string) {
	m.t.Helper()
	at := `document.querySelector("` + cellAt(row, col) + `")`
	m.click(at)
	m.do(m.page.DoubleClickOn(at))
	m.do(m.page.Holds("document.activeElement.classList.contains('cell-editor') && (document.activeElement.select?.(), true)"), m.page.Keys(text))
	m.click(`document.querySelector("` + cellAt(row, col+1) + `")`)
}

func (m *mouse) pick(cell string, _, _ int) { m.t.Helper(); m.press("Cell " + cell) }

func (m *mouse) lift(name, above string, _ int) {
	m.t.Helper()
	m.still(m.find("Move " + above))
	from := m.still(m.find("Move " + name))
	to, err := browser.Eval[[]float64](m.page, `(r => [r.x + r.width / 2, r.y + r.height / 2])(`+m.find("Move "+above)+`.getBoundingClientRect())`)
	require.NoError(m.t, err)
	m.do(m.page.Drag(from.X, from.Y, to[0], to[1]))
}

func (m *mouse) menu(column string, _ int) {
	m.t.Helper()
	m.press("Menu of " + column)
	m.do(m.page.Holds(`document.querySelector("[role=dialog][aria-label='Menu of ` + column + `']")`))
}

type keyboard struct{ *world }

func (k *keyboard) menu(column string, col int) {
	k.t.Helper()
	k.goTo(0, col)
	k.do(k.page.Keys(kb.ArrowDown, chromedp.ModifierAlt), k.page.Holds(`document.activeElement?.closest("[aria-label='Menu of `+column+`']")`))
}

func (k *keyboard) lift(name, _ string, places int) {
	k.t.Helper()
	k.reach("Move " + name)
	for range places {
		k.do(k.page.Keys(kb.ArrowUp, chromedp.ModifierAlt), k.drawnAnew())
	}
}

// reach goes with Tab from control to control until it is at the one of a name, back with
// Shift where it stands before the one at hand. Of those of which one is chosen Tab leads to
// that which is, and arrows to the others.
func (k *keyboard) reach(name string, kind ...string) {
	k.t.Helper()
	at := k.find(name, kind...)
	if isRadio, err := browser.Eval[bool](k.page, at+`.type === "radio"`); err == nil && isRadio {
		k.reachAt("(r => document.querySelector(`input[type=radio][name=\"${r.name}\"]:checked`) ?? r)("+at+")", name)
		k.arrowTo(at, kb.ArrowDown)
		return
	}
	if isTab, err := browser.Eval[bool](k.page, at+`.getAttribute("role") === "tab"`); err == nil && isTab {
		k.reachAt("("+at+`.closest("[role=tablist]").querySelector("[role=tab][aria-selected=true]"))`, name)
		k.do(k.page.Keys(kb.ArrowRight)) // to the next one
		return
	}
	k.reachAt(at, name)
}

// arrowTo presses an arrow until the focus is where it should be.
func (k *keyboard) arrowTo(at, arrow string) {
	k.t.Helper()
	for range 20 {
		there, err := browser.Eval[bool](k.page, "document.activeElement === "+at)
		require.NoError(k.t, err)
		if there {
			return
		}
		k.do(k.page.Keys(arrow))
	}
}

// reachAt does so for an element that a JavaScript expression gives.
func (k *keyboard) reachAt(at, name string) {
	k.t.Helper()
	back, err := browser.Eval[bool](k.page, `(at => at && document.activeElement !== document.body && (at.compareDocumentPosition(document.activeElement) & 4) === 4)(`+at+`) === true`)
	require.NoError(k.t, err)
	var held []chromedp.Modifier
	if back {
		held = append(held, chromedp.ModifierShift)
	}
	_, err = browser.Eval[bool](k.page, "window.aim = "+at+", true")
	require.NoError(k.t, err)
	for range 200 {
		there, err := browser.Eval[bool](k.page, "(aim?.isConnected ? aim : (window.aim = "+at+")) === document.activeElement")
		require.NoError(k.t, err)
		if there {
			return
		}
		k.do(k.page.Keys(kb.Tab, held...))
	}
	require.Fail(k.t, "the keyboard does not get to "+name)
}

func (k *keyboard) press(name string) {
	k.t.Helper()
	k.reach(name)
	ticked, err := browser.Eval[bool](k.page, `["checkbox", "radio"].includes(document.activeElement.type)`)
	require.NoError(k.t, err)
	if ticked {
		k.do(k.page.Keys(" "))
		return
	}
	k.do(k.page.Enter())
}

func (k *keyboard) write(name, text string) {
	k.t.Helper()
	k.reach(name)
	if k.isTime(k.find(name)) {
		k.do(k.page.Keys(clockKeys(text)))
		return
	}
	k.do(k.page.Keys("a", chromedp.ModifierCtrl), k.page.Type(text))
}

func (k *keyboard) choose(name, option string) {
	k.t.Helper()
	k.reach(name, "combobox")
	k.do(k.page.Keys(kb.ArrowDown), k.page.Holds(openList))
	if searched, err := browser.Eval[bool](k.page, "!document.activeElement.readOnly"); err == nil && searched {
		k.do(k.page.Type(option)) // the list holds what has these letters
	}
	active := `(` + openList + `?.querySelector(".ant-select-item-option-active")?.innerText ?? "").trim()`
	before := ""
	for range 120 {
		at, err := browser.Eval[string](k.page, active)
		require.NoError(k.t, err)
		if at == option {
			k.do(k.page.Enter())
			k.chosen(name, option)
			k.drop(name)
			return
		}
		before = at
		k.do(k.page.Keys(kb.ArrowDown))
	}
	require.Fail(k.t, "the list "+name+" has no "+option+" that arrows lead to; the last was "+before)
}

func (k *keyboard) put(row, col int, text string) {
	k.t.Helper()
	k.goTo(row, col)
	k.do(k.page.Keys(kb.F2))
	k.do(k.page.Holds("document.activeElement.classList.contains('cell-editor') && (document.activeElement.select?.(), true)"), k.page.Keys(text), k.page.Enter())
}

// goTo goes to a cell of the grid.
func (k *keyboard) goTo(row, col int) {
	k.t.Helper()
	for range 200 {
		there, err := browser.Eval[bool](k.page, `document.activeElement?.getAttribute("role") === "gridcell"`)
		require.NoError(k.t, err)
		if there {
			break
		}
		k.do(k.page.Keys(kb.Tab))
	}
	k.do(k.page.Keys(kb.Home, chromedp.ModifierCtrl))
	for range row {
		k.do(k.page.Keys(kb.ArrowDown))
	}
	for range col {
		k.do(k.page.Keys(kb.ArrowRight))
	}
	k.do(k.page.Holds(`document.activeElement?.matches("` + cellAt(row, col) + `")`))
}

func (k *keyboard) pick(cell string, right, down int) {
	k.t.Helper()
	k.reach("Cell A1")
	for range right {
		k.do(k.page.Keys(kb.ArrowRight))
	}
	for range down {
		k.do(k.page.Keys(kb.ArrowDown))
	}
	k.press("Cell " + cell)
}

// told says whether the page has said a text.
func (w *world) told(texts ...string) {
	w.t.Helper()
	for _, s := range texts {
		w.do(w.page.Says(s))
	}
}

// fieldsOf gives a definition as it is saved, by its name.
func (w *world) fieldsOf(kind, name string) map[string]any {
	w.t.Helper()
	return w.fieldsIn(demo.Tracker, kind, name)
}

func (w *world) fieldsIn(tracker, kind, name string) map[string]any {
	w.t.Helper()
	all, err := w.api.Definitions(w.t.Context(), tracker, kind)
	require.NoError(w.t, err)
	var names []string
	for _, d := range all {
		if d.Name == name {
			return d.Fields()
		}
		names = append(names, d.Name)
	}
	require.Fail(w.t, "there is no "+name+" among "+strings.Join(names, ", "))
	return nil
}

// eval gives the text that a JavaScript expression comes to.
func (w *world) eval(expression string) string {
	w.t.Helper()
	text, err := browser.Eval[string](w.page, expression)
	require.NoError(w.t, err)
	return text
}
