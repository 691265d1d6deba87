package setup

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"example.org/kavlo/internal/sheet"
)

// Differences says, a line each, what differs between two shapes as their setup
// files write them: "rules / Move / where: A → B". Either may be nil.
func (f *Format) Differences(before, after *sheet.Shape) ([]string, error) {
	before, out := renamed(before, after)
	a, err := f.plain(before)
	if err != nil {
		return nil, err
	}
	b, err := f.plain(after)
	if err != nil {
		return nil, err
	}
	return differ(out, "", a, b), nil
}

// renamed gives the shape before with the names of the one after, and says what
// has been renamed: a tab or column that kept its id is not one that went and
// one that came, and what speaks of it only follows.
func renamed(before, after *sheet.Shape) (*sheet.Shape, []string) {
	if before == nil || after == nil {
		return before, nil
	}
	was := before
	before = before.Clone()
	var out []string
	said := map[sheet.ColumnID]bool{}
	for i := range before.Tabs {
		tab := &before.Tabs[i]
		now := after.TabByID(tab.ID)
		if now == nil {
			continue
		}
		if tab.Name != now.Name {
			out = append(out, fmt.Sprintf("renamed tab %s: %s", tab.Name, now.Name))
			tab.Name = now.Name
		}
		for j := range tab.Columns {
			c := &tab.Columns[j]
			other := now.ByID(c.ID)
			if other == nil || other.Name == c.Name {
				continue
			}
			if !said[c.ID] {
				out = append(out, fmt.Sprintf("renamed column %s: %s", c.Name, other.Name))
				said[c.ID] = true
			}
			c.Name = other.Name
		}
	}
	if before.Check() != nil { // names changed places: tell it plainly
		return was, nil
	}
	return before, out
}

// plain gives a shape as plain maps and lists.
func (f *Format) plain(s *sheet.Shape) (any, error) {
	if s == nil {
		return map[string]any{}, nil
	}
	text, err := f.Encode(s)
	if err != nil {
		return nil, err
	}
	var out map[string]any
	if err := yaml.Unmarshal(text, &out); err != nil {
		return nil, fmt.Errorf("comparing setups: %w", err)
	}
	return out, nil
}

func differ(out []string, at string, a, b any) []string {
	x, y := keyed(a), keyed(b)
	if x == nil || y == nil {
		if inOneLine(a) != inOneLine(b) {
			out = append(out, fmt.Sprintf("%s: %s → %s", at, inOneLine(a), inOneLine(b)))
		}
		return out
	}
	keys := slices.Sorted(maps.Keys(x))
	for k := range y {
		if _, both := x[k]; !both {
			keys = append(keys, k)
		}
	}
	slices.Sort(keys)
	for _, k := range keys {
		place := k
		if at != "" {
			place = at + " / " + k
		}
		v, had := x[k]
		w, has := y[k]
		switch {
		case !had && isNamedList(w):
			out = differ(out, place, []any{}, w)
		case !has && isNamedList(v):
			out = differ(out, place, v, []any{})
		case !had:
			out = append(out, "added "+place+": "+inOneLine(w))
		case !has:
			out = append(out, "removed "+place+": "+inOneLine(v))
		default:
			out = differ(out, place, v, w)
		}
	}
	if before, after := namesIn(a, y), namesIn(b, x); !slices.Equal(before, after) {
		out = append(out, at+" / order: "+strings.Join(after, ", "))
	}
	return out
}

// namesIn gives the names of a list of named things, of those that another has, in order.
func namesIn(v any, other map[string]any) []string {
	list, _ := v.([]any)
	var out []string
	for _, entry := range list {
		name, _ := entry.(map[string]any)["name"].(string)
		if _, has := other[name]; has {
			out = append(out, name)
		}
	}
	return out
}

// isNamedList reports whether a value is a list of named things, such as rules.
func isNamedList(v any) bool {
	list, is := v.([]any)
	return is && len(list) > 0 && keyed(list) != nil
}

// keyed gives a mapping as it is and a list of named things by name; nil for
// anything else.
func keyed(v any) map[string]any {
	switch x := v.(type) {
	case map[string]any:
		return x
	case []any:
		out := map[string]any{}
		for _, entry := range x {
			m, isMap := entry.(map[string]any)
			name, named := m["name"].(string)
			if !isMap || !named {
				return nil
			}
			out[name] = entry
		}
		return out
	}
	return nil
}

func inOneLine(v any) string {
	switch x := v.(type) {
	case nil:
		return "nothing"
	case time.Time: // a date, as YAML reads it
		if x.Equal(x.Truncate(24 * time.Hour)) {
			return x.Format(time.DateOnly)
		}
		return x.Format(time.RFC3339)
	case map[string]any:
		parts := []string{}
		for _, k := range slices.Sorted(maps.Keys(x)) {
			if k != "name" {
				parts = append(parts, k+": "+inOneLine(x[k]))
			}
		}
		return "{ " + strings.Join(parts, ", ") + " }"
	case []any:
		parts := make([]string, len(x))
		for i := range x {
			parts[i] = inOneLine(x[i])
		}
		return "[" + strings.Join(parts, ", ") + "]"
	}
	return fmt.Sprint(v)
}
