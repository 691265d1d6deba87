package patch

import (
	"archive/zip"
	"bytes"
	"regexp"
	"strconv"
	"strings"

	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// computedCell is a cell with a formula.
type computedCell struct {
	sheet, part string
	row, col    int
	text        string
	formula     *formula.Formula // nil where it is not understood
	bare        bool             // no result is stored
	stale       bool             // its result is not so any more
}

// results sees to the stored results of formulas that depend on what was written: they are
// computed anew where that is simple, and else taken out. Programs are asked to compute
// everything when they open the workbook. The points that charts keep follow.
func (b *book) results(p *plan) error {
	cells, err := b.computedCells()
	if err != nil {
		return err
	}
	names := b.namesOn(p)
	stale := markStale(cells, p, names)
	charts := b.partsOf("xl/charts/chart")
	if len(stale) == 0 && len(charts) == 0 {
		return nil
	}
	grids, err := b.grids(b.lookedAt(stale, charts))
	if err != nil {
		return err
	}
	if len(stale) > 0 {
		spots := make([]xlsx.Spot, len(stale))
		for i, c := range stale {
			spots[i] = xlsx.Spot{Sheet: c.sheet, Row: c.row, Col: c.col, Formula: c.formula}
		}
		values, ok := xlsx.Calculate(grids, b.date04, spots)
		by := map[string]map[string]*result{}
		for i, c := range stale {
			if by[c.part] == nil {
				by[c.part] = map[string]*result{}
			}
			by[c.part][reading.CellName(c.row, c.col)] = &result{values[i], ok[i]}
		}
		for part, of := range by {
			text, err := b.read(part)
			if err != nil {
				return err
			}
			b.put(part, withResults(text, of))
		}
		if err := b.computeOnOpening(); err != nil {
			return err
		}
	}
	for _, c := range charts {
		if err := b.points(c, grids, p, stale); err != nil {
			return err
		}
	}
	return nil
}

// lookedAt gives the sheets that formulas and charts look at.
func (b *book) lookedAt(cells []*computedCell, charts []string) func(string) bool {
	sheets := map[string]bool{}
	for _, c := range cells {
		sheets[value.Fold(c.sheet)] = true
		if c.formula != nil {
			c.formula.Reads(c.sheet, c.row, c.col, func(sheet string, _, _, _, _ int) { sheets[value.Fold(sheet)] = true })
		}
	}
	for _, part := range charts {
		text, err := b.read(part)
		if err != nil {
			continue
		}
		for t := range tags(text) {
			if t.name == "f" && !t.closing && !t.empty {
				if sheet, _, ok := reference(content(text, t)); ok {
					sheets[value.Fold(sheet)] = true
				}
			}
		}
	}
	return func(name string) bool { return sheets[value.Fold(name)] }
}

// grids reads some sheets of the workbook as it is now.
func (b *book) grids(only func(sheet string) bool) ([]*reading.Grid, error) {
	if len(b.changed) == 0 {
		return xlsx.ReadSheets(bytes.NewReader(b.whole), int64(len(b.whole)), only)
	}
	var now bytes.Buffer
	if err := b.writeBy(&now, zip.Store); err != nil {
		return nil, err
	}
	return xlsx.ReadSheets(bytes.NewReader(now.Bytes()), int64(now.Len()), only)
}

// computedCells gives all cells with formulas.
func (b *book) computedCells() ([]*computedCell, error) {
	var out []*computedCell
	for _, s := range b.sheets {
		if any, err := b.mentions(s.part, "<f", ":f>", ":f "); !any || err != nil {
			if err != nil {
				return nil, err
			}
			continue
		}
		text, err := b.read(s.part)
		if err != nil {
			return nil, err
		}
		if out, err = formulasOn(out, s, text); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func formulasOn(out []*computedCell, s sheetPart, text []byte) ([]*computedCell, error) {
	shared := map[string]sharedFormula{}
	row, col := -1, -1
	var c *computedCell
	data := false
	for t := range tags(text) {
		switch {
		case t.name == "sheetData":
			if data = !t.closing; !data {
				return out, nil
			}
		case !data || t.closing:
		case t.name == "row":
			row, col = row+1, -1
			if r, ok := t.attr(text, "r"); ok {
				if n, err := strconv.Atoi(r); err == nil {
					row = n - 1
				}
			}
		case t.name == "c":
			c = nil
			col++
			if ref, has := t.attr(text, "r"); has {
				var err error
				if row, col, err = reading.ParseCell(ref); err != nil {
					return nil, err
				}
			}
		case t.name == "f":
			own := content(text, t)
			kind, _ := t.attr(text, "t")
			if si, _ := t.attr(text, "si"); kind == "shared" {
				if own != "" {
					shared[si] = sharedFormula{own, row, col}
				} else if from, known := shared[si]; known {
					own = formula.Moved(from.text, row-from.row, col-from.col)
				}
			}
			c = &computedCell{sheet: s.name, part: s.part, row: row, col: col, text: own, bare: true}
			c.formula, _ = formula.Parse(own, row, col)
			out = append(out, c)
		case t.name == "v" && c != nil:
			c.bare = t.empty
		}
	}
	return out, nil
}

// namesOn gives the defined names and tables, folded, that mean cells of the plan's sheet.
func (b *book) namesOn(p *plan) []string {
	text, err := b.read(b.main)
	if err != nil {
		return nil
	}
	var out []string
	for t := range tags(text) {
		if t.name == "definedName" && !t.closing && strings.Contains(strings.ToLower(content(text, t)), strings.ToLower(p.sheet.name)) {
			name, _ := t.attr(text, "name")
			out = append(out, strings.ToLower(name))
		}
	}
	rels, err := b.relations(p.sheet.part)
	if err != nil {
		return out
	}
	for _, r := range rels {
		if !strings.HasSuffix(r.Type, "/table") {
			continue
		}
		if text, err := b.read(r.Target); err == nil {
			for t := range tags(text) {
				if t.name == "table" && !t.closing {
					name, _ := t.attr(text, "displayName")
					out = append(out, strings.ToLower(name)+"[")
				}
			}
		}
	}
	return append(out, "[@", "[#this row]")
}

// markStale finds the formulas whose results are not so any more: those that look at what
// was written, and those that look at them in turn.
func markStale(cells []*computedCell, p *plan, names []string) []*computedCell {
	var out []*computedCell
	known := map[string]map[[2]int]bool{} // stale cells by sheet
	stale := func(c *computedCell) {
		c.stale = true
		out = append(out, c)
		sheet := value.Fold(c.sheet)
		if known[sheet] == nil {
			known[sheet] = map[[2]int]bool{}
		}
		known[sheet][[2]int{c.row, c.col}] = true
	}
	touches := func(c *computedCell) (touches bool) {
		if c.formula == nil {
			text := strings.ToLower(c.text)
			for _, n := range names {
				touches = touches || strings.Contains(text, n)
			}
			return touches
		}
		c.formula.Reads(c.sheet, c.row, c.col, func(sheet string, top, left, bottom, right int) {
			if touches {
				return
			}
			if value.EqualText(sheet, p.sheet.name) && top <= p.across.Bottom && bottom >= p.across.Top && left <= p.across.Right && right >= p.across.Left {
				touches = true
				return
			}
			of := known[value.Fold(sheet)]
			if (bottom-top+1)*(right-left+1) < len(of) {
				for row := top; row <= bottom; row++ {
					for col := left; col <= right; col++ {
						touches = touches || of[[2]int{row, col}]
					}
				}
				return
			}
			for at := range of {
				touches = touches || top <= at[0] && at[0] <= bottom && left <= at[1] && at[1] <= right
			}
		})
		return touches
	}
	for again := true; again; {
		again = false
		for _, c := range cells {
			if c.stale {
				continue
			}
			if c.bare && p.rows[c.row] != nil && value.EqualText(c.sheet, p.sheet.name) || touches(c) {
				stale(c)
				again = true
			}
		}
	}
	return out
}

// result is what a formula comes to; not ok where it is not computed.
type result struct {
	value value.Value
	ok    bool
}

// withResults gives a sheet's part with other results of some formulas.
func withResults(text []byte, of map[string]*result) []byte {
	var out bytes.Buffer
	at := 0
	for t := range tags(text) {
		if t.closing || t.name != "c" || t.empty || t.start < at {
			continue
		}
		ref, _ := t.attr(text, "r")
		r := of[ref]
		if r == nil {
			continue
		}
		inner, end := closeOf(text, t)
		out.Write(text[at:t.start])
		out.Write(resultOf(text, t, inner, r))
		out.Write(text[inner:end])
		at = end
	}
	out.Write(text[at:])
	return out.Bytes()
}

var typeAttr = regexp.MustCompile(`\s(?:\w+:)?t=("[^"]*"|'[^']*')`)

// resultOf gives a cell up to its closing tag, with its formula and another result.
func resultOf(text []byte, c tag, inner int, r *result) []byte {
	open := typeAttr.ReplaceAll(text[c.start:c.end], nil)
	kind, shows := "", ""
	switch v := r.value; {
	case !r.ok:
	case v.Kind() == value.Text && strings.HasPrefix(v.Raw(), "#"):
		kind, shows = "e", cellText(v.Raw())
	case v.Kind() == value.Number:
		shows = v.String()
	case v.Kind() == value.Checkbox:
		kind, shows = "b", "0"
		if v.IsTrue() {
			shows = "1"
		}
	default:
		kind, shows = "str", cellText(v.String())
	}
	if kind != "" {
		open = append(bytes.Clone(open[:len(open)-1]), ` t="`+kind+`">`...)
	}
	out := bytes.Clone(open)
	for f := range tagsFrom(text[:inner], c.end) {
		if f.name == "f" && !f.closing {
			_, end := closeOf(text, f)
			out = append(out, text[f.start:end]...)
			break
		}
	}
	if r.ok {
		out = append(out, "<v>"+shows+"</v>"...)
	}
	return out
}
