package cli

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/formats"
)

func (a *app) readCmd() *cobra.Command {
	return &cobra.Command{Use: "read FILE", Short: "Tell which tables a file holds; needs no service", Args: args("FILE"), RunE: func(_ *cobra.Command, given []string) error {
		r, err := formats.ReadFile(given[0])
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"sheet", "range", "column", "type", "reason", "odd"}, wide: "reason"}
		for _, s := range r.Sheets {
			for _, t := range s.Tables {
				for _, c := range t.Columns {
					odd := ""
					if len(c.Odd) > 0 {
						odd = fmt.Sprint(len(c.Odd))
					}
					g.add(s.Name, t.Range.String(), c.Name, c.Type, c.Reason, odd)
				}
			}
		}
		if err := a.show(r, g); err != nil || a.output != "table" {
			return err
		}
		for _, s := range r.Sheets {
			for _, t := range s.Tables {
				lines(a.out, "%s: %d rows", t.Range, t.Rows)
				for _, l := range t.LeftOut {
					lines(a.out, "  left out %s: %s", l.Range, l.Reason)
				}
				for _, d := range t.Doubts {
					lines(a.out, "  unsure: %s", d)
				}
			}
			for _, l := range s.LeftOut {
				lines(a.out, "left out %s: %s", l.Range, l.Reason)
			}
			if len(s.Tables) == 0 {
				lines(a.out, "no table on sheet %q", s.Name)
			}
		}
		return nil
	}}
}

func (a *app) importCmd() *cobra.Command {
	in := client.Import{}
	var preview bool
	cmd := &cobra.Command{Use: "import FILE --into TRACKER", Short: "Take the tables of a workbook or comma-separated file in", Args: args("FILE"),
		Long: `Takes the tables that a file holds into tabs of a tracker. Tabs and columns that
are not there are made. With --key, rows are added or updated by that column;
without it, rows that were not taken in before are added. Taking in the same
file twice changes nothing.`,
		Example: "  kavlo import loans.xlsx --into \"Touring loans\" --tab Requested --key \"Loan no\" --preview",
		RunE: func(cmd *cobra.Command, given []string) error {
			if in.Tracker == "" {
				return usage("say into which tracker: --into TRACKER")
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			f, err := os.Open(given[0])
			if err != nil {
				return fmt.Errorf("opening the file: %w", err)
			}
			defer f.Close()
			in.Name = filepath.Base(given[0])
			set, err := c.Import(cmd.Context(), client.How{Preview: preview}, in, f)
			if err != nil {
				return err
			}
			if a.output != "table" {
				return a.changeSet(set)
			}
			a.importReport(set.Detail)
			switch {
			case preview:
				lines(a.out, "Preview: nothing was changed.")
			case set.Seq > 0:
				lines(a.out, "Done as change set %d. Take it back with: kavlo undo %d", set.Seq, set.Seq)
			default:
				lines(a.out, "Nothing to change: all is as it should be.")
			}
			for _, s := range set.Followed {
				lines(a.out, "  -> %s", s)
			}
			return nil
		}}
	f := cmd.Flags()
	f.StringVar(&in.Tracker, "into", "", "the tracker")
	f.BoolVar(&in.New, "new", false, "make the tracker")
	f.StringVar(&in.Zone, "zone", "", "time zone of a new tracker")
	f.StringVar(&in.Sheet, "sheet", "", "only the tables of this sheet")
	f.StringVar(&in.Tab, "tab", "", "the tab for the one table there is")
	f.StringVar(&in.Key, "key", "", "column by which rows are added or updated")
	previewFlag(cmd, &preview)
	return cmd
}

func (a *app) importReport(detail any) {
	d, _ := detail.(map[string]any)
	tables, _ := d["tables"].([]any)
	g := &grid{heads: []string{"sheet", "range", "tab", "rows", "added", "updated", "unchanged", "odd cells", "new columns"}}
	var troubles []string
	for _, t := range tables {
		m, _ := t.(map[string]any)
		taken, _ := m["taken"].(map[string]any)
		g.add(cellText(m["sheet"]), cellText(m["range"]), cellText(m["tab"]), cellText(m["rows"]), cellText(taken["added"]), cellText(taken["updated"]), cellText(taken["unchanged"]), cellText(taken["odd"]), cellText(m["new_columns"]))
		for _, doubt := range asList(m["doubts"]) {
			troubles = append(troubles, "unsure: "+cellText(doubt))
		}
		for _, tr := range asList(taken["troubles"]) {
			w, _ := tr.(map[string]any)
			troubles = append(troubles, fmt.Sprintf("not taken: %s %s: %s", cellText(w["where"]), cellText(w["key"]), cellText(w["why"])))
		}
	}
	a.table(g)
	for _, t := range troubles {
		lines(a.out, "%s", t)
	}
}

func asList(v any) []any {
	l, _ := v.([]any)
	return l
}
