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

// listeners measures how soon after an edit was begun the slowest of many consoles has been
// told of it, against one that is alone: the 95th percentile of the edits. Each console asks
// for the trackers again as the page does while changes stream in; the service and all of
// them share this machine.
func listeners(ctx context.Context, c *client.Client, address, token string) (string, error) {
	var took [2][]time.Duration
	for range turns { // one after the other, so that what disturbs the machine disturbs both
		for i, n := range []int{1, consoles} {
			d, err := slowest(ctx, c, address, token, n)
			if err != nil {
				return "", err
			}
			took[i] = append(took[i], d)
		}
	}
	for i := range took {
		slices.Sort(took[i])
	}
	alone, all := took[0][turns/2], took[1][turns/2]
	return fmt.Sprintf("| 20 edits a second, %d consoles: the slowest told, 95th percentile, median of 5 turns, against one alone (%.1f ms) | %.1f ms, %.1fx | 1.5x |\n",
		consoles, ms(alone), ms(all), ms(all)/ms(alone)), nil
}

func ms(d time.Duration) float64 { return float64(d) / float64(time.Millisecond) }

// slowest edits at a steady pace while so many listen.
func slowest(ctx context.Context, c *client.Client, address, token string, n int) (time.Duration, error) {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	var mu sync.Mutex
	told := map[int64]time.Time{} // when the last of them was told, by change set
	var ready, over sync.WaitGroup
	for range n {
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
	begun := map[int64]time.Time{}
	tick := time.NewTicker(perTurn)
	defer tick.Stop()
	for i := range edits {
		<-tick.C
		at := time.Now()
		set, err := c.SetRow(ctx, client.How{}, demo.Tracker, "Requested", "Enamelled sextant", wire.RowEdit{Cells: map[string]any{"Remarks": fmt.Sprint("edit ", i, " of ", n)}})
		if err != nil {
			return 0, err
		}
		begun[set.Seq] = at
	}
	time.Sleep(time.Second)
	stop()
	over.Wait()
	var took []time.Duration
	for seq, at := range begun {
		last, is := told[seq]
		if !is {
			return 0, fmt.Errorf("nobody was told of change set %d", seq)
		}
		took = append(took, last.Sub(at))
	}
	slices.Sort(took)
	return took[len(took)*95/100], nil
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
