package output

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
)

// A file goes by its name below the folder outbound, such as "cards/Pier.xlsx", or by its
// full path where it lies in a folder that the service was told of.

// FolderRefused says that a folder cannot be one that files are written into.
type FolderRefused struct{ Folder, Why string }

func (e *FolderRefused) Error() string { return fmt.Sprintf("files folder %q: %s", e.Folder, e.Why) }

// CheckFolder refuses a folder that is not there, or by which a rule would reach the
// workspace's own files in dir.
func CheckFolder(dir, folder string) error {
	if !filepath.IsAbs(folder) {
		return &FolderRefused{folder, "give its full path"}
	}
	info, err := os.Stat(folder)
	switch {
	case err != nil:
		return fmt.Errorf("files folder: %w", err)
	case !info.IsDir():
		return &FolderRefused{folder, "it is not a folder"}
	}
	real, err := filepath.EvalSymlinks(folder)
	if err != nil {
		return fmt.Errorf("files folder: %w", err)
	}
	own, err := filepath.Abs(dir)
	if err != nil {
		return fmt.Errorf("files folder: %w", err)
	}
	if meant, err := filepath.EvalSymlinks(own); err == nil {
		own = meant
	}
	if within(own, real) || within(real, own) {
		return &FolderRefused{folder, "it holds the data folder, or lies in it: choose one that shares nothing with it"}
	}
	return nil
}

func within(folder, p string) bool {
	rel, err := filepath.Rel(folder, p)
	return err == nil && filepath.IsLocal(rel)
}

// place gives where a file lies: a folder that is held to, wherever links in it lead, and
// the file's name in it, with slashes. The folder is to be closed.
func (files *Files) place(name string) (dir *os.Root, rel string, err error) {
	for _, folder := range files.folders {
		if rel, inside := strings.CutPrefix(name, filepath.ToSlash(folder)+"/"); inside {
			dir, err = os.OpenRoot(folder)
			return dir, rel, err
		}
	}
	if filepath.IsAbs(name) {
		return nil, "", notTold(name)
	}
	dir, err = files.ownFolder(OutboundFolder)
	return dir, name, err
}

func notTold(name string) error {
	return fmt.Errorf("%q is in no folder that files may be written into: name it below the folder %s, or start the service with --file-folder", name, OutboundFolder)
}

// ownFolder opens a folder of the workspace, and makes it where it is missing.
func (files *Files) ownFolder(name string) (*os.Root, error) {
	dir := filepath.Join(files.Dir, name)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	return os.OpenRoot(dir)
}

// safePath gives the name that a file goes by for a path that a rule gives: each part of
// it one that any system takes. written is the path as the rule has it, before holes in it
// were filled: what stands in a cell leads to no other folder.
func (files *Files) safePath(p, written string) (string, error) {
	for _, folder := range files.folders {
		folder = filepath.ToSlash(folder) + "/"
		if strings.HasPrefix(filepath.ToSlash(written), folder) {
			rel, inside := strings.CutPrefix(filepath.ToSlash(p), folder)
			if !inside {
				break
			}
			rel, err := safeParts(p, rel)
			return folder + rel, err
		}
	}
	if filepath.IsAbs(written) {
		return "", notTold(written)
	}
	return safeParts(p, p)
}

func safeParts(given, p string) (string, error) {
	var parts []string
	for part := range strings.SplitSeq(strings.ReplaceAll(p, `\`, "/"), "/") {
		switch strings.TrimSpace(part) {
		case "", ".":
		case "..":
			return "", fmt.Errorf("%q leads out of its folder", given)
		default:
			parts = append(parts, FileName(part))
		}
	}
	if len(parts) == 0 {
		return "", fmt.Errorf("%q names no file", given)
	}
	return strings.Join(parts, "/"), nil
}

// shown gives the name of a file as people look for it.
func shown(name string) string {
	if filepath.IsAbs(name) {
		return name
	}
	return OutboundFolder + "/" + name
}

// open opens a file by the name that it goes by.
func (files *Files) open(name string) (*os.File, error) {
	dir, rel, err := files.place(name)
	if err != nil {
		return nil, err
	}
	defer func() { _ = dir.Close() }()
	return dir.Open(filepath.FromSlash(rel))
}

// Read gives a file by the name that it goes by.
func (files *Files) Read(name string) ([]byte, error) {
	f, err := files.open(name)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	return io.ReadAll(f)
}

// mode gives the permissions that a file gets: in the workspace it is its owner's alone; in
// a folder that others share, it keeps those it had, or has what the folder's files have.
func (files *Files) mode(name string, dir *os.Root, place string) fs.FileMode {
	if !filepath.IsAbs(name) {
		return private
	}
	if info, err := dir.Stat(place); err == nil {
		return info.Mode().Perm()
	}
	return shared
}

const (
	private fs.FileMode = 0o600
	shared  fs.FileMode = 0o664
)

// inPlace does something with a file where it lies.
func (files *Files) inPlace(name string, do func(dir *os.Root, place string) error) error {
	dir, rel, err := files.place(name)
	if err != nil {
		return err
	}
	defer func() { _ = dir.Close() }()
	return do(dir, filepath.FromSlash(rel))
}

// remove removes a file, if it is there.
func (files *Files) remove(name string) error {
	return files.inPlace(name, func(dir *os.Root, place string) error {
		if err := dir.Remove(place); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return nil
	})
}

// replace puts a file in its place. undo puts back what was there.
func (files *Files) replace(name string, text []byte) (undo func() error, err error) {
	err = files.inPlace(name, func(dir *os.Root, place string) error {
		putBack, err := standing(dir, place)
		if err != nil {
			return err
		}
		if err := dir.MkdirAll(filepath.Dir(place), 0o700); err != nil {
			return err
		}
		undo = func() error {
			return files.inPlace(name, func(dir *os.Root, _ string) error { return putBack(dir) })
		}
		return putIn(dir, filepath.ToSlash(place), text, files.mode(name, dir, place))
	})
	if err != nil {
		return nil, err
	}
	return undo, nil
}

// free gives the name itself or, where a file has it already, one with a number.
func (files *Files) free(name string) (string, error) {
	ext := path.Ext(name)
	stem := strings.TrimSuffix(name, ext)
	err := files.inPlace(name, func(dir *os.Root, place string) error {
		beside := strings.TrimSuffix(place, ext)
		for n := 1; n < 10_000; n++ {
			if n > 1 {
				name, place = fmt.Sprintf("%s (%d)%s", stem, n, ext), fmt.Sprintf("%s (%d)%s", beside, n, ext)
			}
			if _, err := dir.Lstat(place); !errors.Is(err, fs.ErrNotExist) {
				if err != nil {
					return err
				}
				continue
			}
			return nil
		}
		return errors.New("too many files have that name already")
	})
	return name, err
}
