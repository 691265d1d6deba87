package bench

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"unsafe"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/formats/xlsx/patch"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/workspace"
)

var importMemory = Case{
	Name:  "memory at the peak of taking in a workbook of 100,000 rows of 10 typed cells, above that at rest",
	Floor: "the cells' own bytes in the tracker: 32 a cell and its text", Limit: 3,
	Sizes: func(dir string) (int64, int64, error) {
		path, err := tenByManyFile(dir)
		if err != nil {
			return 0, 0, err
		}
		var peak, own int64
		for turn := range 2 { // the first warms up
			at := filepath.Join(dir, fmt.Sprint("workspace", turn))
			if peak, own, err = importPeak(at, path); err != nil {
				return 0, 0, err
			}
		}
		return peak, own, nil
	},
}

var blockMemory = Case{
	Name:  "memory at the peak of writing a block of 1,000 rows into a workbook of 100,000 rows on ten sheets, above that at rest",
	Floor: "the sheet written to, unpacked", Limit: 3,
	Sizes: func(string) (int64, int64, error) {
		whole, err := tenSheets()
		if err != nil {
			return 0, 0, err
		}
		own, err := unpackedSize(whole, "xl/worksheets/sheet5.xml")
		if err != nil {
			return 0, 0, err
		}
		block := aThousand()
		var peak int64
		for range 2 { // the first warms up
			peak, err = grown(func() error {
				_, err := patch.Place(io.Discard, whole, &block, patch.At{Sheet: "Sheet5", Cell: "A20", Over: true})
				return err
			})
			if err != nil {
				return 0, 0, err
			}
		}
		return peak, own, nil
	},
}

func unpackedSize(archive []byte, part string) (int64, error) {
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	if err != nil {
		return 0, err
	}
	for _, f := range z.File {
		if f.Name == part {
			return int64(f.UncompressedSize64), nil //nolint:gosec // of a file made here
		}
	}
	return 0, fmt.Errorf("the workbook has no part %s", part)
}

// grown gives by how much the process grows at most while something is done.
func grown(do func() error) (int64, error) {
	debug.FreeOSMemory()
	if err := os.WriteFile("/proc/self/clear_refs", []byte("5"), 0); err != nil { // 5: forget the peak so far, see proc(5)
		return 0, fmt.Errorf("memory can be measured on Linux alone: %w", err)
	}
	before, err := memory("VmRSS")
	if err != nil {
		return 0, err
	}
	if err := do(); err != nil {
		return 0, err
	}
	after, err := memory("VmHWM")
	return after - before, err
}

// importPeak takes a file into a fresh workspace and gives by how much the
// process grew at most, and the bytes of the cells that are there then.
func importPeak(dir, path string) (peak, own int64, err error) {
	d, err := workspace.Open(context.Background(), workspace.Config{Dir: dir})
	if err != nil {
		return 0, 0, err
	}
	defer func() { err = closed(d, err) }()
	var res *engine.Result
	peak, err = grown(func() (err error) {
		res, err = takeFile(d, path)
		return err
	})
	if err != nil {
		return 0, 0, err
	}
	for _, t := range res.After.Trackers() {
		own += cellBytes(t)
	}
	return peak, own, nil
}

func cellBytes(t *sheet.Tracker) int64 {
	var n int64
	for i := range t.Tabs {
		for r := range t.Rows(t.Tabs[i].ID) {
			for _, v := range r.Cells() {
				n += int64(unsafe.Sizeof(value.Value{})) + int64(len(v.Raw()))
			}
		}
	}
	return n
}

// memory gives a figure of this process in bytes, by its name in proc(5).
func memory(name string) (int64, error) {
	status, err := os.ReadFile("/proc/self/status")
	if err != nil {
		return 0, err
	}
	for line := range bytes.Lines(status) {
		if rest, ok := bytes.CutPrefix(line, []byte(name+":")); ok {
			kb, err := strconv.ParseInt(string(bytes.TrimSpace(bytes.TrimSuffix(bytes.TrimSpace(rest), []byte("kB")))), 10, 64)
			return kb << 10, err
		}
	}
	return 0, fmt.Errorf("/proc/self/status has no %s", name)
}

// takeFile reads a file and takes it into a new tracker.
func takeFile(d *workspace.Workspace, path string) (*engine.Result, error) {
	return takeBy(d, path, "")
}

// takeBy imports a file into a tracker, found by a key.
func takeBy(d *workspace.Workspace, path, key string) (*engine.Result, error) {
	r, err := formats.ReadFile(path)
	if err != nil {
		return nil, err
	}
	in := intake.Import{New: "Loans", Zone: "UTC", Key: key}
	if there := d.State().Trackers(); len(there) > 0 {
		in.Tracker = there[0].ID
	}
	return d.Commit(context.Background(), d.Take(policy.Itself("bench"), r, in))
}
