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
	"example.org/kavlo/internal/setup"
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
		con.Reach = func(context.Context) ([]string, error) { return []string{c.allowed}, nil }
		_, err := con.Fetch(t.Context(), &setup.List{HTTP: c.at})
		if c.ok {
			require.NoError(t, err, "%+v", c)
			continue
		}
		require.ErrorContains(t, err, "lists may not reach", "%+v", c)
		require.ErrorContains(t, err, "kavlo access reach")
	}
	// a redirect is checked as an address of its own
	con := quick()
	con.Reach = func(context.Context) ([]string, error) { return []string{"127.0.0.1"}, nil }
	away := httptest.NewServer(http.RedirectHandler("http://169.254.169.254/secrets", http.StatusFound))
	defer away.Close()
	_, err := con.Fetch(t.Context(), &setup.List{HTTP: away.URL})
	require.ErrorContains(t, err, "lists may not reach 169.254.169.254")
	loop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, r.URL.Path+"x", http.StatusFound) }))
	defer loop.Close()
	_, err = con.Fetch(t.Context(), &setup.List{HTTP: loop.URL + "/"})
	require.ErrorContains(t, err, "redirects more than 5 times")
}

func TestAddressesToBeAllowed(t *testing.T) {
	for _, good := range []string{"public", "register.example.org", "10.0.0.7", "10.0.0.0/8", "::1", "fd00::/8"} {
		assert.NoError(t, lists.CheckReach(good), good)
	}
	for _, bad := range []string{"", "http://register.example.org", "register.example.org:80", "10.0.0.0/99", "a b", "*.example.org"} {
		assert.Error(t, lists.CheckReach(bad), bad)
	}
}
