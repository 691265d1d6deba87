package client

import (
	"context"
	"io"
	"net/http"
	"net/url"

	"example.org/kavlo/internal/wire"
)

func ofPattern(pattern string) url.Values {
	if pattern == "" {
		return nil
	}
	return url.Values{"pattern": {pattern}}
}

// PagesOf lists the pages of a tracker's rows, those of one dossier or, with "", of all.
func (c *Client) PagesOf(ctx context.Context, tracker, pattern string) ([]wire.PageRef, error) {
	var out []wire.PageRef
	err := c.get(ctx, path("trackers", tracker, "pages"), ofPattern(pattern), &out)
	return out, err
}

// FindPages finds pages by title, in every tracker.
func (c *Client) FindPages(ctx context.Context, title string) ([]wire.PageRef, error) {
	var out []wire.PageRef
	err := c.get(ctx, path("pages"), url.Values{"title": {title}}, &out)
	return out, err
}

// Page shows the page of a row, by its title or the row's id, with what is to be known of its
// fields.
func (c *Client) Page(ctx context.Context, tracker, page, pattern string) (*wire.Page, error) {
	out := &wire.Page{}
	q := url.Values{"fields": {"yes"}}
	if pattern != "" {
		q.Set("pattern", pattern)
	}
	return out, c.get(ctx, path("trackers", tracker, "pages", page), q, out)
}

// SetPage edits a page's facts, which edits its row, and its own fields.
func (c *Client) SetPage(ctx context.Context, h How, tracker, page, pattern string, edit wire.PageEdit) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPatch, path: path("trackers", tracker, "pages", page), query: ofPattern(pattern), body: edit})
}

// AddEntry adds an entry to a page's log.
func (c *Client) AddEntry(ctx context.Context, h How, tracker, page, pattern string, cells map[string]any) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "pages", page, "log"), query: ofPattern(pattern), body: wire.NewEntry{Cells: cells}})
}

// OpenPages opens the pages of rows that have none.
func (c *Client) OpenPages(ctx context.Context, h How, tracker, pattern string, which wire.Pages) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "dossiers", pattern, "open"), body: which})
}

// ClosePages closes pages, with their logs.
func (c *Client) ClosePages(ctx context.Context, h How, tracker, pattern string, which wire.Pages) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "dossiers", pattern, "close"), body: which})
}

// SavePages writes pages of a pattern as a workbook, by title or row; all unless some are named.
func (c *Client) SavePages(ctx context.Context, tracker, pattern string, pages []string, w io.Writer) error {
	_, err := c.do(ctx, call{method: http.MethodGet, path: path("trackers", tracker, "dossiers", pattern, "workbook"), query: url.Values{"page": pages}}, w)
	return err
}
