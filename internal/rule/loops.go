package rule

import (
	"slices"
	"strings"

	"example.org/kavlo/internal/sheet"
)

// Loop is a circle of rules that could wake one another, the first named again
// at the end.
type Loop []string

func (l Loop) String() string { return strings.Join(l, " -> ") }

// Loops finds the circles among rules that edits wake: what one writes wakes
// the next. Conditions are not looked into, so a circle may never turn; when it
// does, the limits stop it.
func Loops(rules []*Compiled) []Loop {
	wakes := make([][]int, len(rules))
	for i, a := range rules {
		for j, b := range rules {
			if couldWake(a, b) {
				wakes[i] = append(wakes[i], j)
			}
		}
	}
	var out []Loop
	seen := map[string]bool{}
	var path []int
	var follow func(int)
	follow = func(at int) {
		if k := slices.Index(path, at); k >= 0 {
			if loop := named(rules, path[k:]); !seen[loop.String()] {
				seen[loop.String()] = true
				out = append(out, loop)
			}
			return
		}
		path = append(path, at)
		for _, next := range wakes[at] {
			if next >= path[0] { // each circle is found from its first rule
				follow(next)
			}
		}
		path = path[:len(path)-1]
	}
	for i := range rules {
		path = path[:0]
		follow(i)
	}
	return out
}

func named(rules []*Compiled, circle []int) Loop {
	var loop Loop
	for _, i := range circle {
		loop = append(loop, rules[i].Name)
	}
	return append(loop, loop[0])
}

// couldWake reports whether what a writes can wake b.
func couldWake(a, b *Compiled) bool {
	if a.Paused || b.Paused || a.Watching || !b.Wake.ByEdit() {
		return false
	}
	for _, s := range a.Steps {
		columns, adds, tab := s.writes()
		if adds && b.Wake.Added && (tab == 0 || b.tabs[tab] != nil) {
			return true
		}
		if a == b { // a rule does not run again on a row for what it has done to the row itself
			continue
		}
		if len(columns) == 0 || tab != 0 && b.tabs[tab] == nil {
			continue
		}
		if b.Wake.Any || b.waitsFor(columns) || slices.ContainsFunc(columns, func(c sheet.ColumnID) bool { return slices.Contains(b.Wake.Edit, c) }) {
			return true
		}
	}
	return false
}

// writes gives the columns a step sets, whether it adds rows, and the tab it
// does so in; 0 where that depends on the row.
func (s Step) writes() (columns []sheet.ColumnID, adds bool, tab sheet.TabID) {
	of := func(cells []Cell) {
		for _, c := range cells {
			columns = append(columns, c.Column)
		}
	}
	switch {
	case s.Move != nil:
		of(s.Move.Set)
		columns = append(columns, s.Move.Clear...)
	case s.Copy != nil:
		adds = s.Copy.Tracker == ""
	case s.Put != nil:
		of(s.Put.Values)
		adds, tab = true, s.Put.Tab
	case s.Take != nil:
		adds, tab = true, s.Take.Tab
	case s.Write != nil, s.Mail != nil, s.Remove:
	default:
		of(s.Set)
	}
	return columns, adds, tab
}

// waitsFor reports whether a condition that the rule waits for takes any of some columns.
func (r *Compiled) waitsFor(columns []sheet.ColumnID) bool {
	return slices.ContainsFunc(columns, func(c sheet.ColumnID) bool { return r.takes[c] })
}

// Has reports whether a rule is one of the circle.
func (l Loop) Has(name string) bool { return slices.Contains(l, name) }

// Starts gives the names of the rules that what this one does may wake.
func (r *Compiled) Starts(rules []*Compiled) (names []string) {
	for _, other := range rules {
		if other.ID != r.ID && couldWake(r, other) {
			names = append(names, other.Name)
		}
	}
	return names
}
