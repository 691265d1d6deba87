// Command shots takes the pictures of docs/screenshots anew, from the demo's
// data: the console in headless Chromium, the command line laid out as a
// terminal shows it.
package main

import (
	"bytes"
	"context"
	"errors"
	"flag"
	"fmt"
	"html"
	"log"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/chromedp/kb"

	"example.org/kavlo/console"
	"example.org/kavlo/demo"
	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/cli"
	"example.org/kavlo/internal/service"
)

func main() {
	out := flag.String("out", "docs/screenshots", "folder for the pictures")
	only := flag.String("only", "", "take only pictures whose name holds this")
	flag.Parse()
	if err := run(context.Background(), *out, *only); err != nil {
		log.Fatal(err)
	}
}

// shooter takes pictures of one demo.
type shooter struct {
	page *browser.Page
	demo *service.Demo
	dir  string
	out  string
	only string
	tabs map[string]string // ids by name
	home string            // address of the tracker's pages
}

func run(ctx context.Context, out, only string) error {
	if console.Files() == nil {
		return fmt.Errorf("the console has not been built: run make build")
	}
	dir, err := os.MkdirTemp("", "kavlo-shots")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	d, err := service.StartDemo(ctx, service.Settings{Version: "0", Dir: dir, Listen: "127.0.0.1:0", Console: console.Files()},
		service.DemoSettings{Lists: "127.0.0.1:0", Post: "127.0.0.1:0", SMTP: "127.0.0.1:0"})
	if err != nil {
		return err
	}
	defer func() { _ = d.Stop() }()
	page, err := browser.Open(ctx)
	if err != nil {
		return err
	}
	defer page.Close()
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	s := &shooter{page: page, demo: d, dir: dir, out: out, only: only, tabs: map[string]string{}}
	t, err := d.Workspace.Find(demo.Tracker)
	if err != nil {
		return err
	}
	for i := range t.Tabs {
		s.tabs[t.Tabs[i].Name] = t.Tabs[i].ID.String()
	}
	s.home = d.Address + "/t/" + t.ID.String()
	for _, take := range []func() error{s.commands, s.today, s.tracker, s.rules, s.lists, s.pages, s.mail, s.run, s.file} {
		if err := take(); err != nil {
			return err
		}
	}
	return nil
}

func (s *shooter) save(name string) error {
	if !strings.Contains(name, s.only) {
		return nil
	}
	time.Sleep(400 * time.Millisecond) // fonts and transitions
	png, err := s.page.Shot()
	if err != nil {
		return fmt.Errorf("picture %s: %w", name, err)
	}
	return os.WriteFile(filepath.Join(s.out, name+".png"), png, 0o644)
}

// terminal runs commands and lays out what they print.
func (s *shooter) terminal(name string, commands ...[]string) error {
	var text bytes.Buffer
	for _, c := range commands {
		fmt.Fprintf(&text, "$ kavlo %s\n", strings.ReplaceAll(quoted(c), s.dir+string(filepath.Separator), ""))
		cli.Main(append(c, "--data", s.dir), &text, &text)
		text.WriteByte('\n')
	}
	if !strings.Contains(name, s.only) {
		return nil
	}
	lines := strings.Split(text.String(), "\n")
	if len(lines) > 44 {
		lines = append(lines[:43], "…")
	}
	doc := `<!doctype html><meta charset="utf-8"><body style="margin:0;background:#171C22;color:#E9E6DC;font:13px/17px 'DejaVu Sans Mono',monospace;padding:16px 20px;white-space:pre">` + html.EscapeString(strings.Join(lines, "\n"))
	file := filepath.Join(s.dir, "terminal.html")
	if err := os.WriteFile(file, []byte(doc), 0o600); err != nil {
		return err
	}
	if err := s.page.Go("file://" + file); err != nil {
		return err
	}
	return s.save(name)
}

func quoted(args []string) string {
	out := make([]string, len(args))
	for i, a := range args {
		if strings.ContainsAny(a, " '[]<>") {
			a = `"` + a + `"`
		}
		out[i] = a
	}
	return strings.Join(out, " ")
}

func (s *shooter) commands() error {
	const requested, agreed = "Touring loans/Requested", "Touring loans/Agreed"
	if err := s.terminal("command-rows", []string{"rows", requested, "--columns", "Object,Lender,Stage,Due,Registrar", "--where", "Due before today + 12 days"}); err != nil {
		return err
	}
	var last int64
	for _, t := range s.demo.Workspace.State().Trackers() {
		last = max(last, t.Version)
	}
	seq := fmt.Sprint(last + 1)
	if err := s.terminal("command-set-why-undo", []string{"row", "set", requested, s.demo.Sample, "Stage=Agreed"}, []string{"why", agreed, s.demo.Sample}, []string{"undo", seq},
		[]string{"row", "set", requested, s.demo.Sample, "Stage=Agred"}, []string{"rows", requested, "--where", "Stge is blank"}); err != nil {
		return err
	}
	if err := s.terminal("command-rule-preview", []string{"rule", "preview", demo.Tracker, "Mark late condition reports"}, []string{"rule", "run", demo.Tracker, "Mark loans past their date"}); err != nil {
		return err
	}
	if err := s.terminal("command-sync-round", []string{"row", "set", "Touring loans/Lenders", "Hask & Daughters", "Country=Tarnland"}, []string{"sync", "preview", demo.Tracker, "Lenders"},
		[]string{"sync", "conflicts", demo.Tracker}, []string{"sync", "run", demo.Tracker, "Insurance"}, []string{"round", "run", demo.Tracker, "Morning round"}); err != nil {
		return err
	}
	if err := s.terminal("command-page-tally", []string{"tally", "show", demo.Tracker, "Worth by venue"}, []string{"dossier", "show", demo.Tracker, "North Pier"}); err != nil {
		return err
	}
	return s.terminal("command-read-import", []string{"read", "internal/formats/testdata/venue-sheet.xlsx"}, []string{"import", "internal/formats/testdata/loans-ticked.xlsx", "--into", "Spring files", "--new"}, []string{"import", "internal/formats/testdata/loans-ticked.xlsx", "--into", "Spring files"})
}

func (s *shooter) today() error {
	if err := s.page.Go(s.demo.SignIn); err != nil {
		return err
	}
	if err := s.page.Says("Scheduled"); err != nil {
		return err
	}
	return s.save("console-today")
}

func (s *shooter) tracker() error {
	if err := s.page.Go(s.home + "/" + s.tabs["On display"]); err != nil {
		return err
	}
	if err := s.page.Holds("document.querySelectorAll('[role=row]').length > 20"); err != nil {
		return err
	}
	if err := s.page.Click("[data-row='3'] > [data-col='1']"); err != nil {
		return err
	}
	if err := s.page.Press("Details"); err != nil {
		return err
	}
	if err := s.page.Says("History"); err != nil {
		return err
	}
	if err := s.save("console-tracker"); err != nil {
		return err
	}
	return s.editing()
}

func (s *shooter) editing() error {
	if err := s.page.Go(s.home + "/" + s.tabs["Crating"]); err != nil {
		return err
	}
	if err := s.page.Holds("document.querySelectorAll('[role=row]').length > 15"); err != nil {
		return err
	}
	if err := s.page.Click("[data-row='4'] > [data-col='3']"); err != nil {
		return err
	}
	if err := s.page.Letter("I"); err != nil { // the only choice that begins so
		return err
	}
	if err := s.page.Keys(kb.Enter); err != nil {
		return err
	}
	if err := s.page.Says("moved to In transit"); err != nil {
		return err
	}
	return s.save("console-edit")
}

func (s *shooter) rules() error {
	if err := s.page.Go(s.home + "/rules"); err != nil {
		return err
	}
	if err := s.page.Says("Move loans to their stage"); err != nil {
		return err
	}
	if err := s.save("console-rules"); err != nil {
		return err
	}
	if err := errors.Join(s.page.Press("Mark loans past their date"), s.page.Says("Matches")); err != nil {
		return err
	}
	if err := s.save("console-rule"); err != nil {
		return err
	}
	if err := s.page.Go(s.home + "/rules"); err != nil {
		return err
	}
	if err := s.page.Click("[aria-label='Preview Mark late condition reports']"); err != nil {
		return err
	}
	if err := s.page.Says("would change now"); err != nil {
		return err
	}
	return s.save("console-preview")
}

func (s *shooter) lists() error {
	if err := s.page.Go(s.home + "/lists"); err != nil {
		return err
	}
	if err := s.page.Says("Open conflicts"); err != nil {
		return err
	}
	if err := s.page.Press("Preview"); err != nil { // of the first, Lenders
		return err
	}
	if err := s.page.Says("Changes to the list"); err != nil {
		return err
	}
	return s.save("console-lists")
}

func (s *shooter) pages() error {
	if err := s.page.Go(s.home + "/pages"); err != nil {
		return err
	}
	if err := s.page.Press("North Pier"); err != nil {
		return err
	}
	if err := s.page.Says("Worth on display"); err != nil {
		return err
	}
	if err := s.save("console-page"); err != nil {
		return err
	}
	if err := errors.Join(s.page.Size(390, 844), s.page.Scheme("dark")); err != nil {
		return err
	}
	if err := s.page.Says("Worth on display"); err != nil {
		return err
	}
	return errors.Join(s.save("console-page-phone-dark"), s.page.Scheme("light"), s.page.Size(1280, 800))
}

func (s *shooter) mail() error {
	if err := s.page.Go(s.demo.Address + "/mail"); err != nil {
		return err
	}
	if err := s.page.Says("loans need you today"); err != nil {
		return err
	}
	return s.save("console-mail")
}

func (s *shooter) file() error {
	if err := s.page.Go(s.demo.Address + "/import"); err != nil {
		return err
	}
	if err := s.page.Says("Drop a workbook"); err != nil {
		return err
	}
	sample, err := filepath.Abs("internal/formats/testdata/venue-sheet.xlsx")
	if err != nil {
		return err
	}
	if err := s.page.Choose("input[type=file]", sample); err != nil {
		return err
	}
	if err := s.page.Says("C6:H25"); err != nil {
		return err
	}
	if err := s.page.Press("Preview"); err != nil {
		return err
	}
	if err := s.page.Says("19 rows added"); err != nil {
		return err
	}
	return s.save("console-import")
}

func (s *shooter) run() error {
	if err := s.page.Go(s.home + "/runs"); err != nil {
		return err
	}
	if err := s.page.Says("Mark loans past their date"); err != nil {
		return err
	}
	if err := s.page.Press("Mark loans past their date"); err != nil {
		return err
	}
	if err := s.page.Says("Rows checked"); err != nil {
		return err
	}
	return s.save("console-run")
}
