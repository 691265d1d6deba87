package cli

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/wire"
)

func (a *app) importCmd() *cobra.Command {
	in := client.Import{}
	var preview bool
	var said corrections
	cmd := &cobra.Command{Use: "import FILE --into TRACKER", Short: "Import tables from a workbook or CSV file", Args: args("FILE"),
		Long: `Takes the tables that a file holds into tabs of a tracker. Tabs and columns that
are not there are made. With --key, rows are added or updated by that column;
without it, rows that were not imported before are added. Importing the same
file twice changes nothing, and what was edited here since, and has not changed
in the file, stays. What was read wrongly is corrected with --range, --headers,
--header-rows, --type and --leave-out; see first with --preview, or kavlo read.`,
		Example: "  kavlo import loans.xlsx --into \"Touring loans\" --tab Requested --key \"Loan no\" --preview\n  kavlo import people.xlsx --into Team --new --range \"User data 1!A1:C4\" --headers \"Name,Age,Town\"\n  kavlo import book.xlsx --into Shop --key Roster=Name --key Sales=No",
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
			if in.Corrections, err = said.of(given[0], &in); err != nil {
				return err
			}
			set, err := c.Import(cmd.Context(), client.How{Preview: preview}, in, f)
			if err != nil {
				return err
			}
			if a.output != "table" {
				return a.changeSet(set)
			}
			a.importReport(set)
			switch {
			case preview:
				lines(a.out, "Preview only. No changes made.")
			case set.Seq > 0:
				lines(a.out, "Saved as change set %d. To undo: kavlo undo %d", set.Seq, set.Seq)
			default:
				lines(a.out, "%s", unchanged(set))
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
	f.StringVar(&in.Conflicts, "conflicts", "", "cells that have changed both here and in the file: file or here takes that value; unless set, they stay and are named")
	said.add(f)
	previewFlag(cmd, &preview)
	return cmd
}

// corrections are what flags say of the one table that is imported, and the keys of all.
type corrections struct {
	place    string
	header   int
	headers  []string
	types    map[string]string
	skip     []string
	computed []string
	keys     []string
}

func (c *corrections) add(f *pflag.FlagSet) {
	f.StringVar(&c.place, "range", "", "where the table is, header and rows, where it was read otherwise: B3:F20, or \"Sheet 1!B3:F20\"")
	f.IntVar(&c.header, "header-rows", -1, "how many rows of header it has, where that was read otherwise; 0: none")
	f.StringSliceVar(&c.headers, "headers", nil, "names for the columns of a table without a header: Name,Age")
	f.StringToStringVar(&c.types, "type", nil, "a column's type, where it was read otherwise: Due=text")
	f.StringSliceVar(&c.skip, "leave-out", nil, "columns to leave out")
	f.StringSliceVar(&c.computed, "computed", nil, "columns of formulas to be computed here by what they say")
	f.StringArrayVar(&c.keys, "key", nil, "column by which rows are added or updated; of several tables each has its own: Roster=Name")
}

// of gives the corrections for a file, and puts a key for all of its tables into the import.
func (c *corrections) of(file string, in *client.Import) ([]reading.Correction, error) {
	sheetName, r, err := splitPlace(c.place)
	if err != nil {
		return nil, err
	}
	if sheetName != "" {
		in.Sheet = sheetName
	}
	one := r != "" || c.header >= 0 || len(c.headers)+len(c.types)+len(c.skip)+len(c.computed) > 0
	if len(c.keys) == 1 && !strings.Contains(c.keys[0], "=") {
		in.Key = c.keys[0]
	}
	if !one && (len(c.keys) == 0 || in.Key != "") {
		return nil, nil
	}
	got, err := formats.ReadFile(file)
	if err != nil {
		return nil, err
	}
	var out []reading.Correction
	if one {
		said, err := c.ofTable(file, got, in.Sheet, r)
		if err != nil {
			return nil, err
		}
		out = append(out, *said)
	}
	if in.Key != "" {
		return out, nil
	}
	for _, k := range c.keys {
		if err := addKey(got, in, k, &out); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// splitPlace parts the name of a sheet from a range: Sheet 1!A1:C4, or 'Sheet 1'!A1:C4.
func splitPlace(text string) (sheet, r string, err error) {
	at := strings.LastIndexByte(text, '!')
	if at < 0 {
		return "", text, nil
	}
	sheet = strings.TrimSpace(text[:at])
	if len(sheet) > 1 && sheet[0] == '\'' && sheet[len(sheet)-1] == '\'' {
		sheet = strings.ReplaceAll(sheet[1:len(sheet)-1], "''", "'")
	}
	if sheet == "" || strings.TrimSpace(text[at+1:]) == "" {
		return "", "", usage("--range %q is no range: write it like B3:F20, or \"Sheet 1!B3:F20\"", text)
	}
	return sheet, text[at+1:], nil
}

// addKey adds the key of a table, named by the tab that it goes to: Roster=Name.
func addKey(got *reading.Reading, in *client.Import, key string, out *[]reading.Correction) error {
	tab, column, parted := strings.Cut(key, "=")
	if !parted {
		return usage("several tables have a key each: write --key \"TAB=COLUMN\", and not --key %q", key)
	}
	var tabs []string
	for i := range got.Sheets {
		s := &got.Sheets[i]
		if !s.Meant(in.Sheet) {
			continue
		}
		for j := range s.Tables {
			name := got.TabName(s, j)
			if in.Tab != "" {
				name = in.Tab
			}
			if !value.EqualText(name, tab) {
				tabs = append(tabs, name)
				continue
			}
			for n := range *out {
				if o := &(*out)[n]; value.EqualText(o.Sheet, s.Name) && o.Table == j+1 {
					o.Key = strings.TrimSpace(column)
					return nil
				}
			}
			*out = append(*out, reading.Correction{Sheet: s.Name, Table: j + 1, Key: strings.TrimSpace(column)})
			return nil
		}
	}
	return fmt.Errorf("no table of %s goes to a tab %q: there are %s", in.Name, strings.TrimSpace(tab), strings.Join(tabs, ", "))
}

// ofTable gives what flags say of the one table that is imported.
func (c *corrections) ofTable(file string, got *reading.Reading, sheetName, r string) (*reading.Correction, error) {
	var at *reading.Sheet
	for i := range got.Sheets {
		s := &got.Sheets[i]
		if !s.Meant(sheetName) {
			continue
		}
		if at != nil || len(s.Tables) > 1 && r == "" {
			return nil, usage("%s holds several tables: say which sheet's is meant (--sheet), or where it is (--range)", file)
		}
		at = s
	}
	if at == nil {
		return nil, fmt.Errorf("there is no sheet %q in %s", sheetName, file)
	}
	said := &reading.Correction{Sheet: at.Name, Table: min(len(at.Tables), 1), Range: r}
	if c.header >= 0 {
		said.HeaderRows = &c.header
	} else if len(c.headers) > 0 {
		none := 0
		said.HeaderRows = &none
	}
	if err := got.Correct([]reading.Correction{*said}); err != nil { // so that columns are those of the corrected table
		return nil, err
	}
	columns := at.Tables[max(said.Table-1, 0)].Columns
	return said, c.ofColumns(columns, said)
}

func (c *corrections) ofColumns(columns []reading.Column, said *reading.Correction) error {
	if len(c.headers) > len(columns) {
		return fmt.Errorf("--headers names %d columns, and the table has %d", len(c.headers), len(columns))
	}
	all := make([]reading.ColumnCorrection, len(columns))
	for i := range all {
		all[i].Column = i + 1
		if i < len(c.headers) {
			all[i].Name = strings.TrimSpace(c.headers[i])
		}
	}
	find := func(name string) (*reading.ColumnCorrection, error) {
		var names []string
		for i, col := range columns {
			called := col.Name
			if all[i].Name != "" {
				called = all[i].Name
			}
			if value.EqualText(called, name) {
				return &all[i], nil
			}
			names = append(names, called)
		}
		return nil, fmt.Errorf("the table has no column %q: it has %s", name, strings.Join(names, ", "))
	}
	for _, name := range sortedKeys(c.types) {
		col, err := find(name)
		if err != nil {
			return err
		}
		col.Type = c.types[name]
	}
	for _, name := range c.skip {
		col, err := find(name)
		if err != nil {
			return err
		}
		col.LeaveOut = true
	}
	for _, name := range c.computed {
		col, err := find(name)
		if err != nil {
			return err
		}
		col.Computed = true
	}
	for i, col := range columns { // what the reading leaves out by itself stays so
		all[i].LeaveOut = all[i].LeaveOut || col.LeaveOut
	}
	said.Columns = slices.DeleteFunc(all, func(c reading.ColumnCorrection) bool {
		return c == (reading.ColumnCorrection{Column: c.Column})
	})
	return nil
}

func (a *app) importReport(set *wire.ChangeSet) {
	d, _ := set.Detail.(map[string]any)
	g := &grid{heads: []string{"sheet", "range", "tab", "rows", "added", "updated", "unchanged", "odd cells", "new columns"}}
	var says []string
	for _, t := range asList(d["tables"]) {
		m, _ := t.(map[string]any)
		taken, _ := m["taken"].(map[string]any)
		g.add(cellText(m["sheet"]), cellText(m["range"]), cellText(m["tab"]), cellText(m["rows"]), cellText(taken["added"]), cellText(taken["updated"]), cellText(taken["unchanged"]), cellText(taken["odd"]), cellText(m["new_columns"]))
		says = append(says, tableSays(m, taken)...)
	}
	for _, l := range asList(d["left_out"]) {
		m, _ := l.(map[string]any)
		says = append(says, fmt.Sprintf("Ignored %s: %s", onRange(cellText(m["sheet"]), cellText(m["range"])), cellText(m["reason"])))
	}
	a.table(g)
	if n := set.Counts["set"] + set.Counts["note"] + set.Counts["look"]; n > 0 { // cells of rows that were there
		a.changes(slices.DeleteFunc(slices.Clone(set.Changes), func(c wire.Change) bool { return c.Kind == "add" || c.Kind == "setup" }), 0)
	}
	for _, s := range says {
		lines(a.out, "%s", s)
	}
}

// tableSays tells what became of a table besides its numbers.
func tableSays(m, taken map[string]any) []string {
	var out []string
	for _, l := range asList(m["left_out"]) {
		part, _ := l.(map[string]any)
		out = append(out, fmt.Sprintf("Ignored %s: %s", onRange(cellText(m["sheet"]), cellText(part["range"])), cellText(part["reason"])))
	}
	for _, doubt := range asList(m["doubts"]) {
		out = append(out, "To check: "+cellText(doubt))
	}
	for _, offer := range asList(m["offers"]) {
		out = append(out, cellText(offer))
	}
	for _, tr := range asList(taken["troubles"]) {
		w, _ := tr.(map[string]any)
		out = append(out, fmt.Sprintf("Not imported: %s %s: %s", cellText(w["where"]), cellText(w["key"]), cellText(w["why"])))
	}
	for _, held := range asList(taken["held"]) {
		w, _ := held.(map[string]any)
		out = append(out, fmt.Sprintf("Changed on both sides: %s of %s is %s here and %s in the file: it stays as it is here; to settle it: --conflicts file, or --conflicts here",
			cellText(w["column"]), cellText(w["label"]), blankOr(cellText(w["here"])), blankOr(cellText(w["file"]))))
	}
	return out
}

func asList(v any) []any {
	l, _ := v.([]any)
	return l
}
