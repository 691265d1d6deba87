package cli

import (
	"strings"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/wire"
)

// formCmd makes the commands for entry forms.
func (a *app) formCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "form", Short: "Fill in entry forms, and share them by private links", RunE: needsCommand}
	cmd.AddCommand(a.defining("forms", "form")...)
	var filed []string
	fill := &cobra.Command{Use: "fill TRACKER FORM [Field=value ...]", Short: "Add a row by a form", Args: atLeast("TRACKER", "FORM"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		values, err := cells(given[2:])
		if err != nil {
			return err
		}
		err = attachEach(filed, values, func(field, name string, text []byte) (*wire.Attached, error) {
			return c.AttachToForm(cmd.Context(), given[0], given[1], field, name, text)
		})
		if err != nil {
			return err
		}
		got, err := c.FillForm(cmd.Context(), given[0], given[1], values)
		if err != nil {
			return err
		}
		lines(a.out, "%s", got.Says)
		return nil
	}}
	fill.Flags().StringArrayVar(&filed, "file", nil, "Field=path: a file for a field that takes one; may be given again")
	fields := &cobra.Command{Use: "fields TRACKER FORM", Short: "List what a form asks for", Args: args("TRACKER", "FORM"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		f, err := c.FormFields(cmd.Context(), given[0], given[1])
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"field", "type", "required", "choices", "help"}}
		for _, x := range f.Fields {
			var choices []string
			for _, o := range x.Column.Options {
				choices = append(choices, o.Name)
			}
			g.add(x.Column.Name, x.Column.Type, cellText(x.Required), strings.Join(choices, ", "), x.Help)
		}
		return a.show(f, g)
	}}
	cmd.AddCommand(fill, fields, a.formLinkCmd(), a.formLinksCmd(), a.closeLinksCmd())
	return cmd
}

func (a *app) formLinkCmd() *cobra.Command {
	var days int
	link := &cobra.Command{Use: "link TRACKER FORM", Short: "Make a private link by which a form is filled in without signing in", Args: args("TRACKER", "FORM"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		s, err := c.FormLink(cmd.Context(), given[0], given[1], days)
		if err != nil {
			return err
		}
		if a.output != "table" {
			return a.json(s)
		}
		lines(a.out, "%s", s.Link)
		return nil
	}}
	link.Flags().IntVar(&days, "days", 0, "how many days it lasts; 0: until it is closed")
	return link
}

func (a *app) formLinksCmd() *cobra.Command {
	return &cobra.Command{Use: "links TRACKER FORM", Short: "List the open private links of a form", Args: args("TRACKER", "FORM"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		all, err := c.FormLinks(cmd.Context(), given[0], given[1])
		if err != nil {
			return err
		}
		if a.output == "table" && len(all) == 0 {
			lines(a.out, "No open links. Make one with kavlo form link %q %q.", given[0], given[1])
			return nil
		}
		g := &grid{heads: []string{"id", "made", "expires"}}
		for _, l := range all {
			expires := "when it is closed"
			if l.Expires != nil {
				expires = l.Expires.Local().Format("2006-01-02 15:04")
			}
			g.add(l.ID, l.Made.Local().Format("2006-01-02 15:04"), expires)
		}
		return a.show(all, g)
	}}
}

func (a *app) closeLinksCmd() *cobra.Command {
	return &cobra.Command{Use: "close TRACKER FORM", Short: "Close the private links of a form", Args: args("TRACKER", "FORM"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		n, err := c.CloseFormLinks(cmd.Context(), given[0], given[1])
		if err != nil {
			return err
		}
		lines(a.out, "%s closed.", plural(int(n.Closed), "link"))
		return nil
	}}
}
