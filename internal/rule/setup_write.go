package rule

import (
	"slices"
	"strconv"

	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"go.yaml.in/yaml/v3"
)

// WriteSetup writes a rule as a setup file has it.
func (r *Rule) WriteSetup(e *setup.Writer, b setup.Builder) {
	b.Text("remark", r.Remark)
	wake := setup.Build()
	var edits []string
	if r.Wake.Any {
		edits = append(edits, "any")
	}
	for _, id := range r.Wake.Edit {
		edits = append(edits, e.ColumnName(id))
	}
	if len(edits) > 0 {
		wake.Put("edit", setup.Scalars(edits))
	}
	wake.Text("becomes true", e.Across(r.In, r.Wake.Becomes))
	wake.Yes("new row", r.Wake.Added).Text("clock", r.Wake.Clock).Text("missed", setup.MissedWord(r.Wake.Skip)).Yes("call", r.Wake.Call).Text("file", r.Wake.File)
	if len(wake.Node().Content) > 0 {
		b.Put("wake", setup.Flow(wake.Node()))
	} else {
		b.Put("wake", setup.Word("hand"))
	}
	if len(r.In) > 0 {
		b.Put("in", e.TabNames(r.In))
	}
	if r.Wake.File != "" {
		e.Facts = FileNames
		defer func() { e.Facts = nil }()
	}
	b.Text("where", e.Across(r.In, r.Where)).Yes("paused", r.Paused).Yes("watching only", r.Watching)
	if r.Limit > 0 {
		b.Put("limit", setup.Word(strconv.Itoa(r.Limit)))
	}
	steps := setup.Sequence()
	for i, s := range r.Steps {
		steps.Content = append(steps.Content, stepNode(e, r.standing(e.Shape, i), s))
	}
	b.Put("steps", steps)
}

func stepNode(e *setup.Writer, in []sheet.TabID, s Step) *yaml.Node {
	b := setup.Build().Text("name", s.Name).Text("remark", s.Remark)
	switch {
	case s.Copy != nil:
		m := placeNode(e, in, &s.Copy.Place)
		if len(s.Copy.Set) > 0 {
			m.Put("set", e.CellNode(in, s.Copy.Set))
		}
		if len(s.Copy.SetThere) > 0 {
			m.Put("set", thereNode(e, in, s.Copy.SetThere))
		}
		b.Put("copy", setup.Flow(m.Yes("again", s.Copy.Again).Node()))
	case s.Move != nil:
		m := placeNode(e, in, &s.Move.Place).Yes("and back", s.Move.Back)
		clear := slices.Clone(s.Move.ClearThere)
		for _, id := range s.Move.Clear {
			clear = append(clear, e.ColumnName(id))
		}
		if len(clear) > 0 {
			m.Put("clear", setup.Scalars(clear))
		}
		if len(s.Move.Set) > 0 {
			m.Put("set", e.CellNode(in, s.Move.Set))
		}
		if len(s.Move.SetThere) > 0 {
			m.Put("set", thereNode(e, in, s.Move.SetThere))
		}
		b.Put("move", setup.Flow(m.Node()))
	case s.Put != nil:
		m := setup.Build().Put("tab", e.TabNames([]sheet.TabID{s.Put.Tab})).Text("key", e.ColumnName(s.Put.Key))
		b.Put("put", setup.Flow(m.Put("values", e.CellNode(in, s.Put.Values)).Node()))
	case s.Take != nil:
		m := setup.Build().Put("tab", e.TabNames([]sheet.TabID{s.Take.Tab})).Text("key", e.ColumnName(s.Take.Key)).Text("sheet", s.Take.Sheet)
		if gone := goneNode(e, s.Take); gone != nil {
			m.Put("gone", gone)
		}
		b.Put("take", setup.Flow(m.Node()))
	case s.Tally != nil:
		b.Put("tally", tallyNode(e, s.Tally))
	case s.Write != nil:
		b.Put("write", setup.Flow(writeNode(e, s.Write).Node()))
	case s.Mail != nil:
		m := setup.Build()
		s.Mail.Write(e, m)
		b.Put("mail", setup.Flow(m.Node()))
	case s.Remove:
		b.Yes("remove", true)
	default:
		b.Put("set", e.CellNode(in, s.Set))
	}
	return b.Node()
}

func placeNode(e *setup.Writer, in []sheet.TabID, p *Place) setup.Builder {
	m := setup.Build().Text("to", e.Template(in, p.To)).Text("tracker", p.Tracker)
	if p.Create != "" {
		m.Text("create", "like "+p.Create)
	}
	columns := setup.Build()
	for _, pair := range p.Columns {
		columns.Text(e.ColumnName(pair.From), pair.To)
	}
	if len(columns.Node().Content) > 0 {
		m.Put("columns", setup.Flow(columns.Node()))
	}
	return m
}

func thereNode(e *setup.Writer, in []sheet.TabID, cells []NamedCell) *yaml.Node {
	b := setup.Build()
	for _, c := range cells {
		b.Put(c.Column, setup.Scalar(e.Template(in, c.To)))
	}
	return setup.Flow(b.Node())
}
