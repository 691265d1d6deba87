package xlsx

import (
	"bytes"
	"errors"
	"io"
	"strconv"
	"unicode/utf8"
)

// scanner gives the tags and texts of an XML part as they stand, in one pass
// over a buffer. It is what makes large sheets quick: a general decoder takes
// five times as long. It minds what such parts hold (prefixes, entities, CDATA,
// comments, either quote) and leaves namespaces and document types alone.
type scanner struct {
	r       io.Reader
	buf     []byte
	at, end int
	eof     bool

	name  []byte // of the tag, without its prefix
	attrs []byte // of an opening tag, as written
	text  []byte // of a text, as written
	plain bool   // the text is CDATA: it has no entities
	empty bool   // the opening tag closes itself
}

type token int

const (
	tagOpen token = iota
	tagClose
	textToken
)

var (
	errTag  = errors.New("a tag is cut short")
	errLong = errors.New("a tag or text is longer than can be read")
)

// longest is how long one tag or one text may be.
const longest = 4 << 20

func newScanner(r io.Reader) *scanner {
	return &scanner{r: r, buf: make([]byte, 64<<10)}
}

// fill reads more, keeping what has not been used.
func (s *scanner) fill() error {
	if s.eof {
		return io.EOF
	}
	if s.at > 0 {
		s.end = copy(s.buf, s.buf[s.at:s.end])
		s.at = 0
	}
	if s.end == len(s.buf) {
		if len(s.buf) >= longest {
			return errLong
		}
		s.buf = append(s.buf, make([]byte, len(s.buf))...)
	}
	n, err := s.r.Read(s.buf[s.end:])
	s.end += n
	switch {
	case n > 0:
		return nil
	case errors.Is(err, io.EOF):
		s.eof = true
		return io.EOF
	case err == nil:
		return s.fill()
	}
	return err
}

// until gives how far it is to the end of a mark, from where the scanner is.
func (s *scanner) until(mark string, from int) (int, error) {
	for {
		if i := bytes.Index(s.buf[s.at+from:s.end], []byte(mark)); i >= 0 {
			return from + i + len(mark), nil
		}
		from = max(from, s.end-s.at-len(mark)+1)
		if err := s.fill(); err != nil {
			if errors.Is(err, io.EOF) {
				err = errTag
			}
			return 0, err
		}
	}
}

// next gives the next tag or text; io.EOF after the last.
func (s *scanner) next() (token, error) {
	for {
		if s.at == s.end {
			if err := s.fill(); err != nil {
				return 0, err
			}
		}
		if s.buf[s.at] != '<' {
			return s.nextText()
		}
		for s.end-s.at < 9 {
			if err := s.fill(); errors.Is(err, io.EOF) {
				break
			} else if err != nil {
				return 0, err
			}
		}
		var err error
		n := 0
		switch head := s.buf[s.at:s.end]; {
		case bytes.HasPrefix(head, []byte("<!--")):
			n, err = s.until("-->", 4)
		case bytes.HasPrefix(head, []byte("<![CDATA[")):
			if n, err = s.until("]]>", 9); err == nil {
				s.text, s.plain = s.buf[s.at+9:s.at+n-3], true
				s.at += n
				return textToken, nil
			}
		case bytes.HasPrefix(head, []byte("<?")):
			n, err = s.until("?>", 2)
		case bytes.HasPrefix(head, []byte("<!")):
			n, err = s.until(">", 2)
		default:
			return s.nextTag()
		}
		if err != nil {
			return 0, err
		}
		s.at += n
	}
}

func (s *scanner) nextText() (token, error) {
	from := 0
	for {
		if i := bytes.IndexByte(s.buf[s.at+from:s.end], '<'); i >= 0 {
			s.text, s.plain = s.buf[s.at:s.at+from+i], false
			s.at += from + i
			return textToken, nil
		}
		from = s.end - s.at
		if err := s.fill(); errors.Is(err, io.EOF) {
			s.text, s.plain = s.buf[s.at:s.end], false
			s.at = s.end
			return textToken, nil
		} else if err != nil {
			return 0, err
		}
	}
}

func (s *scanner) nextTag() (token, error) {
	n, quote := 1, byte(0)
	for {
		for ; s.at+n < s.end; n++ {
			switch c := s.buf[s.at+n]; {
			case quote != 0:
				if c == quote {
					quote = 0
				}
			case c == '"' || c == '\'':
				quote = c
			case c == '>':
				tag := s.buf[s.at+1 : s.at+n]
				s.at += n + 1
				return s.tag(tag), nil
			}
		}
		if err := s.fill(); errors.Is(err, io.EOF) {
			return 0, errTag
		} else if err != nil {
			return 0, err
		}
	}
}

func (s *scanner) tag(tag []byte) token {
	kind := tagOpen
	if len(tag) > 0 && tag[0] == '/' {
		kind, tag = tagClose, tag[1:]
	}
	s.empty = len(tag) > 0 && tag[len(tag)-1] == '/'
	if s.empty {
		tag = tag[:len(tag)-1]
	}
	i := 0
	for i < len(tag) && !isSpace(tag[i]) {
		i++
	}
	s.name, s.attrs = local(tag[:i]), tag[i:]
	return kind
}

func isSpace(c byte) bool { return c == ' ' || c == '\n' || c == '\t' || c == '\r' }

func local(name []byte) []byte {
	return name[bytes.IndexByte(name, ':')+1:]
}

// eachAttr calls f with the name, without prefix, and the value of each
// attribute of the opening tag. Both are lent, not given.
func (s *scanner) eachAttr(f func(name, value []byte)) {
	b := s.attrs
	for {
		for len(b) > 0 && isSpace(b[0]) {
			b = b[1:]
		}
		eq := bytes.IndexByte(b, '=')
		if eq < 0 {
			return
		}
		name := bytes.TrimRight(b[:eq], " \n\t\r")
		b = bytes.TrimLeft(b[eq+1:], " \n\t\r")
		if len(b) == 0 || b[0] != '"' && b[0] != '\'' {
			return
		}
		end := bytes.IndexByte(b[1:], b[0])
		if end < 0 {
			return
		}
		f(local(name), b[1:1+end])
		b = b[end+2:]
	}
}

// attr gives an attribute of the opening tag, or "".
func (s *scanner) attr(name string) string {
	out := ""
	s.eachAttr(func(n, v []byte) {
		if string(n) == name {
			out = unescape(v)
		}
	})
	return out
}

// content gives the text up to the end of the element just opened, its
// children's texts too, those of the named children left out. With such, what
// stands between the children is layout, and only what t elements hold is text.
func (s *scanner) content(without string) (string, error) {
	if s.empty {
		return "", nil
	}
	var one string
	var out []byte
	texts := 0
	depth, skip, in := 1, 0, 0
	for depth > 0 {
		tok, err := s.next()
		if err != nil {
			if errors.Is(err, io.EOF) {
				err = errTag
			}
			return "", err
		}
		switch {
		case tok == tagOpen && !s.empty:
			depth++
			if in == 0 && string(s.name) == "t" {
				in = depth
			}
			if without != "" && skip == 0 && string(s.name) == without {
				skip = depth
			}
		case tok == tagClose:
			if depth == skip {
				skip = 0
			}
			if depth == in {
				in = 0
			}
			depth--
		case tok == textToken && skip == 0 && (without == "" || in > 0):
			text := string(s.text)
			if !s.plain {
				text = unescape(s.text)
			}
			if texts++; texts == 1 {
				one = text
			} else {
				if out == nil {
					out = append(out, one...)
				}
				out = append(out, text...)
			}
		}
	}
	if texts > 1 {
		return string(out), nil
	}
	return one, nil
}

// unescape gives a text with its entities and the escapes of workbooks
// (_x000D_) replaced by what they stand for.
func unescape(b []byte) string {
	if bytes.IndexByte(b, '&') < 0 && !bytes.Contains(b, []byte("_x")) && bytes.IndexByte(b, '\r') < 0 {
		return string(b)
	}
	out := make([]byte, 0, len(b))
	for i := 0; i < len(b); i++ {
		switch {
		case b[i] == '&':
			end := bytes.IndexByte(b[i:min(len(b), i+12)], ';')
			if r, ok := entity(b[i+1 : i+max(end, 1)]); ok {
				out = utf8.AppendRune(out, r)
				i += end
				continue
			}
			out = append(out, '&')
		case b[i] == '_' && i+6 < len(b) && b[i+1] == 'x' && b[i+6] == '_':
			if n, err := strconv.ParseUint(string(b[i+2:i+6]), 16, 16); err == nil {
				out = utf8.AppendRune(out, rune(n))
				i += 6
				continue
			}
			out = append(out, '_')
		case b[i] == '\r': // line ends are newlines in XML
			if i+1 >= len(b) || b[i+1] != '\n' {
				out = append(out, '\n')
			}
		default:
			out = append(out, b[i])
		}
	}
	return string(out)
}

func entity(name []byte) (rune, bool) {
	switch string(name) {
	case "amp":
		return '&', true
	case "lt":
		return '<', true
	case "gt":
		return '>', true
	case "quot":
		return '"', true
	case "apos":
		return '\'', true
	}
	if len(name) < 2 || name[0] != '#' {
		return 0, false
	}
	digits, base := name[1:], 10
	if digits[0] == 'x' {
		digits, base = digits[1:], 16
	}
	n, err := strconv.ParseInt(string(digits), base, 32)
	if err != nil || !utf8.ValidRune(rune(n)) {
		return 0, false
	}
	return rune(n), true
}
