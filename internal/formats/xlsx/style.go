package xlsx

import (
	"strconv"
	"strings"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// shows is what a number format makes of a number.
type shows byte

const (
	showsNumber shows = iota
	showsDate
	showsTime     // of a day, without the day
	showsDuration // hours, as many as there are
)

// style is what a cell's style tells of its value.
type style struct {
	shows shows
	bold  bool
	more  *reading.More // shared by all cells of the style; nil where there is nothing to tell
}

// styled is what a style tells of its cells besides how numbers show.
type styled struct {
	display string
	look    value.CellStyle
	clock   bool
}

// at gives an entry of a list that the file counts from 0; none beyond it.
func at[T any](list []T, i int) (entry T) {
	if i >= 0 && i < len(list) {
		entry = list[i]
	}
	return entry
}

func (b *book) readStyles() error {
	var doc struct {
		Formats []struct {
			ID   int    `xml:"numFmtId,attr"`
			Code string `xml:"formatCode,attr"`
		} `xml:"numFmts>numFmt"`
		Fonts []font `xml:"fonts>font"`
		Fills []fill `xml:"fills>fill"`
		Dxfs  []struct {
			Font *font `xml:"font"`
			Fill *struct {
				Pattern struct {
					Type string `xml:"patternType,attr"`
					Ink  *ink   `xml:"fgColor"`
					Back *ink   `xml:"bgColor"`
				} `xml:"patternFill"`
			} `xml:"fill"`
		} `xml:"dxfs>dxf"`
		Cells []struct {
			Format int `xml:"numFmtId,attr"`
			Font   int `xml:"fontId,attr"`
			Fill   int `xml:"fillId,attr"`
		} `xml:"cellXfs>xf"`
	}
	if err := b.decode("#styles", &doc); err != nil {
		return err
	}
	b.washes = map[string]string{}
	for i, d := range doc.Dxfs {
		colour := ""
		if d.Fill != nil { // of a solid fill, it is the colour behind that shows
			if colour = b.colour(d.Fill.Pattern.Back); colour == "" {
				colour = b.colour(d.Fill.Pattern.Ink)
			}
		} else if d.Font != nil {
			colour = b.colour(d.Font.Ink)
		}
		b.washes[strconv.Itoa(i)] = value.NearestWash(colour)
	}
	codes := map[int]string{}
	for _, f := range doc.Formats {
		codes[f.ID] = f.Code
	}
	plain := at(doc.Fonts, 0)
	shared := map[styled]*reading.More{}
	for _, c := range doc.Cells {
		code, own := codes[c.Format]
		if !own {
			code = builtIn(c.Format)
		}
		s := style{shows: showsOf(code)}
		f := at(doc.Fonts, c.Font)
		s.bold = f.Bold.on()
		tells := styled{look: b.lookOf(f, plain, at(doc.Fills, c.Fill))}
		switch s.shows {
		case showsNumber:
			tells.display = displayOf(code)
		case showsDuration:
			tells.display = value.Duration
		case showsTime:
			tells.clock = true
		}
		if tells != (styled{}) {
			if shared[tells] == nil {
				shared[tells] = &reading.More{Display: tells.display, Style: tells.look, Clock: tells.clock}
			}
			s.more = shared[tells]
		}
		b.styles = append(b.styles, s)
	}
	return nil
}

// builtIn gives the code of a number format that every workbook has, as far as
// it matters here (ECMA-376, 18.8.30).
func builtIn(id int) string {
	switch {
	case id == 9 || id == 10:
		return "0%"
	case id >= 14 && id <= 17, id >= 27 && id <= 31, id == 36, id >= 50 && id <= 54, id == 57, id == 58:
		return "yyyy-mm-dd"
	case id == 22:
		return "yyyy-mm-dd hh:mm"
	case id == 46:
		return "[h]:mm:ss"
	case id >= 18 && id <= 21, id >= 32 && id <= 35, id == 55, id == 56, id >= 45 && id <= 47:
		return "hh:mm"
	}
	return ""
}

// ShowsDate reports whether a number format shows a date or a time: by its code or, where
// the workbook gives none of its own, by its number.
func ShowsDate(code string, id int) bool {
	if code == "" {
		code = builtIn(id)
	}
	return showsOf(code) != showsNumber
}

// showsOf tells whether a number format shows a date or a time: whether it has
// letters for them outside quotes and brackets.
func showsOf(code string) shows {
	code, _, _ = strings.Cut(code, ";")
	quoted, bracket := false, false
	day, clock, month, long := false, false, false, false
	for i := 0; i < len(code); i++ {
		switch c := code[i] | 0x20; {
		case code[i] == '\\' || code[i] == '_' || code[i] == '*':
			i++
		case code[i] == '"':
			quoted = !quoted
		case code[i] == '[':
			bracket = true
			if i+1 < len(code) && strings.IndexByte("hHmMsS", code[i+1]) >= 0 {
				clock, long = true, true
			}
		case code[i] == ']':
			bracket = false
		case quoted || bracket:
		case c == 'y' || c == 'd':
			day = true
		case c == 'h' || c == 's':
			clock = true
		case c == 'm':
			month = true
		case c == 'e' && (i == 0 || code[i-1] != '0' && code[i-1] != '#'): // a year of an era, unless an exponent
			day = true
		case c == 'g': // "General"
			if strings.HasPrefix(strings.ToLower(code[i:]), "general") {
				i += 6
			}
		}
	}
	switch {
	case day, month && !clock:
		return showsDate
	case long:
		return showsDuration
	case clock:
		return showsTime
	}
	return showsNumber
}

var signs = map[string]string{"€": "EUR", "£": "GBP", "$": "USD", "US$": "USD", "¥": "JPY", "kr": "", "zł": "PLN", "Kč": "CZK"}

// displayOf gives how a number format shows a number: percent, a currency code, or "".
func displayOf(code string) string {
	if strings.Contains(code, "★") || strings.Contains(code, "☆") {
		return "rating"
	}
	code, _, _ = strings.Cut(code, ";")
	bare := code
	for from := strings.IndexByte(code, '['); from >= 0; from = strings.IndexByte(code, '[') { // [$€-407]
		inside, rest, _ := strings.Cut(code[from+1:], "]")
		if sign, ok := strings.CutPrefix(inside, "$"); ok {
			sign, _, _ = strings.Cut(sign, "-")
			if display := currency(sign); display != "" {
				return display
			}
		}
		code = rest
	}
	if strings.Contains(strings.ReplaceAll(bare, `"%"`, ""), "%") {
		return "percent"
	}
	for sign, iso := range signs {
		if iso != "" && sign != "$" && strings.Contains(bare, sign) {
			return iso
		}
	}
	for _, part := range strings.Split(bare, `"`) {
		if display := currency(part); display != "" {
			return display
		}
	}
	if strings.Contains(bare, `$`) && !strings.Contains(bare, "[$") {
		return "USD"
	}
	return ""
}

func currency(sign string) string {
	sign = strings.TrimSpace(sign)
	if iso := signs[sign]; iso != "" {
		return iso
	}
	if len(sign) == 3 && strings.ToUpper(sign) == sign && strings.Trim(sign, "ABCDEFGHIJKLMNOPQRSTUVWXYZ") == "" {
		return sign
	}
	return ""
}

// ofSerial gives the date, date-time or time of day that a serial number stands for.
func (b *book) ofSerial(text string, as shows) (value.Value, bool) {
	f, err := strconv.ParseFloat(text, 64)
	if err != nil || f < 0 || f > 2958466 {
		return value.Value{}, false
	}
	seconds := int64(f*86400 + 0.5)
	if as == showsDuration {
		hours, err := value.Div(value.OfInt(seconds), value.OfInt(3600))
		return hours, err == nil
	}
	if as == showsTime && f < 1 {
		clock := strconv.Itoa(int(seconds/3600)) + ":" + twoDigits(seconds/60%60)
		if len(clock) < 5 {
			clock = "0" + clock
		}
		if seconds%60 != 0 {
			clock += ":" + twoDigits(seconds%60)
		}
		return value.OfText(clock), true
	}
	days, rest := seconds/86400, seconds%86400
	if b.epoch == epoch1900 && days < 60 { // 1900 is taken for a leap year there
		if days == 0 {
			return value.Value{}, false
		}
		days++
	}
	if rest == 0 {
		return value.OfDays(b.epoch + days), true
	}
	return value.OfSeconds((b.epoch+days)*86400 + rest), true
}

func twoDigits(n int64) string {
	if n < 10 {
		return "0" + strconv.FormatInt(n, 10)
	}
	return strconv.FormatInt(n, 10)
}

// mostChoices is how many choices of a range are taken for a dropdown's.
const mostChoices = 500

// offerChoices puts the choices of dropdowns on their cells.
func (b *book) offerChoices(grids []*reading.Grid) {
	for _, d := range b.dropdowns {
		names := b.choicesOf(d, grids)
		if len(names) == 0 {
			continue
		}
		if isTruths(names) {
			askIn(d.grid, reading.Asked{Kind: value.Checkbox, Refuse: d.refuse}, d.ranges)
			continue
		}
		askIn(d.grid, reading.Asked{Kind: value.Choice, Choices: names, Refuse: d.refuse}, d.ranges)
		shared := map[*reading.More]*reading.More{} // what cells of one style come to share
		eachCell(d.grid, d.ranges, func(c *reading.Cell) {
			if with := shared[c.More]; with != nil {
				c.More = with
				return
			}
			before := c.More
			own(c).Choices = names
			shared[before] = c.More
		})
	}
}

func isTruths(names []string) bool {
	return len(names) == 2 && (strings.EqualFold(names[0], "TRUE") && strings.EqualFold(names[1], "FALSE") || strings.EqualFold(names[0], "FALSE") && strings.EqualFold(names[1], "TRUE"))
}

func (b *book) choicesOf(d dropdown, grids []*reading.Grid) []string {
	f := strings.TrimPrefix(d.formula, "=")
	if len(f) > 1 && f[0] == '"' {
		var names []string
		for _, n := range strings.Split(strings.Trim(f, `"`), ",") {
			if n = strings.TrimSpace(n); n != "" {
				names = append(names, n)
			}
		}
		return names
	}
	if means, ok := b.names[value.Fold(f)]; ok {
		f = means
	}
	from := d.grid
	if at := strings.LastIndexByte(f, '!'); at >= 0 {
		name := strings.ReplaceAll(strings.Trim(f[:at], "'"), "''", "'")
		from, f = nil, f[at+1:]
		for _, g := range grids {
			if value.EqualText(g.Name, name) {
				from = g
			}
		}
	}
	r, err := reading.ParseRange(f)
	if err != nil || from == nil {
		return nil
	}
	var names []string
	for row := r.Top; row <= r.Bottom && row < from.Height() && len(names) < mostChoices; row++ {
		for col := r.Left; col <= r.Right && col < from.Width(row); col++ {
			if v := from.At(row, col).Value; !v.IsBlank() {
				names = append(names, strings.TrimSpace(v.String()))
			}
		}
	}
	return names
}
