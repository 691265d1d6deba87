package api

import (
	"context"
	"fmt"
	"net/http"
	"regexp"

	"example.org/kavlo/internal/lists"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/syncing"
	"example.org/kavlo/internal/wire"
)

// sync runs a sync, or previews it.
func (s *server) sync(ctx context.Context, w Write, t *sheet.Tracker, name string, how syncing.How) (*body[wire.ChangeSet], error) {
	how.Preview = w.isPreview()
	how.Key = keyOf(ctx, w)
	r, err := s.workspace.RunSync(ctx, asker(ctx), sheet.ByHand, s.workspace.Present(t.ID), name, how)
	if err != nil {
		return nil, asked(err)
	}
	set, err := s.changeSet(ctx, r, how.Preview)
	if err != nil {
		return nil, err
	}
	return ok(*set), nil
}

// syncRoutes serves what syncs do beyond being parts.
func (s *server) syncRoutes() {
	route(s, editor, http.MethodPost, "/trackers/{tracker}/syncs/{definition}/run", "run-sync", "Bring a list and a tab into step",
		func(ctx context.Context, in *struct {
			InDefinition
			Write
			Beyond string `query:"beyond_guard" enum:"yes,no" doc:"yes: more than the change limit of either side may change or go"`
		}) (*body[wire.ChangeSet], error) {
			t, p, err := s.part(ctx, in.InDefinition, sheet.KindSync)
			if err != nil {
				return nil, err
			}
			return s.sync(ctx, in.Write, t, p.Name, syncing.How{Beyond: in.Beyond == "yes"})
		}, answers(http.StatusConflict))
	route(s, reader, http.MethodGet, "/trackers/{tracker}/conflicts", "list-conflicts", "List the conflicts of syncs that wait for a person, oldest first",
		func(ctx context.Context, in *struct {
			InTracker
			Sync string `query:"sync" doc:"Only those of this sync"`
		}) (*body[[]wire.Conflict], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			var p *sheet.Definition
			if in.Sync != "" {
				if p, err = t.Definition(sheet.KindSync, in.Sync); err != nil {
					return nil, err
				}
			}
			held, err := s.workspace.Conflicts(ctx, t, p)
			if err != nil {
				return nil, err
			}
			return ok(s.conflicts(ctx, t, held)), nil
		})
	route(s, editor, http.MethodPost, "/trackers/{tracker}/syncs/{definition}/settle", "settle-conflicts", "Settle conflicts that wait: one, several or all alike",
		func(ctx context.Context, in *struct {
			InDefinition
			Write
			Body wire.Settle
		}) (*body[wire.ChangeSet], error) {
			t, p, err := s.part(ctx, in.InDefinition, sheet.KindSync)
			if err != nil {
				return nil, err
			}
			decided, err := s.workspace.Decide(ctx, t, p, in.Body.Keys, reconcile.Winner(in.Body.Take))
			if err != nil {
				return nil, asked(err)
			}
			return s.sync(ctx, in.Write, t, p.Name, syncing.How{Decided: decided})
		}, answers(http.StatusConflict))
}

// conflicts gives those conflicts of a tracker that the asker sees.
func (s *server) conflicts(ctx context.Context, t *sheet.Tracker, held []syncing.PendingConflict) []wire.Conflict {
	if s.whole(ctx, t.ID) {
		return conflictViews(held)
	}
	var out []syncing.PendingConflict
	for _, h := range held {
		if _, err := t.Definition(sheet.KindSync, h.Sync); err != nil {
			continue
		}
		if id, is := sheet.ParseRowID(h.Row); is {
			h.Label = ""
			if r := t.Row(id); r != nil {
				h.Label = t.Label(r)
			}
		}
		out = append(out, h)
	}
	return conflictViews(out)
}

func conflictViews(held []syncing.PendingConflict) []wire.Conflict {
	out := make([]wire.Conflict, len(held))
	for i, h := range held {
		out[i] = wire.Conflict{Sync: h.Sync, Key: h.Key, Row: h.Row, Label: h.Label, Lost: h.Lost, Since: h.Since, Fields: []wire.ConflictField{}}
		for _, f := range h.Fields {
			out[i].Fields = append(out[i].Fields, wire.ConflictField(f))
		}
	}
	return out
}

// InSecret is the part of an address that names a secret.
type InSecret struct {
	Name string `path:"name" doc:"What ${NAME} calls it"`
}

func syncView(d *syncing.Detail) *wire.SyncDetail {
	out := &wire.SyncDetail{AddedToTab: d.AddTab, AddedToList: d.AddList, UpdatedInTab: d.UpdateTab, UpdatedInList: d.UpdateList, GoneFromList: d.GoneList, GoneFromTab: d.GoneTab,
		Conflicts: d.Counts.Conflicts, Unchanged: d.Unchanged, OneSided: d.Left, OddCells: d.Odd, More: d.More, Held: conflictViews(d.Conflicts), Stopped: d.Stopped, NotSent: d.NotSent}
	for _, w := range d.Writes {
		v := wire.ListWrite{Kind: w.Kind, Key: w.Key, State: w.State, Why: w.Why}
		for _, f := range w.Fields {
			v.Fields = append(v.Fields, wire.FieldWrite(f))
		}
		out.Writes = append(out.Writes, v)
	}
	for _, t := range d.Troubles {
		out.Troubles = append(out.Troubles, wire.Trouble(t))
	}
	return out
}

var secretName = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_]{0,99}$`)

// allowedHostRoutes serves what lists may reach and the secrets that they need. A
// secret is never given out again.
func (s *server) allowedHostRoutes() {
	type names = body[[]string]
	route(s, keeper, http.MethodGet, "/access/secrets", "list-secrets", "List the names of the secrets that lists use",
		func(ctx context.Context, _ *struct{}) (*names, error) {
			out, err := s.workspace.Store().SecretNames(ctx)
			return ok(out), err
		})
	route(s, keeper, http.MethodPut, "/access/secrets/{name}", "put-secret", "Keep a secret, for which ${NAME} stands in lists",
		func(ctx context.Context, in *struct {
			InSecret
			Body wire.SecretValue
		}) (*names, error) {
			if !secretName.MatchString(in.Name) {
				return nil, asked(fmt.Errorf("%q is not a secret's name: letters, digits and _ make one", in.Name))
			}
			if _, err := s.workspace.PutSecret(ctx, in.Name, in.Body.Value); err != nil {
				return nil, err
			}
			out, err := s.workspace.Store().SecretNames(ctx)
			return ok(out), err
		})
	route(s, keeper, http.MethodDelete, "/access/secrets/{name}", "drop-secret", "Forget a secret",
		func(ctx context.Context, in *InSecret) (*names, error) {
			had, err := s.workspace.PutSecret(ctx, in.Name, "")
			if err == nil && !had {
				err = asked(&sheet.NotFound{What: "secret", Name: in.Name})
			}
			if err != nil {
				return nil, err
			}
			out, err := s.workspace.Store().SecretNames(ctx)
			return ok(out), err
		})
	route(s, keeper, http.MethodGet, "/access/reach", "list-reach", "List the addresses that lists may reach",
		func(ctx context.Context, _ *struct{}) (*names, error) {
			out, err := s.workspace.Store().AllowedHosts(ctx)
			return ok(out), err
		})
	type addressed struct {
		Address string `query:"address" required:"true" doc:"public, a host's name, a number or a range of numbers"`
	}
	reach := func(ctx context.Context, address string, allowed bool) (*names, error) {
		if err := lists.CheckAllowedHost(address); err != nil {
			return nil, asked(err)
		}
		had, err := s.workspace.SetAllowedHost(ctx, address, allowed)
		if err == nil && !had && !allowed {
			err = asked(&sheet.NotFound{What: "address that lists may reach", Name: address})
		}
		if err != nil {
			return nil, err
		}
		out, err := s.workspace.Store().AllowedHosts(ctx)
		return ok(out), err
	}
	route(s, keeper, http.MethodPut, "/access/reach", "allow-reach", "Let lists reach an address",
		func(ctx context.Context, in *addressed) (*names, error) { return reach(ctx, in.Address, true) })
	route(s, keeper, http.MethodDelete, "/access/reach", "forbid-reach", "Let lists reach an address no more",
		func(ctx context.Context, in *addressed) (*names, error) { return reach(ctx, in.Address, false) })
}
