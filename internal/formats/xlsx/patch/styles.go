package patch

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/value"
)

// styles are the looks of cells, by their number; one is added where a date would show as
// a bare number.
type styles struct {
	book    *book
	part    string
	text    []byte
	xfs     []string       // cellXfs, each as it stands in the text
	formats map[int]string // codes of number formats of the book's own
	from    int            // where cellXfs begin and end in the text
	to      int
	made    map[string]string // styles that show dates, by what they are
	added   bool
	more    []string // number formats added
}

func (b *book) openStyles() (*styles, error) {
	s := &styles{book: b, formats: map[int]string{}, made: map[string]string{}}
	rels, err := b.relations(b.main)
	if err != nil {
		return nil, err
	}
	for _, r := range rels {
		if strings.HasSuffix(r.Type, "/styles") {
			s.part = r.Target
		}
	}
	if s.part == "" {
		return s, nil
	}
	if s.text, err = b.read(s.part); err != nil {
		return nil, err
	}
	for t := range tags(s.text) {
		switch {
		case t.closing:
		case t.name == "numFmt":
			id, _ := t.attr(s.text, "numFmtId")
			code, _ := t.attr(s.text, "formatCode")
			if n, err := strconv.Atoi(id); err == nil {
				s.formats[n] = code
			}
		case t.name == "cellXfs":
			inner, end := closeOf(s.text, t)
			s.from, s.to = t.start, end
			for x := range tagsFrom(s.text[:inner], t.end) {
				if !x.closing && x.name == "xf" {
					_, xEnd := closeOf(s.text, x)
					s.xfs = append(s.xfs, string(s.text[x.start:xEnd]))
				}
			}
		}
	}
	return s, nil
}

// dated gives a style that shows dates and is otherwise as one that there is: that itself,
// where it shows them already.
func (s *styles) dated(style string, kind value.Kind) string {
	n, err := strconv.Atoi(style)
	if err != nil {
		n = 0
	}
	if len(s.xfs) == 0 || n >= len(s.xfs) {
		return style
	}
	base := []byte(s.xfs[n])
	t, ok := nextTag(base, 0)
	if !ok {
		return style
	}
	id, _ := t.attr(base, "numFmtId")
	format, _ := strconv.Atoi(id)
	if xlsx.ShowsDate(s.formats[format], format) {
		return style
	}
	key := fmt.Sprint(n, " ", kind)
	if made, known := s.made[key]; known {
		return made
	}
	code := map[value.Kind]string{value.Date: "yyyy-mm-dd", value.DateTime: "yyyy-mm-dd hh:mm"}[kind]
	at := 0
	for known, c := range s.formats {
		if c == code {
			at = known
		}
	}
	if at == 0 {
		at = 164
		for s.formats[at] != "" {
			at++
		}
		s.formats[at] = code
		s.more = append(s.more, fmt.Sprintf(`<numFmt numFmtId="%d" formatCode="%s"/>`, at, escapeAttr(code)))
	}
	open := t.with(base, "numFmtId", strconv.Itoa(at))
	of, _ := nextTag(open, 0)
	xf := string(of.with(open, "applyNumberFormat", "1")) + string(base[t.end:])
	if at = slices.Index(s.xfs, xf); at < 0 {
		at = len(s.xfs)
		s.xfs = append(s.xfs, xf)
		s.added = true
	}
	s.made[key] = strconv.Itoa(at)
	return s.made[key]
}

// save writes the styles that were added.
func (s *styles) save() error {
	if !s.added {
		return nil
	}
	t, _ := nextTag(s.text, s.from)
	var all bytes.Buffer
	all.Write(t.with(s.text, "count", strconv.Itoa(len(s.xfs))))
	for _, x := range s.xfs {
		all.WriteString(x)
	}
	all.WriteString("</" + prefixed(s.text, t, "cellXfs") + ">")
	text := append(append(bytes.Clone(s.text[:s.from]), all.Bytes()...), s.text[s.to:]...)
	if len(s.more) > 0 {
		text = withFormats(text, s.more)
	}
	s.book.put(s.part, text)
	return nil
}

// withFormats adds number formats to those of a book.
func withFormats(text []byte, more []string) []byte {
	for t := range tags(text) {
		switch {
		case t.closing:
		case t.name == "numFmts" && !t.empty:
			inner, _ := closeOf(text, t)
			n := bytes.Count(text[t.end:inner], []byte("formatCode"))
			open := t.with(text, "count", strconv.Itoa(n+len(more)))
			out := append(bytes.Clone(text[:t.start]), open...)
			out = append(append(out, text[t.end:inner]...), strings.Join(more, "")...)
			return append(out, text[inner:]...)
		case t.name == "fonts":
			out := append(bytes.Clone(text[:t.start]), fmt.Sprintf(`<numFmts count="%d">%s</numFmts>`, len(more), strings.Join(more, ""))...)
			return append(out, text[t.start:]...)
		}
	}
	return text
}
