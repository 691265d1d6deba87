package value_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

// anyOrdered draws a value of a kind that has an order, now and then odd, blank
// or of another kind.
func anyOrdered(t *rapid.T, kind value.Kind) value.Value {
	switch rapid.IntRange(0, 11).Draw(t, "what") {
	case 0:
		return value.Value{}
	case 1:
		return value.OfOdd("TBC")
	}
	n := rapid.OneOf(rapid.Int64Range(-9, 9), rapid.Int64Range(-1<<40, 1<<40)).Draw(t, "n")
	switch kind {
	case value.Date:
		return value.OfDays(n % 1_000_000)
	case value.DateTime:
		return value.OfSeconds(n)
	case value.Number:
		v, err := value.Div(value.OfInt(n), value.OfInt([]int64{1, 10, 100, 1_000_000}[rapid.IntRange(0, 3).Draw(t, "scale")]))
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	return value.OfText("word")
}

// What a vector says of many cells at once is what comparing them one by one says.
func TestVectorsAgreeWithComparingOneByOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom([]value.Kind{value.Date, value.DateTime, value.Number, value.Text}).Draw(t, "kind")
		cells := make([]value.Value, rapid.IntRange(0, value.VectorRows).Draw(t, "cells"))
		for i := range cells {
			cells[i] = anyOrdered(t, kind)
		}
		var v value.Vector
		v.Fill(len(cells), func(i int) *value.Value { return &cells[i] })
		for i, c := range cells {
			require.Equal(t, c.IsBlank(), v.Blank.Has(i))
			require.Equal(t, c.IsOdd(), v.Odd.Has(i))
		}
		bound := anyOrdered(t, rapid.SampledFrom([]value.Kind{kind, value.Date}).Draw(t, "bound"))
		if bound.IsBlank() || bound.IsOdd() {
			return
		}
		for _, upTo := range []bool{false, true} {
			below, told := v.Below(bound, upTo)
			if !told {
				continue
			}
			for i, c := range cells {
				if c.IsBlank() || c.IsOdd() {
					continue
				}
				want := value.Compare(c, bound) < 0 || upTo && value.Compare(c, bound) == 0
				if c.Kind() == value.DateTime && bound.Kind() == value.Date { // on the day is on it
					want = c.Days() < bound.Days() || upTo && c.Days() == bound.Days()
				}
				if below.Has(i) != want {
					t.Fatalf("%s against %s, up to it %v: the vector says %v", c, bound, upTo, below.Has(i))
				}
			}
		}
	})
}

func TestBits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n, m := rapid.IntRange(0, value.VectorRows).Draw(t, "n"), rapid.IntRange(0, value.VectorRows).Draw(t, "m")
		a, b := value.FirstBits(n), value.FirstBits(m)
		assert.Equal(t, n, a.Count())
		assert.Equal(t, min(n, m), a.And(b).Count())
		assert.Equal(t, max(n, m), a.Or(b).Count())
		assert.Equal(t, max(0, n-m), a.Without(b).Count())
		for i := range value.VectorRows {
			assert.Equal(t, i < n, a.Has(i))
		}
	})
}

func TestPartsMakeTheSameValueAgain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := anyOrdered(t, rapid.SampledFrom([]value.Kind{value.Date, value.DateTime, value.Number, value.Text}).Draw(t, "kind"))
		parts, plain := v.Parts()
		assert.Equal(t, v.Raw() == "", plain)
		if plain {
			assert.Equal(t, v, parts.Of())
		}
	})
}

func TestStoredValuesAreRestoredWhateverTheirColumnHasBecome(t *testing.T) {
	for _, v := range []value.Value{value.OfText("007"), value.MustNumber("-12.50"), value.OfDays(20_536), value.OfSeconds(1_774_000_000), value.OfBool(true), value.OfChoice("Dropped since", "a; b"),
		value.OfPerson("a@example.org"), value.OfLink("https://example.org/1", "image"), value.OfFile("report.pdf", "the report"), {}} {
		got, err := value.Restore(v.Kind(), v.String())
		require.NoError(t, err)
		assert.Equal(t, v, got)
	}
	_, err := value.Restore(value.Date, "TBC")
	require.Error(t, err)
}

func TestDatesAreShownAsPeopleWriteThem(t *testing.T) {
	day, moment, date := value.OfDate(2026, 3, 31), value.OfSeconds(value.OfDate(2026, 3, 31).Seconds()+8*3600+30*60), value.Type{Kind: value.Date}
	for i, want := range []string{"2026-03-31", "31.03.2026", "31/03/2026", "03/31/2026", "31 March 2026", "31 Mar 2026"} {
		assert.Equal(t, want, day.ShowDated(date, value.DateStyles[i]))
	}
	assert.Equal(t, "31.03.2026 08:30", moment.ShowDated(value.Type{Kind: value.DateTime}, "31.03.2026"))
	assert.Equal(t, "2026-03-31", day.ShowDated(date, "of no such style"))
	assert.Equal(t, "TBC", value.OfOdd("TBC").ShowDated(date, "31.03.2026"))
}

func TestNumbersAreShownAsPeopleWriteThem(t *testing.T) {
	n, err := value.ParseNumber("-1234567.5")
	require.NoError(t, err)
	plain, money, percent := value.Type{Kind: value.Number}, value.Type{Kind: value.Number, Display: "EUR"}, value.Type{Kind: value.Number, Display: "percent"}
	for i, want := range [][3]string{
		{"-1234567.5", "-1\u202f234\u202f567.50 EUR", "-123456750 %"},
		{"-1234567.5", "-1,234,567.50 EUR", "-123456750 %"},
		{"-1234567,5", "-1.234.567,50 EUR", "-123456750 %"},
		{"-1234567,5", "-1\u202f234\u202f567,50 EUR", "-123456750 %"},
	} {
		in := value.Style{Numbers: value.NumberStyles[i]}
		assert.Equal(t, want, [3]string{n.ShowIn(plain, in), n.ShowIn(money, in), n.ShowIn(percent, in)})
	}
	assert.Equal(t, "1.5", value.OfText("1.5").ShowIn(value.Type{Kind: value.Text}, value.Style{Numbers: "1.234,5"}))
	assert.Equal(t, "31.03.2026", value.OfDate(2026, 3, 31).ShowIn(value.Type{Kind: value.Date}, value.Style{Dates: "31.03.2026", Numbers: "1.234,5"}))
}

func TestFloatsComeAsSpreadsheetsShowThem(t *testing.T) {
	for f, want := range map[float64]string{0.1 + 0.2: "0.3", 1.0 / 3: "0.333333333333333", 1e15: "1000000000000000", -0.5: "-0.5", 0: "0"} {
		v, err := value.OfFloat(f)
		require.NoError(t, err)
		assert.Equal(t, want, v.String())
	}
	for digits, want := range map[int]string{0: "2", 1: "2.3", 2: "2.34"} { // half goes to the even digit
		v, err := value.Round(value.MustNumber("2.345"), digits)
		require.NoError(t, err)
		assert.Equal(t, want, v.String())
	}
}

func TestKindsAreWrittenByName(t *testing.T) {
	for k := value.Text; k < value.Odd; k++ {
		text, err := k.MarshalText()
		require.NoError(t, err)
		var back value.Kind
		require.NoError(t, back.UnmarshalText(text))
		assert.Equal(t, k, back)
	}
	var k value.Kind
	require.ErrorContains(t, k.UnmarshalText([]byte("colour")), `"colour" is not a column type`)
	assert.Equal(t, "text", value.Text.Phrase())
	assert.Equal(t, "a date", value.Date.Phrase())
	assert.Equal(t, "an odd cell", value.Odd.Phrase())
}

func TestAddressesOfLinksAndFiles(t *testing.T) {
	for _, tc := range []struct {
		v              value.Value
		address, label string
	}{
		{value.OfFile("a/report.pdf", "the  report"), "a/report.pdf", "the report"},
		{value.OfFile("report.pdf", "report.pdf"), "report.pdf", "report.pdf"},
		{value.OfLink("https://example.org/<1>", ""), "https://example.org/<1>", "https://example.org/<1>"},
		{value.OfText("a <b>"), "", ""},
	} {
		address, label := tc.v.Address()
		assert.Equal(t, tc.address, address)
		assert.Equal(t, tc.label, label)
	}
}
