package listserver

import (
	"encoding/json"
	"fmt"
	"hash/fnv"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"time"
)

const pageSize = 25

// Handler serves the lists: GET /NAME in pages, GET, PUT, PATCH and DELETE
// /NAME/ID, POST /NAME, GET /NAME/changes?since=SEQ, and a page for people at /.
func (s *Server) Handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /{$}", s.page)
	mux.HandleFunc("POST /edit/{list}", s.edit)
	mux.HandleFunc("GET /{list}", s.on(s.getPage))
	mux.HandleFunc("POST /{list}", s.on(s.write("add")))
	mux.HandleFunc("GET /{list}/changes", s.on(s.getChanges))
	mux.HandleFunc("GET /{list}/{id}", s.on(s.getOne))
	mux.HandleFunc("PUT /{list}/{id}", s.on(s.write("replace")))
	mux.HandleFunc("PATCH /{list}/{id}", s.on(s.write("change")))
	mux.HandleFunc("DELETE /{list}/{id}", s.on(s.write("remove")))
	return mux
}

// on finds the list and holds the lock while it is served.
func (s *Server) on(serve func(http.ResponseWriter, *http.Request, string, *list)) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		name := r.PathValue("list")
		s.mu.Lock()
		l := s.lists[name]
		slow := time.Duration(0)
		if l != nil {
			slow = l.slow
		}
		s.mu.Unlock()
		if slow > 0 {
			select {
			case <-time.After(slow):
			case <-r.Context().Done():
				return
			}
		}
		s.mu.Lock()
		defer s.mu.Unlock()
		switch {
		case l == nil:
			http.Error(w, "there is no such list", http.StatusNotFound)
		case l.Token != "" && r.Header.Get("Authorization") != "Bearer "+l.Token:
			http.Error(w, "say who you are", http.StatusUnauthorized)
		default:
			serve(w, r, name, l)
		}
	}
}

func (s *Server) getPage(w http.ResponseWriter, r *http.Request, name string, l *list) {
	mode, param := l.Paged, "page"
	if mode == "cursor" {
		param = "after"
	}
	n := 1
	if text := r.URL.Query().Get(param); text != "" {
		var err error
		if n, err = strconv.Atoi(text); err != nil || n < 1 {
			http.Error(w, param+" is a whole number from 1", http.StatusBadRequest)
			return
		}
	}
	if n == l.trip {
		http.Error(w, "out of order", http.StatusInternalServerError)
		return
	}
	from := min((n-1)*pageSize, len(l.records))
	to := min(from+pageSize, len(l.records))
	out := map[string]any{"records": l.records[from:to], "total": len(l.records)}
	if to < len(l.records) {
		switch mode {
		case "cursor":
			out["next"] = strconv.Itoa(n + 1)
		case "page":
		default:
			w.Header().Set("Link", fmt.Sprintf("</%s?page=%d>; rel=\"next\"", url.PathEscape(name), n+1))
		}
	}
	body, err := json.Marshal(out)
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	h := fnv.New64a()
	_, _ = h.Write(body)
	tag := fmt.Sprintf(`"%x"`, h.Sum64())
	w.Header().Set("ETag", tag)
	if r.Header.Get("If-None-Match") == tag {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	_, _ = w.Write(body)
}

func (s *Server) getOne(w http.ResponseWriter, r *http.Request, _ string, l *list) {
	at := l.find(r.PathValue("id"))
	if at < 0 {
		http.Error(w, "there is no such record", http.StatusNotFound)
		return
	}
	w.Header().Set("ETag", l.etag(r.PathValue("id")))
	writeJSON(w, http.StatusOK, l.records[at])
}

func (s *Server) getChanges(w http.ResponseWriter, r *http.Request, _ string, l *list) {
	since, _ := strconv.Atoi(r.URL.Query().Get("since"))
	writeJSON(w, http.StatusOK, map[string]any{"changes": l.changes[min(max(since, 0), len(l.changes)):]})
}

// write carries out one write: once for each idempotency key, and only where
// the version named by If-Match still holds.
func (s *Server) write(kind string) func(http.ResponseWriter, *http.Request, string, *list) {
	return func(w http.ResponseWriter, r *http.Request, _ string, l *list) {
		if l.after > 1 {
			l.after--
		} else if l.after == 1 {
			l.deny = 1
		}
		if l.deny > 0 {
			l.deny--
			w.Header().Set("Retry-After", "0")
			http.Error(w, "busy", http.StatusServiceUnavailable)
			return
		}
		key := r.Header.Get("Idempotency-Key")
		if done, again := s.once[key]; again && key != "" {
			writeJSON(w, done.status, done.body)
			return
		}
		var fields Record
		if kind != "remove" {
			d := json.NewDecoder(io.LimitReader(r.Body, 1<<20))
			d.UseNumber()
			if err := d.Decode(&fields); err != nil {
				http.Error(w, "the body is not a record: "+err.Error(), http.StatusBadRequest)
				return
			}
		}
		status, body := l.write(kind, r.PathValue("id"), r.Header.Get("If-Match"), fields)
		if status < 300 {
			s.Writes++
			if key != "" {
				s.once[key] = answered{status, body}
			}
		}
		writeJSON(w, status, body)
	}
}

func (l *list) write(kind, id, match string, fields Record) (int, any) {
	says := func(text string) map[string]string { return map[string]string{"detail": text} }
	if kind == "add" {
		id = fmt.Sprint(fields[l.key()])
		if fields[l.key()] == nil || id == "" {
			return http.StatusUnprocessableEntity, says("a record needs its " + l.key())
		}
		if l.find(id) >= 0 {
			return http.StatusConflict, says("there is a record " + id + " already")
		}
		l.add(fields)
		return http.StatusCreated, fields
	}
	at := l.find(id)
	switch {
	case at < 0:
		return http.StatusNotFound, says("there is no record " + id)
	case match != "" && match != l.etag(id):
		return http.StatusPreconditionFailed, says("the record has been changed")
	case kind == "remove":
		l.remove(at)
		return http.StatusOK, says("removed")
	case kind == "replace":
		l.records[at] = fields
		l.note("change", id)
	default:
		l.change(at, fields)
	}
	return http.StatusOK, l.records[at]
}
