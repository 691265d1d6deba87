package cli

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"
)

func (a *app) outboundCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "outbound TRACKER", Short: "List the files that rules and rounds wrote, newest first", Args: args("TRACKER"), RunE: func(cmd *cobra.Command, given []string) error {
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
		g := &grid{heads: []string{"file", "by", "written", "rows", "kept"}, wide: "file"}
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
	var version int
	get := &cobra.Command{Use: "get TRACKER PATH FILE", Short: "Save a file that a rule wrote", Args: args("TRACKER", "PATH", "FILE"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		if _, err := os.Stat(given[2]); err == nil {
			return fmt.Errorf("%s already exists: choose another name", given[2])
		}
		size, err := replaceFile(given[2], func(f *os.File) error {
			if version > 0 {
				return c.WrittenVersion(cmd.Context(), given[0], given[1], version, f)
			}
			return c.WrittenFile(cmd.Context(), given[0], given[1], f)
		})
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
	get.Flags().IntVar(&version, "version", 0, "what the file was before it was written over; see outbound versions")
	cmd.AddCommand(get, compare, a.versionsCmd(), a.putFileCmd())
	return cmd
}

func (a *app) versionsCmd() *cobra.Command {
	return &cobra.Command{Use: "versions TRACKER PATH", Short: "List what a file was before it was written over", Args: args("TRACKER", "PATH"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		all, err := c.Versions(cmd.Context(), given[0], given[1])
		if err != nil {
			return err
		}
		if a.output == "table" && len(all) == 0 {
			lines(a.out, "No versions yet: %s has not been written over.", given[1])
			return nil
		}
		g := &grid{heads: []string{"version", "written over", "by run"}}
		for _, v := range all {
			g.add(fmt.Sprint(v.Version), v.At.Local().Format("2006-01-02 15:04:05"), v.Run)
		}
		return a.show(all, g)
	}}
}

func (a *app) putFileCmd() *cobra.Command {
	var template bool
	var name string
	cmd := &cobra.Command{Use: "put TRACKER FILE", Short: "Put a workbook there for rules to write into, or to make others of", Args: args("TRACKER", "FILE"),
		Example: "  kavlo outbound put \"Touring loans\" report.xlsx\n  kavlo outbound put \"Touring loans\" month.xlsx --template",
		RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			f, err := os.Open(given[1])
			if err != nil {
				return fmt.Errorf("opening the file: %w", err)
			}
			defer f.Close()
			if name == "" {
				name = filepath.Base(given[1])
			}
			done, err := c.PutFile(cmd.Context(), given[0], name, template, f)
			if err != nil {
				return err
			}
			lines(a.out, "Put at %s.", done.Path)
			return nil
		}}
	cmd.Flags().StringVar(&name, "as", "", "the name it gets there; its own unless set")
	cmd.Flags().BoolVar(&template, "template", false, "as a template, of which a write step makes new workbooks (from:)")
	return cmd
}
