package engine

import (
	"context"

	"example.org/kavlo/internal/value"
)

// Directory gives people's addresses by folded name, and names by address.
func (e *Engine) Directory(ctx context.Context) (addresses, names map[string]string, err error) {
	people, err := e.store.People(ctx)
	if err != nil {
		return nil, nil, err
	}
	addresses, names = map[string]string{}, map[string]string{}
	for _, p := range people {
		addresses[value.Fold(p.Name)] = p.Address
		names[p.Address] = p.Name
	}
	return addresses, names, nil
}
