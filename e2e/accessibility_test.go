package e2e

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
)

func TestPagesHoldAgainstTheAccessibilityRules(t *testing.T) {
	w := newWorld(t)
	set, err := w.api.RunDefinition(t.Context(), client.How{}, demo.Tracker, "rules", "Mark loans past their date", "")
	require.NoError(t, err)
	_, err = w.api.RunRound(t.Context(), client.RoundHow{}, demo.Tracker, "Morning round")
	require.NoError(t, err)
	page, err := w.api.FindPages(t.Context(), "North Pier")
	require.NoError(t, err)
	for name, at := range map[string][2]string{
		"today":     {w.address + "/", "Scheduled"},
		"tracker":   {w.home + "/" + w.tabs["On display"], "Add row"},
		"rules":     {w.home + "/rules", "Move loans to their stage"},
		"rule":      {w.home + "/rules/new?from=late", "Matches"},
		"reminders": {w.home + "/reminders", "Morning round"},
		"reminder":  {w.home + "/reminders/reminder/new?from=empty", "Missing"},
		"round":     {w.home + "/reminders/round/new?from=morning", "sends each person one email"},
		"list":      {w.home + "/lists/list/new", "Missing"}, "sync": {w.home + "/lists/sync/new", "Missing"},
		"lists":    {w.home + "/lists", "Open conflicts"},
		"written":  {w.home + "/outbound", "Worth by venue.png"},
		"runs":     {w.home + "/runs", "Started by"},
		"run":      {w.home + "/runs/" + set.Run, "Rows checked"},
		"mail":     {w.address + "/mail", "today"},
		"import":   {w.address + "/import", "Drop a workbook"},
		"tallies":  {w.home + "/tallies", "Worth by venue"},
		"tidy":     {w.home + "/tidy", "Odd cells"},
		"forms":    {w.home + "/forms", "Request a loan"},
		"pages":    {w.home + "/pages", "Venue file"},
		"page":     {page[0].Address, "Worth on display"},
		"settings": {w.home + "/settings", "Working days"}, "people": {w.address + "/people", "Tokens and calendar"},
		"workspace": {w.address + "/workspace", "Send me a test email"}, "start": {w.home + "/start", "What should run by itself?"},
		"changes": {w.home + "/runs?show=changes", "in any tab"}, "as of": {w.home + "/runs?show=as-of", "as it was at"},
		"chart": {w.home + "/tallies/new", "Draw"}, "kind of page": {w.home + "/patterns/new", "Add table"}, "form": {w.home + "/forms/new/edit", "Missing"},
		"sign-in": {w.address + "/sign-in", "Sign in to Kavlo"},
	} {
		w.do(w.page.Size(1280, 800), w.page.Go(at[0]), w.page.Says(at[1]))
		if name == "import" {
			w.do(w.page.Choose("input[type=file]", sample(t, "awkward/kinds.xlsx")), w.page.Says("A1:L16"))
		}
		for _, mode := range looks {
			w.do(w.page.Size(mode.width, mode.height), w.page.Scheme(mode.scheme), w.page.Holds("matchMedia('(prefers-color-scheme: "+mode.scheme+")').matches && document.getAnimations().every(a => a.playState !== 'running' || a.effect.getTiming().iterations === Infinity)"))
			assert.Empty(t, w.violations(mode.rules), "%s, %s", name, mode.name)
			wide, err := browser.Eval[float64](w.page, "document.scrollingElement.scrollWidth - innerWidth")
			require.NoError(t, err)
			assert.LessOrEqual(t, wide, 1.0, "%s, %s: the page is wider than its window", name, mode.name)
			sticking, err := browser.Eval[[]string](w.page, stickingOut)
			require.NoError(t, err)
			assert.Empty(t, sticking, "%s, %s: something sticks out of the window", name, mode.name)
		}
	}
}

// looks are the ways in which a page is looked at: at 200 % a window of 1280 pixels holds 640.
// In the dark at full width colours are judged, and nothing else again.
var looks = []struct {
	name, scheme  string
	width, height int64
	rules         string
}{
	{"light", "light", 1280, 800, everyRule}, {"dark", "dark", 1280, 800, onColours},
	{"a telephone, light", "light", 390, 800, everyRule}, {"200 %, dark", "dark", 640, 400, everyRule},
}

// stickingOut names the controls and cells that reach beyond the window's right edge, but for those within
// a part of the page that can be scrolled sideways by itself.
const stickingOut = `[...document.querySelectorAll("input, textarea, button, a[href], .ant-select, th, td")].filter(e => {
	const r = e.getBoundingClientRect();
	if (r.width === 0 || r.right <= innerWidth + 1 || getComputedStyle(e).visibility === "hidden") return false;
	for (let p = e.parentElement; p && p.parentElement?.tagName !== "MAIN"; p = p.parentElement) {
		if (["auto", "scroll"].includes(getComputedStyle(p).overflowX) && p.scrollWidth > p.clientWidth) return false;
	}
	return true;
}).map(e => (e.ariaLabel || e.innerText || e.className).trim() + ", " + Math.round(e.getBoundingClientRect().right - innerWidth) + " px")`

const (
	everyRule = "{}"
	onColours = "{ runOnly: ['color-contrast'] }"
)

// violations gives where the page breaks the accessibility rules.
func (w *world) violations(rules string) []string {
	w.t.Helper()
	if loaded, err := browser.Eval[bool](w.page, "window.axe !== undefined"); err == nil && !loaded {
		axe, err := os.ReadFile("../console/node_modules/axe-core/axe.min.js")
		require.NoError(w.t, err)
		_, err = browser.Eval[bool](w.page, string(axe)+"; true")
		require.NoError(w.t, err)
	}
	_, err := browser.Eval[bool](w.page, "window.checked = undefined; axe.run(document, { resultTypes: ['violations'], ...("+rules+") }).then(r => { window.checked = r.violations.map(v => v.id + ': ' + v.help + ' ' + v.nodes.slice(0, 3).map(n => n.html).join(' ')); }); true")
	require.NoError(w.t, err)
	w.do(w.page.Holds("window.checked !== undefined"))
	violations, err := browser.Eval[[]string](w.page, "window.checked")
	require.NoError(w.t, err)
	return violations
}
