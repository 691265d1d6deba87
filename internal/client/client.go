// Package client speaks to a Kavlo service over HTTP in the forms of package
// wire. A test holds every call against the service's OpenAPI document.
package client

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"example.org/kavlo/internal/weblink"
	"example.org/kavlo/internal/wire"
)

// Client speaks to one service for one person.
type Client struct {
	base  string
	token string
	http  *http.Client
}

// New gives a client of the service at an address such as http://127.0.0.1:8090.
func New(address, token string) (*Client, error) {
	u, err := url.Parse(strings.TrimRight(address, "/"))
	if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
		return nil, fmt.Errorf("%q is not the address of a service: write it like http://127.0.0.1:8090", address)
	}
	return &Client{base: u.String(), token: strings.TrimSpace(token), http: &http.Client{Timeout: 10 * time.Minute}}, nil
}

// Unreachable says that the service does not answer.
type Unreachable struct {
	Address string
	Err     error
}

func (e *Unreachable) Error() string {
	return fmt.Sprintf("cannot reach %s: is the service running? Start it with kavlo serve, or name one with --url or KAVLO_URL (%v)", e.Address, e.Err)
}

func (e *Unreachable) Unwrap() error { return e.Err }

// call is one request. Its path begins after /api/v1 and is made with path.
type call struct {
	method string
	path   string
	query  url.Values
	body   any       // sent as JSON
	raw    io.Reader // or this, as it is
	header http.Header
}

// path joins the parts of an address, each escaped.
func path(parts ...string) string {
	var b strings.Builder
	for _, p := range parts {
		b.WriteByte('/')
		b.WriteString(url.PathEscape(p))
	}
	return b.String()
}

func (c *Client) do(ctx context.Context, r call, out any) (http.Header, error) {
	address := c.base + "/api/v1" + r.path
	if len(r.query) > 0 {
		address += "?" + r.query.Encode()
	}
	body, kind := r.raw, "application/octet-stream"
	if r.body != nil {
		text, err := json.Marshal(r.body)
		if err != nil {
			return nil, fmt.Errorf("writing the request: %w", err)
		}
		body, kind = bytes.NewReader(text), "application/json"
	}
	req, err := http.NewRequestWithContext(ctx, r.method, address, body)
	if err != nil {
		return nil, fmt.Errorf("making the request: %w", err)
	}
	for k, v := range r.header {
		req.Header[k] = v
	}
	if body != nil {
		req.Header.Set("Content-Type", kind)
	}
	req.Header.Set("Accept", "application/json")
	if c.token != "" {
		req.Header.Set("Authorization", "Bearer "+c.token)
	}
	res, err := c.http.Do(req)
	if err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		var u *url.Error
		if errors.As(err, &u) {
			err = u.Err
		}
		return nil, &Unreachable{Address: c.base, Err: err}
	}
	defer res.Body.Close()
	if res.StatusCode >= 300 {
		return nil, problem(res)
	}
	if to, ok := out.(io.Writer); ok {
		if _, err := io.Copy(to, res.Body); err != nil {
			return nil, fmt.Errorf("reading the answer: %w", err)
		}
		return res.Header, nil
	}
	if out == nil || res.StatusCode == http.StatusNoContent {
		return res.Header, nil
	}
	d := json.NewDecoder(res.Body)
	d.UseNumber()
	if err := d.Decode(out); err != nil {
		return nil, fmt.Errorf("reading the answer: %w", err)
	}
	return res.Header, nil
}

func problem(res *http.Response) error {
	text, err := io.ReadAll(io.LimitReader(res.Body, 1<<20))
	if err != nil {
		return fmt.Errorf("reading the answer: %w", err)
	}
	p := &wire.Problem{}
	if json.Unmarshal(text, p) == nil && p.Status != 0 {
		return p
	}
	return &wire.Problem{Status: res.StatusCode, Title: res.Status, Detail: fmt.Sprintf("the service answered %s: %s", res.Status, strings.TrimSpace(string(text)))}
}

func (c *Client) get(ctx context.Context, at string, query url.Values, out any) error {
	_, err := c.do(ctx, call{method: http.MethodGet, path: at, query: query}, out)
	return err
}

// How says how a change is asked for.
type How struct {
	Preview bool
	Key     string // idempotency key
}

func (h How) query(q url.Values) url.Values {
	if q == nil {
		q = url.Values{}
	}
	if h.Preview {
		q.Set("preview", "yes")
	}
	return q
}

func (c *Client) change(ctx context.Context, h How, r call) (*wire.ChangeSet, error) {
	r.query = h.query(r.query)
	if h.Key != "" {
		if r.header == nil {
			r.header = http.Header{}
		}
		r.header.Set("Idempotency-Key", h.Key)
	}
	out := &wire.ChangeSet{}
	_, err := c.do(ctx, r, out)
	return out, err
}

// next gives the query of the next page that a Link header names, or nil.
func (c *Client) next(h http.Header) (url.Values, error) {
	from, err := url.Parse(c.base)
	if err != nil {
		return nil, err
	}
	u, err := weblink.Next(h, from)
	if err != nil || u == nil {
		return nil, err
	}
	return u.Query(), nil
}
