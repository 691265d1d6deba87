package cli

import (
	"fmt"
	"os"

	"github.com/spf13/cobra"
)

func (a *app) outboundCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "outbound TRACKER", Short: "List the files that rules wrote, newest first", Args: args("TRACKER"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		files, err := c.Written(cmd.Context(), given[0])
		if err != nil {
			return err
		}
		if a.output == "table" && len(files) == 0 {
			lines(a.out, "No files yet. Rules with a write step put them here.")
			return nil
		}
		g := &grid{heads: []string{"file", "rule", "written", "rows", "kept"}}
		for _, f := range files {
			kept := "for good"
			switch {
			case f.Gone:
				kept = "gone"
			case f.Keep > 0:
				kept = fmt.Sprintf("%d days", f.Keep)
			}
			g.add(f.Path, f.Rule, f.At.Local().Format("2006-01-02 15:04"), fmt.Sprint(f.Rows), kept)
		}
		return a.show(files, g)
	}}
	get := &cobra.Command{Use: "get TRACKER PATH FILE", Short: "Save a file that a rule wrote", Args: args("TRACKER", "PATH", "FILE"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		if _, err := os.Stat(given[2]); err == nil {
			return fmt.Errorf("%s already exists: choose another name", given[2])
		}
		size, err := replaceFile(given[2], func(f *os.File) error { return c.WrittenFile(cmd.Context(), given[0], given[1], f) })
		if err != nil {
			return err
		}
		lines(a.out, "Wrote %s (%d bytes).", given[2], size)
		return nil
	}}
	var key string
	compare := &cobra.Command{Use: "compare TRACKER BEFORE AFTER", Short: "Compare two files that rules wrote", Args: args("TRACKER", "BEFORE", "AFTER"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		d, err := c.CompareWritten(cmd.Context(), given[0], given[1], given[2], key)
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"row", "what", "before", "after"}}
		for _, r := range d.Added {
			g.add(r, "added", "", "")
		}
		for _, r := range d.Removed {
			g.add(r, "removed", "", "")
		}
		for _, ch := range d.Changed {
			g.add(ch.Row, ch.Column, ch.Before, ch.After)
		}
		if a.output != "table" || len(g.rows) > 0 {
			if err := a.show(d, g); err != nil || a.output != "table" {
				return err
			}
		}
		lines(a.out, "%d added, %d removed, %d cells changed, %d rows the same; rows matched by %s.", len(d.Added), len(d.Removed), len(d.Changed), d.Same, d.Key)
		return nil
	}}
	compare.Flags().StringVar(&key, "key", "", "column by which rows are found again; the first unless set")
	cmd.AddCommand(get, compare)
	return cmd
}
