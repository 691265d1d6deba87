package sheet

import (
	"slices"
	"strings"
)

// A definition may keep rows of its own, such as the pages of a dossier, in tabs that no
// list of tabs shows. Definition.Tabs says which; they stand among the shape's tabs with
// the definition's id, so that all that can be done to rows can be done to these.

// Settle brings the tabs that definitions keep for themselves into line with what the
// definitions say.
func (s *Shape) Settle() {
	own := slices.ContainsFunc(s.Tabs, func(t TabShape) bool { return t.Of != 0 })
	for i := range s.Definitions {
		own = own || len(s.Definitions[i].Tabs) > 0
	}
	if !own {
		return
	}
	s.Tabs = slices.DeleteFunc(slices.Clone(s.Tabs), func(t TabShape) bool { return t.Of != 0 })
	for i := range s.Definitions {
		d := &s.Definitions[i]
		for _, t := range d.Tabs {
			t.Of, t.Columns = d.ID, slices.Clone(t.Columns)
			s.Tabs = append(s.Tabs, t)
		}
	}
}

// unsettled gives the shape without the tabs that definitions keep for themselves.
func (s *Shape) unsettled() *Shape {
	if !slices.ContainsFunc(s.Tabs, func(t TabShape) bool { return t.Of != 0 }) {
		return s
	}
	out := *s
	out.Tabs = slices.DeleteFunc(slices.Clone(s.Tabs), func(t TabShape) bool { return t.Of != 0 })
	return &out
}

// Listed reports whether lists of tabs show a tab.
func (t *TabShape) Listed() bool { return t.Of == 0 }

// PageOrigin is the origin of what a definition keeps of a row: its page, or with of what
// belongs to that.
func PageOrigin(of DefinitionID, row RowID, what string) string {
	return "page " + of.String() + " " + row.String() + what
}

// PageOf gives the row that a page's origin tells of, and of which definition the page is.
func PageOf(origin string) (of DefinitionID, row RowID, is bool) {
	rest, is := strings.CutPrefix(origin, "page ")
	if !is {
		return 0, 0, false
	}
	def, id, _ := strings.Cut(rest, " ")
	id, _, _ = strings.Cut(id, "/")
	of, isDef := ParseDefinitionID(def)
	row, isRow := ParseRowID(id)
	return of, row, isDef && isRow
}
