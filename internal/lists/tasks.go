package lists

import (
	"bytes"
	"context"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"example.org/kavlo/internal/reconcile"
)

// Task lists are collections of VTODO (RFC 5545) reached by CalDAV (RFC 4791).

// taskTexts pairs fields with the properties that hold them as text.
var taskTexts = map[string]string{"uid": ical.PropUID, "title": ical.PropSummary, "notes": ical.PropDescription, "status": ical.PropStatus, "priority": ical.PropPriority, "place": ical.PropLocation}

// taskTimes pairs fields with the properties that hold them as dates or times.
var taskTimes = map[string]string{"start": ical.PropDateTimeStart, "due": ical.PropDue, "changed": ical.PropLastModified}

// allTasks asks for the whole of every task. It is the plain form, which every server
// understands, and the CalDAV library cannot write.
const allTasks = `<?xml version="1.0" encoding="utf-8"?>
<c:calendar-query xmlns:d="DAV:" xmlns:c="urn:ietf:params:xml:ns:caldav"><d:prop><d:getetag/><c:calendar-data/></d:prop>` +
	`<c:filter><c:comp-filter name="VCALENDAR"><c:comp-filter name="VTODO"/></c:comp-filter></c:filter></c:calendar-query>`

// found is what a server answers of each task (RFC 4918, 13).
type found struct {
	Tasks []struct {
		Href   string `xml:"href"`
		Status string `xml:"status"`
		Props  []struct {
			Status string `xml:"status"`
			ETag   string `xml:"prop>getetag"`
			Data   string `xml:"prop>calendar-data"`
		} `xml:"propstat"`
	} `xml:"response"`
}

func (c *Connectors) fetchTasks(ctx context.Context, l *reconcile.List) ([]reconcile.Entry, error) {
	at, err := url.Parse(l.Tasks)
	if err != nil {
		return nil, err
	}
	a, err := c.call(ctx, l, "REPORT", l.Tasks, http.Header{"Depth": {"1"}, "Content-Type": {"application/xml; charset=utf-8"}}, []byte(allTasks))
	if err != nil {
		return nil, fmt.Errorf("the task list %s: %w", l.Tasks, err)
	}
	if a.status != http.StatusMultiStatus {
		return nil, fmt.Errorf("the task list %s: it answered %s%s", l.Tasks, statusText(a.status), excerpt(a.body))
	}
	var all found
	if err := xml.Unmarshal(a.body, &all); err != nil {
		return nil, fmt.Errorf("the task list %s: its answer is not what a CalDAV server says: %w", l.Tasks, err)
	}
	var out []reconcile.Entry
	for _, o := range all.Tasks {
		for _, p := range o.Props {
			if p.Data == "" {
				continue
			}
			cal, err := ical.NewDecoder(strings.NewReader(p.Data)).Decode()
			if err != nil {
				return nil, fmt.Errorf("the task list %s: %s cannot be read: %w", l.Tasks, o.Href, err)
			}
			todo := todoOf(cal)
			if todo == nil {
				continue
			}
			href, err := at.Parse(o.Href)
			if err != nil {
				return nil, fmt.Errorf("the task list %s: %w", l.Tasks, err)
			}
			doc := taskDoc(todo, l.Clock())
			e := reconcile.Entry{Doc: doc, ID: href.Path, Version: unquoted(p.ETag), Where: fmt.Sprintf("task %q", doc["title"])}
			if changed := todo.Props.Get(ical.PropLastModified); changed != nil {
				e.Changed, _ = moment(changed)
			}
			out = append(out, e)
		}
	}
	return out, nil
}

// unquoted gives an ETag without its quotation marks; a weak one stays as it is.
func unquoted(etag string) string {
	if len(etag) > 1 && etag[0] == '"' && etag[len(etag)-1] == '"' {
		return etag[1 : len(etag)-1]
	}
	return etag
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
func taskDoc(todo *ical.Component, zone *time.Location) map[string]any {
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
			doc[field] = taskTime(p, zone)
		}
	}
	doc["done"] = isDone(todo)
	return doc
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
		setTask(todo, strings.TrimPrefix(field, "/"), v, l.Clock())
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
func setTask(todo *ical.Component, field string, v any, zone *time.Location) {
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
		setTime(todo, prop, text, zone)
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

// isDone reports whether a task is done, in whichever way a program says so.
func isDone(todo *ical.Component) bool {
	if p := todo.Props.Get(ical.PropStatus); p != nil {
		return strings.EqualFold(p.Value, "COMPLETED")
	}
	if todo.Props.Get(ical.PropCompleted) != nil {
		return true
	}
	p := todo.Props.Get(ical.PropPercentComplete)
	return p != nil && p.Value == "100"
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
