// Package cli is the command line: nouns first, tables for people, JSON and
// CSV for scripts, exit codes that say what kind of thing went wrong. One file
// holds the commands of one noun; output.go lays results out.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/service"
	"example.org/kavlo/internal/wire"
)

// Version is set when the program is built.
var Version = "0.1.0-dev"

// Exit codes.
const (
	exitDone = iota
	exitFailed
	exitUsage
	exitRefused
	exitUnreachable
	exitNotAllowed
)

// DefaultListen is where the service listens unless told otherwise.
const DefaultListen = "127.0.0.1:8090"

// app is what every command shares.
type app struct {
	out, err io.Writer
	url      string
	token    string
	data     string
	output   string
}

// Main runs the command line and gives the exit code.
func Main(args []string, out, errOut io.Writer) int {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	a := &app{out: out, err: errOut}
	root := a.root()
	root.SetArgs(args)
	root.SetOut(out)
	root.SetErr(errOut)
	cmd, err := root.ExecuteContextC(ctx)
	if err == nil {
		return exitDone
	}
	fmt.Fprintln(errOut, "kavlo: "+strings.TrimRight(err.Error(), "\n"))
	code := exitCode(err)
	if code == exitUsage {
		fmt.Fprintf(errOut, "See: %s --help\n", cmd.CommandPath())
	}
	return code
}

// usageError is a command line that does not read.
type usageError struct{ err error }

func (e *usageError) Error() string { return e.err.Error() }
func (e *usageError) Unwrap() error { return e.err }

func usage(format string, args ...any) error { return &usageError{fmt.Errorf(format, args...)} }

func exitCode(err error) int {
	var u *usageError
	var p *wire.Problem
	var away *client.Unreachable
	switch {
	case errors.As(err, &u):
		return exitUsage
	case errors.As(err, &away):
		return exitUnreachable
	case errors.As(err, &p):
		switch p.Status {
		case 401, 403:
			return exitNotAllowed
		case 409, 412:
			return exitRefused
		}
	}
	return exitFailed
}

func (a *app) root() *cobra.Command {
	root := &cobra.Command{Use: "kavlo", Args: cobra.ArbitraryArgs, Short: "Kavlo keeps your team's shared tracker up to date", SilenceErrors: true, SilenceUsage: true, Version: Version,
		Long: `Kavlo keeps a team's shared tracker current: it moves rows to the tab their
status names, applies date rules, syncs lists kept elsewhere, and mails each
person one reminder of what is overdue.

Commands speak to a running service: at --url (or KAVLO_URL) with --token (or
KAVLO_TOKEN), or on the service's own machine by its data folder, --data (or
KAVLO_DATA).

Exit codes: 0 done, 1 failed, 2 invalid usage, 3 refused, 4 not reachable,
5 not allowed.`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				return usage("there is no command %q", args[0])
			}
			return cmd.Help()
		}}
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return &usageError{err} })
	f := root.PersistentFlags()
	f.StringVar(&a.url, "url", os.Getenv("KAVLO_URL"), "address of the service (KAVLO_URL)")
	f.StringVar(&a.token, "token", "", "token (KAVLO_TOKEN)")
	f.StringVar(&a.data, "data", os.Getenv("KAVLO_DATA"), "data folder of the service (KAVLO_DATA)")
	f.StringVarP(&a.output, "output", "o", "table", "table, json or csv")
	root.CompletionOptions.HiddenDefaultCmd = true
	root.AddCommand(a.serveCmd(), a.demoCmd(), a.readCmd(), a.importCmd(), a.exportCmd(), a.trackersCmd(), a.trackerCmd(), a.tabCmd(), a.rowsCmd(), a.rowCmd(), a.columnsCmd(), a.columnCmd(),
		a.setupCmd(), a.ruleCmd(), a.syncCmd(), a.roundCmd(), a.dossierCmd(), a.tallyCmd(), a.formCmd(), a.tidyCmd(), a.outboxCmd(), a.outboundCmd(), a.backupCmd(), a.restoreCmd(), a.rebuildCmd(), a.checkCmd(),
		a.runsCmd(), a.runCmd(), a.journalCmd(), a.whyCmd(), a.undoCmd(), a.todayCmd(), a.peopleCmd(), a.accessCmd())
	root.AddCommand(a.listings(kinds.All)...)
	for _, k := range kinds.All { // those that have no commands of their own yet
		if cmd, _, err := root.Find([]string{string(k.Name)}); err != nil || cmd == root {
			cmd := &cobra.Command{Use: string(k.Name), Short: "Show, add, change or delete a " + string(k.Name), RunE: needsCommand}
			cmd.AddCommand(a.defining(k.Plural, string(k.Name))...)
			root.AddCommand(cmd)
		}
	}
	return root
}

// args gives a check for the number of arguments that names what is missing.
func args(names ...string) cobra.PositionalArgs {
	return func(_ *cobra.Command, given []string) error {
		if len(given) < len(names) {
			return usage("%s is missing", names[len(given)])
		}
		if len(given) > len(names) {
			return usage("%q is one argument too many", given[len(names)])
		}
		return nil
	}
}

func (a *app) format() (string, error) {
	switch a.output {
	case "table", "json", "csv":
		return a.output, nil
	}
	return "", usage("--output %s: write table, json or csv", a.output)
}

// defaultData is the data folder where none is named.
func defaultData() string {
	if dir := os.Getenv("XDG_DATA_HOME"); dir != "" {
		return filepath.Join(dir, "kavlo")
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "kavlo-data"
	}
	return filepath.Join(home, ".local", "share", "kavlo")
}

func (a *app) dir() string {
	if a.data != "" {
		return a.data
	}
	return defaultData()
}

// client gives a client of the service that flags, environment or the data
// folder lead to.
func (a *app) client() (*client.Client, error) {
	if _, err := a.format(); err != nil {
		return nil, err
	}
	token := a.token
	if token == "" {
		token = os.Getenv("KAVLO_TOKEN")
	}
	address := a.url
	if token == "" {
		text, err := os.ReadFile(filepath.Join(a.dir(), access.KeeperFile))
		if err != nil && address != "" {
			return nil, &wire.Problem{Status: 401, Detail: "no token: say --token or set KAVLO_TOKEN"}
		}
		token = string(text)
	}
	if address == "" {
		text, err := os.ReadFile(filepath.Join(a.dir(), service.AddressFile))
		switch {
		case err == nil:
			address = strings.TrimSpace(string(text))
		case a.data != "":
			return nil, &client.Unreachable{Address: a.dir(), Err: errors.New("the data folder says no address")}
		default:
			address = "http://" + DefaultListen
		}
	}
	c, err := client.New(address, token)
	if err != nil {
		return nil, &usageError{err}
	}
	return c, nil
}

// place takes TRACKER/TAB apart.
func place(s string) (tracker, tab string, err error) {
	tracker, tab, found := strings.Cut(s, "/")
	if !found || strings.TrimSpace(tracker) == "" || strings.TrimSpace(tab) == "" {
		return "", "", usage("%q is not of the form TRACKER/TAB", s)
	}
	return strings.TrimSpace(tracker), strings.TrimSpace(tab), nil
}

// cells reads Column=value arguments; an empty value makes the cell blank.
func cells(given []string) (map[string]any, error) {
	texts, err := byColumn(given)
	out := make(map[string]any, len(texts))
	for name, text := range texts {
		out[name] = text
	}
	return out, err
}

// byColumn reads Column=text arguments.
func byColumn(given []string) (map[string]string, error) {
	out := map[string]string{}
	for _, s := range given {
		name, v, found := strings.Cut(s, "=")
		if name = strings.TrimSpace(name); !found || name == "" {
			return nil, usage("%q is not of the form Column=value", s)
		}
		if _, twice := out[name]; twice {
			return nil, usage("the column %s is given twice", name)
		}
		out[name] = v
	}
	return out, nil
}
