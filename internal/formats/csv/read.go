// Package csv reads and writes comma-separated files (RFC 4180) as they are
// really met: the separator, quoting and encoding are found by looking.
package csv

import (
	"bufio"
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// Limits on what is read: more is refused, not read slowly.
const (
	MaxSize  = 256 << 20  // bytes
	MaxCells = 12_000_000 // of all rows, blank ones between others too
	MaxText  = 1 << 20    // bytes of one field
)

// ErrNotText says that a file holds no text.
var ErrNotText = errors.New("this is not a text file")

// Error says where a file asks for more than is read.
type Error struct {
	Line int
	Says string
}

func (e *Error) Error() string { return fmt.Sprintf("line %d: %s", e.Line, e.Says) }

// Read reads a file into one grid without a name.
func Read(r io.Reader) (*reading.Grid, error) { return ReadContext(context.Background(), r) }

// ReadContext does what Read does, a line at a time, and ends early, with the
// context's error, once the context is done.
func ReadContext(ctx context.Context, r io.Reader) (*reading.Grid, error) {
	text, err := decoded(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return nil, err
	}
	sample, err := text.Peek(sampled)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	var in io.Reader = text
	if bytes.IndexByte(sample, '\r') >= 0 && bytes.IndexByte(sample, '\n') < 0 { // as old programs end lines
		sample, in = bytes.ReplaceAll(sample, []byte{'\r'}, []byte{'\n'}), &breaker{text}
	}
	counted := &counter{r: in}
	c := csv.NewReader(counted)
	c.Comma, c.LazyQuotes, c.FieldsPerRecord, c.ReuseRecord = separator(sample), true, -1, true
	g := &reading.Grid{Texts: true}
	lastLine, cells, width := 0, 0, 0
	put := func(row int, rec []string) {
		g.Grow(row + 1)
		for i, s := range rec {
			g.Put(row, i, reading.Cell{Value: value.OfText(unguard(s))})
		}
	}
	for n := 0; ; n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		rec, err := c.Read()
		if errors.Is(err, io.EOF) {
			return g, nil
		}
		if err != nil {
			return nil, fmt.Errorf("reading the file: %w", err)
		}
		if counted.n > MaxSize {
			return nil, fmt.Errorf("the file is larger than %d MB", MaxSize>>20)
		}
		line, _ := c.FieldPos(0)
		row := g.Height() + max(0, line-lastLine-1) // the reader passes over empty lines
		if n == 0 {
			width = len(rec)
		}
		if lines := unclosed(rec, width, c.Comma, counted.endsOpen(c.InputOffset())); lines != nil {
			g.Doubts = append(g.Doubts, fmt.Sprintf("line %d: a quotation mark is not closed: the %d lines from there on were read as if there were none", line, len(lines)))
			lastLine = line + breaks(rec)
			for i, fields := range lines {
				cells += len(fields)
				if err := within(line+i, row+i, cells, fields); err != nil {
					return nil, err
				}
				put(row+i, fields)
			}
			continue
		}
		cells += len(rec) + row - g.Height()
		if err := within(line, row, cells, rec); err != nil {
			return nil, err
		}
		put(row, rec)
		lastLine = line + breaks(rec)
	}
}

// within holds a line to what is read of a file.
func within(line, row, cells int, rec []string) error {
	switch {
	case row >= reading.MaxRows:
		return &Error{line, fmt.Sprintf("the file has more than %d lines: part it into several", reading.MaxRows)}
	case len(rec) > reading.MaxColumns:
		return &Error{line, fmt.Sprintf("it has %d fields, and at most %d are read: is the right mark between them?", len(rec), reading.MaxColumns)}
	case cells > MaxCells:
		return &Error{line, fmt.Sprintf("the file has more than %d cells: part it into several", MaxCells)}
	}
	for _, s := range rec {
		if len(s) > MaxText {
			return &Error{line, fmt.Sprintf("one field holds %d bytes, and at most %d are read: is a quotation mark not closed?", len(s), MaxText)}
		}
	}
	return nil
}

// counter counts what is read, and minds the last byte that ends no line.
type counter struct {
	r    io.Reader
	n    int64
	last byte
	done bool // nothing is left
}

// endsOpen reports whether all has been read, and does not end in a quotation mark.
func (c *counter) endsOpen(used int64) bool { return c.done && used == c.n && c.last != '"' }

func (c *counter) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.n += int64(n)
	c.done = errors.Is(err, io.EOF)
	for i := n - 1; i >= 0; i-- {
		if p[i] != '\n' && p[i] != '\r' {
			c.last = p[i]
			break
		}
	}
	return n, err
}

// breaker gives line feeds for carriage returns.
type breaker struct{ r io.Reader }

func (b *breaker) Read(p []byte) (int, error) {
	n, err := b.r.Read(p)
	for i := range p[:n] {
		if p[i] == '\r' {
			p[i] = '\n'
		}
	}
	return n, err
}

// unclosed gives the lines that a field took into itself because its quotation mark is not
// closed, each parted by the mark between fields; nil where the record is as it should be.
// Such a record is shorter than others, or goes to the end of the file, which ends
// otherwise than in a quotation mark.
func unclosed(rec []string, width int, comma rune, endsOpen bool) [][]string {
	at := slices.IndexFunc(rec, func(s string) bool { return strings.Contains(s, "\n") })
	if at < 0 || width < 2 {
		return nil
	}
	lines := strings.Split(strings.TrimRight(rec[at], "\r\n"), "\n")
	mark := string(comma)
	inner, whole, opens := 0, 0, false
	for _, l := range lines[1:] {
		if strings.Contains(l, mark) {
			inner++
		}
		if strings.Count(l, mark) == width-1 {
			whole++
		}
		opens = opens || strings.HasPrefix(l, `"`) || strings.Contains(l, mark+`"`)
	}
	switch {
	case len(lines) < 2 || inner == 0:
		return nil
	case len(rec) < width:
	case endsOpen && at == len(rec)-1 && inner*2 > len(lines)-1:
	case opens && whole > 0: // another line's mark closed it
	default:
		return nil
	}
	out := [][]string{append(slices.Clone(rec[:at]), strings.Split(lines[0], mark)...)}
	for _, l := range lines[1:] {
		out = append(out, strings.Split(l, mark))
	}
	out[len(out)-1] = append(out[len(out)-1], rec[at+1:]...)
	for _, fields := range out {
		for i, s := range fields {
			fields[i] = strings.Trim(strings.TrimRight(s, "\r"), `"`)
		}
	}
	return out
}

// sampled is how much of a file is looked at to find out how it is written.
const sampled = 64 << 10

// breaks counts the line breaks within a record's quoted fields.
func breaks(rec []string) int {
	n := 0
	for _, s := range rec {
		n += bytes.Count([]byte(s), []byte{'\n'})
	}
	return n
}

// decoded gives the text as UTF-8 without a mark. What its beginning tells of
// its encoding goes for all of it; text that is no UTF-8 after all is read as
// Windows-1252 from there on.
func decoded(r io.Reader) (*bufio.Reader, error) {
	raw := bufio.NewReaderSize(r, sampled)
	head, err := raw.Peek(sampled)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	var as transform.Transformer
	switch {
	case bytes.HasPrefix(head, []byte{0xEF, 0xBB, 0xBF}):
		_, _ = raw.Discard(3) // they are there
		as = &lenient{}
	case bytes.HasPrefix(head, []byte{0xFF, 0xFE}), bytes.HasPrefix(head, []byte{0xFE, 0xFF}):
		as = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder()
	case halfZero(head, 1):
		as = unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewDecoder()
	case halfZero(head, 0):
		as = unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM).NewDecoder()
	case binary(head):
		return nil, ErrNotText
	case validBut(head):
		as = &lenient{}
	default:
		as = charmap.Windows1252.NewDecoder()
	}
	return bufio.NewReaderSize(transform.NewReader(raw, as), sampled), nil
}

// validBut reports whether a beginning is UTF-8, but for a character cut off at
// its end.
func validBut(head []byte) bool {
	for cut := range utf8.UTFMax {
		if cut <= len(head) && utf8.Valid(head[:len(head)-cut]) {
			return true
		}
	}
	return false
}

// lenient passes UTF-8 on as it is and reads as Windows-1252 whatever bytes are
// none.
type lenient struct{ transform.NopResetter }

func (*lenient) Transform(dst, src []byte, atEOF bool) (nDst, nSrc int, err error) {
	for nSrc < len(src) {
		if src[nSrc] < utf8.RuneSelf { // a run of plain letters at once
			n := 1
			for nSrc+n < len(src) && src[nSrc+n] < utf8.RuneSelf && n < len(dst)-nDst {
				n++
			}
			if len(dst)-nDst < n {
				return nDst, nSrc, transform.ErrShortDst
			}
			copy(dst[nDst:], src[nSrc:nSrc+n])
			nDst, nSrc = nDst+n, nSrc+n
			continue
		}
		r, size := utf8.DecodeRune(src[nSrc:])
		if r == utf8.RuneError && size == 1 {
			if !atEOF && !utf8.FullRune(src[nSrc:]) {
				return nDst, nSrc, transform.ErrShortSrc
			}
			r = charmap.Windows1252.DecodeByte(src[nSrc])
		}
		if len(dst)-nDst < utf8.UTFMax {
			return nDst, nSrc, transform.ErrShortDst
		}
		nDst += utf8.EncodeRune(dst[nDst:], r)
		nSrc += size
	}
	return nDst, nSrc, nil
}

// binary reports whether the beginning is of no text in any of the encodings: many
// zeros or, where it is no UTF-8, more than one control character in fifty bytes,
// spaces and breaks apart.
func binary(raw []byte) bool {
	sample, controls := raw[:min(len(raw), 4096)], 0
	for _, b := range sample {
		if b < ' ' && (b < '\t' || b > '\r') || b == 0x7F {
			controls++
		}
	}
	return bytes.Count(sample, []byte{0})*4 > len(sample) || controls*50 > len(sample) && !utf8.Valid(raw)
}

// halfZero reports whether nearly every second byte, from one on, is zero and
// the others are not: UTF-16 without a mark.
func halfZero(raw []byte, from int) bool {
	sample := raw[:min(len(raw), 4096)&^1]
	zeros, others := 0, 0
	for i := 0; i < len(sample); i += 2 {
		if sample[i+from] == 0 {
			zeros++
		}
		if sample[i+1-from] == 0 {
			others++
		}
	}
	return len(sample) >= 8 && zeros*10 >= len(sample)/2*8 && others == 0
}

// told gives the separator that the first line states, as some programs write
// it ("sep=;").
func told(text []byte) (rune, bool) {
	line, _, _ := bytes.Cut(text, []byte{'\n'})
	mark, ok := bytes.CutPrefix(bytes.TrimSpace(line), []byte("sep="))
	if !ok || len(mark) != 1 {
		return 0, false
	}
	return rune(mark[0]), true
}

// separator finds the mark that parts the most lines into the same number of
// fields, looking at the beginning of the file.
func separator(text []byte) rune {
	if mark, ok := told(text); ok {
		return mark
	}
	sample := text
	best, bestScore := ',', 0
	for _, mark := range []rune{',', ';', '\t', '|'} {
		c := csv.NewReader(bytes.NewReader(sample))
		c.Comma, c.LazyQuotes, c.FieldsPerRecord = mark, true, -1
		widths := map[int]int{}
		for range 200 {
			rec, err := c.Read()
			if err != nil {
				break
			}
			if len(rec) > 1 {
				widths[len(rec)]++
			}
		}
		for width, lines := range widths {
			if score := lines*100 + width; score > bestScore {
				best, bestScore = mark, score
			}
		}
	}
	return best
}
