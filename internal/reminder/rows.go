package reminder

import (
	"errors"
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/setup/schema"
	"example.org/kavlo/internal/sheet"
)

// Mail is what a rule mails of the rows that it matched: to whom, and what is shown of
// them. It is laid out as a reminder is, one mail a person.
type Mail struct {
	Reminder
	Subject string `json:"subject,omitempty"` // templates, as those of a round
	Opening string `json:"opening,omitempty"`
}

// ReadMail reads from a setup file what a rule mails of rows of some tabs.
func ReadMail(d *setup.Reader, a setup.At, in []sheet.TabID) (*Mail, error) {
	m, err := a.Mapping()
	if err != nil {
		return nil, err
	}
	if len(in) == 0 {
		return nil, a.Fail("say in which tabs the rule's rows are, so that it is known what the email can show: in: TAB")
	}
	out := &Mail{Reminder: Reminder{In: in}}
	if err := out.readLetter(d, m); err != nil {
		return nil, err
	}
	for key, to := range map[string]*string{"subject": &out.Subject, "opening": &out.Opening} {
		if *to, err = m.Get(key).Text(); err != nil {
			return nil, err
		}
	}
	return out, m.Done()
}

// Write writes it as a setup file has it.
func (m *Mail) Write(e *setup.Writer, b setup.Builder) {
	m.writeLetter(e, b)
	b.Text("subject", m.Subject).Text("opening", m.Opening)
}

// Words says whom it tells.
func (m *Mail) Words(e *setup.Writer) string { return toWords(e.Template(m.In, m.To)) }

// MailSchema gives the JSON Schema of what a rule mails in a setup file.
func MailSchema() schema.Object {
	return schema.Closed(schema.Object{"to": schema.OneOrMore("who is told: names, addresses, groups such as admins, a person column in braces"), "copy": schema.OneOrMore("who is told for information"), "otherwise": schema.OneOrMore("who is told of rows that are nobody's"),
		"show": shownSchema(), "order": schema.Text("a clause"), "group": schema.Text("a clause: rows of one value stand together"), "totals": schema.Truth("a row of sums below"),
		"subject": schema.Text("the mail's subject, with {count} and {name}"), "opening": schema.Text("what the mail says before its rows")}, "to")
}

// CompiledMail is what a rule mails, ready.
type CompiledMail struct {
	*Compiled
	Letter *CompiledRound
}

// CompileMail checks what a rule of that name and id mails.
func CompileMail(m *Mail, rule string, id sheet.DefinitionID, remark string, b *program.Program) (*CompiledMail, error) {
	r := m.Reminder
	r.Name, r.ID, r.Remark = rule, id, remark
	c, err := Compile(&r, b)
	var part *Error
	if errors.As(err, &part) {
		return nil, &partError{part.Part, part.Err}
	}
	if err != nil {
		return nil, err
	}
	letter := &CompiledRound{Round: &Round{Name: rule, ID: id, Subject: m.Subject, Opening: m.Opening, Closing: clause.TemplateOf("Sent by the rule “" + rule + "”.")}}
	if part, err := letter.compileLetter(); err != nil {
		return nil, &partError{part, err}
	}
	return &CompiledMail{Compiled: c, Letter: letter}, nil
}

// partError says which part is wrong.
type partError struct {
	part string
	err  error
}

func (e *partError) Error() string { return e.part + ": " + e.err.Error() }

func (e *partError) Unwrap() error { return e.err }

// Rows lays out those rows of a tracker, whatever the condition.
func (c *Compiled) Rows(t *sheet.Tracker, people Directory, now time.Time, rows []sheet.RowID) Holding {
	h := Holding{Reminder: c.Reminder}
	envs := map[sheet.TabID]*clause.Env{}
	for _, id := range rows {
		row := t.Row(id)
		if row == nil {
			continue
		}
		at := slices.IndexFunc(c.tabs, func(tr tabReminder) bool { return tr.tab == row.Tab })
		if at < 0 {
			continue
		}
		tab := t.TabOf(row)
		env := envs[row.Tab]
		if env == nil {
			env = c.bound.Env(t, tab, now, c.meter)
			envs[row.Tab] = env
		}
		program.Look(env, row)
		h.hold(c.item(c.tabs[at], env, t, tab, row, people))
	}
	c.sort(&h)
	return h
}
