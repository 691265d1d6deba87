// Package tidy finds what is not right with the rows of a tracker, each with a mend where
// there is one: cells that do not fit their column, values that are there twice where they
// should be unique, blanks where something is required, one thing written in several ways,
// what is out of bounds, and impossible dates. Part of the core: no I/O and no clock.
package tidy

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Kind tells findings apart.
type Kind string

// The kinds of finding.
const (
	Odd        Kind = "odd"
	Doubled    Kind = "doubled"
	Blank      Kind = "blank"
	Spelling   Kind = "spelling"
	Bounds     Kind = "out of bounds"
	Impossible Kind = "impossible date"
)

// Finding is one thing that is not right, in some cells of a column.
type Finding struct {
	Kind   Kind
	Tab    *sheet.TabShape
	Column *sheet.Column
	Says   string
	Cells  []Cell // the first of them
	Count  int
	// Mended is how many of the cells have a mend.
	Mended int
}

// ID names a finding for as long as it says the same.
func (f *Finding) ID() string {
	key := ""
	if f.Kind == Spelling || f.Kind == Doubled {
		key = " " + shape(f.Cells[0].Before.String())
	}
	return fmt.Sprintf("%s %s %s%s", f.Kind, f.Tab.ID, f.Column.ID, key)
}

// Cell is a cell that is not right, with its mend.
type Cell struct {
	Row    sheet.RowID
	Label  string
	Before value.Value
	After  value.Value // blank: there is no mend
	Why    string
}

// MostCells is how many cells of a finding are given at most.
const MostCells = 10_000

// Look finds what is not right with a tracker's rows; now says which dates are impossible.
func Look(t *sheet.Tracker, form *local.Form, now time.Time, m *clause.Meter) ([]Finding, error) {
	var out []Finding
	for i := range t.Tabs {
		tab := &t.Tabs[i]
		for slot := range tab.Columns {
			col := &tab.Columns[slot]
			if col.Computed() {
				continue
			}
			if !m.Use(int64(t.Count(tab.ID))) {
				return nil, m.Err()
			}
			c := &column{t: t, tab: tab, col: col, slot: slot, form: form, now: now}
			c.look()
			out = append(out, c.found...)
		}
	}
	return out, m.Err()
}

// column is a column being looked through.
type column struct {
	t     *sheet.Tracker
	tab   *sheet.TabShape
	col   *sheet.Column
	slot  int
	form  *local.Form
	now   time.Time
	found []Finding
}

func (c *column) add(f Finding) {
	if len(f.Cells) == 0 {
		return
	}
	f.Tab, f.Column, f.Count = c.tab, c.col, len(f.Cells)
	for i := range f.Cells {
		if !f.Cells[i].After.IsBlank() {
			f.Mended++
		}
	}
	if len(f.Cells) > MostCells {
		f.Cells = f.Cells[:MostCells]
	}
	c.found = append(c.found, f)
}

func (c *column) look() {
	var odd, blank, bounds, impossible []Cell
	seen, words := map[string][]Cell{}, map[string][]Cell{}
	for r := range c.t.Rows(c.tab.ID) {
		v := r.At(c.slot)
		cell := Cell{Row: r.ID, Before: v}
		switch {
		case v.IsOdd():
			cell.After, cell.Why = c.mendOdd(v)
			odd = append(odd, cell)
			continue
		case v.IsBlank():
			if c.col.Required {
				cell.Why = "is blank"
				if c.col.Default != "" && !c.col.Moment() {
					cell.After, _ = value.Parse(c.col.Default, c.col.Type)
				}
				blank = append(blank, cell)
			}
			continue
		}
		if why := c.outside(v); why != "" {
			cell.Why = why
			bounds = append(bounds, cell)
		}
		if why := c.impossible(v); why != "" {
			cell.Why = why
			impossible = append(impossible, cell)
		}
		if c.col.Unique {
			key := value.Fold(v.String())
			seen[key] = append(seen[key], cell)
		} else if v.Kind() == value.Text {
			words[v.Raw()] = append(words[v.Raw()], cell)
		}
	}
	c.add(Finding{Kind: Odd, Says: "does not fit the column", Cells: odd})
	c.add(Finding{Kind: Blank, Says: "is blank, and is required", Cells: blank})
	c.add(Finding{Kind: Bounds, Says: "is out of bounds", Cells: bounds})
	c.add(Finding{Kind: Impossible, Says: "is a date that cannot be meant", Cells: impossible})
	c.doubled(seen)
	c.spellings(words)
	for i := range c.found {
		for j := range c.found[i].Cells {
			cell := &c.found[i].Cells[j]
			cell.Label = c.t.Label(c.t.Row(cell.Row))
		}
	}
}

// mendOdd gives what an odd cell could mean: what people who write so mean by it today, or
// the only near choice.
func (c *column) mendOdd(v value.Value) (value.Value, string) {
	why := "is not " + c.col.Type.Kind.Phrase()
	if m := c.form.Why(v.Raw(), c.col.Type); m != nil {
		why = m.Reason
		if m.Hint != "" {
			why += ": " + m.Hint
		}
	}
	return c.form.Fit(v, c.col.Type), why
}

func (c *column) outside(v value.Value) string {
	if c.col.Longest > 0 && len([]rune(v.Raw())) > c.col.Longest {
		return fmt.Sprintf("is longer than %d characters", c.col.Longest)
	}
	if low, err := value.Parse(c.col.Min, c.col.Type); err == nil && c.col.Min != "" && value.Compare(v, low) < 0 {
		return "is below " + c.col.Min
	}
	if high, err := value.Parse(c.col.Max, c.col.Type); err == nil && c.col.Max != "" && value.Compare(v, high) > 0 {
		return "is above " + c.col.Max
	}
	return ""
}

// Dates of long ago, or far ahead, are slips of the hand.
const (
	firstYear  = 1900
	yearsAhead = 50
)

func (c *column) impossible(v value.Value) string {
	if v.Kind() != value.Date && v.Kind() != value.DateTime {
		return ""
	}
	switch year := v.Time().Year(); {
	case year < firstYear:
		return fmt.Sprintf("is before %d", firstYear)
	case year > c.now.Year()+yearsAhead:
		return fmt.Sprintf("is more than %d years ahead", yearsAhead)
	}
	return ""
}

func (c *column) doubled(seen map[string][]Cell) {
	var keys []string
	for key, cells := range seen {
		if len(cells) > 1 {
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	for _, key := range keys {
		cells := seen[key]
		c.add(Finding{Kind: Doubled, Says: fmt.Sprintf("%q is there %d times, and should be unique", cells[0].Before.String(), len(cells)), Cells: cells})
	}
}

// spellings finds what is written in several ways: it differs in letter case, white space,
// accents or marks alone, or a rare spelling is one slip from a common one.
func (c *column) spellings(words map[string][]Cell) {
	if len(words) < 2 || len(words)*2 > c.t.Count(c.tab.ID) {
		return // mostly different: names, remarks
	}
	groups := map[string][]string{}
	for text := range words {
		groups[shape(text)] = append(groups[shape(text)], text)
	}
	c.slips(words, groups)
	keys := make([]string, 0, len(groups))
	for key := range groups {
		keys = append(keys, key)
	}
	slices.Sort(keys)
	for _, key := range keys {
		texts := groups[key]
		if len(texts) < 2 {
			continue
		}
		slices.SortFunc(texts, func(a, b string) int {
			return cmp.Or(cmp.Compare(len(words[b]), len(words[a])), cmp.Compare(untidy(a), untidy(b)), cmp.Compare(a, b))
		})
		best := value.OfText(strings.Join(strings.Fields(texts[0]), " "))
		f := Finding{Kind: Spelling, Says: fmt.Sprintf("%s: the same thing in %d spellings", quotedList(texts), len(texts))}
		for _, text := range texts {
			if text == best.Raw() {
				continue
			}
			for _, cell := range words[text] {
				cell.After, cell.Why = best, "most say "+best.Raw()
				f.Cells = append(f.Cells, cell)
			}
		}
		c.add(f)
	}
}

// slips joins rare spellings to the common one that they are one slip away from.
func (c *column) slips(words map[string][]Cell, groups map[string][]string) {
	count := map[string]int{}
	var common, rare []string
	for key, texts := range groups {
		for _, text := range texts {
			count[key] += len(words[text])
		}
	}
	for key, n := range count {
		switch {
		case n >= commonAt:
			common = append(common, key)
		case n <= rareAt && len([]rune(key)) >= slipLetters && !strings.ContainsFunc(key, unicode.IsDigit):
			rare = append(rare, key)
		}
	}
	if len(common) > mostCommon {
		return
	}
	slices.Sort(common)
	slices.Sort(rare)
	for _, key := range rare {
		var near []string
		for _, other := range common {
			if oneSlip(key, other) {
				near = append(near, other)
			}
		}
		if len(near) == 1 && count[near[0]] >= commonAt*count[key] {
			groups[near[0]] = append(groups[near[0]], groups[key]...)
			delete(groups, key)
		}
	}
}

const (
	commonAt    = 3 // times that a spelling is there to be common
	rareAt      = 2
	slipLetters = 5    // letters of a word in which a slip can be told
	mostCommon  = 2000 // spellings
)

// shape gives what is left of a text without letter case, white space, accents and marks.
func shape(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case unicode.Is(unicode.Mn, r), unicode.IsSpace(r), unicode.IsPunct(r):
			return -1
		}
		return r
	}, norm.NFKD.String(value.Fold(s)))
}

// untidy counts what speaks against a spelling.
func untidy(s string) int {
	n := 0
	if s != strings.Join(strings.Fields(s), " ") {
		n++
	}
	if s == strings.ToLower(s) || s == strings.ToUpper(s) {
		n++
	}
	return n
}

// oneSlip reports whether two texts differ by a letter that is missing, added, another, or
// changed places with its neighbour.
func oneSlip(a, b string) bool {
	x, y := []rune(a), []rune(b)
	if len(x) > len(y) {
		x, y = y, x
	}
	at := 0
	for at < len(x) && x[at] == y[at] {
		at++
	}
	switch len(y) - len(x) {
	case 0:
		if at == len(x) {
			return false
		}
		return slices.Equal(x[at+1:], y[at+1:]) ||
			at+1 < len(x) && x[at] == y[at+1] && x[at+1] == y[at] && slices.Equal(x[at+2:], y[at+2:])
	case 1:
		return slices.Equal(x[at:], y[at+1:])
	}
	return false
}

func quotedList(texts []string) string {
	shown := make([]string, 0, len(texts))
	for i, t := range texts {
		if i == 4 {
			shown = append(shown, "…")
			break
		}
		shown = append(shown, fmt.Sprintf("%q", t))
	}
	return strings.Join(shown, ", ")
}
