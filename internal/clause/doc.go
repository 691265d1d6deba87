// Package clause is the language in which coordinators say which rows are meant
// and what a cell should hold: "Arrived before today - 15 days and [Condition
// report] is blank".
//
// The way through it is by stage: lex.go cuts text into tokens, parse.go makes
// a tree of nodes (node.go), check.go resolves names against the columns of a
// Scope and gives every node a type, print.go writes the tree back, and
// compile.go turns it into closures that run over a row's cells. Most callers
// want CheckCondition, CheckValue or CheckTemplate.
//
// Logic is three-valued for odd cells alone: an outcome that hangs on a cell
// whose content does not fit its column is neither yes nor no but Odd, and the
// row is passed over and counted. A comparison with a blank is simply no.
//
// The package depends on values only: it knows neither trackers nor rows, has
// no clock and does no I/O. Stored clauses hold ids where people write names
// ([#12] for a column), so that renaming a column never breaks one.
package clause

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/value"
)

// Type is the static type of an expression.
type Type uint8

// The types. Unset is the type of the literal blank, which goes with any.
const (
	Unset Type = iota
	Text
	Number
	Date
	DateTime
	Logic
	Duration
)

var typeNames = [...]string{"blank", "text", "a number", "a date", "a date and time", "yes or no", "a duration"}

func (t Type) String() string { return typeNames[t] }

// Kind gives the kind of value that an expression of the type yields.
func (t Type) Kind() value.Kind {
	return [...]value.Kind{value.Text, value.Text, value.Number, value.Date, value.DateTime, value.Checkbox, value.Text}[t]
}

// TypeOf gives the expression type of a column's values.
func TypeOf(k value.Kind) Type {
	switch k {
	case value.Number:
		return Number
	case value.Date:
		return Date
	case value.DateTime:
		return DateTime
	case value.Checkbox:
		return Logic
	case value.Blank:
		return Unset
	}
	return Text
}

// Column is a column that a clause may name.
type Column struct {
	ID       int64
	Name     string
	Type     value.Type
	Slot     int   // place in the cells of a row; -1 where the row's tab lacks it
	Computed *Expr // what a computed column is computed from, checked; else nil
}

// Table is a tab that a clause may look into.
type Table struct {
	ID      int64
	Name    string
	Columns []Column
}

// Scope is what the names in a clause may mean.
type Scope struct {
	Name    string   // the tab's or tabs' name, for messages
	Columns []Column // of the row at hand
	Tables  []Table  // what "in TAB where" may look into
	Extra   []Column // further names, such as file.name or count, with slots in Env.Extra
	Edit    bool     // whether "changed" and "was" have an edit to look at
}

// Error says what is wrong with a clause and where.
type Error struct {
	Code   string // stable, one of the codes below
	Text   string // the whole clause
	Offset int    // bytes into Text
	Length int    // bytes concerned
	Msg    string
}

func (e *Error) Error() string {
	line, column := e.Position()
	return fmt.Sprintf("%s (line %d, column %d)", e.Msg, line, column)
}

// Position gives the line and column of the mistake, in letters, from 1.
func (e *Error) Position() (line, column int) {
	before := e.Text[:min(e.Offset, len(e.Text))]
	line = 1 + strings.Count(before, "\n")
	return line, 1 + len([]rune(before[strings.LastIndexByte(before, '\n')+1:]))
}

// Caret gives the line at fault with a mark under the mistake, for terminals.
func (e *Error) Caret() string {
	line, column := e.Position()
	lines := strings.Split(e.Text, "\n")
	return lines[line-1] + "\n" + strings.Repeat(" ", column-1) + "^"
}

// The codes of the errors. Each has an example in testdata.
const (
	CodeSyntax    = "clause-syntax"    // the sentence does not read on
	CodeUnclosed  = "clause-unclosed"  // a quote, bracket or brace is not closed
	CodeNoName    = "clause-no-name"   // there is no such column, tab or function
	CodeAmbiguous = "clause-ambiguous" // and mixed with or; a name that means two columns
	CodeType      = "clause-type"      // things of different types compared or added
	CodeNoChoice  = "clause-no-choice" // a text that is none of a column's choices
	CodeNoEdit    = "clause-no-edit"   // changed or was, where no edit wakes the rule
	CodeTooDeep   = "clause-too-deep"  // nested beyond MaxDepth
	CodeTooLong   = "clause-too-long"  // longer than MaxLength
)

// MaxDepth is how deep a clause may nest; MaxLength how many bytes it may have.
const (
	MaxDepth  = 60
	MaxLength = 20_000
)
