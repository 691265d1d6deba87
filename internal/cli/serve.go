package cli

import (
	"errors"
	"fmt"
	"log/slog"
	"os"

	"github.com/spf13/cobra"

	"example.org/kavlo/console"
	"example.org/kavlo/internal/service"
)

func (a *app) logger(verbose bool) *slog.Logger {
	level := slog.LevelInfo
	if verbose {
		level = slog.LevelDebug
	}
	return slog.New(slog.NewTextHandler(a.err, &slog.HandlerOptions{Level: level}))
}

func (a *app) serveCmd() *cobra.Command {
	s := service.Settings{Version: Version, Console: console.Files()}
	var verbose bool
	cmd := &cobra.Command{Use: "serve", Short: "Run the service", Args: args(),
		Long: `Runs the service until it is told to stop. The first start leaves an admin's
token in the data folder, readable by its owner alone. Mail goes to the SMTP
server named by --smtp; its user and password come from KAVLO_SMTP_USER and
KAVLO_SMTP_PASSWORD. Without --smtp, mail goes by the server that an admin sets
(kavlo outbox server, or under Workspace in the console), and waits without one.`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			s.Dir, s.Log = a.dir(), a.logger(verbose)
			s.Mail.User, s.Mail.Password = os.Getenv("KAVLO_SMTP_USER"), os.Getenv("KAVLO_SMTP_PASSWORD")
			run, err := service.Start(cmd.Context(), s)
			if err != nil {
				return inUse(err, map[string]string{s.Listen: "--listen"})
			}
			lines(a.out, "Kavlo serves %s at %s", s.Dir, run.Address)
			// nobody has been added yet besides the admin whom the first start makes
			if people, err := run.Workspace.Store().People(cmd.Context()); err == nil && len(people) == 1 {
				lines(a.out, "To sign in, open a one-time link in a browser. This prints one:\n  kavlo access link %s --data %q", people[0].Name, s.Dir)
			}
			return run.Wait(cmd.Context())
		}}
	f := cmd.Flags()
	f.StringVar(&s.Listen, "listen", DefaultListen, "host and port of the API and the console")
	f.StringVar(&s.Public, "public", "", "address of the console as people reach it, for links in mails")
	f.StringVar(&s.Mail.Address, "smtp", os.Getenv("KAVLO_SMTP"), "host:port of the mail server (KAVLO_SMTP)")
	f.StringVar(&s.Mail.STARTTLS, "starttls", "when offered", "always, never, when offered, or tls for a connection encrypted from its first byte")
	f.StringVar(&s.Mail.Auth, "smtp-auth", os.Getenv("KAVLO_SMTP_AUTH"), "how to sign in: PLAIN, LOGIN or XOAUTH2; what the server offers unless set (KAVLO_SMTP_AUTH)")
	f.IntVar(&s.SendRate, "send-rate", 0, "most mails a minute; 0: as fast as the server takes them")
	f.StringVar(&s.Mail.From, "mail-from", os.Getenv("KAVLO_MAIL_FROM"), "sender of mails (KAVLO_MAIL_FROM)")
	f.StringSliceVar(&s.Hosts, "host", nil, "name by which the service goes besides those of --public and --listen, as a proxy or a colleague's browser may call it; may be given several times")
	f.StringSliceVar(&s.ListEnv, "list-env", nil, "variable of the environment that lists may use as ${NAME}; may be given several times")
	f.StringSliceVar(&s.ListFolders, "list-folder", nil, "folder, by its full path, whose files lists may read besides the workspace's own folder lists; may be given several times")
	f.StringSliceVar(&s.FileFolders, "file-folder", nil, "folder, by its full path, with workbooks that rules may write into and use as templates, besides the workspace's own folders; may be given several times")
	f.StringSliceVar(&s.Trust, "trust", nil, "file with a certificate (PEM) by which servers of lists and mail are trusted besides those that the system trusts; may be given several times")
	f.BoolVar(&verbose, "verbose", false, "log more")
	return cmd
}

func (a *app) demoCmd() *cobra.Command {
	s := service.Settings{Version: Version, Console: console.Files()}
	var ds service.DemoSettings
	cmd := &cobra.Command{Use: "demo", Short: "Run the service with the demo's data, a list server and a post office", Args: args(),
		RunE: func(cmd *cobra.Command, _ []string) error {
			s.Dir, s.Log = a.dir(), slog.New(slog.NewTextHandler(a.err, &slog.HandlerOptions{Level: slog.LevelWarn}))
			if a.data == "" {
				s.Dir = "demo-data"
			}
			d, err := service.StartDemo(cmd.Context(), s, ds)
			if err != nil {
				return inUse(err, map[string]string{s.Listen: "--listen", ds.Lists: "--lists", ds.Post: "--post", ds.SMTP: "--smtp"})
			}
			fmt.Fprintf(a.out, demoText, d.Address, d.SignIn, s.Dir, d.PostPage, d.Sample)
			return d.Wait(cmd.Context())
		}}
	f := cmd.Flags()
	f.StringVar(&s.Listen, "listen", DefaultListen, "host and port of the API and the console")
	f.StringVar(&ds.Lists, "lists", "127.0.0.1:8091", "host and port of the stand-in list server")
	f.StringVar(&ds.Post, "post", "127.0.0.1:8092", "host and port of the stand-in post office's page")
	f.StringVar(&ds.SMTP, "smtp", "127.0.0.1:2525", "host and port at which the post office takes mail")
	return cmd
}

// inUse names the flag that changes an address at which another program listens.
func inUse(err error, flags map[string]string) error {
	var used *service.AddressInUse
	if errors.As(err, &used) && flags[used.Address] != "" {
		return fmt.Errorf("%w: is Kavlo running already? Choose another address with %s", err, flags[used.Address])
	}
	return err
}

const demoText = `Salt and Signal, a touring exhibition: the demo workspace is running.

  Console   %[1]s
  Sign in   %[2]s
            (opens a session once; for another: kavlo access link "Ines Valadar")

Three things to try, in another terminal (or by hand in the console):

  export KAVLO_DATA=%[3]s

  1. Change a status, ask why the row moved, and take it back.
       kavlo rows "Touring loans/Requested" --columns Object,Lender,Stage
       kavlo row set "Touring loans/Requested" "%[5]s" Stage=Agreed
       kavlo why "Touring loans/Agreed" "%[5]s"
       kavlo undo NUMBER      (the answer above says it)
  2. Let the date rule mark what is late, and sync a list, twice.
       kavlo rule run "Touring loans" "Mark late condition reports"
       kavlo sync run "Touring loans" Insurance
  3. Send everybody one email with what is overdue, and read it.
       kavlo round run "Touring loans" "Morning round"
       open the console's Mail page, or %[4]s

Stop with Ctrl-C; what you did is kept in %[3]s.
`
