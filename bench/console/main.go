// Command console measures the console in headless Chromium against a running service: what
// comes over the wire before the first page stands, and how soon a rule that is edited shows
// which of 100,000 rows it matches. It writes its figures to bench/console.md.
package main

import (
	"context"
	"errors"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"slices"
	"time"

	"example.org/kavlo/console"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/service"
)

const (
	rows  = 100_000
	batch = 5_000
	tries = 15

	setup = `
tracker: Many
zone: UTC
tabs:
  Loans: { columns: { Object: { type: text }, Value: { type: number }, Stage: { type: choice, options: [Asked, Lent, Back] }, Due: { type: date }, Flag: { type: text } } }
`
	loaded  = `performance.getEntriesByType("resource").filter(e => /\.(js|css)$/.test(e.name)).reduce((n, e) => n + e.encodedBodySize, 0)`
	matches = `(() => { const e = document.querySelector(".definition-trial h2"); return e ? e.innerText : ""; })()`
	// typeValue types a number as a hand does, and notes when it did and when the matches of
	// that number stand there.
	typeValue = `(() => {
  const e = document.querySelector("input[aria-label='Value of Value']");
  const before = %s;
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, "%d");
  e.dispatchEvent(new Event("input", { bubbles: true }));
  const from = performance.now();
  window.took = undefined;
  const look = () => {
    if (%[1]s !== before && document.querySelector(".definition-trial").getAttribute("aria-busy") !== "true") window.took = performance.now() - from;
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
  return true;
})()`
)

func main() {
	if err := run(context.Background()); err != nil {
		log.Fatal(err)
	}
}

func run(ctx context.Context) (err error) {
	dir, err := os.MkdirTemp("", "kavlo-bench")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	d, err := service.StartDemo(ctx, service.Settings{Version: "0", Dir: dir, Listen: "127.0.0.1:0", Console: console.Files()},
		service.DemoSettings{Lists: "127.0.0.1:0", Post: "127.0.0.1:0", SMTP: "127.0.0.1:0"})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, d.Stop()) }()
	token, err := os.ReadFile(filepath.Join(dir, access.KeeperFile))
	if err != nil {
		return err
	}
	c, err := client.New(d.Address, string(token))
	if err != nil {
		return err
	}
	many, err := fill(ctx, c, setup, "Many", rows, manyRow)
	if err != nil {
		return err
	}
	page, err := browser.Open(ctx)
	if err != nil {
		return err
	}
	defer page.Close()
	if err := errors.Join(page.Go(d.SignIn), page.Says("Scheduled")); err != nil {
		return err
	}
	first, err := browser.Eval[float64](page, loaded)
	if err != nil {
		return err
	}
	median, err := live(page, d.Address+"/t/"+many+"/rules/new?from=empty")
	if err != nil {
		return err
	}
	lines, err := grid(ctx, c, page, d.Address)
	if err != nil {
		return err
	}
	wide, err := broad(ctx, c, page, d.Address)
	if err != nil {
		return err
	}
	told, err := listeners(ctx, c, page, d.Address, string(token))
	if err != nil {
		return err
	}
	own, err := ownEdits(ctx, c, page, d.Address)
	if err != nil {
		return err
	}
	lines += wide + told + own
	text := fmt.Sprintf("# The console, measured\n\nIn headless Chromium against a running service; written by `make bench-console`.\n\n| what | measured | to reach |\n| --- | ---: | ---: |\n"+
		"| scripts and styles until Today stands, compressed on the wire | %.0f kB | 320 kB |\n| matches of a rule over %d rows, from the last key until they stand there, median of %d | %.0f ms | 150 ms |\n", first/1000, rows, tries, median) + lines
	fmt.Print(text)
	return os.WriteFile("bench/console.md", []byte(text), 0o644) //nolint:gosec // figures for all to read
}

// manyRow gives the cells of a row of a narrow tab.
func manyRow(n int) map[string]any {
	return map[string]any{"Object": fmt.Sprint("Object ", n), "Value": n % 1000, "Stage": []string{"Asked", "Lent", "Back"}[n%3], "Due": time.Date(2026, 1, 1+n%300, 0, 0, 0, 0, time.UTC).Format(time.DateOnly)}
}

// fill makes a tracker whose tab Loans has many rows, and gives its id.
func fill(ctx context.Context, c *client.Client, setup, tracker string, rows int, row func(n int) map[string]any) (string, error) {
	if _, err := c.LoadSetup(ctx, client.How{}, setup, false); err != nil {
		return "", err
	}
	for from := 0; from < rows; from += batch {
		all := make([]map[string]any, min(batch, rows-from))
		for i := range all {
			all[i] = row(from + i)
		}
		if _, err := c.AddRows(ctx, client.How{}, tracker, "Loans", all); err != nil {
			return "", err
		}
	}
	t, err := c.Tracker(ctx, tracker)
	if err != nil {
		return "", err
	}
	return t.ID, nil
}

// live gives the median time in milliseconds until the matches of a value that is typed
// stand beside the rule.
func live(page *browser.Page, at string) (float64, error) {
	choose := func(label, option string) error {
		return errors.Join(
			page.Holds(fmt.Sprintf(`(e => e && (e.closest(".ant-select").dispatchEvent(new MouseEvent("mousedown", { bubbles: true })), true))([...document.querySelectorAll("[aria-label='%s']")].at(-1))`, label)),
			page.Holds(fmt.Sprintf(`(e => e && (e.click(), true))([...document.querySelectorAll(".ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option")].find(o => o.innerText.trim() === %q))`, option)))
	}
	name := `(e => e && (Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, "Dear"), e.dispatchEvent(new Event("input", { bubbles: true })), true))(document.querySelector("input[aria-label=Name]"))`
	err := errors.Join(page.Go(at), page.Holds(name), page.Press("Add condition"), choose("Column", "Value"), choose("Comparison", "is more than"), page.Press("Add step"), choose("What step 1 does", "delete the row"))
	if err != nil {
		return 0, err
	}
	if err := page.Says("Matches"); err != nil {
		return 0, err
	}
	var took []float64
	for i := range tries {
		if _, err := browser.Eval[bool](page, fmt.Sprintf(typeValue, matches, 100+37*i)); err != nil {
			return 0, err
		}
		if err := page.Holds("window.took !== undefined"); err != nil {
			return 0, err
		}
		ms, err := browser.Eval[float64](page, "window.took")
		if err != nil {
			return 0, err
		}
		took = append(took, ms)
	}
	slices.Sort(took)
	return took[len(took)/2], nil
}
