package internal

import (
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const module = "example.org/kavlo/"

// core does no I/O, knows no clock and starts nothing by itself.
var core = []string{"value", "local", "formula", "sheet", "clause", "program", "query", "rule", "reading", "reconcile", "reminder", "recur", "setup", "setup/schema", "kinds", "policy", "dossier", "tally", "form", "tabview", "tidy"}

// allowed is all that the core may import besides itself.
var allowed = []string{"bytes", "cmp", "context", "embed", "encoding/base64", "encoding/binary", "encoding/json", "errors", "fmt", "hash/fnv", "hash/maphash", "html", "html/template", "iter", "maps", "math", "math/bits", "net/url", "path", "regexp", "slices", "sort", "strconv", "strings", "sync", "sync/atomic", "text/template",
	"time", "time/tzdata", "unicode", "unicode/utf8", "github.com/bmatcuk/doublestar/v4", "github.com/cockroachdb/apd/v3", "github.com/tidwall/btree", "github.com/teambition/rrule-go", "go.yaml.in/yaml/v3", "golang.org/x/text/collate", "golang.org/x/text/language", "golang.org/x/text/unicode/norm"}

// layers go from the outside in; each may import only what comes after it, and nothing of
// its own layer: features do not know each other, nor do the kinds of definition.
var layers = [][]string{
	{"cli"}, {"service"}, {"api", "standin/post", "standin/listserver"}, {"client", "workspace"}, {"wire"},
	{"edit", "trigger", "history", "intake", "output", "syncing", "notify", "access", "upkeep", "pages", "forms"},
	{"lists", "attach"}, {"engine", "formats", "formats/mail"}, {"store/storetest"}, {"store"}, {"formats/xlsx/patch"}, {"formats/xlsx", "formats/csv", "formats/ics", "formats/chart"}, {"formats/outbound"}, {"thrift", "weblink", "presence"},
	// the core
	{"kinds"}, {"rule"}, {"reconcile", "reminder", "dossier", "tally", "form", "tabview"}, {"setup"}, {"setup/schema", "reading", "query", "tidy"}, {"program"}, {"policy"}, {"sheet"}, {"recur", "clause", "formula"}, {"local"}, {"value"},
}

// imports gives what the Go files of a package import, tests apart.
func imports(t *testing.T, dir string) map[string]string {
	t.Helper()
	files, err := filepath.Glob(filepath.Join(dir, "*.go"))
	require.NoError(t, err)
	out := map[string]string{}
	for _, f := range files {
		if strings.HasSuffix(f, "_test.go") {
			continue
		}
		parsed, err := parser.ParseFile(token.NewFileSet(), f, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, i := range parsed.Imports {
			path, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			out[path] = f
		}
	}
	return out
}

func TestTheCoreKeepsToItself(t *testing.T) {
	for _, pkg := range core {
		for path, file := range imports(t, pkg) {
			inner, own := strings.CutPrefix(path, module+"internal/")
			assert.True(t, own && slices.Contains(core, inner) || slices.Contains(allowed, path), "%s imports %s", file, path)
		}
	}
}

// The core may hold times but never asks what time it is.
func TestTheCoreKnowsNoClock(t *testing.T) {
	for _, pkg := range core {
		files, err := filepath.Glob(filepath.Join(pkg, "*.go"))
		require.NoError(t, err)
		for _, f := range files {
			if strings.HasSuffix(f, "_test.go") {
				continue
			}
			text, err := os.ReadFile(f)
			require.NoError(t, err)
			for _, bad := range []string{"time.Now(", "time.Since(", "time.After(", "time.Sleep(", "\tgo func"} {
				assert.False(t, strings.Contains(string(text), bad), "%s holds %s", f, bad)
			}
		}
	}
}

func TestImportsPointInwards(t *testing.T) {
	at := map[string]int{}
	for i, layer := range layers {
		for _, pkg := range layer {
			at[pkg] = i
		}
	}
	require.NoError(t, filepath.WalkDir(".", func(path string, d os.DirEntry, err error) error {
		if err != nil || !d.IsDir() || d.Name() == "testdata" || d.Name() == "migrations" {
			return err
		}
		found := imports(t, path)
		if len(found) == 0 || path == "." || strings.HasPrefix(path, "testkit") {
			return nil
		}
		from, known := at[filepath.ToSlash(path)]
		assert.True(t, known, "%s has no place among the layers", path)
		for imported, file := range found {
			inner, own := strings.CutPrefix(imported, module+"internal/")
			if !own {
				continue
			}
			to, known := at[inner]
			assert.True(t, known && to > from, "%s imports %s, which does not lie further in", file, inner)
		}
		return nil
	}))
}
