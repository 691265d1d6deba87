package patch

import (
	"bytes"
	"regexp"
	"strconv"
	"strings"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
)

// follower lets the XML of a part follow a growth.
type follower struct {
	grows formula.Growth
	sheet string // on which what has no sheet of its own stands; "": on none
}

// formulaTags are elements whose text is a formula.
var formulaTags = map[string]bool{"f": true, "formula": true, "formula1": true, "formula2": true, "definedName": true, "calculatedColumnFormula": true, "totalsRowFormula": true}

// onSheet reports whether ranges without a sheet are of the sheet that grew.
func (f *follower) onSheet() bool { return strings.EqualFold(f.sheet, f.grows.Sheet) }

// part gives a part's XML after the growth.
func (f *follower) part(text []byte) []byte {
	var out bytes.Buffer
	at := 0
	put := func(from, to int, with string) {
		out.Write(text[at:from])
		out.WriteString(with)
		at = to
	}
	for t := range tags(text) {
		if t.closing {
			continue
		}
		if formulaTags[t.name] && !t.empty {
			inner, _ := closeOf(text, t)
			if before := content(text, t); before != "" && bytes.IndexByte(text[t.end:inner], '<') < 0 {
				if after := f.grows.Follow(before, f.sheet); after != before {
					put(t.end, inner, escapeText(after))
				}
			}
		}
		if t.name == "sqref" && !t.empty && f.onSheet() { // of an extension: <xm:sqref>
			inner, _ := closeOf(text, t)
			put(t.end, inner, escapeText(f.ranges(content(text, t))))
		}
		if !f.onSheet() || at > t.start {
			continue
		}
		for _, name := range []string{"ref", "sqref"} {
			if from, to, ok := t.find(text, name); ok {
				if before, _ := t.attr(text, name); before != "" {
					if after := f.ranges(before); after != before {
						put(from, to, escapeAttr(after))
					}
				}
			}
		}
		if t.name == "brk" { // a page ends after a row
			if from, to, ok := t.find(text, "id"); ok {
				if n, err := strconv.Atoi(string(text[from:to])); err == nil {
					put(from, to, strconv.Itoa(f.grows.Row(n-1)+1))
				}
			}
		}
	}
	out.Write(text[at:])
	return out.Bytes()
}

// ranges gives a list of ranges after the growth.
func (f *follower) ranges(list string) string {
	parts := strings.Fields(list)
	for i, p := range parts {
		if r, err := reading.ParseRange(p); err == nil && !strings.Contains(p, "$") {
			r.Top, r.Bottom = f.grows.Range(r.Top, r.Bottom, r.Left, r.Right)
			parts[i] = r.String()
		}
	}
	return strings.Join(parts, " ")
}

// rest gives what comes after a sheet's rows, following the growth.
func rest(g formula.Growth, text []byte, sheet string) []byte {
	if g.Rows == 0 {
		return text
	}
	return (&follower{g, sheet}).part(text)
}

// formulas gives the content of a cell with its formula following. given may give another
// text for it, which is then no shared one any more.
func formulas(g formula.Growth, text []byte, sheet string, given func(text string, shared bool) (string, bool)) []byte {
	for t := range tags(text) {
		if t.closing || t.name != "f" {
			continue
		}
		kind, _ := t.attr(text, "t")
		own, plain := given(content(text, t), kind == "shared")
		inner, end := closeOf(text, t)
		after := g.Follow(own, sheet)
		var b bytes.Buffer
		b.Write(text[:t.start])
		switch {
		case plain:
			b.WriteString("<" + prefixed(text, t, "f") + ">" + escapeText(after) + "</" + prefixed(text, t, "f") + ">")
		case t.empty:
			b.Write(text[t.start:end])
		default:
			open := text[t.start:t.end]
			if ref, has := t.attr(text, "ref"); has {
				open = t.with(text, "ref", (&follower{g, g.Sheet}).ranges(ref))
			}
			b.Write(open)
			b.WriteString(escapeText(after))
			b.Write(text[inner:end])
		}
		b.Write(text[end:])
		return b.Bytes()
	}
	return text
}

// follow lets every other part that refers to the sheet follow: formulas on other sheets,
// names, defined tables, charts, notes, drawings, pivot tables.
func (b *book) follow(p *plan) error {
	if !p.moves() {
		return nil
	}
	for _, s := range b.sheets {
		if s.part == p.sheet.part {
			continue
		}
		if err := b.unshare(s.part, p.sheet.name); err != nil {
			return err
		}
		if err := b.followIn(s.part, &follower{p.grows, s.name}, "<f", "formula"); err != nil {
			return err
		}
	}
	if err := b.followNames(p); err != nil {
		return err
	}
	rels, err := b.relations(p.sheet.part)
	if err != nil {
		return err
	}
	for _, r := range rels {
		kind := r.Type[strings.LastIndexByte(r.Type, '/')+1:]
		switch kind {
		case "table", "comments", "threadedComment":
			err = b.followIn(r.Target, &follower{p.grows, p.sheet.name})
		case "drawing":
			err = b.followAnchors(r.Target, p)
		case "vmlDrawing":
			err = b.followShapes(r.Target, p)
		}
		if err != nil {
			return err
		}
	}
	for _, name := range append(b.partsOf("xl/charts/chart"), b.partsOf("xl/pivotcache/pivotcachedefinition")...) {
		if strings.Contains(strings.ToLower(name), "pivotcache") {
			err = b.followPivot(name, p)
		} else {
			err = b.followIn(name, &follower{p.grows, ""})
		}
		if err != nil {
			return err
		}
	}
	return b.dropChain()
}

// followIn lets one part follow; where it holds none of some words, it need not.
func (b *book) followIn(part string, f *follower, holds ...string) error {
	if len(holds) > 0 {
		if some, err := b.mentions(part, holds...); !some || err != nil {
			return err
		}
	}
	text, err := b.read(part)
	if err != nil || len(text) == 0 {
		return err
	}
	if after := f.part(text); !bytes.Equal(after, text) {
		b.put(part, after)
	}
	return nil
}

// followNames lets the workbook's defined names follow, print areas among them.
func (b *book) followNames(p *plan) error {
	return b.followIn(b.main, &follower{p.grows, ""}, "definedName")
}

var anchorRow = regexp.MustCompile(`(<(?:\w+:)?row>)(\d+)(</(?:\w+:)?row>)`)

// followAnchors lets pictures and charts on the sheet go down with the rows that they
// stand on.
func (b *book) followAnchors(part string, p *plan) error {
	text, err := b.read(part)
	if err != nil || len(text) == 0 || p.grows.Moves() == 0 {
		return err
	}
	b.put(part, anchorRow.ReplaceAllFunc(text, func(m []byte) []byte {
		sub := anchorRow.FindSubmatch(m)
		n, err := strconv.Atoi(string(sub[2]))
		if err != nil {
			return m
		}
		return []byte(string(sub[1]) + strconv.Itoa(p.grows.Row(n)) + string(sub[3]))
	}))
	return nil
}

var (
	shapeRow    = regexp.MustCompile(`(<x:Row>)(\d+)(</x:Row>)`)
	shapeAnchor = regexp.MustCompile(`(<x:Anchor>)([^<]*)(</x:Anchor>)`)
)

// followShapes lets the shapes of notes go along with their cells.
func (b *book) followShapes(part string, p *plan) error {
	text, err := b.read(part)
	if err != nil || len(text) == 0 || p.grows.Moves() == 0 {
		return err
	}
	row := func(s string) string {
		n, err := strconv.Atoi(strings.TrimSpace(s))
		if err != nil {
			return s
		}
		return strconv.Itoa(p.grows.Row(n))
	}
	text = shapeRow.ReplaceAllFunc(text, func(m []byte) []byte {
		sub := shapeRow.FindSubmatch(m)
		return []byte(string(sub[1]) + row(string(sub[2])) + string(sub[3]))
	})
	text = shapeAnchor.ReplaceAllFunc(text, func(m []byte) []byte {
		sub := shapeAnchor.FindSubmatch(m)
		parts := strings.Split(string(sub[2]), ",")
		for _, i := range []int{2, 6} {
			if i < len(parts) {
				parts[i] = " " + row(parts[i])
			}
		}
		return []byte(string(sub[1]) + strings.Join(parts, ",") + string(sub[3]))
	})
	b.put(part, text)
	return nil
}

// followPivot lets the source of a pivot table follow.
func (b *book) followPivot(part string, p *plan) error {
	text, err := b.read(part)
	if err != nil {
		return err
	}
	for t := range tags(text) {
		if t.closing || t.name != "worksheetSource" {
			continue
		}
		sheet, _ := t.attr(text, "sheet")
		ref, has := t.attr(text, "ref")
		if has && strings.EqualFold(sheet, p.sheet.name) {
			after := (&follower{p.grows, sheet}).ranges(ref)
			b.put(part, append(append(bytes.Clone(text[:t.start]), t.with(text, "ref", after)...), text[t.end:]...))
		}
		return nil
	}
	return nil
}
