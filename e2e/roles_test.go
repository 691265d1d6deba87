package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

// buttons gives what can be pressed on the page at the right, as a JavaScript expression.
const buttons = "[...document.querySelectorAll('#page button, #page a.ant-btn')].map(b => b.innerText.trim()).filter(Boolean)"

func TestAReaderIsOfferedNothingThatWouldBeRefused(t *testing.T) {
	w := newWorld(t)
	p, err := w.api.PutPerson(t.Context(), wire.NewPerson{Name: "Orla Reader", Address: "orla@example.org", Access: "reader"})
	require.NoError(t, err)
	link, err := w.api.NewLink(t.Context(), p.Address)
	require.NoError(t, err)
	w.do(w.page.Press("Sign out"), w.page.Says("Sign in to Kavlo"))
	w.do(w.page.Go(w.address+"/sign-in#"+link.Secret), w.page.Says("Orla Reader"), w.page.Says("Scheduled"))
	side, err := browser.Eval[string](w.page, "document.querySelector('nav.side').innerText")
	require.NoError(t, err)
	assert.NotContains(t, side, "Import")
	w.open("Requested")
	w.do(w.page.Says("You may read this tab, and not change it."))
	offered, err := browser.Eval[[]string](w.page, buttons)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"Filter", "View", "Export", "Changes", "Details"}, offered)
	before := w.read(1, 2)
	w.do(w.page.Click(cellAt(1, 2)), w.page.Keys("x"), w.page.Keys(kb.Enter), w.page.Keys(kb.Delete))
	w.do(w.page.Holds("document.querySelector('.grid input, .grid textarea') === null"))
	assert.Equal(t, before, w.read(1, 2))
	for page, says := range map[string]string{"reminders": "which rows somebody is told of", "lists": "records kept elsewhere"} {
		w.do(w.page.Go(w.home+"/"+page), w.page.Says(says), w.page.Holds("document.querySelectorAll('#page .section h2').length > 1"))
		offered, err := browser.Eval[[]string](w.page, buttons)
		require.NoError(t, err)
		assert.Empty(t, offered, page)
	}
	w.do(w.page.Go(w.address+"/import"), w.page.Says("ask an admin"))
	journal, err := w.api.Journal(t.Context(), demo.Tracker, client.JournalOf{}, 1)
	require.NoError(t, err)
	require.NotEmpty(t, journal)
	assert.NotContains(t, journal[0].Who, "Orla", "nothing was changed")
}
