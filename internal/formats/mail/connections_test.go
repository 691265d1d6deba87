package mail_test

import (
	"crypto/tls"
	"fmt"
	"net"
	"strings"
	"sync"
	"testing"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/standin/post"
)

// counted counts the connections that are made, and can cut them.
type counted struct {
	net.Listener
	mu   sync.Mutex
	made []net.Conn
}

func (c *counted) Accept() (net.Conn, error) {
	conn, err := c.Listener.Accept()
	if err == nil {
		c.mu.Lock()
		c.made = append(c.made, conn)
		c.mu.Unlock()
	}
	return conn, err
}

func (c *counted) count() int {
	c.mu.Lock()
	defer c.mu.Unlock()
	return len(c.made)
}

func (c *counted) cut() {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, conn := range c.made {
		_ = conn.Close()
	}
}

func TestConnectionsAreKeptBetweenMails(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	c := &counted{Listener: l}
	o := &post.Office{}
	go func() { _ = o.ServeSMTP(c) }()
	t.Cleanup(func() { _ = l.Close() })
	s := sender(t, l.Addr().String())
	send := func(n int) error {
		m := *letter
		m.ID = fmt.Sprintf("01M%d", n)
		return s.Send(t.Context(), &m)
	}
	for i := range 5 {
		require.NoError(t, send(i))
	}
	assert.Equal(t, 1, c.count())
	o.Refuse(func(string) error { return post.Unknown })
	require.Error(t, send(5))
	o.Refuse(nil)
	require.NoError(t, send(6))
	assert.Equal(t, 1, c.count(), "a refused mail costs no connection")
	c.cut()
	require.NoError(t, send(7), "a connection that has gone is made anew")
	assert.Equal(t, 2, c.count())
	var all sync.WaitGroup
	for i := range 8 {
		all.Go(func() { assert.NoError(t, send(10+i)) })
	}
	all.Wait()
	assert.Len(t, o.Messages(), 15)
}

// token signs in as mail services do that take a token for a password.
type token struct {
	*guarded
	how string
}

func (k *token) AuthMechanisms() []string { return []string{k.how} }

func (k *token) Auth(string) (sasl.Server, error) {
	if k.how == "LOGIN" {
		return &login{k: k}, nil
	}
	return xoauth2{k}, nil
}

// login asks for the name and then for the password.
type login struct {
	k    *token
	said []string
}

func (l *login) Next(response []byte) ([]byte, bool, error) {
	if response != nil {
		l.said = append(l.said, string(response))
	}
	if len(l.said) < 2 {
		return []byte([]string{"Username:", "Password:"}[len(l.said)]), false, nil
	}
	l.k.authed = l.said[0] == l.k.user && l.said[1] == l.k.password
	return nil, true, nil
}

type xoauth2 struct{ k *token }

// Next reads "user=NAME^Aauth=Bearer TOKEN^A^A".
func (x xoauth2) Next(response []byte) ([]byte, bool, error) {
	if response == nil {
		return []byte{}, false, nil
	}
	x.k.authed = strings.Contains(string(response), "user="+x.k.user+"\x01auth=Bearer "+x.k.password+"\x01\x01")
	return nil, true, nil
}

func TestMailGoesUnderTLSFromTheFirstByteAndByToken(t *testing.T) {
	cert, roots := certificate(t)
	for _, how := range []string{"LOGIN", "XOAUTH2"} {
		l, err := tls.Listen("tcp", "127.0.0.1:0", &tls.Config{Certificates: []tls.Certificate{cert}, MinVersion: tls.VersionTLS12})
		require.NoError(t, err)
		var took []string
		server := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) {
			return &token{&guarded{user: "kavlo", password: "t0ken", took: &took}, how}, nil
		}))
		server.AllowInsecureAuth = true // it lies under TLS already
		go func() { _ = server.Serve(l) }()
		s, err := mail.NewSender(mail.Server{Address: l.Addr().String(), STARTTLS: mail.ImplicitTLS, User: "kavlo", Password: "t0ken", Auth: how, Roots: roots})
		require.NoError(t, err)
		require.NoError(t, s.Send(t.Context(), letter), how)
		assert.Equal(t, []string{"marta@example.org"}, took, how)
		s, err = mail.NewSender(mail.Server{Address: l.Addr().String(), STARTTLS: mail.ImplicitTLS, User: "kavlo", Password: "wrong", Auth: how, Roots: roots})
		require.NoError(t, err)
		require.Error(t, s.Send(t.Context(), letter), how)
		_ = server.Close()
	}
	_, err := mail.NewSender(mail.Server{Address: "mail.example.org:465", Auth: "GUESS"})
	require.ErrorContains(t, err, "write PLAIN, LOGIN or XOAUTH2")
}

func TestHeadersCannotBeInjected(t *testing.T) {
	o, address := office(t)
	m := *letter
	m.Subject = "Loans\r\nBcc: other@example.org\r\n\r\nbody"
	require.NoError(t, sender(t, address).Send(t.Context(), &m))
	require.Len(t, o.Messages(), 1)
	head, _, _ := strings.Cut(o.Messages()[0].Raw, "\r\n\r\n")
	assert.NotRegexp(t, `(?m)^Bcc:`, head)
	m.To = "marta@example.org\r\nBcc: other@example.org"
	require.Error(t, sender(t, address).Send(t.Context(), &m))
	m = *letter
	m.Pause = "https://kavlo.example.org/act/x"
	require.NoError(t, sender(t, address).Send(t.Context(), &m))
}
