package client

import (
	"context"
	"net/http"

	"example.org/kavlo/internal/wire"
)

// Untidy lists what is not right with the rows of a tracker.
func (c *Client) Untidy(ctx context.Context, tracker string) ([]wire.Untidy, error) {
	var out []wire.Untidy
	err := c.get(ctx, path("trackers", tracker, "tidy"), nil, &out)
	return out, err
}

// Mend puts right what was found.
func (c *Client) Mend(ctx context.Context, h How, tracker string, mend wire.Mend) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "tidy"), body: mend})
}
