package setup

import (
	"fmt"
	"strconv"
	"strings"

	"example.org/kavlo/internal/digest"
)

// readReminderMore reads what most reminders lack.
func (d *decoder) readReminderMore(m *mapping, r *digest.Reminder) error {
	var err error
	for key, to := range map[string]*string{"due": &r.Due, "group": &r.Group} {
		if *to, err = d.storeClause(m.get(key), r.In, false); err != nil {
			return err
		}
	}
	for key, to := range map[string]*string{"copy": &r.Copy, "otherwise": &r.Otherwise} {
		if *to, err = d.storeTemplate(m.get(key), r.In, false); err != nil {
			return err
		}
	}
	if raise := m.get("raise"); raise.present() {
		if r.Raise, err = d.readRaise(raise, r); err != nil {
			return err
		}
	}
	if r.Repeat, err = readRepeat(m.get("repeat")); err != nil {
		return err
	}
	return d.readAct(m.get("act"), r)
}

func (d *decoder) readRaise(a at, r *digest.Reminder) (*digest.Raise, error) {
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	out := &digest.Raise{}
	text, err := m.get("after").text()
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
		return nil, m.get("after").fail("%q is not a number of days: write 7 days or 5 workdays", text)
	}
	if out.To, err = d.storeTemplate(m.get("to"), r.In, false); err != nil {
		return nil, err
	}
	if out.To == "" {
		return nil, a.fail("say to whom: raise: { after: 7 days, to: ADDRESS }")
	}
	return out, m.done()
}

func readRepeat(a at) (int, error) {
	text, err := a.text()
	if err != nil {
		return 0, err
	}
	switch text {
	case "", "every round":
		return 0, nil
	case "once":
		return digest.Once, nil
	}
	var n int
	if _, err := fmt.Sscanf(text, "every %d days", &n); err != nil || n < 1 || text != fmt.Sprintf("every %d days", n) {
		return 0, a.fail("%q does not say how often: write every round, once or every 3 days", text)
	}
	return n, nil
}

func (d *decoder) readAct(a at, r *digest.Reminder) error {
	if !a.present() {
		return nil
	}
	if text, err := a.text(); err == nil && (text == "no" || text == "false") {
		r.Act.Silent = true
		return nil
	}
	m, err := a.mapping()
	if err != nil {
		return err
	}
	cells, err := d.readCells(m.get("done"), r.In, r.In, false)
	if err != nil {
		return err
	}
	for _, c := range cells {
		r.Act.Done = append(r.Act.Done, digest.Cell{Column: c.Column, To: c.To})
	}
	name, err := m.get("date").text()
	if err == nil && name != "" {
		r.Act.Date, err = d.column(m.get("date"), name, r.In)
	}
	if err != nil {
		return err
	}
	return m.done()
}

func (e *encoder) reminderMore(b builder, r *digest.Reminder) {
	b.text("due", e.across(r.In, r.Due)).text("group", e.across(r.In, r.Group)).text("copy", e.template(r.In, r.Copy)).text("otherwise", e.template(r.In, r.Otherwise))
	if r.Raise != nil {
		unit := "days"
		if r.Raise.Workdays {
			unit = "workdays"
		}
		b.put("raise", flow(build().text("after", fmt.Sprintf("%d %s", r.Raise.After, unit)).text("to", e.template(r.In, r.Raise.To)).n))
	}
	switch {
	case r.Repeat == digest.Once:
		b.text("repeat", "once")
	case r.Repeat > 0:
		b.text("repeat", fmt.Sprintf("every %d days", r.Repeat))
	}
	if r.Act.Silent {
		b.put("act", word("no"))
		return
	}
	act := build()
	if len(r.Act.Done) > 0 {
		done := build()
		for _, c := range r.Act.Done {
			done.put(e.columnName(c.Column), scalar(e.template(r.In, c.To)))
		}
		act.put("done", flow(done.n))
	}
	if r.Act.Date != 0 {
		act.text("date", e.columnName(r.Act.Date))
	}
	if len(act.n.Content) > 0 {
		b.put("act", flow(act.n))
	}
}
