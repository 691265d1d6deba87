package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
)

// A rule: what starts it, a condition, a step with what it sets on the way, a limit, a remark;
// copied, put in another order, paused, deleted and brought back.
func TestARuleIsMadeByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.home + "/rules/new?from=empty"))
		w.told("Missing: a name")
		h.write("Name", "Close what is refused")
		h.choose("What starts it", "a row is added")
		h.choose("Columns whose edit starts it", "Stage")
		h.press("Add condition")
		h.choose("Column", "Object")
		h.choose("Comparison", "is not blank")
		h.press("Add step")
		h.choose("What step 1 does", "move the row")
		h.choose("To which tab", "Returned")
		h.choose("Columns to clear", "Remarks")
		h.write("Most rows that it may change", "200")
		h.write("Remark", "What is refused goes back")
		h.press("Dry run: only record what it would change")
		w.told("Matches")
		h.press("Save")
		w.told("Saved rule Close what is refused")
		got := w.fieldsOf("rules", "Close what is refused")
		assert.Equal(t, map[string]any{"edit": []any{"Loan no", "Stage"}, "new row": "yes"}, got["wake"])
		assert.Equal(t, "Object is not blank", got["where"])
		assert.Equal(t, []any{map[string]any{"move": map[string]any{"to": "Returned", "clear": []any{"Remarks"}}}}, got["steps"])
		assert.EqualValues(t, 200, got["limit"])
		assert.Equal(t, "yes", got["watching only"])
		assert.Equal(t, "What is refused goes back", got["remark"])

		h.press("Preview Close what is refused")
		w.told("What Close what is refused would change now")
		h.press("Cancel")
		h.press("Copy Close what is refused")
		w.told("not saved yet")
		h.press("Save")
		w.told("Saved rule Close what is refused, copy")
		require.NotNil(t, w.fieldsOf("rules", "Close what is refused, copy"))
		h.press("Close what is refused, copy")
		h.press("Delete rule")
		w.told("Deleted rule Close what is refused, copy")
		h.press("Undo")
		w.do(w.page.Holds(`document.querySelector("section.definition[aria-label='Close what is refused, copy']")`))
	})
}

// A reminder with its columns, order, due date and what Done sets; a round that sends it, at
// an hour that is picked, skipping closed days.
func TestARoundIsMadeByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.home + "/reminders/reminder/new?from=empty"))
		w.told("Missing: a name")
		h.write("Name", "Reports that wait")
		h.choose("Tabs", "Agreed")
		h.press("Add condition")
		h.choose("Column", "Due")
		h.choose("Comparison", "is before")
		h.choose("Value of Due", "today")
		h.choose("Recipients", "the Registrar of the row")
		h.choose("Add to columns in the email", "Lender")
		h.choose("Add to columns in the email", "Value")
		h.choose("Due on", "Due")
		w.told("Matches")
		h.press("Save")
		w.told("Saved reminder Reports that wait")
		got := w.fieldsOf("reminders", "Reports that wait")
		assert.Equal(t, []any{"Loan no", "Object", "Lender", "Value"}, got["show"])
		assert.Equal(t, "{Registrar}", got["to"])

		w.do(w.page.Go(w.home + "/reminders/round/new?from=empty"))
		w.told("Missing: a name")
		h.write("Name", "Friday round")
		h.choose("How often", "Every week")
		h.choose("Day of the week", "Friday")
		h.write("At what time", "16:00")
		h.choose("Reminders", "Reports that wait")
		h.choose("On closed days", "skipped")
		w.told("Runs next")
		h.press("Save")
		w.told("Saved round Friday round")
		round := w.fieldsOf("rounds", "Friday round")
		assert.Equal(t, "fridays at 16:00", round["clock"])
		assert.Equal(t, "skip", round["closed days"])
	})
}

// People, secrets, addresses and the tracker's settings.
func TestSettingsAreMadeByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.address + "/people"))
		h.write("Name", "Orla Teal")
		h.write("Email address", "orla.teal@example.org")
		h.choose("Role", "Reader: sees rows")
		h.press("Add person")
		w.told("orla.teal@example.org")
		h.press("Sign-in link for Orla Teal")
		w.told("/sign-in#")
		h.press("Close")
		h.press("Tokens and calendar of Orla Teal")
		h.write("What the token is for", "Nightly export")
		h.press("New token")
		w.told("Nightly export")
		w.do(w.page.Go(w.address + "/workspace"))
		h.write("Address to allow", "10.1.2.3")
		h.press("Allow address")
		w.do(w.page.Holds(`document.querySelector("[aria-label='Remove address 10.1.2.3']")`))
		h.write("Name of the secret", "SECOND_REGISTER")
		h.write("Secret", "harbour-light")
		h.press("Save secret")
		w.do(w.page.Holds(`document.querySelector("[aria-label='Delete secret SECOND_REGISTER']")`))
		h.press("Delete secret SECOND_REGISTER")
		h.press("Delete secret")
		w.do(w.page.Holds(`!document.querySelector("[aria-label='Delete secret SECOND_REGISTER']")`))
		w.mailSet(h)
		h.press("Send me a test email")
		w.told("Sent a test email to ines.valadar@example.org.")

		w.do(w.page.Go(w.home + "/settings"))
		h.choose("Time zone", "UTC")
		h.choose("Dates are shown as", "31.03.2026")
		h.choose("Numbers are shown as", "1.234,5")
		h.press("Save")
		w.told("Saved dates, numbers and working days")
		h.write("Name of the new tab", "Refused")
		h.choose("With the columns of", "Requested")
		h.press("Add tab")
		w.told("Added tab Refused")
		h.press("Move tab Refused up")
		w.told("Moved tab Refused")
		h.write("Name of tab Refused", "Declined")
		h.press("Rename tab Refused")
		w.told("Renamed tab to Declined")
		h.press("Delete tab Declined")
		h.press("Delete tab")
		w.told("Deleted tab Declined")
		tr, err := w.api.Tracker(t.Context(), demo.Tracker)
		require.NoError(t, err)
		assert.Equal(t, "UTC", tr.Zone)
		assert.Equal(t, "31.03.2026", tr.Dates)
		assert.Equal(t, "1.234,5", tr.Numbers)
		assert.Len(t, tr.Tabs, len(w.tabs))
	})
}

// A list with its paging, and a sync whose fields are paired.
func TestASyncIsMadeByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		w.allow(h)
		w.lookAt(h, "Second register")
		from := w.fieldsOf("lists", "Second register")["from"].(map[string]any)
		assert.Equal(t, "/records", from["items"])
		assert.Equal(t, "link", from["next"])
		w.syncBothWays(h, "Second", "Second register")
		assert.Equal(t, "both", w.fieldsOf("syncs", "Second")["direction"])
	})
}

// A chart, a form and a kind of page.
func TestChartsFormsAndPagesAreMadeByEitherHand(t *testing.T) {
	both(t, func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.home + "/tallies/new"))
		h.write("Name", "Where they stand")
		h.choose("Tabs", "Agreed")
		h.choose("Group by", "Lender")
		h.choose("Drawn as", "a line chart")
		h.press("Save")
		w.told("Saved chart Where they stand")
		assert.Equal(t, "line", w.fieldsOf("tallies", "Where they stand")["draw"])

		w.do(w.page.Go(w.home + "/forms/new/edit"))
		h.write("Name", "Ask for an object")
		h.choose("Tab", "Requested")
		h.choose("Field 1", "Due")
		h.press("Save")
		w.told("Saved form Ask for an object")

		w.do(w.page.Go(w.home + "/patterns/new"))
		h.write("Name", "Loan sheet")
		h.choose("Tabs", "Agreed")
		h.write("Title", "Loan {[Loan no]}")
		h.choose("Add to columns of the row", "Value")
		h.press("Save")
		w.told("Saved kind of page Loan sheet")
		assert.Equal(t, "Loan {[Loan no]}", w.fieldsOf("dossiers", "Loan sheet")["title"])
	})
}

// How dates are shown is changed in the settings, and the grid follows; it is undone there.
func TestDatesAreShownAsTheSettingsSay(t *testing.T) {
	w := newWorld(t)
	w.open("Requested")
	due := w.read(0, 4)
	require.Regexp(t, `^\d{4}-\d\d-\d\d$`, due)
	w.do(w.page.Go(w.home+"/settings"), w.page.Says("Working days"))
	w.choose("Dates are shown as", "31.03.2026")
	w.do(w.page.Press("Save"), w.page.Says("Saved dates, numbers and working days"))
	w.open("Requested")
	shown := due[8:] + "." + due[5:7] + "." + due[:4]
	w.do(w.page.Holds(text(0, 4) + " === " + quote(shown)))
}
