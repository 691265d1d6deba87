package policy

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// The words for roles in a tracker's access.
var roleWords = map[string]Access{"readers": Reader, "editors": Editor, "admins": Keeper, "keepers": Keeper}

// RoleWords are the words for roles in a tracker's access.
var RoleWords = []string{"readers", "editors", "admins"}

// within reports whether a principal is among those meant; nobody is barred from what
// says nothing.
func (p *Principal) within(who sheet.Who) bool { return who == nil || p.named(who) }

// Among reports whether a principal is one of those named.
func (p *Principal) Among(who sheet.Who) bool { return who != nil && p.named(who) }

func (p *Principal) named(who sheet.Who) bool {
	return slices.ContainsFunc(who, func(w string) bool {
		if role, is := roleWords[w]; is {
			return p.Access >= role
		}
		return p.Address != "" && value.EqualText(w, p.Address)
	})
}

// RoleIn gives a principal's role in a tracker of that shape. A keeper of the workspace
// keeps every tracker, and sees all of it.
func RoleIn(p Principal, s *sheet.Shape) Access {
	a := s.Access
	if p.Access >= Keeper || p.Access == Nobody || a == nil {
		return p.Access
	}
	role := p.Access
	if a.Edit != nil {
		if role = Reader; p.named(a.Edit) {
			role = Editor
		}
	}
	if p.named(a.Keep) {
		return Keeper
	}
	if !p.within(a.Read) && role < Editor {
		return Nobody
	}
	return role
}

// Sight is what a principal may see and change of a tracker, as far as it is less than
// their role lets them.
type Sight struct {
	Role    Access
	tabs    map[sheet.TabID]bars
	columns map[sheet.ColumnID]bars
}

type bars struct{ hidden, frozen bool }

// SightOf gives a principal's sight of a tracker of that shape.
func SightOf(p Principal, s *sheet.Shape) *Sight {
	out := &Sight{Role: RoleIn(p, s)}
	if s.Access == nil || out.Role >= Keeper {
		return out
	}
	out.tabs, out.columns = map[sheet.TabID]bars{}, map[sheet.ColumnID]bars{}
	for id, b := range s.Access.Tabs {
		if is := p.barred(b); is != (bars{}) {
			out.tabs[id] = is
		}
	}
	for id, b := range s.Access.Columns {
		if is := p.barred(b); is != (bars{}) {
			out.columns[id] = is
		}
	}
	out.follow(s)
	return out
}

// follow bars what tells of what is barred: tabs about rows of others, columns that keep
// what another held.
func (s *Sight) follow(shape *sheet.Shape) {
	for i := range shape.Tabs {
		t := &shape.Tabs[i]
		if t.Listed() {
			continue
		}
		for _, about := range t.About {
			if is, barred := s.tabs[about]; barred {
				s.tabs[t.ID] = bars{s.tabs[t.ID].hidden || is.hidden, true}
			}
		}
		for _, c := range t.Columns {
			if is, barred := s.columns[c.From]; barred && c.From != 0 {
				s.columns[c.ID] = is
			}
		}
	}
}

func (p *Principal) barred(b sheet.Bar) bars {
	hidden := !p.within(b.See)
	return bars{hidden, hidden || !p.within(b.Change)}
}

// Whole reports whether nothing of the tracker is hidden.
func (s *Sight) Whole() bool { return s.Role > Nobody && s.Key() == "" }

// ChangesAll reports whether all of the tracker may be changed.
func (s *Sight) ChangesAll() bool { return s.Role >= Editor && len(s.tabs)+len(s.columns) == 0 }

// SeesTab reports whether a tab is there for the principal.
func (s *Sight) SeesTab(tab sheet.TabID) bool { return s.Role > Nobody && !s.tabs[tab].hidden }

// SeesColumn reports whether a column is there for the principal.
func (s *Sight) SeesColumn(c sheet.ColumnID) bool { return s.Role > Nobody && !s.columns[c].hidden }

// ChangesTab reports whether the principal may change rows of a tab.
func (s *Sight) ChangesTab(tab sheet.TabID) bool { return s.Role >= Editor && !s.tabs[tab].frozen }

// ChangesColumn reports whether the principal may change cells of a column, in a tab
// whose rows they may change.
func (s *Sight) ChangesColumn(c sheet.ColumnID) bool { return s.Role >= Editor && !s.columns[c].frozen }

// Key is equal where two see the same of a tracker; "" where nothing is hidden.
func (s *Sight) Key() string {
	var hidden []string
	for id, b := range s.tabs {
		if b.hidden {
			hidden = append(hidden, id.String())
		}
	}
	for id, b := range s.columns {
		if b.hidden {
			hidden = append(hidden, id.String())
		}
	}
	slices.Sort(hidden)
	return strings.Join(hidden, " ")
}

// Allows says why a principal may not make a change to a tracker of that shape, or nil.
func (s *Sight) Allows(shape *sheet.Shape, c *sheet.Change) error {
	if s.Role == Nobody {
		return ErrForbidden
	}
	if s.tabs[c.Tab].frozen || c.Kind == sheet.Move && s.tabs[c.ToTab].frozen {
		return ErrForbidden
	}
	switch c.Kind {
	case sheet.Set, sheet.Note, sheet.Style:
		if s.columns[c.Column].frozen {
			return ErrForbidden
		}
	case sheet.Add:
		for id, v := range c.Image.Cells() {
			if s.columns[id].frozen && !given(shape, id, v) {
				return ErrForbidden
			}
		}
	}
	return nil
}

// given reports whether a new row has a value by itself: a default, or a number.
func given(shape *sheet.Shape, id sheet.ColumnID, v value.Value) bool {
	c := shape.ColumnByID(id)
	return v.IsBlank() || c != nil && (c.AutoNo || c.Moment() || c.Default != "" && fmt.Sprint(v) == c.Default)
}
