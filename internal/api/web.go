package api

import (
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"example.org/kavlo/internal/notify"
	"example.org/kavlo/internal/presence"
	"example.org/kavlo/internal/workspace"
)

// This file alone knows the web framework: it puts the routes and what every request
// passes on its way to them together. Handlers elsewhere are those of net/http, or of
// the operations of the OpenAPI document.

// New gives the handler that serves a workspace.
func New(d *workspace.Workspace, o Options) http.Handler {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	s := &server{Options: o, workspace: d, metrics: newMetrics(d), presence: presence.New(), guard: http.NewCrossOriginProtection()}
	web := s.web()
	s.api = humagin.New(web, config(o.Version))
	s.api.UseMiddleware(s.admit)
	s.register()
	web.GET("/healthz", plain(func(w http.ResponseWriter, _ *http.Request) { writePlain(w, http.StatusOK, "ok\n") }))
	web.GET("/readyz", plain(s.ready))
	web.GET("/metrics", gin.WrapH(s.metrics.handler()))
	web.GET(notify.FeedPath+":secret", plain(s.feed, "secret"))
	web.GET(notify.ActPath+":token", plain(s.lookAtAct, "token"))
	web.POST(notify.ActPath+":token", plain(s.act, "token"))
	web.NoRoute(func(c *gin.Context) {
		c.Status(http.StatusOK) // the framework has written it off as not found
		s.console(c.Writer, c.Request)
	})
	return headAsGet(web)
}

func (s *server) web() *gin.Engine {
	gin.SetMode(gin.ReleaseMode)
	web := gin.New()
	web.UseRawPath = true // names in addresses may hold a slash
	web.Use(s.recovered, s.measured, passes(secured), passes(s.ownHost), passes(s.sameOrigin))
	return web
}

// plain serves a route by a handler of net/http, with these parts of its path.
func plain(h http.HandlerFunc, params ...string) gin.HandlerFunc {
	return func(c *gin.Context) {
		for _, p := range params {
			c.Request.SetPathValue(p, c.Param(p))
		}
		h(c.Writer, c.Request)
	}
}

// passes lets a request go on if check says so; else check has answered it.
func passes(check func(http.ResponseWriter, *http.Request) bool) gin.HandlerFunc {
	return func(c *gin.Context) {
		if !check(c.Writer, c.Request) {
			c.Abort()
			return
		}
		c.Next()
	}
}

// recovered turns a panic into a problem and keeps the service up.
func (s *server) recovered(c *gin.Context) {
	defer func() {
		if p := recover(); p != nil {
			if p == http.ErrAbortHandler { //nolint:errorlint // a sentinel of the standard library, as documented
				panic(p)
			}
			s.Log.Error("a request panicked", "method", c.Request.Method, "path", c.Request.URL.Path, "panic", fmt.Sprint(p), "stack", string(debug.Stack()))
			writeProblem(c.Writer, internalProblem)
		}
	}()
	c.Next()
}

func (s *server) measured(c *gin.Context) {
	start := time.Now()
	c.Next()
	route := c.FullPath()
	if route == "" {
		route = "console"
	}
	if route == "/api/v1/events" { // lasts as long as its listener
		return
	}
	method := c.Request.Method
	if !slices.Contains(methods, method) { // whatever a stranger calls it
		method = "other"
	}
	s.metrics.requests.WithLabelValues(method, route, strconv.Itoa(c.Writer.Status())).Observe(time.Since(start).Seconds())
}

func secured(w http.ResponseWriter, r *http.Request) bool {
	h := w.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	if strings.HasPrefix(r.URL.Path, "/api/") { // what one person was told is for nobody who comes after
		h.Set("Cache-Control", "no-store")
	}
	return true
}

// ownHost refuses requests made under a name that is not the service's: another
// site's page can make a browser believe that its name is this machine's.
// Numbers cannot be lent so.
func (s *server) ownHost(w http.ResponseWriter, r *http.Request) bool {
	host := r.Host
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	host = strings.ToLower(strings.TrimSuffix(strings.Trim(host, "[]"), "."))
	if _, err := netip.ParseAddr(host); err != nil && host != "localhost" && !slices.Contains(s.Hosts, host) {
		p := problemOf(http.StatusMisdirectedRequest, "other-host", "Another name than the service's", fmt.Sprintf("the service does not go by the name %q", host))
		p.Hint = "start it with --public or --host and this name, if it is right"
		writeProblem(w, p)
		return false
	}
	return true
}

// sameOrigin refuses writes that another site's page makes a browser send.
func (s *server) sameOrigin(w http.ResponseWriter, r *http.Request) bool {
	if err := s.guard.Check(r); err != nil {
		writeProblem(w, problemOf(http.StatusForbidden, "other-origin", "Sent from another site", err.Error()))
		return false
	}
	return true
}
