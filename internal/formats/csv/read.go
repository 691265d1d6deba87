// Package csv reads and writes comma-separated files (RFC 4180) as they are
// really met: the separator, quoting and encoding are found by looking.
package csv

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// MaxSize is how many bytes a file may have.
const MaxSize = 256 << 20

// ErrNotText says that a file holds no text.
var ErrNotText = errors.New("this is not a text file")

// Read reads a file into one grid without a name.
func Read(r io.Reader) (*reading.Grid, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxSize+1))
	if err != nil {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	if len(raw) > MaxSize {
		return nil, fmt.Errorf("the file is larger than %d MB", MaxSize>>20)
	}
	text, err := decode(raw)
	if err != nil {
		return nil, err
	}
	c := csv.NewReader(bytes.NewReader(text))
	c.Comma, c.LazyQuotes, c.FieldsPerRecord, c.ReuseRecord = separator(text), true, -1, true
	g := &reading.Grid{Texts: true}
	lastLine := 0
	for {
		rec, err := c.Read()
		if errors.Is(err, io.EOF) {
			return g, nil
		}
		if err != nil {
			return nil, fmt.Errorf("reading the file: %w", err)
		}
		line, _ := c.FieldPos(0)
		row := g.Height() + max(0, line-lastLine-1) // the reader passes over empty lines
		g.Grow(row + 1)
		for i, s := range rec {
			g.Put(row, i, reading.Cell{Value: value.OfText(unguard(s))})
		}
		lastLine = line + breaks(rec)
	}
}

// breaks counts the line breaks within a record's quoted fields.
func breaks(rec []string) int {
	n := 0
	for _, s := range rec {
		n += bytes.Count([]byte(s), []byte{'\n'})
	}
	return n
}

// decode gives the text as UTF-8 without a mark.
func decode(raw []byte) ([]byte, error) {
	var enc encoding.Encoding
	switch {
	case bytes.HasPrefix(raw, []byte{0xEF, 0xBB, 0xBF}):
		return raw[3:], nil
	case bytes.HasPrefix(raw, []byte{0xFF, 0xFE}), bytes.HasPrefix(raw, []byte{0xFE, 0xFF}):
		enc = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case halfZero(raw, 1):
		enc = unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM)
	case halfZero(raw, 0):
		enc = unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM)
	case binary(raw):
		return nil, ErrNotText
	case utf8.Valid(raw):
		return raw, nil
	default:
		enc = charmap.Windows1252
	}
	text, err := enc.NewDecoder().Bytes(raw)
	if err != nil {
		return nil, fmt.Errorf("decoding the file: %w", err)
	}
	return text, nil
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
	sample := text[:min(len(text), 64<<10)]
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
