package xlsx

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"regexp"
	"strings"
	"unicode/utf8"
)

// XML cannot hold most control characters; a workbook writes them as _xHHHH_
// (ECMA-376, 22.9.2.19). The library writes such escapes of a text's own so that
// they stay as they are, but has no way to make one. So they go in between two
// marks of the private range, which the finished sheets are rid of.
const mark = "\uf8f0"

var (
	unwritable = regexp.MustCompile(`[\x00-\x08\x0b-\x1f\x{f8f0}\x{fffe}\x{ffff}]`)
	marked     = regexp.MustCompile(mark + `([0-9A-F]{4})` + mark)
)

func (b *writer) escape(s string) string {
	if !unwritable.MatchString(s) {
		return s
	}
	b.escaped = true
	return unwritable.ReplaceAllStringFunc(s, func(m string) string {
		r, _ := utf8.DecodeRuneInString(m)
		return fmt.Sprintf("%s%04X%s", mark, r, mark)
	})
}

// writeEscapes copies a workbook, its marks made escapes.
func writeEscapes(w io.Writer, whole []byte) error {
	in, err := zip.NewReader(bytes.NewReader(whole), int64(len(whole)))
	if err != nil {
		return fmt.Errorf("reading the workbook back: %w", err)
	}
	out := zip.NewWriter(w)
	for _, f := range in.File {
		if err := copyPart(out, f); err != nil {
			return fmt.Errorf("writing %s: %w", f.Name, err)
		}
	}
	return out.Close()
}

func copyPart(out *zip.Writer, f *zip.File) error {
	if !strings.HasPrefix(f.Name, "xl/") || !strings.HasSuffix(f.Name, ".xml") {
		return out.Copy(f)
	}
	r, err := f.Open()
	if err != nil {
		return err
	}
	defer r.Close()
	text, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	w, err := out.Create(f.Name)
	if err != nil {
		return err
	}
	_, err = w.Write(marked.ReplaceAll(text, []byte("_x${1}_")))
	return err
}
