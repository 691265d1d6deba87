package cli

import (
	"fmt"
	"github.com/spf13/cobra"

	"example.org/kavlo/internal/formats"
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
				for _, c := range t.Columns {
					switch {
					case c.Clause != "":
						lines(a.out, "  %s could be a computed column: %s", c.Name, c.Clause)
					case c.Why != "":
						lines(a.out, "  %s holds results of formulas: %s", c.Name, c.Why)
					}
				}
			}
			for _, l := range s.LeftOut {
				lines(a.out, "Ignored %s: %s", onRange(s.Name, l.Range.String()), l.Reason)
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

// onRange names a range with its sheet, as far as it has one.
func onRange(sheet, r string) string {
	if sheet == "" {
		return r
	}
	return sheet + "!" + r
}
