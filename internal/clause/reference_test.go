package clause

import (
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write docs/clauses.md anew")

const referencePage = "../../docs/clauses.md"

func TestEveryExampleOfTheReferenceGivesWhatItSays(t *testing.T) {
	for _, f := range Forms() {
		e, err := CheckValue(f.Example, scope)
		require.NoError(t, err, f.Example)
		assert.Equal(t, f.Yields, e.Value()(env()).String(), f.Example)
		assert.NotEmpty(t, f.Says, f.Written)
	}
}

func TestTheReferencePageIsUpToDate(t *testing.T) {
	if *update {
		require.NoError(t, os.WriteFile(referencePage, []byte(Reference()), 0o644))
	}
	page, err := os.ReadFile(referencePage)
	require.NoError(t, err)
	assert.Equal(t, Reference(), string(page), "docs/clauses.md is out of date: run go test ./internal/clause -update")
}

// The page speaks of every comparing operator and every function there is.
func TestTheReferenceLeavesNothingOut(t *testing.T) {
	page := Reference()
	for _, c := range comparisons {
		op := c.op
		if rest, not := strings.CutPrefix(op, "is not"); not {
			op = "is" + rest
		}
		assert.Contains(t, page, op)
	}
	for name := range functions {
		assert.Contains(t, page, "`"+name+"(")
	}
}
