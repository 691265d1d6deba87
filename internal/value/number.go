package value

import (
	"errors"
	"fmt"
	"math"
	"math/bits"
	"strconv"
	"strings"

	"github.com/cockroachdb/apd/v3"
)

// MaxDigits is how many significant digits a number holds exactly.
const MaxDigits = 18

const maxCoefficient = 999_999_999_999_999_999

var errTooLong = fmt.Errorf("has more than %d significant digits", MaxDigits)

// errNotNumber says that text is no number at all.
var errNotNumber = errors.New("is not a number")

// number gives the number n / 10^scale in canonical form: no trailing zeros
// after the decimal mark.
func number(n int64, scale int) (Value, error) {
	for scale > 0 && n%10 == 0 && n != 0 {
		n /= 10
		scale--
	}
	if n == 0 {
		scale = 0
	}
	if n > maxCoefficient || n < -maxCoefficient || scale > MaxScale {
		return Value{}, errTooLong
	}
	return Value{kind: Number, n: n, scale: uint8(scale)}, nil
}

// ParseNumber reads a decimal number as JSON writes it (RFC 8259, section 6),
// with an optional leading plus sign and no limit on leading zeros. It is exact:
// a number of more than MaxDigits significant digits is an error.
func ParseNumber(s string) (Value, error) {
	t := strings.TrimSpace(s)
	i, negative := 0, false
	if i < len(t) && (t[i] == '-' || t[i] == '+') {
		negative = t[i] == '-'
		i++
	}
	var n int64
	scale, digits, seenMark := 0, 0, false
	for ; i < len(t); i++ {
		c := t[i]
		if c == '.' && !seenMark && digits > 0 {
			seenMark = true
			continue
		}
		if c < '0' || c > '9' {
			break
		}
		digits++
		if seenMark {
			scale++
		}
		if n > (maxCoefficient-9)/10 {
			if c == '0' && seenMark {
				scale--
				continue
			}
			return Value{}, errTooLong
		}
		n = n*10 + int64(c-'0')
	}
	if digits == 0 || t[i-1] == '.' {
		return Value{}, errNotNumber
	}
	if i < len(t) {
		if t[i] != 'e' && t[i] != 'E' {
			return Value{}, errNotNumber
		}
		e, err := strconv.Atoi(t[i+1:])
		if err != nil || e > 400 || e < -400 {
			return Value{}, errNotNumber
		}
		scale -= e
	}
	for scale < 0 {
		if n > maxCoefficient/10 {
			return Value{}, errTooLong
		}
		n *= 10
		scale++
		if n == 0 {
			scale = 0
		}
	}
	if negative {
		n = -n
	}
	return number(n, scale)
}

// ParseRounded reads a decimal number as ParseNumber does, and one with more digits after
// the decimal mark than a number holds rounded half to even.
func ParseRounded(s string) (v Value, rounded bool, err error) {
	if v, err = ParseNumber(s); err == nil || !errors.Is(err, errTooLong) {
		return v, false, err
	}
	d, _, err := rounding.NewFromString(strings.TrimPrefix(strings.TrimSpace(s), "+"))
	if err != nil || d.Form != apd.Finite {
		return Value{}, false, errTooLong
	}
	v, err = ofDecimal(d)
	return v, true, err
}

// OfFloat gives the decimal number nearest to f with at most 15 significant
// digits, which is what spreadsheet programs show of a stored number.
func OfFloat(f float64) (Value, error) {
	if math.IsNaN(f) || math.IsInf(f, 0) {
		return Value{}, errNotNumber
	}
	return ParseNumber(strconv.FormatFloat(f, 'g', 15, 64))
}

// MustNumber reads a number that is known to be one; for tests and constants.
func MustNumber(s string) Value {
	v, err := ParseNumber(s)
	if err != nil {
		panic(fmt.Sprintf("value: %q %v", s, err))
	}
	return v
}

// Int gives a whole number's value, and whether it is one.
func (v Value) Int() (int64, bool) { return v.n, v.kind == Number && v.scale == 0 }

// Scale gives how many digits after the decimal mark a number has.
func (v Value) Scale() int { return int(v.scale) }

// InUnits gives a number as a whole number of units of so many digits after the decimal
// mark, of which it has no more; not so where that is too large.
func (v Value) InUnits(scale int) (int64, bool) {
	n := v.n
	for s := int(v.scale); s < scale; s++ {
		if n > math.MaxInt64/10 || n < -math.MaxInt64/10 {
			return 0, false
		}
		n *= 10
	}
	return n, true
}

// Float gives the number as a float, for drawing and file formats only.
func (v Value) Float() float64 {
	f, _ := strconv.ParseFloat(v.numberText(), 64)
	return f
}

// Digits gives how many significant digits the number has.
func (v Value) Digits() int {
	return len(strings.TrimLeft(strconv.FormatInt(v.n, 10), "-"))
}

func (v Value) numberText() string {
	if v.scale == 0 {
		return strconv.FormatInt(v.n, 10)
	}
	s := strconv.FormatInt(v.n, 10)
	sign := ""
	if s[0] == '-' {
		sign, s = "-", s[1:]
	}
	for len(s) <= int(v.scale) {
		s = "0" + s
	}
	cut := len(s) - int(v.scale)
	return sign + s[:cut] + "." + s[cut:]
}

// MaxScale is how many digits after the decimal mark a number may have, leading zeros
// among them.
const MaxScale = 120

// rounding works with as many digits as a number holds, half to even; exact with as many
// as there are.
var (
	rounding = apd.Context{Precision: MaxDigits, MaxExponent: apd.MaxExponent, MinExponent: apd.MinExponent, Rounding: apd.RoundHalfEven, Traps: apd.DefaultTraps}
	exact    = apd.BaseContext
)

// Add gives a + b. Arithmetic is decimal: a result is rounded once, half to even, where
// it has more digits than a number holds. Too large a result is an error.
func Add(a, b Value) (Value, error) {
	if a.scale == b.scale { // the common case of cents
		if sum := a.n + b.n; sum <= maxCoefficient && sum >= -maxCoefficient {
			return number(sum, int(a.scale))
		}
	}
	return arithmetic("adding", a, b, (*apd.Context).Add)
}

// Sub gives a - b.
func Sub(a, b Value) (Value, error) { return arithmetic("subtracting", a, b, (*apd.Context).Sub) }

// Mul gives a times b.
func Mul(a, b Value) (Value, error) {
	if high, low := bits.Mul64(uint64(max(a.n, -a.n)), uint64(max(b.n, -b.n))); high == 0 && low <= maxCoefficient {
		return number(a.n*b.n, int(a.scale)+int(b.scale))
	}
	return arithmetic("multiplying", a, b, (*apd.Context).Mul)
}

// Div gives a divided by b; dividing by zero is an error.
func Div(a, b Value) (Value, error) { return arithmetic("dividing", a, b, (*apd.Context).Quo) }

// Round rounds half to even to that many digits after the decimal mark; -3 rounds to
// thousands.
func Round(v Value, digits int) (Value, error) {
	if v.scale == 0 && digits >= 0 || int(v.scale) <= digits {
		return v, nil
	}
	d, whole := v.decimal(), apd.Context{Precision: MaxDigits + 1, MaxExponent: apd.MaxExponent, MinExponent: apd.MinExponent, Rounding: apd.RoundHalfEven, Traps: apd.DefaultTraps}
	if _, err := whole.Quantize(d, d, int32(max(-digits, -MaxScale))); err != nil {
		return Value{}, fmt.Errorf("rounding %s: %w", v.numberText(), err)
	}
	return ofDecimal(d)
}

func (v Value) decimal() *apd.Decimal { return apd.New(v.n, -int32(v.scale)) }

func arithmetic(doing string, a, b Value, op func(c *apd.Context, d, x, y *apd.Decimal) (apd.Condition, error)) (Value, error) {
	var d apd.Decimal
	if _, err := op(&rounding, &d, a.decimal(), b.decimal()); err != nil {
		return Value{}, fmt.Errorf("%s %s and %s: %w", doing, a.numberText(), b.numberText(), err)
	}
	return ofDecimal(&d)
}

// errTooLarge says that a number is beyond what a number holds.
var errTooLarge = fmt.Errorf("is too large: a number has at most %d digits before the decimal mark", MaxDigits)

func ofDecimal(d *apd.Decimal) (Value, error) {
	if d.Form != apd.Finite {
		return Value{}, errNotNumber
	}
	if d.IsZero() {
		return Value{kind: Number}, nil
	}
	if d.Exponent > MaxDigits {
		return Value{}, errTooLarge
	}
	coefficient := new(apd.BigInt).Set(&d.Coeff)
	for e := d.Exponent; e > 0; e-- {
		coefficient.Mul(coefficient, ten)
	}
	if !coefficient.IsInt64() {
		return Value{}, errTooLarge
	}
	n := coefficient.Int64()
	if d.Negative {
		n = -n
	}
	v, err := number(n, int(max(0, -d.Exponent)))
	if errors.Is(err, errTooLong) && d.Exponent >= 0 {
		err = errTooLarge
	}
	return v, err
}

var ten = apd.NewBigInt(10)

// Sum adds numbers up exactly, in whatever order they come, and is rounded once. The zero
// Sum is 0.
type Sum struct {
	n     int64
	scale uint8
	much  *apd.Decimal // what n does not hold
}

// Add adds a number.
func (s *Sum) Add(v Value) {
	n, m := s.n, v.n
	for scale := s.scale; scale < v.scale; scale++ {
		if n > maxCoefficient/10 || n < -maxCoefficient/10 {
			s.spill(v)
			return
		}
		n *= 10
	}
	for scale := v.scale; scale < s.scale; scale++ {
		if m > maxCoefficient/10 || m < -maxCoefficient/10 {
			s.spill(v)
			return
		}
		m *= 10
	}
	if n += m; n > maxCoefficient || n < -maxCoefficient {
		s.spill(v)
		return
	}
	s.n, s.scale = n, max(s.scale, v.scale)
}

// AddSum adds what another sum has come to.
func (s *Sum) AddSum(o *Sum) {
	if o.much != nil {
		if s.much == nil {
			s.much = new(apd.Decimal)
		}
		_, _ = exact.Add(s.much, s.much, o.much)
	}
	s.Add(Value{kind: Number, n: o.n, scale: o.scale})
}

// spill adds what has gathered and v to what n does not hold.
func (s *Sum) spill(v Value) {
	if s.much == nil {
		s.much = new(apd.Decimal)
	}
	_, _ = exact.Add(s.much, s.much, apd.New(s.n, -int32(s.scale))) // exact, of finite numbers
	_, _ = exact.Add(s.much, s.much, v.decimal())
	s.n, s.scale = 0, 0
}

func (s *Sum) total() *apd.Decimal {
	d := apd.New(s.n, -int32(s.scale))
	if s.much != nil {
		_, _ = exact.Add(d, d, s.much)
	}
	return d
}

// Value gives the sum.
func (s *Sum) Value() (Value, error) {
	if s.much == nil {
		return number(s.n, int(s.scale))
	}
	var d apd.Decimal
	if _, err := rounding.Round(&d, s.total()); err != nil {
		return Value{}, fmt.Errorf("adding up: %w", err)
	}
	return ofDecimal(&d)
}

// Mean gives the sum divided by how many there are, which is not 0.
func (s *Sum) Mean(count int64) (Value, error) {
	var d apd.Decimal
	if _, err := rounding.Quo(&d, s.total(), apd.New(count, 0)); err != nil {
		return Value{}, fmt.Errorf("averaging: %w", err)
	}
	return ofDecimal(&d)
}
