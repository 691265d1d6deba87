package patch

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// What holes of pages name besides the fields and tables of the page itself.
const (
	holeTitle = "title"
	holeWhere = "row in"
	holeIndex = "index"
	holeToday = "today"
	noteOf    = "note of "
	allPages  = "Pages" // the table of all pages
)

var holeText = regexp.MustCompile(`\{([^{}]+)\}`)

// holeNames gives what the holes of a cell name.
func holeNames(c reading.Cell) (out []string) {
	if c.Formula || c.Value.Kind() != value.Text {
		return nil
	}
	for _, found := range holeText.FindAllStringSubmatch(c.Value.Raw(), -1) {
		out = append(out, strings.TrimSpace(found[1]))
	}
	return out
}

// pageHoles fills holes that name what stands on a page: {title}, a field by its name,
// {TABLE.COLUMN} once for each row of a table or of the log.
type pageHoles struct {
	fields map[string]outbound.Field
	lists  map[string]*outbound.List
	known  []string // all names there are
	hidden map[string]bool
}

// holes gives what fills the holes of a page, or with none those of a sheet for all pages.
func (m *pageMaker) holes(page *outbound.Page) *pageHoles {
	h := &pageHoles{fields: map[string]outbound.Field{}, lists: map[string]*outbound.List{}, hidden: map[string]bool{}}
	for _, name := range m.hidden {
		h.hidden[value.Fold(name)], h.hidden[value.Fold(allPages+"."+name)] = true, true
	}
	if page == nil {
		h.field(outbound.Field{Name: holeToday, Type: value.Type{Kind: value.Date}, Value: m.today})
		h.list(m.contents())
		return h
	}
	for _, p := range page.Parts {
		for _, f := range p.Fields {
			h.field(f)
		}
	}
	for i := range page.Lists {
		l := &page.Lists[i]
		h.list(l)
		h.field(outbound.Field{Name: l.Name, Value: value.OfText(l.Says)})
	}
	for _, f := range []outbound.Field{
		{Name: holeTitle, Value: value.OfText(page.Title)}, {Name: holeWhere, Value: value.OfText(page.Where)},
		{Name: holeToday, Type: value.Type{Kind: value.Date}, Value: m.today},
		{Name: holeIndex, Type: value.Type{Kind: value.Link}, Value: value.OfLink("#"+quoted(m.index)+"!A1", "All pages")},
	} {
		h.field(f)
	}
	return h
}

// contents lists the pages with all their fields.
func (m *pageMaker) contents() *outbound.List {
	l := &outbound.List{Name: allPages, Columns: []outbound.Column{{Name: holeTitle, Type: value.Type{Kind: value.Link}}, {Name: holeWhere}}}
	at := map[string]int{}
	for i := range m.pages {
		for _, p := range m.pages[i].Parts {
			for _, f := range p.Fields {
				if _, known := at[value.Fold(f.Name)]; !known {
					at[value.Fold(f.Name)] = len(l.Columns)
					l.Columns = append(l.Columns, outbound.Column{Name: f.Name, Type: f.Type})
				}
			}
		}
	}
	for i := range m.pages {
		row := make([]value.Value, len(l.Columns))
		row[0], row[1] = m.leadTo(i), value.OfText(m.pages[i].Where)
		for _, p := range m.pages[i].Parts {
			for _, f := range p.Fields {
				row[at[value.Fold(f.Name)]] = f.Value
			}
		}
		l.Rows = append(l.Rows, row)
	}
	return l
}

// field takes a field up; the first of a name is the one that is meant.
func (h *pageHoles) field(f outbound.Field) {
	if _, there := h.fields[value.Fold(f.Name)]; !there {
		h.fields[value.Fold(f.Name)] = f
		h.known = append(h.known, f.Name)
	}
}

func (h *pageHoles) list(l *outbound.List) {
	h.lists[value.Fold(l.Name)] = l
	for _, c := range l.Columns {
		h.known = append(h.known, l.Name+"."+c.Name)
	}
}

// Text fills a text whose holes name fields.
func (h *pageHoles) Text(text string) (value.Value, error) {
	return h.filled(text, func(name string) (value.Type, value.Value, error) {
		if f, known := h.fields[value.Fold(name)]; known {
			return f.Type, f.Value, nil
		}
		if of, is := strings.CutPrefix(strings.ToLower(name), noteOf); is {
			if f, known := h.fields[value.Fold(of)]; known {
				return value.Type{}, value.OfText(f.Note), nil
			}
		}
		if l, _ := h.column(name); l == nil && h.hidden[value.Fold(name)] {
			return value.Type{}, value.Value{}, nil
		}
		if near := value.Nearest(name, h.known); near != "" {
			return value.Type{}, value.Value{}, fmt.Errorf("nothing on the page is called %q: did you mean {%s}?", name, near)
		}
		return value.Type{}, value.Value{}, fmt.Errorf("nothing on the page is called %q: there are {%s}", name, strings.Join(h.known, "}, {"))
	})
}

// Row fills a text whose holes name columns of tables, among fields.
func (h *pageHoles) Row(text string) (func(int) value.Value, int, error) {
	rows := 0
	at := func(row int) (value.Value, error) {
		return h.filled(text, func(name string) (value.Type, value.Value, error) {
			list, col := h.column(name)
			if list == nil {
				if f, known := h.fields[value.Fold(name)]; known {
					return f.Type, f.Value, nil
				}
				_, err := h.Text("{" + name + "}")
				return value.Type{}, value.Value{}, err
			}
			rows = max(rows, len(list.Rows))
			if row < 0 || row >= len(list.Rows) {
				return list.Columns[col].Type, value.Value{}, nil
			}
			return list.Columns[col].Type, list.Rows[row][col], nil
		})
	}
	if _, err := at(-1); err != nil {
		return nil, 0, err
	}
	return func(row int) value.Value {
		v, _ := at(row) // its names were looked up before
		return v
	}, rows, nil
}

// column gives the column of a table that a name is of; nil: it is none.
func (h *pageHoles) column(name string) (*outbound.List, int) {
	for dot := range name { // names may have dots
		if name[dot] != '.' {
			continue
		}
		if l := h.lists[value.Fold(strings.TrimSpace(name[:dot]))]; l != nil {
			col := slices.IndexFunc(l.Columns, func(c outbound.Column) bool { return value.EqualText(c.Name, strings.TrimSpace(name[dot+1:])) })
			if col >= 0 {
				return l, col
			}
		}
	}
	return nil, 0
}

// filled fills the holes of a text: one that is the whole text keeps its type.
func (h *pageHoles) filled(text string, of func(name string) (value.Type, value.Value, error)) (value.Value, error) {
	var out strings.Builder
	last := 0
	for _, at := range holeText.FindAllStringSubmatchIndex(text, -1) {
		typ, v, err := of(strings.TrimSpace(text[at[2]:at[3]]))
		if err != nil {
			return value.Value{}, err
		}
		if at[0] == 0 && at[1] == len(text) {
			return v, nil
		}
		out.WriteString(text[last:at[0]])
		out.WriteString(v.Show(typ))
		last = at[1]
	}
	out.WriteString(text[last:])
	return value.OfText(out.String()), nil
}
