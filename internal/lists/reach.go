package lists

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"
	"time"
)

// Public stands, among the addresses that may be reached, for all that are not
// of a private or loopback range.
const Public = "public"

// CheckAllowedHost says what is wrong with an address to be allowed: it is public, a
// host's name, a number or a range of numbers, without scheme or port.
func CheckAllowedHost(address string) error {
	if _, err := netip.ParsePrefix(address); err == nil {
		return nil
	}
	if _, err := netip.ParseAddr(address); err == nil || address == Public {
		return nil
	}
	if address == "" || strings.ContainsAny(address, "/:@ *?") {
		return fmt.Errorf("%q is not an address: write public, a host's name, a number such as 10.0.0.7 or a range such as 10.0.0.0/8", address)
	}
	return nil
}

// dial connects where the workspace allows. Names are looked up here, so that
// what is checked is what is reached, of redirects too.
func (c *Connectors) dial(ctx context.Context, network, address string) (net.Conn, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return nil, err
	}
	dialer := &net.Dialer{Timeout: 10 * time.Second}
	if c.AllowedHosts == nil {
		return dialer.DialContext(ctx, network, address)
	}
	allowed, err := c.AllowedHosts(ctx)
	if err != nil {
		return nil, err
	}
	ips, err := net.DefaultResolver.LookupNetIP(ctx, "ip", host)
	if err != nil {
		return nil, err
	}
	for _, ip := range ips {
		if !reachable(allowed, host, ip.Unmap()) {
			continue
		}
		conn, dialErr := dialer.DialContext(ctx, network, net.JoinHostPort(ip.String(), port))
		if dialErr == nil {
			return conn, nil
		}
		err = errors.Join(err, dialErr)
	}
	if err == nil {
		return nil, &forbidden{host}
	}
	return nil, err
}

// recheck gives up connections that are kept open once what may be reached has
// changed.
func (c *Connectors) recheck(ctx context.Context) error {
	if c.AllowedHosts == nil {
		return nil
	}
	allowed, err := c.AllowedHosts(ctx)
	if err != nil {
		return err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if !slices.Equal(allowed, c.allowed) {
		c.http().CloseIdleConnections()
	}
	c.allowed = allowed
	return nil
}

// forbidden says that a list lies where the workspace does not allow.
type forbidden struct{ host string }

func (e *forbidden) Error() string {
	return fmt.Sprintf("lists may not reach %s: allow it with kavlo access reach %s", e.host, e.host)
}

func reachable(allowed []string, host string, ip netip.Addr) bool {
	public := isPublic(ip)
	for _, a := range allowed {
		if a == Public && public || strings.EqualFold(a, host) {
			return true
		}
		if one, err := netip.ParseAddr(a); err == nil && one.Unmap() == ip {
			return true
		}
		if p, err := netip.ParsePrefix(a); err == nil && p.Contains(ip) {
			return true
		}
	}
	return false
}

// notPublic are the ranges that lead into a network of one's own or nowhere,
// after the registries of special-purpose addresses (RFC 6890), and those that
// hold another address in them and so lead wherever that does.
var notPublic = func() (out []netip.Prefix) {
	for _, p := range []string{
		"0.0.0.0/8", "10.0.0.0/8", "100.64.0.0/10", "127.0.0.0/8", "169.254.0.0/16", "172.16.0.0/12", "192.0.0.0/24", "192.0.2.0/24", "192.31.196.0/24", "192.52.193.0/24",
		"192.88.99.0/24", "192.168.0.0/16", "192.175.48.0/24", "198.18.0.0/15", "198.51.100.0/24", "203.0.113.0/24", "224.0.0.0/4", "240.0.0.0/4",
		"::/96",                      // unspecified, loopback, addresses that hold one of IPv4
		"::ffff:0:0/96",              // the same
		"64:ff9b::/96",               // NAT64
		"64:ff9b:1::/48",             // NAT64 of a network's own
		"100::/64",                   // discarded
		"2001::/23",                  // Teredo, benchmarking, ORCHID and their like
		"2001:db8::/32", "3fff::/20", // documentation
		"2002::/16",                                      // 6to4
		"5f00::/16",                                      // segment routing
		"fc00::/7", "fe80::/10", "fec0::/10", "ff00::/8", // a network's own, a link's, a site's, many
	} {
		out = append(out, netip.MustParsePrefix(p))
	}
	return out
}()

// isPublic reports whether an address is one of the open internet.
func isPublic(ip netip.Addr) bool {
	ip = ip.WithZone("").Unmap()
	return ip.IsValid() && !slices.ContainsFunc(notPublic, func(p netip.Prefix) bool { return p.Contains(ip) })
}

const mostRedirects = 5

// http gives the client that every call over HTTP goes through.
func (c *Connectors) http() *http.Client {
	c.once.Do(func() {
		t := http.DefaultTransport.(*http.Transport).Clone()
		t.Proxy, t.DialContext = nil, c.dial
		if c.Trust != nil {
			t.TLSClientConfig = &tls.Config{RootCAs: c.Trust, MinVersion: tls.VersionTLS12}
		}
		c.client = &http.Client{Transport: bounded{t}, Timeout: callTime, CheckRedirect: func(req *http.Request, via []*http.Request) error {
			if len(via) > mostRedirects {
				return fmt.Errorf("it redirects more than %d times", mostRedirects)
			}
			if via[0].URL.Scheme == "https" && req.URL.Scheme != "https" {
				return errors.New("it redirects from https to an open connection")
			}
			return nil
		}}
	})
	return c.client
}

// bounded ends answers that are larger than a list may send.
type bounded struct{ *http.Transport }

func (b bounded) RoundTrip(req *http.Request) (*http.Response, error) {
	res, err := b.Transport.RoundTrip(req)
	if err == nil {
		res.Body = &boundedBody{ReadCloser: res.Body, left: MaxPage}
	}
	return res, err
}

type boundedBody struct {
	io.ReadCloser
	left int
}

func (b *boundedBody) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	if b.left -= n; b.left < 0 {
		return 0, fmt.Errorf("its answer is larger than %d MB", MaxPage>>20)
	}
	return n, err
}
