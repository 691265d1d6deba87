package value

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"github.com/govalues/decimal"
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
	for scale > 0 && n%10 == 0 {
		n /= 10
		scale--
	}
	if n == 0 {
		scale = 0
	}
	if n > maxCoefficient || n < -maxCoefficient || scale > MaxDigits {
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

// Add gives a + b. Arithmetic is decimal and rounds half to even only where the
// exact result has more digits than a number holds; too large a result is an error.
func Add(a, b Value) (Value, error) { return arithmetic("adding", a, b, decimal.Decimal.Add) }

// Sub gives a - b.
func Sub(a, b Value) (Value, error) { return arithmetic("subtracting", a, b, decimal.Decimal.Sub) }

// Mul gives a times b.
func Mul(a, b Value) (Value, error) { return arithmetic("multiplying", a, b, decimal.Decimal.Mul) }

// Div gives a divided by b; dividing by zero is an error.
func Div(a, b Value) (Value, error) { return arithmetic("dividing", a, b, decimal.Decimal.Quo) }

// Round rounds half to even to that many digits after the decimal mark.
func Round(v Value, digits int) (Value, error) {
	d, err := v.decimal()
	if err != nil {
		return Value{}, err
	}
	return ofDecimal(d.Round(digits))
}

func (v Value) decimal() (decimal.Decimal, error) { return decimal.New(v.n, int(v.scale)) }

func arithmetic(doing string, a, b Value, op func(a, b decimal.Decimal) (decimal.Decimal, error)) (Value, error) {
	if a.scale == b.scale && doing == "adding" { // the common case of a sum of cents
		if sum := a.n + b.n; sum <= maxCoefficient && sum >= -maxCoefficient {
			return number(sum, int(a.scale))
		}
	}
	x, err := a.decimal()
	if err != nil {
		return Value{}, err
	}
	y, err := b.decimal()
	if err != nil {
		return Value{}, err
	}
	r, err := op(x, y)
	if err != nil {
		return Value{}, fmt.Errorf("%s %s and %s: %w", doing, a.numberText(), b.numberText(), err)
	}
	return ofDecimal(r)
}

func ofDecimal(d decimal.Decimal) (Value, error) {
	for d.Prec() > MaxDigits && d.Scale() > 0 {
		d = d.Round(d.Scale() - 1)
	}
	if d.Coef() > maxCoefficient {
		return Value{}, errTooLong
	}
	n := int64(d.Coef())
	if d.IsNeg() {
		n = -n
	}
	return number(n, d.Scale())
}
