package reminder

import (
	"fmt"
	"html"
	"strings"
)

// Figures is a small table that stands below the rows of a letter: a tally.
type Figures struct {
	Title string
	Heads []string
	Rows  [][]string // as they are shown; the first cell names the group
	More  int        // groups that are left out
}

func (f *Figures) rest() string {
	if f.More == 0 {
		return ""
	}
	return fmt.Sprintf("and %d more: see the attached workbook", f.More)
}

// figuresHTML lays tables of figures out as rows of the letter's table.
func figuresHTML(all []Figures) string {
	var b strings.Builder
	for i := range all {
		f := &all[i]
		b.WriteString(htmlSection + html.EscapeString(f.Title) + "</h2></td></tr>\n" + htmlTable)
		for _, h := range f.Heads {
			b.WriteString(htmlHead + html.EscapeString(h) + "</th>")
		}
		b.WriteString("</tr>\n")
		for _, row := range f.Rows {
			b.WriteString("<tr>")
			for _, cell := range row {
				b.WriteString(`<td valign="top" style="padding:6px 10px 6px 0;border-bottom:1px solid #E6E1D3;">` + html.EscapeString(cell) + "</td>")
			}
			b.WriteString("</tr>\n")
		}
		b.WriteString("</table>\n")
		if rest := f.rest(); rest != "" {
			b.WriteString(`<div class="quiet" style="font-size:13px;color:#5A6472;">` + html.EscapeString(rest) + "</div>")
		}
		b.WriteString("</td></tr>\n")
	}
	return b.String()
}

// figuresText lays them out as plain text.
func figuresText(all []Figures) string {
	var b strings.Builder
	for i := range all {
		f := &all[i]
		b.WriteString("\n" + f.Title + "\n" + strings.Repeat("-", len([]rune(f.Title))) + "\n")
		for _, row := range f.Rows {
			b.WriteString("* " + row[0])
			for j, cell := range row[1:] {
				if cell == "" {
					continue
				}
				mark := ", "
				if j == 0 {
					mark = ": "
				}
				b.WriteString(mark + f.Heads[j+1] + " " + cell)
			}
			b.WriteByte('\n')
		}
		if rest := f.rest(); rest != "" {
			b.WriteString(rest + "\n")
		}
	}
	return b.String()
}
