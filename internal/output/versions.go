package output

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// VersionsFolder is the folder of a workspace that keeps what files were before they were
// written over.
const VersionsFolder = "versions"

// keepVersion keeps a file as it is before it is written over, and gives its number; 0
// where there is none.
func (files *Files) keepVersion(name string) (int, error) {
	var info fs.FileInfo
	err := files.inPlace(name, func(dir *os.Root, place string) (err error) {
		info, err = dir.Lstat(place)
		return err
	})
	if err != nil || !info.Mode().IsRegular() { // none, or a link, which is not followed
		return 0, nil //nolint:nilerr // what is wrong with the place, writing to it tells
	}
	text, err := files.Read(name)
	if err != nil {
		return 0, err
	}
	dir, err := files.versions()
	if err != nil {
		return 0, err
	}
	defer func() { _ = dir.Close() }()
	if err := dir.MkdirAll(filepath.FromSlash(versionsOf(name)), 0o700); err != nil {
		return 0, err
	}
	n := 1
	if all, err := fs.ReadDir(dir.FS(), versionsOf(name)); err == nil {
		for _, e := range all {
			if k, err := strconv.Atoi(strings.TrimSuffix(e.Name(), path.Ext(e.Name()))); err == nil {
				n = max(n, k+1)
			}
		}
	}
	return n, putIn(dir, versionAt(name, n), text, private)
}

func versionAt(name string, n int) string {
	return fmt.Sprintf("%s/%d%s", versionsOf(name), n, path.Ext(name))
}

// elsewhere is the folder for versions of files outside the workspace: no name below the
// folder outbound begins with a dot.
const elsewhere = ".elsewhere"

func versionsOf(name string) string {
	if filepath.IsAbs(name) {
		return path.Join(elsewhere, strings.ReplaceAll(name, ":", ""))
	}
	return name
}

func (files *Files) versions() (*os.Root, error) { return files.ownFolder(VersionsFolder) }

// FileVersions lists what a file of the outbound folder was, the newest first.
func (files *Files) FileVersions(ctx context.Context, t *sheet.Tracker, name string) ([]store.Version, error) {
	return files.store.Versions(ctx, t.ID, name)
}

// ReadVersion gives what a file of the outbound folder was.
func (files *Files) ReadVersion(name string, n int) ([]byte, error) {
	dir, err := files.versions()
	if err != nil {
		return nil, err
	}
	defer func() { _ = dir.Close() }()
	text, err := dir.ReadFile(filepath.FromSlash(versionAt(name, n)))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("there is no version %d of %s: %w", n, name, err)
	}
	return text, err
}

// keepVersions is how long what files were is kept; the newest of each stays.
const keepVersions = 90 * 24 * time.Hour

// sweepVersions removes what files were long ago.
func (files *Files) sweepVersions(ctx context.Context, now time.Time) error {
	past, err := files.store.VersionsPast(ctx, now.Add(-keepVersions))
	if err != nil || len(past) == 0 {
		return err
	}
	dir, err := files.versions()
	if err != nil {
		return err
	}
	defer func() { _ = dir.Close() }()
	for _, v := range past {
		if err := dir.Remove(filepath.FromSlash(versionAt(v.Path, v.N))); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return fmt.Errorf("removing version %d of %s: %w", v.N, v.Path, err)
		}
		if err := files.store.ForgetVersion(ctx, v); err != nil {
			return err
		}
	}
	return nil
}

// PutBack puts the files back that a run wrote over, in a turn that undoes it. What they
// are now is kept as a version in turn. With force, one that is not kept any more is left.
func (files *Files) PutBack(t *engine.Turn, run string, force bool) (int, error) {
	over, err := files.store.VersionsOf(t.Context(), run)
	if err != nil {
		return 0, err
	}
	back := 0
	for _, v := range over {
		text, err := files.ReadVersion(v.Path, v.N)
		if errors.Is(err, fs.ErrNotExist) {
			if force {
				continue
			}
			return 0, fmt.Errorf("%s as it was before is not kept any more, which it is for 90 days: force the undo to leave the file as it is", shown(v.Path))
		}
		if back++; err != nil {
			return 0, err
		}
		t.Place(func(r *engine.Result) (func() error, error) {
			n, err := files.keepVersion(v.Path)
			if err != nil {
				return nil, err
			}
			if n > 0 {
				t.Store(func(ctx context.Context, b *store.Batch, r *engine.Result) error {
					return b.PutVersion(ctx, &store.Version{Path: v.Path, N: n, Tracker: v.Tracker, Run: r.Run, At: r.Set.At})
				})
			}
			return files.replace(v.Path, text)
		})
	}
	return back, nil
}

// notAnothers refuses to write over a file that a rule of another tracker writes.
func (files *Files) notAnothers(ctx context.Context, name string, tracker sheet.TrackerID) error {
	by, err := files.store.WrittenOver(ctx, name)
	if err != nil || by == 0 || by == tracker {
		return err
	}
	other := by.String()
	if t := files.State().Tracker(by); t != nil {
		other = t.Name
	}
	return fmt.Errorf("%s is written by a rule of tracker %s: give the file another name, such as one in a folder of its own", shown(name), other)
}

// PutFile puts a workbook that somebody hands over into the outbound folder, for rules to
// write into, or with template into the folder of templates. What was there is kept.
func (files *Files) PutFile(ctx context.Context, t *sheet.Tracker, name string, template bool, in io.Reader, now time.Time) (string, error) {
	if filepath.IsAbs(name) {
		return "", fmt.Errorf("%q is a path of a machine: give a name below the folder %s", name, OutboundFolder)
	}
	name, err := safeParts(name, name)
	if err != nil {
		return "", err
	}
	if !strings.HasSuffix(strings.ToLower(name), ".xlsx") {
		return "", fmt.Errorf("%q is no workbook: its name ends in .xlsx", name)
	}
	text, err := io.ReadAll(io.LimitReader(in, xlsx.MaxFile+1))
	if err != nil {
		return "", err
	}
	if _, err := xlsx.ReadSheets(bytes.NewReader(text), int64(len(text)), func(string) bool { return false }); err != nil {
		return "", fmt.Errorf("%s: %w", name, err)
	}
	if template {
		dir, err := files.ownFolder(TemplatesFolder)
		if err != nil {
			return "", err
		}
		defer func() { _ = dir.Close() }()
		if err := dir.MkdirAll(filepath.FromSlash(path.Dir(name)), 0o700); err != nil {
			return "", err
		}
		return TemplatesFolder + "/" + name, putIn(dir, name, text, private)
	}
	if err := files.notAnothers(ctx, name, t.ID); err != nil {
		return "", err
	}
	n, err := files.keepVersion(name)
	if err != nil {
		return "", err
	}
	if _, err := files.replace(name, text); err != nil {
		return "", err
	}
	b, err := files.store.Begin(ctx)
	if err != nil {
		return "", err
	}
	defer b.Rollback()
	if n > 0 {
		if err := b.PutVersion(ctx, &store.Version{Path: name, N: n, Tracker: t.ID, At: now}); err != nil {
			return "", err
		}
	}
	if err := b.PutWritten(ctx, &store.Written{Path: name, Tracker: t.ID, Name: "uploaded", At: now}); err != nil {
		return "", err
	}
	return OutboundFolder + "/" + name, b.Commit()
}
