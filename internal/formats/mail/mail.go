// Package mail makes messages (RFC 5322, multipart/alternative with a text and
// an HTML part) of letters and hands them to an SMTP server (RFC 5321).
package mail

import (
	"bytes"
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	netmail "net/mail"

	"example.org/kavlo/internal/value"
	gomail "github.com/wneessen/go-mail"
)

// Server says which SMTP server takes mail and how.
type Server struct {
	Address  string // host:port
	STARTTLS string // "when offered" (or empty), "always", "never", or ImplicitTLS: TLS from the first byte
	Auth     string // how to sign in: PLAIN, LOGIN or XOAUTH2 (the password is then a token); "": what the server offers
	User     string // empty: no authentication
	Password string
	From     string         // sender, such as "Kavlo <kavlo@example.org>"
	Roots    *x509.CertPool `json:"-"` // whom to trust under TLS; nil: as the system does
	ListID   string         // what List-Id says (RFC 2919), such as "rounds.kavlo.example.org"; "": rounds at the sender's domain
}

// Mail is a letter on its way.
type Mail struct {
	ID         string // makes the Message-ID, the same on every try
	To         string
	Name       string // of the recipient, or ""
	Subject    string
	Text, HTML string
	Date       time.Time
	Attach     []Attachment
	Pause      string // address at which the reader stops such mails, or ""
}

// Attachment is a file that goes with a mail.
type Attachment struct {
	Name string
	Data []byte
}

// Sender hands mail to a server.
type Sender struct {
	server Server
	host   string
	port   int
	policy gomail.TLSPolicy

	mu    sync.Mutex
	kept  []*link
	sweep *time.Timer // closes what is kept for nothing
}

// ImplicitTLS is a connection that is encrypted from its first byte (RFC 8314).
const ImplicitTLS = "tls"

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
	case ImplicitTLS:
		out.policy = gomail.NoTLS
	case "always":
		out.policy = gomail.TLSMandatory
	case "never":
		out.policy = gomail.NoTLS
	default:
		return nil, fmt.Errorf("STARTTLS is %q: write always, never, when offered or tls", s.STARTTLS)
	}
	if s.Auth != "" && !slices.Contains([]string{"PLAIN", "LOGIN", "XOAUTH2"}, s.Auth) {
		return nil, fmt.Errorf("the way to sign in to the mail server is %q: write PLAIN, LOGIN or XOAUTH2", s.Auth)
	}
	if out.server.From == "" {
		out.server.From = "Kavlo <kavlo@example.org>"
	}
	if err := gomail.NewMsg().From(out.server.From); err != nil {
		return nil, fmt.Errorf("the sender %q: %w", out.server.From, err)
	}
	return out, nil
}

// Server gives what the sender was made with.
func (s *Sender) Server() Server { return s.server }

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
func (s *Sender) Message(m *Mail) (*gomail.Msg, error) {
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	if err := msg.From(s.server.From); err != nil {
		return nil, fmt.Errorf("sender: %w", err)
	}
	if _, err := netmail.ParseAddress(m.To); err != nil {
		return nil, fmt.Errorf("recipient: %w", err)
	}
	if err := msg.To((&netmail.Address{Name: value.OneLine(m.Name), Address: m.To}).String()); err != nil {
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
	listID := s.server.ListID
	if listID == "" {
		listID = "rounds." + domain
	}
	msg.SetGenHeaderPreformatted("List-Id", "<"+listID+">")
	if m.Pause != "" {
		msg.SetGenHeaderPreformatted("List-Unsubscribe", "<"+m.Pause+">")       // RFC 2369
		msg.SetGenHeader("List-Unsubscribe-Post", "List-Unsubscribe=One-Click") // RFC 8058
	}
	msg.SetBodyString(gomail.TypeTextPlain, m.Text)
	msg.AddAlternativeString(gomail.TypeTextHTML, m.HTML)
	for _, a := range m.Attach {
		if err := msg.AttachReader(a.Name, bytes.NewReader(a.Data)); err != nil {
			return nil, fmt.Errorf("attaching %s: %w", a.Name, err)
		}
	}
	return msg, nil
}

// idle is how long a connection is kept for the next mail.
const idle = 8 * time.Second

// link is a connection to the server that is kept between mails.
type link struct {
	client *gomail.Client
	used   time.Time
}

// take gives a connection that is kept, or nil.
func (s *Sender) take() *link {
	s.mu.Lock()
	defer s.mu.Unlock()
	for len(s.kept) > 0 {
		l := s.kept[len(s.kept)-1]
		s.kept = s.kept[:len(s.kept)-1]
		if time.Since(l.used) < idle {
			return l
		}
		_ = l.client.Close()
	}
	return nil
}

// keep keeps a connection for the next mail, and closes it when none comes.
func (s *Sender) keep(l *link) {
	l.used = time.Now()
	s.mu.Lock()
	defer s.mu.Unlock()
	s.kept = append(s.kept, l)
	if s.sweep == nil {
		s.sweep = time.AfterFunc(idle, s.closeIdle)
	}
}

func (s *Sender) closeIdle() {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.sweep = nil
	var rest []*link
	for _, l := range s.kept {
		if time.Since(l.used) >= idle {
			_ = l.client.Close()
			continue
		}
		rest = append(rest, l)
	}
	if s.kept = rest; len(rest) > 0 {
		s.sweep = time.AfterFunc(idle, s.closeIdle)
	}
}

// dial opens a connection.
func (s *Sender) dial(ctx context.Context) (*link, error) {
	options := []gomail.Option{gomail.WithPort(s.port), gomail.WithTimeout(timeout), gomail.WithTLSPolicy(s.policy), gomail.WithoutNoop()}
	if s.server.STARTTLS == ImplicitTLS {
		options = append(options, gomail.WithSSL())
	}
	if s.server.Roots != nil {
		options = append(options, gomail.WithTLSConfig(&tls.Config{ServerName: s.host, RootCAs: s.server.Roots, MinVersion: tls.VersionTLS12}))
	}
	if s.server.User != "" {
		how := gomail.SMTPAuthAutoDiscover
		if s.server.Auth != "" {
			how = gomail.SMTPAuthType(s.server.Auth)
		}
		options = append(options, gomail.WithSMTPAuth(how), gomail.WithUsername(s.server.User), gomail.WithPassword(s.server.Password))
	}
	client, err := gomail.NewClient(s.host, options...)
	if err != nil {
		return nil, fmt.Errorf("setting up mail to %s: %w", s.server.Address, err)
	}
	if err := client.DialWithContext(ctx); err != nil {
		return nil, fmt.Errorf("reaching %s: %w", s.server.Address, err)
	}
	return &link{client: client}, nil
}

// Send hands one mail over, on a connection that was kept or a new one. Its
// errors tell by Temporary whether to try again. Several may be sent at once.
func (s *Sender) Send(ctx context.Context, m *Mail) error {
	msg, err := s.Message(m)
	if err != nil {
		return &sendError{fmt.Errorf("making the mail to %s: %w", m.To, err), false}
	}
	l := s.take()
	if l != nil {
		err := l.client.Send(msg)
		if err == nil {
			s.keep(l)
			return nil
		}
		var refused *gomail.SendError
		if errors.As(err, &refused) && refused.ErrorCode() >= 500 { // it spoke, so it is not the connection
			s.keep(l)
			return s.refused(m, err)
		}
		_ = l.client.Close() // it may have gone while it was kept
		if msg, err = s.Message(m); err != nil {
			return &sendError{err, false}
		}
	}
	if l, err = s.dial(ctx); err != nil {
		return &sendError{err, true}
	}
	if err := l.client.Send(msg); err != nil {
		_ = l.client.Close()
		return s.refused(m, err)
	}
	s.keep(l)
	return nil
}

func (s *Sender) refused(m *Mail, err error) error {
	var refused *gomail.SendError
	if errors.As(err, &refused) && !refused.IsTemp() && refused.ErrorCode() >= 500 {
		return &sendError{fmt.Errorf("the mail server refused the mail to %s: %w", m.To, err), false}
	}
	return &sendError{fmt.Errorf("handing the mail to %s over: %w", s.server.Address, err), true}
}
