package setup

import (
	"encoding/json"

	"example.org/kavlo/internal/value"
)

// object is a JSON object being written.
type object = map[string]any

func text(says string) object { return object{"type": "string", "description": says} }

func truth(says string) object {
	return object{"description": says, "anyOf": []any{object{"type": "boolean"}, object{"enum": []any{"yes", "no"}}}}
}

func oneOrMore(says string) object {
	return object{"description": says, "anyOf": []any{object{"type": "string"}, object{"type": "array", "items": object{"type": "string"}}}}
}

// closed is an object with just these keys.
func closed(properties object, required ...string) object {
	out := object{"type": "object", "properties": properties, "additionalProperties": false}
	if len(required) > 0 {
		out["required"] = required
	}
	return out
}

func mapOf(v object) object { return object{"type": "object", "additionalProperties": v} }

func listOf(v object) object { return object{"type": "array", "items": v} }

// scalars are what a cell or attribute may be written as.
var plainValue = object{"type": []any{"string", "number", "boolean"}}

// Schema gives the JSON Schema (2020-12) of the setup file, for editors that
// complete and check as one types. What only the tracker can tell, such as
// whether a column is there, it leaves to "setup check".
func Schema() ([]byte, error) {
	kinds := []any{"computed"}
	for k := value.Text; k < value.Odd; k++ {
		kinds = append(kinds, k.String())
	}
	colours := make([]any, len(Colours))
	for i, c := range Colours {
		colours[i] = c
	}
	column := closed(object{
		"type": object{"enum": kinds}, "clause": text("what a computed column is computed from"),
		"options": object{"description": "the choices, as names or as names with colours", "anyOf": []any{
			listOf(object{"anyOf": []any{object{"type": "string"}, mapOf(object{"enum": append([]any{"", nil}, colours...)})}}), mapOf(object{"enum": append([]any{"", nil}, colours...)})}},
		"several": truth("more than one option may be chosen"), "required": truth("may not be blank"), "unique": truth("no two rows of the tab alike"),
		"automatic number": truth("new rows get the next whole number"), "default": plainValue, "minimum": plainValue, "maximum": plainValue,
		"longest text": object{"type": "integer", "minimum": 0}, "format": text("plain, percent, rating or a currency code (ISO 4217)"),
		"bad input": object{"enum": []any{"mark", "refuse"}},
	}, "type")
	cells := mapOf(plainValue)
	place := func(more object) object {
		p := object{"to": plainValue, "tracker": text("name of another tracker"), "create": object{"type": "string", "pattern": "^like .+"}, "columns": mapOf(object{"type": "string"}), "set": cells}
		for k, v := range more {
			p[k] = v
		}
		return closed(p, "to")
	}
	step := closed(object{
		"name": text("what the step is called"), "remark": text("a remark"),
		"move": place(object{"clear": oneOrMore("columns to blank on the way")}),
		"copy": place(object{"again": truth("copy even what was copied before")}),
		"set":  cells,
		"put":  closed(object{"tab": text("into which tab"), "key": text("column by which a row is found"), "values": cells}, "tab", "key", "values"),
		"take": closed(object{"tab": text("into which tab"), "key": text("column by which a row is found"), "sheet": text("of the workbook; unless set, the table that fits the tab best")}, "tab", "key"),
		"tally": closed(object{"of": text("the tab whose rows are counted"), "list": text("or the list whose records are"), "fields": object{"type": "object", "description": "of a list: names for clauses, with JSON Pointers"}, "where": text("a clause"), "by": text("a clause of the group"),
			"into": text("a tab"), "key": text("its column of groups"), "figures": mapOf(text("count, or count distinct, sum, average, smallest or largest of a clause"))}, "by", "into", "key", "figures"),
		"write": closed(object{"tab": text("whose rows"), "reminder": text("or the reminder whose rows"), "keep": text("for how long the file stays, such as 30 days"), "where": text("a clause"), "columns": oneOrMore("columns; none: all"), "file": plainValue, "totals": truth("a row of sums below"),
			"replace": truth("a file of that name"), "sheet": text("of a workbook that is there"), "at": text("the cell at which the rows begin"), "bare": truth("without the header"), "table": text("a defined table of the sheet; unless set, the longest there"), "key": text("column by which rows of the table there are brought into step"),
			"append": truth("rows are added to the table there"), "chart": closed(object{"title": text("title"), "names": text("a column"), "values": text("a column of numbers")}, "names", "values")}, "file"),
	})
	step["minProperties"] = 1
	rule := closed(object{
		"name": text("the rule's name"), "remark": text("a remark"),
		"wake": object{"anyOf": []any{object{"const": "hand"}, closed(object{"edit": oneOrMore("columns, or any"), "new row": truth("a row is added"), "clock": text("a clock phrase"), "missed": object{"enum": []any{"run once", "skip"}}, "call": truth("a signed request from outside"), "file": text("a pattern of files of the intake, such as intake/**")})}},
		"in":   oneOrMore("tabs; none: every tab that has the columns"), "where": object{"type": []any{"string", "boolean"}, "description": "a clause"},
		"paused": truth("not woken"), "watching only": truth("records what it would do, and changes nothing"), "limit": object{"type": "integer", "minimum": 0},
		"steps": listOf(step),
	}, "name", "steps")
	remindersShow := object{"type": "array", "items": object{"anyOf": []any{object{"type": "string"}, mapOf(object{"type": "string"})}}}
	schema := closed(object{
		"tracker": text("the tracker's name"), "zone": text("IANA time zone"), "dates": text("how mails write the last of March 2026, such as 31.03.2026"),
		"working days": closed(object{"week": text("such as mon-fri"), "closed": listOf(plainValue)}),
		"tabs":         mapOf(closed(object{"label": text("column that names a row"), "columns": mapOf(column)})),
		"rules":        listOf(rule),
		"lists":        listOf(listSchema()),
		"syncs":        listOf(syncSchema()),
		"reminders": listOf(closed(object{"name": text("name"), "remark": text("a remark"), "in": oneOrMore("tabs"), "where": text("a clause"), "show": remindersShow, "order": text("a clause"), "to": text("who must be told"),
			"due": text("a clause: the day by which a row should have been dealt with"), "group": text("a clause: rows of one value stand together"), "copy": text("who is told for information"), "otherwise": text("who is told of rows that are nobody's"),
			"raise": closed(object{"after": text("such as 7 days or 5 workdays overdue"), "to": text("who is told then")}, "after", "to"), "repeat": text("every round, once, or every 3 days"),
			"act": object{"anyOf": []any{object{"enum": []any{false, "no"}}, closed(object{"done": mapOf(plainValue), "date": text("a date column that can be set from the mail")})}}}, "name", "in", "where", "to")),
		"rounds": listOf(closed(object{"name": text("name"), "remark": text("a remark"), "clock": text("a clock phrase"), "reminders": oneOrMore("reminders, or all, or all trackers"), "subject": text("the mail's subject"), "opening": text("what a mail says before its rows, with {count}, {new}, {name} and {round}"), "closing": text("and after them"), "attach": oneOrMore("rules whose newest file goes with each mail"), "missed": object{"enum": []any{"run once", "skip"}}, "closed days": object{"enum": []any{"skip", "next working day"}}}, "name", "clock", "reminders", "subject")),
	}, "tracker")
	schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	schema["title"] = "Kavlo setup file"
	return json.MarshalIndent(schema, "", "  ")
}

func listSchema() object {
	return closed(object{
		"name": text("name"), "remark": text("a remark"),
		"from": closed(object{
			"http": text("address of JSON records"), "file": text("address, or path in the workspace's folder, of a CSV, JSON or XLSX file"), "tasks": text("address of a CalDAV collection"),
			"postgres": text("connection string"), "sqlite": text("path in the workspace's folder"), "items": text("JSON Pointer to the records"), "table": text("of a database"), "query": text("of a database"),
			"sheet": text("of a workbook"), "id": text("where a record holds the list's own id"), "version": text("where a record holds what a write must match"), "changed": text("where a record says when it was changed"),
			"next":  object{"anyOf": []any{object{"const": "link"}, closed(object{"cursor": text("JSON Pointer to the next page's cursor"), "as": text("query parameter")}, "cursor", "as"), closed(object{"page": text("query parameter of the page's number")}, "page")}},
			"token": text("${NAME}"), "account": closed(object{"name": text("name"), "password": text("${NAME}")}, "name"),
		}),
		"send": closed(object{"add": text("such as POST ADDRESS"), "change": text("such as PATCH ADDRESS/{id}"), "remove": text("such as DELETE ADDRESS/{id}")}),
	}, "name", "from")
}

func syncSchema() object {
	pairs := mapOf(object{"type": "string"})
	return closed(object{
		"name": text("name"), "remark": text("a remark"), "list": text("a list"), "tab": text("a tab"), "key": pairs, "fields": pairs,
		"direction": object{"enum": []any{"in", "out", "both"}}, "conflict": object{"enum": []any{"list", "tab", "newest", "hold"}},
		"gone":  object{"anyOf": []any{object{"enum": []any{"keep", "mark", "remove"}}, closed(object{"mark": mapOf(plainValue)}, "mark"), closed(object{"move": text("a tab")}, "move")}},
		"guard": text("the share of either side that may change or go, such as 25%"), "clock": text("a clock phrase"), "missed": object{"enum": []any{"run once", "skip"}},
	}, "name", "list", "tab", "key")
}
