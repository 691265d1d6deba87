package rule

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

// Sentence says what a rule does, as people would say it. Clauses stand in it as they are
// written, between backticks.
func (r *Rule) Sentence(e *setup.Writer) string {
	if r.Wake.File != "" {
		e.Facts = FileNames
		defer func() { e.Facts = nil }()
	}
	says := make([]string, len(r.Steps))
	for i, s := range r.Steps {
		says[i] = stepWords(e, r.standing(e.Shape, i), s)
	}
	does := strings.Join(says, ", then ")
	if r.Watching {
		does = "dry run, which only records that it would " + does
	}
	return setup.Capital(r.wakeWords(e)+r.rowWords(e)) + ": " + does + "."
}

// wakeWords says when the rule runs.
func (r *Rule) wakeWords(e *setup.Writer) string {
	w := r.Wake
	var edits, others []string
	switch {
	case w.Any:
		edits = append(edits, "a row is edited")
	case len(w.Edit) > 0:
		names := make([]string, len(w.Edit))
		for i, id := range w.Edit {
			names[i] = e.ColumnName(id)
		}
		edits = append(edits, setup.OrWords(names)+" changes")
	}
	if w.Becomes != "" {
		edits = append(edits, "`"+e.Across(r.In, w.Becomes)+"` becomes true")
	}
	if w.Added {
		edits = append(edits, "a row is added")
	}
	if len(edits) > 0 {
		says := "when " + strings.Join(edits, ", or ")
		if len(r.In) > 0 && !r.alsoOtherwise() {
			says += " in " + e.TabWords(r.In)
		}
		others = append(others, says)
	}
	if w.Clock != "" {
		others = append(others, w.Clock)
	}
	if w.Call {
		others = append(others, "when called through the API")
	}
	if w.File != "" {
		others = append(others, "when a file matching "+w.File+" arrives or changes")
	}
	if len(others) == 0 {
		return "when run manually"
	}
	return strings.Join(others, ", and ")
}

// alsoOtherwise reports whether something besides an edit runs the rule.
func (r *Rule) alsoOtherwise() bool {
	return !r.Wake.ByEdit() || r.Wake.Clock != "" || r.Wake.Call || r.Wake.File != ""
}

// rowWords says on which rows the rule works.
func (r *Rule) rowWords(e *setup.Writer) string {
	where := ""
	if r.Where != "" {
		where = "`" + e.Across(r.In, r.Where) + "`"
	}
	whole := len(r.In) == 0 && len(r.Steps) > 0 && (r.Steps[0].Write != nil || r.Steps[0].Tally != nil)
	switch {
	case !r.alsoOtherwise() || r.Wake.File != "" || whole:
		if where == "" {
			return ""
		}
		return ", if " + where
	}
	says := ", for rows"
	if r.Wake.Call {
		says = ", for the given rows, or all,"
	}
	if len(r.In) > 0 {
		says += " in " + e.TabWords(r.In)
	}
	if where != "" {
		says += " where " + where
	}
	return strings.TrimSuffix(says, ",")
}

func stepWords(e *setup.Writer, in []sheet.TabID, s Step) string {
	switch {
	case s.Copy != nil:
		says := "copy the row to " + placeWords(e, in, &s.Copy.Place)
		if len(s.Copy.Set) > 0 {
			says += " and " + cellWords(e, in, s.Copy.Set)
		}
		if len(s.Copy.SetThere) > 0 {
			says += " and " + thereWords(e, in, s.Copy.SetThere)
		}
		return says
	case s.Move != nil:
		says := "move the row to " + placeWords(e, in, &s.Move.Place)
		names := slices.Clone(s.Move.ClearThere)
		for _, id := range s.Move.Clear {
			names = append(names, e.ColumnName(id))
		}
		if len(names) > 0 {
			says += " and clear " + strings.Join(names, ", ")
		}
		if len(s.Move.Set) > 0 {
			says += " and " + cellWords(e, in, s.Move.Set)
		}
		if len(s.Move.SetThere) > 0 {
			says += " and " + thereWords(e, in, s.Move.SetThere)
		}
		if s.Move.Back {
			says += ", and back when that no longer holds"
		}
		return says
	case s.Put != nil:
		return fmt.Sprintf("add or update a row in %s, matched by %s", e.TabWords([]sheet.TabID{s.Put.Tab}), e.ColumnName(s.Put.Key))
	case s.Take != nil:
		return fmt.Sprintf("import its rows into %s, matched by %s", e.TabWords([]sheet.TabID{s.Take.Tab}), e.ColumnName(s.Take.Key))
	case s.Tally != nil:
		return tallyWords(e, s.Tally)
	case s.Write != nil:
		return writeWords(e, s.Write)
	case s.Mail != nil:
		return "email " + s.Mail.Words(e)
	case s.Remove:
		return "delete the row"
	}
	return cellWords(e, in, s.Set)
}

func writeWords(e *setup.Writer, w *Write) string {
	says := "write the rows of " + e.TabWords([]sheet.TabID{w.Tab})
	switch {
	case w.Reminder != 0:
		says = "write the rows that match " + e.DefinitionNames([]sheet.DefinitionID{w.Reminder})
	case w.Matched:
		says = "write those rows of " + e.TabWords([]sheet.TabID{w.Tab})
	}
	if w.Where != "" {
		says += " where `" + whereOf(e, w) + "`"
	}
	if says += " to " + e.Template(nil, w.File); w.At != "" {
		says += " at " + w.Sheet + ", " + w.At
	}
	return says
}

func thereWords(e *setup.Writer, in []sheet.TabID, cells []NamedCell) string {
	says := make([]string, len(cells))
	for i, c := range cells {
		says[i] = setWords(c.Column, valueWords(e, in, c.To))
	}
	return strings.Join(says, ", ")
}

func placeWords(e *setup.Writer, in []sheet.TabID, p *Place) string {
	to := e.Template(in, p.To)
	if hole, isHole := strings.CutPrefix(to, "{"); isHole && strings.Count(to, "{") == 1 {
		to = "the tab named in " + strings.TrimSuffix(hole, "}")
	}
	if p.Tracker != "" {
		to += " of tracker " + p.Tracker
	}
	return to
}

func cellWords(e *setup.Writer, in []sheet.TabID, cells []Cell) string {
	says := make([]string, len(cells))
	for i, c := range cells {
		says[i] = setWords(e.ColumnName(c.Column), valueWords(e, in, c.To))
	}
	return strings.Join(says, ", ")
}

func valueWords(e *setup.Writer, in []sheet.TabID, stored string) string {
	text := e.Template(in, stored)
	if expr, err := clause.ParseTemplate(text); err == nil {
		if constant, ok := expr.Constant(); ok {
			return constant
		}
	}
	if strings.HasPrefix(text, "{") && strings.HasSuffix(text, "}") && strings.Count(text, "{") == 1 {
		return text[1 : len(text)-1]
	}
	return text
}

func setWords(column, to string) string {
	if to == "" || to == "blank" {
		return "clear " + column
	}
	return fmt.Sprintf("set %s to %s", column, to)
}
