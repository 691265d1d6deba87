// Package notice is a small kind of definition that shows, in tests, all that a kind
// takes: a line that stands above a tab for a while. No tracker has it.
package notice

import (
	"fmt"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/setup/schema"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Kind is the line by which the kind is known.
var Kind = program.Kind{Name: "notice", Plural: "notices", New: func() program.Definition { return &Notice{} }}

// Notice is a line above a tab, in stored form.
type Notice struct {
	ID    sheet.DefinitionID `json:"-"`
	Name  string             `json:"-"`
	Tab   sheet.TabID        `json:"tab"`
	Says  string             `json:"says"`
	Until string             `json:"until,omitempty"` // an ISO date
}

// Identify gives the notice its id and name.
func (n *Notice) Identify(id sheet.DefinitionID, name string) { n.ID, n.Name = id, name }

// Compile says what is wrong with the notice; it needs nothing else.
func (n *Notice) Compile(p *program.Program) (any, error) {
	if p.Shape.TabByID(n.Tab) == nil {
		return nil, fmt.Errorf("the tab %s is not there any more", n.Tab)
	}
	_, err := value.Parse(n.Until, value.Type{Kind: value.Date})
	return n, err
}

// ReadSetup reads a notice from a setup file.
func (n *Notice) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	var err error
	if n.Tab, err = d.OneTab(m); err != nil {
		return err
	}
	if err := setup.ReadTexts(m, map[string]*string{"says": &n.Says, "until": &n.Until}); err != nil {
		return err
	}
	if n.Says == "" {
		return m.Fail("say what it says: says: TEXT")
	}
	return nil
}

// WriteSetup writes a notice as a setup file has it.
func (n *Notice) WriteSetup(e *setup.Writer, b setup.Builder) {
	b.Put("tab", e.TabNames([]sheet.TabID{n.Tab})).Text("says", n.Says).Text("until", n.Until)
}

// SetupSchema gives the JSON Schema of a notice in a setup file.
func (*Notice) SetupSchema() schema.Object {
	return schema.Closed(schema.Object{"name": schema.Text("name"), "tab": schema.Text("above which tab"), "says": schema.Text("what it says"), "until": schema.Text("a date")}, "name", "tab", "says")
}

// Sentence says what a notice does, as people would say it.
func (n *Notice) Sentence(e *setup.Writer) string {
	until := ""
	if n.Until != "" {
		until = ", until " + n.Until
	}
	return fmt.Sprintf("Above %s%s: %s.", e.TabWords([]sheet.TabID{n.Tab}), until, n.Says)
}
