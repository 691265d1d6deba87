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
		{"Other tabs", "running sum Name", "the sum of a column over the rows of the tab down to this one, past odd cells", `running sum Value`, "20000.5"},
		{"Other tabs", "count in TAB where A", "how many rows of a tab", `count in Countries where Fee > 3`, "2"},
		{"Other tabs", "count distinct Name in TAB where A", "how many different values", `count distinct Country in Countries`, "2"},
		{"Other tabs", "sum, average, smallest, largest Name in TAB where A", "over the rows of a tab", `sum Fee in Countries where Country is this.Country`, "8"},
		{"Other tabs", "first, last Name in TAB where A", "what the first or last row found holds; blank and odd cells are gone past", `first Code in Countries where Country is this.Country`, "0042"},
		{"Other tabs", "each Name in TAB where A", "what the rows hold, each once, joined by semicolons; for recipients", `each Code in Countries where Country is this.Country`, "0042; 0117"},
	}
	out = append(out, settled...)
	for _, name := range functionNames() {
		f := functions[name]
		out = append(out, Form{"Functions", name + "(" + f.usage() + ")", f.says, f.example, f.yields})
	}
	return out
}

// settled is what the forms leave open.
var settled = []Form{
	{"What else is settled", "blank beside is", "blank is blank, and is not anything else", `[Condition report] is not "signed"`, "yes"},
	{"What else is settled", "blank beside any other comparison", "is no, whichever side it stands on", `blank < Value`, "no"},
	{"What else is settled", "blank in arithmetic", "gives blank", `(Value + blank) is blank`, "yes"},
	{"What else is settled", "a box that nobody has touched", "is blank: it is not ticked, and is not no", `blank is no`, "no"},
	{"What else is settled", "* and /, then + and -, then comparisons, then not, then and, or", "what binds closer comes first", `not Packed and 1 + 2 * 3 is 7`, "no"},
	{"What else is settled", "quotients and products", "are rounded once, half to even, to 18 digits; sums of a tab's rows are exact", `5 / 120`, "0.0416666666666666667"},
	{"What else is settled", "a month from the end of a longer month", "is the last day of the shorter", `2026-01-31 + 1 month`, "2026-02-28"},
	{"What else is settled", "days between times", "counts midnights, not hours", `days between 2026-03-01T23:00 and 2026-03-02T01:00`, "1"},
	{"What else is settled", "a date beside a date and time", "stands for its whole day, in is, before, after and all others", `now is today`, "yes"},
	{"What else is settled", "within hours or minutes", "begins now; within days, weeks, months and years begins today", `2026-03-25T08:00 within 3 hours`, "no"},
	{"What else is settled", "a choice of several", "is a text of all, joined by semicolons: ask what it contains", `"Fragile; Heavy" contains "Heavy"`, "yes"},
	{"What else is settled", "letter case in matches", "does not matter; (?-i) in front makes it count", `Object matches "(?-i)tide"`, "no"},
	{"What else is settled", "this. in a look within a look", "is the row at hand all the same", `count in Countries where Country is this.Country and (count in Countries where Country is this.Country) > 1`, "2"},
	{"What else is settled", "accents and spaces", "the same accent is the same however it is made, and so is any space between words", "\"Cafe\u0301\" is \"caf\u00e9\"", "yes"},
}

// Reference gives the reference page of the language, in Markdown.
func Reference() string {
	var b strings.Builder
	b.WriteString("# Clauses\n\nGenerated from the tables that the checker uses; every example is run as a test. The examples look at a row of a tab\n" +
		"Crating on Wednesday 25 March 2026: Object is Tide clock, Stage is Agreed and was Requested, Arrived is 2026-03-02,\n" +
		"Condition report is blank, Value is 12500.5, Packed is ticked, Ends is TBC (odd), Country is Averin.\n\n" +
		"Where an outcome hangs on an odd cell it is neither yes nor no: the row is skipped, and the run names it.\n")
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
