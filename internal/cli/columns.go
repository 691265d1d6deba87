package cli

import (
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

func (a *app) columnsCmd() *cobra.Command {
	return &cobra.Command{Use: "columns TRACKER/TAB", Short: "List a tab's columns", Args: args("TRACKER/TAB"), RunE: func(cmd *cobra.Command, given []string) error {
		tracker, name, err := place(given[0])
		if err != nil {
			return err
		}
		tab, err := a.tab(cmd, tracker, name)
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"id", "column", "type", "options", "notes"}, wide: "notes"}
		for _, c := range tab.Columns {
			var options []string
			for _, o := range c.Options {
				options = append(options, o.Name)
			}
			typ := c.Type
			if c.Format != "" {
				typ += " (" + c.Format + ")"
			}
			g.add(c.ID, c.Name, typ, strings.Join(options, ", "), strings.Join(columnNotes(&c), ", "))
		}
		return a.show(tab.Columns, g)
	}}
}

// columnNotes says what else there is to know of a column.
func columnNotes(c *wire.Column) []string {
	var notes []string
	for _, n := range []struct {
		says  string
		holds bool
	}{
		{"required", c.Required}, {"unique", c.Unique}, {"several", c.Several}, {"automatic number", c.AutoNo}, {"refuses bad input", c.BadInput == "refuse"},
		{"default " + c.Default, c.Default != ""}, {"at least " + c.Minimum, c.Minimum != ""}, {"at most " + c.Maximum, c.Maximum != ""},
		{"up to " + strconv.Itoa(c.Longest) + " letters", c.Longest > 0}, {"computed: " + c.Clause, c.Clause != ""},
	} {
		if n.holds {
			notes = append(notes, n.says)
		}
	}
	return notes
}

// columnFlags are the attributes of a column as flags; each is a key of the
// setup file with a dash for a space.
type columnFlags struct {
	texts          map[string]*string
	truths         map[string]*bool
	options, unset []string
	name, after    string
	typ, longest   string
	like           string
	preview, fill  bool
	values         bool
}

func (f *columnFlags) add(fs *pflag.FlagSet, change bool) {
	f.texts, f.truths = map[string]*string{}, map[string]*bool{}
	fs.StringVar(&f.typ, "type", "", "text, number, date, date-time, checkbox, choice, person, link, file or computed")
	for key, says := range map[string]string{"clause": "of a computed column", "format": "how a number is shown: plain, percent, rating, duration or a currency code",
		"default": "what new rows get", "minimum": "the least value", "maximum": "the greatest value", "bad input": "refuse it, or mark it as odd: refuse or mark"} {
		f.texts[key] = fs.String(strings.ReplaceAll(key, " ", "-"), "", says)
	}
	for key, says := range map[string]string{"required": "no row may leave it blank", "unique": "no two rows may share a value", "several": "of a choice or person: a row may have several", "automatic number": "new rows get the next whole number"} {
		f.truths[key] = fs.Bool(strings.ReplaceAll(key, " ", "-"), false, says)
	}
	fs.StringVar(&f.longest, "longest-text", "", "most letters of a text")
	fs.StringSliceVar(&f.options, "options", nil, "of a choice, with or without colours: Agreed=blue,Held")
	fs.BoolVar(&f.fill, "fill-existing", false, "rows that are blank there get the default, or the next automatic number")
	fs.StringVar(&f.after, "after", "", "the column that it stands after")
	if change {
		fs.StringVar(&f.name, "name", "", "a new name; rules follow it")
		fs.StringSliceVar(&f.unset, "unset", nil, "attributes to take away, such as default")
	} else {
		fs.StringVar(&f.like, "like", "", "the column of the tab that it is a copy of, but for what other options say")
		fs.BoolVar(&f.values, "copy-values", false, "rows get the values of the column that it is like")
	}
}

// definition gives what the flags set, as the setup file writes it.
func (f *columnFlags) definition(fs *pflag.FlagSet) (map[string]any, error) {
	out := map[string]any{}
	set := func(key string, v any) {
		if fs.Changed(strings.ReplaceAll(key, " ", "-")) {
			out[key] = v
		}
	}
	set("type", f.typ)
	for key, v := range f.texts {
		set(key, *v)
	}
	for key, v := range f.truths {
		set(key, *v)
	}
	if f.longest != "" {
		n, err := strconv.Atoi(f.longest)
		if err != nil {
			return nil, usage("--longest-text is a number of letters, not %q", f.longest)
		}
		out["longest text"] = n
	}
	if len(f.options) > 0 {
		var options []any
		for _, o := range f.options {
			name, colour, _ := strings.Cut(o, "=")
			options = append(options, map[string]any{strings.TrimSpace(name): strings.TrimSpace(colour)})
		}
		out["options"] = options
	}
	for _, key := range f.unset {
		out[strings.ReplaceAll(strings.TrimSpace(key), "-", " ")] = nil
	}
	return out, nil
}

func (a *app) columnCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "column", Short: "Add, change or delete a column", RunE: needsCommand}
	var adding, changing columnFlags
	add := &cobra.Command{Use: "add TRACKER/TAB COLUMN", Short: "Add a column to a tab", Args: args("TRACKER/TAB", "COLUMN"),
		Example: "  kavlo column add \"Touring loans/Crating\" \"Due back\" --type date --bad-input refuse --after Arrived\n  kavlo column add \"Touring loans/Crating\" \"Arrived, planned\" --like Arrived --copy-values",
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			tracker, tab, err := place(given[0])
			if err != nil {
				return nil, err
			}
			definition, err := adding.definition(cmd.Flags())
			if err != nil {
				return nil, err
			}
			if definition["type"] == nil && adding.like == "" {
				return nil, usage("say what the column holds: --type text, number, date, date-time, checkbox, choice, person, link, file or computed, or --like another column")
			}
			return c.AddColumn(cmd.Context(), client.How{Preview: adding.preview}, tracker, tab, wire.NewColumn{Name: given[1], After: adding.after, Like: adding.like, Values: adding.values, Definition: definition, Fill: adding.fill})
		})}
	change := &cobra.Command{Use: "change TRACKER/TAB COLUMN", Short: "Change a column, in every tab that shares it", Args: args("TRACKER/TAB", "COLUMN"),
		Long: `Changes a column in every tab that shares it: its name, its place, its type, what
it takes. Attributes that are not given stay. Values are read anew into a new
type; what does not fit is kept as odd cells. See first which: --preview.`,
		Example: "  kavlo column change \"Touring loans/Crating\" Crate --type number --preview",
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			tracker, tab, err := place(given[0])
			if err != nil {
				return nil, err
			}
			definition, err := changing.definition(cmd.Flags())
			if err != nil {
				return nil, err
			}
			if len(definition) == 0 && changing.name == "" && changing.after == "" && !changing.fill {
				return nil, usage("say what is to change: --name, --type, --required and so on")
			}
			to := wire.ColumnChange{Name: changing.name, After: changing.after, Definition: definition, Fill: changing.fill}
			return c.ChangeColumn(cmd.Context(), client.How{Preview: changing.preview}, tracker, tab, given[1], to)
		})}
	var preview bool
	drop := &cobra.Command{Use: "delete TRACKER/TAB COLUMN", Aliases: []string{"drop"}, Short: "Delete a column from a tab; rows keep their values, not shown", Args: args("TRACKER/TAB", "COLUMN"),
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			tracker, tab, err := place(given[0])
			if err != nil {
				return nil, err
			}
			return c.DropColumn(cmd.Context(), client.How{Preview: preview}, tracker, tab, given[1])
		})}
	adding.add(add.Flags(), false)
	changing.add(change.Flags(), true)
	previewFlag(add, &adding.preview)
	previewFlag(change, &changing.preview)
	previewFlag(drop, &preview)
	cmd.AddCommand(add, change, drop)
	return cmd
}
