package edit

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
)

// Version names what a definition says: another one after every change of it.
func Version(d *sheet.Definition) string {
	sum := sha256.Sum256(slices.Concat([]byte(d.Name), []byte{0}, d.Body))
	return hex.EncodeToString(sum[:8])
}

// Overtaken says that a definition was changed by somebody else since it was read.
type Overtaken struct{ Definition sheet.Definition } // as it is now

func (e *Overtaken) Error() string {
	return fmt.Sprintf("someone else changed %s %s: look at theirs, then save again", e.Definition.Kind, e.Definition.Name)
}

// Seen makes a request that changes a definition hold only while the definition is as
// whoever asks has seen it.
func Seen(req engine.Request, definition sheet.DefinitionID, version string) engine.Request {
	work := req.Work
	req.Work = func(t *engine.Turn) error {
		if tr := t.Draft.Tracker(req.Tracker); tr != nil {
			if d := tr.DefinitionByID(definition); d != nil && Version(d) != version {
				return &Overtaken{Definition: *d}
			}
		}
		return work(t)
	}
	return req
}
