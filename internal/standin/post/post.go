// Package post is a stand-in post office for the demo and for tests: a real
// SMTP server that delivers nowhere and shows what arrived, on a page and as
// JSON (GET /messages).
package post

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset" // reads mail in any charset
	gomail "github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"

	"example.org/kavlo/internal/wire"
)

// maxKept is how many messages are kept; the oldest go first.
const maxKept = 1000

// Office takes mail in. The zero value is ready.
type Office struct {
	mu       sync.Mutex
	messages []wire.ArrivedMail
	refuse   func(to string) error
}

// Refuse makes the office refuse recipients for which f gives an error; nil
// accepts everybody. It lets tests play a server in trouble.
func (o *Office) Refuse(f func(to string) error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.refuse = f
}

// Busy is a temporary refusal (RFC 5321, 450), Unknown a permanent one (550).
var (
	Busy    = &smtp.SMTPError{Code: 450, EnhancedCode: smtp.EnhancedCode{4, 2, 0}, Message: "the mailbox is busy, try again later"}
	Unknown = &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "there is no such mailbox"}
)

// Clear throws away what has arrived.
func (o *Office) Clear() {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.messages = nil
}

// Messages gives what arrived, newest first.
func (o *Office) Messages() []wire.ArrivedMail {
	o.mu.Lock()
	defer o.mu.Unlock()
	out := make([]wire.ArrivedMail, 0, len(o.messages))
	for i := len(o.messages) - 1; i >= 0; i-- {
		out = append(out, o.messages[i])
	}
	return out
}

// Arrived gives what arrived, newest first, as the service asks for it.
func (o *Office) Arrived(context.Context) ([]wire.ArrivedMail, error) { return o.Messages(), nil }

// take keeps a message unless one with its Message-ID is here already, as
// delivery agents do with mail that is handed over twice.
func (o *Office) take(m wire.ArrivedMail) {
	o.mu.Lock()
	defer o.mu.Unlock()
	for i := range o.messages {
		if m.ID != "" && o.messages[i].ID == m.ID && strings.Join(o.messages[i].To, ",") == strings.Join(m.To, ",") {
			return
		}
	}
	o.messages = append(o.messages, m)
	if len(o.messages) > maxKept {
		o.messages = o.messages[len(o.messages)-maxKept:]
	}
}

// ServeSMTP takes mail in on a listener until it is closed.
func (o *Office) ServeSMTP(l net.Listener) error {
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{office: o}, nil }))
	s.Domain, s.MaxMessageBytes, s.MaxRecipients = "post.example.org", 8<<20, 100
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	if err := s.Serve(l); err != nil && !errors.Is(err, net.ErrClosed) {
		return fmt.Errorf("the stand-in post office: %w", err)
	}
	return nil
}

type session struct {
	office *Office
	from   string
	to     []string
}

func (s *session) Reset()                                      { s.from, s.to = "", nil }
func (s *session) Logout() error                               { return nil }
func (s *session) Mail(from string, _ *smtp.MailOptions) error { s.from = from; return nil }

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.office.mu.Lock()
	refuse := s.office.refuse
	s.office.mu.Unlock()
	if refuse != nil {
		if err := refuse(to); err != nil {
			return err
		}
	}
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	m, err := read(raw)
	if err != nil {
		return &smtp.SMTPError{Code: 554, EnhancedCode: smtp.EnhancedCode{5, 6, 0}, Message: "the message cannot be read: " + err.Error()}
	}
	m.To = s.to
	if m.From == "" {
		m.From = s.from
	}
	s.office.take(m)
	return nil
}

// read takes a message apart into what people see of it.
func read(raw []byte) (wire.ArrivedMail, error) {
	out := wire.ArrivedMail{Raw: string(raw)}
	r, err := gomail.CreateReader(bytes.NewReader(raw))
	if err != nil && !message.IsUnknownCharset(err) {
		return out, err
	}
	if out.Subject, err = r.Header.Subject(); err != nil {
		return out, fmt.Errorf("subject: %w", err)
	}
	if out.Date, err = r.Header.Date(); err != nil {
		return out, fmt.Errorf("date: %w", err)
	}
	out.ID, _ = r.Header.MessageID() // a message may do without
	if from, err := r.Header.AddressList("From"); err == nil && len(from) > 0 {
		out.From = from[0].String()
	}
	for {
		p, err := r.NextPart()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		h, inline := p.Header.(*gomail.InlineHeader)
		if !inline {
			continue
		}
		text, err := io.ReadAll(p.Body)
		if err != nil {
			return out, err
		}
		switch kind, _, _ := h.ContentType(); kind {
		case "text/html":
			out.HTML = string(text)
		default:
			out.Text = string(text)
		}
	}
}

var page = template.Must(template.New("post").Parse(`<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Stand-in post office</title></head>
<body style="margin:2rem auto;max-width:52rem;font:15px/1.5 Georgia,serif;background:#FBFAF6;color:#1F2A37">
<h1 style="font-size:1.4rem">Stand-in post office</h1><p>It takes mail over SMTP and delivers it nowhere. {{len .}} arrived.</p>
{{range .}}<article style="border-top:1px solid #C9C4B4;padding:1rem 0"><h2 style="font-size:1.1rem;margin:0">{{.Subject}}</h2>
<p style="margin:.2rem 0 1rem">from {{.From}} to {{range .To}}{{.}} {{end}} on {{.Date.Format "2 January 2006 15:04"}}</p>
<iframe title="{{.Subject}}" sandbox srcdoc="{{.HTML}}" style="width:100%;height:30rem;border:1px solid #E6E1D3;background:#fff"></iframe>
<details><summary>As plain text</summary><pre>{{.Text}}</pre></details><details><summary>As it came</summary><pre>{{.Raw}}</pre></details></article>{{end}}
</body></html>`))

// Handler shows what arrived.
func (o *Office) Handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /messages", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/json")
		_ = json.NewEncoder(w).Encode(o.Messages()) // the reader may be gone
	})
	mux.HandleFunc("GET /{$}", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_ = page.Execute(w, o.Messages())
	})
	return mux
}
