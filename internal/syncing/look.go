package syncing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/value"
)

// Sample is what a list holds, for whoever sets it up.
type Sample struct {
	Items  string // where the records were found, if the list did not say
	Total  int
	Fields []Field
	Pages  reconcile.Pages
	ID     string // the field that tells records apart, as far as it can be guessed; ""
}

// Field is a field of a list's records, with what it holds in the first of them.
type Field struct {
	At      string // as syncs name it
	Samples []string
	Filled  int // records that have it
}

const (
	sampled    = 3 // values of each field
	mostFields = 100
	deepest    = 4
)

// itemsGuesses are where lists over HTTP often have their records.
var itemsGuesses = []string{"/records", "/items", "/data", "/results", "/value", "/rows"}

// LookAt fetches a list that is not saved, and says what its records hold. Where a list over
// HTTP does not say at which place its records are, the usual ones are tried.
func (sy *Syncs) LookAt(ctx context.Context, list *reconcile.List) (*Sample, error) {
	if sy.Lists == nil {
		return nil, errors.New("lists cannot be reached here")
	}
	entries, pages, err := sy.Lists.Look(ctx, list)
	out := &Sample{}
	if err != nil && list.HTTP != "" && list.Items == "" {
		for _, at := range itemsGuesses {
			guess := *list
			guess.Items = at
			if found, how, other := sy.Lists.Look(ctx, &guess); other == nil {
				entries, pages, err, out.Items = found, how, nil, at
				break
			}
		}
	}
	if err != nil {
		return nil, fmt.Errorf("looking at the list: %w", err)
	}
	out.Total, out.Pages = len(entries), pages
	at := map[string]int{}
	values := map[string]map[string]bool{}
	for i := range entries {
		flatten("", entries[i].Doc, 0, func(name, text string) {
			n, known := at[name]
			if !known {
				if len(out.Fields) == mostFields {
					return
				}
				n = len(out.Fields)
				at[name], values[name] = n, map[string]bool{}
				out.Fields = append(out.Fields, Field{At: name})
			}
			f := &out.Fields[n]
			f.Filled++
			if len(f.Samples) < sampled && !slices.Contains(f.Samples, text) {
				f.Samples = append(f.Samples, text)
			}
			values[name][text] = true
		})
	}
	for _, f := range out.Fields {
		last := value.Fold(f.At[strings.LastIndexByte(f.At, '/')+1:])
		telling := slices.Contains([]string{"id", "uid", "key", "no", "number", "code"}, last)
		if telling && f.Filled == out.Total && len(values[f.At]) == out.Total && out.ID == "" {
			out.ID = f.At
		}
	}
	return out, nil
}

// flatten calls each with the plain values in a record, by their paths.
func flatten(path string, doc any, depth int, each func(name, text string)) {
	switch x := doc.(type) {
	case map[string]any:
		if depth == deepest {
			return
		}
		for _, name := range slices.Sorted(maps.Keys(x)) {
			inner := x[name]
			name = strings.NewReplacer("~", "~0", "/", "~1").Replace(name) // RFC 6901, 3
			if path != "" {
				name = path + "/" + name
			}
			flatten(name, inner, depth+1, each)
		}
	case nil, []any:
	case json.Number:
		each(path, x.String())
	default:
		each(path, fmt.Sprint(x))
	}
}
