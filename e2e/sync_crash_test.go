package e2e

import (
	"fmt"
	"math/rand/v2"
	"net/http/httptest"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/standin/listserver"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/wire"
)

const inStep = `
tracker: Register
zone: UTC
tabs:
  Lenders: { columns: { No: { type: text, required: yes }, Name: { type: text }, Fee: { type: number } } }
lists:
  - name: List
    from: { http: "%s/lenders", items: /records, next: link, version: rev }
    send: { add: POST /lenders, change: "PATCH /lenders/{id}", remove: "DELETE /lenders/{id}" }
syncs:
  - { name: Step, list: List, tab: Lenders, key: { No: id }, fields: { Name: name, Fee: fee }, direction: both, conflict: list, gone: remove, guard: 90%% }
`

// twoSides are a list and a tab that are both worked on, with what must be
// there after the next whole sync.
type twoSides struct {
	t    *testing.T
	list *listserver.Server
	p    *process
	keys []string
	next int
	rng  *rand.Rand
}

func (s *twoSides) newKey() string {
	s.next++
	key := fmt.Sprintf("K-%05d", s.next)
	s.keys = append(s.keys, key)
	return key
}

// takeKey takes away a key for good.
func (s *twoSides) takeKey() string {
	i := s.rng.IntN(len(s.keys))
	key := s.keys[i]
	s.keys = slices.Delete(s.keys, i, i+1)
	return key
}

// work lets both sides be worked on.
func (s *twoSides) work() {
	ctx := s.t.Context()
	old := slices.Clone(s.keys)
	s.rng.Shuffle(len(old), func(i, j int) { old[i], old[j] = old[j], old[i] })
	for i, key := range old[:min(24, len(old))] {
		switch i % 3 {
		case 0:
			s.list.Set("lenders", key, listserver.Record{"name": fmt.Sprintf("theirs %d", s.rng.IntN(1000))})
		case 1:
			_, err := s.p.api.SetRow(ctx, client.How{}, "Register", "Lenders", key, edited("Fee", s.rng.IntN(1000)))
			require.NoError(s.t, err)
		default: // both, of different fields
			s.list.Set("lenders", key, listserver.Record{"fee": s.rng.IntN(1000)})
			_, err := s.p.api.SetRow(ctx, client.How{}, "Register", "Lenders", key, edited("Name", fmt.Sprintf("ours %d", s.rng.IntN(1000))))
			require.NoError(s.t, err)
		}
	}
	rows := make([]map[string]any, 3)
	for i := range rows {
		s.list.Set("lenders", s.newKey(), listserver.Record{"name": "new there", "fee": i})
		rows[i] = map[string]any{"No": s.newKey(), "Name": "new here", "Fee": i}
	}
	_, err := s.p.api.AddRows(ctx, client.How{}, "Register", "Lenders", rows)
	require.NoError(s.t, err)
	for range 2 { // of those nobody has worked on
		key := s.takeKey()
		for slices.Contains(old[:min(24, len(old))], key) || !slices.Contains(old, key) {
			s.keys = append(s.keys, key)
			key = s.takeKey()
		}
		if s.rng.IntN(2) == 0 {
			s.list.Remove("lenders", key)
			continue
		}
		_, err := s.p.api.RemoveRow(ctx, client.How{}, "Register", "Lenders", key)
		require.NoError(s.t, err)
	}
}

// check holds that both sides have the same records, each once, and all that
// were put on either.
func (s *twoSides) check() {
	set, err := s.p.api.RunSync(s.t.Context(), client.How{}, "Register", "Step", true)
	require.NoError(s.t, err)
	rows, err := s.p.api.Rows(s.t.Context(), "Register", "Lenders", client.Which{})
	require.NoError(s.t, err)
	var here, there, want []string
	for _, r := range rows.Rows {
		here = append(here, fmt.Sprint(r.Cells["No"], r.Cells["Name"], r.Cells["Fee"]))
	}
	for _, r := range s.list.Records("lenders") {
		there = append(there, fmt.Sprint(r["id"], r["name"], r["fee"]))
	}
	slices.Sort(here)
	slices.Sort(there)
	require.Equal(s.t, there, here, "after %+v", set.Sync)
	for _, r := range s.list.Records("lenders") {
		want = append(want, fmt.Sprint(r["id"]))
	}
	slices.Sort(want)
	slices.Sort(s.keys)
	require.Equal(s.t, s.keys, want)
	again, err := s.p.api.RunSync(s.t.Context(), client.How{Preview: true}, "Register", "Step", false)
	require.NoError(s.t, err)
	require.Empty(s.t, again.Changes)
	require.Empty(s.t, again.Sync.Writes, "a second sync finds something")
}

// Killed at any point of a both-way sync and started again, both sides come to
// agree: no record is doubled or lost on either.
func TestKilledInASyncBothSidesStillAgree(t *testing.T) {
	const kills = 100
	program := built(t)
	server := listserver.New(nil)
	server.Configure("lenders", listserver.Settings{Revs: true})
	server.Slow("lenders", time.Millisecond)
	web := httptest.NewServer(server.Handler())
	defer web.Close()
	dir := t.TempDir()
	s := &twoSides{t: t, list: server, p: start(t, program, dir), rng: testkit.Rand(testkit.Seed(t), 0)}
	_, err := s.p.api.SetAllowedHost(t.Context(), "127.0.0.1", true)
	require.NoError(t, err)
	_, err = s.p.api.LoadSetup(t.Context(), client.How{}, fmt.Sprintf(inStep, web.URL), true)
	require.NoError(t, err)
	for range 60 {
		server.Set("lenders", s.newKey(), listserver.Record{"name": "first", "fee": 1})
	}
	s.check()
	midway := 0
	for n := range kills {
		s.work()
		before := server.Writes
		done := make(chan error, 1)
		p := s.p
		go func() {
			_, err := p.api.RunSync(t.Context(), client.How{}, "Register", "Step", true)
			done <- err
		}()
		time.Sleep(time.Duration(1+s.rng.IntN(60)) * time.Millisecond) // how long it runs, not a wait for something
		p.kill()
		if err := <-done; err != nil && server.Writes > before {
			midway++
		}
		s.p = start(t, program, dir)
		if n%10 == 9 {
			server.FailWrites("lenders", 6) // more than one write is tried: the sync stops, and goes on when it is run again
			_, err := s.p.api.RunSync(t.Context(), client.How{}, "Register", "Step", true)
			require.NoError(t, err)
			server.FailWrites("lenders", 0)
		}
		s.check()
	}
	s.p.kill()
	assert.Greater(t, midway, kills/5, "hardly any kill came between two writes")
}

func edited(column string, to any) wire.RowEdit {
	return wire.RowEdit{Cells: map[string]any{column: to}}
}
