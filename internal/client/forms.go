package client

import (
	"context"
	"net/http"

	"example.org/kavlo/internal/wire"
)

// FillForm adds a row by a form.
func (c *Client) FillForm(ctx context.Context, tracker, form string, cells map[string]any) (*wire.Received, error) {
	out := &wire.Received{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("trackers", tracker, "forms", form, "entries"), body: wire.NewEntry{Cells: cells}}, out)
	return out, err
}

// FormFields shows a form as it is filled in.
func (c *Client) FormFields(ctx context.Context, tracker, form string) (*wire.EntryForm, error) {
	out := &wire.EntryForm{}
	return out, c.get(ctx, path("trackers", tracker, "forms", form, "fields"), nil, out)
}

// FormLink makes a private link to a form, which lasts so many days; 0: until it is closed.
func (c *Client) FormLink(ctx context.Context, tracker, form string, days int) (*wire.Secret, error) {
	out := &wire.Secret{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("trackers", tracker, "forms", form, "links"), body: wire.NewLink{Days: days}}, out)
	return out, err
}

// FormLinks lists the open private links of a form.
func (c *Client) FormLinks(ctx context.Context, tracker, form string) ([]wire.FormLink, error) {
	var out []wire.FormLink
	err := c.get(ctx, path("trackers", tracker, "forms", form, "links"), nil, &out)
	return out, err
}

// CloseFormLinks closes the private links of a form.
func (c *Client) CloseFormLinks(ctx context.Context, tracker, form string) (*wire.ClosedLinks, error) {
	out := &wire.ClosedLinks{}
	_, err := c.do(ctx, call{method: http.MethodDelete, path: path("trackers", tracker, "forms", form, "links")}, out)
	return out, err
}
