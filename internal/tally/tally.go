// Package tally groups the rows of tabs, gives each group its figures, and says how they
// are drawn. A tally stores nothing: its figures are worked out when it is looked at, from
// what is kept with the rows. tally.go holds what a tally is and compiles it, setup.go reads
// and writes it, groups.go works out the groups, answer.go puts them in order. Part of the
// core: no I/O and no clock.
package tally

import (
	"errors"
	"fmt"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Tally says which rows are grouped how, and what is shown of them, in stored form.
type Tally struct {
	ID      sheet.DefinitionID `json:"-"`
	Name    string             `json:"-"`
	Remark  string             `json:"remark,omitempty"`
	Of      []sheet.TabID      `json:"of"`
	Where   string             `json:"where,omitempty"`
	By      []By               `json:"by"` // one or two; none: all rows are one group
	Figures []Figure           `json:"figures"`
	Draw    Drawing            `json:"draw,omitempty"`
	Show    int                `json:"show,omitempty"`    // the figure that is drawn, by place
	Compare string             `json:"compare,omitempty"` // an earlier day, as in "7 days" or "friday"; "": none
	Limit   int                `json:"limit,omitempty"`   // groups shown, before the others; 0: MostGroups
	Today   bool               `json:"today,omitempty"`   // it stands on the Today page
}

// By is what rows are grouped by: a clause and, where that is a date, the period of it.
type By struct {
	Name   string `json:"name"`
	Clause string `json:"clause"`
	Period Period `json:"period,omitempty"`
}

// Period is a stretch of days.
type Period string

// The periods; "" takes dates, and all else, as they are.
const (
	Day     Period = "day"
	Week    Period = "week" // from Monday on, ISO 8601
	Month   Period = "month"
	Quarter Period = "quarter"
	Year    Period = "year"
)

// Periods are the periods, as setup files name them.
var Periods = []Period{Day, Week, Month, Quarter, Year}

// Figure is a figure of each group.
type Figure struct {
	Name string `json:"name"`
	What string `json:"what"`         // one of Whats
	Of   string `json:"of,omitempty"` // clause of what is added or compared; a count needs none
}

// Whats are the kinds of figure, longest name first. A share is the group's part of the sum
// of all groups, or of the count where it has no clause.
var Whats = []string{"count distinct", "count", "sum", "average", "median", "smallest", "largest", "share"}

// Drawing is how a tally is drawn.
type Drawing string

// The drawings. A number with its trend wants no group or a period.
const (
	Bars    Drawing = "bar"
	Line    Drawing = "line"
	Stacked Drawing = "stacked bar"
	Number  Drawing = "number"
)

// MostGroups is how many groups are shown unless told otherwise; the rest are the others.
const MostGroups = 50

// Error says which part of a tally is wrong.
type Error struct {
	Name, Part string
	Err        error
}

func (e *Error) Error() string { return fmt.Sprintf("tally %s, %s: %v", e.Name, e.Part, e.Err) }

func (e *Error) Unwrap() error { return e.Err }

// Identify gives the tally its id and name.
func (t *Tally) Identify(id sheet.DefinitionID, name string) { t.ID, t.Name = id, name }

// Compiled is a tally ready to be worked out.
type Compiled struct {
	*Tally
	program *program.Program
	tabs    map[sheet.TabID]*onTab
	ByTypes []value.Type // of the groups' names
	Types   []value.Type // of the figures
	kept    bool         // what rows come to can be kept with them
	today   bool         // it hangs on what day it is
}

// onTab is a tally for the rows of one tab.
type onTab struct {
	tab   *sheet.TabShape
	where *query.Filter
	by    []clause.ValueFunc
	of    []clause.ValueFunc // of the figures; nil for a count
}

// Tabs gives the tabs on whose rows the tally works.
func (c *Compiled) Tabs() []sheet.TabID { return c.Of }

// Compile makes the tally ready: a *Compiled.
func (t *Tally) Compile(p *program.Program) (any, error) {
	c := &Compiled{Tally: t, program: p, tabs: map[sheet.TabID]*onTab{}, kept: true}
	fail := func(part string, err error) (any, error) { return nil, &Error{t.Name, part, err} }
	switch {
	case len(t.Of) == 0:
		return fail("of", errors.New("say which tab's rows are counted: of: TAB"))
	case len(t.Figures) == 0:
		return fail("figures", errors.New("say which figures each group has"))
	case len(t.By) > 2:
		return fail("by", errors.New("rows are grouped by one or two things"))
	case t.Show < 0 || t.Show >= len(t.Figures):
		return fail("show", errors.New("the figure that is drawn is not there any more"))
	}
	for i, id := range t.Of {
		part, err := c.on(id, i == 0)
		if err != nil {
			return fail(part, err)
		}
	}
	return c, nil
}

func (c *Compiled) on(id sheet.TabID, first bool) (part string, err error) {
	tab := c.program.Shape.TabByID(id)
	if tab == nil {
		return "of", fmt.Errorf("the tab %s is not there any more", id)
	}
	t := &onTab{tab: tab}
	scope := c.program.Scope(id, false)
	if c.Where != "" {
		if t.where, err = query.Compile(c.Where, scope); err != nil {
			return "where", err
		}
		expr, err := clause.CheckCondition(c.Where, scope)
		if err != nil {
			return "where", err
		}
		c.hangs(expr)
	}
	for _, by := range c.By {
		expr, err := clause.CheckValue(by.Clause, scope)
		if err != nil {
			return "by, " + by.Name, err
		}
		typ := c.typeOf(expr)
		if by.Period != "" && typ.Kind != value.Date && typ.Kind != value.DateTime {
			return "by, " + by.Name, fmt.Errorf("a %s is one of a date, and this is %s", by.Period, typ.Kind.Phrase())
		}
		if by.Period != "" {
			typ = value.Type{Kind: value.Date}
		}
		if first {
			c.ByTypes = append(c.ByTypes, typ)
		}
		t.by = append(t.by, expr.Value())
	}
	for _, f := range c.Figures {
		if f.Of == "" {
			if first {
				c.Types = append(c.Types, figureType(f.What, value.Type{Kind: value.Number}))
			}
			t.of = append(t.of, nil)
			continue
		}
		expr, err := clause.CheckValue(f.Of, scope)
		if err != nil {
			return "figures, " + f.Name, err
		}
		typ := c.typeOf(expr)
		if numeric[f.What] && typ.Kind != value.Number {
			return "figures, " + f.Name, fmt.Errorf("a %s is one of numbers, and this is %s", f.What, typ.Kind.Phrase())
		}
		if first {
			c.Types = append(c.Types, figureType(f.What, typ))
		}
		t.of = append(t.of, expr.Value())
	}
	c.tabs[id] = t
	return "", nil
}

var numeric = map[string]bool{"sum": true, "average": true, "median": true, "share": true}

// typeOf gives the type of a clause, with the look of the column that it is, and notes on
// what it hangs.
func (c *Compiled) typeOf(expr *clause.Expr) value.Type {
	c.hangs(expr)
	if id, is := expr.OneColumn(); is {
		if col := c.program.Shape.ColumnByID(sheet.ColumnID(id)); col != nil && !col.Computed() {
			return col.Type
		}
	}
	return value.Type{Kind: expr.Type().Kind()}
}

func (c *Compiled) hangs(expr *clause.Expr) {
	ok, today := expr.OfItsRow()
	c.kept, c.today = c.kept && ok, c.today || today
}

// figureType gives the type of a figure of values of a type.
func figureType(what string, of value.Type) value.Type {
	switch what {
	case "count", "count distinct":
		return value.Type{Kind: value.Number}
	case "share":
		return value.Type{Kind: value.Number, Display: "percent"}
	}
	return of
}
