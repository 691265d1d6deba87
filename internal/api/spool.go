package api

import (
	"errors"
	"fmt"
	"io"
	"os"
	"runtime"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
)

// spool is a file in which something large waits, such as what is sent or what
// is being written to be sent. It has no name, so that nothing of it is left
// behind whatever happens, and nobody else can open it.
func spool() (*os.File, error) {
	f, err := os.CreateTemp("", "kavlo-*")
	if err != nil {
		return nil, fmt.Errorf("making room for a file: %w", err)
	}
	if runtime.GOOS != "windows" { // where a file that is open keeps its name
		if err := os.Remove(f.Name()); err != nil {
			return nil, errors.Join(fmt.Errorf("making room for a file: %w", err), f.Close())
		}
	}
	return f, nil
}

// drop gives a spool up.
func drop(f *os.File) {
	_ = f.Close()
	if runtime.GOOS == "windows" {
		_ = os.Remove(f.Name())
	}
}

// sending sends what stands in a file, and gives the file up.
func (s *server) sending(f *os.File) func(huma.Context) {
	return func(ctx huma.Context) {
		defer drop(f)
		size, err := f.Seek(0, io.SeekEnd)
		if err == nil {
			_, err = f.Seek(0, io.SeekStart)
		}
		if err == nil {
			ctx.SetHeader("Content-Length", strconv.FormatInt(size, 10))
			_, err = io.Copy(ctx.BodyWriter(), f)
		}
		if err != nil { // the reader is gone, mostly; the length tells them that it is not whole
			s.Log.DebugContext(ctx.Context(), "a file was not sent whole", "err", err)
		}
	}
}
