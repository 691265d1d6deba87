package local_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

type people map[string][]string

func (p people) Addresses(name string) []string { return p[value.Fold(name)] }

func (p people) Names() []string { return []string{"Marta Quell", "Rosa Venn"} }

var form = &local.Form{Today: value.OfDate(2026, time.November, 28),
	People: people{"marta quell": {"marta@example.org"}, "rosa venn": {"rosa@example.org", "venn@example.org"}, "venn, joren": {"joren@example.org"}}}

var (
	date     = value.Type{Kind: value.Date}
	dateTime = value.Type{Kind: value.DateTime}
	plain    = value.Type{Kind: value.Number}
	euros    = value.Type{Kind: value.Number, Display: "EUR"}
	percent  = value.Type{Kind: value.Number, Display: "percent"}
	hours    = value.Type{Kind: value.Number, Display: value.Duration}
	tick     = value.Type{Kind: value.Checkbox}
	person   = value.Type{Kind: value.Person}
	crew     = value.Type{Kind: value.Person, Several: true}
	level    = value.Type{Kind: value.Choice, Several: true, Options: []value.Option{{Name: "High"}, {Name: "Low"}}}
)

func TestWhatPeopleWrite(t *testing.T) {
	for _, c := range []struct {
		text  string
		typ   value.Type
		want  string
		taken string
	}{
		{"2026-11-27", date, "2026-11-27", ""},
		{"27/11/2026", date, "2026-11-27", ""},
		{"11/27/2026", date, "2026-11-27", ""},
		{"27.11.2026", date, "2026-11-27", ""},
		{"03.04.2026", date, "2026-04-03", ""},
		{"03/04/2026", date, "2026-04-03", "2026-04-03, the day first"},
		{"04/04/2026", date, "2026-04-04", ""},
		{"27/11/26", date, "2026-11-27", ""},
		{"27 Nov 2026", date, "2026-11-27", ""},
		{"27 november 2026", date, "2026-11-27", ""},
		{"November 27, 2026", date, "2026-11-27", ""},
		{"Fri 27 Nov 2026", date, "2026-11-27", ""},
		{"4 Dec", date, "2026-12-04", "2026-12-04"},
		{"Dec 4th", date, "2026-12-04", "2026-12-04"},
		{"4 Jan", date, "2027-01-04", "2027-01-04"},
		{"29 Feb", date, "", ""},
		{"2026/11/27", date, "2026-11-27", ""},
		{"27/11/2026 16:30", dateTime, "2026-11-27T16:30", ""},
		{"27 Nov 2026 4:30 pm", dateTime, "2026-11-27T16:30", ""},
		{"27 Nov 2026, 12 am", dateTime, "2026-11-27T00:00", ""},
		{"27/11/2026", dateTime, "2026-11-27T00:00", ""},
		{"27/11/2026 16:30", date, "", ""},
		{"31/11/2026", date, "", ""},
		{"27.13.2026", date, "", ""},
		{"11.27.2026", date, "", ""},
		{"soon", date, "", ""},
		{"1,5", plain, "1.5", ""},
		{"1.5", plain, "1.5", ""},
		{".5", plain, "0.5", ""},
		{"-,25", plain, "-0.25", ""},
		{"1e-5", plain, "0.00001", ""},
		{"1.234,56", plain, "1234.56", ""},
		{"1,234.56", plain, "1234.56", ""},
		{"1 234 567", plain, "1234567", ""},
		{"1\u202f234,5", plain, "1234.5", ""},
		{"1'234.50", plain, "1234.5", ""},
		{"1,234", plain, "1234", "1234, the comma taken to part thousands"},
		{"1.234", plain, "1.234", "1.234, the point taken for the decimal mark"},
		{"0.125", plain, "0.125", ""},
		{"45 %", plain, "0.45", ""},
		{"45%", percent, "0.45", ""},
		{"12,5 %", percent, "0.125", ""},
		{"€ 1.250,50", euros, "1250.5", ""},
		{"1250 EUR", euros, "1250", ""},
		{"$20", euros, "", ""},
		{"20 %", euros, "", ""},
		{"€20", plain, "20", "20, without its currency"},
		{"(15)", plain, "-15", ""},
		{"−3", plain, "-3", ""},
		{"0.1234567890123456789012", plain, "0.123456789012345679", "0.123456789012345679, rounded to 18 digits"},
		{"1234567890123456789012", plain, "", ""},
		{"ten", plain, "", ""},
		{"36:00", hours, "36", ""},
		{"1:30", hours, "1.5", ""},
		{"-0:45", hours, "-0.75", ""},
		{"0:00:36", hours, "0.01", ""},
		{"2 h 15 min", hours, "2.25", ""},
		{"90 min", hours, "1.5", ""},
		{"1,5 h", hours, "1.5", ""},
		{"7.25", hours, "7.25", ""},
		{"1:75", hours, "", ""},
		{"36:00", plain, "", ""},
		{"x", tick, "yes", ""},
		{"Ja", tick, "yes", ""},
		{"n", tick, "no", ""},
		{"perhaps", tick, "", ""},
		{"Marta Quell", person, "marta@example.org", ""},
		{" marta  QUELL ", person, "marta@example.org", ""},
		{"Marta <marta@example.org>", person, "marta@example.org", ""},
		{"Venn, Joren", person, "joren@example.org", ""},
		{"Rosa Venn", person, "", ""},
		{"Nobody", person, "", ""},
		{"a@example.org; b@example.org", person, "", ""},
		{"a@example.org; Marta Quell, a@example.org", crew, "a@example.org; marta@example.org", ""},
		{"high, low", level, "High; Low", ""},
		{"Hihg", level, "", ""},
		{"  ", date, "", ""},
	} {
		v, taken, err := form.Read(c.text, c.typ)
		if c.want == "" && value.OfText(c.text).IsBlank() {
			require.NoError(t, err)
			assert.True(t, v.IsBlank())
			continue
		}
		if c.want == "" {
			var misfit *value.Misfit
			assert.ErrorAs(t, err, &misfit, "%q as %s", c.text, c.typ.Kind)
			continue
		}
		if assert.NoError(t, err, "%q as %s", c.text, c.typ.Kind) {
			assert.Equal(t, c.want, v.String(), "%q as %s", c.text, c.typ.Kind)
			assert.Equal(t, c.taken, taken, c.text)
		}
	}
}

func TestTheTrackersFormDecidesWhatCouldBeSwapped(t *testing.T) {
	for dates, want := range map[string]string{"03/31/2026": "2026-03-04", "31/03/2026": "2026-04-03", "31.03.2026": "2026-04-03", "31 Mar 2026": "2026-04-03"} {
		v, taken, err := (&local.Form{Dates: dates}).Read("03/04/2026", date)
		require.NoError(t, err)
		assert.Equal(t, want, v.String(), dates)
		assert.Empty(t, taken, "nothing was guessed")
	}
	_, _, err := (&local.Form{}).Read("4 Dec", date)
	assert.Error(t, err, "no year, and nobody knows which it is")
}

func TestMisfitsSayWhatWouldFit(t *testing.T) {
	for text, c := range map[string]struct {
		typ  value.Type
		says string
	}{
		"Hihg":           {level, `"Hihg" is not one of the choices: High, Low. Did you mean High?`},
		"Rosa Venn":      {person, `"Rosa Venn" could be rosa@example.org or venn@example.org: write the address`},
		"Marta Qell":     {person, `"Marta Qell" is nobody's name here: did you mean Marta Quell?`},
		"$20":            {euros, `"$20" is in USD, and the column holds EUR`},
		"36:00":          {plain, `"36:00" is a length of time, not a number: give the column the format duration, or write hours as 1.5`},
		"1 Dec 2026 9am": {date, `"1 Dec 2026 9am" is a date and a time, and the column holds dates: write 2026-12-01`},
	} {
		_, _, err := form.Read(text, c.typ)
		assert.EqualError(t, err, c.says)
		assert.Equal(t, c.says, form.Why(text, c.typ).Error())
	}
	assert.Nil(t, form.Why("27/11/2026", date))
}

// What a value is written as reads as that value, without a word.
func TestCanonicalTextReadsAsItself(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		for _, c := range []struct {
			v value.Value
			t value.Type
		}{
			{value.OfDays(rapid.Int64Range(-300_000, 1_000_000).Draw(t, "day")), date},
			{value.OfSeconds(rapid.Int64Range(-1e10, 1e11).Draw(t, "second")), dateTime},
			{value.MustNumber(rapid.StringMatching(`-?(0|[1-9][0-9]{0,8})(\.[0-9]{1,8})?`).Draw(t, "number")), plain},
			{value.OfBool(rapid.Bool().Draw(t, "tick")), tick},
			{value.OfPeople("a@example.org", "b@example.org"), crew},
		} {
			v, _, err := form.Read(c.v.String(), c.t)
			require.NoError(t, err)
			require.Equal(t, c.v, v)
			v, taken, err := form.Read(c.v, c.t)
			require.NoError(t, err)
			require.Equal(t, c.v, v)
			require.Empty(t, taken)
		}
	})
}

// A length of time shown reads as what is shown.
func TestLengthsOfTimeReadAsShown(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		seconds := rapid.Int64Range(-1e8, 1e8).Draw(t, "seconds")
		v, err := value.Div(value.OfInt(seconds), value.OfInt(3600))
		require.NoError(t, err)
		again, _, err := form.Read(v.Show(hours), hours)
		require.NoError(t, err)
		require.Equal(t, v.Show(hours), again.Show(hours))
	})
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"27/11/2026", "4 Dec", "€ 1.250,50", "36:00", "Marta <m@example.org>", "(15)", "1e-5"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, typ := range []value.Type{date, dateTime, plain, euros, percent, hours, tick, person, crew, level} {
			v, _, err := form.Read(text, typ)
			if err != nil {
				continue
			}
			if v.IsOdd() {
				t.Fatalf("%q as %s is odd, without an error", text, typ.Kind)
			}
			again, _, err := form.Read(v.String(), typ)
			if err != nil || again != v {
				t.Fatalf("%q as %s is %q, which reads as %q, %v", text, typ.Kind, v, again, err)
			}
		}
	})
}
