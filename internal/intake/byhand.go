package intake

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
)

// FileError says why a rule cannot be run on a file.
type FileError struct{ Rule, Why, Hint string }

func (e *FileError) Error() string { return fmt.Sprintf("rule %s %s: %s", e.Rule, e.Why, e.Hint) }

// RunOn gives a request to run a rule by hand on a file that lies in the intake. name is
// its path, such as intake/requests.xlsx.
func (box *Intake) RunOn(ctx context.Context, by policy.Principal, t *sheet.Tracker, r *rule.Compiled, name string) (engine.Request, error) {
	refuse := func(why, hint string) (engine.Request, error) {
		return engine.Request{}, &FileError{r.Name, why, hint}
	}
	name = path.Clean(strings.TrimPrefix(filepath.ToSlash(strings.TrimSpace(name)), "./"))
	switch {
	case r.Wake.File == "":
		return refuse("works on rows, not on a file", "run it without one")
	case !rule.Matches(r.Wake.File, name) || !strings.HasPrefix(name, IntakeFolder+"/"):
		return refuse(fmt.Sprintf("does not take %q", name), "it takes files of "+r.Wake.File+" that lie in the data folder")
	}
	dir, err := os.OpenRoot(box.Dir)
	if err != nil {
		return engine.Request{}, fmt.Errorf("opening the data folder: %w", err)
	}
	defer func() { _ = dir.Close() }()
	info, err := dir.Lstat(filepath.FromSlash(name))
	if errors.Is(err, fs.ErrNotExist) || err == nil && !info.Mode().IsRegular() {
		return refuse(fmt.Sprintf("finds no file %q", name), box.there(ctx, r))
	}
	if err != nil {
		return engine.Request{}, fmt.Errorf("looking for %s: %w", name, err)
	}
	full := filepath.Join(box.Dir, filepath.FromSlash(name))
	hash, err := hashOf(full)
	if err != nil {
		return engine.Request{}, fmt.Errorf("reading %s: %w", name, err)
	}
	known, err := box.store.Files(ctx)
	if err != nil {
		return engine.Request{}, err
	}
	seen := newSeen(known)
	seen.there(name, info)
	f, _ := seen.identify(name, hash, box.Now())
	a := &arrived{box: box, File: rule.File{ID: f.ID, Path: f.Path, Version: f.Version, Size: f.Size, Created: f.Created, Modified: f.Modified, By: ownerOf(info)}, full: full, hash: hash}
	return box.wake(by, sheet.Cause{Kind: sheet.ByFile, Name: f.Path}, t, r, &a.File, a.taker), nil
}

// NeedsFile says that a rule was run by hand that works on files.
func (box *Intake) NeedsFile(ctx context.Context, r *rule.Compiled) error {
	return &FileError{r.Name, "works on a file", box.there(ctx, r)}
}

// there names the files that a rule could be run on.
func (box *Intake) there(ctx context.Context, r *rule.Compiled) string {
	const named = 5
	files := box.Lying(ctx, r)
	switch {
	case len(files) == 0:
		return "put one into " + r.Wake.File + " of the data folder"
	case len(files) > named:
		files = append(files[:named:named], fmt.Sprintf("and %d more", len(files)-named))
	}
	return "name one with --file: " + strings.Join(files, ", ")
}

// Lying gives the files that lie in the intake and that a rule takes, sorted.
func (box *Intake) Lying(ctx context.Context, r *rule.Compiled) []string {
	if r.Wake.File == "" {
		return nil
	}
	var files []string
	_ = filepath.WalkDir(filepath.Join(box.Dir, IntakeFolder), func(p string, e fs.DirEntry, err error) error {
		if err != nil || ctx.Err() != nil || passing(e.Name()) || !e.Type().IsRegular() {
			return ctx.Err() // what cannot be read is not there to be offered
		}
		if rel, err := filepath.Rel(box.Dir, p); err == nil && rule.Matches(r.Wake.File, filepath.ToSlash(rel)) {
			files = append(files, filepath.ToSlash(rel))
		}
		return nil
	})
	slices.Sort(files)
	return files
}

// Offered says which files lie there already for the rules that a change of setup has
// added or altered: they wake nothing until they change.
func (box *Intake) Offered(ctx context.Context, r *engine.Result) []string {
	var out []string
	for i := range r.Set.Changes {
		c := &r.Set.Changes[i]
		if c.Kind != sheet.Reshape || c.ShapeAfter == nil {
			continue
		}
		p, err := r.Program(c.ShapeAfter)
		if err != nil {
			continue
		}
		for _, compiled := range rule.Of(p) {
			if c.ShapeBefore != nil {
				if was := c.ShapeBefore.DefinitionByID(compiled.ID); was != nil && string(was.Body) == string(c.ShapeAfter.DefinitionByID(compiled.ID).Body) {
					continue
				}
			}
			if files := box.Lying(ctx, compiled); len(files) > 0 {
				out = append(out, fmt.Sprintf("rule %s takes files that lie there already, and which wake it only when they change; to run it on one, %s", compiled.Name, box.there(ctx, compiled)))
			}
		}
	}
	return out
}
