package reminder

import "example.org/kavlo/internal/setup/schema"

// SetupSchema gives the JSON Schema of a reminder in a setup file.
func (*Reminder) SetupSchema() schema.Object {
	return schema.Closed(schema.Object{"name": schema.Text("name"), "remark": schema.Text("a remark"), "in": schema.OneOrMore("tabs"), "where": schema.Text("a clause"), "show": shownSchema(), "order": schema.Text("a clause"), "to": schema.OneOrMore("who must be told: names, addresses, groups such as admins, a person column in braces, each COLUMN in TAB"), "totals": schema.Truth("a row of sums below"),
		"due": schema.Text("a clause: the day by which a row should have been dealt with"), "group": schema.Text("a clause: rows of one value stand together"), "copy": schema.OneOrMore("who is told for information"), "otherwise": schema.OneOrMore("who is told of rows that are nobody's"),
		"raise": schema.Closed(schema.Object{"after": schema.Text("such as 7 days or 5 workdays overdue"), "to": schema.OneOrMore("who is told then")}, "after", "to"), "repeat": schema.Text("every round, once, or every 3 days"),
		"act": schema.Object{"anyOf": []any{schema.Object{"enum": []any{false, "no"}}, schema.Closed(schema.Object{"done": schema.MapOf(schema.Plain()), "date": schema.Text("a date column that can be set from the mail")})}}}, "name", "in", "where", "to")
}

// shownSchema is what a mail shows of rows: columns, or titles with clauses.
func shownSchema() schema.Object {
	return schema.Object{"type": "array", "items": schema.Object{"anyOf": []any{schema.Object{"type": "string"}, schema.MapOf(schema.Object{"type": "string"})}}}
}

// SetupSchema gives the JSON Schema of a round in a setup file.
func (*Round) SetupSchema() schema.Object {
	return schema.Closed(schema.Object{"name": schema.Text("name"), "remark": schema.Text("a remark"), "clock": schema.Text("a clock phrase"), "reminders": schema.OneOrMore("reminders, or all, or all trackers"), "subject": schema.Text("the mail's subject"), "opening": schema.Text("what a mail says before its rows, with {count}, {new}, {name} and {round}"), "closing": schema.Text("and after them"), "attach": schema.OneOrMore("rules whose newest file goes with each mail"), "missed": schema.Object{"enum": []any{"run once", "skip"}}, "closed days": schema.Object{"enum": []any{"skip", "next working day"}}}, "name", "clock", "reminders")
}
