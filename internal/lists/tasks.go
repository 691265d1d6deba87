package lists

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/emersion/go-ical"
	"github.com/emersion/go-webdav"
	"github.com/emersion/go-webdav/caldav"

	"example.org/kavlo/internal/reconcile"
)

// Task lists are collections of VTODO (RFC 5545) reached by CalDAV (RFC 4791).

// taskTexts pairs fields with the properties that hold them as text.
var taskTexts = map[string]string{"uid": ical.PropUID, "title": ical.PropSummary, "notes": ical.PropDescription, "status": ical.PropStatus, "priority": ical.PropPriority, "place": ical.PropLocation}

// taskTimes pairs fields with the properties that hold them as dates or times.
var taskTimes = map[string]string{"start": ical.PropDateTimeStart, "due": ical.PropDue, "changed": ical.PropLastModified}

type signedIn struct {
	c *Connectors
	l *reconcile.List
}

// Do makes a call of the CalDAV client as the list's account.
func (s signedIn) Do(req *http.Request) (*http.Response, error) {
	switch {
	case s.l.Token != "":
		req.Header.Set("Authorization", "Bearer "+s.l.Token)
	case s.l.Name != "":
		req.SetBasicAuth(s.l.Name, s.l.Password)
	}
	return s.c.http().Do(req)
}

var _ webdav.HTTPClient = signedIn{}

func (c *Connectors) fetchTasks(ctx context.Context, l *reconcile.List) ([]reconcile.Entry, error) {
	u, err := url.Parse(l.Tasks)
	if err != nil {
		return nil, err
	}
	client, err := caldav.NewClient(signedIn{c, l}, l.Tasks)
	if err != nil {
		return nil, err
	}
	objects, err := client.QueryCalendar(ctx, u.Path, &caldav.CalendarQuery{
		CompRequest: caldav.CalendarCompRequest{Name: "VCALENDAR", AllProps: true, AllComps: true},
		CompFilter:  caldav.CompFilter{Name: "VCALENDAR", Comps: []caldav.CompFilter{{Name: "VTODO"}}},
	})
	if err != nil {
		return nil, fmt.Errorf("the task list %s: %w", l.Tasks, err)
	}
	var out []reconcile.Entry
	for _, o := range objects {
		todo := todoOf(o.Data)
		if todo == nil {
			continue
		}
		doc := taskDoc(todo)
		e := reconcile.Entry{Doc: doc, ID: o.Path, Version: o.ETag, Where: fmt.Sprintf("task %q", doc["title"])}
		if text, ok := doc["changed"].(string); ok {
			e.Changed = readTime(text)
		}
		out = append(out, e)
	}
	return out, nil
}

func todoOf(cal *ical.Calendar) *ical.Component {
	if cal != nil {
		for _, child := range cal.Children {
			if child.Name == ical.CompToDo {
				return child
			}
		}
	}
	return nil
}

// taskDoc gives a task as a record.
func taskDoc(todo *ical.Component) map[string]any {
	doc := map[string]any{}
	for field, prop := range taskTexts {
		p := todo.Props.Get(prop)
		if p == nil {
			continue
		}
		if doc[field] = p.Value; prop != ical.PropPriority {
			if text, err := p.Text(); err == nil {
				doc[field] = text
			}
		}
	}
	for field, prop := range taskTimes {
		if p := todo.Props.Get(prop); p != nil {
			doc[field] = taskTime(p)
		}
	}
	doc["done"] = doc["status"] == "COMPLETED"
	return doc
}

// taskTime gives a date, or a time of its own zone's wall clock; what is
// neither stays as written.
func taskTime(p *ical.Prop) string {
	t, err := p.DateTime(time.UTC)
	if err != nil {
		return p.Value
	}
	if p.ValueType() == ical.ValueDate || len(p.Value) == len("20060102") {
		return t.Format(time.DateOnly)
	}
	return t.Format("2006-01-02T15:04:05")
}

func (c *Connectors) sendTask(ctx context.Context, l *reconcile.List, w *reconcile.Write) (reconcile.Written, error) {
	collection, err := url.Parse(strings.TrimRight(l.Tasks, "/") + "/")
	if err != nil {
		return reconcile.Written{}, err
	}
	switch w.Kind {
	case reconcile.GoneTab:
		at, err := collection.Parse(w.ID)
		if err != nil {
			return reconcile.Written{}, err
		}
		a, err := c.call(ctx, l, http.MethodDelete, at.String(), ifMatch(w.Version), nil)
		if err != nil || a.status == http.StatusNotFound || a.status == http.StatusGone {
			return reconcile.Written{}, err
		}
		return reconcile.Written{}, declinedBy(a)
	case reconcile.AddToList:
		cal := ical.NewCalendar()
		cal.Props.SetText(ical.PropVersion, "2.0")
		cal.Props.SetText(ical.PropProductID, "-//example.org//Kavlo//EN")
		todo := ical.NewComponent(ical.CompToDo)
		cal.Children = append(cal.Children, todo)
		uid, _ := w.Fields["uid"].(string)
		if uid == "" {
			uid = w.Once
			todo.Props.SetText(ical.PropUID, uid)
		}
		at := collection.JoinPath(url.PathEscape(strings.ReplaceAll(uid, "/", "-")) + ".ics")
		a, err := c.putTask(ctx, l, at.String(), cal, todo, w.Fields, http.Header{"If-None-Match": {"*"}})
		if err != nil {
			return reconcile.Written{}, err
		}
		if a.status == http.StatusPreconditionFailed { // it is there from a try whose answer was lost
			return reconcile.Written{ID: at.Path}, nil
		}
		return reconcile.Written{ID: at.Path}, declinedBy(a)
	}
	at, err := collection.Parse(w.ID)
	if err != nil {
		return reconcile.Written{}, err
	}
	a, err := c.call(ctx, l, http.MethodGet, at.String(), nil, nil)
	if err != nil {
		return reconcile.Written{}, err
	}
	if a.status != http.StatusOK {
		return reconcile.Written{}, declinedBy(a)
	}
	cal, err := ical.NewDecoder(bytes.NewReader(a.body)).Decode()
	todo := todoOf(cal)
	if err != nil || todo == nil {
		return reconcile.Written{}, &reconcile.Declined{Why: "what stands there is not a task"}
	}
	if a, err = c.putTask(ctx, l, at.String(), cal, todo, w.Fields, ifMatch(w.Version)); err != nil {
		return reconcile.Written{}, err
	}
	return reconcile.Written{}, declinedBy(a)
}

func ifMatch(version string) http.Header {
	if version == "" {
		return nil
	}
	return http.Header{"If-Match": {etag(version)}}
}

func declinedBy(a *answer) error {
	switch {
	case a.status == http.StatusPreconditionFailed:
		return &reconcile.Declined{Why: "the task was changed in the list meanwhile: the next sync looks at it again"}
	case a.status >= 300:
		return &reconcile.Declined{Why: "it answered " + statusText(a.status) + excerpt(a.body)}
	}
	return nil
}

// putTask writes a task with its fields set.
func (c *Connectors) putTask(ctx context.Context, l *reconcile.List, at string, cal *ical.Calendar, todo *ical.Component, fields map[string]any, header http.Header) (*answer, error) {
	for field, v := range fields {
		setTask(todo, strings.TrimPrefix(field, "/"), v)
	}
	now := time.Now().UTC()
	todo.Props.SetDateTime(ical.PropDateTimeStamp, now)
	todo.Props.SetDateTime(ical.PropLastModified, now)
	var body bytes.Buffer
	if err := ical.NewEncoder(&body).Encode(cal); err != nil {
		return nil, &reconcile.Declined{Why: "it makes no task: " + err.Error()}
	}
	if header == nil {
		header = http.Header{}
	}
	header.Set("Content-Type", "text/calendar; charset=utf-8")
	return c.call(ctx, l, http.MethodPut, at, header, body.Bytes())
}

// setTask sets one field of a task; nothing takes it away.
func setTask(todo *ical.Component, field string, v any) {
	text := ""
	switch x := v.(type) {
	case string:
		text = x
	case json.Number:
		text = x.String()
	case bool:
		if field == "done" {
			setDone(todo, x)
			return
		}
	}
	if prop, isTime := taskTimes[field]; isTime {
		setTime(todo, prop, text)
		return
	}
	prop, known := taskTexts[field]
	switch {
	case !known:
	case text == "":
		todo.Props.Del(prop)
	case prop == ical.PropPriority:
		p := ical.NewProp(prop)
		p.Value = text
		todo.Props.Set(p)
	default:
		todo.Props.SetText(prop, text)
	}
}

func setTime(todo *ical.Component, prop, text string) {
	switch t := readTime(text); {
	case text == "" || t.IsZero():
		todo.Props.Del(prop)
	case len(text) == len(time.DateOnly):
		todo.Props.SetDate(prop, t)
	default: // a wall clock without a zone, as the tracker has it
		p := ical.NewProp(prop)
		p.Value = t.Format("20060102T150405")
		todo.Props.Set(p)
	}
}

func setDone(todo *ical.Component, done bool) {
	percent := ical.NewProp(ical.PropPercentComplete)
	if percent.Value = "0"; done {
		percent.Value = "100"
		todo.Props.SetText(ical.PropStatus, "COMPLETED")
		todo.Props.SetDateTime(ical.PropCompleted, time.Now().UTC())
	} else {
		todo.Props.SetText(ical.PropStatus, "NEEDS-ACTION")
		todo.Props.Del(ical.PropCompleted)
	}
	todo.Props.Set(percent)
}
