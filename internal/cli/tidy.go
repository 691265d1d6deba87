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
	var fix int
	var to string
	var preview bool
	cmd := &cobra.Command{Use: "tidy TRACKER", Short: "List values that are odd, missing or inconsistent, or fix them", Args: args("TRACKER"),
		Example: "  kavlo tidy \"Touring loans\"\n  kavlo tidy \"Touring loans\" --fix 2 --preview",
		RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			found, err := c.Untidy(cmd.Context(), given[0])
			if err != nil {
				return err
			}
			if fix == 0 {
				return a.untidy(found, given[0])
			}
			if fix < 0 || fix > len(found) {
				return fmt.Errorf("there is no finding %d: kavlo tidy %q lists them", fix, given[0])
			}
			m := wire.Mend{ID: found[fix-1].ID}
			if cmd.Flags().Changed("to") {
				m.To = to
			} else if found[fix-1].Mended == 0 {
				return fmt.Errorf("finding %d has no fix of its own: say --to VALUE, or fix its cells one by one", fix)
			}
			set, err := c.Mend(cmd.Context(), client.How{Preview: preview}, given[0], m)
			if err != nil {
				return err
			}
			return a.changeSet(set)
		}}
	cmd.Flags().IntVar(&fix, "fix", 0, "the number of the finding whose cells are to be fixed")
	cmd.Flags().StringVar(&to, "to", "", "the value that all its cells get, in place of the fixes shown")
	formerly(cmd, "mend", "fix")
	previewFlag(cmd, &preview)
	return cmd
}

func (a *app) untidy(found []wire.Untidy, tracker string) error {
	if a.output == "table" && len(found) == 0 {
		lines(a.out, "No problems found in the rows of %s.", tracker)
		return nil
	}
	g := &grid{heads: []string{"no", "tab", "column", "what", "cells", "for example", "fix"}}
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
