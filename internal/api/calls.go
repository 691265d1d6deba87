package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/wire"
)

// CallInput is a call from outside, with what it is signed by.
type CallInput struct {
	Tracker   string `path:"tracker" doc:"Name or id"`
	Rule      string `path:"rule" doc:"Name or id"`
	Digest    string `header:"Content-Digest" doc:"RFC 9530, sha-256"`
	Input     string `header:"Signature-Input" doc:"RFC 9421"`
	Signature string `header:"Signature" doc:"RFC 9421, hmac-sha256 over @method, @path and content-digest"`
	RawBody   []byte `contentType:"application/json"`
	path      string
	header    http.Header
}

// Resolve keeps the path and the header as they were signed.
func (in *CallInput) Resolve(ctx huma.Context) []error {
	u := ctx.URL()
	in.path, in.header = u.EscapedPath(), http.Header{}
	ctx.EachHeader(func(name, value string) { in.header.Add(name, value) })
	return nil
}

func (s *server) callRoutes() {
	route(s, anybody, http.MethodPost, "/calls/{tracker}/{rule}", "call-rule", "Wake a rule from outside, by a signed request; the same call again changes nothing", s.call,
		answers(http.StatusUnauthorized), answers(http.StatusConflict), func(op *huma.Operation) { op.SkipValidateBody = true }) // it is read as it was signed
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/rules/{definition}/secret", "new-caller", "Make the secret with which calls of a rule are signed; an earlier one serves no more",
		func(ctx context.Context, in *InDefinition) (*body[wire.Secret], error) {
			t, r, err := s.rule(ctx, *in)
			if err != nil {
				return nil, err
			}
			if !r.Wake.Call {
				return nil, asked(fmt.Errorf("rule %s is not woken by calls: say so in its wake, call: yes", r.Name))
			}
			secret, err := s.workspace.IssueCaller(ctx, t, r)
			if err != nil {
				return nil, err
			}
			return ok(wire.Secret{Secret: secret}), nil
		})
}

func (s *server) call(ctx context.Context, in *CallInput) (*body[wire.ChangeSet], error) {
	t, r, mac, err := s.called(ctx, in)
	if err != nil {
		return nil, err
	}
	var asks wire.Call
	if len(in.RawBody) > 0 {
		if err := json.Unmarshal(in.RawBody, &asks); err != nil {
			return nil, problemOf(http.StatusBadRequest, "request", "Bad request", "the body is not JSON: "+err.Error())
		}
	}
	rows, err := rowsCalled(t, r, asks.Rows)
	if err != nil {
		return nil, err
	}
	req := s.workspace.CallRule(t, r, rows)
	req.Key = engine.Key{ID: fmt.Sprintf("call %s %s %x", t.ID, r.ID, mac)} // a call sent twice is one call
	result, err := s.workspace.Commit(ctx, req)
	if err != nil {
		return nil, asked(err)
	}
	set, err := s.changeSet(policy.With(ctx, policy.Itself(policy.ByCall)), result, false)
	if err != nil {
		return nil, err
	}
	return ok(*set), nil
}

// called finds the rule that a call wakes, if it is signed as it should be.
// Whoever cannot sign learns nothing about what is there.
func (s *server) called(ctx context.Context, in *CallInput) (*sheet.Tracker, *rule.Compiled, []byte, error) {
	t, err := s.workspace.Find(in.Tracker)
	if err != nil {
		return nil, nil, nil, unsigned(errSignature)
	}
	r, err := s.workspace.FindRule(t, in.Rule)
	if err != nil || !r.Wake.Call || r.Paused {
		return nil, nil, nil, unsigned(errSignature)
	}
	secret, err := s.workspace.Store().Caller(ctx, t.ID, r.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, nil, unsigned(errSignature)
	}
	if err != nil {
		return nil, nil, nil, err
	}
	c := &signedCall{method: http.MethodPost, path: in.path, header: in.header, body: in.RawBody}
	mac, err := c.check(secret, s.workspace.Now())
	if err != nil {
		return nil, nil, nil, unsigned(err)
	}
	return t, r, mac, nil
}

func unsigned(err error) error {
	return problemOf(http.StatusUnauthorized, "not-signed", "Not signed", err.Error())
}

// rowsCalled finds the rows that a call names, by id or label, in the rule's tabs.
func rowsCalled(t *sheet.Tracker, r *rule.Compiled, names []string) ([]sheet.RowID, error) {
	var out []sheet.RowID
	for _, name := range names {
		var found *sheet.Row
		var missing error
		for _, id := range r.Tabs() {
			row, err := t.FindRow(t.TabByID(id), name)
			if err == nil {
				found = row
				break
			}
			if missing == nil {
				missing = err
			}
		}
		if found == nil {
			return nil, missing
		}
		out = append(out, found.ID)
	}
	return out, nil
}
