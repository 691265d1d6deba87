package clause

import (
	"fmt"
	"strings"
)

// Form is one form of the language, for the reference page. Its example is
// tried by a test, in the tab that the page begins with.
type Form struct {
	Group   string
	Written string // as the grammar has it
	Says    string
	Example string
	Yields  string
}

// Forms gives every form of the language, by group, functions included.
func Forms() []Form {
	out := []Form{
		{"Names", "Name", "a column, by its name; letter case and outer spaces do not matter", `Object`, "Tide clock"},
		{"Names", "[Name of several words]", "a name of more than one word, or one that is a word of the language", `[Condition report] is blank`, "yes"},
		{"Names", "tab", "the name of the row's tab", `tab`, "Crating"},
		{"Names", "this.Name", "after in TAB where: a column of the row at hand", `count in Countries where Country is this.Country`, "2"},
		{"Values", `"text"`, "text; {holes} in it hold clauses", `"{Object} of {Country}"`, "Tide clock of Averin"},
		{"Values", "12.5", "a number; arithmetic is decimal", `0.1 + 0.2`, "0.3"},
		{"Values", "2026-03-31, 2026-03-31T08:30", "a date, a date and time (ISO 8601)", `2026-03-31`, "2026-03-31"},
		{"Values", "yes, no", "a tick", `Packed is yes`, "yes"},
		{"Values", "blank", "nothing; white space alone is blank", `Object is not blank`, "yes"},
		{"Values", "today, now", "this day, this moment, in the tracker's zone", `today`, "2026-03-25"},
		{"Values", "15 days, 2 weeks, 3 months, 1 year, 4 hours, 10 workdays", "durations, added to and taken from dates", `today + 2 workdays`, "2026-03-27"},
		{"Comparing", "A is B, A is not B", "the same to a reader: text trimmed and without letter case", `Stage is "agreed"`, "yes"},
		{"Comparing", "A is exactly B", "the same to the letter", `Object is exactly "tide clock"`, "no"},
		{"Comparing", "A is one of (B, C)", "any of several", `Stage is one of ("Agreed", "Crating")`, "yes"},
		{"Comparing", "A is blank, A is not blank", "nothing stands there, or something", `[Condition report] is blank`, "yes"},
		{"Comparing", "A is odd", "it does not fit its column", `[Ends] is odd`, "yes"},
		{"Comparing", "<  <=  >  >=", "order; a comparison with a blank is no", `Value >= 5000`, "yes"},
		{"Comparing", "before, after, on or before, on or after", "order of dates", `Arrived before today - 15 days`, "yes"},
		{"Comparing", "A within DURATION", "from today on, or with hours from now on", `today + 3 days within 10 days`, "yes"},
		{"Comparing", "A between B and C", "both ends count", `Arrived between 2026-03-01 and 2026-03-31`, "yes"},
		{"Comparing", "contains, starts with, ends with", "parts of text", `Object contains "clock"`, "yes"},
		{"Comparing", `A matches "RE2"`, "a regular expression (RE2)", `Object matches "^Tide [a-z]+$"`, "yes"},
		{"Comparing", "Name changed", "the edit that woke the rule changed it", `Stage changed`, "yes"},
		{"Comparing", "Name was B, Name was not B", "what it was before that edit", `Stage was "Requested"`, "yes"},
		{"Joining", "A and B", "both", `Packed and Stage is "Agreed"`, "yes"},
		{"Joining", "A or B", "either; mixed with and it wants parentheses", `Packed or (Stage is blank and Value > 3)`, "yes"},
		{"Joining", "not A", "the opposite", `not (Stage is blank)`, "yes"},
		{"Joining", "if A then B else C", "one or the other", `if Value > 10000 then "High" else "Standard"`, "High"},
		{"Counting days", "days between A and B", "whole days", `days between Arrived and today`, "23"},
		{"Counting days", "workdays between A and B", "working days after A and up to B, closed days left out", `workdays between Arrived and today`, "17"},
		{"Other tabs", "running sum Name", "the sum of a column over the rows of the tab down to this one", `running sum Value`, "20000.5"},
		{"Other tabs", "count in TAB where A", "how many rows of a tab", `count in Countries where Fee > 3`, "2"},
		{"Other tabs", "count distinct Name in TAB where A", "how many different values", `count distinct Country in Countries`, "2"},
		{"Other tabs", "sum, average, smallest, largest Name in TAB where A", "over the rows of a tab", `sum Fee in Countries where Country is this.Country`, "8"},
		{"Other tabs", "first, last Name in TAB where A", "what the first or last row found holds", `first Code in Countries where Country is this.Country`, "0042"},
	}
	for _, name := range functionNames() {
		f := functions[name]
		out = append(out, Form{"Functions", name + "(" + f.usage() + ")", f.says, f.example, f.yields})
	}
	return out
}

// Reference gives the reference page of the language, in Markdown.
func Reference() string {
	var b strings.Builder
	b.WriteString("# Clauses\n\nGenerated from the tables that the checker uses; every example is run as a test. The examples look at a row of a tab\n" +
		"Crating on Wednesday 25 March 2026: Object is Tide clock, Stage is Agreed and was Requested, Arrived is 2026-03-02,\n" +
		"Condition report is blank, Value is 12500.5, Packed is ticked, Ends is TBC (odd), Country is Averin.\n\n" +
		"Where an outcome hangs on an odd cell it is neither yes nor no: the row is passed over, and the run names it.\n")
	group := ""
	for _, f := range Forms() {
		if f.Group != group {
			group = f.Group
			fmt.Fprintf(&b, "\n## %s\n\n| written | means | example | gives |\n| --- | --- | --- | --- |\n", group)
		}
		fmt.Fprintf(&b, "| `%s` | %s | `%s` | %s |\n", f.Written, f.Says, strings.ReplaceAll(f.Example, "|", "\\|"), f.Yields)
	}
	return b.String()
}
