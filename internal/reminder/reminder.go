// Package reminder chooses, groups and lays out what a round sends: which rows
// each reminder holds, whom they concern, and the one mail that tells each
// person everything.
//
// reminder.go holds what reminders and rounds are and compiles them, collect.go
// finds the rows, repeat.go decides who is told of what, with what is known from
// earlier rounds, letter.go, layout.go and the templates lay out the mail. The
// package is part of the core: no I/O and no clock.
package reminder

import (
	"errors"
	"fmt"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Reminder says which rows somebody must be told about, in stored form.
type Reminder struct {
	Name   string             `json:"-"`
	ID     sheet.DefinitionID `json:"-"`
	Remark string             `json:"remark,omitempty"`
	In     []sheet.TabID      `json:"in"`
	Where  string             `json:"where"`
	Show   []Shown            `json:"show"`
	Order  string             `json:"order,omitempty"` // a clause; least first
	To     string             `json:"to"`              // a template that yields addresses or names, separated by ; or ,
	Due    string             `json:"due,omitempty"`   // a clause: the day by which the row should have been dealt with
	Group  string             `json:"group,omitempty"` // a clause: rows of one value stand together under it
	// Copy, a template as To is, names who is told for information.
	Copy string `json:"copy,omitempty"`
	// Otherwise, a template as To is, names who is told of rows that are nobody's.
	Otherwise string `json:"otherwise,omitempty"`
	Raise     *Raise `json:"raise,omitempty"`
	// Repeat is how often a person is told of one row: 0 every round, Once, or
	// every so many days.
	Repeat int  `json:"repeat,omitempty"`
	Act    Act  `json:"act,omitzero"`
	Totals bool `json:"totals,omitempty"` // a row of sums below the numbers that it shows
}

// Once is the Repeat of a reminder that tells of a row only when it is new.
const Once = -1

// Raise says after how many days overdue somebody else is told too.
type Raise struct {
	After    int    `json:"after"`
	Workdays bool   `json:"workdays,omitempty"`
	To       string `json:"to"` // a template as Reminder.To is
}

// Act says what can be done to a row from the mail itself.
type Act struct {
	Done   []Cell         `json:"done,omitempty"` // what marking a row done puts into it; none: it cannot be marked done
	Date   sheet.ColumnID `json:"date,omitempty"` // the date column that can be set; 0: none
	Silent bool           `json:"silent,omitempty"`
}

// Cell is the new value of a column, a template.
type Cell = setup.Cell

// Shown is a column of the mail's table.
type Shown struct {
	Title  string `json:"title"`
	Clause string `json:"clause"`
}

// Missed says what becomes of an occurrence that passed while the service was down.
type Missed string

// RunOnce makes up for missed occurrences with one; Skip lets them go.
const (
	RunOnce Missed = "run once"
	Skip    Missed = "skip"
)

// Round is the clocked delivery of reminders, in stored form.
type Round struct {
	Name      string               `json:"-"`
	ID        sheet.DefinitionID   `json:"-"`
	Remark    string               `json:"remark,omitempty"`
	Clock     string               `json:"clock"`
	All       bool                 `json:"all,omitempty"` // every reminder of the tracker
	Reminders []sheet.DefinitionID `json:"reminders,omitempty"`
	Subject   string               `json:"subject"`
	Missed    Missed               `json:"missed,omitempty"`
	// Everywhere collects the reminders of every tracker of the workspace.
	Everywhere bool         `json:"everywhere,omitempty"`
	Closed     recur.Closed `json:"closed,omitempty"`
	// Opening and Closing are templates, as Subject is, of what a mail says before
	// and after its rows.
	Opening string `json:"opening,omitempty"`
	// Attach names rules whose newest file goes with each mail, and tallies that go as a
	// picture and a workbook.
	Attach  []sheet.DefinitionID `json:"attach,omitempty"`
	Closing string               `json:"closing,omitempty"`
}

// Identify gives the reminder its id and name.
func (r *Reminder) Identify(id sheet.DefinitionID, name string) { r.ID, r.Name = id, name }

// Compile makes the reminder ready to collect its rows: a *Compiled.
func (r *Reminder) Compile(p *program.Program) (any, error) { return Compile(r, p) }

// Schedule gives when the round runs.
func (r *Round) Schedule() (*recur.Schedule, error) {
	return recur.Scheduled(r.Clock, r.Missed == Skip, r.Closed)
}

// Identify gives the round its id and name.
func (r *Round) Identify(id sheet.DefinitionID, name string) { r.ID, r.Name = id, name }

// Compile makes the round ready: a *CompiledRound.
func (r *Round) Compile(*program.Program) (any, error) { return CompileRound(r) }

// Error says which part of a reminder or round is wrong.
type Error struct {
	What, Name, Part string
	Err              error
}

func (e *Error) Error() string { return fmt.Sprintf("%s %s, %s: %v", e.What, e.Name, e.Part, e.Err) }

func (e *Error) Unwrap() error { return e.Err }

// Compiled is a reminder ready to collect its rows.
type Compiled struct {
	*Reminder
	meter *clause.Meter // what its clauses may cost; nil: whatever they do
	bound *program.Program
	tabs  []tabReminder
}

type tabReminder struct {
	tab   sheet.TabID
	where *query.Filter
	show  []column
	order clause.ValueFunc
	to    clause.ValueFunc

	due, group, copy, otherwise, raise clause.ValueFunc // nil where the reminder has none
	done                               []clause.ValueFunc
}

type column struct {
	typ value.Type
	get clause.ValueFunc
}

// Metered gives the reminder with a meter for what its clauses cost; whoever has set it
// asks it at the end.
func (c *Compiled) Metered(m *clause.Meter) *Compiled {
	out := *c
	out.meter = m
	return &out
}

// Compile checks a reminder against a shape.
func Compile(r *Reminder, b *program.Program) (*Compiled, error) {
	c := &Compiled{Reminder: r, bound: b}
	fail := func(part string, err error) (*Compiled, error) {
		return nil, &Error{What: "reminder", Name: r.Name, Part: part, Err: err}
	}
	if len(r.In) == 0 {
		return fail("in", errors.New("say in which tabs the rows are"))
	}
	for _, id := range r.In {
		if b.Shape.TabByID(id) == nil {
			return fail("in", fmt.Errorf("the tab %s is not there any more", id))
		}
		t := tabReminder{tab: id}
		scope := b.Scope(id, false)
		where, err := query.Compile(r.Where, scope)
		if err != nil {
			return fail("where", err)
		}
		t.where = where
		for _, s := range r.Show {
			expr, err := clause.CheckValue(s.Clause, scope)
			if err != nil {
				return fail("show", err)
			}
			t.show = append(t.show, column{typ: shownType(expr, b.Shape), get: expr.Value()})
		}
		if r.Order != "" {
			expr, err := clause.CheckValue(r.Order, scope)
			if err != nil {
				return fail("order", err)
			}
			t.order = expr.Value()
		}
		to, err := clause.CheckTemplate(r.To, scope)
		if err != nil {
			return fail("to", err)
		}
		t.to = to.Value()
		if part, err := t.compileMore(r, b, scope); err != nil {
			return fail(part, err)
		}
		c.tabs = append(c.tabs, t)
	}
	return c, nil
}

// shownType gives the column type whose display a clause takes on: that of the
// column, where the clause is one column, else a plain one.
func shownType(e *clause.Expr, shape *sheet.Shape) value.Type {
	if id, ok := e.OneColumn(); ok {
		if c := shape.ColumnByID(sheet.ColumnID(id)); c != nil && !c.Computed() {
			return c.Type
		}
	}
	return value.Type{Kind: e.Type().Kind()}
}

// subjectScope is what the names in a round's subject mean.
var subjectScope = &clause.Scope{Name: "a subject", Extra: []clause.Column{
	{Name: "count", Type: value.Type{Kind: value.Number}, Slot: 0},
	{Name: "round", Type: value.Type{Kind: value.Text}, Slot: 1},
	{Name: "name", Type: value.Type{Kind: value.Text}, Slot: 2},
	{Name: "new", Type: value.Type{Kind: value.Number}, Slot: 3},
}}

// CompiledRound is a round ready to say when it comes and what it sends.
type CompiledRound struct {
	*Round
	Clock   *recur.Clock // nil: a rule sends it
	subject clause.ValueFunc

	opening, closing clause.ValueFunc // nil: as every mail
}

// CompileRound checks a round.
func CompileRound(r *Round) (*CompiledRound, error) {
	clock, err := recur.Parse(r.Clock)
	if err != nil {
		return nil, &Error{What: "round", Name: r.Name, Part: "clock", Err: err}
	}
	out := &CompiledRound{Round: r, Clock: clock}
	if part, err := out.compileLetter(); err != nil {
		return nil, &Error{What: "round", Name: r.Name, Part: part, Err: err}
	}
	return out, nil
}

// compileLetter compiles what a letter says besides its rows.
func (c *CompiledRound) compileLetter() (part string, err error) {
	for _, t := range []struct {
		part, text string
		to         *clause.ValueFunc
	}{{"subject", c.Subject, &c.subject}, {"opening", c.Opening, &c.opening}, {"closing", c.Closing, &c.closing}} {
		if t.text == "" && t.part != "subject" {
			continue
		}
		e, err := clause.CheckTemplate(t.text, subjectScope)
		if err != nil {
			return t.part, err
		}
		*t.to = e.Value()
	}
	return "", nil
}
