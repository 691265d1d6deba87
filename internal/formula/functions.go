package formula

import (
	"strings"
	"unicode/utf8"

	"example.org/kavlo/internal/value"
)

// function is one that is computed, with how many arguments it takes; most -1: any number.
type function struct {
	least, most int
	compute     func(e *env, args []node) (value.Value, error)
}

// functions are those that are computed. It is filled before anything runs, as some of
// them compute their arguments by way of it.
var functions map[string]function

func init() {
	functions = map[string]function{
		"SUM":      {1, -1, sum},
		"SUBTOTAL": {2, -1, subtotal},
		"AVERAGE":  {1, -1, average},
		"COUNT":    {1, -1, func(e *env, args []node) (value.Value, error) { return e.count(args, isNumber) }},
		"COUNTA":   {1, -1, func(e *env, args []node) (value.Value, error) { return e.count(args, isAny) }},
		"MIN":      {1, -1, func(e *env, args []node) (value.Value, error) { return e.extreme(args, -1) }},
		"MAX":      {1, -1, func(e *env, args []node) (value.Value, error) { return e.extreme(args, 1) }},
		"PRODUCT":  {1, -1, product},
		"SUMIF":    {2, 3, sumIf},
		"COUNTIF":  {2, 2, countIf},
		"ABS":      {1, 1, func(e *env, args []node) (value.Value, error) { return e.extremeOf(args[0]) }},
		"ROUND":    {2, 2, round},
		"IF":       {2, 3, choose},
		"IFERROR":  {2, 2, ifError},
		"AND":      {1, -1, func(e *env, args []node) (value.Value, error) { return e.all(args, true) }},
		"OR":       {1, -1, func(e *env, args []node) (value.Value, error) { return e.all(args, false) }},
		"NOT": {1, 1, func(e *env, args []node) (value.Value, error) {
			yes, err := e.truth(args[0])
			return value.OfBool(!yes), err
		}},
		"ISBLANK": {1, 1, func(e *env, args []node) (value.Value, error) {
			v, err := e.single(args[0])
			return value.OfBool(v.Kind() == value.Blank), err
		}},
		"CONCATENATE": {1, -1, concatenate},
		"CONCAT":      {1, -1, concatenate},
		"UPPER":       {1, 1, ofText(func(s string) value.Value { return value.OfText(strings.ToUpper(s)) })},
		"LOWER":       {1, 1, ofText(func(s string) value.Value { return value.OfText(strings.ToLower(s)) })},
		"TRIM":        {1, 1, ofText(func(s string) value.Value { return value.OfText(strings.Join(strings.Fields(s), " ")) })},
		"LEN":         {1, 1, ofText(func(s string) value.Value { return value.OfInt(int64(utf8.RuneCountInString(s))) })},
		"VLOOKUP":     {3, 4, lookUp},
		"XLOOKUP":     {3, 4, lookUpBeside},
		"ROW":         {0, 0, func(e *env, _ []node) (value.Value, error) { return value.OfInt(int64(e.row) + 1), nil }},
		"COLUMN":      {0, 0, func(e *env, _ []node) (value.Value, error) { return value.OfInt(int64(e.col) + 1), nil }},
	}
}

func isNumber(v value.Value, written bool) bool {
	if v.Kind() == value.Number {
		return true
	}
	_, err := asNumber(v)
	return written && v.Kind() != value.Blank && err == nil
}

func isAny(v value.Value, _ bool) bool { return v.Kind() != value.Blank }

// numbers visits the numbers among arguments: in blocks only what is one.
func (e *env) numbers(args []node, visit func(value.Value)) error {
	return e.each(args, func(v value.Value, written bool) error {
		switch {
		case v.Kind() == value.Number:
			visit(v)
		case written:
			n, err := asNumber(v)
			if err != nil {
				return err
			}
			visit(n)
		}
		return nil
	})
}

func sum(e *env, args []node) (value.Value, error) {
	var s value.Sum
	if err := e.numbers(args, s.Add); err != nil {
		return value.Value{}, err
	}
	return fits(s.Value())
}

func average(e *env, args []node) (value.Value, error) {
	var s value.Sum
	n := int64(0)
	if err := e.numbers(args, func(v value.Value) { s.Add(v); n++ }); err != nil {
		return value.Value{}, err
	}
	if n == 0 {
		return value.Value{}, divided
	}
	return fits(s.Mean(n))
}

// subtotal does what its first argument says; nested ones, which it would have to leave
// out, are not known here from other cells, so only plain sums, means and counts are done.
func subtotal(e *env, args []node) (value.Value, error) {
	which, err := e.number(args[0])
	if err != nil {
		return value.Value{}, err
	}
	n, _ := which.Int()
	switch n {
	case 1, 101:
		return average(e, args[1:])
	case 2, 102:
		return e.count(args[1:], isNumber)
	case 3, 103:
		return e.count(args[1:], isAny)
	case 4, 104:
		return e.extreme(args[1:], 1)
	case 5, 105:
		return e.extreme(args[1:], -1)
	case 9, 109:
		return sum(e, args[1:])
	}
	return value.Value{}, ErrNotComputed
}

func (e *env) count(args []node, counts func(v value.Value, written bool) bool) (value.Value, error) {
	n := int64(0)
	err := e.each(args, func(v value.Value, written bool) error {
		if counts(v, written) {
			n++
		}
		return nil
	})
	return value.OfInt(n), err
}

func (e *env) extreme(args []node, sign int) (value.Value, error) {
	best, some := value.OfInt(0), false
	err := e.numbers(args, func(v value.Value) {
		if !some || value.Compare(v, best)*sign > 0 {
			best, some = v, true
		}
	})
	return best, err
}

func (e *env) extremeOf(n node) (value.Value, error) {
	v, err := e.number(n)
	if err != nil || value.Compare(v, value.OfInt(0)) >= 0 {
		return v, err
	}
	return fits(value.Sub(value.OfInt(0), v))
}

func product(e *env, args []node) (value.Value, error) {
	out, some := value.OfInt(1), false
	var over error
	err := e.numbers(args, func(v value.Value) {
		if over == nil {
			out, over = value.Mul(out, v)
			some = true
		}
	})
	if err == nil && over != nil {
		return value.Value{}, badNum
	}
	if !some {
		out = value.OfInt(0)
	}
	return out, err
}

// round rounds half away from zero, as worksheets do.
func round(e *env, args []node) (value.Value, error) {
	v, err := e.number(args[0])
	if err != nil {
		return v, err
	}
	digits, err := e.number(args[1])
	if err != nil {
		return v, err
	}
	n, whole := digits.Int()
	if !whole || n < -15 || n > 15 {
		return value.Value{}, ErrNotComputed
	}
	half, err := value.ParseNumber("0.5")
	if err != nil {
		return value.Value{}, badNum
	}
	unit := value.OfInt(1)
	for range max(n, -n) {
		if n > 0 {
			unit, err = value.Div(unit, value.OfInt(10))
		} else {
			unit, err = value.Mul(unit, value.OfInt(10))
		}
		if err != nil {
			return value.Value{}, badNum
		}
	}
	scaled, err := value.Div(v, unit)
	if err != nil {
		return value.Value{}, badNum
	}
	even, err := value.Round(scaled, 0)
	if err != nil {
		return value.Value{}, badNum
	}
	rest, err := value.Sub(scaled, even)
	if err != nil {
		return value.Value{}, badNum
	}
	minus, _ := value.Sub(value.OfInt(0), half)
	switch { // what was rounded to even goes away from zero instead
	case value.Equal(rest, half) && value.Compare(scaled, value.OfInt(0)) > 0:
		even, err = value.Add(even, value.OfInt(1))
	case value.Equal(rest, minus) && value.Compare(scaled, value.OfInt(0)) < 0:
		even, err = value.Sub(even, value.OfInt(1))
	}
	if err != nil {
		return value.Value{}, badNum
	}
	return fits(value.Mul(even, unit))
}

func choose(e *env, args []node) (value.Value, error) {
	yes, err := e.truth(args[0])
	switch {
	case err != nil:
		return value.Value{}, err
	case yes:
		return e.single(args[1])
	case len(args) > 2:
		return e.single(args[2])
	}
	return value.OfBool(false), nil
}

func ifError(e *env, args []node) (value.Value, error) {
	v, err := e.single(args[0])
	if _, is := err.(Mistake); is { //nolint:errorlint // mistakes come as they are
		return e.single(args[1])
	}
	return v, err
}

func (e *env) all(args []node, want bool) (value.Value, error) {
	out := want
	for _, a := range args {
		if block, is := a.(area); is && !block.single {
			return value.Value{}, ErrNotComputed
		}
		yes, err := e.truth(a)
		if err != nil {
			return value.Value{}, err
		}
		if yes != want {
			out = !want
		}
	}
	return value.OfBool(out), nil
}

func concatenate(e *env, args []node) (value.Value, error) {
	var b strings.Builder
	err := e.each(args, func(v value.Value, _ bool) error {
		b.WriteString(asText(v))
		return nil
	})
	return value.OfText(b.String()), err
}

func ofText(f func(string) value.Value) func(e *env, args []node) (value.Value, error) {
	return func(e *env, args []node) (value.Value, error) {
		s, err := e.text(args[0])
		if err != nil {
			return value.Value{}, err
		}
		return f(s), nil
	}
}
