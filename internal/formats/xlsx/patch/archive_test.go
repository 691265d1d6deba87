package patch_test

import (
	"archive/zip"
	"bytes"
	"testing"

	"github.com/stretchr/testify/require"
)

// withPart gives a workbook with another text of one of its parts.
func withPart(t *testing.T, workbook []byte, name, text string) []byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(workbook), int64(len(workbook)))
	require.NoError(t, err)
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range z.File {
		if f.Name != name {
			require.NoError(t, w.Copy(f))
			continue
		}
		p, err := w.Create(name)
		require.NoError(t, err)
		_, err = p.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return out.Bytes()
}
