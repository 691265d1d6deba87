package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
)

// chosenCells is how many cells are drawn as selected.
const chosenCells = `document.querySelectorAll("[role=gridcell][aria-selected=true]").length`

func (w *world) footSays(text string) {
	w.t.Helper()
	w.do(w.page.Holds(`document.querySelector(".grid-foot")?.innerText.includes(` + quote(text) + `)`))
}

// drawn draws a range from one cell to another with the mouse's button held.
func (w *world) drawn(fromRow, fromCol, toRow, toCol int) {
	w.t.Helper()
	middle := func(row, col int) []float64 {
		p, err := browser.Eval[[]float64](w.page, fmt.Sprintf(`(r => [r.x + r.width / 2, r.y + r.height / 2])(document.querySelector("%s").getBoundingClientRect())`, cellAt(row, col)))
		require.NoError(w.t, err)
		return p
	}
	from, to := middle(fromRow, fromCol), middle(toRow, toCol)
	mouse := func(kind input.DispatchMouseEventType, at []float64) {
		w.do(w.page.Mouse(kind, at[0], at[1]))
	}
	mouse(input.DispatchMouseEventTypeMousePressed, from)
	mouse(input.DispatchMouseEventTypeMouseMoved, []float64{(from[0] + to[0]) / 2, (from[1] + to[1]) / 2})
	mouse(input.DispatchMouseEventTypeMouseMoved, to)
	mouse(input.DispatchMouseEventTypeMouseReleased, to)
}

// A range is drawn by dragging, a column selected by its name; at the foot stands what the
// cells come to.
func TestARangeIsDrawnWithTheMouse(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	w.drawn(1, 1, 3, 2)
	w.do(w.page.Holds(chosenCells + " === 6"))
	w.footSays("6 cells")
	w.footSays("3 rows")
	value := w.column("Value")
	w.do(w.page.Click(fmt.Sprintf("[data-head='%d']", value)))
	w.footSays("28 cells")
	w.footSays("sum ")
	w.footSays("EUR")
	w.do(w.page.Click(cellAt(0, 0)), w.page.Holds("!document.querySelector('.grid-foot')"))
}

// column gives which of the columns shown has a name.
func (w *world) column(name string) int {
	w.t.Helper()
	n, err := browser.Eval[int](w.page, `[...document.querySelectorAll("[role=columnheader] .head-name")].findIndex(h => h.innerText === `+quote(name)+`)`)
	require.NoError(w.t, err)
	require.GreaterOrEqual(w.t, n, 0)
	return n
}

// Rows, columns and all are selected by keyboard, filled downwards and taken back; Tab
// leaves the grid, F6 comes back to it, and every key stands in a list.
func TestTheGridIsWorkedByKeyboard(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	remarks := w.column("Remarks")
	objects := []string{w.read(0, 1), w.read(1, 1), w.read(2, 1)}
	w.do(w.page.Click(cellAt(0, 1)), w.page.Keys(kb.End), w.page.Holds(fmt.Sprintf("document.activeElement.dataset.col === '%d'", remarks)))
	w.typeOver(0, remarks, "Ask again")
	w.do(w.page.Enter(), w.page.Holds(text(0, remarks)+" === 'Ask again'"))
	w.do(w.page.Click(cellAt(0, remarks)))
	for range 2 {
		w.do(w.page.Keys(kb.ArrowDown, chromedp.ModifierShift))
	}
	w.do(w.page.Holds(chosenCells+" === 3"), w.page.Keys("d", chromedp.ModifierCtrl), w.page.Holds(text(2, remarks)+" === 'Ask again'"))
	for _, object := range objects {
		require.Eventually(t, func() bool { return w.cell("Requested", object, "Remarks") == "Ask again" }, browser.Wait, tick)
	}
	w.do(w.page.Keys("z", chromedp.ModifierCtrl), w.page.Holds(text(2, remarks)+" !== 'Ask again'"))
	assert.Equal(t, "Ask again", w.cell("Requested", objects[0], "Remarks"))

	w.do(w.page.Click(cellAt(1, 1)), w.page.Keys(" ", chromedp.ModifierShift))
	w.footSays("1 row")
	w.do(w.page.Click(cellAt(1, 1)), w.page.Keys(" ", chromedp.ModifierCtrl))
	w.footSays("28 rows")
	w.do(w.page.Keys("a", chromedp.ModifierCtrl))
	w.footSays(" rows")

	inGrid := `document.activeElement.closest("[role=grid]")`
	w.do(w.page.Click(cellAt(1, 1)), w.page.Holds(inGrid), w.page.Keys(kb.Tab), w.page.Holds("!"+inGrid))
	for range 6 {
		if there, err := browser.Eval[bool](w.page, "Boolean("+inGrid+")"); err == nil && there {
			break
		}
		w.do(w.page.Keys(kb.F6))
	}
	w.do(w.page.Holds(`document.activeElement.matches("` + cellAt(1, 1) + `")`))
	w.do(w.page.Keys("/", chromedp.ModifierCtrl), w.page.Says("Select whole rows"))
}

// Whole rows are duplicated, moved and deleted: by a right click, and by keyboard from the
// bar; what was done can be undone where it is told.
func TestRowsAreActedOn(t *testing.T) {
	for _, by := range []string{"mouse", "keyboard"} {
		t.Run(by, func(t *testing.T) {
			w := newWorld(t)
			w.open("Requested")
			objects := []string{w.read(1, 1), w.read(2, 1)}
			h := hands[by](w)
			on := 1 // the row at hand
			act := func(item string) {
				if by == "mouse" {
					p, err := browser.Eval[[]float64](w.page, fmt.Sprintf(`(r => [r.x + 20, r.y + 10])(document.querySelector("%s").getBoundingClientRect())`, cellAt(on, 1)))
					require.NoError(t, err)
					w.do(w.page.RightClick(p[0], p[1]))
				} else {
					h.press("Rows")
				}
				items := `[...document.querySelectorAll(".ant-dropdown:not(.ant-dropdown-hidden) .ant-dropdown-menu-item, .ant-dropdown-menu-submenu-popup .ant-dropdown-menu-item, .ant-dropdown:not(.ant-dropdown-hidden) .ant-dropdown-menu-submenu-title")]`
				w.do(w.page.Holds(items + `.length > 1`))
				w.do(w.page.Holds(`(i => i && (i.dispatchEvent(new MouseEvent("mouseover", { bubbles: true })), i.click(), true))(` + items + `.find(i => i.innerText.trim() === ` + quote(item) + `))`))
			}
			w.do(w.page.Click(cellAt(1, 1)), w.page.Keys(kb.ArrowDown, chromedp.ModifierShift), w.page.Holds(chosenCells+" === 2"))
			act("Move 2 rows to")
			w.do(w.page.Holds(`(i => i && (i.click(), true))([...document.querySelectorAll(".ant-dropdown-menu-submenu-popup .ant-dropdown-menu-item")].find(i => i.innerText.trim() === "Watch list"))`))
			w.told("Moved 2 rows to Watch list")
			for _, object := range objects {
				_, err := w.api.Row(t.Context(), demo.Tracker, "Watch list", object)
				require.NoError(t, err)
			}
			h.press("Undo")
			w.do(w.page.Holds(text(1, 1) + " === " + quote(objects[0])))

			w.do(w.page.Click(cellAt(1, 1)))
			act("Delete row")
			w.told("Deleted " + objects[0])
			_, err := w.api.Row(t.Context(), demo.Tracker, "Requested", objects[0])
			require.Error(t, err)
			h.press("Undo")
			w.do(w.page.Holds(text(1, 1) + " === " + quote(objects[0])))

			w.do(w.page.Click(cellAt(1, 1)))
			act("Duplicate row…")
			w.told("Add a row to Requested")
			h.write("Loan no", "L-9001")
			h.press("Add")
			require.Eventually(t, func() bool {
				found, err := w.api.Rows(t.Context(), demo.Tracker, "Requested", client.Which{Where: `[Loan no] is "L-9001"`})
				return err == nil && len(found.Rows) == 1 && found.Rows[0].Cells["Object"] == objects[0]
			}, browser.Wait, tick)
			// the copy stands below what it was copied from, and is selected
			w.do(w.page.Holds(text(2, 0)+" === 'L-9001'"), w.page.Holds(`document.querySelector("`+cellAt(2, 1)+`").ariaSelected === "true"`))

			on = 2
			w.do(w.page.Click(cellAt(on, 1)))
			act("Move up")
			w.do(w.page.Holds(text(1, 0)+" === 'L-9001'"), w.page.Holds(`document.querySelector("`+cellAt(1, 1)+`").ariaSelected === "true"`))
			on = 1
			act("Add row above…")
			w.told("Add a row to Requested")
			h.write("Loan no", "L-9002")
			h.write("Object", "Sounding line")
			h.press("Add")
			w.do(w.page.Holds(text(1, 0)+" === 'L-9002'"), w.page.Holds(text(2, 0)+" === 'L-9001'"))
		})
	}
}

// Rows are dragged by their grip: to another place of the tab, and onto another tab.
func TestRowsAreDragged(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	at := func(selector string, below float64) (x, y float64) {
		t.Helper()
		p, err := browser.Eval[[]float64](w.page, fmt.Sprintf(`(r => [r.x + 6, r.y + r.height * %v])(document.querySelector(%q).getBoundingClientRect())`, below, selector))
		require.NoError(t, err)
		return p[0], p[1]
	}
	grip := func(row int) (x, y float64) { return at(fmt.Sprintf("[data-row='%d'] .row-grip", row), 0.5) }
	first, second, third := w.read(1, 1), w.read(2, 1), w.read(3, 1)
	w.do(w.page.Click(cellAt(3, 1)), w.page.Holds("document.querySelector('.row-grip')"))
	x, y := grip(3)
	toX, toY := at(cellAt(1, 0), 0.25)
	w.do(w.page.Drag(x, y, toX, toY), w.page.Holds(text(1, 1)+" === "+quote(third)+" && "+text(2, 1)+" === "+quote(first)))

	w.do(w.page.Click(cellAt(2, 1)), w.page.Keys(kb.ArrowDown, chromedp.ModifierShift), w.page.Holds("document.querySelectorAll('.row-grip').length === 2"))
	x, y = grip(2)
	toX, toY = at("a[href$='/"+w.tabs["Crating"]+"']", 0.5)
	w.do(w.page.Drag(x, y, toX, toY), w.page.Says("Moved 2 rows to Crating"), w.page.Says("26 rows"))
	for _, object := range []string{first, second} {
		r, err := w.api.Row(t.Context(), demo.Tracker, "Crating", object)
		require.NoError(t, err)
		assert.Equal(t, "Crating", r.Tab)
	}
	w.do(w.page.Press("Undo"), w.page.Says("28 rows"))
}

// A text is replaced wherever it stands in the rows shown, once one has seen where.
func TestATextIsFoundAndReplaced(t *testing.T) {
	bothIn(t, newWorld, func(t *testing.T, w *world, h hand) {
		w.open("Requested")
		object := w.read(1, 1)
		was := w.cell("Requested", object, "Lender")
		w.do(w.page.Click(cellAt(1, 1)), w.page.Keys("h", chromedp.ModifierCtrl), w.page.Says("Find and replace"))
		h.write("Find", "bell foundry")
		h.write("Replace with", "Foundry")
		w.told("Bell Foundry of Astre → Foundry of Astre")
		h.press("Replace in 2 cells")
		w.do(w.page.Holds(`[...document.querySelectorAll(".grid-row")].filter(r => r.innerText.includes("Foundry of Astre") && !r.innerText.includes("Bell Foundry")).length === 2`))
		require.Eventually(t, func() bool { return w.cell("Requested", object, "Lender") != was }, browser.Wait, tick)
		h.press("Undo")
		require.Eventually(t, func() bool { return w.cell("Requested", object, "Lender") == was }, browser.Wait, tick)
	})
}
