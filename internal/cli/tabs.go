package cli

import (
	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

func (a *app) tabCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "tab", Short: "Create, rename, move or delete a tab", RunE: needsCommand}
	var preview, first bool
	var tab wire.NewTab
	var after string
	how := func() client.How { return client.How{Preview: preview} }
	add := &cobra.Command{Use: "create TRACKER TAB", Aliases: []string{"new", "add"}, Short: "Create a tab", Args: args("TRACKER", "TAB"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		tab.Name = given[1]
		return c.AddTab(cmd.Context(), how(), given[0], tab)
	})}
	add.Flags().StringVar(&tab.Like, "like", "", "the tab whose columns it has too")
	add.Flags().StringVar(&tab.After, "after", "", "the tab that it comes after; last unless set")
	rename := &cobra.Command{Use: "rename TRACKER/TAB NAME", Short: "Rename a tab; rules follow it", Args: args("TRACKER/TAB", "NAME"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		tracker, name, err := place(given[0])
		if err != nil {
			return nil, err
		}
		return c.ChangeTab(cmd.Context(), how(), tracker, name, wire.TabChange{Name: given[1]})
	})}
	order := &cobra.Command{Use: "order TRACKER/TAB", Short: "Move a tab to another place", Args: args("TRACKER/TAB"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		tracker, name, err := place(given[0])
		if err != nil {
			return nil, err
		}
		if after == "" && !first {
			return nil, usage("say where: --after TAB or --first")
		}
		return c.ChangeTab(cmd.Context(), how(), tracker, name, wire.TabChange{After: after, First: first})
	})}
	order.Flags().StringVar(&after, "after", "", "the tab that it comes after")
	order.Flags().BoolVar(&first, "first", false, "before all others")
	drop := &cobra.Command{Use: "delete TRACKER/TAB", Aliases: []string{"drop"}, Short: "Delete a tab with its rows; undo brings both back", Args: args("TRACKER/TAB"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		tracker, name, err := place(given[0])
		if err != nil {
			return nil, err
		}
		return c.DropTab(cmd.Context(), how(), tracker, name)
	})}
	for _, sub := range []*cobra.Command{add, rename, order, drop} {
		previewFlag(sub, &preview)
	}
	cmd.AddCommand(add, rename, order, drop)
	return cmd
}
