package e2e

import (
	"fmt"
	"net"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/standin/post"
	"example.org/kavlo/internal/testkit"
)

// kills gives how often a crash test kills: fewer where it runs with all others,
// as many as KAVLO_KILLS says by hand.
func kills(usual int) int {
	if n, err := strconv.Atoi(os.Getenv("KAVLO_KILLS")); err == nil {
		return n
	}
	return usual
}

var messageID = regexp.MustCompile(`(?m)^Message-I[dD]: (\S+)`)

// Killed at any point of a round, from working it out to the last mail's answer,
// and started again, everybody has exactly one mail of every round. A mail whose
// answer was lost may come twice, and is then the same mail by its Message-ID.
func TestKilledInARoundEverybodyHasOneMail(t *testing.T) {
	const people = 12
	rounds := kills(300)
	program := built(t)
	office := &post.Office{}
	smtp, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { _ = smtp.Close() }()
	go func() { _ = office.ServeSMTP(smtp) }()
	dir := t.TempDir()
	with := []string{"--smtp", smtp.Addr().String(), "--starttls", "never"}
	p := start(t, program, dir, with...)
	var setup strings.Builder
	setup.WriteString("tracker: Loans\nzone: UTC\ntabs:\n  Late: { columns: { Object: { type: text }, Who: { type: person }, Due: { type: date } } }\nreminders:\n  - { name: Late, in: Late, where: Due before today, show: [Object], to: \"{Who}\" }\nrounds:\n")
	for i := range rounds {
		fmt.Fprintf(&setup, "  - { name: R%d, clock: monthly on day 1 at 06:00, reminders: all, subject: \"R%d: {count}\" }\n", i, i)
	}
	_, err = p.api.LoadSetup(t.Context(), client.How{}, setup.String(), true)
	require.NoError(t, err)
	var rows []map[string]any
	for i := range people {
		rows = append(rows, map[string]any{"Object": fmt.Sprintf("Bell %d", i), "Who": fmt.Sprintf("p%d@example.org", i), "Due": "2020-01-01"})
	}
	_, err = p.api.AddRows(t.Context(), client.How{}, "Loans", "Late", rows)
	require.NoError(t, err)
	got := map[string]map[string]bool{} // by round and person: Message-IDs
	seen := 0
	gather := func() int {
		all := office.Messages()
		for _, m := range all[:len(all)-seen] {
			round, _, _ := strings.Cut(m.Subject, ":")
			key := round + " " + fmt.Sprint(m.To)
			if got[key] == nil {
				got[key] = map[string]bool{}
			}
			id := messageID.FindStringSubmatch(m.Raw)
			require.NotNil(t, id)
			got[key][id[1]] = true
		}
		seen = len(all)
		return len(got)
	}
	midway := 0
	rng := testkit.Rand(testkit.Seed(t), 0)
	for i := range rounds {
		name, api := fmt.Sprintf("R%d", i), p.api
		done := make(chan struct{})
		go func() {
			defer close(done)
			_, _ = api.RunRound(t.Context(), client.RoundHow{}, "Loans", name) // it may never answer
		}()
		time.Sleep(time.Duration(rng.IntN(70)) * time.Millisecond) // how long it runs, not a wait for something
		p.kill()
		<-done
		if n := gather(); n > i*people && n < (i+1)*people {
			midway++
		}
		p = start(t, program, dir, with...)
		_, err := p.api.RunRound(t.Context(), client.RoundHow{}, "Loans", name)
		require.NoError(t, err)
		require.Eventually(t, func() bool { return gather() == (i+1)*people }, 20*time.Second, 5*time.Millisecond, "round %s", name)
		if seen > 900 { // the office keeps a thousand
			office.Clear()
			seen = 0
		}
	}
	p.kill()
	for key, ids := range got {
		require.Len(t, ids, 1, "%s has more than one mail", key)
	}
	assert.Len(t, got, rounds*people)
	assert.Positive(t, midway, "no kill came between two mails")
	t.Logf("%d kills, %d between two mails", rounds, midway)
}
