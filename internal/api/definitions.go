package api

import (
	"context"
	"net/http"
	"strconv"
	"strings"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// InDefinition is the part of an address that names a part of a tracker.
type InDefinition struct {
	InTracker
	Definition string `path:"definition" doc:"Name or id"`
}

// part finds the tracker and the part that an address names.
func (s *server) part(ctx context.Context, in InDefinition, kind sheet.DefinitionKind) (*sheet.Tracker, *sheet.Definition, error) {
	t, err := s.find(ctx, in.Tracker)
	if err != nil {
		return nil, nil, err
	}
	p, err := t.Definition(kind, in.Definition)
	return t, p, err
}

// rule finds the tracker and the compiled rule that an address names.
func (s *server) rule(ctx context.Context, in InDefinition) (*sheet.Tracker, *rule.Compiled, error) {
	t, err := s.find(ctx, in.Tracker)
	if err != nil {
		return nil, nil, err
	}
	r, err := s.workspace.FindRule(t, in.Definition)
	return t, r, err
}

func (s *server) partView(p *sheet.Definition, shape *sheet.Shape) (wire.Definition, error) {
	out := wire.Definition{ID: p.ID.String(), Kind: string(p.Kind), Name: p.Name, Version: edit.Version(p)}
	var err error
	if out.Body, err = s.workspace.Setup.EncodeDefinition(p, shape); err != nil {
		return out, err
	}
	def, err := s.workspace.Setup.Kinds().Decode(p)
	if err != nil {
		return out, err
	}
	if can, is := def.(program.Pauser); is {
		out.Paused = can.IsPaused()
	}
	if can, is := def.(program.Watcher); is {
		out.Watching = can.OnlyWatches()
	}
	out.Says, err = s.workspace.Setup.Sentence(p, shape)
	return out, err
}

type definitionAnswer struct {
	ETag string `header:"ETag"`
	Body wire.Definition
}

// Seen is what a request that changes a definition may carry.
type Seen struct {
	Match string `header:"If-Match" doc:"The ETag of the definition as it was seen; without it the request overwrites what somebody else has made of it since"`
}

// ifSeen lets a request hold only for the version that an If-Match names; any without one.
func ifSeen(req engine.Request, of sheet.DefinitionID, match string) engine.Request {
	version := strings.Trim(strings.TrimPrefix(strings.TrimSpace(match), "W/"), `"`)
	if version == "" || version == "*" {
		return req
	}
	return edit.Seen(req, of, version)
}

// partRoutes serves definitions, which are read and written alike, of whatever kinds
// there are, and what the kinds have of their own.
func (s *server) partRoutes() {
	for i := range s.workspace.Setup.Kinds() {
		kind := &s.workspace.Setup.Kinds()[i]
		s.kindRoutes(kind)
		if _, can := kind.New().(program.Pauser); can {
			s.pauseRoute(kind, "pause", true)
			s.pauseRoute(kind, "resume", false)
		}
	}
	route(s, editor, http.MethodPost, "/trackers/{tracker}/rules/{definition}/run", "run-rule", "Run a rule now on every row of its tabs",
		func(ctx context.Context, in *struct {
			InDefinition
			Write
			File string `query:"file" doc:"Of a rule that files wake: the file to run it on, such as intake/requests.xlsx"`
		}) (*body[wire.ChangeSet], error) {
			t, r, err := s.rule(ctx, in.InDefinition)
			if err != nil {
				return nil, err
			}
			req := s.workspace.RunRule(asker(ctx), t, r)
			switch {
			case in.File != "":
				if req, err = s.workspace.RunOn(ctx, asker(ctx), t, r, in.File); err != nil {
					return nil, asked(err)
				}
			case r.Wake.File != "":
				return nil, asked(s.workspace.NeedsFile(ctx, r))
			case in.isPreview(): // of a watching rule too: what it would do is what is asked
				req = s.workspace.RunUnwatched(asker(ctx), t, r)
			}
			return s.change(ctx, in.Write, req)
		}, answers(http.StatusConflict))
	s.syncRoutes()
}

func (s *server) pauseRoute(kind *program.Kind, what string, paused bool) {
	name := string(kind.Name)
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/"+kind.Plural+"/{definition}/"+what, what+"-"+name, map[bool]string{true: "Stop a " + name + " from being woken", false: "Let a " + name + " be woken again"}[paused],
		func(ctx context.Context, in *struct {
			InDefinition
			Write
		}) (*body[wire.ChangeSet], error) {
			t, p, err := s.part(ctx, in.InDefinition, kind.Name)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.Pause(asker(ctx), t.ID, p.ID, paused))
		})
}

func (s *server) kindRoutes(of *program.Kind) {
	kind, name := of.Name, string(of.Name)
	all := "/trackers/{tracker}/" + of.Plural
	one := all + "/{definition}"
	route(s, reader, http.MethodGet, all, "list-"+of.Plural, "List the "+of.Plural,
		func(ctx context.Context, in *InTracker) (*body[[]wire.Definition], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			out := []wire.Definition{}
			for i := range t.Definitions {
				if t.Definitions[i].Kind != kind {
					continue
				}
				p, err := s.partView(&t.Definitions[i], t.Shape)
				if err != nil {
					return nil, err
				}
				out = append(out, p)
			}
			return ok(out), nil
		})
	route(s, reader, http.MethodGet, one, "get-"+name, "Show a "+name,
		func(ctx context.Context, in *InDefinition) (*definitionAnswer, error) {
			t, p, err := s.part(ctx, *in, kind)
			if err != nil {
				return nil, err
			}
			w, err := s.partView(p, t.Shape)
			if err != nil {
				return nil, err
			}
			return &definitionAnswer{ETag: strconv.Quote(w.Version), Body: w}, nil
		})
	route(s, reader, http.MethodGet, one+"/history", name+"-history", "Tell who changed a "+name+", when and how, newest first",
		func(ctx context.Context, in *InDefinition) (*body[[]wire.DefinitionChange], error) {
			t, p, err := s.part(ctx, *in, kind)
			if err != nil {
				return nil, err
			}
			if !s.whole(ctx, t.ID) { // what it once said may tell of what is hidden
				return nil, engine.ErrForbidden
			}
			out, err := s.definitionHistory(ctx, of, t, p)
			if err != nil {
				return nil, err
			}
			return ok(out), nil
		}, heavy)
	put := func(ctx context.Context, w Write, tracker, replace, seen string, doc wire.Document) (*body[wire.ChangeSet], error) {
		t, err := s.find(ctx, tracker)
		if err != nil {
			return nil, err
		}
		var id sheet.DefinitionID
		if replace != "" {
			p, err := t.Definition(kind, replace)
			if err != nil {
				return nil, err
			}
			id = p.ID
		}
		return s.change(ctx, w, ifSeen(s.workspace.PutDefinition(asker(ctx), t.ID, kind, doc, id), id, seen))
	}
	route(s, keeper, http.MethodPost, all, "put-"+name, "Add a "+name+", or replace the one of that name",
		func(ctx context.Context, in *struct {
			InTracker
			Write
			Body wire.Document
		}) (*body[wire.ChangeSet], error) {
			return put(ctx, in.Write, in.Tracker, "", "", in.Body)
		})
	route(s, keeper, http.MethodPut, one, "replace-"+name, "Replace a "+name+"; it may be renamed so",
		func(ctx context.Context, in *struct {
			InDefinition
			Write
			Seen
			Body wire.Document
		}) (*body[wire.ChangeSet], error) {
			return put(ctx, in.Write, in.Tracker, in.Definition, in.Match, in.Body)
		}, answers(http.StatusPreconditionFailed))
	route(s, keeper, http.MethodDelete, one, "drop-"+name, "Remove a "+name+"; undo brings it back",
		func(ctx context.Context, in *struct {
			InDefinition
			Write
			Seen
		}) (*body[wire.ChangeSet], error) {
			t, p, err := s.part(ctx, in.InDefinition, kind)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, ifSeen(s.workspace.DropDefinition(asker(ctx), t.ID, p.ID), p.ID, in.Match))
		}, answers(http.StatusPreconditionFailed))
}

// mostDefinitionChanges is how many changes of a definition are told.
const mostDefinitionChanges = 50

// definitionHistory tells of each change of a definition who made it and what differs.
func (s *server) definitionHistory(ctx context.Context, of *program.Kind, t *sheet.Tracker, p *sheet.Definition) ([]wire.DefinitionChange, error) {
	changes, err := s.workspace.OfDefinition(ctx, t.ID, p.ID, mostDefinitionChanges)
	if err != nil {
		return nil, err
	}
	out := []wire.DefinitionChange{}
	for _, c := range changes {
		w := wire.DefinitionChange{Seq: c.Set.Seq, At: c.Set.At, Who: c.Set.Who}
		was, is := nameIn(c.Before, p), nameIn(c.After, p)
		switch {
		case was == "":
			w.Says = []string{"added"}
		case was != is:
			w.Says = []string{"renamed from " + was}
		default:
			lines, err := s.workspace.Setup.Differences(c.Before, c.After)
			if err != nil { // a shape of old may not be written any more
				lines = nil
			}
			w.Says = linesOf(lines, of.Plural+" / "+is+" / ")
		}
		out = append(out, w)
	}
	return out, nil
}

// linesOf gives those of some differences that are about one thing, without its name.
func linesOf(lines []string, about string) []string {
	out := []string{}
	for _, line := range lines {
		for _, verb := range []string{"", "added ", "removed "} {
			if rest, is := strings.CutPrefix(line, verb+about); is {
				out = append(out, verb+rest)
			}
		}
	}
	return out
}

// nameIn gives the name that a definition has in a shape; "" if it is not there.
func nameIn(s *sheet.Shape, p *sheet.Definition) string {
	if s == nil {
		return ""
	}
	if d := s.DefinitionByID(p.ID); d != nil {
		return d.Name
	}
	return ""
}
