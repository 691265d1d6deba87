package api

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/wire"
)

// InPerson is the part of an address that names a person.
type InPerson struct {
	Person string `path:"person" doc:"Mail address or name"`
}

func (s *server) person(ctx context.Context, name string) (store.Person, error) {
	people, err := s.workspace.Store().People(ctx)
	if err != nil {
		return store.Person{}, err
	}
	var found []store.Person
	for _, p := range people {
		if strings.EqualFold(p.Address, strings.TrimSpace(name)) {
			return p, nil
		}
		if value.EqualText(p.Name, name) {
			found = append(found, p)
		}
	}
	switch len(found) {
	case 0:
		return store.Person{}, fmt.Errorf("person %q: %w", name, store.ErrNotFound)
	case 1:
		return found[0], nil
	}
	addresses := make([]string, len(found))
	for i, p := range found {
		addresses[i] = p.Address
	}
	return store.Person{}, asked(fmt.Errorf("%d people are called %s: say which by address: %s", len(found), name, strings.Join(addresses, ", ")))
}

func (s *server) peopleRoutes() {
	route(s, reader, http.MethodGet, "/people", "list-people", "List the people of the workspace",
		func(ctx context.Context, _ *struct{}) (*body[[]wire.Person], error) {
			people, err := s.workspace.Store().People(ctx)
			if err != nil {
				return nil, err
			}
			out := []wire.Person{}
			for _, p := range people {
				out = append(out, personView(p))
			}
			return ok(out), nil
		})
	route(s, keeper, http.MethodPut, "/people", "put-person", "Add a person or, by address, change one",
		func(ctx context.Context, in *struct{ Body wire.NewPerson }) (*body[wire.Person], error) {
			p, err := s.workspace.PutPerson(ctx, in.Body.Name, in.Body.Address, in.Body.Access)
			if err != nil {
				return nil, asked(err)
			}
			return ok(personView(p)), nil
		})
	route(s, keeper, http.MethodPost, "/people/{person}/link", "new-link", "Make a link that signs a person in, once",
		func(ctx context.Context, in *InPerson) (*body[wire.Secret], error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			secret, err := s.workspace.IssueLink(ctx, p.ID)
			if err != nil {
				return nil, err
			}
			return ok(wire.Secret{Secret: secret, Link: s.workspace.SignInLink(secret)}), nil
		})
	route(s, keeper, http.MethodPost, "/people/{person}/feed", "new-feed", "Make a private address of a person's calendar of due dates",
		func(ctx context.Context, in *InPerson) (*body[wire.Secret], error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			address, err := s.workspace.IssueFeed(ctx, p.ID)
			return ok(wire.Secret{Link: address}), err
		})
	route(s, keeper, http.MethodDelete, "/people/{person}/feed", "drop-feeds", "Make every calendar address of a person invalid",
		func(ctx context.Context, in *InPerson) (*struct{}, error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			_, err = s.workspace.DropFeeds(ctx, p.ID)
			return nil, err
		})
	route(s, keeper, http.MethodPost, "/people/{person}/token", "new-token", "Make a token for a person's scripts",
		func(ctx context.Context, in *struct {
			InPerson
			Name string `query:"name" maxLength:"100" doc:"What the token is for"`
			Days int    `query:"days" minimum:"0" maximum:"3650" doc:"How many days it lasts; 0: until it is revoked"`
		}) (*body[wire.Secret], error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			secret, err := s.workspace.IssueToken(ctx, p.ID, in.Name, time.Duration(in.Days)*24*time.Hour)
			if err != nil {
				return nil, err
			}
			return ok(wire.Secret{Secret: secret}), nil
		})
	route(s, keeper, http.MethodDelete, "/people/{person}", "remove-person", "Remove a person: nothing stands for them any more, and what they did stays under their name",
		func(ctx context.Context, in *InPerson) (*struct{}, error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			return nil, s.workspace.RemovePerson(ctx, p.ID)
		}, answers(http.StatusConflict))
	s.tokenRoutes()
}

// InToken is the part of an address that names a secret of a person.
type InToken struct {
	Token string `path:"token" doc:"Id"`
}

// tokenRoutes serves what stands for people: theirs to keepers, one's own to oneself.
func (s *server) tokenRoutes() {
	const of = "/people/{person}/access"
	route(s, keeper, http.MethodGet, of, "list-access", "List what lets a person in: tokens, sessions, one-time links, calendars",
		func(ctx context.Context, in *InPerson) (*body[[]wire.Token], error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			return s.tokens(ctx, p.ID)
		})
	route(s, keeper, http.MethodDelete, of, "revoke-all", "Revoke all that lets a person in",
		func(ctx context.Context, in *InPerson) (*body[wire.Revoked], error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			return s.revokeAll(ctx, p.ID)
		})
	route(s, keeper, http.MethodDelete, of+"/{token}", "revoke", "Revoke one token, session, one-time link or calendar of a person",
		func(ctx context.Context, in *struct {
			InPerson
			InToken
		}) (*struct{}, error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			return nil, s.workspace.Revoke(ctx, p.ID, in.Token)
		})
	route(s, reader, http.MethodGet, "/session/access", "list-own-access", "List what lets oneself in",
		func(ctx context.Context, _ *struct{}) (*body[[]wire.Token], error) { return s.tokens(ctx, who(ctx).ID) })
	route(s, reader, http.MethodDelete, "/session/access", "sign-out-everywhere", "Sign out everywhere: end every session of one's own, this one too, and its unused sign-in links",
		func(ctx context.Context, _ *struct{}) (*body[wire.Revoked], error) {
			return s.revokeAll(ctx, who(ctx).ID, "session", "link")
		})
	route(s, reader, http.MethodDelete, "/session/access/{token}", "revoke-own", "Revoke one token, session, one-time link or calendar of one's own",
		func(ctx context.Context, in *InToken) (*struct{}, error) {
			return nil, s.workspace.Revoke(ctx, who(ctx).ID, in.Token)
		})
	route(s, keeper, http.MethodPost, "/access/renew-links", "renew-links", "Make the links of all mails and all calendar addresses invalid; the next mails bring new ones",
		func(ctx context.Context, _ *struct{}) (*struct{}, error) { return nil, s.workspace.RenewLinks(ctx) })
}

func (s *server) tokens(ctx context.Context, person int64) (*body[[]wire.Token], error) {
	all, err := s.workspace.Tokens(ctx, person)
	if err != nil {
		return nil, err
	}
	out := []wire.Token{}
	for _, t := range all {
		w := wire.Token{ID: t.ID, Kind: t.Kind, Name: t.Name, Made: t.Made, Used: optional(t.Used), Expires: optional(t.Expires)}
		if w.Kind == "feed" {
			w.Kind = "calendar"
		}
		out = append(out, w)
	}
	return ok(out), nil
}

func (s *server) revokeAll(ctx context.Context, person int64, kinds ...string) (*body[wire.Revoked], error) {
	n, err := s.workspace.RevokeAll(ctx, person, kinds...)
	return ok(wire.Revoked{Revoked: n}), err
}

// optional gives a time, or nil for none.
func optional(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}
