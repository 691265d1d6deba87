package setup

import (
	"encoding/json"

	"example.org/kavlo/internal/setup/schema"
	"example.org/kavlo/internal/value"
)

// Schema gives the JSON Schema (2020-12) of the setup file, for editors that
// complete and check as one types. What only the tracker can tell, such as
// whether a column is there, it leaves to "setup check".
func (f *Format) Schema() ([]byte, error) {
	kinds := []any{"computed"}
	for k := value.Text; k < value.Odd; k++ {
		kinds = append(kinds, k.String())
	}
	colours := make([]any, len(Colours))
	for i, c := range Colours {
		colours[i] = c
	}
	column := schema.Closed(schema.Object{
		"type": schema.Object{"enum": kinds}, "clause": schema.Text("what a computed column is computed from"),
		"options": schema.Object{"description": "the choices, as names or as names with colours", "anyOf": []any{
			schema.ListOf(schema.Object{"anyOf": []any{schema.Object{"type": "string"}, schema.MapOf(schema.Object{"enum": append([]any{"", nil}, colours...)})}}), schema.MapOf(schema.Object{"enum": append([]any{"", nil}, colours...)})}},
		"several": schema.Truth("more than one option may be chosen"), "required": schema.Truth("may not be blank"), "unique": schema.Truth("no two rows of the tab alike"),
		"automatic number": schema.Truth("new rows get the next whole number"), "default": schema.Plain(), "minimum": schema.Plain(), "maximum": schema.Plain(),
		"longest text": schema.Object{"type": "integer", "minimum": 0}, "format": schema.Text("plain, percent, rating or a currency code (ISO 4217)"),
		"bad input": schema.Object{"enum": []any{"mark", "refuse"}},
	}, "type")
	whole := schema.Object{
		"tracker": schema.Text("the tracker's name"), "zone": schema.Text("IANA time zone"), "dates": schema.Text("how mails write the last of March 2026, such as 31.03.2026"), "numbers": schema.Text("how mails write 1234.5, such as 1.234,5"),
		"working days": schema.Closed(schema.Object{"week": schema.Text("such as mon-fri"), "closed": schema.ListOf(schema.Plain())}),
		"access":       accessSchema(),
		"tabs":         schema.MapOf(schema.Closed(schema.Object{"label": schema.Text("column that names a row"), "columns": schema.MapOf(column)})),
	}
	for _, k := range f.kinds {
		whole[k.Plural] = schema.ListOf(k.New().(Definition).SetupSchema())
	}
	out := schema.Closed(whole, "tracker")
	out["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	out["title"] = "Kavlo setup file"
	return json.MarshalIndent(out, "", "  ")
}
