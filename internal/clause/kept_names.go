package clause

import (
	"regexp"
	"strconv"
	"strings"
)

// keptName is a column or tab as a clause is stored with it, such as [#12].
var keptName = regexp.MustCompile(`\[#(\d+)\]`)

// readable puts names in the place of the ids that a stored clause holds, where its scope
// knows them, so that nobody is told of a column "#12".
func (e *Error) readable(s *Scope) *Error {
	var text []byte
	end, from, to := 0, e.Offset, e.Offset+e.Length
	for _, at := range keptName.FindAllStringSubmatchIndex(e.Text, -1) {
		name := s.nameOf(e.Text[at[2]:at[3]])
		if name == "" {
			continue
		}
		var p printer
		p.bare(name)
		named := p.b.String()
		longer := len(named) - (at[1] - at[0])
		if at[1] <= e.Offset {
			from += longer
		}
		if at[1] <= e.Offset+e.Length {
			to += longer
		}
		text = append(append(text, e.Text[end:at[0]]...), named...)
		end = at[1]
	}
	e.Text = string(append(text, e.Text[end:]...))
	e.Offset, e.Length = from, to-from
	return e
}

// nameOf gives the name of a column or tab by its id, and none where two have the id.
func (s *Scope) nameOf(id string) string {
	n, err := strconv.ParseInt(id, 10, 64)
	if err != nil {
		return ""
	}
	found := map[string]bool{}
	name := ""
	add := func(id int64, called string) {
		if id == n && !found[called] {
			found[called] = true
			name = called
		}
	}
	for i := range s.Columns {
		add(s.Columns[i].ID, s.Columns[i].Name)
	}
	for i := range s.Tables {
		t := &s.Tables[i]
		add(t.ID, t.Name)
		for j := range t.Columns {
			add(t.Columns[j].ID, t.Columns[j].Name)
		}
	}
	if len(found) != 1 {
		return ""
	}
	return name
}

// called is the name of a column as a clause has it, which may be its id.
func (s *Scope) called(text string) string {
	if id, isID := strings.CutPrefix(text, "#"); isID {
		if name := s.nameOf(id); name != "" {
			return name
		}
	}
	return text
}
