// Package api is Kavlo's network interface: JSON over HTTP under /api/v1,
// described by an OpenAPI 3.1 document that is derived from the handlers'
// types, problems as RFC 9457, live events as Server-Sent Events, and the
// console's files.
//
// Every route is registered through route, which demands to know who may use
// it; handlers turn requests into calls of the workspace and its answers into the
// forms of package wire, and decide nothing themselves. web.go alone
// knows the web framework; sight.go gives states as their asker sees them.
package api

import (
	"context"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/presence"
	"example.org/kavlo/internal/wire"
	"example.org/kavlo/internal/workspace"
)

// PostOffice shows mail as the demo's stand-in post office took it in.
type PostOffice interface {
	Arrived(ctx context.Context) ([]wire.ArrivedMail, error)
}

// Options say what the interface serves besides the workspace.
type Options struct {
	Version string
	Log     *slog.Logger
	Console fs.FS      // the built console; nil or empty: a page says that it is not there
	Post    PostOffice // nil outside the demo
	Hosts   []string   // names by which the service goes, besides numbers and localhost
}

type server struct {
	Options
	workspace *workspace.Workspace
	api       huma.API
	metrics   *metrics
	guard     *http.CrossOriginProtection
	rendered  rendered
	presence  *presence.Board
}

// MaxUpload is how many bytes a file to import may have.
const MaxUpload = 64 << 20

func config(version string) huma.Config {
	c := huma.DefaultConfig("Kavlo", version)
	c.OpenAPIPath, c.DocsPath, c.SchemasPath = "/api/openapi", "", ""
	c.Info.Description = "Trackers, their rows, and the rules, lists and rounds that keep them current."
	c.Servers = []*huma.Server{{URL: "/", Description: "The service that gives this document"}}
	c.Tags = subjectTexts
	c.CreateHooks = nil // no "$schema" in answers
	c.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"token":   {Type: "http", Scheme: "bearer", Description: "A token that kavlo access token made"},
		"session": {Type: "apiKey", In: "cookie", Name: sessionCookie, Description: "The cookie of a browser that signed in"},
	}
	return c
}

func (s *server) register() {
	s.sessionRoutes()
	s.peopleRoutes()
	s.allowedHostRoutes()
	s.trackerRoutes()
	s.tabRoutes()
	s.columnRoutes()
	s.rowRoutes()
	s.partRoutes()
	s.trialRoutes()
	s.scheduleRoutes()
	s.findRoute()
	s.clauseRoutes()
	s.callRoutes()
	s.runRoutes()
	s.roundRoutes()
	s.mailServerRoutes()
	s.readingRoutes()
	s.importRoutes()
	s.exportRoutes()
	s.todayRoutes()
	s.backupRoutes()
	s.outboundRoutes()
	s.pageRoutes()
	s.tallyRoutes()
	s.formRoutes()
	s.presenceRoutes()
	s.attachmentRoutes()
	s.tidyRoutes()
	s.eventRoutes()
	objects(s.api)
}

// route registers an operation. Whoever uses it needs at least the access.
func route[I, O any](s *server, needs role, method, path, id, summary string, handle func(context.Context, *I) (*O, error), adjust ...func(*huma.Operation)) {
	op := huma.Operation{Method: method, Path: "/api/v1" + path, OperationID: id, Summary: summary, Description: summary + ". " + whoMay(needs), Tags: []string{subjectOf(path)},
		Metadata: map[string]any{accessKey: needs}, Errors: []int{http.StatusUnprocessableEntity}}
	op.Security = []map[string][]string{{}}
	if needs != anybody {
		op.Security = []map[string][]string{{"token": {}}, {"session": {}}}
		op.Errors = append(op.Errors, http.StatusUnauthorized, http.StatusForbidden)
	}
	if strings.Contains(path, "{") {
		op.Errors = append(op.Errors, http.StatusNotFound)
	}
	for _, a := range adjust {
		a(&op)
	}
	huma.Register(s.api, op, func(ctx context.Context, in *I) (*O, error) {
		if op.Metadata[heavyKey] == true {
			at, done, err := s.workspace.Heavy(ctx)
			if err != nil {
				return nil, s.problem(ctx, err)
			}
			defer done()
			ctx = at
		}
		out, err := handle(withHash(ctx, id, in), in)
		if err != nil {
			return nil, s.problem(ctx, err)
		}
		return out, nil
	})
}

const heavyKey = "heavy"

// heavy lets only some requests of such operations work at once; others wait for
// their turn.
func heavy(op *huma.Operation) { op.Metadata[heavyKey] = true }

// answers gives an operation one more status that it may answer with.
func answers(status int) func(*huma.Operation) {
	return func(op *huma.Operation) { op.Errors = append(op.Errors, status) }
}

// body is an answer whose body is JSON.
type body[T any] struct{ Body T }

func ok[T any](v T) *body[T] { return &body[T]{v} }

// Write is what every changing request may carry.
type Write struct {
	Preview string `query:"preview" enum:"yes,no" doc:"yes: answer with what would change, and change nothing"`
	Key     string `header:"Idempotency-Key" maxLength:"200" doc:"The same request with the same key gives the first answer and changes nothing; another request with it is refused. Keys are one's own, and are forgotten after a day"`
}

func (w Write) isPreview() bool { return w.Preview == "yes" }

// commit hands a request to the workspace, or previews it.
func (s *server) commit(ctx context.Context, w Write, req engine.Request) (*wire.ChangeSet, error) {
	r, err := s.committed(ctx, w, req)
	if err != nil {
		return nil, err
	}
	return s.changeSet(ctx, r, w.isPreview())
}

func (s *server) committed(ctx context.Context, w Write, req engine.Request) (*engine.Result, error) {
	req.Key = keyOf(ctx, w)
	if w.isPreview() {
		r, err := s.workspace.Preview(ctx, req)
		return r, asked(err)
	}
	r, err := s.workspace.Commit(ctx, req)
	return r, asked(err)
}

func (s *server) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
	defer cancel()
	if err := s.workspace.Ready(ctx); err != nil {
		s.Log.Error("not ready", "err", err)
		writePlain(w, http.StatusServiceUnavailable, fmt.Sprintf("not ready: %s\n", err))
		return
	}
	writePlain(w, http.StatusOK, "ready\n")
}
