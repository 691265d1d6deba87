// Package presence remembers who has which page open, and where in it they are. Nothing of
// it is stored: whoever is not heard of for a while is not there any more.
package presence

import (
	"cmp"
	"slices"
	"sync"
	"time"

	"example.org/kavlo/internal/sheet"
)

const (
	// Stay is how long somebody counts as there after they were last heard of.
	Stay = 50 * time.Second
	// MostPages is how many pages of one person are remembered.
	MostPages = 20
)

// Place is where in the workspace somebody is. What is 0 is not known.
type Place struct {
	Tracker sheet.TrackerID
	Tab     sheet.TabID
	Row     sheet.RowID
	Column  sheet.ColumnID
}

// Seat is one page that somebody has open.
type Seat struct {
	Person int64
	Name   string
	Page   string // known to the page alone
	Place
	heard time.Time
}

type page struct {
	person int64
	name   string
}

// Board holds all seats. Make one with New.
type Board struct {
	mu      sync.Mutex
	seats   map[page]Seat
	changed chan struct{}
}

// New makes a board with nobody on it.
func New() *Board {
	return &Board{seats: map[page]Seat{}, changed: make(chan struct{})}
}

// Put says that somebody is there, or somewhere else than before. Of somebody with too many
// pages the one that was silent for longest is forgotten.
func (b *Board) Put(now time.Time, s Seat) {
	b.mu.Lock()
	defer b.mu.Unlock()
	s.heard = now
	at := page{s.Person, s.Page}
	before, known := b.seats[at]
	b.seats[at] = s
	if !known {
		b.crowd(s.Person)
	}
	if !known || before.Place != s.Place || now.Sub(before.heard) >= Stay {
		b.tell()
	}
}

func (b *Board) crowd(person int64) {
	var oldest page
	n := 0
	for at, s := range b.seats {
		if at.person != person {
			continue
		}
		if n++; n == 1 || s.heard.Before(b.seats[oldest].heard) {
			oldest = at
		}
	}
	if n > MostPages {
		delete(b.seats, oldest)
	}
}

// Leave says that a page was closed.
func (b *Board) Leave(person int64, name string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if _, known := b.seats[page{person, name}]; known {
		delete(b.seats, page{person, name})
		b.tell()
	}
}

func (b *Board) tell() {
	close(b.changed)
	b.changed = make(chan struct{})
}

// Changed gives a channel that is closed as soon as anybody comes, goes or moves.
func (b *Board) Changed() <-chan struct{} {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.changed
}

// All gives who is there, by name.
func (b *Board) All(now time.Time) []Seat {
	b.mu.Lock()
	defer b.mu.Unlock()
	var out []Seat
	for at, s := range b.seats {
		if now.Sub(s.heard) >= Stay {
			delete(b.seats, at)
			continue
		}
		out = append(out, s)
	}
	slices.SortFunc(out, func(a, b Seat) int {
		return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Person, b.Person), cmp.Compare(a.Page, b.Page))
	})
	return out
}
