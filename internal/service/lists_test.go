package service_test

import (
	"database/sql"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/service"
	"example.org/kavlo/internal/standin/listserver"
	"example.org/kavlo/internal/testkit/servers"
	"example.org/kavlo/internal/wire"
)

// site is a service with one tracker, driven over its network interface.
type site struct {
	t   *testing.T
	api *client.Client
	dir string
}

func newSite(t *testing.T, lists, syncs string) *site {
	t.Helper()
	return siteWith(t, service.Settings{Version: "0", Listen: "127.0.0.1:0"}, lists, syncs)
}

func siteWith(t *testing.T, settings service.Settings, lists, syncs string) *site {
	t.Helper()
	dir := t.TempDir()
	settings.Dir = dir
	s, err := service.Start(t.Context(), settings)
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Stop()) })
	token, err := os.ReadFile(filepath.Join(dir, access.KeeperFile))
	require.NoError(t, err)
	api, err := client.New(s.Address, string(token))
	require.NoError(t, err)
	_, err = api.SetAllowedHost(t.Context(), "127.0.0.0/8", true)
	require.NoError(t, err)
	out := &site{t: t, api: api, dir: dir}
	out.setup(lists, syncs)
	return out
}

func (s *site) setup(lists, syncs string) {
	s.t.Helper()
	_, err := s.api.LoadSetup(s.t.Context(), client.How{}, "tracker: Loans\nzone: UTC\ntabs:\n"+
		"  Tasks: { columns: { No: { type: text }, Title: { type: text }, Due: { type: date }, Done: { type: checkbox }, Fee: { type: number }, Added: { type: date-time } } }\n"+
		"lists:\n"+lists+"syncs:\n"+syncs, true)
	require.NoError(s.t, err)
}

func (s *site) run(sync string) *wire.ChangeSet {
	s.t.Helper()
	set, err := s.api.RunSync(s.t.Context(), client.How{}, "Loans", sync, true)
	require.NoError(s.t, err)
	return set
}

func (s *site) add(cells map[string]any) {
	s.t.Helper()
	_, err := s.api.AddRows(s.t.Context(), client.How{}, "Loans", "Tasks", []map[string]any{cells})
	require.NoError(s.t, err)
}

func (s *site) set(row string, cells map[string]any) {
	s.t.Helper()
	_, err := s.api.SetRow(s.t.Context(), client.How{}, "Loans", "Tasks", row, wire.RowEdit{Cells: cells})
	require.NoError(s.t, err)
}

// rows gives the tab's rows as lines, sorted.
func (s *site) rows(columns ...string) string {
	s.t.Helper()
	got, err := s.api.Rows(s.t.Context(), "Loans", "Tasks", client.Which{})
	require.NoError(s.t, err)
	var lines []string
	for _, r := range got.Rows {
		var cells []string
		for _, c := range columns {
			cells = append(cells, fmt.Sprint(r.Cells[c]))
		}
		lines = append(lines, strings.Join(cells, " "))
	}
	slices.Sort(lines)
	return strings.Join(lines, "\n")
}

// A person's own task list, on a real CalDAV server, stays in step both ways.
func TestATaskListStaysInStep(t *testing.T) {
	at := servers.Tasks(t)
	s := newSite(t, "  - { name: Own, from: { tasks: \""+at+"\", account: { name: ines, password: \"${TASKS}\" } } }\n",
		"  - { name: Own, list: Own, tab: Tasks, key: { No: uid }, fields: { Title: title, Due: due, Done: done }, direction: both, conflict: newest, gone: remove }\n")
	_, err := s.api.RunSync(t.Context(), client.How{}, "Loans", "Own", false)
	require.ErrorContains(t, err, "the list needs the secret TASKS")
	_, err = s.api.PutSecret(t.Context(), "TASKS", "any")
	require.NoError(t, err)
	s.add(map[string]any{"No": "L-1001", "Title": "Crate the clock", "Due": "2026-03-31"})
	s.run("Own")
	put := func(path, text string) {
		req, err := http.NewRequestWithContext(t.Context(), http.MethodPut, at+path, strings.NewReader("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:other\r\nBEGIN:VTODO\r\nDTSTAMP:20260301T080000Z\r\n"+text+"END:VTODO\r\nEND:VCALENDAR\r\n"))
		require.NoError(t, err)
		req.SetBasicAuth("ines", "any")
		req.Header.Set("Content-Type", "text/calendar")
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		require.Less(t, res.StatusCode, 300)
	}
	put("own.ics", "UID:own\r\nSUMMARY:Call the lender\r\nDUE;VALUE=DATE:20260402\r\n")
	put("L-1001.ics", "UID:L-1001\r\nSUMMARY:Crate the clock\r\nDUE;VALUE=DATE:20260331\r\nSTATUS:COMPLETED\r\n")
	s.set("L-1001", map[string]any{"Due": "2026-04-01"}) // the same task, another field
	s.run("Own")
	assert.Equal(t, "L-1001 Crate the clock 2026-04-01 true\nown Call the lender 2026-04-02 false", s.rows("No", "Title", "Due", "Done"))
	again := s.run("Own")
	assert.Empty(t, again.Changes)
	assert.Empty(t, again.Sync.Writes)
	_, err = s.api.RemoveRow(t.Context(), client.How{}, "Loans", "Tasks", "own")
	require.NoError(t, err)
	assert.Equal(t, 1, s.run("Own").Sync.GoneFromTab)
	assert.Equal(t, 1, s.run("Own").Sync.Unchanged)
}

// A table of a real PostgreSQL server is kept in step, and another filled.
func TestATableStaysInStep(t *testing.T) {
	at := servers.Postgres(t)
	db, err := sql.Open("pgx", strings.ReplaceAll(at, "${PG}", servers.Password))
	require.NoError(t, err)
	defer func() { assert.NoError(t, db.Close()) }()
	_, err = db.ExecContext(t.Context(), `CREATE TABLE tasks (no TEXT PRIMARY KEY, title TEXT, due DATE, done BOOLEAN, fee NUMERIC(10,2), added TIMESTAMP);
		INSERT INTO tasks VALUES ('1', 'One', '2026-03-31', FALSE, 10.50, '2026-03-01 08:30:00'), ('2', 'Two', NULL, TRUE, NULL, NULL)`)
	require.NoError(t, err)
	s := newSite(t, "  - { name: Table, from: { postgres: \""+at+"\", table: tasks, id: no } }\n",
		"  - { name: Step, list: Table, tab: Tasks, key: { No: no }, fields: { Title: title, Due: due, Done: done, Fee: fee, Added: added }, direction: both, gone: remove }\n")
	_, err = s.api.PutSecret(t.Context(), "PG", servers.Password)
	require.NoError(t, err)
	s.run("Step")
	assert.Equal(t, "1 One 2026-03-31 false 10.5 2026-03-01T08:30\n2 Two <nil> true <nil> <nil>", s.rows("No", "Title", "Due", "Done", "Fee", "Added"))
	s.set("1", map[string]any{"Due": "2026-04-05", "Done": "yes", "Fee": "11.25", "Added": "2026-03-02T09:00"})
	s.add(map[string]any{"No": "3", "Title": "Three", "Fee": "0.10"})
	_, err = db.ExecContext(t.Context(), "UPDATE tasks SET title='Deux' WHERE no='2'")
	require.NoError(t, err)
	s.run("Step")
	var all string
	require.NoError(t, db.QueryRowContext(t.Context(), "SELECT string_agg(concat_ws(' ', no, title, due, done, fee, added), ', ' ORDER BY no) FROM tasks").Scan(&all))
	assert.Equal(t, "1 One 2026-04-05 t 11.25 2026-03-02 09:00:00, 2 Deux t, 3 Three 0.10", all)
	assert.Contains(t, s.rows("No", "Title"), "2 Deux")
	again := s.run("Step")
	assert.Empty(t, again.Changes)
	assert.Empty(t, again.Sync.Writes)
}

// A list that fails in the middle of its writes is reported exactly, and gone on
// with; one that fails in the middle of its pages changes nothing.
func TestAListThatFailsInTheMiddle(t *testing.T) {
	server := listserver.New(nil)
	server.Configure("tasks", listserver.Settings{Revs: true})
	server.Put("tasks", nil)
	web := httptest.NewServer(server.Handler())
	defer web.Close()
	s := newSite(t, "  - { name: List, from: { http: \""+web.URL+"/tasks\", items: /records, next: link, version: rev }, send: { add: POST /tasks, change: \"PATCH /tasks/{id}\", remove: \"DELETE /tasks/{id}\" } }\n",
		"  - { name: Step, list: List, tab: Tasks, key: { No: id }, fields: { Title: title }, direction: both, conflict: hold, gone: remove }\n")
	for i := range 60 {
		s.add(map[string]any{"No": fmt.Sprintf("%03d", i), "Title": "Task"})
	}
	server.FailAfter("tasks", 23)
	set := s.run("Step")
	assert.Contains(t, set.Sync.Stopped, "503 Service Unavailable")
	assert.Equal(t, []int{23, 37}, []int{set.Sync.AddedToList, set.Sync.NotSent})
	assert.Len(t, server.Records("tasks"), 23)
	runs, err := s.api.Runs(t.Context(), "Loans", 1)
	require.NoError(t, err)
	assert.Equal(t, "partly done", runs[0].Outcome)
	server.FailAfter("tasks", 0)
	set = s.run("Step")
	assert.Equal(t, []int{37, 23}, []int{set.Sync.AddedToList, set.Sync.Unchanged})
	assert.Equal(t, 60, server.Writes, "each was written once")

	for i := range 60 {
		server.Set("tasks", fmt.Sprintf("%03d", i), listserver.Record{"title": "Changed"})
	}
	server.FailAt("tasks", 2)
	_, err = s.api.RunSync(t.Context(), client.How{}, "Loans", "Step", true)
	require.ErrorContains(t, err, "page 2 of the list")
	assert.NotContains(t, s.rows("Title"), "Changed", "pages before the failure are not applied")
	server.FailAt("tasks", 0)
	s.run("Step")
	assert.NotContains(t, s.rows("Title"), "Task")

	writes := server.Writes
	journal, err := s.api.Journal(t.Context(), "Loans", client.JournalOf{}, 1)
	require.NoError(t, err)
	set = s.run("Step")
	assert.Equal(t, 60, set.Sync.Unchanged)
	after, err := s.api.Journal(t.Context(), "Loans", client.JournalOf{}, 1)
	require.NoError(t, err)
	assert.Equal(t, journal, after, "a sync with nothing changed writes nothing here")
	assert.Equal(t, writes, server.Writes, "nor there")

	// what a person saw of a conflict is what is settled
	server.Set("tasks", "001", listserver.Record{"title": "Theirs"})
	s.set("001", map[string]any{"Title": "Ours"})
	assert.Equal(t, 1, s.run("Step").Sync.Conflicts)
	server.Set("tasks", "001", listserver.Record{"title": "Theirs once more"})
	set, err = s.api.Settle(t.Context(), client.How{}, "Loans", "Step", wire.Settle{Take: "tab"})
	require.NoError(t, err)
	assert.Equal(t, 1, set.Sync.Conflicts, "it is another conflict now")
	set, err = s.api.Settle(t.Context(), client.How{}, "Loans", "Step", wire.Settle{Keys: []string{"001"}, Take: "tab"})
	require.NoError(t, err)
	assert.Zero(t, set.Sync.Conflicts)
	assert.Equal(t, "Ours", server.Records("tasks")[1]["title"])
}
