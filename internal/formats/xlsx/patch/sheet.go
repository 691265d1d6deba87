package patch

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strconv"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// sheetWriter writes a sheet's part anew with a plan carried out in it.
type sheetWriter struct {
	*book
	*plan
	text   []byte
	out    pieces
	todo   []int // rows of the plan that are still to be written
	row    int   // the last row met, before the growth
	taken  int   // shared texts that cells give up
	shared map[string]sharedFormula
	model  *rowText // the row that new ones look like
	styles *styles
	spans  []cellSpan // of the row at hand
}

// sharedFormula is one that other cells take over, with where it stands.
type sharedFormula struct {
	text     string
	row, col int
}

// rowText is a row as it stands in the text.
type rowText struct {
	open  tag
	cells []cellSpan
}

// cellSpan is a cell as it stands in the text.
type cellSpan struct {
	col        int
	open       tag
	start, end int
	style      string
	formula    string // of the cell, shared ones written out
	hasFormula bool
	fromShared bool
}

var errNoData = errors.New("the sheet has no rows to write into: its part is damaged")

// writeSheet carries out a plan on its sheet.
func (b *book) writeSheet(p *plan) error {
	text, err := b.read(p.sheet.part)
	if err != nil {
		return err
	}
	st, err := b.openStyles()
	if err != nil {
		return err
	}
	w := &sheetWriter{book: b, plan: p, text: text, todo: p.sorted(), row: -1, shared: map[string]sharedFormula{}, styles: st}
	if err := w.whole(); err != nil {
		return fmt.Errorf("sheet %s: %w", p.sheet.name, err)
	}
	b.putPieces(p.sheet.part, &w.out)
	if len(p.links) > 0 {
		if text, err = b.read(p.sheet.part); err != nil {
			return err
		}
		if text, err = b.linked(p, text); err != nil {
			return err
		}
		b.put(p.sheet.part, text)
	}
	if w.taken > 0 {
		if err := b.fewerTexts(w.taken); err != nil {
			return err
		}
	}
	return st.save()
}

// whole writes the part: what stands before the rows, the rows, and what comes after.
func (w *sheetWriter) whole() error {
	at := 0
	for t := range tags(w.text) {
		if t.closing {
			continue
		}
		switch t.name {
		case "dimension":
			w.out.keep(w.text[at:t.start])
			w.out.write(t.with(w.text, "ref", w.dimension(t)))
			at = t.end
		case "sheetData":
			w.out.keep(w.text[at:t.start])
			end, err := w.data(t)
			if err != nil {
				return err
			}
			w.out.keep(rest(w.grows, w.text[end:], w.sheet.name))
			return nil
		}
	}
	return errNoData
}

func (w *sheetWriter) dimension(t tag) string {
	ref, _ := t.attr(w.text, "ref")
	r, err := reading.ParseRange(ref)
	if err != nil {
		r = w.across
	}
	r.Top, r.Bottom = w.grows.Range(r.Top, r.Bottom, r.Left, r.Right)
	for row, cells := range w.rows {
		for col := range cells {
			r = reading.Range{Top: min(r.Top, row), Left: min(r.Left, col), Bottom: max(r.Bottom, row), Right: max(r.Right, col)}
		}
	}
	return r.String()
}

// data writes the rows, and gives where they end in the text.
func (w *sheetWriter) data(open tag) (end int, err error) {
	if open.empty {
		w.out.keep(w.text[open.start : open.end-2])
		w.out.writeString(">")
		if err := w.before(reading.MaxRows); err != nil {
			return 0, err
		}
		w.out.writeString("</" + prefixed(w.text, open, "sheetData") + ">")
		return open.end, nil
	}
	w.out.keep(w.text[open.start:open.end])
	at := open.end
	for {
		t, ok := nextTag(w.text, at)
		if !ok {
			return 0, errNoData
		}
		if t.closing && t.name == "sheetData" {
			if err := w.before(reading.MaxRows); err != nil {
				return 0, err
			}
			w.out.keep(w.text[t.start:t.end])
			return t.end, nil
		}
		if t.closing || t.name != "row" {
			at = t.end
			continue
		}
		if len(w.todo) == 0 && !w.moves() { // the rest stays as it is
			rest := bytes.Index(w.text[t.start:], []byte("</"+prefixed(w.text, open, "sheetData")))
			if rest < 0 {
				return 0, errNoData
			}
			w.out.keep(w.text[t.start : t.start+rest])
			at = t.start + rest
			continue
		}
		if at, err = w.oneRow(t); err != nil {
			return 0, err
		}
	}
}

// prefixed gives an element's name with the prefix that another has.
func prefixed(text []byte, t tag, name string) string {
	full := text[t.start+1 : t.attrs]
	if colon := bytes.IndexByte(full, ':'); colon >= 0 {
		return string(full[:colon+1]) + name
	}
	return name
}

// oneRow writes a row of the sheet, with those of the plan that come before it.
func (w *sheetWriter) oneRow(t tag) (end int, err error) {
	row := w.row + 1
	if r, ok := t.attr(w.text, "r"); ok {
		n, err := strconv.Atoi(r)
		if err != nil || n < 1 || n > reading.MaxRows {
			return 0, fmt.Errorf("row number %q is out of bounds", r)
		}
		row = n - 1
	}
	w.row = row
	to := w.grows.Row(row)
	if err := w.before(to); err != nil {
		return 0, err
	}
	inner, end := closeOf(w.text, t)
	planned := len(w.todo) > 0 && w.todo[0] == to
	if planned {
		w.todo = w.todo[1:]
	}
	if !planned && !w.moves() && row != w.like {
		w.out.keep(w.text[t.start:end])
		return end, nil
	}
	r, err := w.parse(t, inner, row)
	if err != nil {
		return 0, err
	}
	if row == w.like {
		w.model = &rowText{r.open, slices.Clone(r.cells)}
	}
	w.writeRow(r, row, to, w.rows[to])
	return end, nil
}

// parse reads the cells of a row; they are the next one's from then on.
func (w *sheetWriter) parse(t tag, inner, row int) (*rowText, error) {
	r := &rowText{open: t, cells: w.spans[:0]}
	if t.empty {
		return r, nil
	}
	col := -1
	for at := t.end; at < inner; {
		c, ok := nextTag(w.text, at)
		if !ok || c.start >= inner {
			break
		}
		if c.closing || c.name != "c" {
			at = c.end
			continue
		}
		col++
		if ref, has := c.attr(w.text, "r"); has {
			_, at, err := reading.ParseCell(ref)
			if err != nil {
				return nil, err
			}
			col = at
		}
		x := cellSpan{col: col, open: c, start: c.start}
		x.style, _ = c.attr(w.text, "s")
		var cellInner int
		cellInner, x.end = closeOf(w.text, c)
		if !c.empty {
			w.parseFormula(&x, cellInner, row)
		}
		r.cells = append(r.cells, x)
		at = x.end
	}
	w.spans = r.cells
	return r, nil
}

// parseFormula reads a cell's formula; one that it takes over from another is written out.
func (w *sheetWriter) parseFormula(x *cellSpan, inner, row int) {
	for f := range tagsFrom(w.text, x.open.end) {
		if f.start >= inner {
			return
		}
		if f.closing || f.name != "f" {
			continue
		}
		x.hasFormula, x.formula = true, content(w.text, f)
		kind, _ := f.attr(w.text, "t")
		si, _ := f.attr(w.text, "si")
		if kind != "shared" {
			return
		}
		x.fromShared = true
		if x.formula != "" {
			w.shared[si] = sharedFormula{x.formula, row, x.col}
		} else if from, known := w.shared[si]; known {
			x.formula = formula.Moved(from.text, row-from.row, x.col-from.col)
		}
		return
	}
}

// before writes the rows of the plan that stand before a row and are not in the sheet yet.
func (w *sheetWriter) before(row int) error {
	for len(w.todo) > 0 && w.todo[0] < row {
		to := w.todo[0]
		w.todo = w.todo[1:]
		w.newRow(to, w.rows[to])
	}
	return nil
}

// newRow writes a row that was not there: it looks like the row above it in the block, and
// goes on with that row's formulas.
func (w *sheetWriter) newRow(row int, cells map[int]cell) {
	if w.model == nil {
		w.out.writeString(`<row r="` + strconv.Itoa(row+1) + `">`)
		for _, col := range sortedCols(cells) {
			w.cell(row, col, "", cells[col])
		}
		w.out.writeString("</row>")
		return
	}
	open := w.model.open.with(w.text, "r", strconv.Itoa(row+1))
	if w.model.open.empty {
		open = append(open[:len(open)-2], '>')
	}
	w.out.write(open)
	cols := map[int]cellSpan{}
	all := map[int]cell{}
	for _, x := range w.model.cells {
		cols[x.col], all[x.col] = x, cell{}
	}
	for col, c := range cells {
		all[col] = c
	}
	for _, col := range sortedCols(all) {
		c, planned := cells[col]
		x := cols[col]
		switch {
		case planned:
			w.cell(row, col, x.style, c)
		case x.hasFormula && x.formula != "":
			w.formula(row, col, x.style, formula.Moved(w.grows.Follow(x.formula, w.sheet.name), row-w.grows.Row(w.like), 0))
		case x.style != "":
			w.cell(row, col, x.style, cell{clear: true})
		}
	}
	w.out.writeString("</" + prefixed(w.text, w.model.open, "row") + ">")
}

// writeRow writes a row that was there, with what the plan puts into it.
func (w *sheetWriter) writeRow(r *rowText, row, to int, planned map[int]cell) {
	open := w.text[r.open.start:r.open.end]
	if row != to || len(planned) > 0 {
		open = r.open.with(w.text, "r", strconv.Itoa(to+1))
	}
	if r.open.empty {
		if len(planned) == 0 {
			w.out.write(open)
			return
		}
		open = append(bytes.Clone(open[:len(open)-2]), '>')
	}
	w.out.write(open)
	left := sortedCols(planned)
	put := func(before int) {
		for len(left) > 0 && left[0] < before {
			w.cell(to, left[0], "", planned[left[0]])
			left = left[1:]
		}
	}
	for _, x := range r.cells {
		put(x.col)
		if c, is := planned[x.col]; is {
			left = left[1:]
			w.taken += sharesText(w.text, x)
			w.cell(to, x.col, x.style, c)
			continue
		}
		w.copyCell(x, row, to)
	}
	put(reading.MaxColumns)
	w.out.writeString("</" + prefixed(w.text, r.open, "row") + ">")
}

func sharesText(text []byte, x cellSpan) int {
	if kind, _ := x.open.attr(text, "t"); kind == "s" {
		return 1
	}
	return 0
}

// copyCell writes a cell that stays, at its new place and with its formula following.
func (w *sheetWriter) copyCell(x cellSpan, row, to int) {
	if !w.moves() || row == to && !x.hasFormula {
		w.out.keep(w.text[x.start:x.end])
		return
	}
	w.out.write(x.open.with(w.text, "r", reading.CellName(to, x.col)))
	rest := w.text[x.open.end:x.end]
	if !x.hasFormula {
		w.out.write(rest)
		return
	}
	w.out.write(formulas(w.grows, rest, w.sheet.name, func(text string, shared bool) (string, bool) {
		if shared && x.fromShared && x.formula != "" {
			return x.formula, true
		}
		return text, false
	}))
}

// cell writes one cell.
func (w *sheetWriter) cell(row, col int, style string, c cell) {
	name := reading.CellName(row, col)
	if c.clear || c.value.Kind() == value.Blank {
		if style != "" {
			w.out.writeString(`<c r="` + name + `" s="` + style + `"/>`)
		}
		return
	}
	kind, text, date, err := w.shownAs(c.value)
	if err != nil { // it was asked for before
		kind, text = "inlineStr", ""
	}
	if date != 0 {
		style = w.styles.dated(style, date)
	}
	w.out.writeString(`<c r="` + name + `"`)
	if style != "" {
		w.out.writeString(` s="` + style + `"`)
	}
	switch kind {
	case "inlineStr":
		w.out.writeString(` t="inlineStr"><is><t xml:space="preserve">` + cellText(text) + `</t></is></c>`)
	case "":
		w.out.writeString(`><v>` + text + `</v></c>`)
	default:
		w.out.writeString(` t="` + kind + `"><v>` + text + `</v></c>`)
	}
}

func (w *sheetWriter) formula(row, col int, style, text string) {
	w.out.writeString(`<c r="` + reading.CellName(row, col) + `"`)
	if style != "" {
		w.out.writeString(` s="` + style + `"`)
	}
	w.out.writeString(`><f>` + escapeText(text) + `</f></c>`)
}

func sortedCols[T any](m map[int]T) []int {
	out := make([]int, 0, len(m))
	for col := range m {
		out = append(out, col)
	}
	for i := 1; i < len(out); i++ { // few, and mostly in order
		for j := i; j > 0 && out[j] < out[j-1]; j-- {
			out[j], out[j-1] = out[j-1], out[j]
		}
	}
	return out
}
