package setup

import (
	"bytes"
	"encoding/json"
	"fmt"

	"go.yaml.in/yaml/v3"
)

// JSON writes a node as JSON, with keys in the order in which they stand.
func JSON(n *yaml.Node) (json.RawMessage, error) {
	var out bytes.Buffer
	if err := writeJSON(&out, n, 0); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// deepest is how deep a document may nest: one that stands in itself has no end.
const deepest = 100

func writeJSON(out *bytes.Buffer, n *yaml.Node, depth int) error {
	if depth++; depth > deepest {
		return fmt.Errorf("line %d: it nests deeper than %d", n.Line, deepest)
	}
	switch n.Kind {
	case yaml.AliasNode:
		return writeJSON(out, n.Alias, depth)
	case yaml.MappingNode:
		out.WriteByte('{')
		for i := 0; i+1 < len(n.Content); i += 2 {
			if i > 0 {
				out.WriteByte(',')
			}
			key, err := json.Marshal(n.Content[i].Value)
			if err != nil {
				return err
			}
			out.Write(key)
			out.WriteByte(':')
			if err := writeJSON(out, n.Content[i+1], depth); err != nil {
				return err
			}
		}
		out.WriteByte('}')
		return nil
	case yaml.SequenceNode:
		out.WriteByte('[')
		for i, item := range n.Content {
			if i > 0 {
				out.WriteByte(',')
			}
			if err := writeJSON(out, item, depth); err != nil {
				return err
			}
		}
		out.WriteByte(']')
		return nil
	}
	var v any
	if err := n.Decode(&v); err != nil {
		return fmt.Errorf("writing %q: %w", n.Value, err)
	}
	text, err := json.Marshal(v)
	out.Write(text)
	return err
}
