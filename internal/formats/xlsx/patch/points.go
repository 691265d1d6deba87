package patch

import (
	"bytes"
	"fmt"
	"strings"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// points writes anew the points that a chart keeps of cells that have changed.
func (b *book) points(part string, grids []*reading.Grid, p *plan, stale []*computedCell) error {
	text, err := b.read(part)
	if err != nil {
		return err
	}
	var out bytes.Buffer
	at, last := 0, ""
	for t := range tags(text) {
		if t.name == "f" && !t.closing && !t.empty {
			last = content(text, t)
		}
		if t.closing || t.start < at || t.name != "numCache" && t.name != "strCache" {
			continue
		}
		sheet, r, ok := reference(last)
		if !ok || !changed(sheet, r, p, stale) {
			continue
		}
		var g *reading.Grid
		for _, o := range grids {
			if value.EqualText(o.Name, sheet) {
				g = o
			}
		}
		if g == nil {
			continue
		}
		inner, end := closeOf(text, t)
		out.Write(text[at:t.end])
		out.WriteString(cacheOf(text[t.end:inner], text[t.start:t.end], g, r, t.name == "numCache", b.date04))
		out.Write(text[inner:end])
		at = end
	}
	if at > 0 {
		out.Write(text[at:])
		b.put(part, out.Bytes())
	}
	return nil
}

// reference reads what a chart draws: 'A sheet'!$A$1:$B$2.
func reference(ref string) (sheet string, r reading.Range, ok bool) {
	cut := strings.LastIndexByte(ref, '!')
	if cut < 0 {
		return "", r, false
	}
	sheet = ref[:cut]
	if len(sheet) > 1 && sheet[0] == '\'' {
		sheet = strings.ReplaceAll(sheet[1:len(sheet)-1], "''", "'")
	}
	r, err := reading.ParseRange(ref[cut+1:])
	return sheet, r, err == nil
}

func changed(sheet string, r reading.Range, p *plan, stale []*computedCell) bool {
	if value.EqualText(sheet, p.sheet.name) && r.Top <= p.across.Bottom && r.Bottom >= p.across.Top && r.Left <= p.across.Right && r.Right >= p.across.Left {
		return true
	}
	for _, c := range stale {
		if value.EqualText(sheet, c.sheet) && r.Top <= c.row && c.row <= r.Bottom && r.Left <= c.col && c.col <= r.Right {
			return true
		}
	}
	return false
}

// cacheOf gives the points of a range as a chart keeps them.
func cacheOf(before, open []byte, g *reading.Grid, r reading.Range, numbers, date04 bool) string {
	prefix := ""
	if i := bytes.IndexByte(open, ':'); i > 0 && i < bytes.IndexAny(open, " >") {
		prefix = string(open[1 : i+1])
	}
	var b strings.Builder
	for t := range tags(before) {
		if t.name == "formatCode" && !t.closing {
			_, end := closeOf(before, t)
			b.Write(before[t.start:end])
		}
	}
	count := (r.Bottom - r.Top + 1) * (r.Right - r.Left + 1)
	fmt.Fprintf(&b, `<%sptCount val="%d"/>`, prefix, count)
	i := 0
	for row := r.Top; row <= r.Bottom; row++ {
		for col := r.Left; col <= r.Right; col++ {
			if v := g.At(row, col).Value; !v.IsBlank() {
				text := v.String()
				if numbers {
					text = serialOf(v, date04)
				}
				if text != "" {
					fmt.Fprintf(&b, `<%spt idx="%d"><%sv>%s</%sv></%spt>`, prefix, i, prefix, escapeText(text), prefix, prefix)
				}
			}
			i++
		}
	}
	return b.String()
}

// serialOf gives a value as the number that a chart draws; "" for none.
func serialOf(v value.Value, date04 bool) string {
	epoch := int64(epoch1900)
	if date04 {
		epoch = epoch1904
	}
	switch v.Kind() {
	case value.Number:
		return v.String()
	case value.Date:
		return fmt.Sprint(v.Days() - epoch)
	case value.DateTime:
		return trimFloat(float64(v.Seconds())/86400 - float64(epoch))
	}
	return ""
}
