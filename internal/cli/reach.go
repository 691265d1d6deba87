package cli

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// reachCmds make the commands that say what lists may reach, and with which
// secrets.
func (a *app) reachCmds() []*cobra.Command {
	var dropSecret, dropReach bool
	show := func(names []string, head string) error {
		g := &grid{heads: []string{head}}
		for _, n := range names {
			g.add(n)
		}
		return a.show(names, g)
	}
	secret := &cobra.Command{Use: "secret NAME", Short: "Keep a secret, read from standard input, for which ${NAME} stands in lists", Args: args("NAME"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		value := ""
		if !dropSecret {
			if value, err = readSecret(cmd.InOrStdin(), a.err, given[0]); err != nil {
				return err
			}
		}
		names, err := c.PutSecret(cmd.Context(), given[0], value)
		if err != nil {
			return err
		}
		return show(names, "secret")
	}}
	secret.Flags().BoolVar(&dropSecret, "drop", false, "forget it")
	secrets := &cobra.Command{Use: "secrets", Short: "List the names of the secrets kept; a secret itself is never shown", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		names, err := c.Secrets(cmd.Context())
		if err != nil {
			return err
		}
		return show(names, "secret")
	}}
	reach := &cobra.Command{Use: "reach [ADDRESS]", Short: "List the addresses that lists may reach, or allow one more", Args: cobra.MaximumNArgs(1),
		Long: "An address is public (all that are not of a private or loopback range), a host's name, a number such as 10.0.0.7 or a range such as 10.0.0.0/8.", RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			var names []string
			if len(given) == 0 {
				names, err = c.AllowedHosts(cmd.Context())
			} else {
				names, err = c.SetAllowedHost(cmd.Context(), given[0], !dropReach)
			}
			if err != nil {
				return err
			}
			return show(names, "address")
		}}
	reach.Flags().BoolVar(&dropReach, "drop", false, "allow it no more")
	return []*cobra.Command{secret, secrets, reach}
}

// readSecret reads one line; on a terminal nobody sees it.
func readSecret(in io.Reader, say io.Writer, name string) (string, error) {
	if f, is := in.(*os.File); is && term.IsTerminal(int(f.Fd())) {
		fmt.Fprintf(say, "%s: ", name)
		text, err := term.ReadPassword(int(f.Fd()))
		fmt.Fprintln(say)
		return string(text), err
	}
	line, err := bufio.NewReader(in).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return "", err
	}
	if line = strings.TrimRight(line, "\r\n"); line == "" {
		return "", usage("standard input holds no secret")
	}
	return line, nil
}
