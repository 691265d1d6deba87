package desk

import (
	"sync"

	"example.org/kavlo/internal/derive"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// books keeps the compiled rules of the shapes in use.
type books struct {
	mu    sync.Mutex
	known map[*sheet.Shape]*rule.Rules
}

// keepBooks is how many shapes' rules are kept; older ones are compiled again.
const keepBooks = 64

func (b *books) rules(s *sheet.Shape) (*rule.Rules, error) {
	b.mu.Lock()
	r := b.known[s]
	b.mu.Unlock()
	if r != nil {
		return r, nil
	}
	bound, err := derive.Bind(s)
	if err != nil {
		return nil, err
	}
	r = &rule.Rules{Bound: bound}
	for i := range s.Parts {
		if s.Parts[i].Kind != sheet.PartRule {
			continue
		}
		decoded, err := rule.Decode(&s.Parts[i])
		if err != nil {
			return nil, err
		}
		compiled, err := rule.Compile(decoded, bound)
		if err != nil {
			return nil, err
		}
		r.List = append(r.List, compiled)
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.known == nil || len(b.known) >= keepBooks {
		b.known = map[*sheet.Shape]*rule.Rules{}
	}
	b.known[s] = r
	return r, nil
}

func foldName(s string) string { return value.Fold(s) }
