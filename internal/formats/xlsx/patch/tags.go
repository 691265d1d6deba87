package patch

import (
	"bytes"
	"html"
	"iter"
	"strings"
)

// tag is a tag of a part, with where it stands in its text.
type tag struct {
	name       string // without its prefix
	start, end int    // the whole tag
	attrs      int    // where its attributes begin
	closing    bool   // </name>
	empty      bool   // <name/>
}

// tags gives the tags of a part one after the other, comments and the like left out.
func tags(text []byte) iter.Seq2[tag, int] { return tagsFrom(text, 0) }

func tagsFrom(text []byte, at int) iter.Seq2[tag, int] {
	return func(yield func(tag, int) bool) {
		for {
			t, ok := nextTag(text, at)
			if !ok || !yield(t, t.end) {
				return
			}
			at = t.end
		}
	}
}

func nextTag(text []byte, at int) (tag, bool) {
	for {
		i := bytes.IndexByte(text[at:], '<')
		if i < 0 {
			return tag{}, false
		}
		at += i
		rest := text[at:]
		var skip []byte
		switch {
		case bytes.HasPrefix(rest, []byte("<!--")):
			skip = []byte("-->")
		case bytes.HasPrefix(rest, []byte("<![CDATA[")):
			skip = []byte("]]>")
		case bytes.HasPrefix(rest, []byte("<?")):
			skip = []byte("?>")
		case bytes.HasPrefix(rest, []byte("<!")):
			skip = []byte(">")
		default:
			return readTag(text, at)
		}
		i = bytes.Index(rest, skip)
		if i < 0 {
			return tag{}, false
		}
		at += i + len(skip)
	}
}

func readTag(text []byte, at int) (tag, bool) {
	t := tag{start: at}
	i := at + 1
	if i < len(text) && text[i] == '/' {
		t.closing = true
		i++
	}
	from := i
	for i < len(text) && text[i] != '>' && text[i] != '/' && text[i] > ' ' {
		i++
	}
	name := text[from:i]
	if colon := bytes.IndexByte(name, ':'); colon >= 0 {
		name = name[colon+1:]
	}
	t.name, t.attrs = string(name), i
	for i < len(text) {
		switch c := text[i]; c {
		case '"', '\'':
			end := bytes.IndexByte(text[i+1:], c)
			if end < 0 {
				return tag{}, false
			}
			i += end + 2
		case '>':
			t.end, t.empty = i+1, text[i-1] == '/'
			return t, true
		default:
			i++
		}
	}
	return tag{}, false
}

// find gives where the value of an attribute stands, by its name without a prefix.
func (t tag) find(text []byte, name string) (from, to int, ok bool) {
	i := t.attrs
	for i < t.end {
		for i < t.end && (text[i] <= ' ' || text[i] == '/') {
			i++
		}
		start := i
		for i < t.end && text[i] != '=' && text[i] > ' ' && text[i] != '>' {
			i++
		}
		key := text[start:i]
		for i < t.end && text[i] != '"' && text[i] != '\'' && text[i] != '>' {
			i++
		}
		if i >= t.end || text[i] == '>' {
			return 0, 0, false
		}
		quote := text[i]
		from = i + 1
		end := bytes.IndexByte(text[from:t.end], quote)
		if end < 0 {
			return 0, 0, false
		}
		to, i = from+end, from+end+1
		if colon := bytes.IndexByte(key, ':'); colon >= 0 {
			key = key[colon+1:]
		}
		if string(key) == name {
			return from, to, true
		}
	}
	return 0, 0, false
}

// attr gives the value of an attribute.
func (t tag) attr(text []byte, name string) (string, bool) {
	from, to, ok := t.find(text, name)
	if !ok {
		return "", false
	}
	return html.UnescapeString(string(text[from:to])), true
}

// with gives the tag's text with another value for an attribute, which is added where it
// has none.
func (t tag) with(text []byte, name, value string) []byte {
	from, to, ok := t.find(text, name)
	value = escapeAttr(value)
	if ok {
		return splice(text[t.start:t.end], from-t.start, to-t.start, value)
	}
	end := t.end - 1
	if t.empty {
		end--
	}
	return splice(text[t.start:t.end], end-t.start, end-t.start, " "+name+`="`+value+`"`)
}

func splice(text []byte, from, to int, with string) []byte {
	out := make([]byte, 0, len(text)-(to-from)+len(with))
	out = append(out, text[:from]...)
	out = append(out, with...)
	return append(out, text[to:]...)
}

// closeOf gives where the element of an opening tag ends, after its closing tag.
func closeOf(text []byte, t tag) (inner, end int) {
	if t.empty {
		return t.end, t.end
	}
	depth := 1
	for n := range tagsFrom(text, t.end) {
		if n.name != t.name || n.empty {
			continue
		}
		if n.closing {
			if depth--; depth == 0 {
				return n.start, n.end
			}
			continue
		}
		depth++
	}
	return len(text), len(text)
}

// content gives the text of an element without tags in it.
func content(text []byte, t tag) string {
	inner, _ := closeOf(text, t)
	if t.empty {
		return ""
	}
	return html.UnescapeString(string(text[t.end:inner]))
}

var attrEscapes = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&quot;", "\n", "&#10;", "\r", "&#13;", "\t", "&#9;")

func escapeAttr(s string) string { return attrEscapes.Replace(s) }

var textEscapes = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", "\r", "&#13;")

func escapeText(s string) string { return textEscapes.Replace(s) }
