package api

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/wire"
)

// role is who may use a route; each includes those before it.
type role = policy.Access

const (
	anybody role = 0
	reader       = policy.Reader
	editor       = policy.Editor
	keeper       = policy.Keeper
)

const (
	accessKey     = "access"
	sessionCookie = "kavlo_session"
)

type personKey struct{}

// who gives the person on whose word a request is made.
func who(ctx context.Context) store.Person {
	p, _ := ctx.Value(personKey{}).(store.Person)
	return p
}

// principal is a person, with what their role lets them do.
func principal(p store.Person) policy.Principal {
	if p.ID == 0 {
		return policy.Principal{}
	}
	return policy.OfPerson(p.ID, p.Name, p.Address, p.Access)
}

// asker is on whose behalf a request is made.
func asker(ctx context.Context) policy.Principal {
	if p, is := policy.Asker(ctx); is {
		return p
	}
	return principal(who(ctx))
}

// roleFor gives the role that counts for a request: in the tracker that its address names,
// or in the workspace.
func (s *server) roleFor(ctx huma.Context, p store.Person) role {
	by := principal(p)
	if name := ctx.Param("tracker"); name != "" {
		if t, err := s.workspace.Seen(by).Find(name); err == nil {
			return s.workspace.Sight(by, t).Role
		}
	}
	return by.Access
}

// admit lets a request through to its route if its bearer may use it.
func (s *server) admit(ctx huma.Context, next func(huma.Context)) {
	needs, known := ctx.Operation().Metadata[accessKey].(role)
	if !known { // every route says who may use it; a test holds that
		needs = keeper
	}
	if needs == anybody {
		next(ctx)
		return
	}
	p, err := s.bearer(ctx)
	if err != nil {
		s.refuse(ctx, err)
		return
	}
	if s.roleFor(ctx, p) < needs {
		s.refuse(ctx, engine.ErrForbidden)
		return
	}
	if err := knownQuery(ctx); err != nil {
		s.refuse(ctx, err)
		return
	}
	next(huma.WithContext(huma.WithValue(ctx, personKey{}, p), policy.With(context.WithValue(ctx.Context(), personKey{}, p), principal(p))))
}

// knownQuery refuses what a route does not know in an address's query: a slip of
// the pen would otherwise be answered as if nothing had been asked.
func knownQuery(ctx huma.Context) error {
	var known []string
	for _, p := range ctx.Operation().Parameters {
		if p.In == "query" {
			known = append(known, p.Name)
		}
	}
	u := ctx.URL()
	for name := range u.Query() {
		if slices.Contains(known, name) {
			continue
		}
		p := problemOf(http.StatusUnprocessableEntity, "query", "The address asks for something unknown", fmt.Sprintf("nothing here is called %q", name))
		p.Field = name
		if len(known) > 0 {
			p.Hint = "known here: " + strings.Join(known, ", ")
		}
		return p
	}
	return nil
}

func (s *server) refuse(ctx huma.Context, err error) {
	p := s.problem(ctx.Context(), err)
	if p.Status == http.StatusUnauthorized {
		ctx.SetHeader("WWW-Authenticate", "Bearer")
	}
	if err := huma.WriteErr(s.api, ctx, p.Status, p.Detail, p); err != nil {
		s.Log.Debug("an answer could not be written", "err", err)
	}
}

func (s *server) bearer(ctx huma.Context) (store.Person, error) {
	if h := ctx.Header("Authorization"); h != "" {
		scheme, token, _ := strings.Cut(h, " ")
		if !strings.EqualFold(scheme, "Bearer") {
			return store.Person{}, access.ErrNoAccess
		}
		return s.workspace.Bearer(ctx.Context(), token, "token")
	}
	c, err := huma.ReadCookie(ctx, sessionCookie)
	if err != nil {
		return store.Person{}, access.ErrNoAccess
	}
	return s.workspace.Bearer(ctx.Context(), c.Value, "session")
}

func personView(p store.Person) wire.Person {
	return wire.Person{ID: p.ID, Name: p.Name, Address: p.Address, Access: policy.AccessNamed(p.Access).String()}
}

type sessionAnswer struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      wire.Session
}

func (s *server) sessionRoutes() {
	route(s, anybody, http.MethodPost, "/session", "sign-in", "Sign in with a one-time link's secret or a token",
		func(ctx context.Context, in *struct {
			Forwarded string `header:"X-Forwarded-Proto" doc:"By which scheme the browser reached a proxy: the cookie is for https alone where that is it"`
			Body      wire.Secret
		}) (*sessionAnswer, error) {
			session, p, err := s.workspace.OpenSession(ctx, in.Body.Secret)
			if err != nil {
				return nil, err
			}
			out := &sessionAnswer{SetCookie: cookie(session, int(access.SessionLasts.Seconds()), in.Forwarded == "https")}
			out.Body.Person = personView(p)
			return out, nil
		}, answers(http.StatusUnauthorized))
	route(s, reader, http.MethodGet, "/session", "get-session", "Tell who is signed in",
		func(ctx context.Context, _ *struct{}) (*body[wire.Session], error) {
			return ok(wire.Session{Person: personView(who(ctx))}), nil
		})
	route(s, anybody, http.MethodDelete, "/session", "sign-out", "Sign out",
		func(ctx context.Context, in *struct {
			Session http.Cookie `cookie:"kavlo_session" doc:"The session that ends"`
		}) (*struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}, error) {
			if err := s.workspace.CloseSession(ctx, in.Session.Value); err != nil {
				return nil, err
			}
			return &struct {
				SetCookie http.Cookie `header:"Set-Cookie"`
			}{cookie("", -1, false)}, nil
		})
}

func cookie(secret string, seconds int, secure bool) http.Cookie {
	return http.Cookie{Name: sessionCookie, Value: secret, Path: "/", MaxAge: seconds, HttpOnly: true, Secure: secure, SameSite: http.SameSiteStrictMode}
}
