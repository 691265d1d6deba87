package reminder

import (
	"fmt"
	"strconv"
	"strings"

	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

// ReadSetup reads a reminder from a setup file.
func (r *Reminder) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	var err error
	if r.Remark, err = m.Get("remark").Text(); err != nil {
		return err
	}
	if r.In, err = d.TabIDs(m.Get("in")); err != nil {
		return err
	}
	if len(r.In) == 0 {
		return m.Fail("say in which tab the rows are: in: TAB")
	}
	if r.Where, err = d.Condition(m.Get("where"), r.In, false); err != nil {
		return err
	}
	if r.Where == "" {
		return m.Fail("say which rows are meant: where: CLAUSE")
	}
	if err := r.readLetter(d, m); err != nil {
		return err
	}
	return readReminderMore(d, m, r)
}

// readLetter reads whom a mail is for, and what it shows of rows.
func (r *Reminder) readLetter(d *setup.Reader, m *setup.Mapping) error {
	var err error
	for key, to := range map[string]*string{"order": &r.Order, "group": &r.Group} {
		if *to, err = d.Clause(m.Get(key), r.In, false); err != nil {
			return err
		}
	}
	for key, to := range map[string]*string{"to": &r.To, "copy": &r.Copy, "otherwise": &r.Otherwise} {
		if *to, err = readTo(d, m.Get(key), r.In); err != nil {
			return err
		}
	}
	if r.To == "" {
		return m.Fail("say who must be told: to: \"{Registrar}\"")
	}
	if r.Totals, err = m.Get("totals").Yes(); err != nil {
		return err
	}
	return m.Get("show").Each(func(a setup.At) error {
		if a.IsMapping() {
			return a.Pairs(func(title string, v setup.At) error {
				c, err := d.Clause(v, r.In, false)
				r.Show = append(r.Show, Shown{Title: title, Clause: c})
				return err
			})
		}
		name, err := a.Text()
		if err != nil {
			return err
		}
		id, err := d.Column(a, name, r.In)
		r.Show = append(r.Show, Shown{Title: name, Clause: fmt.Sprintf("[#%d]", id)})
		return err
	})
}

// readTo reads whom something is told to: a text with holes, or a list of such; "each
// COLUMN in TAB" stands for a hole by itself.
func readTo(d *setup.Reader, a setup.At, in []sheet.TabID) (string, error) {
	texts, err := a.Texts()
	if err != nil || len(texts) == 0 {
		return "", err
	}
	for i, t := range texts {
		if t = strings.TrimSpace(t); strings.HasPrefix(strings.ToLower(t), "each ") && !strings.Contains(t, "{") {
			texts[i] = "{" + t + "}"
		}
	}
	return d.Template(a.With(strings.Join(texts, "; ")), in, false)
}

// WriteSetup writes a reminder as a setup file has it.
func (r *Reminder) WriteSetup(e *setup.Writer, b setup.Builder) {
	b.Text("remark", r.Remark).Put("in", e.TabNames(r.In)).Text("where", e.Across(r.In, r.Where))
	r.writeLetter(e, b)
	writeMore(e, b, r)
}

// writeLetter writes whom a mail is for, and what it shows of rows.
func (r *Reminder) writeLetter(e *setup.Writer, b setup.Builder) {
	show := setup.Flow(setup.Sequence())
	for _, s := range r.Show {
		shown := e.Across(r.In, s.Clause)
		if shown == s.Title || shown == "["+s.Title+"]" {
			show.Content = append(show.Content, setup.Scalar(s.Title))
		} else {
			show.Content = append(show.Content, setup.Flow(setup.Build().Text(s.Title, shown).Node()))
		}
	}
	if len(show.Content) > 0 {
		b.Put("show", show)
	}
	b.Text("order", e.Across(r.In, r.Order)).Text("to", e.Template(r.In, r.To)).Text("group", e.Across(r.In, r.Group)).Text("copy", e.Template(r.In, r.Copy)).Text("otherwise", e.Template(r.In, r.Otherwise)).Yes("totals", r.Totals)
}

// Sentence says what a reminder does, as people would say it.
func (r *Reminder) Sentence(e *setup.Writer) string {
	return fmt.Sprintf("Reminds %s about rows in %s where `%s`.", toWords(e.Template(r.In, r.To)), e.TabWords(r.In), e.Across(r.In, r.Where))
}

// readReminderMore reads what most reminders lack.
func readReminderMore(d *setup.Reader, m *setup.Mapping, r *Reminder) error {
	var err error
	if r.Due, err = d.Clause(m.Get("due"), r.In, false); err != nil {
		return err
	}
	if raise := m.Get("raise"); raise.Present() {
		if r.Raise, err = readRaise(d, raise, r); err != nil {
			return err
		}
	}
	if r.Repeat, err = readRepeat(m.Get("repeat")); err != nil {
		return err
	}
	return readAct(d, m.Get("act"), r)
}

func readRaise(d *setup.Reader, a setup.At, r *Reminder) (*Raise, error) {
	m, err := a.Mapping()
	if err != nil {
		return nil, err
	}
	out := &Raise{}
	text, err := m.Get("after").Text()
	if err != nil {
		return nil, err
	}
	number, unit, _ := strings.Cut(strings.TrimSpace(text), " ")
	out.After, err = strconv.Atoi(number)
	switch unit {
	case "day", "days":
	case "workday", "workdays":
		out.Workdays = true
	default:
		err = strconv.ErrSyntax
	}
	if err != nil || out.After < 1 {
		return nil, m.Get("after").Fail("%q is not a number of days: write 7 days or 5 workdays", text)
	}
	if out.To, err = readTo(d, m.Get("to"), r.In); err != nil {
		return nil, err
	}
	if out.To == "" {
		return nil, a.Fail("say to whom: raise: { after: 7 days, to: ADDRESS }")
	}
	return out, m.Done()
}

func readRepeat(a setup.At) (int, error) {
	text, err := a.Text()
	if err != nil {
		return 0, err
	}
	switch text {
	case "", "every round":
		return 0, nil
	case "once":
		return Once, nil
	}
	var n int
	if _, err := fmt.Sscanf(text, "every %d days", &n); err != nil || n < 1 || text != fmt.Sprintf("every %d days", n) {
		return 0, a.Fail("%q does not say how often: write every round, once or every 3 days", text)
	}
	return n, nil
}

func readAct(d *setup.Reader, a setup.At, r *Reminder) error {
	if !a.Present() {
		return nil
	}
	if text, err := a.Text(); err == nil && (text == "no" || text == "false") {
		r.Act.Silent = true
		return nil
	}
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	cells, err := d.Cells(m.Get("done"), r.In, r.In, false)
	if err != nil {
		return err
	}
	r.Act.Done = append(r.Act.Done, cells...)
	name, err := m.Get("date").Text()
	if err == nil && name != "" {
		r.Act.Date, err = d.Column(m.Get("date"), name, r.In)
	}
	if err != nil {
		return err
	}
	return m.Done()
}

func writeMore(e *setup.Writer, b setup.Builder, r *Reminder) {
	b.Text("due", e.Across(r.In, r.Due))
	if r.Raise != nil {
		unit := "days"
		if r.Raise.Workdays {
			unit = "workdays"
		}
		b.Put("raise", setup.Flow(setup.Build().Text("after", fmt.Sprintf("%d %s", r.Raise.After, unit)).Text("to", e.Template(r.In, r.Raise.To)).Node()))
	}
	switch {
	case r.Repeat == Once:
		b.Text("repeat", "once")
	case r.Repeat > 0:
		b.Text("repeat", fmt.Sprintf("every %d days", r.Repeat))
	}
	if r.Act.Silent {
		b.Put("act", setup.Word("no"))
		return
	}
	act := setup.Build()
	if len(r.Act.Done) > 0 {
		done := setup.Build()
		for _, c := range r.Act.Done {
			done.Put(e.ColumnName(c.Column), setup.Scalar(e.Template(r.In, c.To)))
		}
		act.Put("done", setup.Flow(done.Node()))
	}
	if r.Act.Date != 0 {
		act.Text("date", e.ColumnName(r.Act.Date))
	}
	if len(act.Node().Content) > 0 {
		b.Put("act", setup.Flow(act.Node()))
	}
}

// toWords says whom a reminder concerns: "{Courier}; {Registrar}" is Courier and Registrar.
func toWords(template string) string {
	if strings.HasPrefix(template, "{") && !strings.HasPrefix(strings.ToLower(template), "{each ") {
		template = "the " + template
	}
	return strings.NewReplacer("{", "", "}", "", "[", "", "]", "", "; ", " and ", ", ", " and ").Replace(template)
}
