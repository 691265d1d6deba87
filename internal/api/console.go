package api

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"
)

const noConsole = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Kavlo</title></head>
<body style="margin:15vh auto;max-width:34rem;font:16px/1.6 Georgia,serif;background:#FBFAF6;color:#1F2A37">
<h1>Kavlo is running</h1><p>Its console was not built into this program. Build it with <code>make build</code> and start the service again.</p>
<p>The command line and the API work as they are: the API is described at <a href="/api/openapi.json" style="color:#1D6B5C">/api/openapi.json</a>.</p></body></html>`

// console serves the console's files. Its pages have addresses of their own,
// so whatever is no file is answered with the page that loads them.
func (s *server) console(c *gin.Context) {
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		writeProblem(c, problemOf(http.StatusNotFound, "no-such-address", "There is nothing here", c.Request.Method+" "+c.Request.URL.Path+" is not part of the interface: see /api/openapi.json"))
		return
	}
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		writeProblem(c, problemOf(http.StatusMethodNotAllowed, "method", "Not here", "pages can only be read"))
		return
	}
	if s.Console == nil {
		c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(noConsole))
		return
	}
	name := strings.TrimPrefix(path.Clean("/"+c.Request.URL.Path), "/")
	if info, err := fs.Stat(s.Console, name); err == nil && !info.IsDir() && name != "index.html" {
		if strings.HasPrefix(name, "assets/") { // named by their content
			c.Header("Cache-Control", "public, max-age=31536000, immutable")
		}
		c.FileFromFS(name, http.FS(s.Console))
		return
	}
	page, err := fs.ReadFile(s.Console, "index.html")
	if err != nil {
		c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(noConsole))
		return
	}
	c.Header("Cache-Control", "no-cache")
	c.Data(http.StatusOK, "text/html; charset=utf-8", page)
}
