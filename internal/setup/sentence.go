package setup

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/derive"
	"example.org/kavlo/internal/digest"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
)

// ClauseText gives a stored clause of a tab with names for ids.
func ClauseText(shape *sheet.Shape, tab sheet.TabID, stored string) string {
	bound, err := derive.Bind(shape)
	if err != nil {
		return stored
	}
	e := &encoder{shape: shape, bound: bound}
	return e.clause(tab, stored)
}

// Sentence says what a part does, as people would say it.
func Sentence(p *sheet.Part, shape *sheet.Shape) (string, error) {
	bound, err := derive.Bind(shape)
	if err != nil {
		return "", err
	}
	e := &encoder{shape: shape, bound: bound}
	switch p.Kind {
	case sheet.PartRule:
		return e.ruleSentence(p)
	case sheet.PartReminder:
		r, err := digest.DecodeReminder(p)
		if err != nil {
			return "", err
		}
		return fmt.Sprintf("Rows of %s where %s concern %s.", e.tabWords(r.In), e.across(r.In, r.Where), toWords(e.template(r.In, r.To))), nil
	case sheet.PartRound:
		r, err := digest.DecodeRound(p)
		if err != nil {
			return "", err
		}
		what := "what every reminder holds"
		if r.Everywhere {
			what = "what every reminder of every tracker holds"
		}
		if !r.All {
			what = "what " + e.partNames(r.Reminders) + " holds"
		}
		return fmt.Sprintf("%s: each person gets one mail with %s for them, and nobody an empty one.", capital(r.Clock), what), nil
	case sheet.PartList:
		l, err := DecodeList(p)
		if err != nil {
			return "", err
		}
		return fmt.Sprintf("Records at %s.", l.Where()), nil
	case sheet.PartSync:
		return e.syncSentence(p)
	}
	return "", fmt.Errorf("there is no kind of part %q", p.Kind)
}

func (e *encoder) ruleSentence(p *sheet.Part) (string, error) {
	r, err := rule.Decode(p)
	if err != nil {
		return "", err
	}
	var b strings.Builder
	b.WriteString(e.wakeWords(r.Wake))
	b.WriteString(": ")
	if e.file = r.Wake.File != ""; e.file {
		defer func() { e.file = false }()
	}
	switch {
	case e.file:
		b.WriteString("files")
	case len(r.In) > 0:
		fmt.Fprintf(&b, "rows of %s", e.tabWords(r.In))
	case len(r.Steps) > 0 && (r.Steps[0].Write != nil || r.Steps[0].Tally != nil) && r.Where == "":
		b.WriteString("the tracker")
	default:
		b.WriteString("rows")
	}
	if r.Where != "" {
		fmt.Fprintf(&b, " where %s", e.across(r.In, r.Where))
	}
	b.WriteString(" → ")
	if r.Watching {
		b.WriteString("only record that it would ")
	}
	for i, s := range r.Steps {
		if i > 0 {
			b.WriteString(", then ")
		}
		b.WriteString(e.stepWords(r, s))
	}
	b.WriteByte('.')
	return b.String(), nil
}

func (e *encoder) wakeWords(w rule.Wake) string {
	var says []string
	switch {
	case w.Any:
		says = append(says, "When a row is edited")
	case len(w.Edit) > 0:
		names := make([]string, len(w.Edit))
		for i, id := range w.Edit {
			names[i] = e.columnName(id)
		}
		says = append(says, "When "+orWords(names)+" is edited")
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
	return capital(strings.Join(says, ", and "))
}

// toWords says whom a reminder concerns: "{Courier}; {Registrar}" is Courier and Registrar.
func toWords(template string) string {
	return strings.NewReplacer("{", "", "}", "", "[", "", "]", "", "; ", " and ", ", ", " and ").Replace(template)
}

func capital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[n:]
}

// orWords joins names as in "A, B or C".
func orWords(names []string) string {
	if n := len(names); n > 1 {
		return strings.Join(names[:n-1], ", ") + " or " + names[n-1]
	}
	return strings.Join(names, "")
}

func (e *encoder) stepWords(r *rule.Rule, s rule.Step) string {
	switch {
	case s.Copy != nil:
		says := "copy to " + e.placeWords(r, &s.Copy.Place)
		if len(s.Copy.Set) > 0 {
			says += " and " + e.cellWords(r, s.Copy.Set)
		}
		return says
	case s.Move != nil:
		says := "move to " + e.placeWords(r, &s.Move.Place)
		if len(s.Move.Clear) > 0 {
			names := make([]string, len(s.Move.Clear))
			for i, id := range s.Move.Clear {
				names[i] = e.columnName(id)
			}
			says += " and clear " + strings.Join(names, ", ")
		}
		if len(s.Move.Set) > 0 {
			says += " and " + e.cellWords(r, s.Move.Set)
		}
		return says
	case s.Put != nil:
		return fmt.Sprintf("put a row into %s by %s", e.tabWords([]sheet.TabID{s.Put.Tab}), e.columnName(s.Put.Key))
	case s.Take != nil:
		return fmt.Sprintf("take its rows into %s by %s", e.tabWords([]sheet.TabID{s.Take.Tab}), e.columnName(s.Take.Key))
	case s.Tally != nil:
		return e.tallyWords(s.Tally)
	case s.Write != nil:
		says := "write " + e.tabWords([]sheet.TabID{s.Write.Tab})
		if s.Write.Reminder != 0 {
			says = "write what " + e.partNames([]sheet.PartID{s.Write.Reminder}) + " holds"
		}
		if s.Write.Where != "" {
			says += " where " + e.whereOf(s.Write)
		}
		if says += " to " + e.template(nil, s.Write.File); s.Write.At != "" {
			says += " at " + s.Write.Sheet + ", " + s.Write.At
		}
		return says
	}
	return e.cellWords(r, s.Set)
}

func (e *encoder) placeWords(r *rule.Rule, p *rule.Place) string {
	to := e.template(r.In, p.To)
	if hole, isHole := strings.CutPrefix(to, "{"); isHole && strings.Count(to, "{") == 1 {
		to = "the tab that " + strings.TrimSuffix(hole, "}") + " names"
	}
	if p.Tracker != "" {
		to += " of " + p.Tracker
	}
	return to
}

func (e *encoder) cellWords(r *rule.Rule, cells []rule.Cell) string {
	says := make([]string, len(cells))
	for i, c := range cells {
		says[i] = fmt.Sprintf("set %s to %s", e.columnName(c.Column), e.valueWords(r, c.To))
	}
	return strings.Join(says, ", ")
}

func (e *encoder) valueWords(r *rule.Rule, stored string) string {
	text := e.template(r.In, stored)
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

func (e *encoder) tabWords(ids []sheet.TabID) string {
	names := make([]string, len(ids))
	for i, id := range ids {
		names[i] = id.String()
		if t := e.shape.TabByID(id); t != nil {
			names[i] = t.Name
		}
	}
	return orWords(names)
}

func (e *encoder) partNames(ids []sheet.PartID) string {
	var names []string
	for _, id := range ids {
		for i := range e.shape.Parts {
			if e.shape.Parts[i].ID == id {
				names = append(names, e.shape.Parts[i].Name)
			}
		}
	}
	return strings.Join(names, ", ")
}
