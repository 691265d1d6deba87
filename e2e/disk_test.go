//go:build linux

package e2e

import (
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

// fill lets a process's files grow no further, as a full disk would, or again.
func (p *process) fill(t *testing.T, full bool) {
	t.Helper()
	limit := unix.Rlimit{Cur: unix.RLIM_INFINITY, Max: unix.RLIM_INFINITY}
	if full {
		limit.Cur = 0
	}
	require.NoError(t, unix.Prlimit(p.cmd.Process.Pid, unix.RLIMIT_FSIZE, &limit, nil))
}

func (p *process) ready(t *testing.T, address string) (int, string) {
	t.Helper()
	r, err := http.Get(address + "/readyz") //nolint:noctx // on loopback
	require.NoError(t, err)
	defer r.Body.Close()
	text, err := io.ReadAll(r.Body)
	require.NoError(t, err)
	return r.StatusCode, string(text)
}

// freeAddress gives an address on loopback that nobody listens on.
func freeAddress(t *testing.T) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // on loopback
	require.NoError(t, err)
	defer func() { _ = l.Close() }()
	return l.Addr().String()
}

// A disk that takes nothing any more is told of, by readiness and by every answer,
// and what is there is read on; a service that starts on such a disk does the same;
// and each goes on by itself as soon as there is room.
func TestADiskThatTakesNothing(t *testing.T) {
	program := built(t)
	dir := t.TempDir()
	p := start(t, program, dir)
	_, err := p.api.LoadSetup(t.Context(), client.How{}, stages, true)
	require.NoError(t, err)
	_, err = p.api.AddRows(t.Context(), client.How{}, "Loans", "Requested", []map[string]any{{"Object": "Bell", "Stage": "Requested", "Times": 0}})
	require.NoError(t, err)
	written := 0
	edit := func() error {
		set, err := p.api.SetRow(t.Context(), client.How{}, "Loans", "Requested", "Bell", wire.RowEdit{Cells: map[string]any{"Times": written + 1}})
		if err == nil {
			written++
			assert.NotEmpty(t, set.Rows)
		}
		return err
	}
	// holds says what is true as long as nothing can be written.
	holds := func(address string) {
		t.Helper()
		err := edit()
		require.Error(t, err)
		assert.Contains(t, err.Error(), "nothing was changed")
		assert.Contains(t, err.Error(), "disk")
		status, text := p.ready(t, address)
		assert.Equal(t, http.StatusServiceUnavailable, status)
		assert.Contains(t, text, "not ready: the disk ")
		rows, err := p.api.Rows(t.Context(), "Loans", "Requested", client.Which{})
		require.NoError(t, err)
		require.Len(t, rows.Rows, 1)
		assert.Equal(t, fmt.Sprint(written), fmt.Sprint(rows.Rows[0].Cells["Times"]))
		history, err := p.api.Journal(t.Context(), "Loans", client.JournalOf{}, 10)
		require.NoError(t, err)
		assert.Len(t, history, written+2)
		today, err := p.api.Today(t.Context())
		require.NoError(t, err)
		assert.Contains(t, fmt.Sprint(today.Notices), "Nothing can be written")
	}
	goesOn := func(address string) {
		t.Helper()
		status, text := p.ready(t, address)
		assert.Equal(t, http.StatusOK, status, text)
		require.NoError(t, edit())
		today, err := p.api.Today(t.Context())
		require.NoError(t, err)
		assert.NotContains(t, fmt.Sprint(today.Notices), "Nothing can be written")
	}
	text, err := os.ReadFile(filepath.Join(dir, "address"))
	require.NoError(t, err)
	address := strings.TrimSpace(string(text))
	require.NoError(t, edit())
	p.fill(t, true)
	holds(address)
	p.fill(t, false)
	goesOn(address)

	for _, end := range []syscall.Signal{syscall.SIGTERM, syscall.SIGKILL} {
		require.NoError(t, p.cmd.Process.Signal(end))
		_ = p.cmd.Wait()
		listen := freeAddress(t)
		address = "http://" + listen
		p = &process{cmd: exec.Command("sh", "-c", `ulimit -S -f 0; exec "$@"`, "sh", program, "serve", "--data", dir, "--listen", listen)}
		require.NoError(t, p.cmd.Start())
		token, err := os.ReadFile(filepath.Join(dir, access.KeeperFile))
		require.NoError(t, err)
		p.api, err = client.New(address, string(token))
		require.NoError(t, err)
		require.Eventually(t, func() bool {
			_, err := p.api.Trackers(t.Context())
			return err == nil
		}, 20*time.Second, 10*time.Millisecond, "it does not start on a full disk")
		holds(address)
		p.fill(t, false)
		goesOn(address)
		require.Eventually(t, func() bool {
			text, err := os.ReadFile(filepath.Join(dir, "address"))
			return err == nil && string(text) == address+"\n"
		}, 20*time.Second, 50*time.Millisecond, "commands on the machine do not learn where it is")
	}
	p.kill()
}
