package cli

import (
	"github.com/spf13/cobra"

	"example.org/kavlo/internal/wire"
)

func (a *app) peopleCmd() *cobra.Command {
	return &cobra.Command{Use: "people", Short: "List the people of the workspace", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		people, err := c.People(cmd.Context())
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"name", "address", "access"}}
		for _, p := range people {
			g.add(p.Name, p.Address, p.Access)
		}
		return a.show(people, g)
	}}
}

func (a *app) accessCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "access", Short: "Grant access: sign-in links and tokens", RunE: needsCommand}
	var name, access, purpose string
	var days int
	put := &cobra.Command{Use: "grant ADDRESS", Aliases: []string{"give"}, Short: "Add a person, or change their access", Args: args("ADDRESS"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		p, err := c.PutPerson(cmd.Context(), wire.NewPerson{Name: name, Address: given[0], Access: access})
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"name", "address", "access"}}
		g.add(p.Name, p.Address, p.Access)
		return a.show(p, g)
	}}
	put.Flags().StringVar(&name, "name", "", "the person's name; unchanged if omitted")
	put.Flags().StringVar(&access, "as", "", "admin, editor or reader; unchanged if omitted (a new person: editor)")
	link := &cobra.Command{Use: "link PERSON", Short: "Create a one-time sign-in link for a person", Args: args("PERSON"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		s, err := c.NewLink(cmd.Context(), given[0])
		if err != nil {
			return err
		}
		if a.output != "table" {
			return a.json(s)
		}
		lines(a.out, "%s", s.Link)
		return nil
	}}
	token := &cobra.Command{Use: "token PERSON", Short: "Create a token for a person's scripts", Args: args("PERSON"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		s, err := c.NewToken(cmd.Context(), given[0], purpose, days)
		if err != nil {
			return err
		}
		if a.output != "table" {
			return a.json(s)
		}
		lines(a.out, "%s", s.Secret)
		return nil
	}}
	token.Flags().IntVar(&days, "days", 0, "how many days it lasts; 0: until it is revoked")
	token.Flags().StringVar(&purpose, "for", "scripts", "what the token is for")
	caller := &cobra.Command{Use: "caller TRACKER RULE", Short: "Create the secret that signs API calls to a rule", Args: args("TRACKER", "RULE"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		s, err := c.NewCaller(cmd.Context(), given[0], given[1])
		if err != nil {
			return err
		}
		if a.output != "table" {
			return a.json(s)
		}
		lines(a.out, "%s", s.Secret)
		return nil
	}}
	var drop bool
	feed := &cobra.Command{Use: "feed PERSON", Short: "Create the private address of a person's calendar of due dates", Args: args("PERSON"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		if drop {
			if err := c.DropFeeds(cmd.Context(), given[0]); err != nil {
				return err
			}
			lines(a.out, "Every calendar address of %s is invalid now.", given[0])
			return nil
		}
		s, err := c.NewFeed(cmd.Context(), given[0])
		if err != nil {
			return err
		}
		if a.output != "table" {
			return a.json(s)
		}
		lines(a.out, "%s", s.Link)
		return nil
	}}
	feed.Flags().BoolVar(&drop, "drop", false, "make every address given before invalid")
	cmd.AddCommand(put, link, token, caller, feed)
	cmd.AddCommand(a.reachCmds()...)
	cmd.AddCommand(a.letInCmds()...)
	return cmd
}
