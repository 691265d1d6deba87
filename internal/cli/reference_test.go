package cli_test

import (
	"flag"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/cli"
)

var update = flag.Bool("update", false, "write docs/commands.md anew")

const referencePage = "../../docs/commands.md"

func TestTheReferencePageIsUpToDate(t *testing.T) {
	for _, name := range []string{"KAVLO_URL", "KAVLO_DATA", "KAVLO_SMTP", "KAVLO_MAIL_FROM"} {
		t.Setenv(name, "") // their values are no defaults of the program
	}
	if *update {
		require.NoError(t, os.WriteFile(referencePage, []byte(cli.Reference()), 0o644))
	}
	page, err := os.ReadFile(referencePage)
	require.NoError(t, err)
	assert.Equal(t, cli.Reference(), string(page), "docs/commands.md is out of date: run make reference")
}
