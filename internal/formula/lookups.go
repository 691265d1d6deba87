package formula

import (
	"strings"

	"example.org/kavlo/internal/value"
)

// Functions that look for cells: by a criterion, or by what stands in a column.

// criterion gives what a SUMIF or COUNTIF looks for: a value, or a text that begins with a
// comparison. Patterns are not computed.
func (e *env) criterion(n node) (func(value.Value) bool, error) {
	want, err := e.single(n)
	if err != nil {
		return nil, err
	}
	op := "="
	if want.Kind() == value.Text {
		s := want.Raw()
		for _, o := range []string{"<>", "<=", ">=", "<", ">", "="} {
			if rest, is := strings.CutPrefix(s, o); is {
				op, s = o, rest
				break
			}
		}
		if strings.ContainsAny(s, "*?~") {
			return nil, ErrNotComputed
		}
		want = value.OfText(s)
		if v, err := value.ParseNumber(s); err == nil {
			want = v
		}
	}
	return func(v value.Value) bool {
		if op != "<>" && order(v) != order(want) {
			return false
		}
		return holds(op, compare(v, want))
	}, nil
}

func sumIf(e *env, args []node) (value.Value, error) {
	from, is := args[0].(area)
	if !is {
		return value.Value{}, ErrNotComputed
	}
	add := from
	if len(args) == 3 {
		if add, is = args[2].(area); !is {
			return value.Value{}, ErrNotComputed
		}
	}
	meets, err := e.criterion(args[1])
	if err != nil {
		return value.Value{}, err
	}
	sheet, at, err := e.reach(add)
	if err != nil {
		return value.Value{}, err
	}
	_, start, err := e.reach(from)
	if err != nil {
		return value.Value{}, err
	}
	var s value.Sum
	err = e.within(from, func(row, col int, v value.Value) error {
		if !meets(v) {
			return nil
		}
		n, err := e.cell(sheet, at.top+row-start.top, at.left+col-start.left)
		if err == nil && n.Kind() == value.Number {
			s.Add(n)
		}
		return err
	})
	if err != nil {
		return value.Value{}, err
	}
	return fits(s.Value())
}

func countIf(e *env, args []node) (value.Value, error) {
	from, is := args[0].(area)
	if !is {
		return value.Value{}, ErrNotComputed
	}
	meets, err := e.criterion(args[1])
	if err != nil {
		return value.Value{}, err
	}
	n := int64(0)
	err = e.within(from, func(_, _ int, v value.Value) error {
		if meets(v) {
			n++
		}
		return nil
	})
	return value.OfInt(n), err
}

// lookUp is VLOOKUP of what is exactly alike.
func lookUp(e *env, args []node) (value.Value, error) {
	if len(args) < 4 { // it would look for what comes nearest
		return value.Value{}, ErrNotComputed
	}
	if near, err := e.truth(args[3]); err != nil || near {
		return value.Value{}, ErrNotComputed
	}
	table, is := args[1].(area)
	if !is {
		return value.Value{}, ErrNotComputed
	}
	column, err := e.number(args[2])
	if err != nil {
		return value.Value{}, err
	}
	sheet, r, err := e.reach(table)
	if err != nil {
		return value.Value{}, err
	}
	n, whole := column.Int()
	if !whole || n < 1 || int(n) > r.right-r.left+1 {
		return value.Value{}, badRef
	}
	return e.find(args[0], sheet, r, sheet, r.top, r.left+int(n)-1, nil)
}

func lookUpBeside(e *env, args []node) (value.Value, error) {
	in, is := args[1].(area)
	give, also := args[2].(area)
	if !is || !also {
		return value.Value{}, ErrNotComputed
	}
	sheet, r, err := e.reach(in)
	if err != nil {
		return value.Value{}, err
	}
	there, out, err := e.reach(give)
	if err != nil {
		return value.Value{}, err
	}
	if r.left != r.right || out.left != out.right {
		return value.Value{}, ErrNotComputed
	}
	var otherwise node
	if len(args) == 4 {
		otherwise = args[3]
	}
	return e.find(args[0], sheet, r, there, out.top, out.left, otherwise)
}

// find looks for a value in the first column of a block, and gives what stands beside it.
func (e *env) find(what node, sheet string, in block, there string, top, col int, otherwise node) (value.Value, error) {
	want, err := e.single(what)
	if err != nil {
		return value.Value{}, err
	}
	if want.Kind() == value.Text && strings.ContainsAny(want.Raw(), "*?~") {
		return value.Value{}, ErrNotComputed
	}
	for row := in.top; row <= in.bottom; row++ {
		v, err := e.cell(sheet, row, in.left)
		if err != nil {
			return value.Value{}, err
		}
		if v.Kind() != value.Blank && order(v) == order(want) && compare(v, want) == 0 {
			return e.cell(there, top+row-in.top, col)
		}
	}
	if otherwise != nil {
		return e.single(otherwise)
	}
	return value.Value{}, notFound
}
