package engine

import (
	"context"
	"slices"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Writing gives what is known, now, of those who write.
func (e *Engine) Writing(ctx context.Context) sheet.Writing {
	return sheet.Writing{Now: e.Now(), People: &directory{ctx: ctx, engine: e}}
}

// directory looks people up when a name is first read. Where they cannot be looked up,
// nobody is known by name.
type directory struct {
	ctx    context.Context
	engine *Engine
	loaded bool
	names  []string
	byName map[string][]string
}

func (d *directory) load() {
	if d.loaded {
		return
	}
	d.loaded, d.byName = true, map[string][]string{}
	people, err := d.engine.store.People(d.ctx)
	if err != nil {
		d.engine.Log.Warn("people cannot be looked up by name", "err", err)
		return
	}
	for _, p := range people {
		name := value.Fold(p.Name)
		d.names, d.byName[name] = append(d.names, p.Name), append(d.byName[name], p.Address)
	}
}

// Addresses gives the mail addresses of all who bear a name.
func (d *directory) Addresses(name string) []string {
	d.load()
	return d.byName[value.Fold(name)]
}

// Names gives everybody's name.
func (d *directory) Names() []string {
	d.load()
	return d.names
}

// Directory gives people's addresses by folded name, folded address and group, and names
// by address. The groups are readers, editors and admins, who were called keepers: all who
// have that role.
func (e *Engine) Directory(ctx context.Context) (addresses map[string][]string, names map[string]string, err error) {
	people, err := e.store.People(ctx)
	if err != nil {
		return nil, nil, err
	}
	addresses, names = map[string][]string{}, map[string]string{}
	for _, p := range people {
		names[p.Address] = p.Name
		words := []string{value.Fold(p.Name), value.Fold(p.Address), p.Access + "s"}
		if p.Access == "keeper" {
			words = append(words, "admins")
		}
		for _, word := range words {
			if !slices.Contains(addresses[word], p.Address) {
				addresses[word] = append(addresses[word], p.Address)
			}
		}
	}
	for word, found := range addresses { // a name that two people bear is nobody's in particular
		if len(found) > 1 && !isGroup(word) {
			addresses[word] = []string{}
		}
	}
	return addresses, names, nil
}

func isGroup(word string) bool {
	return word == "readers" || word == "editors" || word == "admins" || word == "keepers"
}
