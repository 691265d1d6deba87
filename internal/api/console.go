package api

import (
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"
)

const noConsole = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Kavlo</title></head>
<body style="margin:15vh auto;max-width:34rem;font:16px/1.6 Georgia,serif;background:#FBFAF6;color:#1F2A37">
<h1>Kavlo is running</h1><p>Its console was not built into this program. Build it with <code>make build</code> and start the service again.</p>
<p>The command line and the API work as they are: the API is described at <a href="/api/openapi.json" style="color:#1D6B5C">/api/openapi.json</a>.</p></body></html>`

// console serves the console's files. Its pages have addresses of their own,
// so whatever is no file is answered with the page that loads them.
func (s *server) console(w http.ResponseWriter, r *http.Request) {
	if strings.HasPrefix(r.URL.Path, "/api/") {
		writeProblem(w, problemOf(http.StatusNotFound, "no-such-address", "There is nothing here", r.Method+" "+r.URL.Path+" is not part of the interface: see /api/openapi.json"))
		return
	}
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		writeProblem(w, problemOf(http.StatusMethodNotAllowed, "method", "Not here", "pages can only be read"))
		return
	}
	if s.Console == nil {
		writePage(w, []byte(noConsole))
		return
	}
	name := strings.TrimPrefix(path.Clean("/"+r.URL.Path), "/")
	if info, err := fs.Stat(s.Console, name); err == nil && !info.IsDir() && name != "index.html" {
		if strings.HasPrefix(name, "assets/") { // named by their content
			w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		}
		s.packed(w, r, name)
		return
	}
	page, err := fs.ReadFile(s.Console, "index.html")
	if err != nil {
		writePage(w, []byte(noConsole))
		return
	}
	w.Header().Set("Cache-Control", "no-cache")
	writePage(w, page)
}

// packings are how files of the console may be packed beside themselves, the smallest first:
// as a browser names it, and what their names end in (RFC 9110, 8.4.1; RFC 7932).
var packings = []struct{ name, ending string }{{"br", ".br"}, {"gzip", ".gz"}}

// packed sends a file of the console in the smallest form that the browser takes.
func (s *server) packed(w http.ResponseWriter, r *http.Request, name string) {
	w.Header().Add("Vary", "Accept-Encoding")
	for _, p := range packings {
		if !takes(r.Header.Get("Accept-Encoding"), p.name) {
			continue
		}
		if info, err := fs.Stat(s.Console, name+p.ending); err != nil || info.IsDir() {
			continue
		}
		if kind := mime.TypeByExtension(path.Ext(name)); kind != "" {
			w.Header().Set("Content-Type", kind)
		}
		w.Header().Set("Content-Encoding", p.name)
		http.ServeFileFS(w, r, s.Console, name+p.ending)
		return
	}
	http.ServeFileFS(w, r, s.Console, name)
}

// takes reports whether a browser takes an encoding, which it may name with a weight.
func takes(accepted, encoding string) bool {
	for part := range strings.SplitSeq(accepted, ",") {
		name, weight, _ := strings.Cut(strings.TrimSpace(part), ";")
		if strings.EqualFold(strings.TrimSpace(name), encoding) {
			weight = strings.TrimSpace(weight)
			return weight != "q=0" && !strings.HasPrefix(weight, "q=0.0")
		}
	}
	return false
}

func writePage(w http.ResponseWriter, page []byte) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_, _ = w.Write(page) // the reader may be gone
}
