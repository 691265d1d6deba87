// Package listserver is a stand-in for the services that keep lists elsewhere,
// for the demo and for tests: JSON over HTTP, paged with Link headers.
package listserver

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"sync"
)

// Record is one record of a list, as JSON.
type Record map[string]any

// Server serves lists by name.
type Server struct {
	mu    sync.Mutex
	lists map[string][]Record
	trip  map[string]int // the page at which a list fails
}

// New gives a server of the lists.
func New(lists map[string][]Record) *Server {
	return &Server{lists: lists, trip: map[string]int{}}
}

// Put replaces a list.
func (s *Server) Put(name string, records []Record) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.lists[name] = records
}

// FailAt makes a list answer with an error at a page (from 1); 0 heals it.
func (s *Server) FailAt(name string, page int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.trip[name] = page
}

const pageSize = 25

// Handler serves GET /NAME?page=N.
func (s *Server) Handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /{list}", func(w http.ResponseWriter, r *http.Request) {
		name := r.PathValue("list")
		s.mu.Lock()
		records, known := s.lists[name]
		trip := s.trip[name]
		s.mu.Unlock()
		if !known {
			http.Error(w, "there is no such list", http.StatusNotFound)
			return
		}
		n := 1
		if text := r.URL.Query().Get("page"); text != "" {
			var err error
			if n, err = strconv.Atoi(text); err != nil || n < 1 {
				http.Error(w, "page is a whole number from 1", http.StatusBadRequest)
				return
			}
		}
		if n == trip {
			http.Error(w, "out of order", http.StatusInternalServerError)
			return
		}
		from := min((n-1)*pageSize, len(records))
		to := min(from+pageSize, len(records))
		w.Header().Set("Content-Type", "application/json")
		if to < len(records) {
			w.Header().Set("Link", fmt.Sprintf("</%s?page=%d>; rel=\"next\"", name, n+1))
		}
		_ = json.NewEncoder(w).Encode(map[string]any{"records": records[from:to], "total": len(records)})
	})
	return mux
}
