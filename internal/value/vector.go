package value

import "math/bits"

// VectorRows is how many cells a Vector holds at most.
const VectorRows = 128

// Bits marks some of up to VectorRows cells.
type Bits [VectorRows / 64]uint64

// FirstBits marks the first n cells.
func FirstBits(n int) Bits {
	var b Bits
	for i := range b {
		switch left := n - 64*i; {
		case left >= 64:
			b[i] = ^uint64(0)
		case left > 0:
			b[i] = 1<<left - 1
		}
	}
	return b
}

// And gives what both mark.
func (b Bits) And(o Bits) Bits { return Bits{b[0] & o[0], b[1] & o[1]} }

// Or gives what either marks.
func (b Bits) Or(o Bits) Bits { return Bits{b[0] | o[0], b[1] | o[1]} }

// Without gives what b marks and o does not.
func (b Bits) Without(o Bits) Bits { return Bits{b[0] &^ o[0], b[1] &^ o[1]} }

// Has reports whether cell i is marked.
func (b Bits) Has(i int) bool { return b[i/64]>>(i%64)&1 == 1 }

// Count gives how many cells are marked.
func (b Bits) Count() int { return bits.OnesCount64(b[0]) + bits.OnesCount64(b[1]) }

// Vector holds what of one column's cells in a run of rows matters for order:
// which are blank, which odd, and the others as whole numbers close together,
// so that a comparison looks at eight bytes a row and not at the row. It is
// not altered once filled.
type Vector struct {
	Blank, Odd Bits
	kind       Kind  // of the cells that are neither blank nor odd
	scale      uint8 // numbers: digits after the decimal mark that every key has
	ordered    bool  // keys are there
	keys       [VectorRows]int64
}

// maxKey keeps the difference of two keys within an int64.
const maxKey = 1 << 61

// Fill reads n cells, at most VectorRows, into a fresh vector.
func (v *Vector) Fill(n int, cell func(i int) *Value) {
	ordered := true
	for i := range n {
		c := cell(i)
		switch {
		case c == nil || c.IsBlank():
			v.Blank[i/64] |= 1 << (i % 64)
		case c.kind == Odd:
			v.Odd[i/64] |= 1 << (i % 64)
		case c.kind != Date && c.kind != DateTime && c.kind != Number, v.kind != Blank && v.kind != c.kind:
			ordered = false
		default:
			v.kind, v.scale = c.kind, max(v.scale, c.scale)
		}
	}
	if !ordered || v.kind == Blank {
		return
	}
	for i := range n {
		if v.Blank.Has(i) || v.Odd.Has(i) {
			continue
		}
		k, ok := v.key(*cell(i))
		if !ok {
			return
		}
		v.keys[i] = k
	}
	v.ordered = true
}

// key gives a value of the vector's kind as a whole number in its scale.
func (v *Vector) key(c Value) (int64, bool) {
	n := c.n
	if c.scale > v.scale {
		return 0, false
	}
	for range v.scale - c.scale {
		if n *= 10; n > maxKey || n < -maxKey {
			return 0, false
		}
	}
	return n, n <= maxKey && n >= -maxKey
}

// Below marks the cells, blank and odd ones among them, that come before c or,
// with upTo, on or before it: a date-time is on or before a date when it falls on
// that day. It says so where that cannot be told from the vector.
func (v *Vector) Below(c Value, upTo bool) (Bits, bool) {
	var below Bits
	if !v.ordered {
		return below, false
	}
	var bound int64
	switch {
	case c.kind == v.kind:
		k, ok := v.key(c)
		if !ok {
			return below, false
		}
		if bound = k; upTo {
			bound++
		}
	case c.kind == Date && v.kind == DateTime:
		if bound = c.n; upTo {
			bound++
		}
		bound *= 86400
	default:
		return below, false
	}
	for half := range below {
		var word uint64
		for i, k := range v.keys[64*half : 64*half+64] {
			word |= uint64(k-bound) >> 63 << i // the sign of the difference
		}
		below[half] = word
	}
	return below, true
}
