package cli

import (
	"fmt"
	"strconv"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

// tidyCmd makes the command that lists what is not right with rows, and puts it right.
func (a *app) tidyCmd() *cobra.Command {
	var mend int
	var to string
	var preview bool
	cmd := &cobra.Command{Use: "tidy TRACKER", Short: "List what is not right with a tracker's rows, or put it right", Args: args("TRACKER"),
		Example: "  kavlo tidy \"Touring loans\"\n  kavlo tidy \"Touring loans\" --mend 2 --preview",
		RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			found, err := c.Untidy(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			if mend == 0 {
				return a.untidy(found, given[0])
			}
			if mend < 0 || mend > len(found) {
				return fmt.Errorf("there is no finding %d: kavlo tidy %q lists them", mend, given[0])
			}
			m := wire.Mend{ID: found[mend-1].ID}
			if cmd.Flags().Changed("to") {
				m.To = to
			} else if found[mend-1].Mended == 0 {
				return fmt.Errorf("finding %d has no mend of its own: say --to VALUE, or put its cells right one by one", mend)
			}
			set, err := c.Mend(cmd.Context(), client.How{Preview: preview}, given[0], m)
			if err != nil {
				return err
			}
			return a.changeSet(set)
		}}
	cmd.Flags().IntVar(&mend, "mend", 0, "the number of what is to be put right")
	cmd.Flags().StringVar(&to, "to", "", "the value that all its cells get, in place of their mends")
	previewFlag(cmd, &preview)
	return cmd
}

func (a *app) untidy(found []wire.Untidy, tracker string) error {
	if a.output == "table" && len(found) == 0 {
		lines(a.out, "Nothing to tidy up in %s.", tracker)
		return nil
	}
	g := &grid{heads: []string{"no", "tab", "column", "what", "cells", "for example", "mend"}}
	for i, f := range found {
		example, after := "", ""
		if len(f.Cells) > 0 {
			example = f.Cells[0].Label + ": " + cellText(f.Cells[0].Before)
			after = cellText(f.Cells[0].After)
		}
		if f.Mended > 0 && f.Mended < f.Count {
			after += fmt.Sprintf(" (%d of %d)", f.Mended, f.Count)
		}
		g.add(strconv.Itoa(i+1), f.Tab, f.Column, f.Says, strconv.Itoa(f.Count), example, after)
	}
	return a.show(found, g)
}
