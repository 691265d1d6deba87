package e2e

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/notify"
	"example.org/kavlo/internal/wire"
)

// choose takes an option of a list by the mouse.
func (w *world) choose(label, option string) {
	w.t.Helper()
	(&mouse{w}).choose(label, option)
}

// A rule is made of ready beginnings and controls, tried while one chooses, saved, and
// works; a mistake in a typed clause is said where it stands, and a half-built rule is kept.
func TestARuleIsMadeByItsSentence(t *testing.T) {
	w := newWorld(t)
	saved := func() []string {
		rules, err := w.api.Definitions(t.Context(), demo.Tracker, "rules")
		require.NoError(t, err)
		var names []string
		for _, r := range rules {
			names = append(names, r.Name)
		}
		return names
	}
	const canSave = "(b => b && !b.disabled)([...document.querySelectorAll('.definition-save button')].find(b => b.innerText === 'Save'))"
	w.do(w.page.Go(w.home+"/rules"), w.page.Says("Move loans to their stage"), w.page.Press("New rule"), w.page.Says("How do you want to begin?"))
	w.do(w.page.Holds(`(b => b && (b.click(), true))([...document.querySelectorAll(".beginning")].find(b => b.innerText.includes("Start empty")))`))
	w.do(w.page.Says("Missing: a name, a step."), w.page.Holds("!("+canSave+")"))
	w.fill(`document.querySelector("input[aria-label=Name]")`, "Hold the dear")
	w.do(w.page.Press("Add condition"))
	w.choose("Column", "Value")
	w.choose("Comparison", "is at least")
	w.fill(`document.querySelector("input[aria-label='Value of Value']")`, "1")
	w.do(w.page.Press("Add step"))
	w.choose("What step 1 does", "set cells")
	w.do(w.page.Press("Set another cell"))
	w.choose("Column to set", "Flag")
	w.fill(`document.querySelector("input[aria-label='What Flag is set to']")`, "Hold")
	w.do(w.page.Says("rows now"), w.page.Says("set Flag to Hold"), w.page.Holds(canSave))
	w.do(w.page.Go(w.home+"/rules/new?from=empty"), w.page.Says("set Flag to Hold")) // a half-built rule is kept
	w.do(w.page.Press("Preview the changes"), w.page.Says("Preview only. No changes made."), w.page.Click(".ant-modal-close"))
	w.do(w.page.Press("Type as a clause"), w.page.Holds("document.querySelector(\".cm-content[aria-label='Condition, as a clause']\")"))
	clause := func(text string) {
		_, err := browser.Eval[bool](w.page, fmt.Sprintf(`(document.querySelector(".cm-content").focus(), document.execCommand("selectAll"), document.execCommand("insertText", false, %s))`, quote(text)))
		require.NoError(t, err)
	}
	clause("Stge is blank")
	w.do(w.page.Says("did you mean Stage?"), w.page.Holds("document.querySelector('.cm-lintRange-error')?.textContent === 'Stge'"), w.page.Press("Use Stage"), w.page.Says("Stage is blank"))
	clause("Value >= 1 and Flag is blank")
	w.do(w.page.Says("Value >= 1 and Flag is blank"), w.page.Press("Choose instead"), w.page.Holds("document.querySelectorAll('.condition-part').length === 2"))
	w.do(w.page.Press("Save"), w.page.Says("Saved rule Hold the dear"))
	assert.Contains(t, saved(), "Hold the dear")
	const listed = `[...document.querySelectorAll(".definition strong")].some(e => e.innerText === "Hold the dear")`
	w.do(w.page.Holds(listed), w.page.Holds(`(b => b && (b.click(), true))([...document.querySelectorAll(".ant-notification button")].find(b => b.innerText === "Undo"))`), w.page.Holds("!"+listed))
	assert.NotContains(t, saved(), "Hold the dear")
}

// Two people at one rule: the second sees the first one's before theirs takes its place, also
// when the page has long heard of it.
func TestTwoPeopleEditOneRule(t *testing.T) {
	w := newWorld(t)
	const name = "List what is fragile"
	rule := func() map[string]any {
		rules, err := w.api.Definitions(t.Context(), demo.Tracker, "rules")
		require.NoError(t, err)
		for _, r := range rules {
			if r.Name == name {
				return r.Fields()
			}
		}
		require.Fail(t, "the rule is gone")
		return nil
	}
	theirs := func(where string) {
		body := rule()
		body["where"] = where
		_, err := w.api.PutDefinition(t.Context(), client.How{}, demo.Tracker, "rules", wire.DocumentOf(body))
		require.NoError(t, err)
	}
	w.do(w.page.Go(w.home+"/rules"), w.page.Press(name), w.page.Says("Delete rule"))
	theirs("Fragility >= 3")
	w.do(w.page.Says("Fragility >= 3")) // nothing has been changed here: theirs is shown
	w.fill(`document.querySelector("input[aria-label=Remark]")`, "Mine")
	theirs("Fragility >= 4")
	w.do(w.page.Says("Someone else has changed this rule since you began."))
	w.do(w.page.Press("Save"), w.page.Says("Someone else changed this rule"), w.page.Says("Fragility >= 4"), w.page.Press("Save mine"), w.page.Says("Saved rule "+name))
	assert.Equal(t, "Mine", rule()["remark"])
	assert.Equal(t, "Fragility >= 3", rule()["where"])
}

func TestARoundArrivesAsMailThatCanBeRead(t *testing.T) {
	w := newWorld(t)
	w.do(w.page.Go(w.home+"/reminders"), w.page.Says("Send now"), w.page.Press("Send now"), w.page.Says("joren.aske@example.org: "), w.page.Holds(`(b => b && !b.disabled && (b.click(), true))([...document.querySelectorAll(".ant-modal button")].find(b => b.innerText.startsWith("Send ")))`), w.page.Says("as the stand-in post office took it in"), w.page.Says("today"))
	w.do(w.page.Holds("document.querySelectorAll('.mail-item').length === new Set([...document.querySelectorAll('.mail-item')].map(m => m.children[1].innerText)).size && document.querySelectorAll('.mail-item').length >= 4"))
	const open = "[...document.querySelectorAll('.mail-item')].find(m => m.innerText.includes(%q)).click() === undefined"
	w.do(w.page.Holds(fmt.Sprintf(open, "joren.aske@")), w.page.Press("Plain text"), w.page.Says("longest overdue first"), w.page.Says(notify.NoLink), w.page.Holds("!document.body.innerText.includes('Source')"))
	// in one's own alone stand the links, and how it came
	w.do(w.page.Holds(fmt.Sprintf(open, "ines.valadar@")), w.page.Press("Source"), w.page.Says("multipart/alternative"))
	w.do(w.page.Press("Plain text"), w.page.Says("/act/"), w.page.Holds("!document.body.innerText.includes('"+notify.NoLink+"')"))
}

// fill puts a text into a field, as somebody who types would.
func (w *world) fill(selector, text string) {
	w.t.Helper()
	w.do(w.page.Holds(selector))
	_, err := browser.Eval[bool](w.page, fmt.Sprintf(`(() => { const e = %s; Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(e, %s); e.dispatchEvent(new Event("input", { bubbles: true })); return true; })()`, selector, quote(text)))
	require.NoError(w.t, err)
}
