package rule

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Compiled is a rule ready to run against trackers of one shape. It is
// immutable and serves any number of goroutines.
type Compiled struct {
	*Rule
	Clock *recur.Clock // nil unless the clock wakes it
	bound *program.Program
	tabs  map[sheet.TabID]*tabRule
	takes map[sheet.ColumnID]bool // columns of the row of which a condition is made that is to become true
	looks map[sheet.TabID]bool    // tabs into which the condition looks that is to become true
	order []sheet.TabID           // tabs it works on, in the tracker's order
	files map[int]fileName        // by step: the names of the files it writes

	tallies map[int]*compiledTally         // by step
	after   map[sheet.TabID][]stepFunc     // what follows the step that moves rows, by where they come to stand
	mails   map[int]*reminder.CompiledMail // by step
	back    *wayBack                       // nil: none

	fileWhere *query.Filter // of a rule that files wake; nil: every file
	fileSteps []fileStep
}

// tabRule is a rule compiled for the rows of one tab.
type tabRule struct {
	where   *query.Filter // nil: every row
	becomes *query.Filter // nil: the rule waits for nothing to become true
	steps   []stepFunc
}

// stepFunc runs a step on one row.
type stepFunc func(*cascade, *run, *sheet.Row) error

// Error says which part of a rule is wrong.
type Error struct {
	Rule string
	Part string // "where", "step 2 (set)", "wake"
	Err  error
}

func (e *Error) Error() string { return fmt.Sprintf("rule %s, %s: %v", e.Rule, e.Part, e.Err) }

func (e *Error) Unwrap() error { return e.Err }

// Compile checks a rule against a shape and makes it ready to run.
func Compile(r *Rule, b *program.Program) (*Compiled, error) {
	c := &Compiled{Rule: r, bound: b, tabs: map[sheet.TabID]*tabRule{}, looks: map[sheet.TabID]bool{}, takes: map[sheet.ColumnID]bool{}, files: map[int]fileName{}, tallies: map[int]*compiledTally{}}
	fail := func(part string, err error) (*Compiled, error) {
		return nil, &Error{Rule: r.Name, Part: part, Err: err}
	}
	if r.Wake.Clock != "" {
		clock, err := recur.Parse(r.Wake.Clock)
		if err != nil {
			return fail("wake", err)
		}
		c.Clock = clock
	}
	for _, id := range r.Wake.Edit {
		if b.Shape.ColumnByID(id) == nil {
			return fail("wake", fmt.Errorf("the column %s is not there any more", id))
		}
	}
	if len(r.Steps) == 0 {
		return fail("steps", errors.New("a rule needs at least one step"))
	}
	if part, err := c.compileWrites(); err != nil {
		return fail(part, err)
	}
	if part, err := c.compileTallies(); err != nil {
		return fail(part, err)
	}
	if r.Wake.File != "" {
		if part, err := c.compileFile(); err != nil {
			return fail(part, err)
		}
		return c, nil
	}
	if r.onlyWhole() {
		return c, nil
	}
	if part, err := c.compileMails(); err != nil {
		return fail(part, err)
	}
	tabs := r.In
	if len(tabs) == 0 {
		for i := range b.Shape.Tabs {
			if b.Shape.Tabs[i].Listed() {
				tabs = append(tabs, b.Shape.Tabs[i].ID)
			}
		}
	}
	var misfit error
	for _, id := range tabs {
		tab := b.Shape.TabByID(id)
		if tab == nil {
			return fail("in", fmt.Errorf("the tab %s is not there any more", id))
		}
		t, part, err := c.compileFor(tab)
		if err != nil {
			if len(r.In) > 0 || !lacksName(err) {
				return fail(part, err)
			}
			if misfit == nil {
				misfit = &Error{Rule: r.Name, Part: part, Err: err}
			}
			continue // without "in", a rule is for the tabs that have its columns
		}
		c.tabs[id] = t
		c.order = append(c.order, id)
	}
	if len(c.tabs) == 0 {
		if _, err := clause.CheckCondition(cmpOr(r.condition(), "yes"), b.ScopeOfAll(nil, r.Wake.ByEdit())); err != nil {
			return fail("where", err)
		}
		return nil, misfit
	}
	if part, err := c.compileAfter(); err != nil {
		return fail(part, err)
	}
	if part, err := c.compileBack(); err != nil {
		return fail(part, err)
	}
	return c, nil
}

// compileWrites compiles the names of the files that steps write.
func (c *Compiled) compileWrites() (string, error) {
	scope := c.bound.ScopeOfFile(nil)
	if c.Wake.File != "" {
		scope = c.bound.ScopeOfFile(FileNames)
	}
	for i, s := range c.Steps {
		if s.Write == nil {
			continue
		}
		f, err := compileWrite(s.Write, scope, c)
		if err != nil {
			return fmt.Sprintf("step %d (write)", i+1), err
		}
		c.files[i] = f
	}
	return "", nil
}

// condition gives what must hold of a row for the rule to run on it.
func (r *Rule) condition() string {
	switch {
	case r.Wake.Becomes == "":
		return r.Where
	case r.Where == "":
		return r.Wake.Becomes
	}
	return "(" + r.Wake.Becomes + ") and (" + r.Where + ")"
}

func cmpOr(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

// lacksName reports whether a clause failed only because the tab lacks a column.
func lacksName(err error) bool {
	var ce *clause.Error
	var nf *sheet.NotFound
	return errors.As(err, &ce) && (ce.Code == clause.CodeNoName || ce.Code == clause.CodeNoChoice) || errors.As(err, &nf)
}

func (c *Compiled) compileFor(tab *sheet.TabShape) (*tabRule, string, error) {
	t := &tabRule{}
	scope := c.bound.Scope(tab.ID, c.Wake.ByEdit())
	if len(c.Wake.Edit) > 0 && !slices.ContainsFunc(c.Wake.Edit, func(id sheet.ColumnID) bool { return tab.Slot(id) >= 0 }) {
		return nil, "wake", &sheet.NotFound{What: "column", Name: c.Wake.Edit[0].String(), In: tab.Name}
	}
	var err error
	if c.Wake.Becomes != "" {
		e, err := clause.CheckCondition(c.Wake.Becomes, scope)
		if err != nil {
			return nil, "wake", err
		}
		if e.UsesEdit() {
			return nil, "wake", errors.New("what becomes true is told from the row as it stands: ask for changes in the condition")
		}
		if t.becomes, err = query.Compile(c.Wake.Becomes, scope); err != nil {
			return nil, "wake", err
		}
		for _, id := range e.Columns() {
			c.takes[sheet.ColumnID(id)] = true
		}
		for _, tab := range e.Looks() {
			c.looks[sheet.TabID(tab)] = true
		}
	}
	if t.where, err = query.Compile(c.condition(), scope); err != nil {
		return nil, "where", err
	}
	for i, s := range c.Steps[:min(c.moves()+1, len(c.Steps))] {
		f, err := compileStep(s, tab, scope, c.bound.Shape)
		if err != nil {
			return nil, fmt.Sprintf("step %d (%s)", i+1, s.Kind()), err
		}
		t.steps = append(t.steps, f)
	}
	return t, "", nil
}

// cellSetter is a column with its compiled new value.
type cellSetter struct {
	column *sheet.Column
	to     clause.ValueFunc
}

// compileCells compiles the new values of columns of target, with names of the
// clauses meaning the scope's columns.
func compileCells(cells []Cell, target *sheet.TabShape, shape *sheet.Shape, scope *clause.Scope) ([]cellSetter, error) {
	out := make([]cellSetter, len(cells))
	for i, cell := range cells {
		col := shape.ColumnByID(cell.Column)
		if target != nil {
			col = target.ByID(cell.Column)
		}
		if col == nil {
			name, in := cell.Column.String(), shape.Name
			if c := shape.ColumnByID(cell.Column); c != nil {
				name = c.Name
			}
			if target != nil {
				in = target.Name
			}
			return nil, &sheet.NotFound{What: "column", Name: name, In: in}
		}
		if col.Computed() {
			return nil, fmt.Errorf("column %s is computed and cannot be set", col.Name)
		}
		expr, err := clause.CheckTemplate(cell.To, scope)
		if err != nil {
			return nil, fmt.Errorf("column %s: %w", col.Name, err)
		}
		if err := settable(col, expr.Type(), cell.To, shape.Form(sheet.Writing{})); err != nil {
			return nil, err
		}
		out[i] = cellSetter{column: col, to: expr.Value()}
	}
	return out, nil
}

// settable says at once what could never fit the column.
func settable(col *sheet.Column, t clause.Type, text string, form *local.Form) error {
	if t != clause.Text && t != clause.Unset {
		k := col.Type.Kind
		if k == value.Text || value.Comparable(t.Kind(), k) {
			return nil
		}
		return fmt.Errorf("column %s takes %s, and this is %s", col.Name, k, t)
	}
	if constant, ok := plainText(text); ok {
		if col.Type.Kind == value.Person && !strings.Contains(constant, "@") { // people's names are looked up when it runs
			return nil
		}
		_, said, err := col.Read(constant, form)
		if err != nil {
			return err
		}
		if said != nil && said.Misfit != nil {
			return fmt.Errorf("column %s: %w", col.Name, said.Misfit)
		}
	}
	return nil
}

// plainText gives the text of a template without holes.
func plainText(text string) (string, bool) {
	e, err := clause.ParseTemplate(text)
	if err != nil {
		return "", false
	}
	return e.Constant()
}

// Unwatched gives the rule as it would be if it did not only watch.
func (c *Compiled) Unwatched() *Compiled {
	u, r := *c, *c.Rule
	r.Watching = false
	u.Rule = &r
	return &u
}

// Tabs gives the tabs whose rows the rule works on.
func (c *Compiled) Tabs() []sheet.TabID { return c.order }
