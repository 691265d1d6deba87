// Package lists reaches lists kept elsewhere: it gets their records and writes
// them back. It implements desk.Lists.
//
// lists.go picks the connector and puts secrets in; reach.go holds every
// connection to the addresses that the workspace allows; http.go and send.go
// speak JSON over HTTP, file.go reads files, tasks.go speaks CalDAV, sql.go asks
// databases.
package lists

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"time"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/setup"
)

// Limits on what a list may send.
const (
	MaxPages   = 1000
	MaxPage    = 32 << 20 // bytes of a page or of an answer
	MaxFile    = 64 << 20 // bytes of a file
	MaxRecords = 1_000_000
	callTime   = 30 * time.Second
)

// Connectors reaches lists.
type Connectors struct {
	Dir string // the workspace's folder; files lie in it
	// Secret gives what ${NAME} stands for; nil: nothing is known.
	Secret func(ctx context.Context, name string) (string, error)
	// Reach gives the addresses that may be reached; nil: any.
	Reach func(ctx context.Context) ([]string, error)
	// Pause is the first wait before a call is made again; 0: half a second.
	Pause time.Duration

	once   sync.Once
	client *http.Client
	pages  pageCache

	mu      sync.Mutex
	allowed []string // what could be reached when it was last asked
}

// Fetch gives every record of a list. A list is had whole or not at all.
func (c *Connectors) Fetch(ctx context.Context, list *setup.List) ([]reconcile.Entry, error) {
	l, hide, err := c.open(ctx, list)
	if err != nil {
		return nil, err
	}
	var out []reconcile.Entry
	switch {
	case l.HTTP != "":
		out, err = c.fetchHTTP(ctx, l)
	case l.File != "":
		out, err = c.fetchFile(ctx, l)
	case l.Tasks != "":
		out, err = c.fetchTasks(ctx, l)
	default:
		out, err = c.fetchSQL(ctx, l)
	}
	return out, hide(err)
}

// Send makes one write. Trying the same write again does it once where the
// list's protocol allows.
func (c *Connectors) Send(ctx context.Context, list *setup.List, w *reconcile.Write) (reconcile.Written, error) {
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
func (c *Connectors) open(ctx context.Context, list *setup.List) (*setup.List, func(error) error, error) {
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
			used[v] = ref
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
		says := err.Error()
		for secret, ref := range used {
			says = strings.ReplaceAll(says, secret, ref)
		}
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

// inside gives the path of a file of the workspace, and refuses others.
func (c *Connectors) inside(path string) (string, error) {
	if !filepath.IsLocal(filepath.FromSlash(path)) {
		return "", fmt.Errorf("%q does not lie in the workspace's folder: put it there and name it from there", path)
	}
	return filepath.Join(c.Dir, filepath.FromSlash(path)), nil
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
func entry(l *setup.List, doc any, where string) reconcile.Entry {
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
