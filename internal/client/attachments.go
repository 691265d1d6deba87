package client

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"net/url"

	"example.org/kavlo/internal/wire"
)

// Attach keeps a file for a cell of a column, and gives what to set the cell to. The file
// is kept for a day until a cell holds it.
func (c *Client) Attach(ctx context.Context, tracker, tab, column, name string, file []byte) (*wire.Attached, error) {
	return c.attach(ctx, path("trackers", tracker, "tabs", tab, "columns", column, "attachments"), url.Values{"name": {name}}, file)
}

// AttachToForm does the same for a field of a form.
func (c *Client) AttachToForm(ctx context.Context, tracker, form, field, name string, file []byte) (*wire.Attached, error) {
	return c.attach(ctx, path("trackers", tracker, "forms", form, "attachments"), url.Values{"name": {name}, "field": {field}}, file)
}

func (c *Client) attach(ctx context.Context, to string, query url.Values, file []byte) (*wire.Attached, error) {
	out := &wire.Attached{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: to, query: query, raw: bytes.NewReader(file)}, out)
	return out, err
}

// Attachment writes a file that a cell holds, by its id.
func (c *Client) Attachment(ctx context.Context, id string, w io.Writer) error {
	_, err := c.do(ctx, call{method: http.MethodGet, path: path("attachments", id)}, w)
	return err
}
