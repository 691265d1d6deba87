package csv_test

import (
	"context"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"example.org/kavlo/internal/formats/csv"
	"example.org/kavlo/internal/reading"
)

func TestSeparatorQuotingAndEncodingAreFoundByLooking(t *testing.T) {
	const text = "Name;Town\nSociété d’Île;Großhafen\n\"a;b\";\"two\nlines\"\n"
	utf16, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String(text)
	require.NoError(t, err)
	windows, err := charmap.Windows1252.NewEncoder().String(text)
	require.NoError(t, err)
	for name, raw := range map[string]string{"UTF-8": text, "with a mark": "\xEF\xBB\xBF" + text, "UTF-16": utf16, "Windows-1252": windows,
		"commas": strings.NewReplacer(";", ",", "a;b", "a;b").Replace(strings.Replace(text, "a;b", "a,b", 1)), "tabs": strings.ReplaceAll(strings.Replace(text, "\"a;b\"", "\"a\tb\"", 1), ";", "\t")} {
		t.Run(name, func(t *testing.T) {
			g, err := csv.Read(strings.NewReader(raw))
			require.NoError(t, err)
			require.Equal(t, 3, g.Height())
			assert.Equal(t, "Société d’Île", g.At(1, 0).Value.String())
			assert.Equal(t, "Großhafen", g.At(1, 1).Value.String())
			assert.Equal(t, "two\nlines", g.At(2, 1).Value.String())
			assert.Equal(t, 2, g.Width(2))
		})
	}
}

func TestEmptyLinesKeepTheirPlace(t *testing.T) {
	g, err := csv.Read(strings.NewReader("Title\n\nA,B\n1,2\n"))
	require.NoError(t, err)
	require.Equal(t, 4, g.Height())
	assert.Zero(t, g.Width(1))
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"", "a,b\n1,2", "\"", "\xFF\xFEa", "a;b\r\n;;;\r\n", "\x00"} {
		f.Add(s)
	}
	f.Fuzz(func(_ *testing.T, s string) {
		_, _ = csv.Read(strings.NewReader(s)) // must only not panic
	})
}

// What asks for more than is read is refused at once, where it does.
func TestFilesThatAskForTooMuchAreRefused(t *testing.T) {
	for says, text := range map[string]io.Reader{
		"line 1: it has 1000000 fields, and at most 16384 are read": strings.NewReader(strings.Repeat("a,", 999_999) + "a\n1,2\n"),
		"the file has more than 1048576 lines":                      io.MultiReader(strings.NewReader("A\n"), io.LimitReader(endless("x\n"), 16<<20)),
		"line 2097153: the file has more than 1048576 lines":        strings.NewReader(strings.Repeat("\n", 2<<20) + "a\n"),
		"the file has more than 12000000 cells":                     io.LimitReader(endless(strings.Repeat(",", 1_000)+"\n"), 64<<20),
		"line 2: one field holds":                                   strings.NewReader("A,B\n\"" + strings.Repeat("x", 2<<20) + "\",2\n"),
		"is a quotation mark not closed?":                           strings.NewReader("A,B\n\"" + strings.Repeat("x\n", 1<<20)),
	} {
		_, err := csv.Read(text)
		require.ErrorContains(t, err, says)
	}
	ctx, leave := context.WithCancel(t.Context())
	leave()
	_, err := csv.ReadContext(ctx, strings.NewReader("a,b\n"))
	require.ErrorIs(t, err, context.Canceled)
}

// endless gives a text over and over.
func endless(text string) io.Reader { return &repeating{text: text} }

type repeating struct {
	text string
	at   int
}

func (r *repeating) Read(p []byte) (int, error) {
	n := copy(p, r.text[r.at:])
	r.at = (r.at + n) % len(r.text)
	return n, nil
}

// What is no UTF-8 after all, far into a file, is read as it is mostly meant.
func TestEncodingsAreReadOnTheWay(t *testing.T) {
	far := strings.Repeat("plain text,é,1\n", 10_000)
	g, err := csv.Read(strings.NewReader("A,B,C\n" + far + "caf\xe9,\x80 5,2\n"))
	require.NoError(t, err)
	last := g.Height() - 1
	assert.Equal(t, "café", g.At(last, 0).Value.Raw())
	assert.Equal(t, "€ 5", g.At(last, 1).Value.Raw())
	assert.Equal(t, "é", g.At(last-1, 1).Value.Raw())
}

// rows says a grid row by row.
func rows(g *reading.Grid) []string {
	var out []string
	for row := range g.Height() {
		var cells []string
		for col := range g.Width(row) {
			cells = append(cells, g.At(row, col).Value.String())
		}
		out = append(out, strings.Join(cells, "|"))
	}
	return out
}

func TestOddLineEndsAndQuotationMarks(t *testing.T) {
	for name, tc := range map[string]struct {
		text  string
		want  []string
		doubt string
	}{
		"carriage returns alone": {"Object,Fee\rBell,5\rHorn,7\r", []string{"Object|Fee", "Bell|5", "Horn|7"}, ""},
		"trailing separators":    {"Object,Fee,\nBell,5,\nHorn,7,\n", []string{"Object|Fee|", "Bell|5|", "Horn|7|"}, ""},
		"a mark not closed":      {"Object,Fee,Hall\nBell,5,Pier\n\"Horn,7,Mill\nLamp,9,Quay\nGull,2,Pier\n", []string{"Object|Fee|Hall", "Bell|5|Pier", "Horn|7|Mill", "Lamp|9|Quay", "Gull|2|Pier"}, "line 3: a quotation mark is not closed: the 3 lines"},
		"closed by a later one":  {"Object,Fee,Hall\n\"Horn,7,Mill\nLamp,9,Quay\n\"Gull\",2,Pier\nTide,1,Mill\n", []string{"Object|Fee|Hall", "Horn|7|Mill", "Lamp|9|Quay", "Gull|2|Pier", "Tide|1|Mill"}, "line 2: a quotation mark is not closed: the 3 lines"},
		"in the last field":      {"Object,Hall\nBell,\"Pier\nHorn,Mill\nLamp,Quay\n", []string{"Object|Hall", "Bell|Pier", "Horn|Mill", "Lamp|Quay"}, "line 2: a quotation mark is not closed"},
		"breaks that are meant":  {"Object,Note\nBell,\"one, two\nthree, four\"\nHorn,x\n", []string{"Object|Note", "Bell|one, two\nthree, four", "Horn|x"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			g, err := csv.Read(strings.NewReader(tc.text))
			require.NoError(t, err)
			assert.Equal(t, tc.want, rows(g))
			if tc.doubt == "" {
				assert.Empty(t, g.Doubts)
			} else {
				require.Len(t, g.Doubts, 1)
				assert.Contains(t, g.Doubts[0], tc.doubt)
			}
		})
	}
}
