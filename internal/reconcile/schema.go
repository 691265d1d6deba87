package reconcile

import "example.org/kavlo/internal/setup/schema"

// SetupSchema gives the JSON Schema of a list in a setup file.
func (*List) SetupSchema() schema.Object {
	return schema.Closed(schema.Object{
		"name": schema.Text("name"), "remark": schema.Text("a remark"),
		"from": schema.Closed(schema.Object{
			"http": schema.Text("address of JSON records"), "file": schema.Text("address, or path in the workspace's folder, of a CSV, JSON or XLSX file"), "tasks": schema.Text("address of a CalDAV collection"),
			"postgres": schema.Text("connection string"), "sqlite": schema.Text("path in the workspace's folder"), "items": schema.Text("JSON Pointer to the records"), "table": schema.Text("of a database"), "query": schema.Text("of a database"),
			"sheet": schema.Text("of a workbook"), "id": schema.Text("where a record holds the list's own id"), "version": schema.Text("where a record holds what a write must match"), "changed": schema.Text("where a record says when it was changed"),
			"next":  schema.Object{"anyOf": []any{schema.Object{"const": "link"}, schema.Closed(schema.Object{"cursor": schema.Text("JSON Pointer to the next page's cursor"), "as": schema.Text("query parameter")}, "cursor", "as"), schema.Closed(schema.Object{"page": schema.Text("query parameter of the page's number")}, "page")}},
			"token": schema.Text("${NAME}"), "account": schema.Closed(schema.Object{"name": schema.Text("name"), "password": schema.Text("${NAME}")}, "name"),
		}),
		"send": schema.Closed(schema.Object{"add": schema.Text("such as POST ADDRESS"), "change": schema.Text("such as PATCH ADDRESS/{id}"), "remove": schema.Text("such as DELETE ADDRESS/{id}")}),
	}, "name", "from")
}

// SetupSchema gives the JSON Schema of a sync in a setup file.
func (*Sync) SetupSchema() schema.Object {
	pairs := schema.MapOf(schema.Object{"type": "string"})
	return schema.Closed(schema.Object{
		"name": schema.Text("name"), "remark": schema.Text("a remark"), "list": schema.Text("a list"), "tab": schema.Text("a tab"), "key": pairs, "fields": pairs,
		"direction": schema.Object{"enum": []any{"in", "out", "both"}}, "conflict": schema.Object{"enum": []any{"list", "tab", "newest", "hold"}},
		"gone":  schema.Object{"anyOf": []any{schema.Object{"enum": []any{"keep", "mark", "remove"}}, schema.Closed(schema.Object{"mark": schema.MapOf(schema.Plain())}, "mark"), schema.Closed(schema.Object{"move": schema.Text("a tab")}, "move")}},
		"guard": schema.Text("the share of either side that may change or go, such as 25%"), "clock": schema.Text("a clock phrase"), "missed": schema.Object{"enum": []any{"run once", "skip"}},
	}, "name", "list", "tab", "key")
}
