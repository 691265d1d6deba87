package cli

import (
	"fmt"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// listing makes the command that lists a tracker's definitions of a kind.
func (a *app) listing(k program.Kind) *cobra.Command {
	return &cobra.Command{Use: k.Plural + " TRACKER", Short: "List a tracker's " + k.Plural, Args: args("TRACKER"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		parts, err := c.Definitions(cmd.Context(), given[0], k.Plural)
		if err != nil {
			return err
		}
		if a.output == "table" {
			for _, p := range parts {
				state := ""
				if p.Paused {
					state = " (paused)"
				}
				lines(a.out, "%s%s\n    %s", p.Name, state, p.Says)
			}
			if len(parts) == 0 {
				lines(a.out, "No %s yet. Add one with kavlo %s add, or load a setup file.", k.Plural, k.Name)
			}
			return nil
		}
		g := &grid{heads: []string{"id", string(k.Name), "paused", "says"}}
		for _, p := range parts {
			g.add(p.ID, p.Name, cellText(p.Paused), p.Says)
		}
		return a.show(parts, g)
	}}
}

// listings makes such a command for each kind of definition.
func (a *app) listings(of program.Kinds) []*cobra.Command {
	var out []*cobra.Command
	for _, k := range of {
		cmd := a.listing(k)
		if k.Name == sheet.KindDossier {
			cmd = a.pagesListing(cmd)
		}
		out = append(out, cmd)
	}
	return out
}

// running makes "preview" and "run" of a rule.
func (a *app) running(kind, what string) []*cobra.Command {
	verb := func(name, short string, preview bool) *cobra.Command {
		var file string
		cmd := &cobra.Command{Use: name + " TRACKER " + what, Short: short, Args: args("TRACKER", what), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			return c.RunDefinition(cmd.Context(), client.How{Preview: preview}, given[0], kind, given[1], file)
		})}
		if kind == "rules" {
			cmd.Flags().StringVar(&file, "file", "", "of a rule about files: the one to run it on, such as intake/requests.xlsx")
		}
		return cmd
	}
	return []*cobra.Command{verb("preview", "Show what a run would change, and change nothing", true), verb("run", "Run it now", false)}
}

func (a *app) ruleCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "rule", Short: "Show, add, change, delete, preview, run, pause or resume a rule", RunE: needsCommand}
	pause := func(name, short string, paused bool) *cobra.Command {
		return &cobra.Command{Use: name + " TRACKER RULE", Short: short, Args: args("TRACKER", "RULE"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			return c.PauseRule(cmd.Context(), client.How{}, given[0], given[1], paused)
		})}
	}
	cmd.AddCommand(a.running("rules", "RULE")...)
	cmd.AddCommand(a.defining("rules", "rule")...)
	var preview bool
	order := &cobra.Command{Use: "order TRACKER RULE...", Short: "Put rules first, in the order given; rules that an edit wakes run in it", Args: cobra.MinimumNArgs(2),
		RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
			return c.Order(cmd.Context(), client.How{Preview: preview}, given[0], "rule", given[1:])
		})}
	previewFlag(order, &preview)
	cmd.AddCommand(pause("pause", "Pause a rule", true), pause("resume", "Resume a rule", false), order)
	return cmd
}

func (a *app) roundCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "round", Short: "Show, add, change, delete, preview or run a round", RunE: needsCommand}
	verb := func(name, short string, preview bool) *cobra.Command {
		var how client.RoundHow
		cmd := &cobra.Command{Use: name + " TRACKER ROUND", Short: short, Args: args("TRACKER", "ROUND"), RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			how.Preview = preview
			r, err := c.RunRound(cmd.Context(), how, given[0], given[1])
			if err != nil {
				return err
			}
			return a.round(r)
		}}
		if !preview {
			cmd.Flags().BoolVar(&how.Again, "again", false, "send it once more to those who have it; the subject says so")
			cmd.Flags().BoolVar(&how.Instead, "instead", false, "let it take the place of the next scheduled email")
		}
		return cmd
	}
	var to string
	try := &cobra.Command{Use: "try TRACKER ROUND", Short: "Send a test email to yourself; its links do nothing", Args: args("TRACKER", "ROUND"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		l, err := c.TryRound(cmd.Context(), given[0], given[1], to)
		if err != nil {
			return err
		}
		if a.output != "table" {
			return a.json(l)
		}
		lines(a.out, "Sent you a test email: the one for %s (%q, %s).", l.To, l.Subject, plural(l.Count, "row"))
		return nil
	}}
	try.Flags().StringVar(&to, "to", "", "mail address; your own unless set")
	cmd.AddCommand(try)
	cmd.AddCommand(a.defining("rounds", "round")...)
	cmd.AddCommand(verb("preview", "Show each person's email, and send nothing", true), verb("run", "Send it now; nobody gets the same email twice", false))
	return cmd
}

func (a *app) round(r *wire.RoundResult) error {
	g := &grid{heads: []string{"to", "name", "rows", "subject"}}
	for _, l := range r.Letters {
		g.add(l.To, l.Name, fmt.Sprint(l.Count), l.Subject)
	}
	if err := a.show(r, g); err != nil || a.output != "table" {
		return err
	}
	for _, s := range r.Nobody {
		lines(a.out, "Not delivered: %s", s)
	}
	for _, s := range r.PassedOver {
		lines(a.out, "Skipped: %s", s)
	}
	switch {
	case r.Preview && len(r.Letters) == 0:
		lines(a.out, "Preview only. No emails to send.")
	case r.Preview:
		lines(a.out, "Preview only. Nothing was sent. Email for %s:\n\n%s", r.Letters[0].To, r.Letters[0].Text)
	case r.Queued == 0 && r.Already > 0:
		lines(a.out, "Already sent to everyone (%s). To send it once more: --again", r.Occurrence.Local().Format("2006-01-02 15:04"))
	case r.Queued == 0:
		lines(a.out, "No emails to send.")
	default:
		lines(a.out, "%s queued as run %s.", plural(r.Queued, "email"), r.Run)
	}
	return nil
}
