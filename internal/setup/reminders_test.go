package setup_test

import (
	"testing"

	"example.org/kavlo/internal/kinds"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const withReminders = `tracker: Loans
zone: UTC
tabs:
  Crating: { columns: { Object: { type: text }, Registrar: { type: person }, Due: { type: date }, Closed: { type: checkbox } } }
reminders:
`

func TestRemindersAreReadAndWritten(t *testing.T) {
	text := withReminders + `  - { name: A, in: Crating, where: Due before today, to: "{Registrar}", due: Due, group: upper(Object), copy: a@example.org, otherwise: b@example.org, raise: { after: 5 workdays, to: c@example.org }, repeat: every 3 days, act: { done: { Closed: "yes" }, date: Due } }
  - { name: B, in: Crating, where: Due before today, to: "{Registrar}", raise: { after: 7 days, to: "{Registrar}" }, repeat: once, act: no }
`
	shape, err := kinds.Setup.Parse([]byte(text), nil, ids())
	require.NoError(t, err)
	require.NoError(t, valid(t, text))
	saved, err := kinds.Setup.Encode(shape)
	require.NoError(t, err)
	again, err := kinds.Setup.Parse(saved, shape, ids())
	require.NoError(t, err, "%s", saved)
	assert.Equal(t, shape, again)
}

func TestWaysToWriteDates(t *testing.T) {
	shape, err := kinds.Setup.Parse([]byte("tracker: T\nzone: UTC\ndates: 31.03.2026\n"), nil, ids())
	require.NoError(t, err)
	saved, err := kinds.Setup.Encode(shape)
	require.NoError(t, err)
	assert.Contains(t, string(saved), "dates: 31.03.2026")
	shape, err = kinds.Setup.Parse([]byte("tracker: T\nzone: UTC\nnumbers: 1.234,5\n"), nil, ids())
	require.NoError(t, err)
	saved, err = kinds.Setup.Encode(shape)
	require.NoError(t, err)
	assert.Contains(t, string(saved), "numbers: 1.234,5")
	_, err = kinds.Setup.Parse([]byte("tracker: T\nzone: UTC\nnumbers: plenty\n"), nil, ids())
	require.ErrorContains(t, err, "write 1234.5 as one of")
	_, err = kinds.Setup.Parse([]byte("tracker: T\nzone: UTC\ndates: sometime\n"), nil, ids())
	require.ErrorContains(t, err, "write the last of March 2026 as one of")
}

func TestMistakesInReminders(t *testing.T) {
	for more, says := range map[string]string{
		"due: Object": "due is a date, and this is text",
		"due: Dew":    "did you mean Due?",
		"raise: { after: soon, to: a@example.org }": "write 7 days or 5 workdays",
		"raise: { after: 7 days }":                  "say to whom",
		"raise: { after: 0 days, to: a@b.example }": "write 7 days or 5 workdays",
		"repeat: sometimes":                         "write every round, once or every 3 days",
		"repeat: every 3 days or so":                "write every round, once or every 3 days",
		"act: { done: { Closd: yes } }":             "did you mean Closed?",
		"act: { date: Object }":                     "stored date column",
		"act: { finish: yes }":                      `there is no key "finish"`,
	} {
		_, err := kinds.Setup.Parse([]byte(withReminders+"  - { name: A, in: Crating, where: Due before today, to: \"{Registrar}\", "+more+" }\n"), nil, ids())
		require.ErrorContains(t, err, says, more)
	}
}
