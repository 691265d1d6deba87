package patch

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
)

// errOddBook says that a workbook lacks what all have.
var errOddBook = errors.New("the workbook is not as workbooks are: save it anew from the program that made it")

// insert puts text into a part right before a tag, by its name: the closing one, if closing.
func insert(text []byte, name string, closing bool, with string) ([]byte, bool) {
	for t := range tags(text) {
		if t.name != name || t.closing != closing {
			continue
		}
		out := append(bytes.Clone(text[:t.start]), with...)
		return append(out, text[t.start:]...), true
	}
	return text, false
}

const emptySheet = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n" +
	`<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><dimension ref="A1"/><sheetData/></worksheet>`

// addSheet adds an empty sheet after the others.
func (b *book) addSheet(name string) (sheetPart, error) {
	added, err := b.addSheets(name)
	if err != nil {
		return sheetPart{}, err
	}
	return added[0], nil
}

// addSheets adds empty sheets after the others.
func (b *book) addSheets(names ...string) ([]sheetPart, error) {
	n := len(b.sheets) + 1
	var added []sheetPart
	var links []relation
	var types []typing
	for _, name := range names {
		for b.files[fmt.Sprintf("xl/worksheets/sheet%d.xml", n)] != nil {
			n++
		}
		s := sheetPart{name, fmt.Sprintf("xl/worksheets/sheet%d.xml", n)}
		n++
		b.put(s.part, []byte(emptySheet))
		added = append(added, s)
		links = append(links, relation{kind: "http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet", to: s.part})
		types = append(types, typing{s.part, "application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"})
	}
	ids, err := b.relateAll(b.main, links)
	if err != nil {
		return nil, err
	}
	if err := b.typed(types...); err != nil {
		return nil, err
	}
	text, err := b.read(b.main)
	if err != nil {
		return nil, err
	}
	most := 0
	prefix := ""
	for t := range tags(text) {
		if t.name == "sheet" && !t.closing {
			if v, ok := t.attr(text, "sheetId"); ok {
				if k, err := strconv.Atoi(v); err == nil {
					most = max(most, k)
				}
			}
			prefix = strings.TrimSuffix(prefixed(text, t, ""), "")
		}
	}
	var entries strings.Builder
	for i, s := range added {
		fmt.Fprintf(&entries, `<%ssheet name="%s" sheetId="%d" r:id="%s" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"/>`, prefix, escapeAttr(s.name), most+1+i, ids[i])
	}
	text, ok := insert(text, "sheets", true, entries.String())
	if !ok {
		return nil, errOddBook
	}
	b.put(b.main, text)
	b.sheets = append(b.sheets, added...)
	return added, nil
}

// relation is what a part refers to: another, or an address outside.
type relation struct {
	kind, to string
	external bool
}

// relate lets a part refer to another, or to an address outside, and gives the id.
func (b *book) relate(from, kind, to string, external bool) (string, error) {
	ids, err := b.relateAll(from, []relation{{kind, to, external}})
	if err != nil {
		return "", err
	}
	return ids[0], nil
}

// relateAll lets a part refer to others, and gives their ids.
func (b *book) relateAll(from string, to []relation) ([]string, error) {
	part := relsOf(from)
	text, err := b.read(part)
	if err != nil {
		return nil, err
	}
	if len(text) == 0 {
		text = []byte(`<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n" + `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"></Relationships>`)
	}
	rels, err := b.relations(from)
	if err != nil {
		return nil, err
	}
	n := len(rels) + 1
	var ids []string
	var all strings.Builder
	for _, r := range to {
		for rels[fmt.Sprintf("rId%d", n)].ID != "" {
			n++
		}
		ids = append(ids, fmt.Sprintf("rId%d", n))
		n++
		target, mode := "/"+r.to, ""
		if r.external {
			target, mode = r.to, ` TargetMode="External"`
		}
		fmt.Fprintf(&all, `<Relationship Id="%s" Type="%s" Target="%s"%s/>`, ids[len(ids)-1], r.kind, escapeAttr(target), mode)
	}
	entry := all.String()
	if i := bytes.LastIndex(text, []byte("/>")); bytes.HasSuffix(bytes.TrimSpace(text), []byte("/>")) && bytes.Count(text, []byte("<Relationship ")) == 0 {
		text = append(append(bytes.Clone(text[:i]), ">"+entry...), "</Relationships>"...)
		b.put(part, text)
		return ids, nil
	}
	text, ok := insert(text, "Relationships", true, entry)
	if !ok {
		return nil, errOddBook
	}
	b.put(part, text)
	return ids, nil
}

// typing says of what kind a part is.
type typing struct{ part, kind string }

// typed says of what kind new parts are.
func (b *book) typed(parts ...typing) error {
	text, err := b.read("[Content_Types].xml")
	if err != nil {
		return err
	}
	var entries strings.Builder
	for _, p := range parts {
		entries.WriteString(`<Override PartName="/` + p.part + `" ContentType="` + p.kind + `"/>`)
	}
	text, ok := insert(text, "Types", true, entries.String())
	if !ok {
		return errOddBook
	}
	b.put("[Content_Types].xml", text)
	return nil
}

// dropChain drops the order in which formulas were computed: programs make it anew.
func (b *book) dropChain() error {
	const chain = "xl/calcChain.xml"
	if b.files[folded(chain)] == nil {
		return nil
	}
	b.drop(chain)
	for _, part := range []string{"[Content_Types].xml", relsOf(b.main)} {
		text, err := b.read(part)
		if err != nil {
			return err
		}
		for t := range tags(text) {
			if t.closing || t.name != "Override" && t.name != "Relationship" {
				continue
			}
			of, _ := t.attr(text, map[string]string{"Override": "PartName", "Relationship": "Target"}[t.name])
			if strings.HasSuffix(strings.ToLower(of), "calcchain.xml") {
				_, end := closeOf(text, t)
				b.put(part, append(bytes.Clone(text[:t.start]), text[end:]...))
				break
			}
		}
	}
	return nil
}

// computeOnOpening asks programs to compute everything when they open the workbook.
func (b *book) computeOnOpening() error {
	text, err := b.read(b.main)
	if err != nil {
		return err
	}
	for t := range tags(text) {
		if t.name == "calcPr" && !t.closing {
			b.put(b.main, append(append(bytes.Clone(text[:t.start]), t.with(text, "fullCalcOnLoad", "1")...), text[t.end:]...))
			return nil
		}
	}
	for _, before := range []string{"oleSize", "customWorkbookViews", "pivotCaches", "smartTagPr", "smartTagTypes", "webPublishing", "fileRecoveryPr", "webPublishObjects", "extLst"} {
		if with, ok := insert(text, before, false, `<calcPr calcId="0" fullCalcOnLoad="1"/>`); ok {
			b.put(b.main, with)
			return nil
		}
	}
	with, ok := insert(text, "workbook", true, `<calcPr calcId="0" fullCalcOnLoad="1"/>`)
	if !ok {
		return errOddBook
	}
	b.put(b.main, with)
	return nil
}

// fewerTexts counts the uses of shared texts anew that cells have given up.
func (b *book) fewerTexts(n int) error {
	rels, err := b.relations(b.main)
	if err != nil {
		return err
	}
	for _, r := range rels {
		if !strings.HasSuffix(r.Type, "/sharedStrings") {
			continue
		}
		text, err := b.read(r.Target)
		if err != nil {
			return err
		}
		t, ok := nextTag(text, 0)
		count, has := t.attr(text, "count")
		was, bad := strconv.Atoi(count)
		if ok && has && bad == nil {
			b.put(r.Target, append(append(bytes.Clone(text[:t.start]), t.with(text, "count", strconv.Itoa(max(0, was-n)))...), text[t.end:]...))
		}
	}
	return nil
}

// name gives what a defined name means, and whether there is one.
func (b *book) name(of string) (string, bool) {
	text, err := b.read(b.main)
	if err != nil {
		return "", false
	}
	for t := range tags(text) {
		if t.name == "definedName" && !t.closing {
			if v, _ := t.attr(text, "name"); strings.EqualFold(v, of) {
				return content(text, t), true
			}
		}
	}
	return "", false
}

// setName gives a name that nobody sees another meaning.
func (b *book) setName(of, means string) error {
	text, err := b.read(b.main)
	if err != nil {
		return err
	}
	for t := range tags(text) {
		if t.name != "definedName" || t.closing {
			continue
		}
		if v, _ := t.attr(text, "name"); strings.EqualFold(v, of) {
			inner, _ := closeOf(text, t)
			b.put(b.main, append(append(bytes.Clone(text[:t.end]), escapeText(means)...), text[inner:]...))
			return nil
		}
	}
	entry := `<definedName name="` + escapeAttr(of) + `" hidden="1">` + escapeText(means) + `</definedName>`
	with, ok := insert(text, "definedNames", true, entry)
	if !ok {
		for _, before := range []string{"calcPr", "oleSize", "customWorkbookViews", "pivotCaches", "smartTagPr", "smartTagTypes", "webPublishing", "fileRecoveryPr", "webPublishObjects", "extLst"} {
			if with, ok = insert(text, before, false, "<definedNames>"+entry+"</definedNames>"); ok {
				break
			}
		}
	}
	if !ok {
		if with, ok = insert(text, "workbook", true, "<definedNames>"+entry+"</definedNames>"); !ok {
			return errOddBook
		}
	}
	b.put(b.main, with)
	return nil
}

// linked puts the links of a plan's cells into a sheet's part.
func (b *book) linked(p *plan, text []byte) ([]byte, error) {
	if len(p.links) == 0 {
		return text, nil
	}
	var entries strings.Builder
	for _, at := range slices.Sorted(maps.Keys(p.links)) {
		if place, within := strings.CutPrefix(p.links[at], "#"); within {
			fmt.Fprintf(&entries, `<hyperlink ref="%s" location="%s"/>`, at, escapeAttr(place))
			continue
		}
		id, err := b.relate(p.sheet.part, "http://schemas.openxmlformats.org/officeDocument/2006/relationships/hyperlink", p.links[at], true)
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(&entries, `<hyperlink ref="%s" r:id="%s" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"/>`, at, id)
	}
	text = dropLinks(text, p)
	if with, ok := insert(text, "hyperlinks", true, entries.String()); ok {
		return with, nil
	}
	all := "<hyperlinks>" + entries.String() + "</hyperlinks>"
	for _, before := range []string{"printOptions", "pageMargins", "pageSetup", "headerFooter", "rowBreaks", "colBreaks", "customProperties", "cellWatches", "ignoredErrors", "smartTags", "drawing", "legacyDrawing", "legacyDrawingHF", "picture", "oleObjects", "controls", "webPublishItems", "tableParts", "extLst"} {
		if with, ok := insert(text, before, false, all); ok {
			return with, nil
		}
	}
	with, ok := insert(text, "worksheet", true, all)
	if !ok {
		return nil, errOddBook
	}
	return with, nil
}

// dropLinks takes the links off cells that a plan gives others.
func dropLinks(text []byte, p *plan) []byte {
	var out bytes.Buffer
	at := 0
	for t := range tags(text) {
		if t.closing || t.name != "hyperlink" {
			continue
		}
		if ref, _ := t.attr(text, "ref"); p.links[ref] != "" {
			_, end := closeOf(text, t)
			out.Write(text[at:t.start])
			at = end
		}
	}
	out.Write(text[at:])
	return out.Bytes()
}
