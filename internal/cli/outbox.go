package cli

import (
	"cmp"
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
	cmd.AddCommand(a.mailServerCmd())
	return cmd
}

// mailServerCmd makes the command that says by which server emails go.
func (a *app) mailServerCmd() *cobra.Command {
	var to wire.MailServerSet
	var drop bool
	cmd := &cobra.Command{Use: "server [HOST:PORT]", Short: "Show the mail server by which emails go, or set it", Args: cobra.MaximumNArgs(1),
		Long: `Without an address, shows the mail server. With one, emails go by it; with --user its
password is read from standard input. A service that was started with --smtp keeps to that.`,
		RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			var found *wire.MailServerFound
			switch {
			case drop:
				found, err = c.DropMailServer(cmd.Context())
			case len(given) == 0:
				found, err = c.MailServer(cmd.Context())
			default:
				to.Address = given[0]
				if to.User != "" {
					password, err := readSecret(cmd.InOrStdin(), a.err, "password of "+to.User)
					if err != nil {
						return err
					}
					to.Password = &password
				}
				found, err = c.SetMailServer(cmd.Context(), to)
			}
			if err != nil {
				return err
			}
			if a.output == "table" && found.Address == "" {
				lines(a.out, "No mail server is set. Emails wait in the outbox.")
				return nil
			}
			g := &grid{heads: []string{"address", "encryption", "user", "from", "set"}}
			set := "by an admin"
			if found.AtStart {
				set = "where the service was started"
			}
			g.add(found.Address, cmp.Or(found.Encryption, "when offered"), found.User, found.From, set)
			return a.show(found, g)
		}}
	f := cmd.Flags()
	f.StringVar(&to.Encryption, "encryption", "", "when offered, always, never, or tls for a connection encrypted from its first byte")
	f.StringVar(&to.SignIn, "sign-in", "", "how to sign in: PLAIN, LOGIN or XOAUTH2; what the server offers unless set")
	f.StringVar(&to.User, "user", "", "account at the server")
	f.StringVar(&to.From, "from", "", "sender of emails, such as 'Loans <loans@example.org>'")
	f.BoolVar(&drop, "drop", false, "forget it: emails wait in the outbox")
	return cmd
}
