package store

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"hash/maphash"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// cellReader reads what appendCells wrote, many times over: a workspace is read
// whole when it is opened. Texts met lately are shared.
type cellReader struct {
	seed   maphash.Seed
	recent []string
}

// recentTexts is how many texts are remembered to be shared.
const recentTexts = 1 << 12

func newCellReader() *cellReader {
	return &cellReader{maphash.MakeSeed(), make([]string, recentTexts)}
}

// readCells reads the cells of one row.
func readCells(text []byte) (map[sheet.ColumnID]value.Value, error) {
	cells := map[sheet.ColumnID]value.Value{}
	r := cellReader{}
	return cells, r.each(text, func(id sheet.ColumnID, v value.Value) { cells[id] = v })
}

var errCells = errors.New("its cells are not written as cells are")

// each calls f with each cell. What stands otherwise than appendCells writes it,
// by another program perhaps, is read as any JSON is.
func (r *cellReader) each(text []byte, f func(sheet.ColumnID, value.Value)) error {
	type cell struct {
		id sheet.ColumnID
		v  value.Value
	}
	var room [24]cell
	cells := room[:0]
	rest, err := text, error(nil)
	for mark := byte('{'); mark != '}'; {
		if len(rest) == 2 && mark == '{' && rest[0] == '{' && rest[1] == '}' {
			return nil
		}
		var c cell
		if c.id, rest, err = cellKey(rest, mark); err == nil {
			c.v, rest, err = r.value(rest)
		}
		if err != nil || len(rest) == 0 || rest[0] != ',' && rest[0] != '}' {
			return anyCells(text, f)
		}
		cells = append(cells, c)
		if mark = rest[0]; mark == '}' && len(rest) > 1 {
			return anyCells(text, f)
		}
	}
	for _, c := range cells {
		f(c.id, c.v)
	}
	return nil
}

// image reads a row's cells into the order of its tab's columns; those that the
// tab lacks are carried.
func (r *cellReader) image(tab *sheet.TabShape, text []byte, besides sheet.Besides) (*sheet.Image, error) {
	var laid []value.Value
	var carried map[sheet.ColumnID]value.Value
	next := 0 // columns mostly stand in the order of their ids
	if tab != nil {
		laid = make([]value.Value, len(tab.Columns))
	}
	err := r.each(text, func(id sheet.ColumnID, v value.Value) {
		slot := next
		if slot >= len(laid) || tab.Columns[slot].ID != id {
			slot = -1
			if tab != nil {
				slot = tab.Slot(id)
			}
		}
		if slot >= 0 {
			laid[slot], next = v, slot+1
			return
		}
		if carried == nil {
			carried = map[sheet.ColumnID]value.Value{}
		}
		carried[id] = v
	})
	if err != nil || carried == nil && tab != nil {
		return sheet.LaidOut(tab, laid, besides), err
	}
	for i, v := range laid {
		if v.Kind() != value.Blank {
			carried[tab.Columns[i].ID] = v
		}
	}
	return sheet.NewImage(carried, besides), nil
}

// cellKey reads the mark before a cell and its key: {"c12": or ,"c12":
func cellKey(text []byte, mark byte) (sheet.ColumnID, []byte, error) {
	if len(text) < 6 || text[0] != mark || text[1] != '"' || text[2] != 'c' {
		return 0, nil, errCells
	}
	n, i := int64(0), 3
	for ; i < len(text) && text[i] >= '0' && text[i] <= '9' && n < 1<<58; i++ {
		n = n*10 + int64(text[i]-'0')
	}
	if n == 0 || i+1 >= len(text) || text[i] != '"' || text[i+1] != ':' {
		return 0, nil, errCells
	}
	return sheet.ColumnID(n), text[i+2:], nil
}

// value reads a value from the beginning of a text and gives what follows it.
func (r *cellReader) value(text []byte) (value.Value, []byte, error) {
	if len(text) == 0 {
		return value.Value{}, nil, errCells
	}
	switch text[0] {
	case '"':
		s, rest, err := r.text(text)
		return value.OfText(s), rest, err
	case '{':
		kind, rest, err := r.text(text[1:])
		if err != nil || len(rest) < 2 || rest[0] != ':' || rest[1] != '"' {
			return value.Value{}, nil, errCells
		}
		s, rest, err := r.text(rest[1:])
		if err != nil || len(rest) == 0 || rest[0] != '}' {
			return value.Value{}, nil, errCells
		}
		v, err := readTagged(kind, s)
		return v, rest[1:], err
	}
	end := max(bytes.IndexAny(text, ",}"), 0)
	switch string(text[:end]) {
	case "null":
		return value.Value{}, text[end:], nil
	case "true", "false":
		return value.OfBool(end == len("true")), text[end:], nil
	}
	v, err := value.ParseNumber(string(text[:end]))
	return v, text[end:], err
}

// text reads a quoted text.
func (r *cellReader) text(text []byte) (string, []byte, error) {
	if len(text) == 0 || text[0] != '"' {
		return "", nil, errCells
	}
	end := bytes.IndexByte(text[1:], '"') + 1
	if end <= 0 {
		return "", nil, errCells
	}
	if bytes.IndexByte(text[1:end], '\\') < 0 {
		return r.share(text[1:end]), text[end+1:], nil
	}
	for i := 1; i < len(text); i++ {
		switch text[i] {
		case '\\':
			i++
		case '"':
			var s string
			err := json.Unmarshal(text[:i+1], &s)
			return s, text[i+1:], err
		}
	}
	return "", nil, errCells
}

// share gives a text as a string, the same one as lately where it can.
func (r *cellReader) share(text []byte) string {
	if r.recent == nil {
		return string(text)
	}
	slot := &r.recent[maphash.Bytes(r.seed, text)%recentTexts]
	if *slot != string(text) {
		*slot = string(text)
	}
	return *slot
}

// anyCells reads cells from whatever JSON.
func anyCells(text []byte, f func(sheet.ColumnID, value.Value)) error {
	var raw map[string]json.RawMessage
	if err := json.Unmarshal(text, &raw); err != nil {
		return err
	}
	for key, r := range raw {
		id, ok := sheet.ParseColumnID(key)
		if !ok {
			return fmt.Errorf("%q is not a column id", key)
		}
		v, err := readValue(r)
		if err != nil {
			return fmt.Errorf("column %s: %w", key, err)
		}
		f(id, v)
	}
	return nil
}
