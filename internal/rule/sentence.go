package rule

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

// Sentence says what a rule does, as people would say it.
func (r *Rule) Sentence(e *setup.Writer) string {
	var b strings.Builder
	b.WriteString(wakeWords(e, r.Wake))
	b.WriteString(": ")
	if r.Wake.File != "" {
		e.Facts = FileNames
		defer func() { e.Facts = nil }()
	}
	switch {
	case r.Wake.File != "":
		b.WriteString("files")
	case len(r.In) > 0:
		fmt.Fprintf(&b, "rows of %s", e.TabWords(r.In))
	case len(r.Steps) > 0 && (r.Steps[0].Write != nil || r.Steps[0].Tally != nil) && r.Where == "":
		b.WriteString("the tracker")
	default:
		b.WriteString("rows")
	}
	if r.Where != "" {
		fmt.Fprintf(&b, " where %s", e.Across(r.In, r.Where))
	}
	b.WriteString(" → ")
	if r.Watching {
		b.WriteString("only record that it would ")
	}
	for i, s := range r.Steps {
		if i > 0 {
			b.WriteString(", then ")
		}
		b.WriteString(stepWords(e, r.standing(e.Shape, i), s))
	}
	b.WriteByte('.')
	return b.String()
}

func wakeWords(e *setup.Writer, w Wake) string {
	var says []string
	switch {
	case w.Any:
		says = append(says, "When a row is edited")
	case len(w.Edit) > 0:
		names := make([]string, len(w.Edit))
		for i, id := range w.Edit {
			names[i] = e.ColumnName(id)
		}
		says = append(says, "When "+setup.OrWords(names)+" is edited")
	}
	if w.Added {
		says = append(says, "when a row is added")
	}
	if w.Clock != "" {
		says = append(says, "by the clock, "+w.Clock)
	}
	if w.Call {
		says = append(says, "on a call from outside")
	}
	if w.File != "" {
		says = append(says, "when a file of "+w.File+" arrives or changes")
	}
	if len(says) == 0 {
		return "By hand"
	}
	return setup.Capital(strings.Join(says, ", and "))
}

func stepWords(e *setup.Writer, in []sheet.TabID, s Step) string {
	switch {
	case s.Copy != nil:
		says := "copy to " + placeWords(e, in, &s.Copy.Place)
		if len(s.Copy.Set) > 0 {
			says += " and " + cellWords(e, in, s.Copy.Set)
		}
		if len(s.Copy.SetThere) > 0 {
			says += " and " + thereWords(e, in, s.Copy.SetThere)
		}
		return says
	case s.Move != nil:
		says := "move to " + placeWords(e, in, &s.Move.Place)
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
			says += ", and back once that no longer holds"
		}
		return says
	case s.Put != nil:
		return fmt.Sprintf("put a row into %s by %s", e.TabWords([]sheet.TabID{s.Put.Tab}), e.ColumnName(s.Put.Key))
	case s.Take != nil:
		return fmt.Sprintf("take its rows into %s by %s", e.TabWords([]sheet.TabID{s.Take.Tab}), e.ColumnName(s.Take.Key))
	case s.Tally != nil:
		return tallyWords(e, s.Tally)
	case s.Write != nil:
		says := "write " + e.TabWords([]sheet.TabID{s.Write.Tab})
		if s.Write.Matched {
			says = "write those rows of " + e.TabWords([]sheet.TabID{s.Write.Tab})
		}
		if s.Write.Reminder != 0 {
			says = "write what " + e.DefinitionNames([]sheet.DefinitionID{s.Write.Reminder}) + " holds"
		}
		if s.Write.Where != "" {
			says += " where " + whereOf(e, s.Write)
		}
		if says += " to " + e.Template(nil, s.Write.File); s.Write.At != "" {
			says += " at " + s.Write.Sheet + ", " + s.Write.At
		}
		return says
	}
	if s.Remove {
		return "remove the row"
	}
	return cellWords(e, in, s.Set)
}

func thereWords(e *setup.Writer, in []sheet.TabID, cells []NamedCell) string {
	says := make([]string, len(cells))
	for i, c := range cells {
		says[i] = fmt.Sprintf("set %s to %s", c.Column, valueWords(e, in, c.To))
	}
	return strings.Join(says, ", ")
}

func placeWords(e *setup.Writer, in []sheet.TabID, p *Place) string {
	to := e.Template(in, p.To)
	if hole, isHole := strings.CutPrefix(to, "{"); isHole && strings.Count(to, "{") == 1 {
		to = "the tab that " + strings.TrimSuffix(hole, "}") + " names"
	}
	if p.Tracker != "" {
		to += " of " + p.Tracker
	}
	return to
}

func cellWords(e *setup.Writer, in []sheet.TabID, cells []Cell) string {
	says := make([]string, len(cells))
	for i, c := range cells {
		says[i] = fmt.Sprintf("set %s to %s", e.ColumnName(c.Column), valueWords(e, in, c.To))
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
