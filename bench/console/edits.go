package main

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/chromedp/chromedp/kb"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
)

const (
	typedEdits = 20
	// editTimed notes, of each text that Enter ends in a cell, after how many milliseconds it
	// stands there, and after how many it is stored.
	editTimed = `(() => {
  window.edits = [];
  document.addEventListener("keydown", (e) => {
    if (e.key !== "Enter" || !e.target.classList.contains("cell-editor")) return;
    const from = performance.now(), text = e.target.value, edit = {};
    const { row } = e.target.closest("[data-row]").dataset, { col } = e.target.closest("[data-col]").dataset;
    const look = () => {
      const cell = document.querySelector("[data-row='" + row + "'] > [data-col='" + col + "']");
      if (!cell.querySelector(".cell-editor") && cell.textContent === text) {
        edit.shown ??= performance.now() - from;
        if (!cell.querySelector(".cell-pending")) {
          edit.stored = performance.now() - from;
          window.edits.push(edit);
          return;
        }
      }
      requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  }, true);
  return true;
})()`
)

// ownEdits measures how soon what one types oneself stands in its cell, and is stored.
func ownEdits(ctx context.Context, c *client.Client, page *browser.Page, address string) (string, error) {
	to, err := tabAddress(ctx, c, address, demo.Tracker, "Requested")
	if err != nil {
		return "", err
	}
	cell := "[data-row='1'] > [data-col='1']"
	err = errors.Join(page.Go(to), page.Says("28 rows"), page.Holds("!!document.querySelector(\""+cell+"\")"), page.Holds(editTimed))
	for i := range typedEdits {
		err = errors.Join(err, page.Click(cell), page.Keys(kb.F2),
			page.Holds(`document.activeElement.classList.contains("cell-editor") && (document.activeElement.select(), true)`),
			page.Keys(fmt.Sprint("Sextant ", i)), page.Enter(), page.Holds(fmt.Sprint("window.edits.length === ", i+1)))
	}
	if err != nil {
		return "", err
	}
	times, err := browser.Eval[[]struct{ Shown, Stored float64 }](page, "window.edits")
	if err != nil {
		return "", err
	}
	var shown, stored []float64
	for _, edit := range times {
		shown, stored = append(shown, edit.Shown), append(stored, edit.Stored)
	}
	slices.Sort(shown)
	slices.Sort(stored)
	return fmt.Sprintf("| an edit of one's own: shown; stored, medians of %d | %.0f ms; %.0f ms | 10-17 ms; 38-48 ms |\n", typedEdits, shown[len(shown)/2], stored[len(stored)/2]), nil
}

// tabAddress gives the page of a tab.
func tabAddress(ctx context.Context, c *client.Client, address, tracker, tab string) (string, error) {
	t, err := c.Tracker(ctx, tracker)
	if err != nil {
		return "", err
	}
	for _, one := range t.Tabs {
		if one.Name == tab {
			return address + "/t/" + t.ID + "/" + one.ID, nil
		}
	}
	return "", fmt.Errorf("%s has no tab %s", tracker, tab)
}
