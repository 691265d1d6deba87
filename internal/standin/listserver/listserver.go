// Package listserver is a stand-in for the services that keep lists elsewhere,
// for the demo and for tests: JSON over HTTP, paged with Link headers, by cursor
// or by number, with entity tags, writes that can be made once only, faults on
// demand, a feed of what changed, and a page on which somebody plays the other
// side.
//
// listserver.go keeps the lists, serve.go answers programs, page.go people.
package listserver

import (
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"sync"
	"time"
)

// Record is one record of a list, as JSON.
type Record map[string]any

// Settings say how a list behaves.
type Settings struct {
	Key   string // the field that names a record; "": id
	Paged string // link, cursor or page; "": link
	Token string // what a call must bear; "": none
	Revs  bool   // records say in the field rev how often they were changed
}

// Change is one change of a list.
type Change struct {
	Seq  int    `json:"seq"`
	Kind string `json:"kind"` // add, change, remove
	ID   string `json:"id"`
}

type list struct {
	Settings
	records []Record
	revs    map[string]int // by id: how often it was changed
	changes []Change
	trip    int // the page at which the list fails
	deny    int // how many of the next writes fail
	after   int // after how many more writes all fail; 0: none
	slow    time.Duration
}

// Server serves lists by name.
type Server struct {
	mu     sync.Mutex
	lists  map[string]*list
	once   map[string]answered // by idempotency key
	Writes int                 // writes that were carried out
}

type answered struct {
	status int
	body   any
}

// New gives a server of the lists.
func New(lists map[string][]Record) *Server {
	s := &Server{lists: map[string]*list{}, once: map[string]answered{}}
	for name, records := range lists {
		s.Put(name, records)
	}
	return s
}

// Configure says how a list behaves.
func (s *Server) Configure(name string, set Settings) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.list(name).Settings = set
}

// list gives a list, made where it is not there; the lock is held.
func (s *Server) list(name string) *list {
	if s.lists[name] == nil {
		s.lists[name] = &list{revs: map[string]int{}, records: []Record{}}
	}
	return s.lists[name]
}

// Put replaces a list.
func (s *Server) Put(name string, records []Record) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l := s.list(name)
	l.records = make([]Record, len(records))
	for i, r := range records {
		l.records[i] = maps.Clone(r)
		if l.Revs {
			l.records[i]["rev"] = l.revs[fmt.Sprint(r[l.key()])]
		}
	}
}

// Records gives a copy of a list.
func (s *Server) Records(name string) []Record {
	s.mu.Lock()
	defer s.mu.Unlock()
	var out []Record
	for _, r := range s.list(name).records {
		out = append(out, maps.Clone(r))
	}
	return out
}

// Set changes fields of a record, or adds it.
func (s *Server) Set(name, id string, fields Record) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l := s.list(name)
	if at := l.find(id); at >= 0 {
		l.change(at, fields)
		return
	}
	r := maps.Clone(fields)
	r[l.key()] = id
	l.add(r)
}

// Remove takes a record off a list.
func (s *Server) Remove(name, id string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l := s.list(name)
	if at := l.find(id); at >= 0 {
		l.remove(at)
	}
}

// FailAt makes a list answer with an error at a page (from 1); 0 heals it.
func (s *Server) FailAt(name string, page int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.list(name).trip = page
}

// FailWrites makes the next n writes to a list fail.
func (s *Server) FailWrites(name string, n int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.list(name).deny = n
}

// FailAfter lets n more writes to a list through and makes all others fail; 0
// heals it.
func (s *Server) FailAfter(name string, n int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l := s.list(name)
	if l.after = n + 1; n == 0 {
		l.after = 0
	}
}

// Slow makes a list take so long over each call.
func (s *Server) Slow(name string, by time.Duration) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.list(name).slow = by
}

func (l *list) key() string {
	if l.Key == "" {
		return "id"
	}
	return l.Key
}

func (l *list) find(id string) int {
	return slices.IndexFunc(l.records, func(r Record) bool { return fmt.Sprint(r[l.key()]) == id })
}

func (l *list) note(kind, id string) {
	l.revs[id]++
	if at := l.find(id); at >= 0 && l.Revs {
		l.records[at]["rev"] = l.revs[id]
	}
	l.changes = append(l.changes, Change{Seq: len(l.changes) + 1, Kind: kind, ID: id})
}

func (l *list) add(r Record) {
	l.records = append(l.records, r)
	l.note("add", fmt.Sprint(r[l.key()]))
}

// change merges fields into a record (RFC 7396).
func (l *list) change(at int, fields Record) {
	before := fmt.Sprint(l.records[at][l.key()])
	l.records[at] = merge(l.records[at], fields)
	l.note("change", before)
}

func (l *list) remove(at int) {
	id := fmt.Sprint(l.records[at][l.key()])
	l.records = slices.Delete(l.records, at, at+1)
	l.note("remove", id)
}

func merge(to, with map[string]any) map[string]any {
	out := maps.Clone(to)
	if out == nil {
		out = map[string]any{}
	}
	for k, v := range with {
		inner, nested := v.(map[string]any)
		switch {
		case v == nil:
			delete(out, k)
		case nested:
			old, _ := out[k].(map[string]any)
			out[k] = merge(old, inner)
		default:
			out[k] = v
		}
	}
	return out
}

func (l *list) etag(id string) string { return fmt.Sprintf(`"%d"`, l.revs[id]) }

func writeJSON(w http.ResponseWriter, status int, v any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(v)
}
