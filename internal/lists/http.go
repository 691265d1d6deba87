package lists

import (
	"context"
	"crypto/x509"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/cenkalti/backoff/v5"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/weblink"
)

// page is one page of a list.
type page struct {
	records []any
	next    string // address, or ""
	offers  reconcile.Pages
	size    int // bytes
}

// pageCache keeps the pages that their lists gave an entity tag (RFC 9110), so
// that what has not changed is not sent again.
type pageCache struct {
	mu    sync.Mutex
	pages map[string]tagged
	bytes int
}

type tagged struct {
	etag string
	body []byte
	link []string // header fields
}

// mostCached is how many bytes of pages are kept.
const mostCached = 32 << 20

func (c *pageCache) get(address string) (tagged, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	t, ok := c.pages[address]
	return t, ok
}

func (c *pageCache) put(address string, t tagged) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.pages == nil {
		c.pages = map[string]tagged{}
	}
	c.bytes += len(t.body) - len(c.pages[address].body)
	c.pages[address] = t
	for other, o := range c.pages {
		if c.bytes <= mostCached {
			return
		}
		c.bytes -= len(o.body)
		delete(c.pages, other)
	}
}

func (c *Connectors) fetchHTTP(ctx context.Context, l *reconcile.List) (out []reconcile.Entry, pages reconcile.Pages, err error) {
	size := 0
	at, seen := l.HTTP, map[string]bool{}
	for n := 1; at != ""; n++ {
		if seen[at] || n > MaxPages {
			return nil, pages, fmt.Errorf("page %d of the list: its pages lead round in a circle, or there are more than %d", n, MaxPages)
		}
		seen[at] = true
		pages.Fetched = n
		p, err := c.fetchPage(ctx, at, n, l)
		if err != nil {
			return nil, pages, fmt.Errorf("page %d of the list, %s: %w", n, at, err)
		}
		if size += p.size; size > MaxBytes {
			return nil, pages, errTooMuch
		}
		for _, doc := range p.records {
			out = append(out, entry(l, doc, fmt.Sprintf("record %d", len(out)+1)))
		}
		if len(out) > MaxRecords {
			return nil, pages, fmt.Errorf("the list has more than %d records", MaxRecords)
		}
		if at = p.next; n == 1 {
			pages.Offers, pages.Cursor = p.offers.Offers, p.offers.Cursor
		}
	}
	return out, pages, nil
}

func (c *Connectors) fetchPage(ctx context.Context, at string, n int, l *reconcile.List) (*page, error) {
	had, known := c.pages.get(at)
	header := http.Header{"Accept": {"application/json"}}
	if known {
		header.Set("If-None-Match", had.etag)
	}
	a, err := c.call(ctx, l, http.MethodGet, at, header, nil)
	if err != nil {
		return nil, err
	}
	now := tagged{etag: a.header.Get("ETag"), body: a.body, link: a.header.Values("Link")}
	switch {
	case a.status == http.StatusNotModified && known:
		now = had
	case a.status != http.StatusOK:
		return nil, fmt.Errorf("it answered %s", statusText(a.status))
	case now.etag != "":
		c.pages.put(at, now)
	}
	d := json.NewDecoder(strings.NewReader(string(now.body)))
	d.UseNumber()
	var doc any
	if err := d.Decode(&doc); err != nil {
		return nil, fmt.Errorf("the answer is not JSON: %w", err)
	}
	found, err := reconcile.Pointer(doc, l.Items)
	if err != nil {
		return nil, fmt.Errorf("items %s: %w", l.Items, err)
	}
	p := &page{size: len(now.body)}
	var isArray bool
	if p.records, isArray = found.([]any); !isArray {
		return nil, fmt.Errorf("items %q leads to no array of records", l.Items)
	}
	if l.Next == "" {
		p.offers = offered(at, doc, now.link)
		return p, nil
	}
	p.next, err = nextPage(l, at, n, doc, now.link, len(p.records))
	return p, err
}

// cursors are where lists often say from where their next page goes on.
var cursors = []string{"/next", "/next_cursor", "/nextCursor", "/cursor", "/next_page_token", "/nextPageToken", "/meta/next_cursor", "/meta/next"}

// offered says by what a list that is fetched as one page names another.
func offered(at string, doc any, link []string) reconcile.Pages {
	if u, err := url.Parse(at); err == nil {
		if next, err := weblink.Next(http.Header{"Link": link}, u); err == nil && next != nil {
			return reconcile.Pages{Offers: "link"}
		}
	}
	for _, p := range cursors {
		v, err := reconcile.Pointer(doc, p)
		if err != nil {
			continue
		}
		switch x := v.(type) {
		case string:
			if x != "" && !strings.Contains(x, "://") { // an address is no cursor
				return reconcile.Pages{Offers: "cursor", Cursor: p}
			}
		case json.Number:
			return reconcile.Pages{Offers: "cursor", Cursor: p}
		}
	}
	return reconcile.Pages{}
}

// nextPage gives the address of the page after the one at hand, or "".
func nextPage(l *reconcile.List, at string, n int, doc any, link []string, records int) (string, error) {
	u, err := url.Parse(at)
	if err != nil {
		return "", err
	}
	with := func(value string) string {
		q := u.Query()
		q.Set(l.As, value)
		u.RawQuery = q.Encode()
		return u.String()
	}
	switch l.Next {
	case "link":
		next, err := weblink.Next(http.Header{"Link": link}, u)
		if err != nil || next == nil {
			return "", err
		}
		return next.String(), nil
	case "cursor":
		v, err := reconcile.Pointer(doc, l.Cursor)
		if err != nil {
			return "", fmt.Errorf("cursor %s: %w", l.Cursor, err)
		}
		if v == nil || v == "" || v == false {
			return "", nil
		}
		return with(fmt.Sprint(v)), nil
	case "page":
		if records == 0 {
			return "", nil
		}
		if said, err := strconv.Atoi(u.Query().Get(l.As)); err == nil {
			n = said
		}
		return with(strconv.Itoa(n + 1)), nil
	}
	return "", nil
}

// answer is what a call brought.
type answer struct {
	status int
	header http.Header
	body   []byte
}

// tries is how often a call is made before it counts as failed.
const tries = 4

// call makes a call, again after a wait where the list is busy or out of order
// for the moment (429 and 5xx, with Retry-After honoured).
func (c *Connectors) call(ctx context.Context, l *reconcile.List, method, address string, header http.Header, body []byte) (*answer, error) {
	wait := backoff.NewExponentialBackOff()
	if wait.InitialInterval = c.Pause; c.Pause == 0 {
		wait.InitialInterval = 500 * time.Millisecond
	}
	var last *answer
	a, err := backoff.Retry(ctx, func() (*answer, error) {
		a, err := c.callOnce(ctx, l, method, address, header, body)
		if err != nil {
			return nil, backoff.Permanent(err)
		}
		if a.status != http.StatusTooManyRequests && a.status < 500 {
			return a, nil
		}
		last = a
		if s, err := strconv.Atoi(a.header.Get("Retry-After")); err == nil && s >= 0 && s <= 60 {
			return nil, &backoff.RetryAfterError{Duration: time.Duration(s) * time.Second}
		}
		return nil, fmt.Errorf("it answered %s", statusText(a.status))
	}, backoff.WithBackOff(wait), backoff.WithMaxTries(tries))
	if err != nil && last != nil && ctx.Err() == nil {
		return nil, fmt.Errorf("it answered %s, %d times", statusText(last.status), tries)
	}
	return a, err
}

func (c *Connectors) callOnce(ctx context.Context, l *reconcile.List, method, address string, header http.Header, body []byte) (*answer, error) {
	req, err := http.NewRequestWithContext(ctx, method, address, strings.NewReader(string(body)))
	if err != nil {
		return nil, err
	}
	for k, v := range header {
		req.Header[k] = v
	}
	switch {
	case l.Token != "":
		req.Header.Set("Authorization", "Bearer "+l.Token)
	case l.Name != "":
		req.SetBasicAuth(l.Name, l.Password)
	}
	res, err := c.http().Do(req)
	if err != nil {
		var u *url.Error
		if errors.As(err, &u) { // it would name the address once more
			err = u.Err
		}
		var unknown x509.UnknownAuthorityError
		if errors.As(err, &unknown) {
			err = fmt.Errorf("%w: if it is one of your own, start the service with --trust and the file of its certificate", err)
		}
		return nil, err
	}
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	if err != nil {
		return nil, fmt.Errorf("its answer could not be read to its end: %w", err)
	}
	return &answer{status: res.StatusCode, header: res.Header, body: text}, nil
}

func statusText(status int) string {
	return strings.TrimSpace(fmt.Sprintf("%d %s", status, http.StatusText(status)))
}
