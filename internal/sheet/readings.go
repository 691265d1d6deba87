package sheet

import (
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

// Writing is what is known of those who write when a draft begins.
type Writing struct {
	Now    time.Time
	People local.Directory
}

// WrittenAt tells the draft when, and among whom, what it reads was written.
func (d *Draft) WrittenAt(w Writing) *Draft {
	d.writing, d.forms = w, nil
	return d
}

// Form gives how a tracker's people write.
func (d *Draft) Form(t *Tracker) *local.Form {
	if f := d.forms[t.ID]; f != nil && f.Dates == t.Dates {
		return f
	}
	f := t.Form(d.writing)
	if d.forms == nil {
		d.forms = map[TrackerID]*local.Form{}
	}
	d.forms[t.ID] = f
	return f
}

// Form gives how the people of a tracker of that shape write.
func (s *Shape) Form(w Writing) *local.Form {
	f := &local.Form{Dates: s.Dates, People: w.People}
	if !w.Now.IsZero() {
		f.Today = value.DateOf(w.Now.In(s.Location()))
	}
	return f
}

// Reading is a text of which something is to be said: it does not fit its column, or
// could be read in two ways.
type Reading struct {
	Tracker TrackerID
	Tab     TabID
	Row     RowID
	Column  ColumnID
	Text    string
	Taken   string        // the reading that was taken of two, in words
	Misfit  *value.Misfit // why it does not fit; nil: it does
}

// Readings are what is to be said of what a draft has read; the first of them whole.
type Readings struct {
	Said []Reading
	More int
}

// mostReadings is how many texts a draft tells of one by one.
const mostReadings = 1000

// Readings gives what is to be said of what the draft has read so far.
func (d *Draft) Readings() *Readings { return &d.readings }

// Read reads what somebody wrote, or a rule worked out, for a cell of a tracker; see
// Column.Read. What does not fit, and what could be read in two ways, is noted.
func (d *Draft) Read(t *Tracker, c *Column, raw any) (value.Value, error) {
	v, said, err := c.Read(raw, d.Form(t))
	if said != nil && err == nil {
		said.Tracker = t.ID
		d.readings.note(*said)
	}
	return v, err
}

func (r *Readings) note(said Reading) {
	if len(r.Said) == mostReadings {
		r.More++
		return
	}
	r.Said = append(r.Said, said)
}

// of says which row what was noted from the nth on is about.
func (r *Readings) of(n int, tab TabID, row RowID) {
	for i := n; i < len(r.Said); i++ {
		r.Said[i].Tab, r.Said[i].Row = tab, row
	}
}

// Read reads what somebody wrote, or a rule worked out, as a cell of the column holds
// it: a value, or what JSON has for one, such as text in the tracker's form. What does
// not fit becomes an odd value, or a *Refusal where the column refuses bad input. What
// is out of the column's bounds is refused. said is nil where there is nothing to say.
func (c *Column) Read(raw any, form *local.Form) (v value.Value, said *Reading, err error) {
	if c.Computed() {
		return value.Value{}, nil, &Refusal{Column: c.Name, Reason: "is computed", Hint: "edit the columns that it is computed from"}
	}
	v, taken, err := form.Read(raw, c.Type)
	if err == nil {
		if taken != "" {
			said = &Reading{Column: c.ID, Text: fmt.Sprint(raw), Taken: taken}
		}
		return v, said, c.within(v)
	}
	var m *value.Misfit
	if !errors.As(err, &m) {
		return value.Value{}, nil, err
	}
	if c.BadInput == Refuse {
		return value.Value{}, nil, &Refusal{Column: c.Name, Reason: fmt.Sprintf("%q %s", m.Text, m.Reason), Hint: m.Hint}
	}
	return value.OfOdd(m.Text), &Reading{Column: c.ID, Text: m.Text, Misfit: m}, nil
}

// Accept gives a value of a file or a list as the column takes it. Much comes in that
// way at once, so a column that does not refuse bad input keeps what does not fit, as
// an odd value, and what is out of its bounds.
func (c *Column) Accept(v value.Value, form *local.Form) (value.Value, error) {
	fitted, misfit := value.Fit(v, c.Type)
	if misfit != nil || v.IsOdd() {
		if again, _, err := form.Read(value.OfOdd(v.String()), c.Type); err == nil {
			fitted, misfit = again, nil
		} else {
			fitted, misfit = value.OfOdd(v.String()), err
		}
	}
	switch {
	case c.BadInput != Refuse:
		return fitted, nil
	case misfit != nil:
		return v, &Refusal{Column: c.Name, Reason: misfit.Error()}
	}
	return fitted, c.within(fitted)
}
