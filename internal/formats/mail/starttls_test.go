package mail_test

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"io"
	"math/big"
	"net"
	"testing"
	"time"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats/mail"
)

// guarded is a mail server that takes mail only under TLS, from whom it knows.
type guarded struct {
	user, password string
	authed         bool
	took           *[]string
}

func (g *guarded) AuthMechanisms() []string { return []string{sasl.Plain} }

func (g *guarded) Auth(string) (sasl.Server, error) {
	return sasl.NewPlainServer(func(_, user, password string) error {
		if user != g.user || password != g.password {
			return errors.New("unknown user or password")
		}
		g.authed = true
		return nil
	}), nil
}

func (g *guarded) Mail(string, *smtp.MailOptions) error {
	if !g.authed {
		return smtp.ErrAuthRequired
	}
	return nil
}
func (g *guarded) Rcpt(to string, _ *smtp.RcptOptions) error {
	*g.took = append(*g.took, to)
	return nil
}
func (g *guarded) Data(r io.Reader) error { _, err := io.Copy(io.Discard, r); return err }
func (g *guarded) Reset()                 {}
func (g *guarded) Logout() error          { return nil }

func certificate(t *testing.T) (tls.Certificate, *x509.CertPool) {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	template := &x509.Certificate{SerialNumber: big.NewInt(1), NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.ParseIP("127.0.0.1")}, IsCA: true, BasicConstraintsValid: true, KeyUsage: x509.KeyUsageDigitalSignature | x509.KeyUsageCertSign}
	der, err := x509.CreateCertificate(rand.Reader, template, template, &key.PublicKey, key)
	require.NoError(t, err)
	leaf, err := x509.ParseCertificate(der)
	require.NoError(t, err)
	pool := x509.NewCertPool()
	pool.AddCert(leaf)
	return tls.Certificate{Certificate: [][]byte{der}, PrivateKey: key}, pool
}

func TestMailGoesUnderTLSWithUserAndPassword(t *testing.T) {
	cert, roots := certificate(t)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	var took []string
	server := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) {
		return &guarded{user: "kavlo", password: "lantern", took: &took}, nil
	}))
	server.TLSConfig = &tls.Config{Certificates: []tls.Certificate{cert}, MinVersion: tls.VersionTLS12}
	go func() { _ = server.Serve(l) }()
	t.Cleanup(func() { _ = server.Close() })

	settings := mail.Server{Address: l.Addr().String(), STARTTLS: "always", User: "kavlo", Password: "lantern", Roots: roots}
	s, err := mail.NewSender(settings)
	require.NoError(t, err)
	require.NoError(t, s.Send(t.Context(), letter))
	assert.Equal(t, []string{"marta@example.org"}, took)

	settings.Password = "wrong"
	s, err = mail.NewSender(settings)
	require.NoError(t, err)
	require.Error(t, s.Send(t.Context(), letter))
	settings.Password, settings.Roots = "lantern", x509.NewCertPool()
	s, err = mail.NewSender(settings)
	require.NoError(t, err)
	require.ErrorContains(t, s.Send(t.Context(), letter), "certificate")
	assert.Len(t, took, 1)
}
