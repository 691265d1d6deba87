package setup

import (
	"bytes"
	"fmt"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"go.yaml.in/yaml/v3"
)

// ParseColumn reads one column's definition, written as the setup file writes
// it, in YAML or JSON. The column has no id yet; its clause is as written.
func ParseColumn(name string, text []byte) (*sheet.Column, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, fmt.Errorf("reading the column: %w", err)
	}
	if len(doc.Content) == 0 {
		return nil, fmt.Errorf("the column's definition is empty")
	}
	if bytes.HasPrefix(bytes.TrimSpace(text), []byte{'{'}) {
		forgetLines(&doc)
	}
	c, err := readColumn(name, At{node: doc.Content[0], path: name})
	if err != nil {
		return nil, err
	}
	return &c, nil
}

// EncodeColumn gives a column's definition as the setup file writes it, as
// plain maps and lists.
func EncodeColumn(shape *sheet.Shape, tab *sheet.TabShape, c *sheet.Column) (map[string]any, error) {
	bound, err := program.Bind(shape)
	if err != nil {
		return nil, err
	}
	out := map[string]any{}
	if err := (&Writer{Shape: shape, bound: bound}).column(tab, c).Decode(&out); err != nil {
		return nil, fmt.Errorf("writing column %s: %w", c.Name, err)
	}
	if len(c.Type.Options) > 0 { // a list: maps have no order, and choices do
		options := make([]any, len(c.Type.Options))
		for i, o := range c.Type.Options {
			options[i] = map[string]any{o.Name: o.Colour}
		}
		out["options"] = options
	}
	return out, nil
}

// Namesake gives the id of a column of another tab that has the name and the
// type of c, which makes them one column; 0 if there is none.
func Namesake(shape *sheet.Shape, c *sheet.Column) sheet.ColumnID {
	for i := range shape.Tabs {
		if x, err := shape.Tabs[i].Column(c.Name); err == nil && sameColumn(x, c) {
			return x.ID
		}
	}
	return 0
}

// Apart reports whether a column has a namesake of its type that is another column.
func Apart(shape *sheet.Shape, c *sheet.Column) bool {
	if c.Computed() {
		return false
	}
	for i := range shape.Tabs {
		if x, err := shape.Tabs[i].Column(c.Name); err == nil && x.ID != c.ID && sameColumn(x, c) {
			return true
		}
	}
	return false
}

func sameColumn(a, b *sheet.Column) bool {
	if a.Computed() || b.Computed() {
		return a.Computed() && b.Computed()
	}
	return a.Type.Kind == b.Type.Kind && a.Type.Several == b.Type.Several
}
