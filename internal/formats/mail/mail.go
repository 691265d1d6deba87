// Package mail makes messages (RFC 5322, multipart/alternative with a text and
// an HTML part) of letters and hands them to an SMTP server (RFC 5321).
package mail

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"

	"example.org/kavlo/internal/desk"
)

// Server says which SMTP server takes mail and how.
type Server struct {
	Address  string // host:port
	STARTTLS string // "when offered" (or empty), "always", "never"
	User     string // empty: no authentication
	Password string
	From     string         // sender, such as "Kavlo <kavlo@example.org>"
	Roots    *x509.CertPool // whom to trust under TLS; nil: as the system does
	ListID   string         // what List-Id says (RFC 2919), such as "rounds.kavlo.example.org"
}

// Sender hands mail to a server. It implements desk.Mailer.
type Sender struct {
	server Server
	host   string
	port   int
	policy gomail.TLSPolicy
}

// timeout is how long one mail may take.
const timeout = 30 * time.Second

// NewSender checks where mail goes; it does not connect.
func NewSender(s Server) (*Sender, error) {
	host, port, found := strings.Cut(s.Address, ":")
	n, err := strconv.Atoi(port)
	if !found || err != nil || host == "" || n < 1 || n > 65535 {
		return nil, fmt.Errorf("the mail server's address %q is not of the form host:port", s.Address)
	}
	out := &Sender{server: s, host: host, port: n}
	switch s.STARTTLS {
	case "", "when offered":
		out.policy = gomail.TLSOpportunistic
	case "always":
		out.policy = gomail.TLSMandatory
	case "never":
		out.policy = gomail.NoTLS
	default:
		return nil, fmt.Errorf("STARTTLS is %q: write always, never or when offered", s.STARTTLS)
	}
	if out.server.From == "" {
		out.server.From = "Kavlo <kavlo@example.org>"
	}
	if err := gomail.NewMsg().From(out.server.From); err != nil {
		return nil, fmt.Errorf("the sender %q: %w", out.server.From, err)
	}
	return out, nil
}

// sendError says whether trying again may help.
type sendError struct {
	err       error
	temporary bool
}

func (e *sendError) Error() string   { return e.err.Error() }
func (e *sendError) Unwrap() error   { return e.err }
func (e *sendError) Temporary() bool { return e.temporary }

// Message makes the message of a letter. The Message-ID follows from the
// letter's id alone, so that a mail sent again is known to be the same one.
func (s *Sender) Message(m *desk.Mail) (*gomail.Msg, error) {
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	if err := msg.From(s.server.From); err != nil {
		return nil, fmt.Errorf("sender: %w", err)
	}
	if err := msg.To(m.To); err != nil {
		return nil, fmt.Errorf("recipient: %w", err)
	}
	domain := "kavlo.invalid"
	if at := strings.LastIndexByte(s.server.From, '@'); at >= 0 {
		domain = strings.TrimRight(s.server.From[at+1:], "> ")
	}
	msg.SetMessageIDWithValue(strings.ToLower(m.ID) + "@" + domain)
	msg.SetDateWithValue(m.Date)
	msg.Subject(m.Subject)
	msg.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834
	if s.server.ListID != "" {
		msg.SetGenHeaderPreformatted("List-Id", "<"+s.server.ListID+">")
	}
	if m.Pause != "" {
		msg.SetGenHeaderPreformatted("List-Unsubscribe", "<"+m.Pause+">")       // RFC 2369
		msg.SetGenHeader("List-Unsubscribe-Post", "List-Unsubscribe=One-Click") // RFC 8058
	}
	msg.SetBodyString(gomail.TypeTextPlain, m.Text)
	msg.AddAlternativeString(gomail.TypeTextHTML, m.HTML)
	return msg, nil
}

// Send hands one mail over. Its errors tell by Temporary whether to try again.
func (s *Sender) Send(ctx context.Context, m *desk.Mail) error {
	msg, err := s.Message(m)
	if err != nil {
		return &sendError{fmt.Errorf("making the mail to %s: %w", m.To, err), false}
	}
	options := []gomail.Option{gomail.WithPort(s.port), gomail.WithTimeout(timeout), gomail.WithTLSPolicy(s.policy), gomail.WithoutNoop()}
	if s.server.Roots != nil {
		options = append(options, gomail.WithTLSConfig(&tls.Config{ServerName: s.host, RootCAs: s.server.Roots, MinVersion: tls.VersionTLS12}))
	}
	if s.server.User != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(s.server.User), gomail.WithPassword(s.server.Password))
	}
	client, err := gomail.NewClient(s.host, options...)
	if err != nil {
		return &sendError{fmt.Errorf("setting up mail to %s: %w", s.server.Address, err), true}
	}
	if err := client.DialAndSendWithContext(ctx, msg); err != nil {
		var refused *gomail.SendError
		if errors.As(err, &refused) && !refused.IsTemp() && refused.ErrorCode() >= 500 {
			return &sendError{fmt.Errorf("the mail server refused the mail to %s: %w", m.To, err), false}
		}
		return &sendError{fmt.Errorf("handing the mail to %s over: %w", s.server.Address, err), true}
	}
	return nil
}
