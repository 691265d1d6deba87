package cli

import (
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/wire"
)

// tallyCmd makes the commands for figures by group.
func (a *app) tallyCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "tally", Short: "Show figures by group, as a table, a picture or a file", RunE: needsCommand}
	for _, sub := range a.defining("tallies", "tally") {
		if sub.Name() == "show" { // its figures, here
			sub.Use = "setup TRACKER TALLY"
		}
		cmd.AddCommand(sub)
	}
	show := &cobra.Command{Use: "show TRACKER TALLY", Short: "Work a tally out", Args: args("TRACKER", "TALLY"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		t, err := c.Tally(cmd.Context(), given[0], given[1])
		if err != nil {
			return err
		}
		return a.tally(t)
	}}
	var theme string
	save := &cobra.Command{Use: "save TRACKER TALLY FILE", Short: "Save a tally as .xlsx with its chart, .csv, .png or .svg", Args: args("TRACKER", "TALLY", "FILE"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		format := strings.ToLower(strings.TrimPrefix(filepath.Ext(given[2]), "."))
		size, err := replaceFile(given[2], func(f *os.File) error {
			switch format {
			case "png", "svg":
				return c.TallyPicture(cmd.Context(), given[0], given[1], format, theme, f)
			case "xlsx", "csv":
				return c.TallyTable(cmd.Context(), given[0], given[1], format, f)
			}
			return usage("the ending %q says no form: end the name in .xlsx, .csv, .png or .svg", format)
		})
		if err != nil {
			return err
		}
		lines(a.out, "Wrote %s (%d bytes).", given[2], size)
		return nil
	}}
	save.Flags().StringVar(&theme, "theme", "light", "of a picture: light or dark")
	cmd.AddCommand(show, save)
	return cmd
}

func (a *app) tally(t *wire.Tally) error {
	g := &grid{heads: append([]string{}, t.By...)}
	for _, f := range t.Figures {
		g.heads = append(g.heads, f.Name)
	}
	compared := t.Than != nil
	if compared {
		for _, f := range t.Figures {
			g.heads = append(g.heads, f.Name+" on "+t.Than.Format(time.DateOnly))
		}
	}
	add := func(x *wire.TallyGroup) {
		row := append([]string{}, x.Group...)
		for len(row) < len(t.By) {
			row = append(row, "")
		}
		for _, f := range t.Figures {
			text := cellText(x.Values[f.Name])
			if why := x.Odd[f.Name]; why != "" {
				text = "(" + why + ")"
			}
			row = append(row, text)
		}
		if compared {
			for _, f := range t.Figures {
				row = append(row, cellText(x.Before[f.Name]))
			}
		}
		g.add(row...)
	}
	for i := range t.Groups {
		add(&t.Groups[i])
	}
	if t.Others != nil {
		add(t.Others)
	}
	if a.output != "table" {
		return a.show(t, g)
	}
	lines(a.out, "%s\n%s\n", t.Name, t.Says)
	if len(t.Groups) == 0 {
		lines(a.out, "No rows are counted.")
	} else {
		a.table(g)
	}
	if len(t.By) > 0 && len(t.Groups) > 1 {
		total := make([]string, 0, len(t.Figures))
		for _, f := range t.Figures {
			total = append(total, f.Name+" "+cellText(t.Total.Values[f.Name]))
		}
		lines(a.out, "All together: %s.", strings.Join(total, ", "))
	}
	if t.NotThan != "" {
		lines(a.out, "Not compared: %s.", t.NotThan)
	}
	if t.Skipped > len(t.Passed) {
		lines(a.out, "%s skipped because of odd cells.", plural(t.Skipped, "row"))
	}
	a.passedOver(t.Passed)
	return nil
}
