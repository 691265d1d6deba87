package main

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

const (
	gridSetup = `
tracker: Wide
zone: UTC
tabs:
  Empty: { columns: { Object: { type: text } } }
  Loans: { columns: { Object: { type: text }, Value: { type: number }, Stage: { type: choice, options: [Asked, Lent, Back] }, Due: { type: date }, Half: { type: text }, Lender: { type: text }, Crate: { type: text }, Fee: { type: number }, Since: { type: date }, Flag: { type: checkbox }, Place: { type: text }, Remark: { type: text } } }
`
	// frames notes how long each frame takes, until it is told to stop.
	frames = `(() => {
  window.gaps = [];
  let last = performance.now();
  window.framing = true;
  const frame = (now) => { window.gaps.push(now - last); last = now; if (window.framing) requestAnimationFrame(frame); };
  requestAnimationFrame(frame);
  return true;
})()`
	// opened follows a link of the side and notes when something stands there.
	opened = `(() => {
  const from = performance.now();
  window.took = undefined;
  [...document.querySelectorAll("nav.side a")].find(a => a.innerText.startsWith(%q)).click();
  const look = () => { if (%s) window.took = performance.now() - from; else requestAnimationFrame(look); };
  requestAnimationFrame(look);
  return true;
})()`
	someRows = `document.querySelector("h1")?.innerText === "Loans" && document.querySelectorAll(".grid-row").length > 10`
	noRows   = `document.querySelector("h1")?.innerText === "Empty" && document.body.innerText.includes("No rows yet")`
	fetched  = `performance.getEntriesByType("resource").filter(e => e.name.includes("/api/v1/")).reduce((n, e) => n + e.encodedBodySize, 0)`
)

// grid measures a tab of many rows, and gives lines of the table.
func grid(ctx context.Context, c *client.Client, page *browser.Page, address string) (string, error) {
	id, err := fill(ctx, c, gridSetup, "Wide", rows, wideRow)
	if err != nil {
		return "", err
	}
	took := func(link, there string) (float64, error) {
		var all []float64
		for range 5 {
			err := errors.Join(page.Go(address+"/t/"+id+"/rules"), page.Says("Rules"), page.Holds(`document.querySelectorAll("nav.side a").length > 2`))
			if err != nil {
				return 0, err
			}
			if _, err := browser.Eval[bool](page, fmt.Sprintf(opened, link, there)); err != nil {
				return 0, err
			}
			if err := page.Holds("window.took !== undefined"); err != nil {
				return 0, err
			}
			ms, err := browser.Eval[float64](page, "window.took")
			if err != nil {
				return 0, err
			}
			all = append(all, ms)
		}
		slices.Sort(all)
		return all[len(all)/2], nil
	}
	empty, err := took("Empty", noRows)
	if err != nil {
		return "", err
	}
	first, err := took("Loans", someRows)
	if err != nil {
		return "", err
	}
	out := fmt.Sprintf("| first rows of %d x 12, against an empty tab (%.0f ms), medians of 5 | %.0f ms, %.2fx | 1.5x |\n", rows, empty, first, first/empty)

	// until all are there, then away and back
	if err := page.Holds(fmt.Sprintf(`document.querySelector(".tracker-bar").innerText.replaceAll(",", "").includes("%d rows")`, rows)); err != nil {
		return "", err
	}
	visit := func(link, there string) error {
		_, err := browser.Eval[bool](page, fmt.Sprintf(opened, link, there))
		return errors.Join(err, page.Holds("window.took !== undefined"))
	}
	if err := visit("Rules", `document.querySelector("h1")?.innerText !== "Loans"`); err != nil {
		return "", err
	}
	before, err := browser.Eval[float64](page, fetched)
	if err != nil {
		return "", err
	}
	if err := visit("Loans", someRows); err != nil {
		return "", err
	}
	time.Sleep(time.Second)
	after, err := browser.Eval[float64](page, fetched)
	if err != nil {
		return "", err
	}
	out += fmt.Sprintf("| fetched at a second visit with nothing changed | %.1f kB | 20 kB |\n", (after-before)/1000)

	filter := fmt.Sprintf(`(() => {
  const e = document.querySelector("input[aria-label='Find in these rows']");
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, "second half");
  e.dispatchEvent(new Event("input", { bubbles: true }));
  const from = performance.now();
  window.took = undefined;
  const look = () => { if (document.querySelector(".tracker-bar").innerText.replaceAll(",", "").includes("%d of %d rows")) window.took = performance.now() - from; else requestAnimationFrame(look); };
  requestAnimationFrame(look);
  return true;
})()`, rows/2, rows)
	if _, err := browser.Eval[bool](page, frames); err != nil {
		return "", err
	}
	if _, err := browser.Eval[bool](page, filter); err != nil {
		return "", err
	}
	if err := page.Holds("window.took !== undefined"); err != nil {
		return "", err
	}
	ms, err := browser.Eval[float64](page, "window.took")
	if err != nil {
		return "", err
	}
	longest, err := browser.Eval[float64](page, "(window.framing = false, Math.max(...window.gaps))")
	if err != nil {
		return "", err
	}
	out += fmt.Sprintf("| words typed that half of the rows hold, from the last key; longest frame | %.0f ms; %.0f ms | 500 ms; 100 ms |\n", ms, longest)

	var frame []float64 // the longest, with each edit
	for n := range turns {
		if _, err := browser.Eval[bool](page, frames); err != nil {
			return "", err
		}
		if _, err := c.SetRow(ctx, client.How{}, "Wide", "Loans", "Object 50001", wire.RowEdit{Cells: map[string]any{"Remark": fmt.Sprint("by a colleague, ", n)}}); err != nil {
			return "", err
		}
		time.Sleep(time.Second)
		one, err := browser.Eval[float64](page, "(window.framing = false, Math.max(...window.gaps))")
		if err != nil {
			return "", err
		}
		frame = append(frame, one)
	}
	slices.Sort(frame)
	out += fmt.Sprintf("| a colleague's edit while so filtered: longest frame, median of %d (%.0f to %.0f) | %.0f ms | one frame |\n", turns, frame[0], frame[turns-1], frame[turns/2])

	turned, err := wheel(page, rows, 12)
	if err != nil {
		return "", err
	}
	out += turned
	line, err := column(page)
	return out + line, err
}

// wheel turns the wheel over a tab several times, and gives the percentage of frames that took
// less than 33 ms: that is those that missed none of sixty in a second.
func wheel(page *browser.Page, rows, columns int) (string, error) {
	var shares []float64
	for range turns {
		if _, err := browser.Eval[bool](page, `(document.querySelector(".grid").scrollTop = 0, true)`); err != nil {
			return "", err
		}
		time.Sleep(500 * time.Millisecond)
		if _, err := browser.Eval[bool](page, frames); err != nil {
			return "", err
		}
		for range 60 {
			if err := page.Wheel(700, 500, 1200); err != nil {
				return "", err
			}
			time.Sleep(30 * time.Millisecond)
		}
		share, err := browser.Eval[float64](page, "(window.framing = false, window.gaps.filter(g => g < 33).length / window.gaps.length * 100)")
		if err != nil {
			return "", err
		}
		shares = append(shares, share)
	}
	slices.Sort(shares)
	return fmt.Sprintf("| wheel, 1,200 px a notch over %d x %d: frames under 33 ms, median of %d (%.0f to %.0f) | %.0f %% | 95 %% |\n", rows, columns, turns, shares[0], shares[turns-1], shares[turns/2]), nil
}

// column clears all cells of a column, and takes that back.
func column(page *browser.Page) (string, error) {
	const search = `(() => { const e = document.querySelector("input[aria-label='Find in these rows']"); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, ""); e.dispatchEvent(new Event("input", { bubbles: true })); return true; })()`
	err := errors.Join(page.Holds(search),
		page.Holds(`!document.querySelector(".tracker-bar").innerText.includes(" of ")`),
		page.Holds(`(e => e && (e.scrollTop = 0, e.scrollLeft = 0, true))(document.querySelector(".grid"))`),
		page.Click(`[data-row="2"] > [data-col="6"]`), page.Keys(" ", chromedp.ModifierCtrl), page.Says(fmt.Sprintf("%d cells", rows)[:3]))
	if err != nil {
		return "", err
	}
	first := `document.querySelector('[data-row="2"] > [data-col="6"]').innerText`
	was, err := browser.Eval[string](page, first)
	if err != nil {
		return "", err
	}
	begin := time.Now()
	if err := errors.Join(page.Keys(kb.Delete), patiently(page, "document.body.innerText.includes('cells changed') && "+first+" === ''")); err != nil {
		return "", err
	}
	cleared := time.Since(begin)
	begin = time.Now()
	if err := errors.Join(page.Press("Undo"), patiently(page, fmt.Sprintf("%s === %q", first, was))); err != nil {
		return "", err
	}
	return fmt.Sprintf("| all %d cells of a column cleared; undone | %.1f s; %.1f s | done, with progress and undo |\n", rows, cleared.Seconds(), time.Since(begin).Seconds()), nil
}

// patiently waits for longer than a page is usually given.
func patiently(page *browser.Page, holds string) (err error) {
	for range 6 {
		if err = page.Holds(holds); err == nil {
			return nil
		}
	}
	return err
}

// wideRow gives the cells of a row of twelve columns.
func wideRow(n int) map[string]any {
	day := func(n int) string { return time.Date(2026, 1, 1+n%300, 0, 0, 0, 0, time.UTC).Format(time.DateOnly) }
	return map[string]any{"Object": fmt.Sprint("Object ", n), "Value": n % 1000, "Stage": []string{"Asked", "Lent", "Back"}[n%3], "Due": day(n), "Half": []string{"first half", "second half"}[2*n/rows],
		"Lender": fmt.Sprint("Lender ", n%97), "Crate": fmt.Sprint("C-", n%1000), "Fee": n % 7, "Since": day(n / 7), "Flag": n%2 == 0, "Place": fmt.Sprint("Shelf ", n%50), "Remark": "as agreed"}
}
