package patch

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// However a part is put together, it is what was kept and written, in that order, and what
// was kept is not altered.
func TestPiecesAreAllThatWasWritten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SliceOfN(rapid.Byte(), 1, 400).Draw(t, "text")
		before := bytes.Clone(text)
		var p pieces
		var want []byte
		for range rapid.IntRange(1, 30).Draw(t, "steps") {
			from := rapid.IntRange(0, len(text)).Draw(t, "from")
			part := text[from:rapid.IntRange(from, len(text)).Draw(t, "to")]
			want = append(want, part...)
			if rapid.Bool().Draw(t, "kept") {
				p.keep(part)
			} else {
				p.write(part)
			}
		}
		assert.Equal(t, string(want), string(p.joined()))
		assert.Equal(t, before, text)
	})
}

func TestWhatAPartMentionsIsFoundWhereverItStands(t *testing.T) {
	for _, at := range []int{0, 1, 64<<10 - 8, 64<<10 - 1, 64 << 10, 130_000} {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		w, err := z.Create("part.xml")
		require.NoError(t, err)
		_, err = w.Write([]byte(strings.Repeat("x", at) + `"shared"` + strings.Repeat("y", 200)))
		require.NoError(t, err)
		require.NoError(t, z.Close())
		r, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
		require.NoError(t, err)
		b := &book{files: map[string]*zip.File{"part.xml": r.File[0]}, changed: map[string][]byte{}, pieced: map[string]*pieces{}, gone: map[string]bool{}}
		for mark, want := range map[string]bool{`"shared"`: true, "yy": true, "shared!": false} {
			found, err := b.mentions("part.xml", mark)
			require.NoError(t, err)
			assert.Equal(t, want, found, "%s at %d", mark, at)
		}
	}
}
