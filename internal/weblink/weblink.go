// Package weblink reads Link header fields (RFC 8288), by which pages of a list
// lead to one another.
package weblink

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
)

// Link is one link of a header.
type Link struct {
	Target string
	Params map[string]string // by name in lower case; the first of each counts
}

// Next gives the address of the next page that a header names, resolved against
// the page's own; nil where there is none. It must lie with the same host, by the
// same scheme: what is sent along with a call is for that host.
func Next(h http.Header, from *url.URL) (*url.URL, error) {
	for _, field := range h.Values("Link") {
		links, err := Parse(field)
		if err != nil {
			return nil, fmt.Errorf("the link to the next page: %w", err)
		}
		for _, l := range links {
			if !l.Rel("next") || l.Params["anchor"] != "" { // with an anchor it is another page's next
				continue
			}
			u, err := from.Parse(l.Target)
			if err != nil {
				return nil, fmt.Errorf("the link to the next page: %w", err)
			}
			if u.Host != from.Host || u.Scheme != from.Scheme {
				return nil, fmt.Errorf("its next page lies with another host, %s", u.Host)
			}
			return u, nil
		}
	}
	return nil, nil
}

// Rel reports whether the link is of a relation type, of which it may have several.
func (l *Link) Rel(want string) bool {
	for _, rel := range strings.Fields(l.Params["rel"]) {
		if strings.EqualFold(rel, want) {
			return true
		}
	}
	return false
}

// Parse reads a header field (RFC 8288, section 3 and appendix B.2). Targets and
// quoted values may hold commas and semicolons.
func Parse(field string) ([]Link, error) {
	p := &parser{field}
	var out []Link
	for {
		p.skip(" \t,")
		if p.rest == "" {
			return out, nil
		}
		l, err := p.link()
		if err != nil {
			return nil, err
		}
		out = append(out, l)
		p.skip(" \t")
		if p.rest != "" && p.rest[0] != ',' {
			return nil, fmt.Errorf("%q stands where a comma should", p.rest)
		}
	}
}

type parser struct{ rest string }

func (p *parser) skip(marks string) { p.rest = strings.TrimLeft(p.rest, marks) }

func (p *parser) take(mark byte) bool {
	if p.rest == "" || p.rest[0] != mark {
		return false
	}
	p.rest = p.rest[1:]
	return true
}

func (p *parser) link() (Link, error) {
	l := Link{Params: map[string]string{}}
	if !p.take('<') {
		return l, fmt.Errorf("%q stands where <address> should", p.rest)
	}
	end := strings.IndexByte(p.rest, '>')
	if end < 0 {
		return l, fmt.Errorf("the address %q is not closed by >", p.rest)
	}
	l.Target, p.rest = strings.TrimSpace(p.rest[:end]), p.rest[end+1:]
	for {
		p.skip(" \t")
		if !p.take(';') {
			return l, nil
		}
		p.skip(" \t")
		name, value, err := p.param()
		if err != nil {
			return l, err
		}
		if _, twice := l.Params[name]; name != "" && !twice {
			l.Params[name] = value
		}
	}
}

func (p *parser) param() (name, value string, err error) {
	end := strings.IndexAny(p.rest, "=;, \t")
	if end < 0 {
		end = len(p.rest)
	}
	name, p.rest = strings.ToLower(p.rest[:end]), p.rest[end:]
	p.skip(" \t")
	if !p.take('=') {
		return name, "", nil
	}
	p.skip(" \t")
	if p.take('"') {
		value, err = p.quoted()
		return name, value, err
	}
	end = strings.IndexAny(p.rest, ";, \t")
	if end < 0 {
		end = len(p.rest)
	}
	value, p.rest = p.rest[:end], p.rest[end:]
	return name, value, nil
}

// quoted reads a quoted string whose first mark has been taken.
func (p *parser) quoted() (string, error) {
	var b strings.Builder
	for i := 0; i < len(p.rest); i++ {
		switch c := p.rest[i]; {
		case c == '"':
			p.rest = p.rest[i+1:]
			return b.String(), nil
		case c == '\\' && i+1 < len(p.rest):
			i++
			b.WriteByte(p.rest[i])
		default:
			b.WriteByte(c)
		}
	}
	return "", fmt.Errorf("the value %q is not closed by a quotation mark", p.rest)
}
