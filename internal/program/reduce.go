package program

import (
	"bytes"
	"encoding/json"
	"errors"
	"slices"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
)

// Reduce gives a shape as it is for somebody for whom tabs and columns are hidden:
// without these, without whatever is computed from them at any depth, and without
// definitions that read them. The shape itself where nothing is hidden.
func Reduce(shape *sheet.Shape, sight *policy.Sight, kinds Kinds) (*sheet.Shape, error) {
	if sight.Whole() {
		return shape, nil
	}
	whole, err := Compile(shape, kinds)
	if err != nil {
		return nil, err
	}
	s := shape.Clone()
	s.Access = nil
	s.Tabs = slices.DeleteFunc(s.Tabs, func(t sheet.TabShape) bool { return !sight.SeesTab(t.ID) })
	for i := range s.Tabs {
		t := &s.Tabs[i]
		t.Columns = slices.DeleteFunc(t.Columns, func(c sheet.Column) bool { return !sight.SeesColumn(c.ID) })
		if t.ByID(t.Label) == nil {
			t.Label = 0
		}
	}
	for { // what is computed from what is hidden
		_, err := Bind(s)
		var of *ColumnError
		if err == nil {
			break
		}
		if !errors.As(err, &of) {
			return nil, err
		}
		if !dropColumn(s, of.Tab, of.Column) {
			return nil, err
		}
	}
	for {
		p, err := Compile(s, kinds)
		if err != nil {
			return nil, err
		}
		if trim(s, p, kinds) {
			continue
		}
		before := len(s.Definitions)
		s.Definitions = slices.DeleteFunc(s.Definitions, func(part sheet.Definition) bool {
			now, was := p.entries[part.ID], whole.entries[part.ID]
			return now == nil || now.Err != nil || was == nil || worksOn(now) < worksOn(was)
		})
		if len(s.Definitions) == before {
			return s, nil
		}
	}
}

// trim lets definitions that fail leave out what they cannot do, and reports whether any did.
func trim(s *sheet.Shape, p *Program, kinds Kinds) (any bool) {
	for i := range s.Definitions {
		part := &s.Definitions[i]
		e := p.entries[part.ID]
		if e == nil || e.Err == nil || e.Definition == nil {
			continue
		}
		def, err := kinds.Decode(part)
		trimmer, can := def.(Trimmer)
		if err != nil || !can {
			continue
		}
		trimmer.Trim(p)
		body, err := json.Marshal(def)
		if err == nil && !bytes.Equal(body, part.Body) {
			part.Body, any = body, true
		}
	}
	return any
}

func dropColumn(s *sheet.Shape, tab, column string) bool {
	t, err := s.Tab(tab)
	if err != nil {
		return false
	}
	before := len(t.Columns)
	t.Columns = slices.DeleteFunc(t.Columns, func(c sheet.Column) bool { return c.Name == column })
	return len(t.Columns) < before
}
