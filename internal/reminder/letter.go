package reminder

import (
	"bytes"
	_ "embed"
	"fmt"
	"html"
	htmltemplate "html/template"
	"slices"
	"strings"
	texttemplate "text/template"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Letter is one person's mail of a round.
type Letter struct {
	To       string // address
	Name     string // as the directory knows the person, or ""
	Subject  string
	Count    int
	New      int // rows that no round has told of before
	Sections []Section
	Pause    string // where one stops the mails, or ""
	Text     string
	HTML     string
}

// Section is what one reminder holds for the person.
type Section struct {
	Title   string
	Tracker string // of the rows, where it is not the round's
	Why     Standing
	Remark  string
	Heads   []string
	Rows    []Line

	// Totals are the sums of what is shown, where it is numbers and sums are wanted; nil:
	// none are.
	Totals []string

	reminder sheet.DefinitionID
	group    string
	sums     []value.Sum
}

// Choice is a thing one can do to a row, and where.
type Choice struct{ Says, Link string }

// Line is one row in a letter.
type Line struct {
	Label string
	Marks []string // colours of the cells that are choices, by cell
	Group string   // where it begins a group, the group's name
	New   bool
	Acts  []Choice
	Cells []string
	Link  string // to the row in the console
}

// Context is what a letter says besides its rows.
type Context struct {
	Round   *CompiledRound
	Tracker string
	Now     time.Time // in the tracker's zone
	Link    func(Item) string
	// Act gives the address at which somebody does a thing to a row: done, later,
	// date; nil: mails only tell.
	Act   func(r *Reminder, i Item, to, what string) string
	Pause func(to string) string // where one stops the mails; may be nil
	// Figures gives the tallies that stand below somebody's rows; nil: none do.
	Figures func(to string) []Figures

	foreign bool              // the rows are of another tracker than the round's
	Names   map[string]string // people's names by address
}

// Letters gives one letter a person, in order of address; nobody whom no row
// concerns gets one.
func Letters(holdings []Holding, ctx Context) ([]Letter, error) {
	byPerson := map[string]*Letter{}
	var people []string
	for _, h := range holdings {
		for _, item := range h.Items {
			for _, to := range item.To {
				l := byPerson[to]
				if l == nil {
					l = &Letter{To: to, Name: value.OneLine(ctx.Names[to])}
					byPerson[to] = l
					people = append(people, to)
				}
				l.take(h.Reminder, item, ctx.at(h.Place))
			}
		}
	}
	slices.Sort(people)
	f, err := layOutFrames(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]Letter, 0, len(people))
	for _, to := range people {
		l := byPerson[to]
		if ctx.Pause != nil {
			l.Pause = ctx.Pause(to)
		}
		env := &clause.Env{Extra: []value.Value{value.OfInt(int64(l.Count)), value.OfText(ctx.Round.Name), value.OfText(l.Called()), value.OfInt(int64(l.New))},
			Today: value.DateOf(ctx.Now), Now: value.DateTimeOf(ctx.Now)}
		if l.Subject = strings.Join(strings.Fields(ctx.Round.subject(env).String()), " "); l.Subject == "" {
			l.Subject = l.subject(ctx)
		}
		l.layOut(ctx, f, env)
		out = append(out, *l)
	}
	return out, nil
}

// Called gives the person's name or, where nobody knows it, the address.
func (l *Letter) Called() string {
	if l.Name != "" {
		return l.Name
	}
	return l.To
}

// subject is what a mail is about, where the round does not say.
func (l *Letter) subject(ctx Context) string {
	rows := "1 row"
	if l.Count != 1 {
		rows = fmt.Sprintf("%d rows", l.Count)
	}
	if len(l.Sections) == 1 {
		return fmt.Sprintf("%s: %s, %s", value.OneLine(ctx.Tracker), l.Sections[0].Title, rows)
	}
	return fmt.Sprintf("%s: %s for you", value.OneLine(ctx.Tracker), rows)
}

// at gives the context of rows of another tracker.
func (c Context) at(p *Place) Context {
	if p != nil {
		c.Tracker, c.Link, c.Act, c.foreign = p.Tracker, p.Link, p.Act, true
	}
	return c
}

func (l *Letter) take(r *Reminder, item Item, ctx Context) {
	l.Count++
	isNew := item.NewTo(l.To)
	if isNew {
		l.New++
	}
	why := item.Why[l.To]
	at := slices.IndexFunc(l.Sections, func(s Section) bool { return s.reminder == r.ID && s.Title == r.Name && s.Why == why })
	if at < 0 {
		at = len(l.Sections)
		s := Section{Title: value.OneLine(r.Name), Why: why, Remark: r.Remark, reminder: r.ID}
		if ctx.foreign {
			s.Tracker = value.OneLine(ctx.Tracker)
		}
		for _, shown := range r.Show {
			s.Heads = append(s.Heads, value.OneLine(shown.Title))
		}
		l.Sections = append(l.Sections, s)
	}
	s := &l.Sections[at]
	if r.Totals {
		s.add(item)
	}
	line := Line{Label: item.Label, Cells: item.Shown, Marks: item.Marks, New: isNew, Acts: acts(r, item, l.To, why, ctx)}
	if item.Group != s.group {
		line.Group, s.group = item.Group, item.Group
	}
	if ctx.Link != nil {
		line.Link = ctx.Link(item)
	}
	s.Rows = append(s.Rows, line)
}

// add takes a row's numbers into the sums. Ratings and shares are not added up.
func (s *Section) add(item Item) {
	if s.sums == nil {
		s.sums, s.Totals = make([]value.Sum, len(item.Values)), make([]string, len(item.Values))
	}
	for i, v := range item.Values {
		typ := item.types[i]
		if v.Kind() != value.Number || typ.Display == "percent" || typ.Display == "rating" {
			continue
		}
		s.sums[i].Add(v)
		if sum, err := s.sums[i].Value(); err == nil {
			s.Totals[i] = sum.ShowIn(typ, item.style)
		}
	}
}

// acts gives what one can do to a row from the mail.
func acts(r *Reminder, i Item, to string, why Standing, ctx Context) []Choice {
	if ctx.Act == nil || r.Act.Silent || why == Informed {
		return nil
	}
	var out []Choice
	if len(r.Act.Done) > 0 { // only what is set up is offered
		out = append(out, Choice{"Mark done", ctx.Act(r, i, to, "done")})
	}
	out = append(out, Choice{"Remind me later", ctx.Act(r, i, to, "later")})
	if r.Act.Date != 0 {
		out = append(out, Choice{"Change date", ctx.Act(r, i, to, "date")})
	}
	return out
}

//go:embed letter.html.tmpl
var htmlSource string

//go:embed letter.text.tmpl
var textSource string

var (
	htmlLetter = htmltemplate.Must(htmltemplate.New("letter").Parse(htmlSource))
	textLetter = texttemplate.Must(texttemplate.New("letter").Parse(textSource))
)

// frames are what stands around the body of every letter of a round, laid out
// once, with marks where letters differ.
type frames struct{ html, text []piece }

// piece is some of a frame, and the mark that follows it, or "".
type piece struct{ text, mark string }

// cut takes a frame apart at its marks.
func cut(frame string) []piece {
	var out []piece
	for {
		at, mark := len(frame), ""
		for _, m := range []string{marks.Subject, marks.Opening, marks.Body, marks.Closing, marks.Pause} {
			if i := strings.Index(frame, m); i >= 0 && i < at {
				at, mark = i, m
			}
		}
		out = append(out, piece{frame[:at], mark})
		if mark == "" {
			return out
		}
		frame = frame[at+len(mark):]
	}
}

// marks stand in frames for what each letter has of its own.
var marks = struct{ Subject, Opening, Body, Closing, Pause string }{"kavlo-mark-subject", "kavlo-mark-opening", "kavlo-mark-body", "kavlo-mark-closing", "kavlo-mark-pause"}

func layOutFrames(ctx Context) (*frames, error) {
	data := struct {
		Subject, Tracker, Day, Opening, Closing, Pause string
		Body                                           any
	}{marks.Subject, value.OneLine(ctx.Tracker), ctx.Now.Format("Monday 2 January 2006"), marks.Opening, marks.Closing, marks.Pause, htmltemplate.HTML(marks.Body)} //nolint:gosec // a mark
	if ctx.Pause == nil {
		data.Pause = ""
	}
	var rich, text bytes.Buffer
	if err := htmlLetter.Execute(&rich, data); err != nil {
		return nil, fmt.Errorf("laying out mails: %w", err)
	}
	data.Body = marks.Body
	if err := textLetter.Execute(&text, data); err != nil {
		return nil, fmt.Errorf("laying out mails: %w", err)
	}
	return &frames{cut(rich.String()), cut(text.String())}, nil
}

func (l *Letter) layOut(ctx Context, f *frames, env *clause.Env) {
	opening, closing := l.opening(ctx.Round.Clock != nil), "Sent by the round “"+ctx.Round.Name+"”. Sent only when rows need your attention."
	if ctx.Round.opening != nil {
		opening = ctx.Round.opening(env).String()
	}
	if ctx.Round.closing != nil {
		closing = ctx.Round.closing(env).String()
	}
	repeats := l.New < l.Count // some rows were told of before
	var figures []Figures
	if ctx.Figures != nil {
		figures = ctx.Figures(l.To)
	}
	l.HTML = filled(f.html, html.EscapeString, l, opening, closing, l.bodyHTML(ctx.Act != nil, repeats)+figuresHTML(figures))
	l.Text = filled(f.text, func(s string) string { return s }, l, opening, closing, l.bodyText(repeats)+figuresText(figures))
}

func filled(frame []piece, escaped func(string) string, l *Letter, opening, closing, body string) string {
	var b strings.Builder
	b.Grow(len(body) + 3000)
	for _, p := range frame {
		b.WriteString(p.text)
		switch p.mark {
		case marks.Subject:
			b.WriteString(escaped(l.Subject))
		case marks.Opening:
			b.WriteString(escaped(opening))
		case marks.Closing:
			b.WriteString(escaped(closing))
		case marks.Pause:
			b.WriteString(escaped(l.Pause))
		case marks.Body:
			b.WriteString(body)
		}
	}
	return b.String()
}

// opening is how a letter begins unless the round says otherwise. A rule's is in the
// order that the rule gives.
func (l *Letter) opening(round bool) string {
	out, need := "Hello, ", "rows need"
	if l.Name != "" {
		out = "Hello " + l.Name + ", "
	}
	if l.Count == 1 {
		need = "row needs"
	}
	out += fmt.Sprintf("%d %s your attention", l.Count, need)
	if !round {
		return out + "."
	}
	out += ", longest overdue first."
	switch l.New {
	case 0, l.Count:
	case 1:
		out += " 1 is new since the last email."
	default:
		out += fmt.Sprintf(" %d are new since the last email.", l.New)
	}
	return out
}
