package api

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"net/http"
	"os"
	"time"

	"github.com/danielgtaylor/huma/v2"
)

// upload is a file that comes as a request's body. It waits on disk, not in
// memory, until it is read, and is gone with the request, even where that is
// refused before it is looked at.
type upload struct {
	Sum  string `json:"sum"` // hash of what it holds
	file *os.File
	size int64
	err  error // why it did not come whole
}

// uploadTime is how long a file may take to come.
const uploadTime = 2 * time.Minute

// takesFile lets an operation take a file as its body, of up to MaxUpload bytes.
func takesFile(op *huma.Operation) {
	op.RequestBody = &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{
		"application/octet-stream": {Schema: &huma.Schema{Type: "string", Format: "binary"}}}}
	op.Errors = append(op.Errors, http.StatusRequestEntityTooLarge)
}

// Resolve takes the body in before the operation begins.
func (u *upload) Resolve(ctx huma.Context) []error {
	u.err = u.receive(ctx)
	return nil // for the operation to tell, in its own words
}

func (u *upload) receive(ctx huma.Context) error {
	_ = ctx.SetReadDeadline(time.Now().Add(uploadTime)) // where the connection knows none, it stays as it is
	var err error
	if u.file, err = spool(); err != nil {
		return err
	}
	sum := sha256.New()
	if u.size, err = io.Copy(io.MultiWriter(u.file, sum), io.LimitReader(ctx.BodyReader(), MaxUpload+1)); err != nil {
		return problemOf(http.StatusBadRequest, "body", "The file did not come whole", "send it again")
	}
	if u.size > MaxUpload {
		return problemOf(http.StatusRequestEntityTooLarge, "body", "The file is too large", fmt.Sprintf("at most %d MB", MaxUpload>>20))
	}
	u.Sum = hex.EncodeToString(sum.Sum(nil))
	_, err = u.file.Seek(0, io.SeekStart)
	return err
}

// done takes the file away.
func (u *upload) done() {
	if u.file != nil {
		drop(u.file)
	}
}
