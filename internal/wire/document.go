package wire

import "encoding/json"

// Document is an object as JSON, whose keys keep their order: in a setup file, that of
// figures, fields and columns means something.
type Document = json.RawMessage

// DocumentOf gives an object as JSON; the order of its keys is that of their names.
func DocumentOf(fields map[string]any) Document {
	text, _ := json.Marshal(fields) // what JSON gave is JSON again
	return text
}

// Fields gives what a definition says, by key.
func (d *Definition) Fields() map[string]any {
	var out map[string]any
	_ = json.Unmarshal(d.Body, &out) // it came as JSON
	return out
}
