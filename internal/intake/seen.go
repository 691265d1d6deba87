package intake

import (
	"io/fs"
	"slices"
	"strings"
	"time"

	"github.com/oklog/ulid/v2"

	"example.org/kavlo/internal/store"
)

// sighting is when a file was first seen as it is.
type sighting struct {
	size     int64
	modified time.Time
	at       time.Time
}

// rests reports whether a file has not changed for a while, by the machine's
// clock, as files are stamped. One that is stamped with a time still to come has
// to lie still before our eyes.
func (box *Intake) rests(name string, info fs.FileInfo) bool {
	if since := box.Machine().Sub(info.ModTime()); since >= 0 {
		return since >= restFor
	}
	was, known := box.sighted[name]
	if !known || was.size != info.Size() || !was.modified.Equal(info.ModTime()) {
		if box.sighted == nil {
			box.sighted = map[string]sighting{}
		}
		box.sighted[name] = sighting{info.Size(), info.ModTime(), box.Machine()}
		return false
	}
	if box.Machine().Sub(was.at) < restFor {
		return false
	}
	delete(box.sighted, name)
	return true
}

// passing reports whether a name is that of a file which programs make for the
// time being: locks, halves, backups.
func passing(name string) bool {
	lower := strings.ToLower(name)
	for _, prefix := range []string{".", "~", "#"} {
		if strings.HasPrefix(lower, prefix) {
			return true
		}
	}
	for _, suffix := range []string{"~", ".tmp", ".part", ".partial", ".crdownload", ".download", ".lock", ".swp", ".bak"} {
		if strings.HasSuffix(lower, suffix) {
			return true
		}
	}
	return false
}

// seen compares what is there with what was.
type seen struct {
	known   map[string]store.File // by path, those not gone
	gone    []store.File
	infos   map[string]fs.FileInfo
	changed []string // paths, in the order found
}

func newSeen(files []store.File) *seen {
	s := &seen{known: map[string]store.File{}, infos: map[string]fs.FileInfo{}}
	for _, f := range files {
		if f.Gone {
			s.gone = append(s.gone, f)
		} else {
			s.known[f.Path] = f
		}
	}
	return s
}

func (s *seen) there(name string, info fs.FileInfo) {
	s.infos[name] = info
	was, known := s.known[name]
	if !known || was.Size != info.Size() || !was.Modified.Equal(info.ModTime().UTC().Truncate(time.Millisecond)) {
		s.changed = append(s.changed, name)
	}
}

// vanished gives the files that are not there any more.
func (s *seen) vanished() []store.File {
	var out []store.File
	for name, f := range s.known {
		if s.infos[name] == nil {
			f.Gone = true
			out = append(out, f)
		}
	}
	return out
}

// identify gives the file as it is to be kept: with the id of the one that had
// the name or, renamed, the contents. The second answer tells whether anything
// is new but the time.
func (s *seen) identify(name, hash string, now time.Time) (store.File, bool) {
	info := s.infos[name]
	f, known := s.known[name]
	if !known {
		f = store.File{ID: ulid.MustNew(ulid.Timestamp(now), ulid.DefaultEntropy()).String(), Created: info.ModTime().UTC()}
		for _, old := range s.missing() {
			if old.Hash == hash {
				f, known = old, true
				delete(s.known, old.Path)
				s.gone = slices.DeleteFunc(s.gone, func(x store.File) bool { return x.ID == old.ID })
				break
			}
		}
	}
	isNew := !known || f.Hash != hash || f.Path != name
	if !known || f.Hash != hash {
		f.Version++
	}
	f.Path, f.Hash, f.Size, f.Modified, f.Gone = name, hash, info.Size(), info.ModTime().UTC().Truncate(time.Millisecond), false
	return f, isNew
}

// missing gives the files whose names nothing has now.
func (s *seen) missing() []store.File {
	out := slices.Clone(s.gone)
	for name, f := range s.known {
		if s.infos[name] == nil {
			out = append(out, f)
		}
	}
	return out
}
