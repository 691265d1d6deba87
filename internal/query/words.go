package query

import (
	"strings"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// wanted are words that a row must hold, each in whichever cell, folded.
type wanted struct {
	tab   *sheet.TabShape
	words []string
	names map[string]string // what people are called, by address
	style value.Style       // how those who look write
	left  []bool
}

// words reads the words of a query, separated by spaces; what stands in quotation marks is
// one. nil for none.
func (q *Query) words(t *sheet.Tracker) *wanted {
	w := &wanted{tab: q.Tab, names: q.Names, style: value.Style{Dates: t.Dates, Numbers: t.Numbers}}
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
		v := found.program.Value(found.env, row, slot)
		if v.IsBlank() || v.Kind() == value.Checkbox {
			continue
		}
		text := value.Fold(w.text(v, w.tab.Columns[slot].Type))
		for i, word := range w.words {
			if w.left[i] && strings.Contains(text, word) {
				w.left[i] = false
				if left--; left == 0 {
					return true
				}
			}
		}
	}
	return false
}

// text is all by which a value may be found: of a link its words and its address, of a
// person the address and the name, of a date and a number how they are stored and shown.
func (w *wanted) text(v value.Value, t value.Type) string {
	switch v.Kind() {
	case value.Number, value.Date, value.DateTime:
		return v.String() + "\n" + v.ShowIn(t, w.style)
	case value.Person:
		text := v.Raw()
		for _, address := range v.People() {
			text += "\n" + w.names[address]
		}
		return text
	}
	return v.Raw()
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
