package value_test

import (
	"math/big"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

func drawNumber(t *rapid.T, name string) value.Value {
	text := rapid.StringMatching(`-?(0|[1-9][0-9]{0,16})`).Draw(t, name)
	if places := 17 - len(strings.TrimPrefix(text, "-")); places > 0 && rapid.Bool().Draw(t, name+" has decimals") {
		text += "." + strings.Repeat("0", rapid.IntRange(0, 30).Draw(t, name+" zeros")) + rapid.StringMatching(`[0-9]{1,8}`).Draw(t, name+" decimals")
	}
	v, _, err := value.ParseRounded(text)
	require.NoError(t, err)
	return v
}

func exactly(t require.TestingT, v value.Value) *big.Rat {
	r, ok := new(big.Rat).SetString(v.String())
	require.True(t, ok, v.String())
	return r
}

// nearest asks that got is want rounded half to even to 18 significant digits.
func nearest(t *rapid.T, want *big.Rat, got value.Value, err error) {
	limit := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(18), nil))
	if new(big.Rat).Abs(want).Cmp(limit) >= 0 {
		require.Error(t, err)
		return
	}
	require.NoError(t, err)
	if want.Sign() == 0 {
		require.Equal(t, "0", got.String())
		return
	}
	// scaled has 18 digits before the mark
	scaled, unit := new(big.Rat).Abs(want), big.NewRat(1, 1)
	low, ten := new(big.Rat).Quo(limit, big.NewRat(10, 1)), big.NewRat(10, 1)
	for scaled.Cmp(low) < 0 {
		scaled.Mul(scaled, ten)
		unit.Quo(unit, ten)
	}
	whole, rest := new(big.Int).QuoRem(scaled.Num(), scaled.Denom(), new(big.Int))
	switch new(big.Int).Lsh(rest, 1).Cmp(scaled.Denom()) {
	case 1:
		whole.Add(whole, big.NewInt(1))
	case 0:
		if whole.Bit(0) == 1 {
			whole.Add(whole, big.NewInt(1))
		}
	}
	rounded := new(big.Rat).Mul(new(big.Rat).SetInt(whole), unit)
	if want.Sign() < 0 {
		rounded.Neg(rounded)
	}
	require.Zero(t, rounded.Cmp(exactly(t, got)), "%s, not %s", got, rounded.FloatString(60))
}

func TestArithmeticRoundsOnceHalfToEven(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := drawNumber(t, "a"), drawNumber(t, "b")
		x, y := exactly(t, a), exactly(t, b)
		sum, err := value.Add(a, b)
		nearest(t, new(big.Rat).Add(x, y), sum, err)
		difference, err := value.Sub(a, b)
		nearest(t, new(big.Rat).Sub(x, y), difference, err)
		product, err := value.Mul(a, b)
		nearest(t, new(big.Rat).Mul(x, y), product, err)
		quotient, err := value.Div(a, b)
		if y.Sign() == 0 {
			require.Error(t, err)
		} else {
			nearest(t, new(big.Rat).Quo(x, y), quotient, err)
		}
		require.Equal(t, x.Cmp(y), value.Compare(a, b))
		again, err := value.ParseNumber(a.String())
		require.NoError(t, err)
		require.Equal(t, a, again)
	})
}

func TestSumsAreExactInAnyOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		numbers := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) value.Value { return drawNumber(t, "n") }), 1, 30).Draw(t, "numbers")
		want, there, back := new(big.Rat), value.Sum{}, value.Sum{}
		for i := range numbers {
			want.Add(want, exactly(t, numbers[i]))
			there.Add(numbers[i])
			back.Add(numbers[len(numbers)-1-i])
		}
		sum, err := there.Value()
		nearest(t, want, sum, err)
		again, other := back.Value()
		require.Equal(t, sum, again)
		require.Equal(t, err == nil, other == nil)
		mean, err := there.Mean(int64(len(numbers)))
		nearest(t, new(big.Rat).Quo(want, big.NewRat(int64(len(numbers)), 1)), mean, err)
	})
}

func TestArithmeticAsPeopleMeetIt(t *testing.T) {
	num := value.MustNumber
	for _, c := range []struct {
		got  func() (value.Value, error)
		want string
	}{
		{func() (value.Value, error) { return value.Div(num("5"), num("120")) }, "0.0416666666666666667"},
		{func() (value.Value, error) { return value.Div(num("0.1"), num("2")) }, "0.05"},
		{func() (value.Value, error) { return value.Mul(num("0.0000000001"), num("0.0000000001")) }, "0.00000000000000000001"},
		{func() (value.Value, error) { return value.Mul(num("123456789.123"), num("987654321.987")) }, "121932631355968601"},
		{func() (value.Value, error) { return value.Round(num("2.5"), 0) }, "2"},
		{func() (value.Value, error) { return value.Round(num("1234567"), -3) }, "1235000"},
		{func() (value.Value, error) { return value.Round(num("0.125"), 2) }, "0.12"},
	} {
		v, err := c.got()
		require.NoError(t, err)
		assert.Equal(t, c.want, v.String())
	}
	_, err := value.Mul(num("1000000000"), num("1000000000"))
	assert.ErrorContains(t, err, "too large")

	var sum value.Sum
	for range 100 {
		sum.Add(num("0.01"))
	}
	sum.Add(num("100000000000000000"))
	sum.Add(num("-100000000000000000"))
	v, err := sum.Value()
	require.NoError(t, err)
	assert.Equal(t, "1", v.String())
	assert.True(t, slices.IsSortedFunc([]value.Value{num("-0.1"), num("0"), num("0.00000000000000000001"), num("0.1")}, value.Compare))
}
