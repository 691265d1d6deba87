package internal

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	comment   = regexp.MustCompile(`//\s(.*)`)
	fileNamed = regexp.MustCompile(`[\w/]+\.go\b`)
	qualified = regexp.MustCompile(`\b([a-z]+)\.([A-Z]\w+)`)
)

// Comments that name a file, or something of another package, name what is there.
func TestCommentsNameWhatExists(t *testing.T) {
	sources, files := map[string]string{}, map[string]bool{} // by package, and by name
	texts := map[string]string{}
	require.NoError(t, filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") {
			return err
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		texts[path] = string(text)
		files[d.Name()] = true
		sources[filepath.Base(filepath.Dir(path))] += comment.ReplaceAllString(string(text), "")
		return nil
	}))
	named := 0
	for path, text := range texts {
		for _, c := range comment.FindAllStringSubmatch(text, -1) {
			for _, f := range fileNamed.FindAllString(c[1], -1) {
				named++
				assert.True(t, files[filepath.Base(f)], "%s: there is no file %s: %s", path, f, c[1])
			}
			for _, q := range qualified.FindAllStringSubmatch(c[1], -1) {
				if source, ours := sources[q[1]]; ours {
					named++
					assert.Regexp(t, `\b`+q[2]+`\b`, source, "%s: there is no %s: %s", path, q[0], c[1])
				}
			}
		}
	}
	assert.Greater(t, named, 20, "names looked up")
}
