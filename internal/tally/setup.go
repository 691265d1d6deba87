package tally

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/setup/schema"
)

// ReadSetup reads a tally from a setup file.
func (t *Tally) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	var err error
	if t.Remark, err = m.Get("remark").Text(); err != nil {
		return err
	}
	if t.Of, err = d.TabIDs(m.Get("of")); err != nil {
		return err
	}
	if len(t.Of) == 0 {
		return m.Fail("say which tab's rows are counted: of: TAB")
	}
	if t.Where, err = d.Condition(m.Get("where"), t.Of, false); err != nil {
		return err
	}
	if err := t.readBy(d, m.Get("by")); err != nil {
		return err
	}
	err = m.Get("figures").Pairs(func(name string, v setup.At) error { return t.readFigure(d, strings.TrimSpace(name), v) })
	if err != nil {
		return err
	}
	if len(t.Figures) == 0 {
		return m.Fail("say which figures each group has: figures: { Rows: count }")
	}
	return t.readLook(m)
}

// readLook reads how a tally is drawn, and what it is compared with.
func (t *Tally) readLook(m *setup.Mapping) error {
	var err error
	if t.Draw, err = setup.OneOf(m.Get("draw"), Bars, Line, Stacked, Number); err != nil {
		return err
	}
	if t.Draw == Stacked && len(t.By) < 2 {
		return m.Get("draw").Fail("a stacked bar wants two things to group by: by: [Venue, month of Arrived]")
	}
	show, err := m.Get("show").Text()
	if err != nil {
		return err
	}
	if show != "" {
		at := slices.IndexFunc(t.Figures, func(f Figure) bool { return strings.EqualFold(f.Name, strings.TrimSpace(show)) })
		if at < 0 {
			return m.Get("show").Fail("there is no figure %q among those of the tally", show)
		}
		t.Show = at
	}
	if t.Compare, err = m.Get("compare").Text(); err != nil {
		return err
	}
	if t.Compare = strings.ToLower(strings.TrimSpace(t.Compare)); t.Compare != "" {
		if _, err := dayBefore(t.Compare, time.Unix(0, 0).UTC()); err != nil {
			return m.Get("compare").Wrap(err)
		}
	}
	if t.Limit, err = m.Get("limit").Int(); err != nil {
		return err
	}
	if t.Limit < 0 || t.Limit > mostLimit {
		return m.Get("limit").Fail("at most %d groups are shown", mostLimit)
	}
	t.Today, err = m.Get("today").Yes()
	return err
}

// mostLimit is how many groups can be shown at most.
const mostLimit = 1000

func (t *Tally) readBy(d *setup.Reader, a setup.At) error {
	if !a.Present() {
		return nil
	}
	one := func(name string, v setup.At) error {
		text, err := v.Text()
		if err != nil {
			return err
		}
		by := By{Name: name}
		for _, p := range Periods {
			if rest, is := strings.CutPrefix(text, string(p)+" of "); is {
				by.Period, text = p, strings.TrimSpace(rest)
				break
			}
		}
		if by.Clause, err = d.Clause(v.With(text), t.Of, false); err != nil {
			return err
		}
		if len(t.By) == 2 {
			return a.Fail("rows are grouped by one or two things")
		}
		t.By = append(t.By, by)
		return nil
	}
	if a.IsScalar() {
		return one(a.Raw(), a)
	}
	if a.IsMapping() {
		return a.Pairs(one)
	}
	return a.Each(func(v setup.At) error {
		if v.IsMapping() {
			return v.Pairs(one)
		}
		return one(v.Raw(), v)
	})
}

func (t *Tally) readFigure(d *setup.Reader, name string, a setup.At) error {
	text, err := a.Text()
	if err != nil {
		return err
	}
	text = strings.TrimSpace(text)
	for _, what := range Whats {
		rest, is := strings.CutPrefix(text, what)
		if !is || rest != "" && rest[0] != ' ' {
			continue
		}
		f := Figure{Name: name, What: what}
		if rest = strings.TrimSpace(rest); rest != "" {
			if what == "count" {
				return a.Fail("count counts rows; to count values, write count distinct %s", rest)
			}
			if f.Of, err = d.Clause(a.With(rest), t.Of, false); err != nil {
				return err
			}
		} else if what != "count" && what != "share" {
			return a.Fail("say of what: %s COLUMN", what)
		}
		t.Figures = append(t.Figures, f)
		return nil
	}
	return a.Fail("%q is no figure: write %s", text, strings.Join(Whats, ", "))
}

// WriteSetup writes a tally as a setup file has it.
func (t *Tally) WriteSetup(e *setup.Writer, b setup.Builder) {
	b.Text("remark", t.Remark).Put("of", e.TabNames(t.Of)).Text("where", e.Across(t.Of, t.Where))
	if len(t.By) > 0 {
		by := setup.Flow(setup.Sequence())
		for _, x := range t.By {
			text := t.byText(e, x)
			if text == x.Name || text == "["+x.Name+"]" {
				by.Content = append(by.Content, setup.Scalar(x.Name))
			} else {
				by.Content = append(by.Content, setup.Flow(setup.Build().Text(x.Name, text).Node()))
			}
		}
		b.Put("by", by)
	}
	figures := setup.Build()
	for _, f := range t.Figures {
		figures.Text(f.Name, strings.TrimSpace(f.What+" "+e.Across(t.Of, f.Of)))
	}
	b.Put("figures", setup.Flow(figures.Node())).Text("draw", string(t.Draw))
	if t.Show > 0 && t.Show < len(t.Figures) {
		b.Text("show", t.Figures[t.Show].Name)
	}
	b.Text("compare", t.Compare)
	if t.Limit > 0 {
		b.Put("limit", setup.Word(fmt.Sprint(t.Limit)))
	}
	b.Yes("today", t.Today)
}

func (t *Tally) byText(e *setup.Writer, by By) string {
	text := e.Across(t.Of, by.Clause)
	if by.Period != "" {
		return string(by.Period) + " of " + text
	}
	return text
}

// Sentence says what a tally shows, as people would say it.
func (t *Tally) Sentence(e *setup.Writer) string {
	var figures, by []string
	for _, f := range t.Figures {
		figures = append(figures, f.Name)
	}
	for _, x := range t.By {
		by = append(by, "`"+t.byText(e, x)+"`")
	}
	says := "Counts rows in " + e.TabWords(t.Of)
	if t.Where != "" {
		says += fmt.Sprintf(" where `%s`", e.Across(t.Of, t.Where))
	}
	if by != nil {
		says += " by " + strings.Join(by, " and ")
	}
	return says + ": " + strings.Join(figures, ", ") + "."
}

// SetupSchema gives the JSON Schema of a tally in a setup file.
func (*Tally) SetupSchema() schema.Object {
	return schema.Closed(schema.Object{
		"name": schema.Text("name"), "remark": schema.Text("a remark"),
		"of": schema.OneOrMore("the tabs whose rows are counted"), "where": schema.Text("which rows: a clause"),
		"by":      schema.Object{"anyOf": []any{schema.Text("a column, or month of COLUMN and the like"), schema.ListOf(schema.Object{"type": []any{"string", "object"}})}},
		"figures": schema.MapOf(schema.Text("count, count distinct, sum, average, median, smallest, largest or share, of a clause")),
		"draw":    schema.Words(string(Bars), string(Line), string(Stacked), string(Number)), "show": schema.Text("the figure that is drawn"),
		"compare": schema.Text("an earlier day: 7 days, 4 weeks, 1 month, friday, end of last month, 2026-03-31"), "limit": schema.Object{"type": "integer", "description": "groups shown; the rest are the others"},
		"today": schema.Truth("it stands on the Today page"),
	}, "name", "of", "figures")
}
