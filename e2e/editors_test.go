package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
)

const everyType = `
tracker: Types
zone: UTC
tabs:
  Things:
    columns:
      Object: { type: text }
      Day: { type: date }
      Hour: { type: date-time }
      Stage: { type: choice, options: [Asked, Lent, Back] }
      Marks: { type: choice, several: yes, options: [Fragile, Heavy, Cold] }
      Clerks: { type: person, several: yes }
      Stars: { type: number, format: rating }
      Fee: { type: number, format: EUR }
      Done: { type: checkbox }
      Page: { type: link }
      Photo: { type: file }
`

// begin opens the editor of a cell of the first row.
func (k *keyboard) begin(column string) {
	k.t.Helper()
	k.goTo(0, k.column(column))
	k.do(k.page.Keys(kb.F2), k.page.Holds(editorOpen))
}

func (m *mouse) begin(column string) {
	m.t.Helper()
	at := cellAt(0, m.column(column))
	// as by the bar at the foot of the grid
	m.do(m.page.Holds(fmt.Sprintf(`(h => { const g = document.querySelector(".grid"); g.scrollLeft = h.offsetLeft - 400; return document.querySelector(%q) })(document.querySelector("[data-head='%d']"))`, at, m.column(column))))
	at = "document.querySelector(" + quote(at) + ")"
	m.click(at)
	m.do(m.page.DoubleClickOn(at), m.page.Holds(editorOpen))
}

// elsewhere clicks another cell, which ends what is being edited.
func (m *mouse) elsewhere() {
	m.t.Helper()
	m.do(m.page.Holds(`(document.querySelector(".grid").scrollLeft = 0, document.querySelector("` + cellAt(1, 0) + `"))`))
	m.click(`document.querySelector("` + cellAt(1, 0) + `")`)
}

const editorOpen = `document.activeElement.classList.contains("cell-editor")`

// Every type of column has its own editor, and each is worked by the mouse alone but for what
// is text, and by the keyboard alone.
func TestCellsAreEditedByTheirTypeByEitherHand(t *testing.T) {
	bothIn(t, newWorld, func(t *testing.T, w *world, h hand) {
		_, err := w.api.LoadSetup(t.Context(), client.How{}, everyType, false)
		require.NoError(t, err)
		_, err = w.api.AddRows(t.Context(), client.How{}, "Types", "Things", []map[string]any{{"Object": "Bell"}, {"Object": "Drum"}})
		require.NoError(t, err)
		tr, err := w.api.Tracker(t.Context(), "Types")
		require.NoError(t, err)
		w.do(w.page.Go(w.address+"/t/"+tr.ID+"/"+tr.Tabs[0].ID), w.page.Says("2 rows"), w.page.Holds(`document.querySelectorAll(".grid-row").length === 2`))
		rows, err := w.api.Rows(t.Context(), "Types", "Things", client.Which{})
		require.NoError(t, err)
		holds := func(column string, want any) {
			t.Helper()
			var got any
			assert.Eventually(t, func() bool {
				r, err := w.api.Row(t.Context(), "Types", "Things", rows.Rows[0].ID)
				if err != nil {
					return false
				}
				got = r.Cells[column]
				return assert.ObjectsAreEqual(want, got)
			}, browser.Wait, tick, "%s", column)
			require.Equal(t, want, got, column)
		}
		today := time.Now().UTC()
		middle := today.Format("2006-01-") + "15"
		option := func(name string) string {
			return `[...document.querySelectorAll(".cell-panel-over:not(.ant-popover-hidden) [role=option]")].find(o => o.innerText.replace("✓", "").trim() === ` + quote(name) + `)`
		}
		photo := sample(t, "awkward/asides.xlsx")

		switch h := h.(type) {
		case *mouse:
			h.begin("Object")
			w.do(w.page.Keys("a", chromedp.ModifierCtrl), w.page.Keys("Ship's bell"))
			h.elsewhere()
			holds("Object", "Ship's bell")
			h.begin("Day")
			h.click(`document.querySelector(".cell-days [title='` + middle + `']")`)
			holds("Day", middle)
			h.begin("Hour")
			h.click(`document.querySelector(".cell-days [title='` + middle + `']")`)
			h.write("Time", "14:30")
			h.elsewhere()
			holds("Hour", middle+"T14:30")
			h.begin("Stage")
			h.click(option("Lent"))
			holds("Stage", "Lent")
			h.begin("Marks")
			h.click(option("Fragile"))
			h.click(option("Cold"))
			h.elsewhere()
			holds("Marks", []any{"Fragile", "Cold"})
			h.begin("Clerks")
			h.click(option("Marta Quell"))
			h.click(option("Joren Aske"))
			h.elsewhere()
			holds("Clerks", []any{"marta.quell@example.org", "joren.aske@example.org"})
			h.begin("Stars")
			h.click(`[...document.querySelectorAll(".cell-rating button")].find(b => b.innerText === "4")`)
			holds("Stars", json.Number("4"))
			h.begin("Page")
			w.do(w.page.Keys("https://example.org/a"))
			h.write("Text shown", "The file")
			h.elsewhere()
			holds("Page", "The file <https://example.org/a>")
			h.begin("Photo")
			h.find("Choose a file")
			w.do(w.page.Choose(".cell-file input[type=file]", photo))
		case *keyboard:
			h.begin("Object")
			w.do(w.page.Keys(kb.Enter, chromedp.ModifierAlt), w.page.Keys("with a rope"), w.page.Enter())
			holds("Object", "Bell\nwith a rope")
			h.begin("Day")
			w.do(w.page.Keys("+3"), w.page.Enter())
			holds("Day", today.AddDate(0, 0, 3).Format(time.DateOnly))
			h.begin("Hour")
			w.do(w.page.Keys(middle+" 14:30"), w.page.Enter())
			holds("Hour", middle+"T14:30")
			h.begin("Stage")
			w.do(w.page.Keys("le"), w.page.Enter())
			holds("Stage", "Lent")
			h.begin("Marks")
			w.do(w.page.Keys("fr"), w.page.Enter(), w.page.Keys("co"), w.page.Enter(), w.page.Enter())
			holds("Marks", []any{"Fragile", "Cold"})
			h.begin("Clerks")
			w.do(w.page.Keys("mar"), w.page.Enter(), w.page.Keys("jor"), w.page.Enter(), w.page.Enter())
			holds("Clerks", []any{"marta.quell@example.org", "joren.aske@example.org"})
			h.begin("Stars")
			w.do(w.page.Keys("4"), w.page.Enter())
			holds("Stars", json.Number("4"))
			h.begin("Page")
			w.do(w.page.Keys("https://example.org/a"), w.page.Keys(kb.Tab), w.page.Holds(`document.activeElement.ariaLabel === "Text shown"`), w.page.Keys("The file"), w.page.Enter())
			holds("Page", "The file <https://example.org/a>")
			h.begin("Photo")
			w.do(w.page.Keys(kb.Tab), w.page.Holds(`document.activeElement.closest(".cell-file") && document.activeElement.innerText === "Choose a file"`))
			w.do(w.page.Choose(".cell-file input[type=file]", photo))
		}
		require.Eventually(t, func() bool {
			r, err := w.api.Row(t.Context(), "Types", "Things", rows.Rows[0].ID)
			return err == nil && strings.HasPrefix(fmt.Sprint(r.Cells["Photo"]), "asides.xlsx <")
		}, browser.Wait, tick)
		h.put(0, w.column("Fee"), "1250.5 EUR")
		holds("Fee", json.Number("1250.5"))
	})
}
