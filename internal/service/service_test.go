package service_test

import (
	"encoding/json"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/service"
)

func settings(dir string) service.Settings {
	return service.Settings{Version: "test", Dir: dir, Listen: "127.0.0.1:0"}
}

func keeper(t *testing.T, s *service.Service, dir string) *client.Client {
	t.Helper()
	token, err := os.ReadFile(filepath.Join(dir, "keeper-token"))
	require.NoError(t, err)
	c, err := client.New(s.Address, strings.TrimSpace(string(token)))
	require.NoError(t, err)
	return c
}

func TestAServiceKeepsItsDataAndSaysWhereItIs(t *testing.T) {
	dir := t.TempDir()
	s, err := service.Start(t.Context(), settings(dir))
	require.NoError(t, err)
	said, err := os.ReadFile(filepath.Join(dir, service.AddressFile))
	require.NoError(t, err)
	assert.Equal(t, s.Address+"\n", string(said))
	info, err := os.Stat(filepath.Join(dir, "keeper-token"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "the keeper's token is its owner's alone")
	_, err = keeper(t, s, dir).NewTracker(t.Context(), client.How{}, "Loans", "UTC")
	require.NoError(t, err)
	require.NoError(t, s.Stop())
	_, err = os.Stat(filepath.Join(dir, service.AddressFile))
	require.ErrorIs(t, err, os.ErrNotExist, "nothing is reached there any more")

	s, err = service.Start(t.Context(), settings(dir))
	require.NoError(t, err)
	trackers, err := keeper(t, s, dir).Trackers(t.Context())
	require.NoError(t, err)
	require.Len(t, trackers, 1)
	assert.Equal(t, "Loans", trackers[0].Name)
	require.NoError(t, s.Stop())
}

func TestAnAddressThatIsTakenIsTold(t *testing.T) {
	s, err := service.Start(t.Context(), settings(t.TempDir()))
	require.NoError(t, err)
	defer func() { assert.NoError(t, s.Stop()) }()
	again := settings(t.TempDir())
	again.Listen = strings.TrimPrefix(s.Address, "http://")
	_, err = service.Start(t.Context(), again)
	require.ErrorContains(t, err, "another program listens at "+again.Listen)
}

func get(t *testing.T, address string) (int, string) {
	t.Helper()
	res, err := http.Get(address)
	require.NoError(t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return res.StatusCode, string(text)
}

// Whatever the demo has set up can be tried as something new, before it is saved.
func TestWhatTheDemoHasIsTriedAsNew(t *testing.T) {
	dir := t.TempDir()
	d, err := service.StartDemo(t.Context(), settings(dir), service.DemoSettings{Lists: "127.0.0.1:0", Post: "127.0.0.1:0", SMTP: "127.0.0.1:0"})
	require.NoError(t, err)
	defer func() { assert.NoError(t, d.Stop()) }()
	tour, err := d.Workspace.Find(demo.Tracker)
	require.NoError(t, err)
	c := keeper(t, d.Service, dir)
	for _, kind := range d.Workspace.Setup.Kinds() {
		all, err := c.Definitions(t.Context(), demo.Tracker, kind.Plural)
		require.NoError(t, err)
		for i := range all {
			body := all[i].Fields()
			body["name"] = all[i].Name + ", again"
			text, err := json.Marshal(body)
			require.NoError(t, err)
			tried, err := d.Workspace.TryDefinition(t.Context(), tour, kind.Name, text, 0)
			if assert.NoError(t, err, "%s %s", kind.Name, all[i].Name) {
				assert.NotEmpty(t, tried.Says)
			}
		}
	}
}

// The demo starts on an empty folder and again on its own, keeps what was done
// in it, and shows its mail on a page.
func TestTheDemoStartsAgainWhereItWas(t *testing.T) {
	dir := t.TempDir()
	stand := service.DemoSettings{Lists: "127.0.0.1:0", Post: "127.0.0.1:0", SMTP: "127.0.0.1:0"}
	d, err := service.StartDemo(t.Context(), settings(dir), stand)
	require.NoError(t, err)
	tour, err := d.Workspace.Find(demo.Tracker)
	require.NoError(t, err)
	loans := 0
	for _, tab := range []string{"Requested", "Agreed", "Crating", "In transit", "On display", "Returned"} {
		shape, err := tour.Tab(tab)
		require.NoError(t, err)
		loans += tour.Count(shape.ID)
	}
	assert.Equal(t, demo.Loans, loans)
	c := keeper(t, d.Service, dir)
	_, err = c.SetRow(t.Context(), client.How{}, demo.Tracker, "Requested", d.Sample, wireEdit("Stage", "Agreed"))
	require.NoError(t, err)
	_, err = c.RunRound(t.Context(), client.RoundHow{}, demo.Tracker, "Morning round")
	require.NoError(t, err)
	require.Eventually(t, func() bool { return len(d.Office.Messages()) >= 4 }, waitFor, tick)
	status, page := get(t, d.PostPage)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, page, d.Office.Messages()[0].Subject)
	_, messages := get(t, d.PostPage+"/messages")
	assert.Contains(t, messages, `"subject"`)
	require.NoError(t, d.Stop())

	again, err := service.StartDemo(t.Context(), settings(dir), stand)
	require.NoError(t, err)
	defer func() { assert.NoError(t, again.Stop()) }()
	agreed, err := keeper(t, again.Service, dir).Row(t.Context(), demo.Tracker, "Agreed", d.Sample)
	require.NoError(t, err)
	assert.Equal(t, "Agreed", agreed.Cells["Stage"], "what was done stays done")
}
