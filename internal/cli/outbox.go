package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/wire"
)

func (a *app) outboxCmd() *cobra.Command {
	show := func(mails any, list []wire.OutboxMail) error {
		g := &grid{heads: []string{"id", "to", "subject", "state", "tries", "made", "next try", "problem"}, wide: "problem"}
		for _, m := range list {
			next := ""
			if m.NextTry != nil {
				next = m.NextTry.Local().Format("2006-01-02 15:04:05")
			}
			g.add(m.ID, m.To, m.Subject, m.State, fmt.Sprint(m.Tries), m.Made.Local().Format("2006-01-02 15:04"), next, m.Problem)
		}
		return a.show(mails, g)
	}
	cmd := &cobra.Command{Use: "outbox", Short: "List the emails of rounds and rules, newest first", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		mails, err := c.Outbox(cmd.Context())
		if err != nil {
			return err
		}
		if a.output == "table" && len(mails) == 0 {
			lines(a.out, "No emails yet. Rounds put them here.")
			return nil
		}
		return show(mails, mails)
	}}
	cmd.AddCommand(&cobra.Command{Use: "resend MAIL", Short: "Resend an email", Args: args("MAIL"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		m, err := c.Resend(cmd.Context(), given[0])
		if err != nil {
			return err
		}
		return show(m, []wire.OutboxMail{*m})
	}}, &cobra.Command{Use: "test", Short: "Send yourself a test email, to see whether emails go out", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		sent, err := c.TestMail(cmd.Context())
		if err != nil {
			return err
		}
		if a.output == "json" {
			return a.json(sent)
		}
		lines(a.out, "Sent a test email to "+sent.To+".")
		return nil
	}})
	return cmd
}
