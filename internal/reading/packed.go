package reading

import (
	"hash/maphash"
	"strings"

	"example.org/kavlo/internal/value"
)

// packed is a cell in eight bytes, so that a sheet of a million cells takes
// eight megabytes and not fifty. From the low end: the value's kind, whether a
// formula gave it, whether it is bold, a number's scale, which of the sheet's
// shared Mores it has, and a number, a date, or which of the sheet's texts it
// is. A cell that does not fit stands whole in a list of its own.
type packed uint64

const (
	kindBits  = 4
	formulaAt = kindBits
	boldAt    = formulaAt + 1
	scaleAt   = boldAt + 1
	scaleBits = 4
	moreAt    = scaleAt + scaleBits
	moreBits  = 14
	numberAt  = moreAt + moreBits
	mostNow   = 1<<(63-numberAt) - 1 // the largest number that fits
)

// whole is the kind of a cell that stands in the list.
const whole = value.Kind(1<<kindBits - 1)

func (p packed) kind() value.Kind { return value.Kind(p & (1<<kindBits - 1)) }

func (p packed) number() int64 { return int64(p) >> numberAt }

// put packs a cell for the grid.
func (g *Grid) pack(c Cell) packed {
	p := packed(c.Value.Kind())
	if c.Formula {
		p |= 1 << formulaAt
	}
	if c.Bold {
		p |= 1 << boldAt
	}
	more, ok := g.more(c.More)
	p |= packed(more) << moreAt
	parts, plain := c.Value.Parts()
	switch {
	case !ok:
	case parts.Kind == value.Text:
		return p | packed(g.text(c.Value.Raw()))<<numberAt
	case plain && parts.Scale < 1<<scaleBits && -mostNow <= parts.N && parts.N <= mostNow:
		return p | packed(parts.Scale)<<scaleAt | packed(parts.N)<<numberAt
	}
	g.wholes = append(g.wholes, c)
	return packed(whole) | packed(len(g.wholes)-1)<<numberAt
}

func (g *Grid) unpack(p packed) Cell {
	if p.kind() == whole {
		return g.wholes[p.number()]
	}
	c := Cell{Formula: p>>formulaAt&1 == 1, Bold: p>>boldAt&1 == 1}
	if more := p >> moreAt & (1<<moreBits - 1); more > 0 {
		c.More = g.mores[more-1]
	}
	if p.kind() == value.Text {
		c.Value = value.OfText(g.texts[p.number()])
	} else {
		c.Value = value.Parts{Kind: p.kind(), Scale: uint8(p >> scaleAt & (1<<scaleBits - 1)), N: p.number()}.Of()
	}
	return c
}

// more gives the number of a More that cells share; not ok where there are too
// many of them.
func (g *Grid) more(m *More) (n int, ok bool) {
	if m == nil {
		return 0, true
	}
	if n, known := g.moreAt[m]; known {
		return n, true
	}
	if len(g.mores) == 1<<moreBits-1 {
		return 0, false
	}
	if g.moreAt == nil {
		g.moreAt = map[*More]int{}
	}
	g.mores = append(g.mores, m)
	g.moreAt[m] = len(g.mores)
	return len(g.mores), true
}

// recentTexts is how many of a grid's texts are remembered to be shared.
const recentTexts = 1 << 12

// text gives the number of a text. The texts met lately are known again, which
// is most of those that come often; so their memory is bounded.
func (g *Grid) text(s string) int {
	if g.recent == nil {
		g.recent, g.seed = make([]int32, recentTexts), maphash.MakeSeed()
	}
	slot := &g.recent[maphash.String(g.seed, s)%recentTexts]
	if n := int(*slot) - 1; n >= 0 && g.texts[n] == s {
		return n
	}
	if g.Texts { // the fields of a record share its memory: none may hold on to it all
		s = strings.Clone(s)
	}
	g.texts = append(g.texts, s)
	*slot = int32(len(g.texts))
	return len(g.texts) - 1
}
