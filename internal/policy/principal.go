// Package policy says on whose behalf something is asked, and what each may see and
// change: the workspace's roles, and for single tabs and columns of a tracker more. It is
// asked at the engine's door and in the one reader, so that no way in or out is an
// exception. Part of the core: no I/O, no clock.
package policy

import "example.org/kavlo/internal/sheet"

// Access is a role; each includes those before it.
type Access int

// A reader reads, an editor changes rows, a keeper changes the setup and access.
const (
	Nobody Access = iota
	Reader
	Editor
	Keeper
)

// The names of roles. Keepers are called admins now; the older word is understood still.
var accessNames = map[string]Access{"reader": Reader, "editor": Editor, "admin": Keeper, "keeper": Keeper}

// AccessNamed gives the role of a name, or Nobody.
func AccessNamed(name string) Access { return accessNames[name] }

func (a Access) String() string {
	switch a {
	case Reader:
		return "reader"
	case Editor:
		return "editor"
	case Keeper:
		return "admin"
	}
	return "nobody"
}

// Kind tells principals apart.
type Kind string

// The kinds of principal.
const (
	Person     Kind = "person"     // somebody, by a session or a token
	MailLink   Kind = "mail link"  // somebody, by a link in a mail
	Form       Kind = "form"       // whoever fills a form in, on behalf of whoever made it
	Definition Kind = "definition" // a rule, sync or round on behalf of its author
	Service    Kind = "service"    // the service itself
)

// Principal is on whose behalf something is asked. The zero Principal is nobody, who
// may do nothing.
type Principal struct {
	Kind    Kind
	Person  int64  // whose rights are the most it has; 0: nobody's in particular
	Name    string // as the journal says it
	Address string // of the person, by which trackers name them
	Access  Access // in the workspace
	Narrow  *Grant // what they may do at most; nil: whatever their access lets them
}

// Grant lets somebody add rows to one tab, with some of its columns, and do nothing else.
type Grant struct {
	Tracker sheet.TrackerID
	Tab     sheet.TabID
	Columns map[sheet.ColumnID]bool
}

// allows reports whether the grant covers a change.
func (g *Grant) allows(shape *sheet.Shape, c *sheet.Change) bool {
	if g == nil {
		return true
	}
	if c.Kind != sheet.Add || c.Tracker != g.Tracker || c.Tab != g.Tab {
		return false
	}
	for id, v := range c.Image.Cells() {
		if !g.Columns[id] && !given(shape, id, v) {
			return false
		}
	}
	return len(c.Image.Notes()) == 0 && len(c.Image.Styles()) == 0
}

// Itself is the service, at work under a name.
func Itself(name string) Principal { return Principal{Kind: Service, Name: name, Access: Keeper} }

// OfPerson is a person of the workspace, with what their role lets them do.
func OfPerson(id int64, name, address, access string) Principal {
	return Principal{Kind: Person, Person: id, Name: name, Address: address, Access: AccessNamed(access)}
}
