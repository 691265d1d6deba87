package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/notify"
	"example.org/kavlo/internal/wire"
)

// mailServerRoutes serve the server by which emails go, and a test of it.
func (s *server) mailServerRoutes() {
	type found = body[wire.MailServerFound]
	show := func(ctx context.Context) (*found, error) {
		m, atStart, err := s.workspace.MailServer(ctx)
		if err != nil {
			return nil, asked(err)
		}
		return ok(wire.MailServerFound{AtStart: atStart, MailServer: wire.MailServer{Address: m.Address, Encryption: m.STARTTLS, SignIn: m.Auth, User: m.User, From: m.From}}), nil
	}
	set := func(ctx context.Context, to mail.Server, password *string) (*found, error) {
		err := s.workspace.SetMailServer(ctx, to, password)
		if errors.Is(err, notify.ErrServerAtStart) {
			return nil, problemOf(http.StatusConflict, "set-at-start", "Set at the start", err.Error())
		}
		if err != nil {
			return nil, asked(err)
		}
		return show(ctx)
	}
	route(s, keeper, http.MethodGet, "/outbox/server", "get-mail-server", "Give the mail server by which emails go; its password is never shown",
		func(ctx context.Context, _ *struct{}) (*found, error) { return show(ctx) })
	route(s, keeper, http.MethodPut, "/outbox/server", "set-mail-server", "Set the mail server by which emails go",
		func(ctx context.Context, in *struct{ Body wire.MailServerSet }) (*found, error) {
			b := in.Body
			return set(ctx, mail.Server{Address: b.Address, STARTTLS: b.Encryption, Auth: b.SignIn, User: b.User, From: b.From}, b.Password)
		}, answers(http.StatusConflict))
	route(s, keeper, http.MethodDelete, "/outbox/server", "drop-mail-server", "Forget the mail server: emails wait in the outbox",
		func(ctx context.Context, _ *struct{}) (*found, error) { return set(ctx, mail.Server{}, nil) }, answers(http.StatusConflict))
	route(s, keeper, http.MethodPost, "/outbox/test", "test-mail", "Send oneself a test email, to see whether mail goes out",
		func(ctx context.Context, _ *struct{}) (*body[wire.TestMail], error) {
			to := who(ctx).Address
			if err := s.workspace.SendTest(ctx, to); err != nil {
				return nil, asked(fmt.Errorf("the test email to %s was not sent: %w", to, err))
			}
			return ok(wire.TestMail{To: to}), nil
		}, answers(http.StatusUnprocessableEntity))
}
