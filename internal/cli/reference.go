package cli

import (
	"fmt"
	"io"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// Reference gives the reference page of the command line, in Markdown, from the
// commands themselves.
func Reference() string {
	root := (&app{out: io.Discard, err: io.Discard}).root()
	var b strings.Builder
	b.WriteString("# Commands\n\nGenerated from the program's own help. `TRACKER`, `TAB`, `ROW` and the rest take a name or an id.\n\n")
	b.WriteString(root.Long + "\n\nEvery command takes:\n\n")
	flags(&b, root.PersistentFlags())
	for _, c := range root.Commands() {
		describe(&b, c)
	}
	return b.String()
}

func describe(b *strings.Builder, c *cobra.Command) {
	if c.Hidden || c.Name() == "help" || c.Name() == "completion" {
		return
	}
	if c.HasSubCommands() {
		for _, sub := range c.Commands() {
			describe(b, sub)
		}
		return
	}
	fmt.Fprintf(b, "\n## kavlo %s\n\n%s.\n", strings.TrimPrefix(strings.TrimSuffix(c.UseLine(), " [flags]"), "kavlo "), c.Short)
	if c.Long != "" {
		fmt.Fprintf(b, "\n%s\n", c.Long)
	}
	if c.LocalNonPersistentFlags().HasFlags() {
		b.WriteByte('\n')
		flags(b, c.LocalNonPersistentFlags())
	}
	if c.Example != "" {
		fmt.Fprintf(b, "\n```\n%s\n```\n", strings.ReplaceAll(strings.TrimSpace(c.Example), "\n  ", "\n"))
	}
}

func flags(b *strings.Builder, set *pflag.FlagSet) {
	set.VisitAll(func(f *pflag.Flag) {
		if f.Name == "help" || f.Name == "version" {
			return
		}
		fmt.Fprintf(b, "- `--%s`: %s", f.Name, f.Usage)
		if f.DefValue != "" && f.DefValue != "false" && f.DefValue != "[]" && f.DefValue != "0" {
			fmt.Fprintf(b, " (%s)", f.DefValue)
		}
		b.WriteByte('\n')
	})
}
