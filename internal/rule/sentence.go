package rule

import (
	"fmt"
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
		b.WriteString(stepWords(e, r, s))
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

func stepWords(e *setup.Writer, r *Rule, s Step) string {
	switch {
	case s.Copy != nil:
		says := "copy to " + placeWords(e, r, &s.Copy.Place)
		if len(s.Copy.Set) > 0 {
			says += " and " + cellWords(e, r, s.Copy.Set)
		}
		return says
	case s.Move != nil:
		says := "move to " + placeWords(e, r, &s.Move.Place)
		if len(s.Move.Clear) > 0 {
			names := make([]string, len(s.Move.Clear))
			for i, id := range s.Move.Clear {
				names[i] = e.ColumnName(id)
			}
			says += " and clear " + strings.Join(names, ", ")
		}
		if len(s.Move.Set) > 0 {
			says += " and " + cellWords(e, r, s.Move.Set)
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
	return cellWords(e, r, s.Set)
}

func placeWords(e *setup.Writer, r *Rule, p *Place) string {
	to := e.Template(r.In, p.To)
	if hole, isHole := strings.CutPrefix(to, "{"); isHole && strings.Count(to, "{") == 1 {
		to = "the tab that " + strings.TrimSuffix(hole, "}") + " names"
	}
	if p.Tracker != "" {
		to += " of " + p.Tracker
	}
	return to
}

func cellWords(e *setup.Writer, r *Rule, cells []Cell) string {
	says := make([]string, len(cells))
	for i, c := range cells {
		says[i] = fmt.Sprintf("set %s to %s", e.ColumnName(c.Column), valueWords(e, r, c.To))
	}
	return strings.Join(says, ", ")
}

func valueWords(e *setup.Writer, r *Rule, stored string) string {
	text := e.Template(r.In, stored)
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
