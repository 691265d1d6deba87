// Package lists gets the records of lists kept elsewhere. Each kind of place
// has its connector; http.go reads JSON over HTTP. It implements desk.Fetcher.
package lists

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/setup"
)

// Limits on what a list may send.
const (
	MaxPages   = 1000
	MaxPage    = 32 << 20 // bytes of a page
	MaxRecords = 1_000_000
	pageTime   = 30 * time.Second
)

// Connectors reaches lists.
type Connectors struct {
	Client *http.Client // nil: a client of its own
}

// Fetch gives every record of a list, decoded as encoding/json does with
// numbers as json.Number. A list is had whole or not at all.
func (c *Connectors) Fetch(ctx context.Context, l *setup.List) ([]any, error) {
	client := c.Client
	if client == nil {
		client = &http.Client{Timeout: pageTime}
	}
	var out []any
	at, seen := l.HTTP, map[string]bool{}
	for page := 1; at != ""; page++ {
		if seen[at] || page > MaxPages {
			return nil, fmt.Errorf("page %d of the list: its pages lead round in a circle, or there are more than %d", page, MaxPages)
		}
		seen[at] = true
		records, next, err := fetchPage(ctx, client, at, l)
		if err != nil {
			return nil, fmt.Errorf("page %d of the list, %s: %w", page, at, err)
		}
		if out = append(out, records...); len(out) > MaxRecords {
			return nil, fmt.Errorf("the list has more than %d records", MaxRecords)
		}
		at = next
	}
	return out, nil
}

func fetchPage(ctx context.Context, client *http.Client, at string, l *setup.List) (records []any, next string, err error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	if err != nil {
		return nil, "", err
	}
	req.Header.Set("Accept", "application/json")
	res, err := client.Do(req)
	if err != nil {
		var u *url.Error
		if errors.As(err, &u) { // it would name the address once more
			err = u.Err
		}
		return nil, "", err
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return nil, "", fmt.Errorf("it answered %s", res.Status)
	}
	d := json.NewDecoder(io.LimitReader(res.Body, MaxPage))
	d.UseNumber()
	var doc any
	if err := d.Decode(&doc); err != nil {
		return nil, "", fmt.Errorf("the answer is not JSON: %w", err)
	}
	found, err := reconcile.Pointer(doc, l.Items)
	if err != nil {
		return nil, "", fmt.Errorf("items %s: %w", l.Items, err)
	}
	records, isArray := found.([]any)
	if !isArray {
		return nil, "", fmt.Errorf("items %q leads to no array of records", l.Items)
	}
	if l.Next == "link" {
		next, err = nextLink(res)
	}
	return records, next, err
}

// nextLink gives the address of the next page that a Link header names
// (RFC 8288), or "".
func nextLink(res *http.Response) (string, error) {
	for _, link := range strings.Split(strings.Join(res.Header.Values("Link"), ","), ",") {
		target, params, _ := strings.Cut(strings.TrimSpace(link), ">")
		target, isLink := strings.CutPrefix(target, "<")
		if !isLink {
			continue
		}
		for _, p := range strings.Split(params, ";") {
			name, v, _ := strings.Cut(strings.TrimSpace(p), "=")
			if strings.EqualFold(name, "rel") && strings.EqualFold(strings.Trim(v, `"`), "next") {
				u, err := res.Request.URL.Parse(target)
				if err != nil {
					return "", fmt.Errorf("the link to the next page: %w", err)
				}
				return u.String(), nil
			}
		}
	}
	return "", nil
}
