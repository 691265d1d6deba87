package cli

import (
	"fmt"
	"time"

	"github.com/spf13/cobra"
)

// letInCmds make the commands that show and take back what lets people in.
func (a *app) letInCmds() []*cobra.Command {
	list := &cobra.Command{Use: "list PERSON", Short: "List a person's tokens, sessions, sign-in links and calendars", Args: args("PERSON"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		all, err := c.Access(cmd.Context(), given[0])
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"id", "kind", "for", "made", "last used", "expires"}}
		for _, t := range all {
			g.add(t.ID, t.Kind, t.Name, localTime(&t.Made), orNever(t.Used), orNever(t.Expires))
		}
		return a.show(all, g)
	}}
	var every bool
	revoke := &cobra.Command{Use: "revoke PERSON [ID ...]", Short: "Revoke tokens, sessions, sign-in links or calendars of a person", Args: cobra.MinimumNArgs(1),
		Example: "kavlo access list \"Joren Aske\"\nkavlo access revoke \"Joren Aske\" 3f9a0c12be77\nkavlo access revoke \"Joren Aske\" --all", RunE: func(cmd *cobra.Command, given []string) error {
			if (len(given) == 1) != every {
				return usage("name what to revoke by its id (see kavlo access list), or say --all")
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			ids := given[1:]
			if every {
				ids = []string{""}
			}
			for _, id := range ids {
				r, err := c.Revoke(cmd.Context(), given[0], id)
				if err != nil {
					return err
				}
				if every {
					lines(a.out, "Revoked all access of %s: %d in total.", given[0], r.Revoked)
				} else {
					lines(a.out, "Revoked %s.", id)
				}
			}
			return nil
		}}
	revoke.Flags().BoolVar(&every, "all", false, "all that lets the person in")
	remove := &cobra.Command{Use: "delete PERSON", Aliases: []string{"remove"}, Short: "Delete a person; what they did stays under their name", Args: args("PERSON"),
		Long: "Removes a person: tokens, sessions, sign-in links, calendars and the links of their mails\nserve no more. Rows that name the person keep the name, and so does the history.", RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			if err := c.RemovePerson(cmd.Context(), given[0]); err != nil {
				return err
			}
			lines(a.out, "Deleted %s. To grant access again: kavlo access grant ADDRESS", given[0])
			return nil
		}}
	renew := &cobra.Command{Use: "renew-links", Short: "Invalidate all links in emails and all calendar addresses", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		if err := c.RenewLinks(cmd.Context()); err != nil {
			return err
		}
		lines(a.out, "Links in emails sent so far and all calendar addresses are invalid now. The next emails bring new links; for a calendar: kavlo access feed PERSON")
		return nil
	}}
	var most int
	journal := &cobra.Command{Use: "journal", Short: "List who changed access, secrets and what lists may reach, newest first", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		entries, err := c.AccessJournal(cmd.Context(), most)
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"change set", "at", "who", "what"}, wide: "what"}
		for _, e := range entries {
			g.add(fmt.Sprint(e.Seq), e.At.Local().Format("2006-01-02 15:04:05"), e.Who, e.Says)
		}
		return a.show(entries, g)
	}}
	journal.Flags().IntVar(&most, "most", 20, "how many")
	return []*cobra.Command{list, revoke, remove, renew, journal}
}

func localTime(t *time.Time) string { return t.Local().Format("2006-01-02 15:04") }

func orNever(t *time.Time) string {
	if t == nil {
		return "never"
	}
	return localTime(t)
}
