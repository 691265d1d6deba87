package value_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

var (
	stage = value.Type{Kind: value.Choice, Options: []value.Option{{Name: "Agreed"}, {Name: "In transit"}, {Name: "On; hold"}}}
	tags  = value.Type{Kind: value.Choice, Several: true, Options: stage.Options}
)

func TestParseReadsWhatFitsAndSaysWhatDoesNot(t *testing.T) {
	for _, tc := range []struct {
		typ  value.Type
		text string
		want string // canonical text, or part of the reason after "!"
	}{
		{value.Type{Kind: value.Text}, " two  words ", " two  words "},
		{value.Type{Kind: value.Text}, "007", "007"},
		{value.Type{Kind: value.Text}, "1E10", "1E10"},
		{value.Type{Kind: value.Number}, "007", "7"},
		{value.Type{Kind: value.Number}, "-0.50", "-0.5"},
		{value.Type{Kind: value.Number}, "1e3", "1000"},
		{value.Type{Kind: value.Number}, "123456789012345678", "123456789012345678"},
		{value.Type{Kind: value.Number}, "1234567890123456789", "!more than 18"},
		{value.Type{Kind: value.Number}, "12,5", "!is not a number"},
		{value.Type{Kind: value.Number, Display: "percent"}, "12.5 %", "0.125"},
		{value.Type{Kind: value.Date}, "2026-03-31", "2026-03-31"},
		{value.Type{Kind: value.Date}, "2026-02-30", "!is not a date"},
		{value.Type{Kind: value.Date}, "31.03.2026", "!write it as 2026-03-31"},
		{value.Type{Kind: value.Date}, "TBC", "!is not a date"},
		{value.Type{Kind: value.DateTime}, "2026-03-31 08:30", "2026-03-31T08:30"},
		{value.Type{Kind: value.DateTime}, "2026-03-31T08:30:05", "2026-03-31T08:30:05"},
		{value.Type{Kind: value.Checkbox}, "YES", "yes"},
		{value.Type{Kind: value.Checkbox}, "perhaps", "!neither yes nor no"},
		{stage, "agreed", "Agreed"},
		{stage, "Agred", "!Did you mean Agreed?"},
		{stage, "On; hold", `"On; hold"`},
		{tags, `Agreed; "On; hold"`, `Agreed; "On; hold"`},
		{value.Type{Kind: value.Person}, "Marta.Quell@EXAMPLE.org", "Marta.Quell@example.org"},
		{value.Type{Kind: value.Person}, "Marta", "!is not a mail address"},
		{value.Type{Kind: value.Link}, "photo <https://images.example.org/7>", "photo <https://images.example.org/7>"},
		{value.Type{Kind: value.Link}, "no address", "!is not a link"},
	} {
		t.Run(fmt.Sprint(tc.typ.Kind, " ", tc.text), func(t *testing.T) {
			v, err := value.Parse(tc.text, tc.typ)
			if reason, bad := strings.CutPrefix(tc.want, "!"); bad {
				var m *value.Misfit
				require.ErrorAs(t, err, &m)
				assert.Contains(t, m.Error(), reason)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, tc.want, v.String())
		})
	}
}

func TestWhiteSpaceAloneIsBlankInEveryType(t *testing.T) {
	for k := value.Text; k < value.Odd; k++ {
		v, err := value.Parse(" \t ", value.Type{Kind: k})
		require.NoError(t, err, k)
		assert.True(t, v.IsBlank(), k)
	}
}

// anyValue draws a value with the type it fits.
func anyValue(t *rapid.T) (value.Value, value.Type) {
	switch rapid.IntRange(0, 8).Draw(t, "kind") {
	case 0:
		return value.OfText(rapid.StringN(0, 30, -1).Filter(func(s string) bool { return s == "" || strings.TrimSpace(s) != "" }).Draw(t, "text")), value.Type{Kind: value.Text}
	case 1:
		n := rapid.Int64Range(-999_999_999_999_999_999, 999_999_999_999_999_999).Draw(t, "number")
		v, err := value.ParseNumber(fmt.Sprintf("%de-%d", n, rapid.IntRange(0, 9).Draw(t, "scale")))
		if err != nil {
			t.Fatalf("%d: %v", n, err)
		}
		return v, value.Type{Kind: value.Number}
	case 2:
		return value.OfDays(rapid.Int64Range(-200_000, 700_000).Draw(t, "day")), value.Type{Kind: value.Date}
	case 3:
		return value.OfSeconds(rapid.Int64Range(-3_000_000_000, 60_000_000_000).Draw(t, "second")), value.Type{Kind: value.DateTime}
	case 4:
		return value.OfBool(rapid.Bool().Draw(t, "tick")), value.Type{Kind: value.Checkbox}
	case 5:
		return value.OfChoice(rapid.SampledFrom(stage.Options).Draw(t, "option").Name), stage
	case 6:
		var names []string
		for _, o := range rapid.SliceOfNDistinct(rapid.SampledFrom(tags.Options), 1, 3, func(o value.Option) string { return o.Name }).Draw(t, "options") {
			names = append(names, o.Name)
		}
		return value.OfChoice(names...), tags
	case 7:
		return value.OfPerson(rapid.StringMatching(`[a-z]{1,8}@[a-z]{1,8}\.org`).Draw(t, "person")), value.Type{Kind: value.Person}
	}
	return value.OfLink("https://example.org/"+rapid.StringMatching(`[a-z0-9]{1,8}`).Draw(t, "page"), rapid.StringMatching(`[A-Za-z ]{0,12}`).Draw(t, "label")), value.Type{Kind: value.Link}
}

func TestCanonicalTextReadsBackAsTheSameValue(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v, typ := anyValue(t)
		got, err := value.Parse(v.String(), typ)
		if err != nil {
			t.Fatalf("%q: %v", v.String(), err)
		}
		if got != v {
			t.Fatalf("%q came back as %q", v.String(), got.String())
		}
	})
}

func TestWireFormReadsBackAsTheSameValue(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v, typ := anyValue(t)
		text, err := json.Marshal(v.JSON(typ))
		if err != nil {
			t.Fatal(err)
		}
		d := json.NewDecoder(strings.NewReader(string(text)))
		d.UseNumber()
		var raw any
		if err := d.Decode(&raw); err != nil {
			t.Fatal(err)
		}
		got, err := value.FromJSON(raw, typ)
		if err != nil || got != v {
			t.Fatalf("%s came back as %q (%v)", text, got.String(), err)
		}
	})
}

func TestComparingIsATotalOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, _ := anyValue(t)
		b, _ := anyValue(t)
		c, _ := anyValue(t)
		if value.Compare(a, b) != -value.Compare(b, a) {
			t.Fatalf("%q and %q are in no order", a, b)
		}
		if value.Compare(a, b) <= 0 && value.Compare(b, c) <= 0 && value.Compare(a, c) > 0 {
			t.Fatalf("%q, %q, %q go round in a circle", a, b, c)
		}
	})
}

func TestEqualIsAsReadersSeeIt(t *testing.T) {
	day := value.OfDate(2026, time.March, 31)
	for _, tc := range []struct {
		a, b value.Value
		want bool
	}{
		{value.OfText(" North Pier"), value.OfText("north pier "), true},
		{value.OfText("Agreed"), value.OfChoice("agreed"), true},
		{value.MustNumber("1.50"), value.MustNumber("1.5"), true},
		{day, value.DateTimeOf(day.Time()), true},
		{value.OfText("7"), value.OfInt(7), false},
		{value.Value{}, value.OfText("  "), true},
		{value.OfOdd("TBC"), value.OfOdd("TBC"), false},
		{value.Value{}, value.OfInt(0), false},
	} {
		assert.Equal(t, tc.want, value.Equal(tc.a, tc.b), "%q and %q", tc.a, tc.b)
	}
}

func TestArithmeticIsDecimal(t *testing.T) {
	sum, err := value.Add(value.MustNumber("0.1"), value.MustNumber("0.2"))
	require.NoError(t, err)
	assert.Equal(t, "0.3", sum.String())

	total := value.OfInt(0)
	for range 100_000 {
		total, err = value.Add(total, value.MustNumber("0.01"))
		require.NoError(t, err)
	}
	assert.Equal(t, "1000", total.String())

	_, err = value.Div(value.OfInt(1), value.OfInt(0))
	require.Error(t, err)
	third, err := value.Div(value.OfInt(1), value.OfInt(3))
	require.NoError(t, err)
	assert.Equal(t, "0.333333333333333333", third.String())
}

func TestAddingAndTakingAwayGiveBackTheNumber(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := value.OfInt(rapid.Int64Range(-1e14, 1e14).Draw(t, "a"))
		b := value.MustNumber(fmt.Sprintf("%d.%02d", rapid.IntRange(0, 1e6).Draw(t, "b"), rapid.IntRange(0, 99).Draw(t, "cents")))
		sum, err := value.Add(a, b)
		if err != nil {
			t.Fatal(err)
		}
		if back, err := value.Sub(sum, b); err != nil || back != a {
			t.Fatalf("%s + %s - %s = %s (%v)", a, b, b, back, err)
		}
	})
}

func TestShowIsAsPeopleRead(t *testing.T) {
	assert.Equal(t, "12 500.00 EUR", strings.ReplaceAll(value.OfInt(12500).Show(value.Type{Kind: value.Number, Display: "EUR"}), "\u202f", " "))
	assert.Equal(t, "12.5 %", value.MustNumber("0.125").Show(value.Type{Kind: value.Number, Display: "percent"}))
	assert.Equal(t, "4 of 5", value.OfInt(4).Show(value.Type{Kind: value.Number, Display: "rating"}))
	assert.Equal(t, "photo", value.OfLink("https://example.org", "photo").Show(value.Type{Kind: value.Link}))
	assert.Equal(t, "2026-03-31 08:30", value.DateTimeOf(time.Date(2026, 3, 31, 8, 30, 0, 0, time.UTC)).Show(value.Type{}))
}

func TestFitKeepsWhatDoesNotFit(t *testing.T) {
	v, err := value.Fit(value.OfText("TBC"), value.Type{Kind: value.Date})
	require.Error(t, err)
	assert.True(t, v.IsOdd())
	assert.Equal(t, "TBC", v.Raw())
	v, err = value.Fit(value.OfText("2026-03-31"), value.Type{Kind: value.Date})
	require.NoError(t, err)
	assert.Equal(t, value.OfDate(2026, time.March, 31), v)
}

func TestNearestFindsTheNameMeant(t *testing.T) {
	names := []string{"Requested", "Agreed", "Crating", "In transit", "On display", "Returned"}
	for wrong, want := range map[string]string{"Agred": "Agreed", "in transt": "In transit", "crateing": "Crating", "Display": "On display", "xyz": "", "Request": "Requested"} {
		assert.Equal(t, want, value.Nearest(wrong, names), wrong)
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"", "12.5", "1e400", "-", "2026-03-31T25:00", `a; "b"";`, "x <y>", "\x00", "９"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for k := value.Text; k < value.Odd; k++ {
			for _, typ := range []value.Type{{Kind: k}, {Kind: k, Several: true, Options: stage.Options, Display: "percent"}} {
				v, err := value.Parse(s, typ)
				if err != nil {
					continue
				}
				if again, err := value.Parse(v.String(), typ); err != nil || again != v {
					t.Fatalf("%s: %q gave %q, which gave %q (%v)", k, s, v, again, err)
				}
			}
		}
	})
}
