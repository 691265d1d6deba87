package api

import (
	"bytes"
	"crypto/sha256"
	"errors"
	"fmt"
	"html/template"
	"io"
	"mime"
	"net/http"
	"strings"
	"time"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/formats/ics"
	"example.org/kavlo/internal/notify"
)

// The pages to which links of mails lead. Looking at one changes nothing, since
// programs that look through mail open every link; only the button does.

var actPage = template.Must(template.New("act").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><meta name="robots" content="noindex"><title>{{.Title}}</title>
<style>
:root { color-scheme: light dark }
body { margin: 12vh auto; max-width: 30rem; padding: 0 1.2rem; font: 17px/1.55 Georgia, "Times New Roman", serif; background: #FBFAF6; color: #1F2A37 }
h1 { font-size: 1.35rem; line-height: 1.3; margin: 0 0 .4rem; padding-bottom: .5rem; border-bottom: 3px solid #1D6B5C }
p { margin: .7rem 0 } .quiet { color: #566070; font-size: .88rem }
label { display: block; margin: .9rem 0 .2rem; font-weight: bold }
input, button { font: inherit; padding: .35rem .7rem; border-radius: 4px }
input { border: 1px solid #8b93a0; background: #fff; color: inherit }
button { margin-top: 1rem; border: 1px solid #1D6B5C; background: #1D6B5C; color: #fff; cursor: pointer }
.wrong { color: #B23A2E; font-weight: bold }
@media (prefers-color-scheme: dark) { body { background: #171C22; color: #E9E6DC } .quiet { color: #A9B0B8 } input { background: #1F262E } .wrong { color: #F08B7E } h1 { border-color: #66BBA7 } }
</style></head><body><h1>{{.Title}}</h1>
{{if .Says}}<p>{{.Says}}</p>{{end}}{{if .Wrong}}<p class="wrong" role="alert">{{.Wrong}}</p>{{end}}
{{if .Button}}<form method="post">{{if .Ask}}<label for="date">{{.Ask}}</label><input id="date" type="date" name="date" required value="{{.Date}}" min="{{.Least}}">{{end}}{{if .Again}}<input type="hidden" name="again" value="yes">{{end}}
<div><button>{{.Button}}</button></div></form>{{end}}
{{if .Note}}<p class="quiet">{{.Note}}</p>{{end}}</body></html>`))

type actView struct {
	Title, Says, Wrong, Button, Ask, Date, Least, Note string
	Again                                              bool
}

// lookAtAct serves the page of a link in a mail.
func (s *server) lookAtAct(w http.ResponseWriter, r *http.Request) {
	d, err := s.workspace.Doing(r.Context(), r.PathValue("token"))
	if err != nil {
		s.actFailed(w, r, err)
		return
	}
	writeAct(w, http.StatusOK, asking(d))
}

// act does what the button of that page says.
func (s *server) act(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 1<<16)
	token, date := r.PathValue("token"), r.PostFormValue("date")
	d, err := s.workspace.Do(r.Context(), token, date, r.PostFormValue("again") == "yes")
	if err == nil {
		writeAct(w, http.StatusOK, done(d, date))
		return
	}
	before, again := s.workspace.Doing(r.Context(), token)
	if again != nil {
		s.actFailed(w, r, err)
		return
	}
	v := asking(before)
	v.Wrong = err.Error()
	writeAct(w, http.StatusUnprocessableEntity, v)
}

// feed serves a person's calendar of due dates.
func (s *server) feed(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	secret, isFeed := strings.CutSuffix(r.PathValue("secret"), ".ics")
	name, entries, err := s.workspace.Feed(ctx, secret)
	if !isFeed || errors.Is(err, access.ErrNoAccess) {
		writePlain(w, http.StatusNotFound, "Calendar not found.\n")
		return
	}
	if err != nil {
		writePlain(w, s.problem(ctx, err).Status, "The calendar cannot be made now.\n")
		return
	}
	var text bytes.Buffer
	if err := ics.Write(&text, name, entries); err != nil {
		s.Log.ErrorContext(ctx, "a calendar could not be written", "err", err)
		writePlain(w, http.StatusInternalServerError, "The calendar cannot be made now.\n")
		return
	}
	h, sum := w.Header(), sha256.Sum256(text.Bytes())
	h.Set("Content-Type", "text/calendar; charset=utf-8")
	h.Set("Content-Disposition", mime.FormatMediaType("inline", map[string]string{"filename": name + ".ics"}))
	h.Set("Cache-Control", "private, max-age=300")
	h.Set("ETag", fmt.Sprintf(`"%x"`, sum[:16]))
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(text.Bytes()))
}

func writePlain(w http.ResponseWriter, status int, says string) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.WriteHeader(status)
	_, _ = io.WriteString(w, says) // the reader may be gone
}

func (s *server) actFailed(w http.ResponseWriter, r *http.Request, err error) {
	if !errors.Is(err, notify.ErrLink) {
		p := s.problem(r.Context(), err)
		writeAct(w, p.Status, actView{Title: p.Title, Says: p.Detail})
		return
	}
	if r.PathValue("token") == notify.NoLink {
		writeAct(w, http.StatusNotFound, actView{Title: "This link is for the mail's recipient alone", Says: "It works in the mail itself. Where others look at the mail, its links do nothing."})
		return
	}
	writeAct(w, http.StatusNotFound, actView{Title: "This link is invalid or expired", Says: "The next email brings new links."})
}

func writeAct(w http.ResponseWriter, status int, v actView) {
	for k, h := range map[string]string{"Content-Type": "text/html; charset=utf-8", "Cache-Control": "no-store", "Referrer-Policy": "no-referrer", "X-Robots-Tag": "noindex", "X-Frame-Options": "DENY",
		"Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'"} {
		w.Header().Set(k, h)
	}
	w.WriteHeader(status)
	_ = actPage.Execute(w, v) // the reader may be gone
}

// asking lays out what is to be confirmed.
func asking(d *notify.Doing) actView {
	v := actView{Note: "You are " + d.Name + ". The row's history will say that you did it, by mail; it can be undone."}
	if d.What == "pause" {
		v = actView{Title: "Pause these emails?", Says: "You will get no more emails until you resume them on this page.", Button: "Pause my emails", Note: "You are " + d.Name + "."}
		if d.Paused {
			v.Title, v.Says, v.Button, v.Again = "Your emails are paused", "Nothing is sent to you for now.", "Resume emails", true
		}
		return v
	}
	if d.Over != "" {
		return actView{Title: titled(d), Says: d.Over}
	}
	v.Says = d.Reminder + ", in " + d.Tab + "."
	switch d.What {
	case "done":
		v.Title, v.Button = "Mark "+d.Label+" done?", "Mark done"
	case "later":
		v.Title, v.Ask, v.Button = "Postpone "+d.Label+"?", "Remind me again on", "Postpone"
		v.Note = "You are " + d.Name + ". Only your own emails leave the row out, until that day or until its due day, state or person changes."
		v.Least, v.Date = dayAfter(d.Today, 1), dayAfter(d.Today, 7)
	case "date":
		v.Title, v.Ask, v.Button = "Change the date of "+d.Label+"?", d.Column, "Set the date"
		v.Date = dayAfter(d.Today, 7)
	}
	return v
}

// done says what has been done.
func done(d *notify.Doing, date string) actView {
	switch {
	case d.What == "pause" && d.Paused:
		v := asking(d)
		v.Title = "Paused"
		return v
	case d.What == "pause":
		return actView{Title: "Emails resumed", Says: "The next email comes when rows need your attention."}
	case d.Over != "":
		return actView{Title: titled(d), Says: d.Over}
	}
	says := map[string]string{"done": "Marked done.", "later": "Postponed until " + date + ".", "date": d.Column + " is " + date + " now."}[d.What]
	note := "The row's history says that " + d.Name + " did it, by mail. You can close this page."
	if d.What == "later" {
		note = "Only your own emails leave it out. You can close this page."
	}
	return actView{Title: d.Label, Says: says, Note: note}
}

func titled(d *notify.Doing) string {
	if d.Label == "" {
		return "Nothing to do here"
	}
	return d.Label
}

func dayAfter(day string, n int) string {
	t, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return ""
	}
	return t.AddDate(0, 0, n).Format(time.DateOnly)
}
