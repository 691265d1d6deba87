package api

import (
	"context"
	"fmt"
	"net/http"

	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/wire"
)

// InPerson is the part of an address that names a person.
type InPerson struct {
	Person string `path:"person" doc:"Mail address or name"`
}

func (s *server) person(ctx context.Context, name string) (store.Person, error) {
	directory, _, err := s.desk.Directory(ctx)
	if err != nil {
		return store.Person{}, err
	}
	people, err := s.desk.Store().People(ctx)
	if err != nil {
		return store.Person{}, err
	}
	address := directory.Address(name)
	for _, p := range people {
		if p.Address == address && address != "" {
			return p, nil
		}
	}
	return store.Person{}, fmt.Errorf("person %q: %w", name, store.ErrNotFound)
}

func (s *server) peopleRoutes() {
	route(s, reader, http.MethodGet, "/people", "list-people", "List the people of the workspace",
		func(ctx context.Context, _ *struct{}) (*body[[]wire.Person], error) {
			people, err := s.desk.Store().People(ctx)
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
			p, err := s.desk.PutPerson(ctx, in.Body.Name, in.Body.Address, in.Body.Access)
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
			secret, err := s.desk.IssueLink(ctx, p.ID)
			if err != nil {
				return nil, err
			}
			return ok(wire.Secret{Secret: secret, Link: s.desk.SignInLink(secret)}), nil
		})
	route(s, keeper, http.MethodPost, "/people/{person}/feed", "new-feed", "Make a private address of a person's calendar of due dates",
		func(ctx context.Context, in *InPerson) (*body[wire.Secret], error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			address, err := s.desk.IssueFeed(ctx, p.ID)
			return ok(wire.Secret{Link: address}), err
		})
	route(s, keeper, http.MethodDelete, "/people/{person}/feed", "drop-feeds", "Make every calendar address of a person invalid",
		func(ctx context.Context, in *InPerson) (*struct{}, error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			_, err = s.desk.DropFeeds(ctx, p.ID)
			return nil, err
		})
	route(s, keeper, http.MethodPost, "/people/{person}/token", "new-token", "Make a token for a person's scripts",
		func(ctx context.Context, in *struct {
			InPerson
			Name string `query:"name" maxLength:"100" doc:"What the token is for"`
		}) (*body[wire.Secret], error) {
			p, err := s.person(ctx, in.Person)
			if err != nil {
				return nil, err
			}
			secret, err := s.desk.IssueToken(ctx, p.ID, in.Name)
			if err != nil {
				return nil, err
			}
			return ok(wire.Secret{Secret: secret}), nil
		})
}
