package notify

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sync"

	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/store"
)

// serverName is under which the workspace keeps its mail server, sealed.
const serverName = "mail server"

var errNoMailer = errors.New("no mail server is set: set one under Workspace in the console, or with kavlo outbox server")

// ErrServerAtStart says that the mail server cannot be changed while the service runs.
var ErrServerAtStart = errors.New("the mail server was set where the service was started (--smtp), and can only be changed there")

// mailServer is the mail server that an admin set, where the service was started
// without one.
type mailServer struct {
	mu    sync.Mutex
	known bool
	saved Mailer // nil: none is set
}

// mailer gives what hands mails over, or nil.
func (post *Post) mailer(ctx context.Context) (Mailer, error) {
	s := &post.server
	if post.Mailer != nil {
		return post.Mailer, nil
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.known {
		return s.saved, nil
	}
	saved, err := post.savedServer(ctx)
	if err != nil {
		return nil, err
	}
	s.saved = nil
	if saved.Address != "" {
		saved.Roots = post.Trust
		if s.saved, err = mail.NewSender(saved); err != nil {
			return nil, err
		}
	}
	s.known = true
	return s.saved, nil
}

// sender gives what hands mails over, for one that is to go at once.
func (post *Post) sender(ctx context.Context) (Mailer, error) {
	m, err := post.mailer(ctx)
	if err == nil && m == nil {
		err = errNoMailer
	}
	return m, err
}

// MailServer gives the mail server and whether it was set at the start; without
// one, its address is "".
func (post *Post) MailServer(ctx context.Context) (s mail.Server, atStart bool, err error) {
	if post.Mailer == nil {
		s, err = post.savedServer(ctx)
		return s, false, err
	}
	if set, is := post.Mailer.(*mail.Sender); is {
		s = set.Server()
	}
	return s, true, nil
}

func (post *Post) savedServer(ctx context.Context) (mail.Server, error) {
	var s mail.Server
	text, err := post.store.Own(ctx, serverName)
	if errors.Is(err, store.ErrNotFound) {
		return s, nil
	}
	if err != nil {
		return s, err
	}
	if err := json.Unmarshal([]byte(text), &s); err != nil {
		return s, fmt.Errorf("reading the mail server: %w", err)
	}
	return s, nil
}

// SetMailServer changes where mail goes; with no address it goes nowhere. Without a
// password the one there stays, as long as the server and its user stay the same: no
// other server is told it.
func (post *Post) SetMailServer(ctx context.Context, to mail.Server, password *string) error {
	if post.Mailer != nil {
		return ErrServerAtStart
	}
	says, text := "no mail server is set any more", ""
	if to.Address != "" {
		was, err := post.savedServer(ctx)
		switch {
		case password != nil:
			to.Password = *password
		case err == nil && was.Address == to.Address && was.User == to.User:
			to.Password = was.Password
		case to.User != "":
			return errors.New("give the password again: the server or its user is another one")
		}
		if to.User == "" {
			to.Password = ""
		}
		if _, err := mail.NewSender(to); err != nil {
			return err
		}
		kept, err := json.Marshal(to)
		if err != nil {
			return err
		}
		says, text = "emails go by the mail server "+to.Address, string(kept)
	}
	err := post.Journaled(ctx, says, func(ctx context.Context) error { return post.store.PutOwn(ctx, serverName, text) })
	if err != nil {
		return err
	}
	post.server.mu.Lock()
	post.server.known = false
	post.server.mu.Unlock()
	post.nudge()
	return nil
}
