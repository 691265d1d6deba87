package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

const (
	consoles = 50
	perTurn  = time.Second / 20 // between two edits
	edits    = 100
	turns    = 5
	apart    = time.Second // between two askings of a console, at least
	spread   = time.Second / 2
)

// listeners measures how soon after an edit was begun the slowest of many consoles shows it,
// and how soon one shows it that is alone: the 95th percentiles of the edits. One of the many
// is a page; the others hear what it hears, and ask for the trackers again as it does while
// changes stream in. The slowest shows an edit when it has been told of it, and after what the
// page needs from being told until it shows it. The service and all of them share this machine.
func listeners(ctx context.Context, c *client.Client, page *browser.Page, address, token string) (string, error) {
	to, err := tabAddress(ctx, c, address, demo.Tracker, "Requested")
	if err != nil {
		return "", err
	}
	if err := errors.Join(page.Beforehand(overhear), page.Go(to), page.Says("Enamelled sextant"), page.Holds(watch)); err != nil {
		return "", err
	}
	var told, shown [2][]time.Duration // when the slowest was told, and showed it
	for range turns {                  // one after the other, so that what disturbs the machine disturbs both
		for i, n := range []int{1, consoles} {
			of, in, err := slowest(ctx, c, page, address, token, n)
			if err != nil {
				return "", err
			}
			told[i], shown[i] = append(told[i], of), append(shown[i], in)
		}
	}
	median := func(all []time.Duration) float64 { slices.Sort(all); return ms(all[turns/2]) }
	alone, all := median(shown[0]), median(shown[1])
	toldAlone, toldAll := median(told[0]), median(told[1])
	return fmt.Sprintf("| 20 edits a second, %d consoles: the slowest shows it, 95th percentile, median of %d turns, against one alone (%.1f ms) | %.1f ms, %.1fx | 1.5x |\n"+
		"| of it until the slowest is told, the same way, against one alone (%.1f ms) | %.1f ms, %.1fx | |\n",
		consoles, turns, alone, all, all/alone, toldAlone, toldAll, toldAll/toldAlone), nil
}

// overhear lets a page's stream of events be listened to beside the page.
const overhear = `(() => {
  const Source = window.EventSource;
  window.EventSource = class extends Source {
    constructor(...given) { super(...given); window.source = this; }
  };
})()`

// watch notes when the page is told of each edit, and when that stands in its cell, as
// milliseconds of the clock.
const watch = `(() => {
  const grid = document.querySelector(".grid");
  const rows = [...document.querySelectorAll(".grid-row")];
  const row = rows.find((r) => r.innerText.includes("Enamelled sextant"))?.dataset.row;
  if (!row) return false;
  grid.scrollLeft = 1e6;
  window.shown = {};
  window.told = {};
  window.source.addEventListener("change", (e) => {
    const edit = /edit \d+ of \d+/.exec(e.data)?.[0];
    if (edit) window.told[edit] ??= performance.timeOrigin + performance.now();
  });
  new MutationObserver(() => {
    const edit = /edit \d+ of \d+/.exec(document.querySelector("[data-row='" + row + "']")?.textContent ?? "")?.[0];
    if (edit) requestAnimationFrame(() => (window.shown[edit] ??= performance.timeOrigin + performance.now()));
  }).observe(grid, { subtree: true, childList: true, characterData: true });
  return true;
})()`

func ms(d time.Duration) float64 { return float64(d) / float64(time.Millisecond) }

// slowest edits at a steady pace while so many listen, one of them the page. It gives when
// the slowest of the others was told, and when that would have shown it.
func slowest(ctx context.Context, c *client.Client, page *browser.Page, address, token string, n int) (of, in time.Duration, err error) {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	var mu sync.Mutex
	told := map[int64]time.Time{} // when the last of them was told, by change set
	var ready, over sync.WaitGroup
	for range max(1, n-1) {
		ready.Add(1)
		over.Go(func() {
			_ = hear(ctx, address, token, ready.Done, func(seq int64) {
				mu.Lock()
				defer mu.Unlock()
				told[seq] = time.Now()
			})
		})
	}
	ready.Wait()
	if _, err := browser.Eval[bool](page, "window.shown = {}; window.told = {}; true"); err != nil {
		return 0, 0, err
	}
	begun := map[int64]time.Time{}
	texts := map[int64]string{}
	tick := time.NewTicker(perTurn)
	defer tick.Stop()
	for i := range edits {
		<-tick.C
		at := time.Now()
		text := fmt.Sprint("edit ", i, " of ", n)
		set, err := c.SetRow(ctx, client.How{}, demo.Tracker, "Requested", "Enamelled sextant", wire.RowEdit{Cells: map[string]any{"Remarks": text}})
		if err != nil {
			return 0, 0, err
		}
		begun[set.Seq], texts[set.Seq] = at, text
	}
	time.Sleep(time.Second)
	stop()
	over.Wait()
	drawn, err := browser.Eval[map[string]float64](page, "Object.fromEntries(Object.entries(shown).filter(([edit]) => told[edit]).map(([edit, at]) => [edit, at - told[edit]]))")
	if err != nil {
		return 0, 0, err
	}
	var wires, pages []time.Duration
	for seq, at := range begun {
		last, is := told[seq]
		if !is {
			return 0, 0, fmt.Errorf("nobody was told of change set %d", seq)
		}
		wires = append(wires, last.Sub(at))
		if took, is := drawn[texts[seq]]; is { // of two edits that fall into one frame the later one
			pages = append(pages, last.Sub(at)+time.Duration(took*float64(time.Millisecond)))
		}
	}
	if len(pages) < edits/2 {
		return 0, 0, fmt.Errorf("only %d of %d edits were shown", len(pages), edits)
	}
	return late(wires), late(pages), nil
}

// late is the 95th percentile.
func late(took []time.Duration) time.Duration {
	slices.Sort(took)
	return took[len(took)*95/100]
}

// hear listens as a console does until it is stopped.
func hear(ctx context.Context, address, token string, ready func(), told func(seq int64)) error {
	get := func(path string) (*http.Response, error) {
		req, err := http.NewRequestWithContext(ctx, http.MethodGet, address+path, nil)
		if err != nil {
			return nil, err
		}
		req.Header.Set("Authorization", "Bearer "+strings.TrimSpace(token))
		return http.DefaultClient.Do(req)
	}
	res, err := get("/api/v1/events")
	if err != nil {
		ready()
		return err
	}
	defer res.Body.Close()
	go func() {
		for {
			select {
			case <-ctx.Done():
				return
			case <-time.After(apart + rand.N(spread)):
			}
			if r, err := get("/api/v1/trackers"); err == nil {
				_, _ = io.Copy(io.Discard, r.Body)
				_ = r.Body.Close()
			}
		}
	}()
	lines := bufio.NewScanner(res.Body)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		if lines.Text() == ": listening" {
			ready()
		}
		number, is := strings.CutPrefix(lines.Text(), "id: ")
		if seq, err := strconv.ParseInt(number, 10, 64); is && err == nil {
			told(seq)
		}
	}
	return errors.Join(lines.Err(), ctx.Err())
}
