// Package api is Kavlo's network interface: JSON over HTTP under /api/v1,
// described by an OpenAPI 3.1 document that is derived from the handlers'
// types, problems as RFC 9457, live events as Server-Sent Events, and the
// console's files.
//
// Every route is registered through route, which demands to know who may use
// it; handlers turn requests into calls of the desk and its answers into the
// forms of package wire, and decide nothing themselves. One file a resource:
// trackers.go, columns.go, rows.go, parts.go, clauses.go, calls.go, runs.go, rounds.go, readings.go, imports.go, exports.go, people.go,
// today.go, events.go; access.go and problems.go serve them all.
package api

import (
	"context"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/wire"
	"example.org/kavlo/internal/workspace"
)

// PostOffice shows mail as the demo's stand-in post office took it in.
type PostOffice interface {
	Arrived(ctx context.Context) ([]wire.ArrivedMail, error)
}

// Options say what the interface serves besides the desk.
type Options struct {
	Version string
	Log     *slog.Logger
	Console fs.FS      // the built console; nil or empty: a page says that it is not there
	Post    PostOffice // nil outside the demo
	Hosts   []string   // names by which the service goes, besides numbers and localhost
}

type server struct {
	Options
	desk    *workspace.Workspace
	api     huma.API
	metrics *metrics
	guard   *http.CrossOriginProtection
}

// MaxUpload is how many bytes a file to import may have.
const MaxUpload = 64 << 20

// New gives the handler that serves a desk.
func New(d *workspace.Workspace, o Options) http.Handler {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	gin.SetMode(gin.ReleaseMode)
	engine := gin.New()
	engine.UseRawPath = true // names in addresses may hold a slash
	s := &server{Options: o, desk: d, metrics: newMetrics(d), guard: http.NewCrossOriginProtection()}
	engine.Use(s.recovered, s.measured, secured, s.ownHost, s.sameOrigin)
	s.api = humagin.New(engine, config(o.Version))
	s.api.UseMiddleware(s.admit)
	s.register()
	engine.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	engine.GET("/readyz", s.ready)
	engine.GET("/metrics", gin.WrapH(s.metrics.handler()))
	s.actRoutes(engine)
	engine.NoRoute(s.console)
	return engine
}

func config(version string) huma.Config {
	c := huma.DefaultConfig("Kavlo", version)
	c.OpenAPIPath, c.DocsPath, c.SchemasPath = "/api/openapi", "", ""
	c.Info.Description = "Trackers, their rows, and the rules, lists and rounds that keep them current."
	c.CreateHooks = nil // no "$schema" in answers
	c.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"token":   {Type: "http", Scheme: "bearer"},
		"session": {Type: "apiKey", In: "cookie", Name: sessionCookie},
	}
	return c
}

func (s *server) register() {
	s.sessionRoutes()
	s.peopleRoutes()
	s.reachRoutes()
	s.trackerRoutes()
	s.columnRoutes()
	s.rowRoutes()
	s.partRoutes()
	s.clauseRoutes()
	s.callRoutes()
	s.runRoutes()
	s.roundRoutes()
	s.readingRoutes()
	s.importRoutes()
	s.exportRoutes()
	s.todayRoutes()
	s.backupRoutes()
	s.outboundRoutes()
	s.eventRoutes()
}

// route registers an operation. Whoever uses it needs at least the access.
func route[I, O any](s *server, needs role, method, path, id, summary string, handle func(context.Context, *I) (*O, error), adjust ...func(*huma.Operation)) {
	op := huma.Operation{Method: method, Path: "/api/v1" + path, OperationID: id, Summary: summary,
		Metadata: map[string]any{accessKey: needs}, Errors: []int{http.StatusUnprocessableEntity}}
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
			at, done, err := s.desk.Heavy(ctx)
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

// commit hands a request to the desk, or previews it.
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
		r, err := s.desk.Preview(ctx, req)
		return r, asked(err)
	}
	r, err := s.desk.Commit(ctx, req)
	return r, asked(err)
}

// recovered turns a panic into a problem and keeps the service up.
func (s *server) recovered(c *gin.Context) {
	defer func() {
		if p := recover(); p != nil {
			if p == http.ErrAbortHandler { //nolint:errorlint // a sentinel of the standard library, as documented
				panic(p)
			}
			s.Log.Error("a request panicked", "method", c.Request.Method, "path", c.Request.URL.Path, "panic", fmt.Sprint(p), "stack", string(debug.Stack()))
			writeProblem(c, internalProblem)
		}
	}()
	c.Next()
}

// secured sets the headers that keep the console's pages to themselves.
func secured(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") { // what one person was told is for nobody who comes after
		h.Set("Cache-Control", "no-store")
	}
	c.Next()
}

// ownHost refuses requests made under a name that is not the service's: another
// site's page can make a browser believe that its name is this machine's.
// Numbers cannot be lent so.
func (s *server) ownHost(c *gin.Context) {
	host := c.Request.Host
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	host = strings.ToLower(strings.TrimSuffix(strings.Trim(host, "[]"), "."))
	if _, err := netip.ParseAddr(host); err != nil && host != "localhost" && !slices.Contains(s.Hosts, host) {
		p := problemOf(http.StatusMisdirectedRequest, "other-host", "Another name than the service's", fmt.Sprintf("the service does not go by the name %q", host))
		p.Hint = "start it with --public or --host and this name, if it is right"
		writeProblem(c, p)
		c.Abort()
		return
	}
	c.Next()
}

// sameOrigin refuses writes that another site's page makes a browser send.
func (s *server) sameOrigin(c *gin.Context) {
	if err := s.guard.Check(c.Request); err != nil {
		writeProblem(c, problemOf(http.StatusForbidden, "other-origin", "Sent from another site", err.Error()))
		c.Abort()
		return
	}
	c.Next()
}

func (s *server) ready(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if err := s.desk.Ready(ctx); err != nil {
		s.Log.Error("not ready", "err", err)
		c.String(http.StatusServiceUnavailable, "not ready: %s\n", err)
		return
	}
	c.String(http.StatusOK, "ready\n")
}
