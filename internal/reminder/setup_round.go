package reminder

import (
	"fmt"

	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

// ReadSetup reads a round from a setup file.
func (r *Round) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	var err error
	if r.Remark, err = m.Get("remark").Text(); err != nil {
		return err
	}
	if r.Clock, err = m.Get("clock").Text(); err != nil {
		return err
	}
	if r.Subject, err = m.Get("subject").Text(); err != nil {
		return err
	}
	if err := setup.ReadTexts(m, map[string]*string{"opening": &r.Opening, "closing": &r.Closing}); err != nil {
		return err
	}
	names, err := m.Get("reminders").Texts()
	if err != nil {
		return err
	}
	for _, n := range names {
		if n == "all" || n == "all trackers" {
			r.All, r.Everywhere = true, r.Everywhere || n == "all trackers"
			continue
		}
		p, err := d.Shape.Definition(sheet.KindReminder, n)
		if err != nil {
			return m.Get("reminders").Wrap(err)
		}
		r.Reminders = append(r.Reminders, p.ID)
	}
	files, err := m.Get("attach").Texts()
	if err != nil {
		return err
	}
	for _, n := range files {
		p, err := d.Shape.Definition(sheet.KindRule, n)
		if err != nil { // a rule's files, or a tally
			if p, _ = d.Shape.Definition(sheet.KindTally, n); p == nil {
				return m.Get("attach").Wrap(err)
			}
		}
		r.Attach = append(r.Attach, p.ID)
	}
	missed, err := m.Get("missed").Text()
	switch Missed(missed) {
	case "", RunOnce, Skip:
		r.Missed = Missed(missed)
	default:
		return m.Get("missed").Fail("%q is not a way to treat a missed round: write run once or skip", missed)
	}
	if err != nil {
		return err
	}
	closed, err := m.Get("closed days").Text()
	switch r.Closed = recur.Closed(closed); r.Closed {
	case recur.Open, recur.LeaveOut, recur.NextOpened:
	default:
		return m.Get("closed days").Fail("%q is not a way to treat closed days: write skip or next working day", closed)
	}
	return err
}

// WriteSetup writes a round as a setup file has it.
func (r *Round) WriteSetup(e *setup.Writer, b setup.Builder) {
	b.Text("remark", r.Remark).Text("clock", r.Clock)
	switch {
	case r.Everywhere:
		b.Put("reminders", setup.Word("all trackers"))
	case r.All:
		b.Put("reminders", setup.Word("all"))
	default:
		b.Put("reminders", e.KindList(r.Reminders))
	}
	b.Text("subject", r.Subject).Text("missed", string(r.Missed)).Text("closed days", string(r.Closed)).Text("opening", r.Opening).Text("closing", r.Closing).Put("attach", e.KindList(r.Attach))
}

// Sentence says what a round does, as people would say it.
func (r *Round) Sentence(e *setup.Writer) string {
	what := "the rows that match their reminders"
	if r.Everywhere {
		what = "the rows of all trackers that match their reminders"
	}
	if !r.All {
		what = "the rows that match " + e.DefinitionNames(r.Reminders)
	}
	return fmt.Sprintf("%s, sends each person one email with %s. People without rows get no email.", setup.Capital(r.Clock), what)
}
