package cli

import (
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

func (a *app) trackersCmd() *cobra.Command {
	return &cobra.Command{Use: "trackers", Short: "List the trackers", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		all, err := c.Trackers(cmd.Context())
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"id", "tracker", "zone", "tabs", "rows", "overdue"}}
		for _, t := range all {
			rows, overdue := 0, 0
			for _, tab := range t.Tabs {
				rows += tab.Rows
				overdue += tab.Overdue
			}
			g.add(t.ID, t.Name, t.Zone, fmt.Sprint(len(t.Tabs)), fmt.Sprint(rows), fmt.Sprint(overdue))
		}
		return a.show(all, g)
	}}
}

func (a *app) trackerCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "tracker", Short: "Create, show, rename, move or delete a tracker", RunE: needsCommand}
	var zone, like string
	var preview bool
	newCmd := &cobra.Command{Use: "create TRACKER", Aliases: []string{"new"}, Short: "Create a tracker without tabs, or with those of another", Args: args("TRACKER"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		if like != "" {
			if cmd.Flags().Changed("zone") {
				return nil, errors.New("a copy has the time zone of the tracker that it is like: leave --zone out, and change it afterwards")
			}
			return c.CopyTracker(cmd.Context(), client.How{Preview: preview}, given[0], like)
		}
		return c.NewTracker(cmd.Context(), client.How{Preview: preview}, given[0], zone)
	})}
	newCmd.Flags().StringVar(&like, "like", "", "the tracker whose tabs, columns, views and settings it has too, without rows, rules, reminders and lists")
	newCmd.Flags().StringVar(&zone, "zone", "UTC", "time zone, such as Europe/Lisbon")
	show := &cobra.Command{Use: "show TRACKER", Short: "Show a tracker's tabs", Args: args("TRACKER"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		t, err := c.Tracker(cmd.Context(), given[0])
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"id", "tab", "rows", "overdue", "columns"}}
		for _, tab := range t.Tabs {
			names := []string{}
			for _, col := range tab.Columns {
				names = append(names, col.Name)
			}
			g.add(tab.ID, tab.Name, fmt.Sprint(tab.Rows), fmt.Sprint(tab.Overdue), strings.Join(names, ", "))
		}
		return a.show(t, g)
	}}
	rename := &cobra.Command{Use: "rename TRACKER NAME", Short: "Rename a tracker", Args: args("TRACKER", "NAME"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		return c.RenameTracker(cmd.Context(), client.How{Preview: preview}, given[0], given[1])
	})}
	drop := &cobra.Command{Use: "delete TRACKER", Aliases: []string{"drop"}, Short: "Delete a tracker with all its rows; undo brings it back", Args: args("TRACKER"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		return c.DropTracker(cmd.Context(), client.How{Preview: preview}, given[0])
	})}
	var to wire.TrackerSettings
	order := &cobra.Command{Use: "order TRACKER", Short: "Move a tracker to another place among the trackers", Args: args("TRACKER"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		if to.After == "" && !to.First {
			return nil, usage("say where: --after TRACKER or --first")
		}
		return c.ChangeTracker(cmd.Context(), client.How{Preview: preview}, given[0], to)
	})}
	order.Flags().StringVar(&to.After, "after", "", "the tracker that it comes after")
	order.Flags().BoolVar(&to.First, "first", false, "before all others")
	change := a.trackerChangeCmd(&preview)
	for _, sub := range []*cobra.Command{newCmd, rename, order, change, drop} {
		previewFlag(sub, &preview)
	}
	cmd.AddCommand(newCmd, show, rename, order, change, drop)
	return cmd
}

// trackerChangeCmd changes a tracker's own settings.
func (a *app) trackerChangeCmd(preview *bool) *cobra.Command {
	var zone, dates, numbers string
	var week, closed []string
	cmd := &cobra.Command{Use: "change TRACKER", Short: "Change a tracker's time zone, form of dates and numbers, or working days", Args: args("TRACKER")}
	cmd.RunE = a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		var to wire.TrackerSettings
		if cmd.Flags().Changed("zone") {
			to.Zone = &zone
		}
		if cmd.Flags().Changed("dates") {
			to.Dates = &dates
		}
		if cmd.Flags().Changed("numbers") {
			to.Numbers = &numbers
		}
		days, off := cmd.Flags().Changed("working-days"), cmd.Flags().Changed("closed")
		if to.Zone == nil && to.Dates == nil && to.Numbers == nil && !days && !off {
			return nil, usage("say what changes: --zone, --dates, --numbers, --working-days or --closed")
		}
		if days || off {
			t, err := c.Tracker(cmd.Context(), given[0])
			if err != nil {
				return nil, err
			}
			if to.Working = t.Working; to.Working == nil {
				to.Working = &wire.WorkingDays{Week: week, Closed: closed}
			}
			if days {
				to.Working.Week = week
			}
			if off {
				to.Working.Closed = closed
			}
		}
		return c.ChangeTracker(cmd.Context(), client.How{Preview: *preview}, given[0], to)
	})
	cmd.Flags().StringVar(&zone, "zone", "", "time zone, such as Europe/Lisbon")
	cmd.Flags().StringVar(&dates, "dates", "", "how the last of March 2026 is shown, such as 31.03.2026")
	cmd.Flags().StringVar(&numbers, "numbers", "", "how 1234.5 is shown, such as 1.234,5")
	cmd.Flags().StringSliceVar(&week, "working-days", nil, "days of the week that are worked, such as monday,tuesday")
	cmd.Flags().StringSliceVar(&closed, "closed", nil, "all days that are not worked besides, such as 2026-12-25")
	return cmd
}

// needsCommand answers a noun that came without a verb.
func needsCommand(cmd *cobra.Command, given []string) error {
	if len(given) > 0 {
		return usage("%s has no command %q", cmd.Name(), given[0])
	}
	return cmd.Help()
}

func previewFlag(cmd *cobra.Command, to *bool) {
	cmd.Flags().BoolVar(to, "preview", false, "show what would change, and change nothing")
}

// changing wraps a command that answers with a change set.
func (a *app) changing(do func(*cobra.Command, *client.Client, []string) (*wire.ChangeSet, error)) func(*cobra.Command, []string) error {
	return func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		set, err := do(cmd, c, given)
		if err != nil {
			return err
		}
		return a.changeSet(set)
	}
}

// tab finds a tab of a tracker; a name that is not there is the service's to refuse.
func (a *app) tab(cmd *cobra.Command, tracker, name string) (*wire.Tab, error) {
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	t, err := c.Tracker(cmd.Context(), tracker)
	if err != nil {
		return nil, err
	}
	for i := range t.Tabs {
		if strings.EqualFold(t.Tabs[i].Name, strings.TrimSpace(name)) || t.Tabs[i].ID == name {
			return &t.Tabs[i], nil
		}
	}
	_, err = c.Rows(cmd.Context(), tracker, name, client.Which{})
	if err == nil {
		err = fmt.Errorf("there is no tab %q in %s", name, tracker)
	}
	return nil, err
}

// formerly lets a flag still be written by the name that it had.
func formerly(cmd *cobra.Command, was, is string) {
	cmd.Flags().SetNormalizeFunc(func(_ *pflag.FlagSet, name string) pflag.NormalizedName {
		if name == was {
			name = is
		}
		return pflag.NormalizedName(name)
	})
}
