package lists_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/lists"
	"example.org/kavlo/internal/reconcile"
)

func TestListsReachOnlyWhatIsAllowed(t *testing.T) {
	target := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, `[]`) }))
	defer target.Close()
	byName := strings.Replace(target.URL, "127.0.0.1", "localhost", 1)
	redirecting := httptest.NewServer(http.RedirectHandler(byName, http.StatusFound))
	defer redirecting.Close()
	for _, c := range []struct {
		allowed string
		at      string
		ok      bool
	}{
		{"public", target.URL, false}, {"127.0.0.1", target.URL, true}, {"127.0.0.0/8", target.URL, true}, {"10.0.0.0/8", target.URL, false}, {"", target.URL, false},
		{"localhost", byName, true}, {"localhost", target.URL, false}, {"public", byName, false},
		{"localhost", redirecting.URL, false}, {"127.0.0.1", redirecting.URL, true},
		{"public", "http://[::1]:1/", false}, {"public", "http://169.254.169.254/", false}, {"public", "http://0.0.0.0:1/", false}, {"public", "http://[::ffff:127.0.0.1]:1/", false},
	} {
		con := quick()
		con.AllowedHosts = func(context.Context) ([]string, error) { return []string{c.allowed}, nil }
		_, err := con.Fetch(t.Context(), &reconcile.List{HTTP: c.at})
		if c.ok {
			require.NoError(t, err, "%+v", c)
			continue
		}
		require.ErrorContains(t, err, "lists may not reach", "%+v", c)
		require.ErrorContains(t, err, "kavlo access reach")
	}
	// a redirect is checked as an address of its own
	con := quick()
	con.AllowedHosts = func(context.Context) ([]string, error) { return []string{"127.0.0.1"}, nil }
	away := httptest.NewServer(http.RedirectHandler("http://169.254.169.254/secrets", http.StatusFound))
	defer away.Close()
	_, err := con.Fetch(t.Context(), &reconcile.List{HTTP: away.URL})
	require.ErrorContains(t, err, "lists may not reach 169.254.169.254")
	loop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, r.URL.Path+"x", http.StatusFound) }))
	defer loop.Close()
	_, err = con.Fetch(t.Context(), &reconcile.List{HTTP: loop.URL + "/"})
	require.ErrorContains(t, err, "redirects more than 5 times")
}

func TestAddressesToBeAllowed(t *testing.T) {
	for _, good := range []string{"public", "register.example.org", "10.0.0.7", "10.0.0.0/8", "::1", "fd00::/8"} {
		assert.NoError(t, lists.CheckAllowedHost(good), good)
	}
	for _, bad := range []string{"", "http://register.example.org", "register.example.org:80", "10.0.0.0/99", "a b", "*.example.org"} {
		assert.Error(t, lists.CheckAllowedHost(bad), bad)
	}
}

// Addresses that look public and are not: those that hold another address, and
// those that lead into a network of one's own or nowhere.
func TestOnlyTheOpenInternetIsPublic(t *testing.T) {
	con := quick()
	con.AllowedHosts = func(context.Context) ([]string, error) { return []string{"public"}, nil }
	for _, ip := range []string{"127.0.0.1", "0.1.2.3", "10.1.2.3", "100.64.0.1", "169.254.169.254", "172.31.0.1", "192.168.1.1", "192.0.0.8", "192.0.2.1", "198.18.0.1", "198.19.255.254", "198.51.100.7", "203.0.113.9",
		"192.88.99.1", "224.0.0.1", "240.0.0.1", "255.255.255.255", "[::]", "[::1]", "[::127.0.0.1]", "[::ffff:10.0.0.1]", "[64:ff9b::7f00:1]", "[64:ff9b:1::a00:1]", "[2002:7f00:1::]", "[2001:0:1::1]", "[2001:db8::1]",
		"[fc00::1]", "[fd12::1]", "[fe80::1]", "[fe80::1%25lo]", "[fec0::1]", "[ff02::1]", "[100::1]", "[3fff::1]", "2130706433", "0x7f.1", "127.1", "017700000001"} {
		_, err := con.Fetch(t.Context(), &reconcile.List{HTTP: "http://" + ip + ":9/"})
		require.Error(t, err, ip)
		if strings.ContainsAny(ip, ":") || strings.Count(ip, ".") == 3 {
			require.ErrorContains(t, err, "lists may not reach", ip)
		}
		assert.NotContains(t, err.Error(), "refused", "%s was tried", ip)
	}
}
