package csv_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"example.org/kavlo/internal/formats/csv"
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
