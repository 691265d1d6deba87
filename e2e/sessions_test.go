package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
)

const notes = `
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Object: { type: text, unique: yes }, Note: { type: text }, Stage: &s { type: choice, options: [Requested, Agreed] } } }
  Agreed:    { columns: { Object: { type: text }, Note: { type: text }, Stage: *s } }
rules:
  - name: Move
    wake: { edit: [Stage] }
    where: Stage is not blank and Stage is not tab
    steps: [ { move: { to: "{Stage}" } } ]
`

// sessions says how often somebody comes to type: a few times, or as often as KAVLO_SESSIONS says.
func sessions() int {
	if n, err := strconv.Atoi(os.Getenv("KAVLO_SESSIONS")); err == nil {
		return n
	}
	return 3
}

// unquiet is a service that is killed and started again at its address, while others work with it.
type unquiet struct {
	t       *testing.T
	program string
	dir     string
	listen  string
	mu      sync.Mutex // one starts or stops it at a time
	process *process
	added   atomic.Int64
	busy    atomic.Value // the row in which somebody types
}

func (u *unquiet) start() {
	u.process = start(u.t, u.program, u.dir, "--listen", u.listen)
}

// api asks the service that is there now.
func (u *unquiet) api() *client.Client {
	u.mu.Lock()
	defer u.mu.Unlock()
	return u.process.api
}

// blink kills the service once, and starts it again after a while.
func (u *unquiet) blink(rng *rand.Rand, away time.Duration) {
	time.Sleep(time.Duration(rng.IntN(2500)) * time.Millisecond)
	u.mu.Lock()
	defer u.mu.Unlock()
	u.process.kill()
	time.Sleep(away) // how long it stays away, not a wait for something
	u.start()
}

// meddle edits, moves, removes and adds rows until it is told to stop.
func (u *unquiet) meddle(ctx context.Context, rng *rand.Rand) {
	for ctx.Err() == nil {
		time.Sleep(time.Duration(20+rng.IntN(150)) * time.Millisecond)
		tab := []string{"Requested", "Agreed"}[rng.IntN(2)]
		api := u.api()
		page, err := api.Rows(ctx, "Loans", tab, client.Which{})
		if err != nil || len(page.Rows) == 0 {
			continue
		}
		row := page.Rows[rng.IntN(len(page.Rows))]
		if at := slices.IndexFunc(page.Rows, func(r wire.Row) bool { return r.Label == u.busy.Load() }); at >= 0 && rng.IntN(3) > 0 {
			row = page.Rows[at] // of all rows this one
		}
		set := func(column, to string) {
			_, _ = api.SetRow(ctx, client.How{}, "Loans", tab, row.ID, wire.RowEdit{Cells: map[string]any{column: to}}) // it may have moved, or the service be away
		}
		switch n := rng.IntN(10); {
		case n < 4:
			set("Note", fmt.Sprintf("theirs %d", rng.IntN(1000)))
		case n < 7:
			set("Stage", []string{"Requested", "Agreed"}[rng.IntN(2)])
		case n < 8 && len(page.Rows) > 5:
			_, _ = api.RemoveRow(ctx, client.How{}, "Loans", tab, row.ID)
		default:
			u.add(ctx, api)
		}
	}
}

func (u *unquiet) add(ctx context.Context, api *client.Client) {
	object := fmt.Sprintf("Bell %03d", u.added.Add(1))
	_, _ = api.AddRows(ctx, client.How{}, "Loans", "Requested", []map[string]any{{"Object": object, "Stage": "Requested"}})
}

// typed is a text that somebody typed into the note of an object.
type typed struct{ object, text string }

// typist types notes into the grid, by mouse and by keyboard, with whatever else goes on there.
type typist struct {
	*world
	*unquiet
	rng  *rand.Rand
	all  []typed
	name string
}

const editorRow = `(document.activeElement?.classList.contains("cell-editor") ? document.activeElement.closest(".grid-row")?.querySelector("[data-col='0']")?.innerText : "") ?? ""`

// one types a note, wherever that is possible just now.
func (w *typist) one() {
	w.world.t.Helper()
	w.toSomeNote()
	text := fmt.Sprintf("%s-%d", w.name, len(w.all))
	isOpen := w.eval(editorRow) != "" // a click met the very cell that is edited
	if isOpen {
		w.do(w.page.Keys("a", chromedp.ModifierCtrl))
	}
	if !isOpen && w.rng.IntN(2) == 0 {
		w.do(w.page.Keys(kb.F2), w.page.Keys("a", chromedp.ModifierCtrl), w.page.Letter(text[:1]))
	} else {
		w.do(w.page.Letter(text[:1]))
	}
	object := w.eval(editorRow)
	if object == "" {
		return // the row has just left: nothing was begun
	}
	w.busy.Store(object)
	for _, letter := range text[1:] {
		time.Sleep(time.Duration(w.rng.IntN(60)) * time.Millisecond) // as hands do
		w.do(w.page.Keys(string(letter)))
	}
	if now := w.eval(editorRow); now != object {
		require.Equal(w.world.t, object, now, "the editor has gone; the page says:\n%s", w.eval(`document.activeElement.outerHTML.slice(0, 200) + "\n" + document.body.innerText`))
	}
	w.all = append(w.all, typed{object, text})
	switch w.rng.IntN(6) {
	case 0:
		w.do(w.page.Keys(kb.Tab))
	case 1:
		w.point(`document.querySelector(".tracker-bar h1")`)
	case 2:
		w.toSomeNote()
	case 3:
		w.comeBack(chromedp.Reload())
	default:
		w.do(w.page.Keys(kb.Enter))
	}
}

// comeBack loads the page, as soon as the service is there to give it.
func (w *typist) comeBack(how chromedp.Action[chromedp.Void]) {
	w.world.t.Helper()
	require.Eventually(w.world.t, func() bool { return w.page.Do(how) == nil }, browser.Wait, tick)
	w.do(w.page.Holds(`document.querySelectorAll(".grid-row").length > 2`))
}

// toSomeNote selects a note, by mouse or with arrow keys.
func (w *typist) toSomeNote() {
	w.world.t.Helper()
	row := fmt.Sprintf(`[...document.querySelectorAll(".grid-row:not(.grid-row-left)")][%d %% document.querySelectorAll(".grid-row:not(.grid-row-left)").length]`, w.rng.IntN(20))
	if w.rng.IntN(2) == 0 || w.eval(`document.activeElement?.closest("[role=grid]") && !document.activeElement.matches("input, textarea") ? "here" : ""`) == "" {
		w.point(row + `?.querySelector("[data-col='1']")`)
		return
	}
	for range 1 + w.rng.IntN(3) {
		w.do(w.page.Keys([]string{kb.ArrowUp, kb.ArrowDown}[w.rng.IntN(2)]))
	}
	w.do(w.page.Keys(kb.Home), w.page.Keys(kb.ArrowRight))
}

// point clicks what an expression gives, if it is there.
func (w *typist) point(at string) {
	w.world.t.Helper()
	p, err := browser.Eval[[]float64](w.page, `(e => { const r = e?.getBoundingClientRect(); return r ? [r.x + 20, r.y + r.height / 2] : []; })(`+at+`)`)
	require.NoError(w.world.t, err)
	if len(p) < 2 {
		return
	}
	w.do(w.page.Mouse(input.DispatchMouseEventTypeMousePressed, p[0], p[1]), w.page.Mouse(input.DispatchMouseEventTypeMouseReleased, p[0], p[1]))
}

// kept are the edits that the browser holds, and those that stand on the page with a reason.
func (w *typist) kept() map[typed]string {
	w.world.t.Helper()
	text := w.eval(`JSON.stringify(Object.keys(localStorage).filter(k => k.startsWith("kavlo unsaved")).flatMap(k => JSON.parse(localStorage[k])))`)
	var edits []struct {
		Cells   []struct{ Label, Value string }
		Refused struct{ Why string }
	}
	require.NoError(w.world.t, json.Unmarshal([]byte(text), &edits))
	out := map[typed]string{}
	for _, e := range edits {
		for _, c := range e.Cells {
			out[typed{c.Label, c.Value}] = e.Refused.Why
		}
	}
	return out
}

// writtenBy gives what somebody wrote into notes last, as the journal has it.
func writtenBy(t *testing.T, api *client.Client, name string) map[string]string {
	t.Helper()
	journal, err := api.Journal(t.Context(), "Loans", client.JournalOf{By: name}, 30)
	require.NoError(t, err)
	out := map[string]string{} // the row, by what was written into it
	for _, e := range journal {
		set, err := api.ChangeSet(t.Context(), e.Seq)
		require.NoError(t, err)
		for _, c := range set.Changes {
			out[fmt.Sprint(c.After)] = c.Label
		}
	}
	return out
}

// Whatever is typed while others edit, move and remove rows, and the service is killed and comes
// back, is stored, or stands in its cell with a reason.
func TestWhateverIsTypedIsStoredOrStandsThereWithAReason(t *testing.T) {
	u := &unquiet{t: t, program: built(t), dir: t.TempDir(), listen: freeAddress(t)}
	u.start()
	t.Cleanup(func() { u.process.kill() })
	_, err := u.process.api.LoadSetup(t.Context(), client.How{}, notes, true)
	require.NoError(t, err)
	_, err = u.process.api.PutPerson(t.Context(), wire.NewPerson{Name: "Ines Valadar", Address: "ines.valadar@example.org", Access: "admin"})
	require.NoError(t, err)
	for range 12 {
		u.add(t.Context(), u.process.api)
	}
	tr, err := u.process.api.Tracker(t.Context(), "Loans")
	require.NoError(t, err)
	page, err := browser.Share()
	require.NoError(t, err)
	t.Cleanup(page.Close)
	link, err := u.process.api.NewLink(t.Context(), "Ines Valadar")
	require.NoError(t, err)
	home := "http://" + u.listen + "/t/" + tr.ID + "/" + tr.Tabs[0].ID
	w := &typist{world: &world{t: t, page: page}, unquiet: u}
	w.do(page.Go(link.Link), page.Says("Scheduled"))
	seed := testkit.Seed(t)
	stored, refused := 0, 0
	for n := range sessions() {
		w.rng, w.name, w.all = testkit.Rand(seed, 3*n), fmt.Sprintf("s%d", n), nil
		for range 3 {
			u.add(t.Context(), u.api())
		}
		w.comeBack(chromedp.Navigate(home))
		ctx, stop := context.WithCancel(t.Context())
		var others sync.WaitGroup
		others.Go(func() { u.meddle(ctx, testkit.Rand(seed, 3*n+1)) })
		if killed := testkit.Rand(seed, 3*n+2); killed.IntN(2) == 0 {
			others.Go(func() { u.blink(killed, time.Duration(killed.IntN(1200))*time.Millisecond) })
		}
		for range 4 + w.rng.IntN(4) {
			w.one()
		}
		stop()
		others.Wait()
		w.comeBack(chromedp.Navigate(home))
		w.do(page.Holds(`!document.querySelector(".cell-pending") && Object.keys(localStorage).filter(k => k.startsWith("kavlo unsaved")).every(k => JSON.parse(localStorage[k]).every(e => e.refused))`))

		written := writtenBy(t, u.api(), "Ines Valadar")
		kept := w.kept()
		for i, one := range w.all {
			where, isStored := written[one.text]
			if isStored && where != "" { // a row that has been removed since has no name there
				assert.Equal(t, one.object, where, "session %d: %q went into another row", n, one.text)
			}
			isReplaced := false
			for _, later := range w.all[i+1:] {
				isReplaced = isReplaced || later.object == one.object
			}
			why := kept[one]
			assert.True(t, isStored || why != "" || isReplaced, "session %d: %q, typed into %s, is nowhere", n, one.text, one.object)
			if isStored {
				stored++
			}
			if why != "" {
				refused++
				w.do(page.Says(one.object+": Note"), page.Holds(`document.querySelector(".unsaved").innerText.includes(`+quote(strings.SplitN(why, "\n", 2)[0])+`) || document.querySelector(".unsaved").innerText.includes("Someone else changed Note of `+one.object+`")`))
			}
		}
		_, err = browser.Eval[bool](page, `[...document.querySelectorAll(".unsaved button")].filter(b => /^(Discard|Keep theirs)$/.test(b.innerText)).forEach(b => b.click()); true`)
		require.NoError(t, err)
		w.do(page.Holds(`!document.querySelector(".unsaved")`))
	}
	t.Logf("%d texts stored, %d kept with a reason", stored, refused)
	assert.Positive(t, stored)
}
