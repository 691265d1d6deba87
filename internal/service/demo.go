package service

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"slices"
	"time"

	"example.org/kavlo/demo"
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/pages"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/standin/listserver"
	"example.org/kavlo/internal/standin/post"
	"example.org/kavlo/internal/syncing"
)

// DemoSettings say where the demo's stand-ins listen.
type DemoSettings struct {
	Lists, Post, SMTP string // host:port
}

// Demo is a running demo.
type Demo struct {
	*Service
	Office   *post.Office
	Lists    *listserver.Server
	PostPage string // address of the post office's page
	SignIn   string // one-time link for the coordinator
	Sample   string // a loan to try things on
	closers  []func() error
}

// StartDemo starts the stand-ins and a service with the demo's data.
func StartDemo(ctx context.Context, s Settings, ds DemoSettings) (*Demo, error) {
	d := &Demo{Office: &post.Office{}}
	fail := func(err error) (*Demo, error) { return nil, errors.Join(err, d.close()) }
	now := s.Now
	if now == nil {
		now = time.Now
	}
	d.Lists = listserver.New(nil)
	demo.ServeLists(d.Lists, now())
	lists, err := d.serve(ctx, ds.Lists, d.Lists.Handler())
	if err != nil {
		return fail(err)
	}
	if d.PostPage, err = d.serve(ctx, ds.Post, d.Office.Handler()); err != nil {
		return fail(err)
	}
	smtp, err := listenOn(ctx, ds.SMTP)
	if err != nil {
		return fail(err)
	}
	d.closers = append(d.closers, smtp.Close)
	go func() { _ = d.Office.ServeSMTP(smtp) }() // ends when its listener is closed
	s.Mail = mail.Server{Address: smtp.Addr().String(), STARTTLS: "never", From: "Salt and Signal <loans@example.org>", ListID: "rounds.loans.example.org"}
	s.Post = d.Office
	if d.Service, err = Start(ctx, s); err != nil {
		return fail(err)
	}
	if err := d.fill(ctx, lists, now()); err != nil {
		return nil, errors.Join(err, d.Stop())
	}
	return d, nil
}

// serve serves HTTP on an address and gives it with its scheme.
func (d *Demo) serve(ctx context.Context, listen string, h http.Handler) (string, error) {
	l, err := listenOn(ctx, listen)
	if err != nil {
		return "", err
	}
	server := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second}
	d.closers = append(d.closers, server.Close)
	go func() { _ = server.Serve(l) }() // ends when the server is closed
	return "http://" + l.Addr().String(), nil
}

// fill makes the demo's people and tracker where they are not there yet, and
// points its lists to where the list server is this time.
func (d *Demo) fill(ctx context.Context, lists string, now time.Time) error {
	var coordinator int64
	for _, p := range demo.People {
		put, err := d.Workspace.PutPerson(ctx, p.Name, p.Address, p.Access)
		if err != nil {
			return fmt.Errorf("adding %s: %w", p.Name, err)
		}
		if coordinator == 0 {
			coordinator = put.ID
		}
	}
	secret, err := d.Workspace.IssueLink(ctx, coordinator)
	if err != nil {
		return err
	}
	d.SignIn = d.Workspace.SignInLink(secret)
	if _, err := d.Workspace.SetAllowedHost(ctx, "127.0.0.1", true); err != nil { // where the stand-ins are
		return err
	}
	_, err = d.Workspace.Find(demo.Tracker)
	fresh := err != nil
	for _, text := range []string{demo.Past, demo.Setup(lists)} {
		if _, err := d.Workspace.Commit(ctx, d.Workspace.LoadSetup(policy.Itself("Demo"), []byte(text))); err != nil {
			return fmt.Errorf("loading the demo's setup: %w", err)
		}
	}
	if fresh {
		if err := d.fillRows(ctx, now); err != nil {
			return err
		}
	}
	return d.pickSample()
}

// pickSample takes a loan that is still requested.
func (d *Demo) pickSample() error {
	t, tab, err := d.Workspace.FindTab(demo.Tracker, "Requested")
	if err != nil {
		return err
	}
	for _, r := range t.Page(tab.ID, 1, 1) {
		d.Sample = t.Label(r)
	}
	return nil
}

// openPages opens pages: rows are filled in without a turn of their own.
func (d *Demo) openPages(ctx context.Context, tracker sheet.TrackerID) error {
	t := d.Workspace.State().Tracker(tracker)
	for i := range t.Definitions {
		if t.Definitions[i].Kind != sheet.KindDossier {
			continue
		}
		c, err := d.Workspace.Pages.Pattern(t, t.Definitions[i].Name)
		if err != nil {
			return err
		}
		how := pages.Opening{}
		if !c.Auto { // some are left to open by hand
			how.Limit = 12
		}
		if _, err := d.Workspace.Commit(ctx, d.Workspace.Pages.Open(policy.Itself("Demo"), tracker, c, how)); err != nil {
			return fmt.Errorf("opening the pages of %s: %w", c.Name, err)
		}
	}
	return nil
}

func (d *Demo) fillRows(ctx context.Context, now time.Time) error {
	t, err := d.Workspace.Find(demo.Tracker)
	if err != nil {
		return err
	}
	rows := demo.Rows(now.In(t.Location()))
	tabs := make([]string, 0, len(rows))
	for name := range rows {
		tabs = append(tabs, name)
	}
	slices.Sort(tabs)
	for _, name := range tabs {
		tab, err := t.Tab(name)
		if err != nil {
			return err
		}
		req := d.Workspace.AddRows(policy.Itself("Demo"), t.ID, tab.ID, rows[name])
		req.Alone = true
		if _, err := d.Workspace.Commit(ctx, req); err != nil {
			return fmt.Errorf("filling %s: %w", name, err)
		}
	}
	for _, name := range []string{"Lenders", "Insurance", "Couriers"} {
		if _, err := d.Workspace.RunSync(ctx, policy.Itself("Demo"), sheet.ByHand, t, name, syncing.How{}); err != nil {
			return fmt.Errorf("bringing %s into step: %w", name, err)
		}
	}
	if err := d.openPages(ctx, t.ID); err != nil {
		return err
	}
	if err := d.disagree(ctx, t.ID); err != nil {
		return err
	}
	return d.note(ctx, t)
}

// disagree lets both sides of two lists go apart: of the register one contact is
// changed on both sides, which waits for a person; of the insurance list most
// records vanish, which the guard stops.
func (d *Demo) disagree(ctx context.Context, id sheet.TrackerID) error {
	t := d.Workspace.State().Tracker(id)
	tab, err := t.Tab("Lenders")
	if err != nil {
		return err
	}
	row, err := t.FindRow(tab, "Ostrel Island Society")
	if err != nil {
		return err
	}
	_, err = d.Workspace.Commit(ctx, d.Workspace.SetRows(policy.Itself("Ines Valadar"), id, []edit.RowEdit{{Row: row.ID, Cells: map[string]any{"Contact": "keeper.ostrel@example.org"}}}))
	if err != nil {
		return err
	}
	demo.Disagree(d.Lists)
	if _, err := d.Workspace.RunSync(ctx, policy.Itself("Ines Valadar"), sheet.ByHand, t, "Lenders", syncing.How{}); err != nil {
		return err
	}
	var stopped *reconcile.Beyond
	if _, err := d.Workspace.RunSync(ctx, policy.Itself("Ines Valadar"), sheet.ByHand, t, "Insurance", syncing.How{}); !errors.As(err, &stopped) {
		return fmt.Errorf("the guard did not stop the demo's mass removal: %w", err)
	}
	return nil
}

// note puts a remark on a cell and sets it off, so that the demo shows both.
func (d *Demo) note(ctx context.Context, t *sheet.Tracker) error {
	tab, err := t.Tab("Requested")
	if err != nil {
		return err
	}
	page := d.Workspace.State().Tracker(t.ID).Page(tab.ID, 2, 1)
	if len(page) == 0 {
		return nil
	}
	set := edit.RowEdit{Row: page[0].ID, Notes: map[string]string{"Object": "Frame is loose: lift from below."}, Styles: map[string]string{"Object": "fill rose"}}
	_, err = d.Workspace.Commit(ctx, d.Workspace.SetRows(policy.Itself("Ines Valadar"), t.ID, []edit.RowEdit{set}))
	return err
}

func (d *Demo) close() error {
	var err error
	for _, c := range d.closers {
		if e := c(); e != nil && !errors.Is(e, net.ErrClosed) {
			err = errors.Join(err, e)
		}
	}
	return err
}

// Wait serves until the context ends, then stops everything.
func (d *Demo) Wait(ctx context.Context) error { return errors.Join(d.Service.Wait(ctx), d.close()) }

// Stop stops everything.
func (d *Demo) Stop() error { return errors.Join(d.Service.Stop(), d.close()) }
