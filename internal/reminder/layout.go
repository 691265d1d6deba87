package reminder

import (
	"html"
	"strconv"
	"strings"
)

// The body of a letter is laid out here rather than by the templates that stand
// around it: a round of a thousand people has many thousand cells.

const (
	htmlSection = `<tr><td style="padding:24px 4px 6px 4px;"><h2 style="margin:0;font-size:17px;color:#1D6B5C;">`
	htmlTable   = `<tr><td style="padding:0 4px;">
<table class="rows" width="100%" cellpadding="0" cellspacing="0" style="border-collapse:collapse;font-family:Verdana,Arial,sans-serif;font-size:13px;line-height:1.4;">
<tr>`
	htmlHead  = `<th align="left" scope="col" style="padding:6px 10px 6px 0;border-bottom:1px solid #C9C4B4;font-size:12px;color:#5A6472;font-weight:bold;">`
	htmlQuiet = `<span class="quiet" style="font-weight:normal;color:#5A6472;">`
)

// markColours are those of choices' marks, dark enough to be seen on paper and
// light enough to be seen on a dark ground.
var markColours = map[string]string{"grey": "#8A8577", "blue": "#3D73AD", "teal": "#2B8C79", "green": "#5B8F3E", "amber": "#C7831A", "brick": "#B23A2E", "violet": "#8462B3", "rose": "#B5507A"}

// narrow is how many letters a cell holds at most that is not to be broken, such
// as a date.
const narrow = 12

// bodyHTML lays out the sections as rows of the letter's table. Every text is
// escaped; links are made by Kavlo.
func (l *Letter) bodyHTML(acting, repeats bool) string {
	var b strings.Builder
	b.Grow(600 * (l.Count + 2))
	for i := range l.Sections {
		s := &l.Sections[i]
		b.WriteString(htmlSection)
		b.WriteString(html.EscapeString(s.Title))
		b.WriteString(" " + htmlQuiet + "(" + strconv.Itoa(len(s.Rows)) + ")")
		b.WriteString(html.EscapeString(s.aside()))
		b.WriteString("</span></h2>")
		if s.Remark != "" {
			b.WriteString(`<div class="quiet" style="font-size:13px;color:#5A6472;">` + html.EscapeString(s.Remark) + `</div>`)
		}
		b.WriteString("</td></tr>\n" + htmlTable)
		for _, h := range s.Heads {
			b.WriteString(htmlHead + html.EscapeString(h) + "</th>")
		}
		b.WriteString("</tr>\n")
		for j := range s.Rows {
			s.Rows[j].writeHTML(&b, len(s.Heads), acting, repeats)
		}
		s.totalsHTML(&b)
		b.WriteString("</table>\n</td></tr>\n")
	}
	return b.String()
}

func (s *Section) totalsHTML(b *strings.Builder) {
	if s.totalsText() == "" {
		return
	}
	b.WriteString("<tr>")
	for i, total := range s.Totals {
		if i == 0 && total == "" {
			total = "Total"
		}
		b.WriteString(`<td style="padding:8px 10px 8px 0;font-weight:bold;white-space:nowrap;">` + html.EscapeString(total) + "</td>")
	}
	b.WriteString("</tr>\n")
}

// totalsText gives the sums in words, or "".
func (s *Section) totalsText() string {
	var says []string
	for i, total := range s.Totals {
		if total != "" {
			says = append(says, s.Heads[i]+" "+total)
		}
	}
	if says == nil {
		return ""
	}
	return "Total: " + strings.Join(says, ", ")
}

// aside says in what standing and where, after a section's title.
func (s *Section) aside() string {
	out := ""
	if s.Why != "" {
		out = ", " + string(s.Why)
	}
	if s.Tracker != "" {
		out += ", in " + s.Tracker
	}
	return out
}

func (r *Line) writeHTML(b *strings.Builder, heads int, acting, repeats bool) {
	span := ` colspan="` + strconv.Itoa(heads) + `" `
	if r.Group != "" {
		b.WriteString(`<tr><td` + span + `style="padding:10px 0 2px 0;font-weight:bold;color:#1F2A37;">` + html.EscapeString(r.Group) + "</td></tr>\n")
	}
	style := "padding:8px 10px 8px 0;border-bottom:1px solid #E6E1D3;"
	if acting {
		style = "padding:8px 10px 2px 0;"
	}
	b.WriteString("<tr>")
	for i, cell := range r.Cells {
		b.WriteString(`<td valign="top" style="` + style)
		if len(cell) <= narrow {
			b.WriteString("white-space:nowrap;")
		}
		b.WriteString(`">`)
		if i < len(r.Marks) && r.Marks[i] != "" { // the word stands beside it
			b.WriteString(`<span style="color:` + markColours[r.Marks[i]] + `;">&#9632;</span> `)
		}
		if i == 0 && r.Link != "" {
			b.WriteString(`<a href="` + html.EscapeString(r.Link) + `" style="color:#1D6B5C;font-weight:bold;">` + html.EscapeString(cell) + "</a>")
		} else {
			b.WriteString(html.EscapeString(cell))
		}
		if i == 0 && r.New && repeats {
			b.WriteString(` <span style="color:#B23A2E;font-size:11px;">new</span>`)
		}
		b.WriteString("</td>")
	}
	b.WriteString("</tr>\n")
	if !acting {
		return
	}
	b.WriteString(`<tr><td` + span + `style="padding:0 0 8px 0;border-bottom:1px solid #E6E1D3;font-size:12px;">`)
	for i, a := range r.Acts {
		if i > 0 {
			b.WriteString(` <span style="color:#C9C4B4;">|</span> `)
		}
		b.WriteString(`<a href="` + html.EscapeString(a.Link) + `" style="color:#1D6B5C;">` + html.EscapeString(a.Says) + "</a>")
	}
	b.WriteString("</td></tr>\n")
}

// bodyText lays out the sections as plain text.
func (l *Letter) bodyText(repeats bool) string {
	var b strings.Builder
	b.Grow(200 * (l.Count + 2))
	for i := range l.Sections {
		s := &l.Sections[i]
		title := s.Title + " (" + strconv.Itoa(len(s.Rows)) + ")" + s.aside()
		b.WriteString("\n" + title + "\n" + strings.Repeat("-", len([]rune(title))) + "\n")
		if s.Remark != "" {
			b.WriteString(s.Remark + "\n")
		}
		for j := range s.Rows {
			s.Rows[j].writeText(&b, s.Heads, repeats)
		}
		if said := s.totalsText(); said != "" {
			b.WriteString("\n" + said + "\n")
		}
	}
	return b.String()
}

func (r *Line) writeText(b *strings.Builder, heads []string, repeats bool) {
	if r.Group != "" {
		b.WriteString("\n" + r.Group + ":")
	}
	b.WriteString("\n* " + r.Label)
	if r.New && repeats {
		b.WriteString(" (new)")
	}
	b.WriteByte('\n')
	for i, cell := range r.Cells {
		if cell != "" && cell != r.Label {
			b.WriteString("  " + heads[i] + ": " + cell + "\n")
		}
	}
	if r.Link != "" {
		b.WriteString("  " + r.Link + "\n")
	}
	for _, a := range r.Acts {
		b.WriteString("  " + a.Says + ": " + a.Link + "\n")
	}
}
