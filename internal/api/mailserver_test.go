package api

import (
	"fmt"
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/standin/post"
	"example.org/kavlo/internal/wire"
)

// A service without a mail server says so where a test email is asked for.
func TestATestEmailSaysWhyItIsNotSent(t *testing.T) {
	r := newRig(t)
	a := r.call("keeper", "POST", "/outbox/test", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, "no mail server is set")
	assert.Equal(t, 403, r.call("editor", "POST", "/outbox/test", nil).StatusCode)
}

// An admin sets the mail server while the service runs: emails go by it at once, the
// journal tells of it, and its password is told to no other server, nor to anybody.
func TestAnAdminSetsTheMailServer(t *testing.T) {
	r := newRig(t)
	var office post.Office
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	go func() { _ = office.ServeSMTP(l) }()
	at := l.Addr().String()

	for _, who := range []string{"editor", "reader"} {
		assert.Equal(t, 403, r.call(who, "GET", "/outbox/server", nil).StatusCode)
		assert.Equal(t, 403, r.call(who, "PUT", "/outbox/server", wire.MailServerSet{MailServer: wire.MailServer{Address: at}}).StatusCode)
	}
	for says, bad := range map[string]wire.MailServer{
		"host:port":  {Address: "mail.example.org"},
		"the sender": {Address: at, From: "nobody"},
	} {
		a := r.call("keeper", "PUT", "/outbox/server", wire.MailServerSet{MailServer: bad})
		require.Equal(t, 422, a.StatusCode)
		assert.Contains(t, a.problem(t).Detail, says)
	}
	set := wire.MailServerSet{MailServer: wire.MailServer{Address: at, Encryption: "never", From: "Loans <loans@example.org>"}}
	a := r.call("keeper", "PUT", "/outbox/server", set)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var found wire.MailServerFound
	r.call("keeper", "GET", "/outbox/server", nil).into(t, &found)
	assert.Equal(t, wire.MailServerFound{MailServer: set.MailServer}, found)
	require.Equal(t, 200, r.call("keeper", "POST", "/outbox/test", nil).StatusCode)
	require.Eventually(t, func() bool { return len(office.Messages()) == 1 }, 5*time.Second, 5*time.Millisecond)

	secret := "harbour-light"
	set.User, set.Password = "loans", &secret
	require.Equal(t, 200, r.call("keeper", "PUT", "/outbox/server", set).StatusCode)
	set.Password = nil
	a = r.call("keeper", "PUT", "/outbox/server", set)
	require.Equal(t, 200, a.StatusCode, "the same server and user keep the password")
	assert.NotContains(t, string(a.body), secret)
	set.Address = "elsewhere.example.org:25"
	a = r.call("keeper", "PUT", "/outbox/server", set)
	require.Equal(t, 422, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, "give the password again")
	history := string(r.call("keeper", "GET", fmt.Sprint("/journal/", r.workspace.Seq()), nil).body)
	assert.Contains(t, history, "emails go by the mail server "+at)
	assert.NotContains(t, history, secret)

	require.Equal(t, 200, r.call("keeper", "DELETE", "/outbox/server", nil).StatusCode)
	assert.Equal(t, 422, r.call("keeper", "POST", "/outbox/test", nil).StatusCode)
}
