package cli_test

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/rogpeppe/go-internal/testscript"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/cli"
	"example.org/kavlo/internal/service"
)

func TestMain(m *testing.M) {
	testscript.Main(m, map[string]func(){"kavlo": func() { os.Exit(cli.Main(os.Args[1:], os.Stdout, os.Stderr)) }})
}

// Each script of testdata/script runs against a service of its own, started on
// loopback with the demo's data on Wednesday 25 March 2026 at nine.
func TestScripts(t *testing.T) {
	testscript.Run(t, testscript.Params{Dir: "testdata/script", RequireExplicitExec: true, Setup: demoFor(t), Cmds: map[string]func(*testscript.TestScript, bool, []string){"undoable": undoable}})
}

// undoable keeps the number of the change set, that the command before has made, in $SET:
// others may have been made in between.
func undoable(ts *testscript.TestScript, _ bool, _ []string) {
	found := regexp.MustCompile(`kavlo undo (\d+)`).FindStringSubmatch(ts.ReadFile("stdout"))
	if found == nil {
		ts.Fatalf("the command before has changed nothing")
	}
	ts.Setenv("SET", found[1])
}

// demoFor starts the demo for each script.
func demoFor(t *testing.T) func(*testscript.Env) error {
	return func(env *testscript.Env) error {
		dir := env.Getenv("WORK") + "/data"
		now := time.Date(2026, time.March, 25, 9, 0, 0, 0, time.UTC)
		d, err := service.StartDemo(t.Context(), service.Settings{Version: "0", Dir: dir, Listen: "127.0.0.1:0", Now: func() time.Time { return now }},
			service.DemoSettings{Lists: "127.0.0.1:0", Post: "127.0.0.1:0", SMTP: "127.0.0.1:0"})
		if err != nil {
			return err
		}
		env.Defer(func() {
			if err := d.Stop(); err != nil {
				t.Error(err)
			}
		})
		samples, err := os.Getwd()
		if err != nil {
			return err
		}
		env.Setenv("KAVLO_DATA", dir)
		env.Setenv("SAMPLES", samples+"/../formats/testdata")
		env.Setenv("SAMPLE", d.Sample)
		return nil
	}
}

// The commands that the guide shows work, one after the other, on the demo.
func TestTheGuidesCommandsWork(t *testing.T) {
	text, err := os.ReadFile("../../docs/guide.md")
	require.NoError(t, err)
	var script strings.Builder
	for _, block := range regexp.MustCompile("(?s)```console\n(.*?)```").FindAllStringSubmatch(string(text), -1) {
		for line := range strings.Lines(block[1]) {
			script.WriteString("exec sh -c '" + strings.ReplaceAll(strings.TrimSpace(line), "'", "''") + "'\n")
		}
	}
	require.Greater(t, strings.Count(script.String(), "kavlo"), 30)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "guide.txtar"), []byte(script.String()), 0o600))
	testscript.Run(t, testscript.Params{Dir: dir, RequireExplicitExec: true, Setup: demoFor(t)})
}

// What the guide shows of setups is read as it stands.
func TestTheGuidesClausesAreClauses(t *testing.T) {
	text, err := os.ReadFile("../../docs/guide.md")
	require.NoError(t, err)
	_, rest, found := strings.Cut(string(text), "## Clauses\n\n```\n")
	require.True(t, found)
	clauses, _, _ := strings.Cut(rest, "```")
	for line := range strings.Lines(clauses) {
		_, err := clause.Parse(strings.TrimSpace(line))
		require.NoError(t, err, line)
	}
}
