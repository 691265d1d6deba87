package cli_test

import (
	"os"
	"testing"
	"time"

	"github.com/rogpeppe/go-internal/testscript"

	"example.org/kavlo/internal/cli"
	"example.org/kavlo/internal/service"
)

func TestMain(m *testing.M) {
	testscript.Main(m, map[string]func(){"kavlo": func() { os.Exit(cli.Main(os.Args[1:], os.Stdout, os.Stderr)) }})
}

// Each script of testdata/script runs against a service of its own, started on
// loopback with the demo's data on Wednesday 25 March 2026 at nine.
func TestScripts(t *testing.T) {
	testscript.Run(t, testscript.Params{Dir: "testdata/script", RequireExplicitExec: true, Setup: func(env *testscript.Env) error {
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
	}})
}
