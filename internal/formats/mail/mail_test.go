package mail_test

import (
	"net"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/standin/post"
)

func office(t *testing.T) (*post.Office, string) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	o := &post.Office{}
	done := make(chan error, 1)
	go func() { done <- o.ServeSMTP(l) }()
	t.Cleanup(func() {
		require.NoError(t, l.Close())
		assert.NoError(t, <-done)
	})
	return o, l.Addr().String()
}

func sender(t *testing.T, address string) *mail.Sender {
	t.Helper()
	s, err := mail.NewSender(mail.Server{Address: address, STARTTLS: "never", From: "Loans <loans@example.org>", ListID: "rounds.example.org"})
	require.NoError(t, err)
	return s
}

var letter = &mail.Mail{ID: "01ABC", To: "marta@example.org", Subject: "Drei Leihgaben – été", Text: "plain ü", HTML: "<p>rich ü</p>", Date: time.Date(2026, 3, 25, 8, 30, 0, 0, time.UTC)}

func temporary(t *testing.T, err error) bool {
	t.Helper()
	var e interface{ Temporary() bool }
	require.ErrorAs(t, err, &e)
	return e.Temporary()
}

func TestAMailArrivesAsItWasMade(t *testing.T) {
	o, address := office(t)
	require.NoError(t, sender(t, address).Send(t.Context(), letter))
	got := o.Messages()
	require.Len(t, got, 1)
	m := got[0]
	assert.Equal(t, "Drei Leihgaben – été", m.Subject)
	assert.Equal(t, []string{"marta@example.org"}, m.To)
	assert.Contains(t, m.From, "loans@example.org")
	assert.Equal(t, "plain ü", strings.TrimSpace(m.Text))
	assert.Equal(t, "<p>rich ü</p>", strings.TrimSpace(m.HTML))
	assert.True(t, m.Date.Equal(letter.Date))
	for _, header := range []string{"Auto-Submitted: auto-generated", "List-Id: <rounds.example.org>", "Message-ID: <01abc@example.org>", "multipart/alternative"} {
		assert.Contains(t, m.Raw, header)
	}
}

// A mail handed over again, after a crash say, is the same mail to whoever takes it.
func TestTheSameMailTwiceIsOneMail(t *testing.T) {
	o, address := office(t)
	s := sender(t, address)
	require.NoError(t, s.Send(t.Context(), letter))
	require.NoError(t, s.Send(t.Context(), letter))
	assert.Len(t, o.Messages(), 1)
}

func TestErrorsTellWhetherToTryAgain(t *testing.T) {
	o, address := office(t)
	s := sender(t, address)
	o.Refuse(func(string) error { return post.Busy })
	assert.True(t, temporary(t, s.Send(t.Context(), letter)))
	o.Refuse(func(string) error { return post.Unknown })
	assert.False(t, temporary(t, s.Send(t.Context(), letter)))
	bad := *letter
	bad.To = "nobody"
	assert.False(t, temporary(t, s.Send(t.Context(), &bad)))
	assert.True(t, temporary(t, sender(t, "127.0.0.1:1").Send(t.Context(), letter)))
	assert.Empty(t, o.Messages())
}

func TestSettingsThatAreWrongAreToldAtOnce(t *testing.T) {
	for says, s := range map[string]mail.Server{
		"host:port":   {Address: "mail.example.org"},
		"STARTTLS is": {Address: "mail.example.org:587", STARTTLS: "perhaps"},
		"the sender":  {Address: "mail.example.org:587", From: "nobody"},
	} {
		_, err := mail.NewSender(s)
		require.ErrorContains(t, err, says)
	}
}
