package cli

import (
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/wire"
)

// file reads a file, or standard input where its name is "-".
func file(cmd *cobra.Command, name string) ([]byte, error) {
	if name == "-" {
		return io.ReadAll(cmd.InOrStdin())
	}
	text, err := os.ReadFile(name)
	if err != nil {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	return text, nil
}

func (a *app) setupCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "setup", Short: "Check, load or save a tracker's setup file", RunE: needsCommand}
	drop := false
	load := func(preview *bool) func(*cobra.Command, []string) error {
		return a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			text, err := file(cmd, given[0])
			if err != nil {
				return nil, err
			}
			return c.LoadSetup(cmd.Context(), client.How{Preview: *preview}, string(text), drop)
		})
	}
	yes, preview := true, false
	check := &cobra.Command{Use: "check FILE", Short: "Check a setup file: its errors, or what loading it would change", Args: args("FILE"), RunE: load(&yes)}
	loadCmd := &cobra.Command{Use: "load FILE", Short: "Create or update a tracker from a setup file", Args: args("FILE"), RunE: load(&preview)}
	previewFlag(loadCmd, &preview)
	loadCmd.Flags().BoolVar(&drop, "drop", false, "let filled columns and definitions go that the file does not know of")
	save := &cobra.Command{Use: "save TRACKER [FILE]", Short: "Save a tracker's setup file",
		Args: func(cmd *cobra.Command, given []string) error {
			if len(given) == 2 {
				return nil
			}
			return args("TRACKER")(cmd, given)
		},
		RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			text, err := c.Setup(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			if len(given) == 1 {
				_, err = io.WriteString(a.out, text)
				return err
			}
			if err := os.WriteFile(given[1], []byte(text), 0o644); err != nil {
				return fmt.Errorf("writing the setup file: %w", err)
			}
			return nil
		}}
	schema := &cobra.Command{Use: "schema", Short: "Write the JSON Schema of setup files, for editors; needs no service", Args: args(), RunE: func(*cobra.Command, []string) error {
		text, err := kinds.Setup.Schema()
		if err != nil {
			return err
		}
		lines(a.out, "%s", text)
		return nil
	}}
	cmd.AddCommand(check, loadCmd, save, schema)
	return cmd
}
