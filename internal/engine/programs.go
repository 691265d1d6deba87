package engine

import (
	"fmt"
	"sync"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// compiled is a shape's program, compiled when first asked for and then once and for all.
type compiled struct {
	once    sync.Once
	program *program.Program
	err     error
}

func (e *Engine) compile(s *sheet.Shape, c *compiled) (*program.Program, error) {
	c.once.Do(func() {
		if c.program, c.err = program.Compile(s, e.Kinds); c.err != nil {
			return
		}
		c.program.Console = e.Console
		for i := range s.Definitions {
			if def, err := c.program.Entry(s.Definitions[i].ID); err == nil && def.Err != nil {
				e.Notice(AboutDefinition(def.Stored), fmt.Sprintf("%s %s of %s cannot run: %v", def.Stored.Kind, def.Stored.Name, s.Name, def.Err))
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
const keepPastPrograms = 256

// Program gives a shape's program: compiled once, with the state that the shape is in.
func (e *Engine) Program(s *sheet.Shape) (*program.Program, error) {
	if c := e.state.Load().programs[s]; c != nil {
		return e.compile(s, c)
	}
	e.pastPrograms.mu.Lock()
	c := e.pastPrograms.known[s]
	if c == nil {
		if e.pastPrograms.known == nil || len(e.pastPrograms.known) >= keepPastPrograms {
			e.pastPrograms.known = programs{}
		}
		c = &compiled{}
		e.pastPrograms.known[s] = c
	}
	e.pastPrograms.mu.Unlock()
	return e.compile(s, c)
}

// AboutDefinition is what a notice about a definition is about.
func AboutDefinition(p *sheet.Definition) string { return "part " + p.ID.String() }
