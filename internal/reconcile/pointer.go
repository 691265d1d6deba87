package reconcile

import (
	"fmt"
	"strconv"
	"strings"
)

// Pointer gives what a JSON Pointer (RFC 6901) leads to in a decoded document;
// nil where there is nothing. The leading slash may be left out.
func Pointer(doc any, pointer string) (any, error) {
	pointer = strings.TrimPrefix(pointer, "/")
	if pointer == "" {
		return doc, nil
	}
	for _, step := range strings.Split(pointer, "/") {
		step = strings.NewReplacer("~1", "/", "~0", "~").Replace(step)
		switch x := doc.(type) {
		case map[string]any:
			doc = x[step]
		case []any:
			i, err := strconv.Atoi(step)
			doc = nil
			if err == nil && i >= 0 && i < len(x) {
				doc = x[i]
			}
		case nil:
			return nil, nil
		default:
			return nil, fmt.Errorf("%q leads into a plain value", pointer)
		}
	}
	return doc, nil
}
