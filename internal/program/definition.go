package program

import (
	"encoding/json"
	"fmt"
	"iter"

	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/sheet"
)

// Kind is a kind of definition: rules, lists and so on. A kind is one package, and one
// line in the list of kinds; what it can do follows from the interfaces that its
// definitions have.
type Kind struct {
	Name   sheet.DefinitionKind // in the singular, as stored: "rule"
	Plural string               // the key of the setup file, and the word in addresses: "rules"
	New    func() Definition
}

// Kinds are all kinds there are, in the order of the setup file: a definition may name
// those of the kinds before its own.
type Kinds []Kind

// Of gives a kind by its stored name, or nil.
func (k Kinds) Of(part sheet.DefinitionKind) *Kind {
	for i := range k {
		if k[i].Name == part {
			return &k[i]
		}
	}
	return nil
}

// Definition is one rule, list, sync, reminder or round, in stored form: clauses hold
// ids of columns. It is decoded from JSON.
type Definition interface {
	Identify(id sheet.DefinitionID, name string)
	// Compile checks the definition against a program's shape and makes it ready to
	// run. It may look at the program's names and at what was compiled before it.
	Compile(p *Program) (ready any, err error)
}

// ScheduleOf gives when a definition runs by itself; nil: it does not.
func ScheduleOf(d Definition) (*recur.Schedule, error) {
	if s, is := d.(Scheduler); is {
		return s.Schedule()
	}
	return nil, nil
}

// What definitions may have besides.
type (
	// Scheduler runs by itself at times; nil: it does not.
	Scheduler interface {
		Schedule() (*recur.Schedule, error)
	}
	// Pauser can be told not to run by itself.
	Pauser interface {
		Pause(paused bool)
		IsPaused() bool
	}
	// Trimmer can leave out what it cannot do in a shape that lacks some of what it reads,
	// for whoever may not see that.
	Trimmer interface{ Trim(p *Program) }
	// Watcher can be told to say what it would do, and do nothing.
	Watcher interface{ OnlyWatches() bool }
	// Worker tells, of what is ready, on which tabs' rows it works.
	Worker interface{ Tabs() []sheet.TabID }
	// TabNamer names tabs by their names, and follows them when these change.
	TabNamer interface{ TabRenamed(was, is string) }
	// Reacher tells, of a definition, into which other trackers it brings rows, by name, and
	// follows a tracker, its tabs and its columns when their names change.
	Reacher interface {
		Reaches() []string
		Follow(was, is *sheet.Shape)
	}
)

// Decode gives the definition of a part in stored form.
func (k Kinds) Decode(p *sheet.Definition) (Definition, error) {
	kind := k.Of(p.Kind)
	if kind == nil {
		return nil, fmt.Errorf("there is no kind of definition %q", p.Kind)
	}
	d := kind.New()
	if err := json.Unmarshal(p.Body, d); err != nil {
		return nil, fmt.Errorf("reading %s %s: %w", p.Kind, p.Name, err)
	}
	d.Identify(p.ID, p.Name)
	return d, nil
}

// Entry is a definition in a program: ready to run or, where it is not as it should
// be, with the reason. One that is wrong stops no other.
type Entry struct {
	Stored     *sheet.Definition
	Definition Definition // nil where it could not be read
	Ready      any
	Err        error
}

// Compile makes a shape ready to run. It fails only where the computed columns do; a
// definition that fails has its own error in its entry.
func Compile(shape *sheet.Shape, kinds Kinds) (*Program, error) {
	p, err := Bind(shape)
	if err != nil {
		return nil, err
	}
	p.entries = make(map[sheet.DefinitionID]*Entry, len(shape.Definitions))
	for i := range kinds {
		for j := range shape.Definitions {
			if part := &shape.Definitions[j]; part.Kind == kinds[i].Name {
				p.entries[part.ID] = p.compile(part, kinds)
			}
		}
	}
	return p, nil
}

func (p *Program) compile(part *sheet.Definition, kinds Kinds) *Entry {
	e := &Entry{Stored: part}
	if e.Definition, e.Err = kinds.Decode(part); e.Err == nil {
		e.Ready, e.Err = e.Definition.Compile(p)
	}
	return e
}

// Entry gives a definition by id.
func (p *Program) Entry(id sheet.DefinitionID) (*Entry, error) {
	if e := p.entries[id]; e != nil {
		return e, nil
	}
	return nil, &sheet.NotFound{What: "definition", Name: id.String(), In: p.Shape.Name}
}

// Entries gives the definitions of a kind in the order of the setup.
func (p *Program) Entries(kind sheet.DefinitionKind) iter.Seq[*Entry] {
	return func(yield func(*Entry) bool) {
		for i := range p.Shape.Definitions {
			part := &p.Shape.Definitions[i]
			if e := p.entries[part.ID]; part.Kind == kind && e != nil && !yield(e) {
				return
			}
		}
	}
}

// Ready gives what a definition was compiled to, or why it could not be.
func Ready[T any](p *Program, id sheet.DefinitionID) (T, error) {
	var none T
	e, err := p.Entry(id)
	if err != nil {
		return none, err
	}
	if e.Err != nil {
		return none, e.Err
	}
	ready, is := e.Ready.(T)
	if !is {
		return none, &sheet.NotFound{What: "definition", Name: e.Stored.Name, In: p.Shape.Name}
	}
	return ready, nil
}

// All gives what the definitions of a kind were compiled to, in the order of the setup.
// What is wrong with one is given in its place.
func All[T any](p *Program, kind sheet.DefinitionKind) iter.Seq2[T, error] {
	return func(yield func(T, error) bool) {
		for e := range p.Entries(kind) {
			ready, err := Ready[T](p, e.Stored.ID)
			if !yield(ready, err) {
				return
			}
		}
	}
}

// Check says what of a shape would fail later, or nil.
func Check(shape *sheet.Shape, kinds Kinds) error {
	if err := shape.Check(); err != nil {
		return err
	}
	p, err := Compile(shape, kinds)
	if err != nil {
		return err
	}
	return p.Check()
}

// Check says what of the program's shape would fail later, or nil.
func (p *Program) Check() error {
	if err := p.Shape.Check(); err != nil {
		return err
	}
	for i := range p.Shape.Definitions {
		part := &p.Shape.Definitions[i]
		if e := p.entries[part.ID]; e != nil && e.Err != nil {
			return fmt.Errorf("%s %s: %w", part.Kind, part.Name, e.Err)
		}
	}
	return nil
}

// CheckDefinition compiles one definition that is to become part of a program.
func (p *Program) CheckDefinition(part *sheet.Definition, kinds Kinds) error {
	return p.compile(part, kinds).Err
}

// Needers names the computed columns and definitions that are right in one shape and
// no longer are in another: also a rule for all tabs with its columns that would work
// on fewer of them, without a word.
func Needers(before, after *sheet.Shape, kinds Kinds) []string {
	was, err := Compile(before, kinds)
	if err != nil {
		return nil
	}
	now, err := Compile(after, kinds)
	if err != nil {
		return []string{err.Error()}
	}
	var out []string
	for i := len(kinds) - 1; i >= 0; i-- {
		for e := range was.Entries(kinds[i].Name) {
			then := now.entries[e.Stored.ID]
			if e.Err == nil && (then == nil || then.Err != nil || worksOn(then) < worksOn(e)) {
				out = append(out, string(e.Stored.Kind)+" "+e.Stored.Name)
			}
		}
	}
	return out
}

func worksOn(e *Entry) int {
	if w, is := e.Ready.(Worker); is {
		return len(w.Tabs())
	}
	return 0
}
