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
	"example.org/kavlo/internal/value"
)

// Letter is one person's mail of a round.
type Letter struct {
	To       string // address
	Name     string // as the directory knows the person, or ""
	Subject  string
	Count    int
	Sections []Section
	Text     string
	HTML     string
}

// Section is what one reminder holds for the person.
type Section struct {
	Title  string
	Remark string
	Heads  []string
	Rows   []Line
}

// Line is one row in a letter.
type Line struct {
	Label string
	Cells []string
	Link  string // to the row in the console
}

// Context is what a letter says besides its rows.
type Context struct {
	Round   *CompiledRound
	Tracker string
	Now     time.Time // in the tracker's zone
	Link    func(Item) string
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
				l.take(h.Reminder, item, ctx)
			}
		}
	}
	slices.Sort(people)
	out := make([]Letter, 0, len(people))
	for _, to := range people {
		l := byPerson[to]
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

func (l *Letter) take(r *Reminder, item Item, ctx Context) {
	l.Count++
	if n := len(l.Sections); n == 0 || l.Sections[n-1].Title != r.Name {
		s := Section{Title: r.Name, Remark: r.Remark}
		for _, shown := range r.Show {
			s.Heads = append(s.Heads, shown.Title)
		}
		l.Sections = append(l.Sections, s)
	}
	s := &l.Sections[len(l.Sections)-1]
	line := Line{Label: item.Label, Cells: item.Shown}
	if ctx.Link != nil {
		line.Link = ctx.Link(item)
	}
	s.Rows = append(s.Rows, line)
}

//go:embed letter.html.tmpl
var htmlSource string

//go:embed letter.text.tmpl
var textSource string

var (
	htmlLetter = htmltemplate.Must(htmltemplate.New("letter").Parse(htmlSource))
	textLetter = texttemplate.Must(texttemplate.New("letter").Funcs(texttemplate.FuncMap{"underline": func(s string, n int) string { return strings.Repeat("-", len([]rune(fmt.Sprintf("%s (%d)", s, n)))) }}).Parse(textSource))
)

func (l *Letter) layOut(ctx Context) error {
	data := struct {
		*Letter
		Tracker, Round, Day string
	}{l, ctx.Tracker, ctx.Round.Name, ctx.Now.Format("Monday 2 January 2006")}
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
