package e2e

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/service"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
)

const stages = `
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Object: { type: text, unique: yes }, Stage: &s { type: choice, options: [Requested, Agreed, Crating] }, Times: { type: number } } }
  Agreed:    { columns: { Object: { type: text }, Stage: *s, Times: { type: number } } }
  Crating:   { columns: { Object: { type: text }, Stage: *s, Times: { type: number } } }
rules:
  - name: Move
    wake: { edit: [Stage] }
    where: Stage is not blank and Stage is not tab
    steps: [ { move: { to: "{Stage}" } } ]
`

// process is a running service that can be killed.
type process struct {
	cmd *exec.Cmd
	api *client.Client
}

// built gives the program, built from what is here.
func built(t *testing.T) string {
	t.Helper()
	program := filepath.Join(t.TempDir(), "kavlo")
	out, err := exec.Command("go", "build", "-tags", "nomsgpack", "-o", program, "../cmd/kavlo").CombinedOutput() //nolint:noctx // as long as it takes
	require.NoError(t, err, string(out))
	return program
}

func start(t *testing.T, program, dir string, with ...string) *process {
	t.Helper()
	_ = os.Remove(filepath.Join(dir, service.AddressFile))
	cmd := exec.Command(program, append([]string{"serve", "--data", dir, "--listen", "127.0.0.1:0"}, with...)...)
	cmd.Stderr = os.Stderr
	require.NoError(t, cmd.Start())
	p := &process{cmd: cmd}
	require.Eventually(t, func() bool {
		address, err := os.ReadFile(filepath.Join(dir, service.AddressFile))
		if err != nil || !strings.HasSuffix(string(address), "\n") {
			return false
		}
		token, err := os.ReadFile(filepath.Join(dir, access.KeeperFile))
		if err != nil {
			return false
		}
		p.api, err = client.New(strings.TrimSpace(string(address)), string(token))
		if err != nil {
			return false
		}
		_, err = p.api.Trackers(t.Context())
		return err == nil
	}, 20*time.Second, 10*time.Millisecond)
	return p
}

func (p *process) kill() {
	_ = p.cmd.Process.Kill() // SIGKILL: nothing can be put in order
	_ = p.cmd.Wait()
}

// killWhile kills the service when others have written to it for some time.
func killWhile[W interface {
	stream(ctx context.Context, api *client.Client)
}](t *testing.T, p *process, lasts time.Duration, writers []W) {
	t.Helper()
	ctx, stop := context.WithCancel(t.Context())
	var wg sync.WaitGroup
	for _, w := range writers {
		wg.Go(func() { w.stream(ctx, p.api) })
	}
	time.Sleep(lasts) // how long the stream lasts, not a wait for something
	p.kill()
	stop()
	wg.Wait()
}

// writer keeps to its own row and remembers what it was answered.
type writer struct {
	object string
	times  int    // acknowledged
	stage  string // acknowledged
	asked  int    // sent, perhaps without an answer
	rng    *rand.Rand
}

func (w *writer) stream(ctx context.Context, api *client.Client) {
	for ctx.Err() == nil {
		next := []string{"Requested", "Agreed", "Crating"}[w.rng.IntN(3)]
		w.asked = w.times + 1
		set, err := api.SetRow(ctx, client.How{}, "Loans", w.stage, w.object, wire.RowEdit{Cells: map[string]any{"Stage": next, "Times": w.asked}})
		if err != nil {
			return // the service was killed
		}
		w.times, w.stage = w.asked, set.Rows[0].Tab
	}
}

// Killed during a stream of edits and started again, the service has every
// edit that it answered, whole with what followed, and every row once.
func TestKilledAtAnyMomentNothingAnsweredIsLost(t *testing.T) {
	const kills, writers = 20, 4
	program := built(t)
	dir := t.TempDir()
	seed := testkit.Seed(t)
	rng := testkit.Rand(seed, 0)
	p := start(t, program, dir)
	_, err := p.api.LoadSetup(t.Context(), client.How{}, stages, true)
	require.NoError(t, err)
	all := make([]*writer, writers)
	for i := range all {
		all[i] = &writer{object: fmt.Sprintf("Bell %d", i), stage: "Requested", rng: testkit.Rand(seed, 1+i)}
		_, err := p.api.AddRows(t.Context(), client.How{}, "Loans", "Requested", []map[string]any{{"Object": all[i].object, "Stage": "Requested", "Times": 0}})
		require.NoError(t, err)
	}
	acknowledged := 0
	for range kills {
		killWhile(t, p, time.Duration(20+rng.IntN(150))*time.Millisecond, all)
		p = start(t, program, dir)
		found := map[string][]wire.Row{}
		for _, tab := range []string{"Requested", "Agreed", "Crating"} {
			rows, err := p.api.Rows(t.Context(), "Loans", tab, client.Which{})
			require.NoError(t, err)
			for _, r := range rows.Rows {
				found[r.Label] = append(found[r.Label], r)
			}
		}
		require.Len(t, found, writers)
		for _, w := range all {
			require.Len(t, found[w.object], 1, "%s is there %d times", w.object, len(found[w.object]))
			r := found[w.object][0]
			times := fmt.Sprint(r.Cells["Times"])
			if times != fmt.Sprint(w.times) {
				require.Equal(t, fmt.Sprint(w.asked), times, "an answered edit is lost")
			} else {
				assert.Equal(t, w.stage, r.Tab)
			}
			assert.Equal(t, r.Cells["Stage"], r.Tab, "an edit without what follows from it")
			acknowledged += w.asked - 1
			w.times, w.stage = w.asked, r.Tab
			if times != fmt.Sprint(w.asked) {
				w.times--
			}
		}
	}
	p.kill()
	assert.Greater(t, acknowledged, kills*writers, "hardly anything was written")
}
