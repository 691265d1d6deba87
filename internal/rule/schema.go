package rule

import (
	"example.org/kavlo/internal/reminder"
)

import "example.org/kavlo/internal/setup/schema"

// SetupSchema gives the JSON Schema of a rule in a setup file.
func (*Rule) SetupSchema() schema.Object {
	cells := schema.MapOf(schema.Plain())
	place := func(more schema.Object) schema.Object {
		p := schema.Object{"to": schema.Plain(), "tracker": schema.Text("name of another tracker"), "create": schema.Object{"type": "string", "pattern": "^like .+"}, "columns": schema.MapOf(schema.Object{"type": "string"}), "set": cells}
		for k, v := range more {
			p[k] = v
		}
		return schema.Closed(p, "to")
	}
	step := schema.Closed(schema.Object{
		"name": schema.Text("what the step is called"), "remark": schema.Text("a remark"),
		"move":   place(schema.Object{"clear": schema.OneOrMore("columns to blank on the way"), "and back": schema.Truth("back again once an edit makes the condition fail")}),
		"copy":   place(schema.Object{"again": schema.Truth("copy even what was copied before")}),
		"set":    cells,
		"mail":   reminder.MailSchema(),
		"remove": schema.Truth("the row; undo brings it back"),
		"put":    schema.Closed(schema.Object{"tab": schema.Text("into which tab"), "key": schema.Text("column by which a row is found"), "values": cells}, "tab", "key", "values"),
		"take":   schema.Closed(schema.Object{"tab": schema.Text("into which tab"), "key": schema.Text("column by which a row is found"), "sheet": schema.Text("of the workbook; unless set, the table that fits the tab best"), "gone": schema.Object{"anyOf": []any{schema.Object{"enum": []any{"keep", "remove"}}, schema.Closed(schema.Object{"mark": schema.MapOf(schema.Plain())}, "mark")}}}, "tab", "key"),
		"tally": schema.Closed(schema.Object{"of": schema.Text("the tab whose rows are counted"), "list": schema.Text("or the list whose records are"), "fields": schema.Object{"type": "object", "description": "of a list: names for clauses, with JSON Pointers"}, "where": schema.Text("a clause"), "by": schema.Text("a clause of the group"), "rows": schema.Object{"const": "matched"},
			"into": schema.Text("a tab"), "key": schema.Text("its column of groups"), "figures": schema.MapOf(schema.Text("count, or count distinct, sum, average, smallest or largest of a clause"))}, "by", "into", "key", "figures"),
		"write": schema.Closed(schema.Object{"tab": schema.Text("whose rows"), "rows": schema.Object{"const": "matched", "description": "only those that the rule matched"}, "reminder": schema.Text("or the reminder whose rows"), "keep": schema.Text("for how long the file stays, such as 30 days"), "where": schema.Text("a clause"), "order": schema.Text("columns, as in Due, Value descending"), "columns": schema.OneOrMore("columns; none: all"), "file": schema.Plain(), "totals": schema.Truth("a row of sums below"),
			"replace": schema.Truth("a file of that name"), "sheet": schema.Text("of a workbook that is there"), "at": schema.Text("the cell at which the rows begin"), "bare": schema.Truth("without the header"), "labels": schema.MapOf(schema.Plain()), "insert": schema.Truth("labels that the sheet does not hold are added"), "from": schema.Text("a workbook below templates/ of which a new one is made, its {holes} filled"), "over": schema.Truth("what stands in the place, and no rule wrote, is written over"), "empty": schema.Object{"enum": []any{"skip", "write"}}, "table": schema.Text("a defined table of the sheet; unless set, the longest there"), "key": schema.Text("column by which rows of the table there are brought into step"),
			"append": schema.Truth("rows are added to the table there"), "chart": schema.Closed(schema.Object{"title": schema.Text("title"), "names": schema.Text("a column"), "values": schema.Text("a column of numbers")}, "names", "values")}, "file"),
	})
	step["minProperties"] = 1
	return schema.Closed(schema.Object{
		"name": schema.Text("the rule's name"), "remark": schema.Text("a remark"),
		"wake": schema.Object{"anyOf": []any{schema.Object{"const": "hand"}, schema.Closed(schema.Object{"edit": schema.OneOrMore("columns, or any"), "new row": schema.Truth("a row is added"), "becomes true": schema.Text("a clause: whatever makes it true of a row, the day included"), "clock": schema.Text("a clock phrase"), "missed": schema.Object{"enum": []any{"run once", "skip"}}, "call": schema.Truth("a signed request from outside"), "file": schema.Text("a pattern of files of the intake, such as intake/**")})}},
		"in":   schema.OneOrMore("tabs; none: every tab that has the columns"), "where": schema.Object{"type": []any{"string", "boolean"}, "description": "a clause"},
		"paused": schema.Truth("not woken"), "watching only": schema.Truth("records what it would do, and changes nothing"), "limit": schema.Object{"type": "integer", "minimum": 0},
		"steps": schema.ListOf(step),
	}, "name", "steps")
}
