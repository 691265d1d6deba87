package e2e

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
)

// heads gives the names of the columns shown.
const heads = `[...document.querySelectorAll("[role=columnheader] .head-name")].map(h => h.innerText)`

// inColumn gives what the rows in sight hold in a column, from the top.
func (w *world) inColumn(name string) []string {
	w.t.Helper()
	texts, err := browser.Eval[[]string](w.page, fmt.Sprintf(`[...document.querySelectorAll("[data-col='%d']")].sort((a, b) => a.parentElement.dataset.row - b.parentElement.dataset.row).map(c => c.innerText)`, w.column(name)))
	require.NoError(w.t, err)
	return texts
}

// Rows are found by words, chosen by values and by a clause, and sorted; columns are hidden,
// moved, frozen and made wider. What was arranged is kept for oneself, and saved for all.
func TestATabIsArrangedByEitherHand(t *testing.T) {
	bothIn(t, newWorld, func(t *testing.T, w *world, h hand) {
		w.open("Requested")
		rows := func(n int) {
			t.Helper()
			w.do(w.page.Holds(fmt.Sprintf(`document.querySelectorAll(".grid-row").length === %d`, n)))
		}
		h.write("Find in these rows", "bell foundry")
		w.told("contains “bell foundry”")
		rows(2)
		for _, lender := range w.inColumn("Lender") {
			assert.Equal(t, "Bell Foundry of Astre", lender)
		}
		h.press("Remove: contains “bell foundry”")
		w.do(w.page.Holds(`!document.querySelector("[aria-label^='Remove: contains']")`)) // the grid moves up

		ticked := func(value string) {
			t.Helper()
			label := `([...document.querySelectorAll(".column-menu-list label")].map(l => l.innerText.replace(/\s+/g, " ").trim()).find(s => s.startsWith(` + quote(value) + `)) ?? "")`
			w.do(w.page.Holds(label))
			h.press(w.eval(label))
		}
		h.menu("Lender", 2)
		ticked("Bell Foundry of Astre")
		ticked("Family Lindqvael")
		h.press("Apply filter")
		w.told("Lender: Bell Foundry of Astre, Family Lindqvael")
		h.menu("Due", 4)
		h.press("Sort descending")
		w.told("sorted by Due, descending")
		w.do(w.page.Holds(`document.querySelector("[data-head='4']").ariaSort === "descending"`))
		require.Eventually(t, func() bool {
			dates := w.inColumn("Due")
			return len(dates) == 4 && slices.IsSortedFunc(dates, func(a, b string) int { return strings.Compare(b, a) })
		}, browser.Wait, tick)

		h.menu("Stage", 3)
		h.press("Hide column")
		w.told("1 column hidden")
		h.menu("Registrar", 4)
		h.press("Move left")
		w.do(w.page.Holds(heads + `.join() === "Loan no,Object,Lender,Registrar,Due,Value,Flag,Requested on,Image,Remarks"`))
		h.menu("Lender", 2)
		h.press("Freeze up to here")
		w.do(w.page.Holds(`document.querySelectorAll("[data-head].cell-frozen").length === 3`))
		before, err := browser.Eval[float64](w.page, `document.querySelector("[data-head='1']").offsetWidth`)
		require.NoError(t, err)
		h.menu("Object", 1)
		h.press("Wider")
		w.do(w.page.Holds(fmt.Sprintf(`document.querySelector("[data-head='1']").offsetWidth === %v`, before+40)), w.page.Keys("\x1b"))
		w.do(w.page.Holds(`!document.querySelector(".column-menu")`))

		h.press("View")
		h.lift("Object", "Loan no", 1)
		w.do(w.page.Holds(heads + `.slice(0, 2).join() === "Object,Loan no"`))
		h.press("Stage")
		w.do(w.page.Holds(heads + `.at(-1) === "Stage"`))
		h.write("Name of the view", "Two lenders")
		h.press("Save for everyone")
		w.told("Saved view Two lenders")
		views, err := w.api.Definitions(t.Context(), demo.Tracker, "views")
		require.NoError(t, err)
		require.Len(t, views, 1)
		assert.Equal(t, "Shows rows of Requested where `Lender is one of (\"Bell Foundry of Astre\", \"Family Lindqvael\")`, sorted by Due descending, with the columns Object, Loan no, Lender, Registrar, Due, Value, Flag, Requested on, Image, Remarks, Stage.", views[0].Says)

		// by the address alone, and as one left it
		shown := w.inColumn("Loan no")
		w.do(w.page.Go(w.home+"/"+w.tabs["Requested"]+"?view=Two+lenders"), w.page.Says("View: Two lenders"))
		rows(len(shown))
		assert.Equal(t, shown, w.inColumn("Loan no"))
		h.menu("Object", 0)
		h.press("Sort ascending")
		w.told("sorted by Object")
		w.do(w.page.Go(w.home+"/"+w.tabs["Agreed"]), w.page.Says("24 rows"))
		w.do(w.page.Go(w.home+"/"+w.tabs["Requested"]), w.page.Says("sorted by Object"), w.page.Says("View: Two lenders"))
		h.press("View: Two lenders")
		h.press("Reset to saved view")
		w.told("sorted by Due, descending")
		h.choose("Named view", "All rows and columns")
		w.told("28 rows")
		w.do(w.page.Holds(heads + `[0] === "Loan no"`))
	})
}

// A clause is written with completion and its mistakes underlined; rows that it does not fit
// any more leave, and what cannot be judged is told.
func TestRowsAreFilteredByAClause(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	w.do(w.page.Press("Filter"), w.page.Click(".filter-panel .cm-content"), w.page.Keys("Valu > 70000"), w.page.Holds(`document.querySelector(".filter-panel .cm-lintRange, .filter-panel .cm-diagnostic, .filter-panel [class*=lint]")`))
	w.do(w.page.Keys("a", chromedp.ModifierCtrl), w.page.Keys("Value > 70000"), w.page.Press("Apply filter"))
	w.do(w.page.Says("Value > 70000"), w.page.Says(" of 28 rows"))
	before := len(w.inColumn("Value"))
	w.typeOver(0, w.column("Value"), "5")
	w.do(w.page.Enter(), w.page.Holds(fmt.Sprintf(`document.querySelectorAll(".grid-row").length === %d`, before-1)))
	w.do(w.page.Press("Undo"), w.page.Holds(fmt.Sprintf(`document.querySelectorAll(".grid-row").length === %d`, before)))
	w.do(w.page.Go(w.home+"/"+w.tabs["Agreed"]), w.page.Says("24 rows"))
}

// A column is made wider by dragging its edge, and fits what it holds after a double click.
func TestAColumnIsMadeWiderByItsEdge(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	edge := func(col int) (x, y, width float64) {
		t.Helper()
		p, err := browser.Eval[[]float64](w.page, fmt.Sprintf(`(h => (r => [r.x + r.width / 2, r.y + r.height / 2, h.offsetWidth])(h.querySelector(".head-edge").getBoundingClientRect()))(document.querySelector("[data-head='%d']"))`, col))
		require.NoError(t, err)
		return p[0], p[1], p[2]
	}
	x, y, before := edge(2)
	w.do(w.page.Mouse(input.DispatchMouseEventTypeMousePressed, x, y))
	for _, by := range []float64{20, 40, 60} {
		w.do(w.page.Mouse(input.DispatchMouseEventTypeMouseMoved, x+by, y))
	}
	after := before + 60
	w.do(w.page.Mouse(input.DispatchMouseEventTypeMouseReleased, x+60, y))
	w.do(w.page.Holds(fmt.Sprintf(`document.querySelector("[data-head='2']").offsetWidth === %v`, after)))
	x, y, _ = edge(2)
	w.do(w.page.Do(chromedp.MouseClickXY(x, y, chromedp.ClickCount(2))))
	w.do(w.page.Holds(fmt.Sprintf(`document.querySelector("[data-head='2']").offsetWidth < %v`, after)))
	cut, err := browser.Eval[bool](w.page, `[...document.querySelectorAll("[data-col='2']")].some(c => c.scrollWidth > c.clientWidth)`)
	require.NoError(t, err)
	assert.False(t, cut)
	assert.NotEmpty(t, w.inColumn("Lender"))
}

// Cells stand under the heads of their columns wherever one scrolls to, the frozen ones at the
// left, and also the cell at hand once its column is out of sight.
func TestCellsStandUnderTheirHeads(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	w.do(w.page.Size(900, 700), w.page.Click(cellAt(1, 3)))
	const under = `(() => {
  const left = (e) => Math.round(e.getBoundingClientRect().left);
  const cells = [...document.querySelectorAll(".grid-row [data-col]")];
  const edge = left(document.querySelector(".grid"));
  return cells.length > 50 && left(document.querySelector("[data-head='0']")) === edge &&
    cells.every((c) => left(c) === left(document.querySelector("[data-head='" + c.dataset.col + "']")));
})()`
	for _, aside := range []int{0, 90, 420, 10_000, 0} {
		w.do(w.page.Holds(fmt.Sprintf(`(document.querySelector(".grid").scrollLeft = %d, true)`, aside)), w.page.Holds(under))
		if aside > 1000 {
			w.do(w.page.Holds(fmt.Sprintf(`document.querySelector("%s").classList.contains("cell-apart")`, cellAt(1, 3))))
		}
	}
}
