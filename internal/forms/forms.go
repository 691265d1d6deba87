// Package forms takes entries by entry forms, from people who are signed in and by private
// links, and holds them to what the form is for.
package forms

import (
	"context"
	"errors"
	"fmt"
	"iter"
	"maps"
	"sync"
	"time"

	"golang.org/x/time/rate"

	"example.org/kavlo/internal/attach"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/form"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// Forms are the entry forms of a workspace.
type Forms struct {
	*engine.Engine
	store  *store.Store
	hash   func(secret string) string
	files  *attach.Files
	mu     sync.Mutex
	limits map[limitKey]*rate.Limiter
}

type limitKey struct {
	tracker sheet.TrackerID
	form    sheet.DefinitionID
	files   bool
}

// New gives the forms of an engine's workspace; hash is how secrets are kept, and files are
// where what is uploaded goes.
func New(e *engine.Engine, hash func(secret string) string, files *attach.Files) *Forms {
	return &Forms{Engine: e, store: e.Store(), hash: hash, files: files, limits: map[limitKey]*rate.Limiter{}}
}

// ErrClosed says that a private link leads nowhere any more.
var ErrClosed = errors.New("this link has been closed or has expired: ask whoever sent it for another")

// ErrTooMany says that a form has taken as many entries as it takes for now.
var ErrTooMany = errors.New("the form has taken many entries just now: try again in a few minutes")

// Find gives a form of a tracker by name or id.
func (f *Forms) Find(t *sheet.Tracker, name string) (*form.Compiled, error) {
	def, err := t.Definition(sheet.KindForm, name)
	if err != nil {
		return nil, err
	}
	ready, err := f.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	return program.Ready[*form.Compiled](ready, def.ID)
}

// For gives a form to somebody whom it names, though they may not see its tab.
func (f *Forms) For(by policy.Principal, tracker sheet.TrackerID, name string) (*sheet.Tracker, *form.Compiled, bool) {
	t := f.State().Tracker(tracker)
	if t == nil {
		return nil, nil, false
	}
	c, err := f.Find(t, name)
	if err != nil || !named(by, t, c) {
		return nil, nil, false
	}
	return t, c, true
}

// named reports whether a form names somebody, by the role that they have in its tracker.
func named(by policy.Principal, t *sheet.Tracker, c *form.Compiled) bool {
	by.Access = policy.RoleIn(by, t.Shape)
	return by.Access > policy.Nobody && by.Among(c.By)
}

// All gives the forms that somebody may fill in who sees a tracker so.
func (f *Forms) All(by policy.Principal, seen *sheet.Tracker) iter.Seq[*form.Compiled] {
	return func(yield func(*form.Compiled) bool) {
		whole := f.State().Tracker(seen.ID)
		if whole == nil {
			return
		}
		ready, err := f.Program(whole.Shape)
		if err != nil {
			return
		}
		for c, err := range program.All[*form.Compiled](ready, sheet.KindForm) {
			if err != nil {
				continue
			}
			if _, hidden := f.Find(seen, c.ID.String()); (hidden == nil || named(by, whole, c)) && !yield(c) {
				return
			}
		}
	}
}

// By gives the principal who fills a form in: they may do nothing else.
func By(name string, tracker sheet.TrackerID, c *form.Compiled) policy.Principal {
	return policy.Principal{Kind: policy.Form, Name: name, Access: policy.Keeper, Narrow: c.Grant(tracker)}
}

// ByLink is who stands in the journal for an entry by a private link.
const ByLink = "private link"

// Fill adds what somebody filled in. key lets an entry that is sent again be known.
func (f *Forms) Fill(by policy.Principal, tracker sheet.TrackerID, c *form.Compiled, given map[string]any, key engine.Key) (engine.Request, error) {
	limit := f.limit(tracker, c, false)
	if limit.TokensAt(f.Now()) < 1 {
		return engine.Request{}, ErrTooMany
	}
	id := c.ID
	return engine.Request{By: by, Tracker: tracker, Key: key, Cause: sheet.Cause{Kind: sheet.ByForm, Name: c.Name, Definition: id}, Work: func(t *engine.Turn) error {
		tr := t.Draft.Own(tracker)
		if tr == nil {
			return &sheet.NotFound{What: "tracker", Name: tracker.String()}
		}
		ready, err := t.Program(tr.Shape)
		if err != nil {
			return err
		}
		now, err := program.Ready[*form.Compiled](ready, id)
		if err != nil {
			return err
		}
		whole, err := f.uploaded(t.Context(), tr, now, given)
		if err != nil {
			return err
		}
		cells, err := now.Entry(t.Draft, tr, ready.Env(tr, nil, t.Now, t.Meter()), whole)
		if err != nil {
			return err
		}
		t.After(func(*engine.Result) { limit.AllowN(f.Now(), 1) }) // what is refused counts for nothing
		_, err = t.Draft.AddRow(sheet.Place{Tracker: tracker, Tab: now.Tab}, cells, 0)
		return err
	}}, nil
}

// uploaded gives an entry with the files that were uploaded for it: a field for a file takes
// one of those, and no address of another.
func (f *Forms) uploaded(ctx context.Context, t *sheet.Tracker, c *form.Compiled, given map[string]any) (map[string]any, error) {
	out := maps.Clone(given)
	for name, raw := range given {
		col, err := c.Field(t, name)
		text, _ := raw.(string)
		if err != nil || col.Type.Kind != value.File || text == "" {
			continue // the entry is read later, and tells of what is wrong
		}
		v, err := f.files.Waiting(ctx, t.ID, col.ID, attach.ID(text))
		if err != nil && !errors.Is(err, attach.ErrGone) {
			return nil, err
		}
		if err != nil {
			return nil, &form.Invalid{Err: &sheet.Refusal{Column: col.Name, Reason: "takes a file", Hint: "choose the file anew: it is kept for a day until the form is sent"}}
		}
		out[name] = v.String()
	}
	return out, nil
}

// MayAttach says whether a form takes one more file now.
func (f *Forms) MayAttach(tracker sheet.TrackerID, c *form.Compiled) error {
	if !f.limit(tracker, c, true).AllowN(f.Now(), 1) {
		return ErrTooMany
	}
	return nil
}

// limit gives what bounds a form's entries: so many an hour, a third of them at once. Of
// files there may be thrice as many.
func (f *Forms) limit(tracker sheet.TrackerID, c *form.Compiled, files bool) *rate.Limiter {
	hourly := c.Hourly
	if hourly == 0 {
		hourly = form.MostHourly
	}
	if files {
		hourly *= 3
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	key := limitKey{tracker, c.ID, files}
	every := rate.Every(time.Hour / time.Duration(hourly))
	l := f.limits[key]
	if l == nil {
		l = rate.NewLimiter(every, max(1, hourly/3))
		f.limits[key] = l
	}
	if l.Limit() != every {
		l.SetLimitAt(f.Now(), every)
		l.SetBurstAt(f.Now(), max(1, hourly/3))
	}
	return l
}

// nameOf is what a form's private links are kept under.
func nameOf(tracker sheet.TrackerID, id sheet.DefinitionID) string {
	return tracker.String() + " " + id.String()
}

// Issuer makes and keeps secrets, and tells the journal.
type Issuer interface {
	IssueFormLink(ctx context.Context, person int64, name, says string, lasts time.Duration) (string, error)
	CloseFormLinks(ctx context.Context, name, says string) (int64, error)
}

// IssueLink makes a private link to a form, which lasts so long; 0: until it is closed. It
// stands for the person who made it.
func (f *Forms) IssueLink(ctx context.Context, gate Issuer, person int64, t *sheet.Tracker, c *form.Compiled, lasts time.Duration) (string, error) {
	return gate.IssueFormLink(ctx, person, nameOf(t.ID, c.ID), fmt.Sprintf("form %s of %s has a private link", c.Name, t.Name), lasts)
}

// CloseLinks closes the private links of a form.
func (f *Forms) CloseLinks(ctx context.Context, gate Issuer, t *sheet.Tracker, c *form.Compiled) (int64, error) {
	return gate.CloseFormLinks(ctx, nameOf(t.ID, c.ID), fmt.Sprintf("the private links of form %s of %s were closed", c.Name, t.Name))
}

// Links gives the open private links of a form.
func (f *Forms) Links(ctx context.Context, t *sheet.Tracker, c *form.Compiled) ([]store.Token, error) {
	return f.store.FormLinks(ctx, nameOf(t.ID, c.ID), f.Now())
}

// ByLink gives the form that a private link leads to, as long as whoever made it may still
// see its tracker.
func (f *Forms) ByLink(ctx context.Context, secret string) (*sheet.Tracker, *form.Compiled, error) {
	name, by, err := f.store.FormLink(ctx, f.hash(secret), f.Now())
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, ErrClosed
	}
	if err != nil {
		return nil, nil, err
	}
	var tracker, id string
	if _, err := fmt.Sscan(name, &tracker, &id); err != nil {
		return nil, nil, ErrClosed
	}
	t, err := f.Seen(policy.OfPerson(by.ID, by.Name, by.Address, by.Access)).Find(tracker)
	if err != nil {
		return nil, nil, ErrClosed
	}
	c, err := f.Find(t, id)
	if err != nil {
		return nil, nil, ErrClosed
	}
	return t, c, nil
}
