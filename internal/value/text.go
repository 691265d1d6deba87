package value

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
)

// String gives the canonical text form: what Parse reads back as the same value.
func (v Value) String() string {
	switch v.kind {
	case Number:
		return v.numberText()
	case Date:
		return v.Time().Format("2006-01-02")
	case DateTime:
		if v.n%60 != 0 {
			return v.Time().Format("2006-01-02T15:04:05")
		}
		return v.Time().Format("2006-01-02T15:04")
	case Checkbox:
		if v.n == 1 {
			return "yes"
		}
		return "no"
	}
	return v.s
}

// Show gives the value as people read it in a column of type t: a percent
// number with its sign, money with its currency, a link by its label.
func (v Value) Show(t Type) string {
	switch v.kind {
	case Number:
		return v.showNumber(t.Display)
	case DateTime:
		return strings.Replace(v.String(), "T", " ", 1)
	case Link, File:
		_, label := v.Address()
		return label
	case Choice:
		return strings.Join(v.Options(), ", ")
	}
	return v.String()
}

func (v Value) showNumber(display string) string {
	switch display {
	case "", "plain":
		return v.numberText()
	case "percent":
		p, err := Mul(v, OfInt(100))
		if err != nil {
			return v.numberText()
		}
		return p.numberText() + " %"
	case Duration:
		return v.showDuration()
	case "rating":
		n, ok := v.Int()
		if !ok || n < 0 || n > 10 {
			return v.numberText()
		}
		return strconv.FormatInt(n, 10) + " of 5"
	}
	text := v.numberText()
	whole, part, _ := strings.Cut(text, ".")
	for len(part) < 2 {
		part += "0"
	}
	return groupThousands(whole) + "." + part + " " + display
}

// showDuration gives a number of hours as hours and minutes, and seconds where the
// minutes are not whole.
func (v Value) showDuration() string {
	n, err := Mul(v, OfInt(3600))
	if err == nil {
		n, err = Round(n, 0)
	}
	seconds, ok := n.Int()
	if err != nil || !ok {
		return v.numberText()
	}
	sign := ""
	if seconds < 0 {
		sign, seconds = "-", -seconds
	}
	if seconds%60 != 0 {
		return fmt.Sprintf("%s%d:%02d:%02d", sign, seconds/3600, seconds/60%60, seconds%60)
	}
	return fmt.Sprintf("%s%d:%02d", sign, seconds/3600, seconds/60%60)
}

func groupThousands(whole string) string {
	sign := ""
	if strings.HasPrefix(whole, "-") {
		sign, whole = "-", whole[1:]
	}
	var b strings.Builder
	for i, c := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			b.WriteRune('\u202f') // narrow no-break space, as ISO 31-0 groups digits
		}
		b.WriteRune(c)
	}
	return sign + b.String()
}

// joinList writes names separated by "; ", quoting those that hold a mark of the form itself.
func joinList(names []string) string {
	if len(names) == 1 {
		return quoteName(names[0])
	}
	quoted := make([]string, len(names))
	for i, n := range names {
		quoted[i] = quoteName(n)
	}
	return strings.Join(quoted, "; ")
}

func quoteName(n string) string {
	if strings.ContainsAny(n, ";\"") || strings.TrimSpace(n) != n {
		return `"` + strings.ReplaceAll(n, `"`, `""`) + `"`
	}
	return n
}

func splitList(s string) []string {
	if !strings.ContainsAny(s, ";\"") {
		return []string{strings.TrimSpace(s)}
	}
	var names []string
	var b strings.Builder
	quoted, wasQuoted := false, false
	flush := func() {
		n := b.String()
		if !wasQuoted {
			n = strings.TrimSpace(n)
		}
		if n != "" {
			names = append(names, n)
		}
		b.Reset()
		wasQuoted = false
	}
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c == '"' && quoted && i+1 < len(s) && s[i+1] == '"':
			b.WriteByte('"')
			i++
		case c == '"' && quoted:
			quoted = false
		case c == '"' && strings.TrimSpace(b.String()) == "":
			b.Reset()
			quoted, wasQuoted = true, true
		case c == ';' && !quoted:
			flush()
		case wasQuoted && !quoted && c == ' ':
		default:
			b.WriteByte(c)
		}
	}
	flush()
	return names
}

// maxExactDigits is how many digits every JSON reader keeps of a number literal.
const maxExactDigits = 15

// JSON gives the value as it stands in a row on the wire and in the store:
// null for blank, a string for text, dates (ISO 8601), addresses, links and
// odd text, true or false for a checkbox, a literal for a number of up to 15
// digits and its decimal text beyond, an array for several options.
func (v Value) JSON(t Type) any {
	switch v.kind {
	case Blank:
		return nil
	case Checkbox:
		return v.n == 1
	case Number:
		if v.Digits() > maxExactDigits || int(v.scale) > maxExactDigits {
			return v.numberText()
		}
		return json.Number(v.numberText())
	case Choice:
		options := v.Options()
		if t.Several {
			return options
		}
		return options[0]
	case Person:
		if t.Several {
			return v.People()
		}
	}
	return v.s0()
}

func (v Value) s0() string {
	if v.kind == Date || v.kind == DateTime {
		return v.String()
	}
	return v.s
}

// FromJSON reads a value of type t as JSON writes it, or Go. It takes what people's
// scripts send as well: a number for text, text for a number.
func FromJSON(raw any, t Type) (Value, error) {
	switch x := raw.(type) {
	case nil:
		return Value{}, nil
	case string:
		return Parse(x, t)
	case bool:
		if t.Kind == Checkbox {
			return OfBool(x), nil
		}
		return Parse(strconv.FormatBool(x), t)
	case int:
		return Fit(OfInt(int64(x)), t)
	case json.Number:
		return Parse(x.String(), t)
	case float64:
		v, err := OfFloat(x)
		if err != nil {
			return Value{}, &Misfit{Text: fmt.Sprint(x), Reason: err.Error()}
		}
		return Fit(v, t)
	case []any:
		names := make([]string, 0, len(x))
		for _, n := range x {
			s, ok := n.(string)
			if !ok {
				return Value{}, &Misfit{Text: fmt.Sprint(raw), Reason: "is not a list of texts"}
			}
			names = append(names, s)
		}
		return Parse(joinList(names), t)
	case []string:
		return Parse(joinList(x), t)
	}
	return Value{}, &Misfit{Text: fmt.Sprint(raw), Reason: "is not a value that a cell can hold"}
}

// Restore gives back a value of a kind from its canonical text, whatever its
// column has become since: it asks no choice to be among options.
func Restore(k Kind, text string) (Value, error) {
	switch k {
	case Choice, Person, Link, File:
		if text == "" {
			return Value{}, nil
		}
		return Value{kind: k, s: text}, nil
	}
	return Parse(text, Type{Kind: k})
}
