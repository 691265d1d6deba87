// Package schema makes JSON Schemas (2020-12) of the things that setup files hold.
package schema

// Object is a JSON object being written.
type Object = map[string]any

// Text is a text; says tells what it means.
func Text(says string) Object { return Object{"type": "string", "description": says} }

// Truth is yes or no.
func Truth(says string) Object {
	return Object{"description": says, "anyOf": []any{Object{"type": "boolean"}, Object{"enum": []any{"yes", "no"}}}}
}

// OneOrMore is a text or a list of texts.
func OneOrMore(says string) Object {
	return Object{"description": says, "anyOf": []any{Object{"type": "string"}, Object{"type": "array", "items": Object{"type": "string"}}}}
}

// Words is one of some words.
func Words(words ...any) Object { return Object{"enum": words} }

// Closed is an object with just these keys.
func Closed(properties Object, required ...string) Object {
	out := Object{"type": "object", "properties": properties, "additionalProperties": false}
	if len(required) > 0 {
		out["required"] = required
	}
	return out
}

// MapOf is an object with any keys, and values of one form.
func MapOf(v Object) Object { return Object{"type": "object", "additionalProperties": v} }

// ListOf is a list of things of one form.
func ListOf(v Object) Object { return Object{"type": "array", "items": v} }

// Plain is what a cell or attribute may be written as.
func Plain() Object { return Object{"type": []any{"string", "number", "boolean"}} }
