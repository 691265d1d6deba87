package store

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// appendValue writes a value as JSON that needs no column to be read back:
// null, text, a number and a tick as themselves, other kinds tagged.
func appendValue(b []byte, v value.Value) []byte {
	switch v.Kind() {
	case value.Blank:
		return append(b, "null"...)
	case value.Text:
		return appendString(b, v.Raw())
	case value.Number:
		if v.Digits() <= 15 {
			return append(b, v.String()...)
		}
	case value.Checkbox:
		return strconv.AppendBool(b, v.IsTrue())
	}
	b = append(b, `{"`...)
	b = append(b, v.Kind().String()...)
	b = append(b, `":`...)
	b = appendString(b, v.String())
	return append(b, '}')
}

func appendString(b []byte, s string) []byte {
	for i := 0; i < len(s); i++ {
		if c := s[i]; c < 0x20 || c == '"' || c == '\\' || c >= 0x80 {
			quoted, _ := json.Marshal(s) // a string always marshals
			return append(b, quoted...)
		}
	}
	b = append(b, '"')
	b = append(b, s...)
	return append(b, '"')
}

// readValue reads what appendValue wrote.
func readValue(raw json.RawMessage) (value.Value, error) {
	if len(raw) == 0 {
		return value.Value{}, nil
	}
	switch raw[0] {
	case 'n':
		return value.Value{}, nil
	case 't', 'f':
		return value.OfBool(raw[0] == 't'), nil
	case '"':
		s, err := readString(raw)
		return value.OfText(s), err
	case '{':
		var tagged map[string]string
		if err := json.Unmarshal(raw, &tagged); err != nil {
			return value.Value{}, err
		}
		for kind, text := range tagged {
			return readTagged(kind, text)
		}
		return value.Value{}, nil
	}
	return value.ParseNumber(string(raw))
}

func readTagged(kind, text string) (value.Value, error) {
	if kind == "odd" {
		return value.OfOdd(text), nil
	}
	k, ok := value.KindNamed(kind)
	if !ok {
		return value.Value{}, fmt.Errorf("unknown kind of value %q", kind)
	}
	return value.Restore(k, text)
}

func readString(raw []byte) (string, error) {
	if body := raw[1 : len(raw)-1]; bytes.IndexByte(body, '\\') < 0 {
		return string(body), nil
	}
	var s string
	err := json.Unmarshal(raw, &s)
	return s, err
}

type keyedCell struct {
	column sheet.ColumnID
	value.Value
}

// appendCells writes a row's cells keyed by column id, in order of id.
func appendCells(b []byte, img *sheet.Image) []byte {
	var room [24]keyedCell // enough for most rows
	cells := room[:0]
	for id, v := range img.Cells() {
		cells = append(cells, keyedCell{id, v})
	}
	slices.SortFunc(cells, func(x, y keyedCell) int { return cmp.Compare(x.column, y.column) })
	b = append(b, '{')
	for i := range cells {
		if i > 0 {
			b = append(b, ',')
		}
		b = append(b, `"c`...)
		b = strconv.AppendInt(b, int64(cells[i].column), 10)
		b = append(b, `":`...)
		b = appendValue(b, cells[i].Value)
	}
	return append(b, '}')
}

// image is how a row in full stands in the journal.
type image struct {
	Pos    int64                     `json:"pos"`
	Cells  json.RawMessage           `json:"cells"`
	Notes  map[sheet.ColumnID]string `json:"notes,omitempty"`
	Styles map[sheet.ColumnID]string `json:"looks,omitempty"`
	Origin string                    `json:"origin,omitempty"`
}

func ofImage(i *sheet.Image) *image {
	if i == nil {
		return nil
	}
	return &image{Pos: i.Pos(), Cells: appendCells(nil, i), Notes: i.Notes(), Styles: i.Styles(), Origin: i.Origin()}
}

func (i *image) image() (*sheet.Image, error) {
	if i == nil {
		return nil, nil
	}
	cells, err := readCells(i.Cells)
	return sheet.NewImage(cells, sheet.Besides{Notes: i.Notes, Styles: i.Styles, Origin: i.Origin}).At(i.Pos), err
}

// change is how a change stands in the journal.
type change struct {
	Kind        sheet.Kind      `json:"kind"`
	Tracker     sheet.TrackerID `json:"tracker"`
	Tab         sheet.TabID     `json:"tab,omitempty"`
	Row         sheet.RowID     `json:"row,omitempty"`
	Column      sheet.ColumnID  `json:"column,omitempty"`
	Before      json.RawMessage `json:"before,omitempty"`
	After       json.RawMessage `json:"after,omitempty"`
	ToTracker   sheet.TrackerID `json:"to_tracker,omitempty"`
	ToTab       sheet.TabID     `json:"to_tab,omitempty"`
	Pos         int64           `json:"pos,omitempty"`
	ToPos       int64           `json:"to_pos,omitempty"`
	Image       *image          `json:"image,omitempty"`
	ShapeBefore *sheet.Shape    `json:"shape_before,omitempty"`
	ShapeAfter  *sheet.Shape    `json:"shape_after,omitempty"`
	Because     int             `json:"because,omitempty"`
}

func appendInt(b []byte, key string, n int64) []byte {
	b = append(b, ',', '"')
	b = append(b, key...)
	b = append(b, '"', ':')
	return strconv.AppendInt(b, n, 10)
}

// appendChange writes a change; the frequent kinds without reflection.
func appendChange(b []byte, c *sheet.Change) ([]byte, error) {
	plainAdd := c.Kind == sheet.Add && c.Image != nil && len(c.Image.Notes()) == 0 && len(c.Image.Styles()) == 0
	if c.Kind != sheet.Set && c.Kind != sheet.Move && c.Kind != sheet.Note && c.Kind != sheet.Style && !plainAdd {
		out := change{Kind: c.Kind, Tracker: c.Tracker, Tab: c.Tab, Row: c.Row, Image: ofImage(c.Image),
			ShapeBefore: c.ShapeBefore, ShapeAfter: c.ShapeAfter, Because: c.Because}
		if c.Kind == sheet.Grant {
			out.After = appendValue(nil, c.After)
		}
		text, err := json.Marshal(out)
		return append(b, text...), err
	}
	b = append(b, `{"kind":"`...)
	b = append(b, c.Kind...)
	b = append(b, '"')
	b = appendInt(b, "tracker", int64(c.Tracker))
	b = appendInt(b, "tab", int64(c.Tab))
	b = appendInt(b, "row", int64(c.Row))
	switch {
	case plainAdd:
		b = append(b, `,"image":{"pos":`...)
		b = strconv.AppendInt(b, c.Image.Pos(), 10)
		b = append(b, `,"cells":`...)
		b = appendCells(b, c.Image)
		if origin := c.Image.Origin(); origin != "" {
			b = append(b, `,"origin":`...)
			b = appendString(b, origin)
		}
		b = append(b, '}')
	case c.Kind == sheet.Move:
		b = appendInt(b, "to_tracker", int64(c.ToTracker))
		b = appendInt(b, "to_tab", int64(c.ToTab))
		b = appendInt(b, "pos", c.Pos)
		b = appendInt(b, "to_pos", c.ToPos)
	default:
		b = appendInt(b, "column", int64(c.Column))
		b = append(b, `,"before":`...)
		b = appendValue(b, c.Before)
		b = append(b, `,"after":`...)
		b = appendValue(b, c.After)
	}
	if c.Because != 0 {
		b = appendInt(b, "because", int64(c.Because))
	}
	return append(b, '}'), nil
}

func readChanges(text []byte) ([]sheet.Change, error) {
	var stored []change
	if err := json.Unmarshal(text, &stored); err != nil {
		return nil, err
	}
	out := make([]sheet.Change, len(stored))
	for i, c := range stored {
		before, errB := readValue(c.Before)
		after, errA := readValue(c.After)
		img, errI := c.Image.image()
		for _, err := range []error{errB, errA, errI} {
			if err != nil {
				return nil, err
			}
		}
		out[i] = sheet.Change{Kind: c.Kind, Tracker: c.Tracker, Tab: c.Tab, Row: c.Row, Column: c.Column, Before: before, After: after,
			ToTracker: c.ToTracker, ToTab: c.ToTab, Pos: c.Pos, ToPos: c.ToPos, Image: img, ShapeBefore: c.ShapeBefore, ShapeAfter: c.ShapeAfter, Because: c.Because}
	}
	return out, nil
}
