package workspace_test

import (
	"encoding/base64"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/notify"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

// acting is the setup with a reminder on whose rows one can act.
const acting = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text }, Registrar: { type: person }, Due: { type: date }, Seen: { type: text } } }
reminders:
  - { name: Due, in: Requested, where: Due before today, show: [Object, Due], to: "{Registrar}", due: Due, act: { done: { Seen: "on {today}" }, date: Due } }
rounds:
  - { name: Morning, clock: daily at 08:30, reminders: all, subject: "{count} wait" }
`

type mailed struct {
	*bench
	links map[string]string // tokens of the last mail to Marta, by what they do
}

func newMailed(t *testing.T) *mailed {
	b := newBench(t)
	b.must(b.DropTracker(testkit.By("Ines"), b.tracker().ID))
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(acting)))
	_, err := b.PutPerson(t.Context(), "Marta Quell", "marta@example.org", "editor")
	require.NoError(t, err)
	return &mailed{bench: b}
}

var actLink = regexp.MustCompile(`(Mark done|Remind me later|Change date|Pause these emails): http://kavlo\.example\.org/act/(\S+)`)

// round runs a round at a time and gives what Marta was told, or "".
func (m *mailed) round(at string) string {
	m.t.Helper()
	m.clock.set(at)
	plan, err := m.PlanRound(m.t.Context(), m.tracker(), "Morning")
	require.NoError(m.t, err)
	before := len(m.mail.sent)
	_, _, err = m.RunRound(m.t.Context(), testkit.By("Ines"), sheet.ByHand, m.tracker(), plan)
	require.NoError(m.t, err)
	_, err = m.SendDue(m.t.Context())
	require.NoError(m.t, err)
	for _, sent := range m.mail.sent[before:] {
		if sent.To != "marta@example.org" {
			continue
		}
		m.links = map[string]string{}
		for _, found := range actLink.FindAllStringSubmatch(sent.Text, -1) {
			m.links[found[1]] = found[2]
		}
		return sent.Subject
	}
	return ""
}

func (m *mailed) do(what, date string) {
	m.t.Helper()
	_, err := m.Do(m.t.Context(), m.links[what], date, false)
	require.NoError(m.t, err)
}

func TestActingFromAMail(t *testing.T) {
	m := newMailed(t)
	bell := m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	assert.Equal(t, "1 wait", m.round("2026-03-25 08:30"))

	// looking changes nothing, however often
	for range 3 {
		d, err := m.Doing(t.Context(), m.links["Mark done"])
		require.NoError(t, err)
		assert.Equal(t, []string{"Bell", "Requested", "Due", "Marta Quell", ""}, []string{d.Label, d.Tab, d.Reminder, d.Name, d.Over})
	}
	assert.Equal(t, "1 wait", m.round("2026-03-26 08:30"))

	m.do("Remind me later", "2026-03-29")
	assert.Empty(t, m.round("2026-03-27 08:30"), "put off")
	assert.Empty(t, m.round("2026-03-28 08:30"))
	assert.Equal(t, "1 wait", m.round("2026-03-29 08:30"))
	_, err := m.Do(t.Context(), m.links["Remind me later"], "2026-03-29", false)
	require.ErrorContains(t, err, "still to come")
	_, err = m.Do(t.Context(), m.links["Remind me later"], "soon", false)
	require.ErrorContains(t, err, "choose a day")

	m.do("Change date", "2026-04-01")
	assert.Empty(t, m.round("2026-03-30 08:30"), "not due any more")
	d, err := m.Doing(t.Context(), m.links["Mark done"])
	require.NoError(t, err)
	assert.Contains(t, d.Over, "dealt with already")
	assert.Equal(t, "1 wait", m.round("2026-04-02 08:30"), "and due again")

	m.do("Mark done", "")
	tab := m.tracker().TabOf(m.tracker().Row(bell))
	seen, err := tab.Column("Seen")
	require.NoError(t, err)
	assert.Equal(t, "on 2026-04-02", m.tracker().Row(bell).Get(tab, seen.ID).String())
	assert.Empty(t, m.round("2026-04-03 08:30"), "done is done, though the row is still late")
	chain, err := m.Why(t.Context(), m.State(), everything, bell, seen.ID)
	require.NoError(t, err)
	assert.Equal(t, "Marta Quell, by mail", chain[0].Who)
	// once the row has left the reminder, it can be late anew
	m.must(m.SetRows(testkit.By("Ines"), m.tracker().ID, []edit.RowEdit{{Row: bell, Cells: map[string]any{"Due": "2026-05-01"}}}))
	assert.Empty(t, m.round("2026-04-04 08:30"))
	assert.Equal(t, "1 wait", m.round("2026-05-02 08:30"))
}

func TestLinksOfMailsAreSignedAndExpire(t *testing.T) {
	m := newMailed(t)
	m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	m.round("2026-03-25 08:30")
	good := m.links["Mark done"]
	raw, err := base64.RawURLEncoding.DecodeString(good)
	require.NoError(t, err)
	forged := append([]byte(nil), raw...)
	forged[6] ^= 1
	for name, token := range map[string]string{"empty": "", "not one": "x", "cut": good[:len(good)-2], "forged": base64.RawURLEncoding.EncodeToString(forged), "noise": base64.RawURLEncoding.EncodeToString(make([]byte, 40))} {
		_, err := m.Do(t.Context(), token, "", false)
		require.ErrorIs(t, err, notify.ErrLink, name)
	}
	m.clock.set("2026-04-23 08:00")
	_, err = m.Doing(t.Context(), good)
	require.NoError(t, err)
	m.clock.set("2026-04-25 08:00")
	_, err = m.Doing(t.Context(), good)
	require.ErrorIs(t, err, notify.ErrLink, "a month later")
}

func TestPausedMails(t *testing.T) {
	m := newMailed(t)
	m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	m.round("2026-03-25 08:30")
	assert.Contains(t, m.mail.sent[0].Pause, "http://kavlo.example.org/act/")
	m.do("Pause these emails", "")
	pause := m.links["Pause these emails"]
	assert.Empty(t, m.round("2026-03-26 08:30"))
	d, err := m.Doing(t.Context(), pause)
	require.NoError(t, err)
	assert.True(t, d.Paused)
	_, err = m.Do(t.Context(), pause, "", true)
	require.NoError(t, err)
	assert.Equal(t, "1 wait", m.round("2026-03-27 08:30"))
}

// Who has paused is not recorded as told of what nobody was told of.
func TestWhoHasPausedIsNotRecordedAsTold(t *testing.T) {
	m := newMailed(t)
	alone := m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	told := func(row sheet.RowID) bool {
		p, err := m.tracker().Definition(sheet.KindReminder, "Due")
		require.NoError(t, err)
		known, err := m.Store().Reminded(t.Context(), m.tracker().ID, p.ID)
		require.NoError(t, err)
		return len(known[row].Told) > 0
	}
	m.round("2026-03-25 08:30")
	assert.True(t, told(alone))
	m.do("Pause these emails", "")
	later := m.add(map[string]any{"Object": "Lamp", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	m.round("2026-03-26 08:30")
	assert.False(t, told(later))
}

// A click and a round at once: whichever comes first, the other knows of it.
func TestARoundKnowsOfAClickThatCameMeanwhile(t *testing.T) {
	m := newMailed(t)
	m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	m.round("2026-03-25 08:30")
	m.clock.set("2026-03-26 08:30")
	plan, err := m.PlanRound(t.Context(), m.tracker(), "Morning")
	require.NoError(t, err)
	require.Len(t, plan.Letters, 1)
	m.do("Remind me later", "2026-03-29") // after the round was worked out, before it is written
	_, detail, err := m.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, m.tracker(), plan)
	require.NoError(t, err)
	assert.Zero(t, detail.Queued, "she has put it off")
}

func TestACalendarOfDueDates(t *testing.T) {
	m := newMailed(t)
	m.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Registrar": "marta@example.org"})
	m.add(map[string]any{"Object": "Lamp", "Due": "2026-06-01", "Registrar": "marta@example.org"})
	m.add(map[string]any{"Object": "Horn", "Due": "2026-06-01", "Registrar": "joren@example.org"})
	marta, err := m.PutPerson(t.Context(), "Marta Quell", "marta@example.org", "editor")
	require.NoError(t, err)
	address, err := m.IssueFeed(t.Context(), marta.ID)
	require.NoError(t, err)
	secret := address[len("http://kavlo.example.org/feed/") : len(address)-len(".ics")]
	name, entries, err := m.Feed(t.Context(), secret)
	require.NoError(t, err)
	assert.Equal(t, "Due, Marta Quell", name)
	require.Len(t, entries, 2)
	assert.Equal(t, []string{"Bell: Due 2026-03-01", "Lamp: Due 2026-06-01"}, []string{entries[0].Title + entries[0].Day.Format(" 2006-01-02"), entries[1].Title + entries[1].Day.Format(" 2006-01-02")})
	n, err := m.DropFeeds(t.Context(), marta.ID)
	require.NoError(t, err)
	assert.Equal(t, int64(1), n)
	_, _, err = m.Feed(t.Context(), secret)
	require.ErrorIs(t, err, access.ErrNoAccess)
}
