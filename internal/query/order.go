package query

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// By is a column by which rows are sorted.
type By struct {
	Column sheet.ColumnID `json:"column"`
	Down   bool           `json:"down,omitempty"` // the greatest first
}

// Order is how rows are sorted: by the first, and where that is the same, by the next.
// Numbers and dates go by size, choices as their options stand, ticks after what is not
// ticked, text as dictionaries have it. Blank cells come last and odd ones before them,
// whichever way the rest goes. What is the same stays in the order of the tab.
type Order []By

// OrderError says what is wrong with the text of an order.
type OrderError struct{ Text, Why string }

func (e *OrderError) Error() string {
	return "order " + e.Text + ": " + e.Why + `: write columns and, where the greatest comes first, descending, as in "Due, Value descending"`
}

// ParseOrder reads columns of a tab, each with ascending or descending after it where
// that matters, separated by commas.
func ParseOrder(text string, tab *sheet.TabShape) (Order, error) {
	if strings.TrimSpace(text) == "" {
		return nil, nil
	}
	var out Order
	for _, part := range splitNames(text) {
		by, err := parseBy(part, tab)
		if err != nil {
			return nil, err
		}
		if slices.ContainsFunc(out, func(b By) bool { return b.Column == by.Column }) {
			return nil, &OrderError{text, "a column stands in it twice"}
		}
		out = append(out, by)
	}
	return out, nil
}

func parseBy(part string, tab *sheet.TabShape) (By, error) {
	name := strings.TrimSpace(part)
	if name == "" {
		return By{}, &OrderError{part, "a column is missing"}
	}
	if c, err := tab.Column(unbracketed(name)); err == nil { // it may be called so
		return By{Column: c.ID}, nil
	}
	by := By{}
	if cut := strings.LastIndexAny(name, " ]"); cut >= 0 {
		last := strings.ToLower(strings.TrimSpace(name[cut+1:]))
		switch last {
		case "descending", "desc", "down":
			by.Down = true
			name = strings.TrimSpace(name[:cut+1])
		case "ascending", "asc", "up":
			name = strings.TrimSpace(name[:cut+1])
		}
	}
	c, err := tab.Column(unbracketed(name))
	if err != nil {
		return by, err
	}
	by.Column = c.ID
	return by, nil
}

func unbracketed(name string) string {
	if strings.HasPrefix(name, "[") && strings.HasSuffix(name, "]") {
		return name[1 : len(name)-1]
	}
	return name
}

// splitNames parts a text at its commas, those in brackets apart.
func splitNames(text string) []string {
	var out []string
	depth, from := 0, 0
	for i, r := range text {
		switch {
		case r == '[':
			depth++
		case r == ']':
			depth--
		case r == ',' && depth <= 0:
			out = append(out, text[from:i])
			from = i + 1
		}
	}
	return append(out, text[from:])
}

// String writes the order as ParseOrder reads it, with the names of a tab's columns.
func (o Order) String(tab *sheet.TabShape) string {
	parts := make([]string, len(o))
	for i, by := range o {
		name := by.Column.String()
		if c := tab.ByID(by.Column); c != nil {
			if name = c.Name; strings.ContainsAny(name, ",") {
				name = "[" + name + "]"
			}
		}
		if by.Down {
			name += " descending"
		}
		parts[i] = name
	}
	return strings.Join(parts, ", ")
}

// rank puts blank cells last and odd ones before them.
const (
	rankValue = iota
	rankOdd
	rankBlank
)

// sortKey is a cell ready to be compared.
type sortKey struct {
	rank uint8
	n    int64  // of what has a size, in the column's own measure
	text string // collation key
}

// sorter compares the rows of a tab by columns.
type sorter struct {
	order Order
	keys  [][]sortKey // by column of the order, then by row
}

// sort gives rows in order. cell gives what a row holds, or works out, in a slot.
func (o Order) sort(tab *sheet.TabShape, rows []*sheet.Row, cell func(*sheet.Row, int) value.Value, m *clause.Meter) ([]*sheet.Row, error) {
	s := sorter{order: o}
	for _, by := range o {
		slot := tab.Slot(by.Column)
		if slot < 0 {
			return nil, &sheet.NotFound{What: "column", Name: by.Column.String(), In: tab.Name}
		}
		values := make([]value.Value, len(rows))
		for i, r := range rows {
			if !m.Use(1) {
				return nil, m.Err()
			}
			values[i] = cell(r, slot)
		}
		s.keys = append(s.keys, keysOf(values, tab.Columns[slot].Type))
	}
	at := make([]int32, len(rows))
	for i := range at {
		at[i] = int32(i) //nolint:gosec // a tab has fewer rows
	}
	slices.SortStableFunc(at, s.compare)
	out := make([]*sheet.Row, len(rows))
	for i, n := range at {
		out[i] = rows[n]
	}
	return out, nil
}

func (s *sorter) compare(a, b int32) int {
	for i, keys := range s.keys {
		x, y := &keys[a], &keys[b]
		if x.rank != y.rank {
			return cmp.Compare(x.rank, y.rank)
		}
		c := cmp.Compare(x.n, y.n)
		if c == 0 && x.text != y.text {
			c = strings.Compare(x.text, y.text)
		}
		if c != 0 {
			if s.order[i].Down {
				return -c
			}
			return c
		}
	}
	return 0
}

func keysOf(values []value.Value, t value.Type) []sortKey {
	keys := make([]sortKey, len(values))
	var texts *collator
	for i, v := range values {
		k := &keys[i]
		switch {
		case v.IsBlank():
			k.rank = rankBlank
		case v.IsOdd():
			k.rank = rankOdd
		case v.Kind() == value.Date, v.Kind() == value.DateTime:
			k.n = v.Seconds()
		case v.Kind() == value.Checkbox:
			if v.IsTrue() {
				k.n = 1
			}
		case v.Kind() == value.Number: // below
		case v.Kind() == value.Choice:
			k.n = placeOf(v, t)
		default:
			if texts == nil {
				texts = newCollator()
			}
			k.text = texts.key(shownText(v))
		}
	}
	numberKeys(values, keys)
	return keys
}

// shownText is what people see of a value: of a link its words.
func shownText(v value.Value) string {
	if _, label := v.Address(); label != "" {
		return label
	}
	return v.Raw()
}

// placeOf gives where the first option of a choice stands; one that is none comes last.
func placeOf(v value.Value, t value.Type) int64 {
	first := v.Options()[0]
	for i, o := range t.Options {
		if value.EqualText(o.Name, first) {
			return int64(i)
		}
	}
	return math.MaxInt64
}

// numberKeys ranks numbers: as whole numbers of the smallest unit among them where these
// are not too large, else by their order.
func numberKeys(values []value.Value, keys []sortKey) {
	var numbers []int
	scale := 0
	for i, v := range values {
		if v.Kind() == value.Number {
			numbers = append(numbers, i)
			scale = max(scale, v.Scale())
		}
	}
	for _, i := range numbers {
		n, ok := values[i].InUnits(scale)
		if !ok {
			slices.SortFunc(numbers, func(a, b int) int { return value.Compare(values[a], values[b]) })
			rank := int64(0)
			for j, at := range numbers {
				if j > 0 && value.Compare(values[numbers[j-1]], values[at]) != 0 {
					rank++
				}
				keys[at].n = rank
			}
			return
		}
		keys[i].n = n
	}
}

// collator makes keys by which texts sort as dictionaries have them (Unicode Technical
// Standard 10), without letter case.
type collator struct {
	by    *collate.Collator
	buf   collate.Buffer
	known map[string]string
}

func newCollator() *collator {
	return &collator{by: collate.New(language.Und, collate.IgnoreCase, collate.Numeric), known: map[string]string{}}
}

func (c *collator) key(text string) string {
	text = strings.TrimSpace(text)
	if key, ok := c.known[text]; ok {
		return key
	}
	c.buf.Reset()
	key := string(c.by.KeyFromString(&c.buf, text))
	c.known[text] = key
	return key
}
