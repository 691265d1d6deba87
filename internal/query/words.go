package query

import (
	"strings"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// wanted are words that a row must hold, each in whichever cell, folded.
type wanted struct {
	tab    *sheet.TabShape
	words  []string
	names  map[string]string // what people are called, by address
	style  value.Style       // how those who look write
	months bool              // they write months by name
	left   []bool
}

// words reads the words of a query, separated by spaces; what stands in quotation marks is
// one. nil for none.
func (q *Query) words(t *sheet.Tracker) *wanted {
	w := &wanted{tab: q.Tab, names: q.Names, style: t.Style()}
	w.months = strings.Contains(w.style.Dates, "Mar")
	for i, part := range strings.Split(q.Words, `"`) {
		if i%2 == 1 {
			w.add(part)
			continue
		}
		for _, word := range strings.Fields(part) {
			w.add(word)
		}
	}
	if len(w.words) == 0 {
		return nil
	}
	w.left = make([]bool, len(w.words))
	return w
}

func (w *wanted) add(word string) {
	if word = value.Fold(word); word != "" {
		w.words = append(w.words, word)
	}
}

// in reports whether a row holds all the words.
func (w *wanted) in(found *Rows, row *sheet.Row) bool {
	left := len(w.words)
	for i := range w.left {
		w.left[i] = true
	}
	program.Look(found.env, row)
	for slot := range w.tab.Columns {
		v := row.At(slot)
		if w.tab.Columns[slot].Computed() {
			v = found.program.Value(found.env, row, slot)
		}
		if v.IsBlank() || v.Kind() == value.Checkbox {
			continue
		}
		for i, word := range w.words {
			if w.left[i] && w.holds(v, w.tab.Columns[slot].Type, word) {
				w.left[i] = false
				if left--; left == 0 {
					return true
				}
			}
		}
	}
	return false
}

// holds reports whether a value may be found by a word: a link by its words and its address,
// a person by the address and the name, a date and a number as they are stored and shown.
func (w *wanted) holds(v value.Value, t value.Type, word string) bool {
	switch v.Kind() {
	case value.Number, value.Date, value.DateTime:
		if !strings.ContainsAny(word, "0123456789") && (v.Kind() == value.Number || !w.months) {
			return false // spare the writing of what holds figures alone
		}
		return value.HoldsFolded(v.String(), word) || value.HoldsFolded(v.ShowIn(t, w.style), word)
	case value.Person:
		for _, address := range v.People() {
			if value.HoldsFolded(w.names[address], word) {
				return true
			}
		}
	}
	return value.HoldsFolded(v.Raw(), word)
}

// Both joins two conditions; either may be blank.
func Both(a, b string) string {
	switch {
	case strings.TrimSpace(a) == "":
		return b
	case strings.TrimSpace(b) == "":
		return a
	}
	return "(" + a + ") and (" + b + ")"
}
