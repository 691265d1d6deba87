package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

// ruleBy begins a rule with a step, and saves it: it gives what is saved.
func (w *world) ruleBy(h hand, name, step string, fill func()) map[string]any {
	w.t.Helper()
	w.do(w.page.Go(w.home + "/rules/new?from=empty"))
	w.told("Missing: a name")
	h.write("Name", name)
	if step != "" {
		h.press("Add step")
		h.choose("What step 1 does", step)
	}
	fill()
	h.press("Save")
	w.told("Saved rule " + name)
	return w.fieldsOf("rules", name)
}

// firstStep gives what the first step of a rule does.
func firstStep(rule map[string]any, kind string) any {
	return rule["steps"].([]any)[0].(map[string]any)[kind]
}

// What starts a rule, its conditions and the order of its steps.
func TestARulesStartConditionsAndStepsAreSetByEitherHand(t *testing.T) {
	each(t, "keyboard", func(t *testing.T, w *world, h hand) {
		rule := w.ruleBy(h, "Middle of the month", "set cells", func() {
			h.unchoose("What starts it", "a column is edited")
			h.choose("What starts it", "at a time")
			h.choose("How often", "Every month")
			h.write("Day of the month", "15")
			h.write("At what time", "07:30")
			h.unchoose("Tabs", "Requested")
			h.choose("Tabs", "Agreed")
			h.press("Add condition")
			h.press("Add condition")
			h.press("Add condition")
			h.press("Delete condition 3")
			h.choose("Column", "Value")
			h.choose("Comparison", "is at least")
			h.write("Value of Value", "1000")
			h.choose("Column #2", "Due")
			h.choose("Comparison #2", "is before")
			h.choose("Value of Due", "today")
			h.choose("and, or", "or")
			h.press("Set another cell")
			h.choose("Column to set", "Flag")
			h.write("What Flag is set to", "Hold")
			h.drop("What Flag is set to")
			h.press("Set another cell")
			h.choose("Column to set #2", "Remarks")
			h.press("Do not set Remarks")
			h.press("Add step")
			h.choose("What step 2 does", "send an email")
			h.choose("Recipients", "the Registrar of the row")
			h.choose("Recipients", "all editors")
			h.choose("Add to columns in the email", "Lender")
			h.write("Subject", "Held: {count} rows")
			h.press("Move step 2 up")
			h.press("Add step")
			h.press("Delete step 3")
		})
		assert.Equal(t, map[string]any{"clock": "monthly on day 15 at 07:30"}, rule["wake"])
		assert.Equal(t, "Agreed", rule["in"])
		assert.Equal(t, "Value >= 1000 or Due before today", rule["where"])
		assert.Equal(t, []any{
			map[string]any{"mail": map[string]any{"to": "{Registrar}; editors", "show": []any{"Loan no", "Object", "Lender"}, "subject": "Held: {count} rows"}},
			map[string]any{"set": map[string]any{"Flag": "Hold"}},
		}, rule["steps"])

		rule = w.ruleBy(h, "Once it is dear", "move the row", func() {
			h.unchoose("What starts it", "a column is edited")
			h.choose("What starts it", "a condition becomes true")
			h.press("Add condition #1")
			h.choose("Column", "Value")
			h.choose("Comparison", "is more than")
			h.write("Value of Value", "90000")
			h.choose("To which tab", "the tab that Stage names")
			h.press("Set another cell")
			h.choose("Column to set", "Remarks")
			h.write("What Remarks is set to", "Dear")
			h.drop("What Remarks is set to")
		})
		assert.Equal(t, map[string]any{"becomes true": "Value > 90000"}, rule["wake"])
		assert.Equal(t, map[string]any{"to": "{Stage}", "set": map[string]any{"Remarks": "Dear"}}, firstStep(rule, "move"))

		rule = w.ruleBy(h, "To and fro", "move the row", func() {
			h.press("Add condition")
			h.choose("Column", "Flag")
			h.choose("Comparison", "is")
			h.choose("Value of Flag", "Hold")
			h.choose("To which tab", "Watch list")
			h.press("Move it back when the condition no longer holds")
			w.told("there is no column \"Flag\" in Watch list")
			h.choose("To which tab", "Returned")
		})
		assert.Equal(t, `Flag is "Hold"`, rule["where"])
		assert.Equal(t, map[string]any{"to": "Returned", "and back": "yes"}, firstStep(rule, "move"))

		h.press("Once it is dear")
		h.press("History of changes")
		w.told("Ines Valadar, change set")
		h.press("As text")
		w.do(w.page.Holds(`document.querySelector("[aria-label='The rule as text']")?.value.includes("Value > 90000")`))
	})
}

// Steps that make other rows, and those about files, with all that can be said of them.
func TestEachStepIsSetByEitherHand(t *testing.T) {
	each(t, "mouse", func(t *testing.T, w *world, h hand) {
		_, err := w.api.NewTracker(t.Context(), client.How{}, "Archive", "UTC")
		require.NoError(t, err)
		_, err = w.api.AddTab(t.Context(), client.How{}, "Archive", wire.NewTab{Name: "Kept"})
		require.NoError(t, err)
		rule := w.ruleBy(h, "Keep a copy", "copy the row", func() {
			h.choose("Of which tracker", "Archive")
			h.choose("To which tab", "Kept")
			h.press("Copy again what was copied before")
		})
		assert.Equal(t, map[string]any{"tracker": "Archive", "to": "Kept", "again": "yes"}, firstStep(rule, "copy"))

		rule = w.ruleBy(h, "Know the lender", "add or update a row", func() {
			h.choose("In which tab", "Lenders")
			h.choose("Matched by", "Name")
			h.press("Set another cell")
			h.choose("Column to set", "Name")
			h.write("What Name is set to", "{Lender}")
			h.drop("What Name is set to")
		})
		assert.Equal(t, map[string]any{"tab": "Lenders", "key": "Name", "values": map[string]any{"Name": "{Lender}"}}, firstStep(rule, "put"))

		rule = w.ruleBy(h, "Clear what is refused", "delete the row", func() {
			h.press("Add condition")
			h.press("Type as a clause")
			w.do(w.page.Holds("document.querySelector('.cm-content')"))
			h.write("Condition, as a clause", `Flag is "Late"`)
			w.do(w.page.Keys(" "))
			h.press("Choose instead")
			w.do(w.page.Holds(`document.querySelector("[aria-label='Comparison']")`))
		})
		assert.Equal(t, `Flag is "Late"`, rule["where"])
		assert.Contains(t, rule["steps"].([]any)[0], "remove")

		rule = w.ruleBy(h, "Take in what comes", "import the file's rows", func() {
			h.unchoose("What starts it", "a column is edited")
			h.choose("What starts it", "a file arrives")
			h.write("Name of the file", "intake/lenders *.xlsx")
			h.choose("Into which tab", "Lenders")
			h.choose("Matched by", "Name")
			h.write("Sheet of the workbook", "Register")
			h.choose("Rows missing from the file", "are deleted")
		})
		assert.Equal(t, map[string]any{"file": "intake/lenders *.xlsx"}, rule["wake"])
		assert.Equal(t, map[string]any{"tab": "Lenders", "key": "Name", "sheet": "Register", "gone": "remove"}, firstStep(rule, "take"))

		rule = w.ruleBy(h, "Month end", "write a file", func() {
			h.choose("Tab", "Agreed")
			h.write("Name of the file", "outbound/month {today}.xlsx")
			h.choose("Add to columns of the file", "Object")
			h.choose("Add to columns of the file", "Value")
			h.write("Sorted by", "Value descending")
			h.write("Sheet", "Loans")
			h.write("First cell", "b3")
			h.write("How long the file is kept", "90 days")
			h.press("A row of totals")
			h.press("No file where there are no rows")
			h.choose("Chart of", "Value")
			h.choose("Chart by", "Object")
		})
		assert.Equal(t, map[string]any{
			"tab": "Agreed", "file": "outbound/month {today}.xlsx", "columns": []any{"Object", "Value"}, "order": "Value descending", "sheet": "Loans", "at": "B3",
			"keep": "90 days", "totals": "yes", "empty": "skip", "chart": map[string]any{"names": "Object", "values": "Value"},
		}, firstStep(rule, "write"))

		w.taken(h, "reminders", "New reminder", "Overdue rows of Agreed", "reminder Overdue in Agreed")
		rule = w.ruleBy(h, "What is late", "write a file", func() {
			h.write("Name of the file", "outbound/late.csv")
			h.choose("Rows of", "reminder")
			h.choose("Reminder", "Overdue in Agreed")
		})
		assert.Equal(t, map[string]any{"file": "outbound/late.csv", "reminder": "Overdue in Agreed"}, firstStep(rule, "write"))

		rule = w.ruleBy(h, "Lenders counted", "count into a tab", func() {
			h.choose("Rows of which tab", "Agreed")
			h.choose("Group by", "Lender")
			h.choose("Into which tab", "Cover by lender")
			h.choose("What figure 1 is", "sum of")
			h.choose("Of what figure 1 is", "Value")
			h.press("Only the rows that match")
		})
		step := firstStep(rule, "tally").(map[string]any)
		assert.Equal(t, "matched", step["rows"])
		assert.Equal(t, []any{"sum Value"}, values(step["figures"]))
	})
}

// values gives the values of a mapping.
func values(of any) (out []any) {
	for _, v := range of.(map[string]any) {
		out = append(out, v)
	}
	return out
}

// All that a reminder and a round can be told.
func TestEachPartOfAReminderAndARoundIsSetByEitherHand(t *testing.T) {
	each(t, "keyboard", func(t *testing.T, w *world, h hand) {
		w.do(w.page.Go(w.home + "/reminders/reminder/new?from=empty"))
		w.told("Missing: a name")
		h.write("Name", "Long in transit")
		h.unchoose("Tabs", "Requested")
		h.choose("Tabs", "Agreed")
		h.press("Add condition")
		h.choose("Column", "Due")
		h.choose("Comparison", "is before")
		h.choose("Value of Due", "today")
		h.choose("Recipients", "the Registrar of the row")
		h.choose("Sorted by", "Due")
		h.choose("Add to columns in the email", "Lender")
		h.lift("Lender", "Object", 1)
		h.choose("How often", "every 7 days")
		h.choose("Copies", "Ines Valadar")
		h.choose("When nobody is assigned", "all admins")
		h.write("Escalate after", "20 workdays")
		h.choose("Escalate to", "Ines Valadar")
		h.press("Set another cell")
		h.choose("Column to set", "Stage")
		h.write("What Stage is set to", "Returned")
		h.drop("What Stage is set to")
		w.told("Matches")
		h.press("Save")
		w.told("Saved reminder Long in transit")
		got := w.fieldsOf("reminders", "Long in transit")
		ines := "ines.valadar@example.org"
		assert.Equal(t, "Due", got["order"])
		assert.Equal(t, []any{"Loan no", "Lender", "Object"}, got["show"])
		assert.Equal(t, "every 7 days", got["repeat"])
		assert.Equal(t, ines, got["copy"])
		assert.Equal(t, "admins", got["otherwise"])
		assert.Equal(t, map[string]any{"after": "20 workdays", "to": ines}, got["raise"])
		assert.Equal(t, map[string]any{"done": map[string]any{"Stage": "Returned"}}, got["act"])

		w.taken(h, "tallies", "New chart", "Rows by Stage", "chart Rows by Stage")
		w.do(w.page.Go(w.home + "/reminders/round/new?from=empty"))
		w.told("Missing: a name")
		h.write("Name", "Two-hourly")
		h.choose("How often", "Every few hours")
		h.write("Hours between", "2")
		h.choose("Reminders", "Long in transit")
		h.choose("Attached", "Rows by Stage")
		h.write("subject", "{count} rows, {name}")
		h.write("opening", "Good morning")
		h.write("closing", "Thank you")
		h.choose("On closed days", "sent on the next working day")
		h.choose("After downtime", "skipped")
		w.told("Runs next")
		h.press("Save")
		w.told("Saved round Two-hourly")
		round := w.fieldsOf("rounds", "Two-hourly")
		assert.Equal(t, "every 2 hours", round["clock"])
		assert.Equal(t, []any{"Long in transit"}, round["reminders"])
		assert.Equal(t, []any{"Rows by Stage"}, round["attach"])
		assert.Equal(t, []any{"{count} rows, {name}", "Good morning", "Thank you"}, []any{round["subject"], round["opening"], round["closing"]})
		assert.Equal(t, []any{"next working day", "skip"}, []any{round["closed days"], round["missed"]})

		w.mailSet(h)
		h.press("Reminders")
		w.told("Two-hourly")
		h.press("Send test to me")
		w.told("Test email sent")
		h.press("Send now")
		w.told("joren.aske@example.org: ")
		send := `[...document.querySelectorAll(".ant-modal-footer button")].map(b => b.innerText).find(s => /^Send \d+ emails?/.test(s)) ?? ""`
		w.do(w.page.Holds(send))
		all := w.eval(send)
		assert.Equal(t, "Send 2 emails", all)
		h.press(all)
		require.Eventually(t, func() bool { return len(w.office.Messages()) == 1+2 }, browser.Wait, tick, "the test, and one for each")
	})
}
