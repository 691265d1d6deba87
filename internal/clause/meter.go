package clause

import "fmt"

// Meter bounds what the clauses of one asker may cost: how many rows of tabs they
// look at beyond the row at hand, and for how long. It serves one goroutine. Once
// it is used up, looks into tabs end at once with an odd result, and whoever
// handed the meter in asks Err before making use of any result. A nil *Meter
// bounds nothing.
type Meter struct {
	most, left int64
	ended      func() error // the asker has left, or time is up
	next       int64        // when left falls below it, ended is asked
	err        error
}

// checkEvery is how many rows are looked at until a meter asks whether to go on.
const checkEvery = 1024

// NewMeter gives a meter of so many rows; ended, which may be nil, says why to
// end before they are used up.
func NewMeter(rows int64, ended func() error) *Meter {
	return &Meter{most: rows, left: rows, next: rows, ended: ended}
}

// TooMuch says that clauses looked at more rows than one request may.
type TooMuch struct{ Rows int64 }

func (e *TooMuch) Error() string {
	return fmt.Sprintf("this would look at more than %d rows of tabs, one by one for each row: compare a column with \"is\", so that its rows are found at once, or ask for fewer rows", e.Rows)
}

// Use takes n rows off the meter and reports whether there is more.
func (m *Meter) Use(n int64) bool {
	if m == nil {
		return true
	}
	if m.err != nil {
		return false
	}
	if m.left -= n; m.left >= m.next {
		return true
	}
	m.next = m.left - checkEvery
	if m.left < 0 {
		m.err = &TooMuch{m.most}
	} else if m.ended != nil {
		m.err = m.ended()
	}
	return m.err == nil
}

// Err says why the meter ended what was under way, or nil. It asks anew.
func (m *Meter) Err() error {
	if m == nil {
		return nil
	}
	if m.err == nil && m.ended != nil {
		m.err = m.ended()
	}
	return m.err
}
