package cli

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/reading"
)

func (a *app) readCmd() *cobra.Command {
	return &cobra.Command{Use: "read FILE", Short: "List the tables in a file; needs no service", Args: args("FILE"), RunE: func(_ *cobra.Command, given []string) error {
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
				lines(a.out, "%s: %s", t.Range, plural(t.Rows, "row"))
				for _, l := range t.LeftOut {
					lines(a.out, "  Ignored %s: %s", l.Range, l.Reason)
				}
				for _, d := range t.Doubts {
					lines(a.out, "  To check: %s", d)
				}
			}
			for _, l := range s.LeftOut {
				lines(a.out, "Ignored %s: %s", l.Range, l.Reason)
			}
			if len(s.Tables) == 0 {
				lines(a.out, "no table%s", onSheet(s.Name))
			}
		}
		return nil
	}}
}

// onSheet says on which sheet something is; a comma-separated file has none.
func onSheet(name string) string {
	if name == "" {
		return " in it"
	}
	return fmt.Sprintf(" on sheet %q", name)
}

func (a *app) importCmd() *cobra.Command {
	in := client.Import{}
	var preview bool
	var said corrections
	cmd := &cobra.Command{Use: "import FILE --into TRACKER", Short: "Import tables from a workbook or CSV file", Args: args("FILE"),
		Long: `Takes the tables that a file holds into tabs of a tracker. Tabs and columns that
are not there are made. With --key, rows are added or updated by that column;
without it, rows that were not imported before are added. Importing the same
file twice changes nothing. What was read wrongly is corrected with --range,
--header-rows, --type and --leave-out; see first with --preview, or kavlo read.`,
		Example: "  kavlo import loans.xlsx --into \"Touring loans\" --tab Requested --key \"Loan no\" --preview",
		RunE: func(cmd *cobra.Command, given []string) error {
			if in.Tracker == "" {
				return usage("name the tracker: --into TRACKER")
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
			if in.Corrections, err = said.of(given[0], in.Sheet); err != nil {
				return err
			}
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
				lines(a.out, "Preview only. No changes made.")
			case set.Seq > 0:
				lines(a.out, "Saved as change set %d. To undo: kavlo undo %d", set.Seq, set.Seq)
			default:
				lines(a.out, "No changes needed.")
			}
			for _, s := range set.Followed {
				lines(a.out, "  %s", s)
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
	said.add(f)
	previewFlag(cmd, &preview)
	return cmd
}

// corrections are what flags say of the one table that is taken in.
type corrections struct {
	place  string
	header int
	types  map[string]string
	skip   []string
}

func (c *corrections) add(f *pflag.FlagSet) {
	f.StringVar(&c.place, "range", "", "where the table is, header and rows, where it was read otherwise: B3:F20")
	f.IntVar(&c.header, "header-rows", -1, "how many rows of header it has, where that was read otherwise; 0: none")
	f.StringToStringVar(&c.types, "type", nil, "a column's type, where it was read otherwise: Due=text")
	f.StringSliceVar(&c.skip, "leave-out", nil, "columns to leave out")
}

// of gives the corrections for a file: those of flags are about the one table
// that is taken in.
func (c *corrections) of(file string, sheetName string) ([]reading.Correction, error) {
	if c.place == "" && c.header < 0 && len(c.types) == 0 && len(c.skip) == 0 {
		return nil, nil
	}
	r, err := formats.ReadFile(file)
	if err != nil {
		return nil, err
	}
	var at *reading.Sheet
	for i := range r.Sheets {
		s := &r.Sheets[i]
		if sheetName != "" && !strings.EqualFold(s.Name, sheetName) || sheetName == "" && s.Hidden {
			continue
		}
		if at != nil || len(s.Tables) > 1 && c.place == "" {
			return nil, usage("%s holds several tables: say which sheet's is meant (--sheet), or where it is (--range)", file)
		}
		at = s
	}
	if at == nil {
		return nil, fmt.Errorf("there is no sheet %q in %s", sheetName, file)
	}
	said := reading.Correction{Sheet: at.Name, Table: min(len(at.Tables), 1), Range: c.place}
	if c.header >= 0 {
		said.HeaderRows = &c.header
	}
	if err := r.Correct([]reading.Correction{said}); err != nil { // so that columns are those of the corrected table
		return nil, err
	}
	columns := at.Tables[max(said.Table-1, 0)].Columns
	find := func(name string) (int, error) {
		var names []string
		for i, col := range columns {
			if strings.EqualFold(col.Name, strings.TrimSpace(name)) {
				return i + 1, nil
			}
			names = append(names, col.Name)
		}
		return 0, fmt.Errorf("the table has no column %q: it has %s", name, strings.Join(names, ", "))
	}
	for _, name := range sortedKeys(c.types) {
		i, err := find(name)
		if err != nil {
			return nil, err
		}
		said.Columns = append(said.Columns, reading.ColumnCorrection{Column: i, Type: c.types[name]})
	}
	for _, name := range c.skip {
		i, err := find(name)
		if err != nil {
			return nil, err
		}
		said.Columns = append(said.Columns, reading.ColumnCorrection{Column: i, LeaveOut: true})
	}
	return []reading.Correction{said}, nil
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
