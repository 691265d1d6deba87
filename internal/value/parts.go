package value

// Parts are what a value without text is made of, for keeping many of them in
// less room.
type Parts struct {
	Kind  Kind
	Scale uint8 // of a number: its digits after the decimal mark
	N     int64 // a number's coefficient, a date's days, a date-time's seconds, a tick's 0 or 1
}

// Parts gives what the value is made of; not so for one that holds text.
func (v Value) Parts() (Parts, bool) {
	return Parts{v.kind, v.scale, v.n}, v.s == ""
}

// Of puts a value together again from what Parts gave.
func (p Parts) Of() Value { return Value{kind: p.Kind, scale: p.Scale, n: p.N} }
