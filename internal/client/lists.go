package client

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/url"

	"example.org/kavlo/internal/wire"
)

// This file makes the calls about lists, mail, and files that rules wrote.

// RunSync brings a list and a tab into step; beyond is a person's word that
// more than the guard's share may change or go.
func (c *Client) RunSync(ctx context.Context, h How, tracker, sync string, beyond bool) (*wire.ChangeSet, error) {
	q := url.Values{}
	if beyond {
		q.Set("beyond_guard", "yes")
	}
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "syncs", sync, "run"), query: q})
}

// Conflicts lists the conflicts that wait for a person, of one sync or of all.
func (c *Client) Conflicts(ctx context.Context, tracker, sync string) ([]wire.Conflict, error) {
	var out []wire.Conflict
	q := url.Values{}
	if sync != "" {
		q.Set("sync", sync)
	}
	err := c.get(ctx, path("trackers", tracker, "conflicts"), q, &out)
	return out, err
}

// Settle settles conflicts of a sync.
func (c *Client) Settle(ctx context.Context, h How, tracker, sync string, s wire.Settle) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "syncs", sync, "settle"), body: s})
}

// NewFeed makes a private address of a person's calendar of due dates.
func (c *Client) NewFeed(ctx context.Context, person string) (*wire.Secret, error) {
	out := &wire.Secret{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("people", person, "feed")}, out)
	return out, err
}

// DropFeeds makes every calendar address of a person invalid.
func (c *Client) DropFeeds(ctx context.Context, person string) error {
	_, err := c.do(ctx, call{method: http.MethodDelete, path: path("people", person, "feed")}, nil)
	return err
}

// Secrets lists the names of the secrets that lists use.
func (c *Client) Secrets(ctx context.Context) ([]string, error) {
	var out []string
	err := c.get(ctx, "/access/secrets", nil, &out)
	return out, err
}

// PutSecret keeps a secret; an empty value forgets it.
func (c *Client) PutSecret(ctx context.Context, name, value string) ([]string, error) {
	var out []string
	in := call{method: http.MethodPut, path: path("access", "secrets", name), body: wire.SecretValue{Value: value}}
	if value == "" {
		in = call{method: http.MethodDelete, path: in.path}
	}
	_, err := c.do(ctx, in, &out)
	return out, err
}

// AllowedHosts lists the addresses that lists may reach.
func (c *Client) AllowedHosts(ctx context.Context) ([]string, error) {
	var out []string
	err := c.get(ctx, "/access/reach", nil, &out)
	return out, err
}

// SetAllowedHost lets lists reach an address, or not any more.
func (c *Client) SetAllowedHost(ctx context.Context, address string, allowed bool) ([]string, error) {
	var out []string
	method := http.MethodPut
	if !allowed {
		method = http.MethodDelete
	}
	_, err := c.do(ctx, call{method: method, path: "/access/reach", query: url.Values{"address": {address}}}, &out)
	return out, err
}

// RoundHow is how a round is sent by hand.
type RoundHow struct {
	How
	Again   bool // once more, to those who have it
	Instead bool // in the place of the next one by the clock
}

// RunRound sends a round.
func (c *Client) RunRound(ctx context.Context, h RoundHow, tracker, round string) (*wire.RoundResult, error) {
	out := &wire.RoundResult{}
	q := url.Values{}
	if h.Again {
		q.Set("again", "true")
	}
	if h.Instead {
		q.Set("instead", "true")
	}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("trackers", tracker, "rounds", round, "run"), query: h.query(q)}, out)
	return out, err
}

// TryRound sends one person the mail that a round would send now, for a look.
func (c *Client) TryRound(ctx context.Context, tracker, round, to string) (*wire.Letter, error) {
	out := &wire.Letter{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("trackers", tracker, "rounds", round, "try"), query: url.Values{"to": {to}}}, out)
	return out, err
}

// Resend sends a mail of the outbox once more.
func (c *Client) Resend(ctx context.Context, mail string) (*wire.OutboxMail, error) {
	out := &wire.OutboxMail{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("outbox", mail, "resend")}, out)
	return out, err
}

// TestMail sends whoever asks a test email.
func (c *Client) TestMail(ctx context.Context) (*wire.TestMail, error) {
	out := &wire.TestMail{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("outbox", "test")}, out)
	return out, err
}

// MailServer gives the server by which emails go.
func (c *Client) MailServer(ctx context.Context) (*wire.MailServerFound, error) {
	return c.mailServer(ctx, http.MethodGet, nil)
}

// SetMailServer changes the server by which emails go.
func (c *Client) SetMailServer(ctx context.Context, to wire.MailServerSet) (*wire.MailServerFound, error) {
	return c.mailServer(ctx, http.MethodPut, to)
}

// DropMailServer lets emails wait in the outbox.
func (c *Client) DropMailServer(ctx context.Context) (*wire.MailServerFound, error) {
	return c.mailServer(ctx, http.MethodDelete, nil)
}

func (c *Client) mailServer(ctx context.Context, method string, to any) (*wire.MailServerFound, error) {
	out := &wire.MailServerFound{}
	_, err := c.do(ctx, call{method: method, path: path("outbox", "server"), body: to}, out)
	return out, err
}

// Outbox lists the mails that rounds made.
func (c *Client) Outbox(ctx context.Context) ([]wire.OutboxMail, error) {
	var out []wire.OutboxMail
	err := c.get(ctx, "/outbox", nil, &out)
	return out, err
}

// Written lists the files that rules of a tracker wrote.
func (c *Client) Written(ctx context.Context, tracker string) ([]wire.WrittenFile, error) {
	var out []wire.WrittenFile
	err := c.get(ctx, path("trackers", tracker, "outbound"), nil, &out)
	return out, err
}

// WrittenFile opens a file that a rule wrote.
func (c *Client) WrittenFile(ctx context.Context, tracker, file string, w io.Writer) error {
	_, err := c.do(ctx, call{method: http.MethodGet, path: path("trackers", tracker, "outbound", "file"), query: url.Values{"path": {file}}}, w)
	return err
}

// WrittenVersion opens what a file was before it was written over.
func (c *Client) WrittenVersion(ctx context.Context, tracker, file string, version int, w io.Writer) error {
	_, err := c.do(ctx, call{method: http.MethodGet, path: path("trackers", tracker, "outbound", "file"), query: url.Values{"path": {file}, "version": {fmt.Sprint(version)}}}, w)
	return err
}

// Versions lists what a file was before it was written over.
func (c *Client) Versions(ctx context.Context, tracker, file string) ([]wire.FileVersion, error) {
	var out []wire.FileVersion
	return out, c.get(ctx, path("trackers", tracker, "outbound", "versions"), url.Values{"path": {file}}, &out)
}

// PutFile puts a workbook into the outbound folder, or into that of templates.
func (c *Client) PutFile(ctx context.Context, tracker, at string, template bool, file io.Reader) (*wire.PutFile, error) {
	q := url.Values{"path": {at}}
	if template {
		q.Set("template", "yes")
	}
	out := &wire.PutFile{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("trackers", tracker, "outbound", "file"), query: q, raw: file}, out)
	return out, err
}

// CompareWritten tells what is different between two files that rules wrote.
func (c *Client) CompareWritten(ctx context.Context, tracker, before, after, key string) (*wire.Comparison, error) {
	q := url.Values{"before": {before}, "after": {after}}
	if key != "" {
		q.Set("key", key)
	}
	out := &wire.Comparison{}
	return out, c.get(ctx, path("trackers", tracker, "outbound", "compare"), q, out)
}

// Backup writes a consistent copy of the workspace's file.
func (c *Client) Backup(ctx context.Context, w io.Writer) error {
	_, err := c.do(ctx, call{method: http.MethodGet, path: "/backup"}, w)
	return err
}

// Check tells whether the workspace is sound.
func (c *Client) Check(ctx context.Context, thoroughly bool) (*wire.Soundness, error) {
	out := &wire.Soundness{}
	q := url.Values{}
	if thoroughly {
		q.Set("thorough", "yes")
	}
	return out, c.get(ctx, "/check", q, out)
}

// Access lists what lets a person in.
func (c *Client) Access(ctx context.Context, person string) ([]wire.Token, error) {
	var out []wire.Token
	err := c.get(ctx, path("people", person, "access"), nil, &out)
	return out, err
}

// Revoke revokes one thing that lets a person in, by its id; with "" all.
func (c *Client) Revoke(ctx context.Context, person, id string) (*wire.Revoked, error) {
	if id != "" {
		_, err := c.do(ctx, call{method: http.MethodDelete, path: path("people", person, "access", id)}, nil)
		return &wire.Revoked{Revoked: 1}, err
	}
	out := &wire.Revoked{}
	_, err := c.do(ctx, call{method: http.MethodDelete, path: path("people", person, "access")}, out)
	return out, err
}

// RemovePerson removes a person.
func (c *Client) RemovePerson(ctx context.Context, person string) error {
	_, err := c.do(ctx, call{method: http.MethodDelete, path: path("people", person)}, nil)
	return err
}

// RenewLinks makes the links of all mails and all calendar addresses invalid.
func (c *Client) RenewLinks(ctx context.Context) error {
	_, err := c.do(ctx, call{method: http.MethodPost, path: "/access/renew-links"}, nil)
	return err
}
