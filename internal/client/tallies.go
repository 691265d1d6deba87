package client

import (
	"context"
	"io"
	"net/http"
	"net/url"

	"example.org/kavlo/internal/wire"
)

// Tally works a tally out.
func (c *Client) Tally(ctx context.Context, tracker, tally string) (*wire.Tally, error) {
	out := &wire.Tally{}
	return out, c.get(ctx, path("trackers", tracker, "tallies", tally, "figures"), nil, out)
}

// TallyPicture draws a tally as svg or png.
func (c *Client) TallyPicture(ctx context.Context, tracker, tally, format, theme string, w io.Writer) error {
	q := url.Values{"format": {format}, "theme": {theme}}
	_, err := c.do(ctx, call{method: http.MethodGet, path: path("trackers", tracker, "tallies", tally, "picture"), query: q}, w)
	return err
}

// TallyTable writes a tally as xlsx or csv.
func (c *Client) TallyTable(ctx context.Context, tracker, tally, format string, w io.Writer) error {
	_, err := c.do(ctx, call{method: http.MethodGet, path: path("trackers", tracker, "tallies", tally, "table"), query: url.Values{"format": {format}}}, w)
	return err
}
