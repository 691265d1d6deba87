package patch

import (
	"bytes"
	"strings"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
)

// unshare writes out the formulas of a sheet that cells take over from one another, where
// they refer to a sheet of which only some rows move: they would not all follow alike.
func (b *book) unshare(part, to string) error {
	if some, err := b.mentions(part, `"shared"`); !some || err != nil {
		return err
	}
	text, err := b.read(part)
	if err != nil || !bytes.Contains(text, []byte(`"shared"`)) || !bytes.Contains(bytes.ToLower(text), []byte(strings.ToLower(escapeText(to)))) {
		return err
	}
	type base struct {
		text     string
		row, col int
	}
	bases := map[string]base{}
	var out bytes.Buffer
	at, row, col := 0, 0, 0
	for t := range tags(text) {
		if t.closing {
			continue
		}
		switch t.name {
		case "c":
			if ref, has := t.attr(text, "r"); has {
				if row, col, err = reading.ParseCell(ref); err != nil {
					return err
				}
			}
		case "f":
			kind, _ := t.attr(text, "t")
			si, _ := t.attr(text, "si")
			if kind != "shared" {
				continue
			}
			own := content(text, t)
			if own != "" {
				bases[si] = base{own, row, col}
			} else if from, known := bases[si]; known {
				own = formula.Moved(from.text, row-from.row, col-from.col)
			} else {
				continue
			}
			_, end := closeOf(text, t)
			out.Write(text[at:t.start])
			out.WriteString("<" + prefixed(text, t, "f") + ">" + escapeText(own) + "</" + prefixed(text, t, "f") + ">")
			at = end
		}
	}
	out.Write(text[at:])
	b.put(part, out.Bytes())
	return nil
}
