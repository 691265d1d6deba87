package rule

import (
	"fmt"

	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
)

// MailAsk is what a cascade asks to be told, of rows that a rule matched.
type MailAsk struct {
	*reminder.CompiledMail
	Tracker sheet.TrackerID
	State   *sheet.Tracker // as it stood when the step had its turn
	Rows    []sheet.RowID
	Step    int // from 1
	report  int
}

// Tell puts into the report of the step what became of it.
func (a *MailAsk) Tell(o *Outcome, says string) { o.Reports[a.report].Steps[a.Step-1].Says = says }

// Says gives what was put there.
func (a *MailAsk) Says(o *Outcome) string { return o.Reports[a.report].Steps[a.Step-1].Says }

// Missed puts into the rule's report that somebody who should be told of a row is not.
func (a *MailAsk) Missed(o *Outcome, p Passed) {
	o.Reports[a.report].Unmet = true
	o.Reports[a.report].pass(p)
}

// compileMails compiles what steps mail.
func (c *Compiled) compileMails() (part string, err error) {
	for i, s := range c.Steps {
		if s.Mail == nil {
			continue
		}
		remark := s.Remark
		if remark == "" {
			remark = s.Name
		}
		m, err := reminder.CompileMail(s.Mail, c.Name, c.ID, remark, c.bound)
		if err != nil {
			return fmt.Sprintf("step %d (mail)", i+1), err
		}
		if c.mails == nil {
			c.mails = map[int]*reminder.CompiledMail{}
		}
		c.mails[i] = m
	}
	return "", nil
}

// Mails reports whether the rule mails.
func (c *Compiled) Mails() bool { return len(c.mails) > 0 }

// askMail asks that people be told of the rows. They are told once the change is
// committed, one mail a person, whatever woke the rule and however often.
func (c *cascade) askMail(u *run, rows []candidate) {
	state := c.draft.Snapshot(u.tracker)
	ask := MailAsk{CompiledMail: u.rule.mails[u.step], Tracker: u.tracker, State: state, Step: u.step + 1, report: c.reports[u.rule.ID]}
	for _, cand := range rows {
		if state.Row(cand.id) == nil {
			c.leftBehind(u, cand)
			continue
		}
		ask.Rows = append(ask.Rows, cand.id)
	}
	rep := &c.report(u.rule).Steps[u.step]
	rep.Rows += len(ask.Rows)
	if len(ask.Rows) == 0 {
		if rep.Says == "" {
			rep.Says = "no rows matched, so no email was sent"
		}
		return
	}
	c.out.Mails = append(c.out.Mails, ask)
}
