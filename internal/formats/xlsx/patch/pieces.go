package patch

import "bytes"

// pieces is a part in the making: what stays as it was is not copied.
type pieces struct {
	all [][]byte
	own []byte // where what is new is gathered
}

const pieceSize = 64 << 10

// keep adds a piece of a text that is not altered any more.
func (p *pieces) keep(text []byte) {
	if len(text) == 0 {
		return
	}
	if n := len(p.all); n > 0 {
		last := p.all[n-1]
		if len(last) < cap(last) && &last[:len(last)+1][len(last)] == &text[0] { // it goes on right there
			p.all[n-1] = last[:len(last)+len(text)]
			return
		}
	}
	p.all = append(p.all, text)
}

func (p *pieces) write(text []byte) {
	if cap(p.own)-len(p.own) < len(text) {
		p.own = make([]byte, 0, max(pieceSize, len(text)))
	}
	at := len(p.own)
	p.own = append(p.own, text...)
	p.keep(p.own[at:])
}

func (p *pieces) writeString(text string) { p.write([]byte(text)) }

func (p *pieces) joined() []byte { return bytes.Join(p.all, nil) }
