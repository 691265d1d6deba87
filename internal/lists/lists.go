// Package lists reaches lists kept elsewhere: it gets their records and writes
// them back. It serves syncs and rules that count lists.
//
// lists.go picks the connector and puts secrets in; reach.go holds every
// connection to the addresses that the workspace allows; http.go and send.go
// speak JSON over HTTP, file.go reads files, tasks.go speaks CalDAV, sql.go asks
// databases.
package lists

import (
	"context"
	"crypto/x509"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"html"
	"io/fs"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"example.org/kavlo/internal/reconcile"
)

// Limits on what a list may send.
const (
	MaxPages   = 1000
	MaxPage    = 32 << 20  // bytes of a page or of an answer
	MaxFile    = 64 << 20  // bytes of a file
	MaxBytes   = 256 << 20 // of all its pages or records together
	MaxRecords = 1_000_000
	callTime   = 30 * time.Second
)

var errTooMuch = fmt.Errorf("the list is larger than %d MB", MaxBytes>>20)

// Connectors reaches lists.
type Connectors struct {
	Dir string // the workspace's folder; files lie in its folder lists
	// Folders are other folders whose files lists may name, by their full paths.
	Folders []string
	// Secret gives what ${NAME} stands for; nil: nothing is known.
	Secret func(ctx context.Context, name string) (string, error)
	// Reach gives the addresses that may be reached; nil: any.
	AllowedHosts func(ctx context.Context) ([]string, error)
	// Trust holds the certificates by which servers are known; nil: the system's.
	Trust *x509.CertPool
	// Pause is the first wait before a call is made again; 0: half a second.
	Pause time.Duration

	once   sync.Once
	client *http.Client
	pages  pageCache

	mu      sync.Mutex
	allowed []string // what could be reached when it was last asked
}

// Fetch gives every record of a list. A list is had whole or not at all.
func (c *Connectors) Fetch(ctx context.Context, list *reconcile.List) ([]reconcile.Entry, error) {
	out, _, err := c.Look(ctx, list)
	return out, err
}

// Look fetches as Fetch does, and says how the list's pages followed each other.
func (c *Connectors) Look(ctx context.Context, list *reconcile.List) ([]reconcile.Entry, reconcile.Pages, error) {
	var pages reconcile.Pages
	l, hide, err := c.open(ctx, list)
	if err != nil {
		return nil, pages, err
	}
	var out []reconcile.Entry
	switch {
	case l.HTTP != "":
		out, pages, err = c.fetchHTTP(ctx, l)
	case l.File != "":
		out, err = c.fetchFile(ctx, l)
	case l.Tasks != "":
		out, err = c.fetchTasks(ctx, l)
	default:
		out, err = c.fetchSQL(ctx, l)
	}
	return out, pages, hide(err)
}

// Send makes one write. Trying the same write again does it once where the
// list's protocol allows.
func (c *Connectors) Send(ctx context.Context, list *reconcile.List, w *reconcile.Write) (reconcile.Written, error) {
	l, hide, err := c.open(ctx, list)
	if err != nil {
		return reconcile.Written{}, err
	}
	var out reconcile.Written
	switch {
	case l.HTTP != "":
		out, err = c.sendHTTP(ctx, l, w)
	case l.Tasks != "":
		out, err = c.sendTask(ctx, l, w)
	case l.Table != "":
		out, err = c.sendSQL(ctx, l, w)
	default:
		err = errors.New("this list is only read")
	}
	return out, hide(err)
}

var secretName = regexp.MustCompile(`\$\{([A-Za-z_][A-Za-z0-9_]*)\}`)

// open puts secrets into a copy of the list, and gives what takes them out of
// messages again.
func (c *Connectors) open(ctx context.Context, list *reconcile.List) (*reconcile.List, func(error) error, error) {
	if err := c.recheck(ctx); err != nil {
		return nil, nil, err
	}
	l := *list
	used := map[string]string{}
	for _, s := range []*string{&l.HTTP, &l.File, &l.Tasks, &l.Postgres, &l.Token, &l.Name, &l.Password, &l.Send.Add, &l.Send.Change, &l.Send.Remove} {
		var err error
		*s = secretName.ReplaceAllStringFunc(*s, func(ref string) string {
			name := ref[2 : len(ref)-1]
			v := ""
			if c.Secret != nil {
				var e error
				if v, e = c.Secret(ctx, name); e != nil && err == nil {
					err = e
				}
			}
			if v == "" && err == nil {
				err = fmt.Errorf("the list needs the secret %s, and it is not known: keep it with kavlo access secret %s", name, name)
			}
			if v != "" {
				used[v] = ref
			}
			return v
		})
		if err != nil {
			return nil, nil, err
		}
	}
	hide := func(err error) error {
		if err == nil {
			return nil
		}
		var declined *reconcile.Declined
		says := hidden(err.Error(), used)
		switch {
		case says == err.Error():
			return err
		case errors.As(err, &declined):
			return &reconcile.Declined{Why: says}
		}
		return errors.New(says)
	}
	return &l, hide, nil
}

// hidden takes secrets out of a text, in every form in which programs write what
// they were given: plain, quoted, and encoded for addresses, headers and JSON.
func hidden(text string, secrets map[string]string) string {
	for secret, ref := range secrets {
		for _, form := range formsOf(secret) {
			text = replaceFold(text, form, ref)
		}
	}
	return text
}

func formsOf(secret string) []string {
	quoted := strconv.Quote(secret)
	inJSON, _ := json.Marshal(secret) // a string always marshals
	forms := []string{secret, quoted[1 : len(quoted)-1], string(inJSON[1 : len(inJSON)-1]), url.QueryEscape(secret), url.PathEscape(secret), url.User(secret).String(),
		(&url.URL{Path: "/" + secret}).EscapedPath()[1:], (&url.URL{Fragment: secret}).EscapedFragment(), allPercent(secret), html.EscapeString(secret),
		base64.StdEncoding.EncodeToString([]byte(secret)), base64.URLEncoding.EncodeToString([]byte(secret)), base64.RawURLEncoding.EncodeToString([]byte(secret))}
	slices.SortFunc(forms, func(a, b string) int { return len(b) - len(a) }) // a form within another is replaced after it
	return slices.Compact(forms)
}

// allPercent writes every byte in percent encoding.
func allPercent(s string) string {
	var b strings.Builder
	for i := range len(s) {
		fmt.Fprintf(&b, "%%%02X", s[i])
	}
	return b.String()
}

// replaceFold replaces a text whatever its letter case: percent encoding is
// written both ways.
func replaceFold(text, form, by string) string {
	if form == "" {
		return text
	}
	return regexp.MustCompile("(?i)"+regexp.QuoteMeta(form)).ReplaceAllLiteralString(text, by)
}

// Folder is the folder of the workspace in which the files of lists lie.
const Folder = "lists"

// place gives the path of a file that a list names: one of the workspace's folder
// lists, or of a folder that the service was told of. Links that lead out of
// these are refused, and so are the workspace's own files.
func (c *Connectors) place(name string) (string, error) {
	refused := fmt.Errorf("%q is not a file that lists may read: put it into the folder %s of the workspace and write %s/NAME, or start the service with --list-folder", name, Folder, Folder)
	full := filepath.FromSlash(name)
	roots := c.Folders
	if !filepath.IsAbs(full) {
		if !filepath.IsLocal(full) {
			return "", refused
		}
		full, roots = filepath.Join(c.Dir, full), []string{filepath.Join(c.Dir, Folder)}
	}
	full = filepath.Clean(full)
	if !slices.ContainsFunc(roots, func(root string) bool { return within(root, full) }) {
		return "", refused
	}
	info, err := os.Stat(full)
	if errors.Is(err, fs.ErrNotExist) {
		return "", fmt.Errorf("%s is not there: its path is counted from the workspace's folder", name)
	}
	if err != nil {
		return "", err
	}
	meant, err := filepath.EvalSymlinks(full)
	if err != nil {
		return "", err
	}
	if !info.Mode().IsRegular() || !slices.ContainsFunc(roots, func(root string) bool { return within(real(root), meant) }) || c.own(info, meant) {
		return "", refused
	}
	return meant, nil
}

// own reports whether a file is one of the workspace's own, by whatever name.
func (c *Connectors) own(info fs.FileInfo, meant string) bool {
	dir := real(c.Dir)
	if within(dir, meant) && !within(filepath.Join(dir, Folder), meant) {
		return true
	}
	entries, err := os.ReadDir(dir)
	if err != nil {
		return true
	}
	return slices.ContainsFunc(entries, func(e fs.DirEntry) bool {
		other, err := e.Info()
		return err == nil && os.SameFile(info, other)
	})
}

func within(root, path string) bool {
	rel, err := filepath.Rel(root, path)
	return err == nil && rel != "." && filepath.IsLocal(rel)
}

// real follows links where it can.
func real(path string) string {
	if meant, err := filepath.EvalSymlinks(path); err == nil {
		path = meant
	}
	if full, err := filepath.Abs(path); err == nil {
		path = full
	}
	return path
}

// at gives what a pointer leads to as text, or "".
func at(doc any, pointer string) string {
	if pointer == "" {
		return ""
	}
	v, err := reconcile.Pointer(doc, pointer)
	if err != nil || v == nil {
		return ""
	}
	return fmt.Sprint(v)
}

// entry makes an entry of a decoded record.
func entry(l *reconcile.List, doc any, where string) reconcile.Entry {
	e := reconcile.Entry{Doc: doc, ID: at(doc, l.ID), Version: at(doc, l.Version), Where: where}
	if l.Changed != "" {
		e.Changed = readTime(at(doc, l.Changed))
	}
	return e
}

// readTime reads a time as lists write them; zero where it is none.
func readTime(text string) time.Time {
	for _, layout := range []string{time.RFC3339Nano, "2006-01-02T15:04:05", "2006-01-02 15:04:05", "2006-01-02T15:04", time.DateOnly} {
		if t, err := time.Parse(layout, text); err == nil {
			return t
		}
	}
	return time.Time{}
}
