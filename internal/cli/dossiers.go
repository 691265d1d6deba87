package cli

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

// dossierCmd makes the commands for the pages of rows.
func (a *app) dossierCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "dossier", Short: "Open, show, edit or close the pages of rows", RunE: needsCommand}
	for _, sub := range a.defining("dossiers", "dossier") {
		if sub.Name() == "show" { // of a page, here
			sub.Use = "pattern TRACKER DOSSIER"
		}
		cmd.AddCommand(sub)
	}
	cmd.AddCommand(a.openPagesCmd(), a.closePagesCmd(), a.pageShowCmd(), a.savePagesCmd(), a.pageSetCmd(), a.pageLogCmd())
	return cmd
}

// pagesListing lists a tracker's dossiers, or the pages of one.
func (a *app) pagesListing(dossiers *cobra.Command) *cobra.Command {
	list := dossiers.RunE
	dossiers.Use, dossiers.Short, dossiers.Args = "dossiers TRACKER [DOSSIER]", "List a tracker's dossiers, or the pages of one", cobra.RangeArgs(1, 2)
	dossiers.RunE = func(cmd *cobra.Command, given []string) error {
		if len(given) == 1 {
			return list(cmd, given)
		}
		c, err := a.client()
		if err != nil {
			return err
		}
		all, err := c.PagesOf(cmd.Context(), given[0], given[1])
		if err != nil {
			return err
		}
		if a.output == "table" && len(all) == 0 {
			lines(a.out, "No pages yet. Open them with kavlo dossier open %q %q.", given[0], given[1])
			return nil
		}
		g := &grid{heads: []string{"title", "row", "in", "address"}}
		for _, p := range all {
			in := p.In
			if p.Archived {
				in = "(archived: the row was deleted)"
			}
			g.add(p.Title, p.Row, in, p.Address)
		}
		return a.show(all, g)
	}
	return dossiers
}

func (a *app) openPagesCmd() *cobra.Command {
	var preview bool
	var limit int
	cmd := &cobra.Command{Use: "open TRACKER DOSSIER [ROW ...]", Short: "Open the pages of rows that have none", Args: atLeast("TRACKER", "DOSSIER"),
		Example: "  kavlo dossier open \"Touring loans\" \"Venue file\" --limit 40 --preview",
		RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			set, err := c.OpenPages(cmd.Context(), client.How{Preview: preview}, given[0], given[1], wire.Pages{Rows: given[2:], Limit: limit})
			if err != nil {
				return err
			}
			return a.pagesDone(set, func(o *opened) string {
				all := o.Opened + o.Left
				says := fmt.Sprintf("%d of %d opened", o.Opened, all)
				if set.Preview {
					says = fmt.Sprintf("%d of %d would be opened", o.Opened, all)
				}
				if o.There == 1 {
					return says + ", 1 was there."
				}
				return fmt.Sprintf("%s, %d were there.", says, o.There)
			})
		}}
	cmd.Flags().IntVar(&limit, "limit", 0, "new pages at most; 0: all")
	previewFlag(cmd, &preview)
	return cmd
}

func (a *app) closePagesCmd() *cobra.Command {
	var preview, all bool
	cmd := &cobra.Command{Use: "close TRACKER DOSSIER [PAGE ...]", Short: "Close pages with their logs, by title or row; undo brings them back", Args: atLeast("TRACKER", "DOSSIER"),
		RunE: func(cmd *cobra.Command, given []string) error {
			if all == (len(given) > 2) {
				return usage("name the pages, or say --all")
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			set, err := c.ClosePages(cmd.Context(), client.How{Preview: preview}, given[0], given[1], wire.Pages{Rows: given[2:]})
			if err != nil {
				return err
			}
			return a.pagesDone(set, func(o *opened) string {
				if set.Preview {
					return plural(o.Closed, "page") + " would be closed."
				}
				return plural(o.Closed, "page") + " closed."
			})
		}}
	cmd.Flags().BoolVar(&all, "all", false, "every page of the dossier")
	previewFlag(cmd, &preview)
	return cmd
}

// opened is what a run that opens or closes pages says.
type opened struct {
	Opened, Closed, There, Left, Skipped int
	Passed                               []wire.PassedOver
}

func (a *app) pagesDone(set *wire.ChangeSet, says func(*opened) string) error {
	if a.output != "table" {
		return a.changeSet(set)
	}
	o := &opened{}
	if text, err := json.Marshal(set.Detail); err != nil || json.Unmarshal(text, o) != nil {
		return a.changeSet(set)
	}
	if set.Preview {
		lines(a.out, "Preview only. No changes made.")
	}
	a.changes(set.Changes, set.More)
	lines(a.out, "%s", says(o))
	a.passedOver(o.Passed)
	if !set.Preview && set.Seq > 0 {
		lines(a.out, "Saved as change set %d. To undo: kavlo undo %d", set.Seq, set.Seq)
	}
	return nil
}

func (a *app) savePagesCmd() *cobra.Command {
	return &cobra.Command{Use: "save TRACKER DOSSIER FILE [PAGE ...]", Short: "Save pages as a workbook, a sheet for each behind an index", Args: atLeast("TRACKER", "DOSSIER", "FILE"),
		Long:    "Save pages as a workbook: a sheet for each, with its facts, figures, tables and log, behind an index. All pages, unless some are named by title or row.",
		Example: "  kavlo dossier save \"Touring loans\" \"Venue file\" venues.xlsx",
		RunE: func(cmd *cobra.Command, given []string) error {
			if ending := filepath.Ext(given[2]); !strings.EqualFold(ending, ".xlsx") {
				return usage("pages are saved as a workbook: end the name %q in .xlsx", given[2])
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			size, err := replaceFile(given[2], func(f *os.File) error { return c.SavePages(cmd.Context(), given[0], given[1], given[3:], f) })
			if err != nil {
				return err
			}
			lines(a.out, "Wrote %s (%d bytes).", given[2], size)
			return nil
		}}
}

// patternFlag says of which dossier a page is.
func patternFlag(cmd *cobra.Command, pattern *string) {
	cmd.Flags().StringVar(pattern, "dossier", "", "of which dossier the page is, where a row has pages of several")
}

func (a *app) pageShowCmd() *cobra.Command {
	var pattern string
	cmd := &cobra.Command{Use: "show TRACKER PAGE", Short: "Show the page of a row, by its title or the row's id", Args: args("TRACKER", "PAGE"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		p, err := c.Page(cmd.Context(), given[0], given[1], pattern)
		if err != nil {
			return err
		}
		if a.output != "table" {
			g := &grid{heads: []string{"part", "name", "value"}}
			for _, f := range p.Fields {
				g.add(f.Part, f.Name, cellText(fieldOf(p, f)))
			}
			return a.show(p, g)
		}
		a.page(p)
		return nil
	}}
	patternFlag(cmd, &pattern)
	return cmd
}

func fieldOf(p *wire.Page, f wire.PageField) any {
	switch f.Part {
	case "fact":
		return p.Facts[f.Name]
	case "own":
		return p.Own[f.Name]
	}
	return p.Figures[f.Name]
}

// page prints a page as a terminal shows it.
func (a *app) page(p *wire.Page) {
	where := p.Pattern + ", row " + p.Row + " in " + p.In
	if p.Archived {
		where = p.Pattern + ", archived: row " + p.Row + " was deleted"
	}
	lines(a.out, "%s\n%s\n", p.Title, where)
	width := 0
	for _, f := range p.Fields {
		width = max(width, len([]rune(f.Name)))
	}
	part := ""
	for _, f := range p.Fields {
		if f.Part != part && part != "" {
			lines(a.out, "")
		}
		part = f.Part
		text := blankOr(cellText(fieldOf(p, f)))
		if why := p.Odd[f.Name]; why != "" {
			if text == "blank" {
				text = ""
			}
			text = strings.TrimSpace(text + " (" + why + ")")
		}
		lines(a.out, "%s%s  %s", f.Name, strings.Repeat(" ", width-len([]rune(f.Name))), text)
		if f.Note != "" {
			lines(a.out, "%s  note: %s", strings.Repeat(" ", width), f.Note)
		}
	}
	for _, t := range p.Tables {
		lines(a.out, "\n%s (%s of %s)", t.Name, plural(t.Total, "row"), t.Tab)
		g := &grid{heads: t.Columns}
		for _, r := range t.Rows {
			row := make([]string, len(t.Columns))
			for i, name := range t.Columns {
				row[i] = cellText(r[name])
			}
			g.add(row...)
		}
		if len(g.rows) > 0 {
			a.table(g)
		}
		if t.Skipped > 0 {
			lines(a.out, "%s skipped because of odd cells.", plural(t.Skipped, "row"))
		}
	}
	if p.LogForm != nil {
		lines(a.out, "\nLog")
		a.pageLog(p)
	}
	lines(a.out, "\n%s", p.Address)
}

func (a *app) pageLog(p *wire.Page) {
	if len(p.Log) == 0 {
		lines(a.out, "No entries yet.")
		return
	}
	a.table(logGrid(p))
	if p.Entries > len(p.Log) {
		lines(a.out, "... and %d more", p.Entries-len(p.Log))
	}
}

func logGrid(p *wire.Page) *grid {
	g := &grid{}
	for _, f := range p.LogForm {
		g.heads = append(g.heads, f.Name)
	}
	for _, e := range p.Log {
		row := make([]string, len(p.LogForm))
		for i, f := range p.LogForm {
			row[i] = cellText(e.Cells[f.Name])
		}
		g.add(row...)
	}
	return g
}

func (a *app) pageSetCmd() *cobra.Command {
	var pattern string
	var preview, keepOdd bool
	var noted []string
	cmd := &cobra.Command{Use: "set TRACKER PAGE [Field=value ...]", Short: "Set facts of a page, which sets its row's cells, or its own fields", Args: atLeast("TRACKER", "PAGE"),
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			edit := wire.PageEdit{KeepOdd: keepOdd}
			var err error
			if edit.Cells, err = cells(given[2:]); err != nil {
				return nil, err
			}
			if edit.Notes, err = byColumn(noted); err != nil {
				return nil, err
			}
			if len(edit.Cells)+len(noted) == 0 {
				return nil, usage("Field=value or --note is missing")
			}
			return c.SetPage(cmd.Context(), client.How{Preview: preview}, given[0], given[1], pattern, edit)
		})}
	cmd.Flags().StringArrayVar(&noted, "note", nil, "Field=text: the note on a fact or a field; may be given again")
	cmd.Flags().BoolVar(&keepOdd, "keep-odd", false, "let a value that does not fit take the place of one that does")
	patternFlag(cmd, &pattern)
	previewFlag(cmd, &preview)
	return cmd
}

func (a *app) pageLogCmd() *cobra.Command {
	var pattern string
	var preview bool
	cmd := &cobra.Command{Use: "log TRACKER PAGE [Column=value ...]", Short: "List the log of a page, or add an entry to it", Args: atLeast("TRACKER", "PAGE"),
		Example: "  kavlo dossier log \"Touring loans\" \"North Pier\" What=\"Walked through with the fire officer\"",
		RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			if len(given) > 2 {
				values, err := cells(given[2:])
				if err != nil {
					return err
				}
				set, err := c.AddEntry(cmd.Context(), client.How{Preview: preview}, given[0], given[1], pattern, values)
				if err != nil {
					return err
				}
				return a.changeSet(set)
			}
			p, err := c.Page(cmd.Context(), given[0], given[1], pattern)
			if err != nil {
				return err
			}
			if a.output != "table" {
				return a.show(p.Log, logGrid(p))
			}
			a.pageLog(p)
			return nil
		}}
	patternFlag(cmd, &pattern)
	previewFlag(cmd, &preview)
	return cmd
}
