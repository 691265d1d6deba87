package patch

import (
	"bytes"
	"fmt"
	"io"
	"maps"
	"path"
	"slices"
	"strconv"
	"strings"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// Pages makes a workbook of a template that has a sheet laid out for one page: that sheet
// is there once for each page, with all that stands on it, and its holes are filled. Other
// sheets of the template may list the pages; where none does, a sheet of the index's name
// is added that leads to each. Holes that name one of hidden are left blank: those are
// there, and not for whoever takes the workbook.
func Pages(w io.Writer, template []byte, index string, pages []outbound.Page, hidden []string, today value.Value) error {
	b, err := open(template)
	if err != nil {
		return err
	}
	m := &pageMaker{book: b, template: template, pages: pages, hidden: hidden, names: xlsx.SheetNames{}, today: today}
	if err := m.find(); err != nil {
		return err
	}
	if err := m.mayRepeat(); err != nil {
		return fmt.Errorf("sheet %s, which is to be there once for each page: %w", m.sheet.name, err)
	}
	m.name(index)
	if err := m.fillAll(); err != nil {
		return err
	}
	if err := m.listed(); err != nil {
		return err
	}
	return b.write(w)
}

// pageMaker makes a workbook of pages.
type pageMaker struct {
	book     *book
	template []byte
	pages    []outbound.Page
	hidden   []string
	today    value.Value
	sheet    sheetPart   // that is laid out for a page
	lists    []sheetPart // with holes about all pages
	names    xlsx.SheetNames
	sheets   []string // the names of the pages' sheets
	index    string   // the sheet that lists them
}

// find finds the sheet that is laid out for a page, and those that list pages.
func (m *pageMaker) find() error {
	grids, err := m.book.grids(func(string) bool { return true })
	if err != nil {
		return err
	}
	m.names[value.Fold(xlsx.DefinitionsSheet)] = true
	for _, s := range m.book.sheets {
		i := slices.IndexFunc(grids, func(g *reading.Grid) bool { return g.Name == s.name })
		ofPage, ofAll := false, false
		for row := 0; i >= 0 && row < grids[i].Height(); row++ {
			for col := range grids[i].Width(row) {
				for _, hole := range holeNames(grids[i].At(row, col)) {
					list, _, _ := strings.Cut(hole, ".")
					if value.EqualText(list, allPages) {
						ofAll = true
					} else if !value.EqualText(hole, holeToday) {
						ofPage = true
					}
				}
			}
		}
		switch {
		case ofAll:
			m.lists = append(m.lists, s)
		case ofPage && m.sheet.part != "":
			return fmt.Errorf("there are holes on sheet %s and on sheet %s: one sheet is laid out for a page, and others may list the pages with {%s.title}", m.sheet.name, s.name, allPages)
		case ofPage:
			m.sheet = s
			continue // its name is free
		}
		m.names[value.Fold(s.name)] = true
	}
	if m.sheet.part == "" {
		return fmt.Errorf("no sheet has holes to be filled: write for example {title} into a cell")
	}
	return nil
}

// mayRepeat refuses what cannot be there more than once.
func (m *pageMaker) mayRepeat() error {
	rels, err := m.book.relations(m.sheet.part)
	if err != nil {
		return err
	}
	for _, r := range rels {
		switch kind := path.Base(r.Type); kind {
		case "table":
			return fmt.Errorf("it has a defined table, whose name a workbook has once: turn it into plain cells")
		case "drawing":
			inner, err := m.book.relations(r.Target)
			if err != nil {
				return err
			}
			for _, x := range inner {
				if path.Base(x.Type) == "chart" || path.Base(x.Type) == "chartEx" {
					return fmt.Errorf("it has a chart, which would show the same cells on every page: move it to another sheet")
				}
			}
		case "hyperlink", "printerSettings", "comments", "vmlDrawing", "threadedComment":
		default:
			return fmt.Errorf("it has a part of the kind %s: take it off the sheet", kind)
		}
	}
	own := []string{strings.ToLower(m.sheet.name + "!"), strings.ToLower(quoted(m.sheet.name) + "!")}
	parts := []string{m.book.main}
	for _, s := range m.book.sheets {
		parts = append(parts, s.part)
	}
	for _, part := range append(parts, m.book.partsOf("xl/charts/chart")...) {
		text, err := m.book.read(part)
		if err != nil {
			return err
		}
		for t := range tags(text) {
			if t.closing || t.empty || !formulaTags[t.name] {
				continue
			}
			if _, local := t.attr(text, "localSheetId"); local {
				continue // goes with the sheet
			}
			says := strings.ToLower(content(text, t))
			if slices.ContainsFunc(own, func(s string) bool { return strings.Contains(says, s) }) {
				return fmt.Errorf("the formula %s refers to it by name: let formulas refer to cells of their own sheet, or of other sheets", content(text, t))
			}
		}
	}
	return nil
}

func quoted(sheet string) string { return "'" + strings.ReplaceAll(sheet, "'", "''") + "'" }

// notInLinks are marks that an address in the form LABEL <ADDRESS> cannot hold.
var notInLinks = strings.NewReplacer("<", "(", ">", ")")

// name gives every page's sheet its name.
func (m *pageMaker) name(index string) {
	if len(m.lists) > 0 {
		m.index = m.lists[0].name
	} else {
		m.index = m.names.Take(index)
	}
	for i := range m.pages {
		m.sheets = append(m.sheets, m.names.Take(notInLinks.Replace(m.pages[i].Title)))
	}
}

// made is the sheet of a page, filled, with the parts that belong to it.
type made struct {
	text  []byte
	rels  map[string]xlsx.Relation
	names map[string]string // what its own names mean
	book  *book
}

// fillAll fills the template's sheet for each page, each in a copy of the template, and puts
// the sheets into one workbook. Styles that a page adds are there for those that follow, so
// that their numbers hold in all.
func (m *pageMaker) fillAll() error {
	rels, err := m.book.relations(m.book.main)
	if err != nil {
		return err
	}
	styles := ""
	for _, r := range rels {
		if path.Base(r.Type) == "styles" {
			styles = r.Target
		}
	}
	var of []made
	var text []byte
	for i := range m.pages {
		b, err := open(m.template)
		if err != nil {
			return err
		}
		if text != nil {
			b.put(styles, text)
		}
		if err := b.fill(m.sheet, m.holes(&m.pages[i]), &Filled{}); err != nil {
			return fmt.Errorf("the page of %s: sheet %s: %w", m.pages[i].Title, m.sheet.name, err)
		}
		one := made{book: b, names: b.ownNames(m.sheet)}
		if one.text, err = b.read(m.sheet.part); err != nil {
			return err
		}
		if one.rels, err = b.relations(m.sheet.part); err != nil {
			return err
		}
		if text, err = b.read(styles); err != nil {
			return err
		}
		of = append(of, one)
	}
	if text != nil {
		m.book.put(styles, text)
	}
	return m.gather(of)
}

// gather puts the pages' sheets into the workbook: the first in the place of the template's,
// the others after all.
func (m *pageMaker) gather(of []made) error {
	before := m.book.sheetCount()
	added, err := m.book.addSheets(m.sheets[1:]...)
	if err != nil {
		return err
	}
	var types []typing
	for i, one := range of {
		s := m.sheet
		if i > 0 {
			s = added[i-1]
			one.text = notSelected(one.text)
		}
		m.book.put(s.part, one.text)
		if len(one.rels) > 0 {
			more, err := m.book.takeParts(s.part, one, i)
			if err != nil {
				return err
			}
			types = append(types, more...)
		}
	}
	if err := m.book.typed(types...); err != nil {
		return err
	}
	if err := m.rename(of, before); err != nil {
		return err
	}
	if err := m.book.dropChain(); err != nil {
		return err
	}
	return m.book.computeOnOpening()
}

// notSelected takes a sheet out of those that are chosen together when the workbook opens.
func notSelected(text []byte) []byte {
	for t := range tags(text) {
		if t.name == "sheetView" && !t.closing {
			if _, is := t.attr(text, "tabSelected"); is {
				return slices.Concat(text[:t.start], t.with(text, "tabSelected", "0"), text[t.end:])
			}
		}
		if t.name == "sheetData" {
			break
		}
	}
	return text
}

// takeParts takes over the parts that a page's sheet refers to, under names of their own.
func (b *book) takeParts(to string, one made, n int) ([]typing, error) {
	kinds, err := one.book.partKinds()
	if err != nil {
		return nil, err
	}
	var types []typing
	var copyOf func(owner string, rels map[string]xlsx.Relation) error
	copyOf = func(owner string, rels map[string]xlsx.Relation) error {
		var all strings.Builder
		all.WriteString(`<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n" + `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">`)
		for _, id := range slices.Sorted(maps.Keys(rels)) {
			r := rels[id]
			target, mode := r.Target, ""
			if r.Mode != "" {
				mode = ` TargetMode="` + escapeAttr(r.Mode) + `"`
			}
			if r.Mode != "External" {
				if path.Base(r.Type) != "image" { // one picture does for all
					ext := path.Ext(target)
					target = strings.TrimSuffix(target, ext) + "_" + strconv.Itoa(n+1) + ext
					text, err := one.book.read(r.Target)
					if err != nil {
						return err
					}
					b.put(target, text)
					if kind := kinds[folded(r.Target)]; kind != "" {
						types = append(types, typing{target, kind})
					}
					inner, err := one.book.relations(r.Target)
					if err != nil {
						return err
					}
					if len(inner) > 0 {
						if err := copyOf(target, inner); err != nil {
							return err
						}
					}
				}
				target = "/" + target
			}
			fmt.Fprintf(&all, `<Relationship Id="%s" Type="%s" Target="%s"%s/>`, escapeAttr(id), escapeAttr(r.Type), escapeAttr(target), mode)
		}
		b.put(relsOf(owner), []byte(all.String()+`</Relationships>`))
		return nil
	}
	return types, copyOf(to, one.rels)
}

// partKinds gives of what kind parts are that say so themselves, by folded name.
func (b *book) partKinds() (map[string]string, error) {
	text, err := b.read("[Content_Types].xml")
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	for t := range tags(text) {
		if t.name == "Override" && !t.closing {
			name, _ := t.attr(text, "PartName")
			out[folded(name)], _ = t.attr(text, "ContentType")
		}
	}
	return out, nil
}

// sheetCount gives how many sheets there are, those with a chart alone among them.
func (b *book) sheetCount() int {
	text, _ := b.read(b.main) // it was read before
	n := 0
	for t := range tags(text) {
		if t.name == "sheet" && !t.closing {
			n++
		}
	}
	return n
}

// place gives the how manyeth of all sheets one is, from 0.
func (b *book) place(s sheetPart) string {
	text, _ := b.read(b.main) // it was read before
	n := 0
	for t := range tags(text) {
		if t.name == "sheet" && !t.closing {
			if name, _ := t.attr(text, "name"); name == s.name {
				break
			}
			n++
		}
	}
	return strconv.Itoa(n)
}

// ownNames gives what names mean that are a sheet's own, its print area among them.
func (b *book) ownNames(s sheetPart) map[string]string {
	at := b.place(s)
	text, _ := b.read(b.main) // it was read before
	out := map[string]string{}
	for t := range tags(text) {
		if t.name == "definedName" && !t.closing && !t.empty {
			if of, _ := t.attr(text, "localSheetId"); of == at {
				name, _ := t.attr(text, "name")
				out[name] = content(text, t)
			}
		}
	}
	return out
}

// rename calls the first page's sheet by its name, and lets each page have the names that
// the template's sheet has for itself. before is how many sheets the template has.
func (m *pageMaker) rename(of []made, before int) error {
	text, err := m.book.read(m.book.main)
	if err != nil {
		return err
	}
	at := m.book.place(m.sheet)
	var out bytes.Buffer
	last := 0
	for t := range tags(text) {
		switch {
		case t.closing && t.name == "definedNames":
			out.Write(text[last:t.start])
			last = t.start
			for i, one := range of {
				place := at
				if i > 0 {
					place = strconv.Itoa(before + i - 1)
				}
				for _, name := range slices.Sorted(maps.Keys(one.names)) {
					means := strings.NewReplacer(quoted(m.sheet.name)+"!", quoted(m.sheets[i])+"!", m.sheet.name+"!", quoted(m.sheets[i])+"!").Replace(one.names[name])
					fmt.Fprintf(&out, `<%s name="%s" localSheetId="%s">%s</%[1]s>`, prefixed(text, t, "definedName"), escapeAttr(name), place, escapeText(means))
				}
			}
		case t.closing:
		case t.name == "sheet":
			if name, _ := t.attr(text, "name"); name == m.sheet.name {
				out.Write(text[last:t.start])
				out.Write(t.with(text, "name", escapeAttr(m.sheets[0])))
				last = t.end
			}
		case t.name == "definedName":
			if own, _ := t.attr(text, "localSheetId"); own == at {
				_, end := closeOf(text, t)
				out.Write(text[last:t.start])
				last = end
			}
		}
	}
	out.Write(text[last:])
	m.book.put(m.book.main, out.Bytes())
	for i := range m.book.sheets {
		if m.book.sheets[i].part == m.sheet.part {
			m.book.sheets[i].name = m.sheets[0]
		}
	}
	return nil
}

// listed fills the sheets that list the pages, or adds one.
func (m *pageMaker) listed() error {
	for _, s := range m.lists {
		if err := m.book.fill(s, m.holes(nil), &Filled{}); err != nil {
			return fmt.Errorf("sheet %s: %w", s.name, err)
		}
	}
	if len(m.lists) > 0 {
		return nil
	}
	s, err := m.book.addSheet(m.index)
	if err != nil {
		return err
	}
	p := newPlan(s)
	p.set(0, 0, cell{value: value.OfText("Page")})
	p.set(0, 1, cell{value: value.OfText("Row in")})
	for i := range m.pages {
		p.set(i+1, 0, cell{value: m.leadTo(i)})
		p.set(i+1, 1, cell{value: value.OfText(m.pages[i].Where)})
	}
	p.across = reading.Range{Bottom: len(m.pages), Right: 1}
	return m.book.carryOut(p)
}

// leadTo gives a link to the sheet of a page.
func (m *pageMaker) leadTo(i int) value.Value {
	return value.OfLink("#"+quoted(m.sheets[i])+"!A1", m.pages[i].Title)
}
