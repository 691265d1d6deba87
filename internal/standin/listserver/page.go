package listserver

import (
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"
)

// The page on which somebody plays the other side: every list with its records,
// each field to be changed, records to be added and removed.
var pageTemplate = template.Must(template.New("page").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Lists elsewhere</title>
<style>
body { font: 14px/1.4 system-ui, sans-serif; margin: 2rem; background: #FBFAF6; color: #1F2A37; }
h1 { font-size: 1.3rem } h2 { font-size: 1.05rem; margin: 2rem 0 .4rem }
table { border-collapse: collapse } th { text-align: left; font-weight: 600; padding: .2rem .4rem; border-bottom: 2px solid #1D6B5C }
td { padding: .1rem .2rem } input { font: inherit; padding: .15rem .35rem; border: 1px solid #b9b5a8; border-radius: 3px; background: #fff; color: inherit }
button { font: inherit; padding: .15rem .7rem; border: 1px solid #1D6B5C; border-radius: 3px; background: #fff; color: #1D6B5C; cursor: pointer }
button[value=remove] { border-color: #B23A2E; color: #B23A2E } p { color: #4c5563; max-width: 46rem }
</style></head><body><h1>Lists elsewhere</h1>
<p>What other services keep. Change a record here, then let the tracker run its sync: this is the other side of it.</p>
{{range .}}{{$l := .}}<h2 id="{{.Name}}">{{.Name}} ({{len .Rows}})</h2>
<table><thead><tr>{{range .Fields}}<th>{{.}}</th>{{end}}<th></th></tr></thead><tbody>
{{range .Rows}}<tr>{{$row := .}}{{range $i, $v := .Cells}}<td><input form="{{$row.Form}}" name="{{index $l.Fields $i}}" value="{{$v}}" aria-label="{{index $l.Fields $i}} of {{$row.ID}}" size="{{index $l.Sizes $i}}"></td>{{end}}
<td><form id="{{.Form}}" method="post" action="/edit/{{$l.Name}}"><input type="hidden" name="record" value="{{.ID}}"><button name="do" value="change">Keep</button> {{if .ID}}<button name="do" value="remove">Remove</button>{{end}}</form></td></tr>
{{end}}</tbody></table>{{end}}</body></html>`))

type pageList struct {
	Name   string
	Fields []string
	Sizes  []int
	Rows   []pageRow
}

type pageRow struct {
	Form, ID string
	Cells    []string
}

func (s *Server) page(w http.ResponseWriter, _ *http.Request) {
	s.mu.Lock()
	defer s.mu.Unlock()
	var out []pageList
	for name, l := range s.lists {
		p := pageList{Name: name}
		for _, r := range l.records {
			for _, f := range fieldsOf(r, "") {
				if !slices.Contains(p.Fields, f) {
					p.Fields = append(p.Fields, f)
				}
			}
		}
		slices.SortFunc(p.Fields, func(a, b string) int { // the key first
			if (a == l.key()) != (b == l.key()) {
				if a == l.key() {
					return -1
				}
				return 1
			}
			return strings.Compare(a, b)
		})
		p.Sizes = make([]int, len(p.Fields))
		for i, r := range append(slices.Clone(l.records), Record{}) {
			row := pageRow{Form: fmt.Sprintf("%s-%d", name, i), Cells: make([]string, len(p.Fields))}
			if id, ok := r[l.key()]; ok {
				row.ID = fmt.Sprint(id)
			}
			for j, f := range p.Fields {
				row.Cells[j] = fieldText(r, f)
				p.Sizes[j] = max(p.Sizes[j], 6, min(len([]rune(row.Cells[j])), 32))
			}
			p.Rows = append(p.Rows, row)
		}
		out = append(out, p)
	}
	slices.SortFunc(out, func(a, b pageList) int { return strings.Compare(a.Name, b.Name) })
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_ = pageTemplate.Execute(w, out)
}

// fieldsOf gives the fields of a record, nested ones as a/b.
func fieldsOf(r map[string]any, in string) []string {
	var out []string
	for k, v := range r {
		if inner, nested := v.(map[string]any); nested {
			out = append(out, fieldsOf(inner, in+k+"/")...)
			continue
		}
		out = append(out, in+k)
	}
	slices.Sort(out)
	return out
}

func fieldText(r map[string]any, field string) string {
	outer, inner, nested := strings.Cut(field, "/")
	v, known := r[outer]
	if !known || v == nil {
		return ""
	}
	if nested {
		m, _ := v.(map[string]any)
		return fieldText(m, inner)
	}
	return fmt.Sprint(v)
}

// edit carries out what was sent from the page.
func (s *Server) edit(w http.ResponseWriter, r *http.Request) {
	name := r.PathValue("list")
	if err := r.ParseForm(); err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	s.mu.Lock()
	l := s.lists[name]
	s.mu.Unlock()
	if l == nil {
		http.Error(w, "there is no such list", http.StatusNotFound)
		return
	}
	id := r.PostForm.Get("record")
	switch {
	case r.PostForm.Get("do") == "remove":
		s.Remove(name, id)
	default:
		fields := Record{}
		for f, v := range r.PostForm {
			if f != "record" && f != "do" {
				put(fields, f, v[0])
			}
		}
		if id == "" {
			id = fmt.Sprint(fields[l.key()])
		}
		if id != "" {
			s.Set(name, id, fields)
		}
	}
	http.Redirect(w, r, "/#"+name, http.StatusSeeOther)
}

// put puts a text where a field lies.
func put(r Record, field, text string) {
	outer, inner, nested := strings.Cut(field, "/")
	if !nested {
		r[outer] = text
		return
	}
	m, ok := r[outer].(map[string]any)
	if !ok {
		m = map[string]any{}
		r[outer] = m
	}
	put(m, inner, text)
}
