package lists

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"example.org/kavlo/internal/reconcile"
)

// sendHTTP makes one write over HTTP: an add with the fields there are, a change
// with the changed ones (PATCH, as RFC 7396 merges) or with the whole record
// (PUT), a removal without a body. A version that the list gave must still hold
// (If-Match); an Idempotency-Key lets the list know a write that is tried again.
func (c *Connectors) sendHTTP(ctx context.Context, l *reconcile.List, w *reconcile.Write) (reconcile.Written, error) {
	call := map[reconcile.Kind]string{reconcile.AddToList: l.Send.Add, reconcile.Update: l.Send.Change, reconcile.GoneTab: l.Send.Remove}[w.Kind]
	method, target, _ := strings.Cut(call, " ")
	base, err := url.Parse(l.HTTP)
	if err != nil {
		return reconcile.Written{}, err
	}
	to, err := base.Parse(strings.ReplaceAll(strings.TrimSpace(target), "{id}", url.PathEscape(w.ID)))
	if err != nil {
		return reconcile.Written{}, fmt.Errorf("the address of the write: %w", err)
	}
	header := http.Header{"Accept": {"application/json"}, "Idempotency-Key": {w.Once}}
	var body []byte
	if w.Kind != reconcile.GoneTab {
		doc := map[string]any{}
		header.Set("Content-Type", "application/json")
		switch {
		case method == http.MethodPatch:
			header.Set("Content-Type", "application/merge-patch+json")
		case w.Entry != nil:
			if doc, err = copyDoc(w.Entry); err != nil {
				return reconcile.Written{}, err
			}
		}
		for pointer, v := range w.Fields {
			setAt(doc, pointer, v)
		}
		if body, err = json.Marshal(doc); err != nil {
			return reconcile.Written{}, err
		}
	}
	if w.Version != "" && w.Kind != reconcile.AddToList {
		header.Set("If-Match", etag(w.Version))
	}
	a, err := c.call(ctx, l, method, to.String(), header, body)
	if err != nil {
		return reconcile.Written{}, err
	}
	switch {
	case a.status == http.StatusPreconditionFailed:
		return reconcile.Written{}, &reconcile.Declined{Why: "the record was changed in the list meanwhile: the next sync looks at it again"}
	case w.Kind == reconcile.GoneTab && (a.status == http.StatusNotFound || a.status == http.StatusGone):
		return reconcile.Written{}, nil
	case a.status == http.StatusUnauthorized || a.status == http.StatusForbidden:
		return reconcile.Written{}, fmt.Errorf("it answered %s: is the token or account right?", statusText(a.status))
	case a.status >= 300:
		return reconcile.Written{}, &reconcile.Declined{Why: "it answered " + statusText(a.status) + excerpt(a.body)}
	}
	var doc any
	if !json.Valid(a.body) || l.ID == "" {
		return reconcile.Written{}, nil
	}
	err = json.Unmarshal(a.body, &doc)
	return reconcile.Written{ID: at(doc, l.ID)}, err
}

// etag writes a version as an entity tag.
func etag(version string) string {
	if strings.HasPrefix(version, `"`) || strings.HasPrefix(version, "W/") {
		return version
	}
	return `"` + version + `"`
}

// excerpt gives the beginning of an answer that says why.
func excerpt(body []byte) string {
	var p struct{ Detail, Title, Error, Message string }
	if json.Unmarshal(body, &p) == nil {
		for _, s := range []string{p.Detail, p.Message, p.Error, p.Title} {
			if s != "" {
				return ": " + clip(s)
			}
		}
		return ""
	}
	if s := strings.TrimSpace(string(body)); s != "" && !strings.HasPrefix(s, "<") {
		return ": " + clip(s)
	}
	return ""
}

func clip(s string) string {
	if r := []rune(s); len(r) > 200 {
		return string(r[:200]) + "…"
	}
	return s
}

func copyDoc(doc any) (map[string]any, error) {
	text, err := json.Marshal(doc)
	if err != nil {
		return nil, err
	}
	out := map[string]any{}
	d := json.NewDecoder(strings.NewReader(string(text)))
	d.UseNumber()
	return out, d.Decode(&out)
}

// setAt puts a value where a JSON Pointer leads, making objects on the way.
func setAt(doc map[string]any, pointer string, v any) {
	steps := strings.Split(strings.TrimPrefix(pointer, "/"), "/")
	for i, step := range steps {
		step = strings.NewReplacer("~1", "/", "~0", "~").Replace(step)
		if i == len(steps)-1 {
			doc[step] = v
			return
		}
		inner, ok := doc[step].(map[string]any)
		if !ok {
			inner = map[string]any{}
			doc[step] = inner
		}
		doc = inner
	}
}
