package digest

import (
	"bytes"
	_ "embed"
	"fmt"
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

	reminder sheet.PartID
	group    string
}

// Choice is a thing one can do to a row, and where.
type Choice struct{ Says, Link string }

// Line is one row in a letter.
type Line struct {
	Label string
	Group string // where it begins a group, the group's name
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
					l = &Letter{To: to, Name: ctx.Names[to]}
					byPerson[to] = l
					people = append(people, to)
				}
				l.take(h.Reminder, item, ctx.at(h.Place))
			}
		}
	}
	slices.Sort(people)
	out := make([]Letter, 0, len(people))
	for _, to := range people {
		l := byPerson[to]
		if ctx.Pause != nil {
			l.Pause = ctx.Pause(to)
		}
		env := &clause.Env{Extra: []value.Value{value.OfInt(int64(l.Count)), value.OfText(ctx.Round.Name), value.OfText(l.Name)},
			Today: value.DateOf(ctx.Now), Now: value.DateTimeOf(ctx.Now)}
		l.Subject = strings.Join(strings.Fields(ctx.Round.subject(env).String()), " ")
		if err := l.layOut(ctx); err != nil {
			return nil, err
		}
		out = append(out, *l)
	}
	return out, nil
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
	if item.New {
		l.New++
	}
	why := item.Why[l.To]
	at := slices.IndexFunc(l.Sections, func(s Section) bool { return s.reminder == r.ID && s.Title == r.Name && s.Why == why })
	if at < 0 {
		at = len(l.Sections)
		s := Section{Title: r.Name, Why: why, Remark: r.Remark, reminder: r.ID}
		if ctx.foreign {
			s.Tracker = ctx.Tracker
		}
		for _, shown := range r.Show {
			s.Heads = append(s.Heads, shown.Title)
		}
		l.Sections = append(l.Sections, s)
	}
	s := &l.Sections[at]
	line := Line{Label: item.Label, Cells: item.Shown, New: item.New, Acts: acts(r, item, l.To, why, ctx)}
	if item.Group != s.group {
		line.Group, s.group = item.Group, item.Group
	}
	if ctx.Link != nil {
		line.Link = ctx.Link(item)
	}
	s.Rows = append(s.Rows, line)
}

// acts gives what one can do to a row from the mail.
func acts(r *Reminder, i Item, to string, why Standing, ctx Context) []Choice {
	if ctx.Act == nil || r.Act.Silent || why == Informed {
		return nil
	}
	out := []Choice{{"Done", ctx.Act(r, i, to, "done")}, {"Later", ctx.Act(r, i, to, "later")}}
	if r.Act.Date != 0 {
		out = append(out, Choice{"Another date", ctx.Act(r, i, to, "date")})
	}
	return out
}

//go:embed letter.html.tmpl
var htmlSource string

//go:embed letter.text.tmpl
var textSource string

var (
	htmlLetter = htmltemplate.Must(htmltemplate.New("letter").Funcs(htmltemplate.FuncMap{"short": func(s string) bool { return len([]rune(s)) <= 12 }}).Parse(htmlSource))
	textLetter = texttemplate.Must(texttemplate.New("letter").Funcs(texttemplate.FuncMap{"underline": func(s string, n int) string { return strings.Repeat("-", len([]rune(fmt.Sprintf("%s (%d)", s, n)))) }}).Parse(textSource))
)

func (l *Letter) layOut(ctx Context) error {
	data := struct {
		*Letter
		Tracker, Round, Day string
		Acting, Repeats     bool // there are things to do; some rows were told of before
	}{l, ctx.Tracker, ctx.Round.Name, ctx.Now.Format("Monday 2 January 2006"), ctx.Act != nil, l.New < l.Count}
	var html, text bytes.Buffer
	if err := htmlLetter.Execute(&html, data); err != nil {
		return fmt.Errorf("laying out the mail to %s: %w", l.To, err)
	}
	if err := textLetter.Execute(&text, data); err != nil {
		return fmt.Errorf("laying out the mail to %s: %w", l.To, err)
	}
	l.HTML, l.Text = html.String(), text.String()
	return nil
}
