package cli

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

func (a *app) rowsCmd() *cobra.Command {
	var which client.Which
	cmd := &cobra.Command{Use: "rows TRACKER/TAB", Short: "List a tab's rows", Args: args("TRACKER/TAB"),
		Example: `  kavlo rows "Touring loans/On display" --where 'Arrived before today - 15 days and [Condition report] is blank'`,
		RunE: func(cmd *cobra.Command, given []string) error {
			tracker, name, err := place(given[0])
			if err != nil {
				return err
			}
			tab, err := a.tab(cmd, tracker, name)
			if err != nil {
				return err
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			if which.AsOf, err = timeText(which.AsOf); err != nil {
				return err
			}
			found, err := c.Rows(cmd.Context(), tracker, name, which)
			if err != nil {
				return err
			}
			return a.rows(tab, found)
		}}
	choosing(cmd, &which)
	cmd.Flags().StringVar(&which.AsOf, "as-of", "", "the rows as they stood at a time, such as 2026-03-31T08:30, on this machine's clock")
	return cmd
}

// choosing are the flags by which rows and columns of a tab are chosen and put in order.
func choosing(cmd *cobra.Command, which *client.Which) {
	f := cmd.Flags()
	f.StringVar(&which.View, "view", "", "a view of the tab, by name: its rows, order and columns")
	f.StringVar(&which.Where, "where", "", "a clause: only the rows for which it holds")
	f.StringVar(&which.Words, "words", "", "only rows that contain these words, in any column")
	f.StringVar(&which.Columns, "columns", "", "names separated by commas: only these columns")
	f.StringVar(&which.Order, "order", "", "sort by these columns, as in \"Due, Value descending\"")
}

// oddMark stands before what does not fit its column.
const oddMark = "?"

// timeText reads a time as people write it, on this machine's clock unless it
// names a zone, and gives it as RFC 3339 does.
func timeText(s string) (string, error) {
	if s == "" {
		return "", nil
	}
	if t, err := time.Parse(time.RFC3339Nano, s); err == nil {
		return t.Format(time.RFC3339Nano), nil
	}
	for _, layout := range []string{"2006-01-02T15:04:05", "2006-01-02 15:04:05", "2006-01-02T15:04", "2006-01-02 15:04", "2006-01-02"} {
		if t, err := time.ParseInLocation(layout, s, time.Local); err == nil {
			return t.Format(time.RFC3339), nil
		}
	}
	return "", usage("%q is not a time: write it like 2026-03-31T08:30", s)
}

func (a *app) rows(tab *wire.Tab, found *wire.Rows) error {
	names := found.Columns
	if names == nil {
		for _, col := range tab.Columns {
			names = append(names, col.Name)
		}
	}
	g := &grid{heads: append([]string{"row"}, names...)}
	for _, r := range found.Rows {
		line := []string{r.ID}
		for _, n := range names {
			text := cellText(r.Cells[n])
			if slices.Contains(r.Odd, n) {
				text = oddMark + text
			}
			line = append(line, text)
		}
		g.add(line...)
	}
	if err := a.show(found.Rows, g); err != nil || a.output != "table" {
		return err
	}
	lines(a.out, "%s", plural(len(found.Rows), "row"))
	a.passedOver(found.PassedOver)
	return nil
}

func (a *app) rowCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "row", Short: "Add, show, set, move, order or delete rows", RunE: needsCommand}
	var preview bool
	var version int64
	var at wire.RowSpot
	how := func() client.How { return client.How{Preview: preview} }
	add := &cobra.Command{Use: "add TRACKER/TAB Column=value ...", Short: "Add a row to a tab, at its end unless a place is named", Args: atLeast("TRACKER/TAB", "Column=value"),
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			tracker, tab, err := place(given[0])
			if err != nil {
				return nil, err
			}
			values, err := cells(given[1:])
			if err != nil {
				return nil, err
			}
			return c.AddRowsAt(cmd.Context(), how(), tracker, tab, []map[string]any{values}, at)
		})}
	spots(add, &at)
	show := &cobra.Command{Use: "show TRACKER/TAB ROW", Short: "Show a row with its notes, styles and history", Args: args("TRACKER/TAB", "ROW"), RunE: a.rowShow}
	var noted, looked, filed []string
	var keepOdd bool
	set := &cobra.Command{Use: "set TRACKER/TAB ROW [Column=value ...]", Short: "Set cells of a row, their notes and styles", Args: atLeast("TRACKER/TAB", "ROW"),
		Example: `  kavlo row set "Touring loans/Requested" "Enamelled sextant" Stage=Agreed
  kavlo row set "Touring loans/Requested" "Enamelled sextant" --style "Object=fill amber, bold" --note "Object=Frame is loose"`,
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			tracker, tab, err := place(given[0])
			if err != nil {
				return nil, err
			}
			edit := wire.RowEdit{Version: version, KeepOdd: keepOdd}
			if edit.Cells, err = cells(given[2:]); err != nil {
				return nil, err
			}
			if edit.Notes, err = byColumn(noted); err != nil {
				return nil, err
			}
			if edit.Styles, err = byColumn(looked); err != nil {
				return nil, err
			}
			err = attachEach(filed, edit.Cells, func(column, name string, text []byte) (*wire.Attached, error) {
				return c.Attach(cmd.Context(), tracker, tab, column, name, text)
			})
			if err != nil {
				return nil, err
			}
			if len(edit.Cells)+len(noted)+len(looked) == 0 {
				return nil, usage("Column=value, --file, --note or --style is missing")
			}
			return c.SetRow(cmd.Context(), how(), tracker, tab, given[1], edit)
		})}
	set.Flags().Int64Var(&version, "version", 0, "only if the row is still at this version")
	set.Flags().BoolVar(&keepOdd, "keep-odd", false, "let a value that does not fit its column take the place of one that does")
	set.Flags().StringArrayVar(&noted, "note", nil, "Column=text: the note on a cell; may be given again")
	set.Flags().StringArrayVar(&looked, "style", nil, "Column=style, as in \"fill amber, bold\" or plain; may be given again")
	set.Flags().StringArrayVar(&filed, "file", nil, "Column=path: a file that the cell is to hold; may be given again")
	formerly(set, "look", "style")
	move := &cobra.Command{Use: "move TRACKER/TAB ROW TAB", Short: "Move a row to another tab", Args: args("TRACKER/TAB", "ROW", "TAB"),
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			tracker, tab, err := place(given[0])
			if err != nil {
				return nil, err
			}
			return c.MoveRow(cmd.Context(), how(), tracker, tab, given[1], given[2])
		})}
	var where string
	remove := &cobra.Command{Use: "delete TRACKER/TAB [ROW]", Aliases: []string{"remove"}, Short: "Delete a row, or the rows that match a clause; undo brings them back", Args: atLeast("TRACKER/TAB"),
		Example: "  kavlo row delete \"Touring loans/Returned\" --where 'Returned before today - 2 years' --preview",
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			tracker, tab, err := place(given[0])
			if err != nil {
				return nil, err
			}
			switch {
			case len(given) > 2 || (len(given) == 2) == (where != ""):
				return nil, usage("name one ROW, or say which rows with --where")
			case where != "":
				return c.RemoveRows(cmd.Context(), how(), tracker, tab, where)
			}
			return c.RemoveRow(cmd.Context(), how(), tracker, tab, given[1])
		})}
	remove.Flags().StringVar(&where, "where", "", "a clause: the rows for which it holds")
	order := &cobra.Command{Use: "order TRACKER/TAB ROW ...", Short: "Reorder rows within their tab", Args: atLeast("TRACKER/TAB", "ROW"),
		Example: `  kavlo row order "Touring loans/Requested" "Enamelled sextant" --before "Painted ship's bell"`,
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			tracker, tab, err := place(given[0])
			if err != nil {
				return nil, err
			}
			if at.Before+at.After == "" {
				return nil, usage("--before or --after is missing: the row before or after which they go")
			}
			var ids []string
			for _, name := range given[1:] {
				row, err := c.Row(cmd.Context(), tracker, tab, name)
				if err != nil {
					return nil, err
				}
				ids = append(ids, row.ID)
			}
			return c.PlaceRows(cmd.Context(), how(), tracker, tab, ids, at)
		})}
	spots(order, &at)
	for _, sub := range []*cobra.Command{add, set, move, order, remove} {
		previewFlag(sub, &preview)
	}
	cmd.AddCommand(add, show, set, move, order, remove, a.rowFileCmd())
	return cmd
}

// spots are the flags by which a place in a tab is named.
func spots(cmd *cobra.Command, at *wire.RowSpot) {
	cmd.Flags().StringVar(&at.Before, "before", "", "the row before which it goes")
	cmd.Flags().StringVar(&at.After, "after", "", "the row after which it goes")
}

// atLeast is like args, with more of the last allowed.
func atLeast(names ...string) cobra.PositionalArgs {
	return func(_ *cobra.Command, given []string) error {
		if len(given) < len(names) {
			return usage("%s is missing", names[len(given)])
		}
		return nil
	}
}

func (a *app) rowShow(cmd *cobra.Command, given []string) error {
	tracker, tab, err := place(given[0])
	if err != nil {
		return err
	}
	c, err := a.client()
	if err != nil {
		return err
	}
	r, err := c.Row(cmd.Context(), tracker, tab, given[1])
	if err != nil {
		return err
	}
	g := &grid{heads: []string{"column", "value", "note", "style"}}
	shape, err := a.tab(cmd, tracker, r.TabID)
	if err != nil {
		return err
	}
	for _, c := range shape.Columns {
		text := cellText(r.Cells[c.Name])
		if slices.Contains(r.Odd, c.Name) {
			text = oddMark + text
		}
		g.add(c.Name, text, r.Notes[c.Name], r.Styles[c.Name])
	}
	for _, name := range sortedKeys(r.Carried) {
		g.add(name+" (not shown in this tab)", cellText(r.Carried[name]), r.Notes[name], r.Styles[name])
	}
	if err := a.show(r, g); err != nil || a.output != "table" {
		return err
	}
	history, err := c.RowHistory(cmd.Context(), tracker, tab, given[1])
	if err != nil {
		return err
	}
	for _, name := range r.Odd {
		if why := r.OddWhy[name]; why != "" {
			lines(a.out, "%s%s does not fit: %q %s", oddMark, name, cellText(r.Cells[name]), why)
		} else { // a computed one, which says itself what stands in the way
			lines(a.out, "%s%s has no value: %s", oddMark, name, cellText(r.Cells[name]))
		}
	}
	lines(a.out, "%s, row %s in %s at version %d. History, newest first:", r.Label, r.ID, r.Tab, r.Version)
	for _, h := range history {
		lines(a.out, "  %s  %s  %s", h.At.Local().Format("2006-01-02 15:04"), h.Who, h.Says)
	}
	return nil
}

func (a *app) whyCmd() *cobra.Command {
	return &cobra.Command{Use: "why TRACKER/TAB ROW [COLUMN]", Short: "Explain a row's tab or a cell's value",
		Args: func(cmd *cobra.Command, given []string) error {
			if len(given) == 3 {
				return nil
			}
			return args("TRACKER/TAB", "ROW")(cmd, given)
		},
		RunE: func(cmd *cobra.Command, given []string) error {
			tracker, tab, err := place(given[0])
			if err != nil {
				return err
			}
			column := ""
			if len(given) == 3 {
				column = given[2]
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			w, err := c.Why(cmd.Context(), tracker, tab, given[1], column)
			if err != nil {
				return err
			}
			g := &grid{heads: []string{"at", "who", "what", "change set", "run"}}
			for _, l := range w.Chain {
				g.add(l.At.Local().Format("2006-01-02 15:04:05"), l.Who, l.Says, fmt.Sprint(l.Seq), l.Run)
			}
			if a.output != "table" {
				return a.show(w, g)
			}
			what := w.Label + " in " + w.Tab
			if w.Column != "" {
				what = w.Column + " of " + what
			}
			if len(w.Chain) == 0 {
				lines(a.out, "No changes to %s yet.", what)
				return nil
			}
			lines(a.out, "%s (row %s):", what, w.Row)
			for i, l := range w.Chain {
				lines(a.out, "%s%s", strings.Repeat("  ", i+1), l.Says)
			}
			last := w.Chain[len(w.Chain)-1]
			lines(a.out, "On %s, change set %d, by %s.", last.At.Local().Format("2006-01-02 at 15:04:05"), last.Seq, last.Who)
			return nil
		}}
}
