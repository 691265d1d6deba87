package cli

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	"golang.org/x/term"

	"example.org/kavlo/internal/wire"
)

// grid is a result as a table.
type grid struct {
	heads []string
	rows  [][]string
	wide  string // the column that may get as wide as a sentence
}

func (g *grid) add(cells ...string) { g.rows = append(g.rows, cells) }

// show lays a result out as the user asked: v as JSON, or g as a table or CSV.
func (a *app) show(v any, g *grid) error {
	format, err := a.format()
	if err != nil {
		return err
	}
	switch format {
	case "json":
		return a.json(v)
	case "csv":
		w := csv.NewWriter(a.out)
		if err := w.Write(g.heads); err != nil {
			return err
		}
		return w.WriteAll(g.rows)
	}
	a.table(g)
	return nil
}

func (a *app) json(v any) error {
	e := json.NewEncoder(a.out)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(v)
}

// widest is how wide a cell of a table may get, sentence one of a wide column.
const (
	widest   = 40
	sentence = 120
)

func (a *app) table(g *grid) {
	t := table.NewWriter()
	style := table.StyleLight
	style.Options = table.Options{SeparateHeader: true}
	style.Box.PaddingLeft, style.Box.PaddingRight = "", "  "
	style.Format.Header = text.FormatDefault
	t.SetStyle(style)
	var configs []table.ColumnConfig
	head := table.Row{}
	for i, h := range g.heads {
		head = append(head, h)
		width := widest
		if h == g.wide {
			width = sentence
		}
		configs = append(configs, table.ColumnConfig{Number: i + 1, WidthMax: width, WidthMaxEnforcer: trimTo})
		if g.numeric(i) {
			configs[i].Align = text.AlignRight
			configs[i].AlignHeader = text.AlignRight
		}
	}
	t.SetColumnConfigs(configs)
	t.AppendHeader(head)
	for _, r := range g.rows {
		row := table.Row{}
		for _, c := range r {
			row = append(row, strings.ReplaceAll(c, "\n", " "))
		}
		t.AppendRow(row)
	}
	if f, ok := a.out.(*os.File); ok {
		if width, _, err := term.GetSize(int(f.Fd())); err == nil {
			t.Style().Size.WidthMax = width
		}
	}
	for line := range strings.Lines(t.Render()) {
		fmt.Fprintln(a.out, strings.TrimRight(line, " \n"))
	}
}

func trimTo(s string, width int) string {
	r := []rune(s)
	if len(r) <= width {
		return s
	}
	return string(r[:width-1]) + "…"
}

// numeric reports whether a column holds nothing but numbers.
func (g *grid) numeric(col int) bool {
	seen := false
	for _, r := range g.rows {
		if col >= len(r) || r[col] == "" {
			continue
		}
		seen = true
		if strings.Trim(r[col], "0123456789.-") != "" || strings.HasPrefix(r[col], "0") && len(r[col]) > 1 && r[col][1] != '.' || strings.Count(r[col], "-") > 1 {
			return false
		}
	}
	return seen
}

// cellText gives a JSON value as a table shows it.
func cellText(v any) string {
	switch x := v.(type) {
	case nil:
		return ""
	case string:
		return x
	case bool:
		if x {
			return "yes"
		}
		return "no"
	case []any:
		names := make([]string, len(x))
		for i, n := range x {
			names[i] = cellText(n)
		}
		return strings.Join(names, "; ")
	case map[string]any:
		var parts []string
		for _, k := range sortedKeys(x) {
			parts = append(parts, k+": "+cellText(x[k]))
		}
		return strings.Join(parts, ", ")
	}
	return fmt.Sprint(v)
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

func blankOr(s string) string {
	if s == "" {
		return "blank"
	}
	return s
}

// changeSet shows what was changed, or would be.
func (a *app) changeSet(set *wire.ChangeSet) error {
	format, err := a.format()
	if err != nil {
		return err
	}
	if format != "table" {
		g := &grid{heads: []string{"kind", "tab", "row", "label", "column", "before", "after", "because"}}
		for _, c := range set.Changes {
			g.add(c.Kind, c.Tab, c.Row, c.Label, c.Column, cellText(c.Before), cellText(c.After), c.Because)
		}
		return a.show(set, g)
	}
	if set.Preview {
		fmt.Fprintln(a.out, "Preview only. No changes made.")
	}
	a.changes(set.Changes, set.More)
	for _, f := range set.Followed {
		fmt.Fprintln(a.out, "  "+f)
	}
	for _, r := range set.Read {
		fmt.Fprintf(a.out, "%s of %s: read %q as %s\n", r.Column, r.Label, r.Value, r.As)
	}
	a.oddCells(set.Odd)
	for _, w := range set.Warnings {
		fmt.Fprintln(a.out, "Warning: "+w)
	}
	a.passedOver(set.PassedOver)
	switch {
	case len(set.Changes) == 0 && len(set.Followed) > 0:
	case len(set.Changes) == 0:
		fmt.Fprintln(a.out, unchanged(set))
	case !set.Preview && set.Seq > 0:
		fmt.Fprintf(a.out, "Saved as change set %d. To undo: kavlo undo %d\n", set.Seq, set.Seq)
	}
	return nil
}

// unchanged says why nothing was changed: because all is as it should be, or because what
// should have changed could not.
func unchanged(set *wire.ChangeSet) string {
	switch {
	case set.Outcome == wire.PartlyDone:
		return "Nothing could be changed."
	case len(set.PassedOver) > 0:
		return "No other changes needed."
	}
	return "No changes needed."
}

// fewChanges are told one by one; more are laid out as a table of at most
// tabledChanges. JSON and CSV hold them all.
const (
	fewChanges    = 8
	tabledChanges = 15
)

func (a *app) changes(changes []wire.Change, more int) {
	if len(changes) <= fewChanges {
		for _, c := range changes {
			fmt.Fprintln(a.out, changeLine(c))
		}
		return
	}
	g := &grid{heads: []string{"change", "tab", "row", "column", "before", "after", "because"}}
	for i, c := range changes {
		if i == tabledChanges {
			more += len(changes) - tabledChanges
			break
		}
		before, after := cellText(c.Before), cellText(c.After)
		g.add(c.Kind, c.Tab, rowName(c), c.Column, before, after, c.Because)
	}
	a.table(g)
	if more > 0 {
		fmt.Fprintf(a.out, "... and %d more\n", more)
	}
}

func rowName(c wire.Change) string {
	if c.Label == "" || c.Label == c.Row {
		return c.Row
	}
	return c.Label + " (" + c.Row + ")"
}

func plainOr(look string) string {
	if look == "" {
		return "plain"
	}
	return look
}

func changeLine(c wire.Change) string {
	name := rowName(c)
	switch c.Kind {
	case "set":
		return fmt.Sprintf("%s: %s %s -> %s", name, c.Column, blankOr(cellText(c.Before)), blankOr(cellText(c.After)))
	case "note":
		return fmt.Sprintf("%s: note on %s %s -> %s", name, c.Column, blankOr(cellText(c.Before)), blankOr(cellText(c.After)))
	case "look":
		return fmt.Sprintf("%s: style of %s %s -> %s", name, c.Column, plainOr(cellText(c.Before)), plainOr(cellText(c.After)))
	case "move":
		if c.Before == c.After {
			return fmt.Sprintf("%s: moved within %s", name, cellText(c.After))
		}
		return fmt.Sprintf("%s: moved from %s to %s", name, cellText(c.Before), cellText(c.After))
	case "add":
		return fmt.Sprintf("%s: added to %s", name, c.Tab)
	case "remove":
		return fmt.Sprintf("%s: deleted from %s", name, c.Tab)
	}
	before, after := cellText(c.Before), cellText(c.After)
	switch {
	case before == "":
		return "created tracker " + after
	case after == "":
		return "deleted tracker " + before
	}
	return "changed setup of " + after + "\n  " + strings.Join(c.Differences, "\n  ")
}

func (a *app) passedOver(over []wire.PassedOver) {
	if len(over) == 0 {
		return
	}
	fmt.Fprintf(a.out, "%s skipped:\n", plural(len(over), "row"))
	for i, p := range over {
		if i == 10 {
			fmt.Fprintf(a.out, "  ... and %d more\n", len(over)-10)
			break
		}
		fmt.Fprintf(a.out, "  %s (%s in %s): %s\n", p.Label, p.Row, p.Tab, p.Why)
	}
}

// oddCells names what was written and does not fit.
func (a *app) oddCells(odd []wire.OddCell) {
	for i, o := range odd {
		if i == 10 {
			fmt.Fprintf(a.out, "... and %s more\n", plural(len(odd)-10, "odd cell"))
			break
		}
		hint := ""
		if o.Hint != "" {
			hint = ": " + o.Hint
		}
		fmt.Fprintf(a.out, "Odd cell, %s of %s: %q %s%s\n", o.Column, o.Label, o.Value, o.Why, hint)
	}
}

// plural gives a count with its noun, which gets an s for all but one.
func plural(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return fmt.Sprintf("%d %ss", n, noun)
}

// lines writes lines, for results that are sentences.
func lines(w io.Writer, format string, args ...any) { fmt.Fprintf(w, format+"\n", args...) }
