package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/wire"
)

// defining gives the commands that show, add, change and delete one definition of a kind.
// Its text is a piece of a setup file.
func (a *app) defining(kinds, kind string) []*cobra.Command {
	what := strings.ToUpper(kind)
	var preview bool
	how := func() client.How { return client.How{Preview: preview} }
	show := &cobra.Command{Use: "show TRACKER " + what, Short: "Write a " + kind + " as a setup file has it", Args: args("TRACKER", what), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		all, err := c.Definitions(cmd.Context(), given[0], kinds)
		if err != nil {
			return err
		}
		for _, d := range all {
			if strings.EqualFold(d.Name, strings.TrimSpace(given[1])) || d.ID == given[1] {
				return a.definition(&d)
			}
		}
		return fmt.Errorf("there is no %s %q in %s: kavlo %s lists them", kind, given[1], given[0], kinds)
	}}
	add := &cobra.Command{Use: "add TRACKER FILE", Short: "Add a " + kind + " from a file, or - for standard input, or replace the one of its name", Args: args("TRACKER", "FILE"),
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			body, err := oneDefinition(cmd, given[1])
			if err != nil {
				return nil, err
			}
			return c.PutDefinition(cmd.Context(), how(), given[0], kinds, body)
		})}
	change := &cobra.Command{Use: "change TRACKER " + what + " FILE", Short: "Put what a file, or - for standard input, says in the place of a " + kind, Args: args("TRACKER", what, "FILE"),
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			body, err := oneDefinition(cmd, given[2])
			if err != nil {
				return nil, err
			}
			return c.ReplaceDefinition(cmd.Context(), how(), given[0], kinds, given[1], body)
		})}
	drop := &cobra.Command{Use: "delete TRACKER " + what, Aliases: []string{"drop"}, Short: "Delete a " + kind + "; undo brings it back", Args: args("TRACKER", what),
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			return c.DropDefinition(cmd.Context(), how(), given[0], kinds, given[1])
		})}
	history := &cobra.Command{Use: "history TRACKER " + what, Short: "Tell who changed a " + kind + ", when and how", Args: args("TRACKER", what), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		all, err := c.DefinitionHistory(cmd.Context(), given[0], kinds, given[1])
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"change set", "at", "who", "what"}, wide: "what"}
		for _, e := range all {
			g.add(fmt.Sprint(e.Seq), e.At.Local().Format("2006-01-02 15:04:05"), e.Who, strings.Join(e.Says, "; "))
		}
		return a.show(all, g)
	}}
	for _, sub := range []*cobra.Command{add, change, drop} {
		previewFlag(sub, &preview)
	}
	return []*cobra.Command{show, add, change, drop, history}
}

// definition writes a definition as a setup file has it, its name first.
func (a *app) definition(d *wire.Definition) error {
	if a.output == "json" {
		return a.json(d)
	}
	var doc yaml.Node // what JSON has is YAML, too
	if err := yaml.Unmarshal(d.Body, &doc); err != nil {
		return fmt.Errorf("writing %s: %w", d.Name, err)
	}
	inBlocks(&doc)
	body, err := yaml.Marshal(&doc)
	if err != nil {
		return fmt.Errorf("writing %s: %w", d.Name, err)
	}
	_, err = a.out.Write(body)
	return err
}

// inBlocks lets a document be written as people write it, rather than as JSON.
func inBlocks(n *yaml.Node) {
	n.Style = 0
	for _, inner := range n.Content {
		inBlocks(inner)
	}
}

// oneDefinition reads one definition, as a setup file writes it: by itself, or as the one
// entry of a list.
func oneDefinition(cmd *cobra.Command, name string) (wire.Document, error) {
	text, err := file(cmd, name)
	if err != nil {
		return nil, err
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(text, &doc); err != nil {
		return nil, fmt.Errorf("reading %s: %w", name, err)
	}
	if len(doc.Content) == 0 {
		return nil, fmt.Errorf("%s is empty", name)
	}
	one := doc.Content[0]
	if one.Kind == yaml.SequenceNode {
		if len(one.Content) != 1 {
			return nil, fmt.Errorf("%s holds %s: give one at a time, or load a whole setup file", name, plural(len(one.Content), "definition"))
		}
		one = one.Content[0]
	}
	out, err := setup.JSON(one)
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", name, err)
	}
	return out, nil
}
