package desk

import (
	"fmt"
	"sync"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// compiled is a shape's program, compiled when first asked for and then once and for all.
type compiled struct {
	once    sync.Once
	program *program.Program
	err     error
}

func (d *Desk) compile(s *sheet.Shape, c *compiled) (*program.Program, error) {
	c.once.Do(func() {
		if c.program, c.err = program.Compile(s, d.Setup.Kinds()); c.err != nil {
			return
		}
		for i := range s.Parts {
			if e, err := c.program.Entry(s.Parts[i].ID); err == nil && e.Err != nil {
				d.notice(aboutPart(e.Part), fmt.Sprintf("%s %s of %s cannot run: %v", e.Part.Kind, e.Part.Name, s.Name, e.Err))
			}
		}
	})
	return c.program, c.err
}

// programs are those of some shapes. A state has those of its trackers; a turn makes
// its own for what it alters, which then become the state's.
type programs map[*sheet.Shape]*compiled

// following gives the programs of a state: those that the state before it had, or that
// were made on the way, and new ones.
func (p programs) following(w *sheet.Workspace, made programs) programs {
	same := true
	all := w.Trackers()
	for _, t := range all {
		same = same && p[t.Shape] != nil
	}
	if same && len(p) == len(all) {
		return p
	}
	out := make(programs, len(all))
	for _, t := range all {
		switch {
		case p[t.Shape] != nil:
			out[t.Shape] = p[t.Shape]
		case made[t.Shape] != nil:
			out[t.Shape] = made[t.Shape]
		default:
			out[t.Shape] = &compiled{}
		}
	}
	return out
}

// pastPrograms are those of shapes that are in no state any more, or not yet: of looks back
// in time and of previews.
type pastPrograms struct {
	mu    sync.Mutex
	known programs
}

// keepPastPrograms is how many of them are kept.
const keepPastPrograms = 32

// Program gives a shape's program: compiled once, with the state that the shape is in.
func (d *Desk) Program(s *sheet.Shape) (*program.Program, error) {
	if c := d.state.Load().programs[s]; c != nil {
		return d.compile(s, c)
	}
	d.pastPrograms.mu.Lock()
	c := d.pastPrograms.known[s]
	if c == nil {
		if d.pastPrograms.known == nil || len(d.pastPrograms.known) >= keepPastPrograms {
			d.pastPrograms.known = programs{}
		}
		c = &compiled{}
		d.pastPrograms.known[s] = c
	}
	d.pastPrograms.mu.Unlock()
	return d.compile(s, c)
}

// Program gives the program of a shape as the turn's draft has it.
func (t *Turn) Program(s *sheet.Shape) (*program.Program, error) {
	c := t.state[s]
	if c == nil {
		if c = t.made[s]; c == nil {
			c = &compiled{}
			t.made[s] = c
		}
	}
	return t.desk.compile(s, c)
}

func foldName(s string) string { return value.Fold(s) }
