package api

import (
	"bytes"
	"image"
	"image/png"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/attach"
	"example.org/kavlo/internal/wire"
)

const damage = `
tracker: Damage
zone: UTC
tabs:
  Reports: { columns: { What: { type: text }, Photo: { type: file }, Estimate: { type: file } } }
  Open:    { columns: { What: { type: text } } }
forms:
  - { name: Report, tab: Reports, fields: [ { What: { required: yes } }, { Photo: A picture } ], filled in by: [reader@example.org] }
access: { tabs: { Reports: { see: [keepers] } } }
`

func damageRig(t *testing.T) (r *rig, secret string) {
	r = newRig(t)
	require.Equal(t, 200, r.call("keeper", "POST", "/setup", wire.Setup{Text: damage}).StatusCode)
	var link wire.Secret
	r.call("keeper", "POST", "/trackers/Damage/forms/Report/links", wire.NewLink{}).into(t, &link)
	return r, link.Secret
}

func picture(t *testing.T) string {
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, image.NewGray(image.Rect(0, 0, 3, 3))))
	return out.String()
}

func (r *rig) attached(a answer) wire.Attached {
	r.t.Helper()
	require.Equal(r.t, 200, a.StatusCode, string(a.body))
	var file wire.Attached
	a.into(r.t, &file)
	return file
}

const byLink = "/forms/attachments?field=Photo&name="

// A file that is uploaded by a form belongs to its entry: it is had by those who see the
// column once the entry has come, and by nobody before.
func TestAFormTakesFiles(t *testing.T) {
	r, secret := damageRig(t)
	file := r.attached(r.upload("", byLink+url.QueryEscape(`C:\shots\<crack> "1".png`), picture(t), linkHeader, secret))
	assert.Equal(t, "crack 1.png", file.Name)
	at := "/attachments/" + attach.ID(file.Value)
	assert.Equal(t, 404, r.call("keeper", "GET", at, nil).StatusCode, "no entry has it yet")
	entry := wire.ByLink{Secret: secret, Key: "k", Cells: map[string]any{"What": "A crack", "Photo": file.Value}}
	for range 2 { // as when the first answer is lost
		a := r.call("", "POST", "/forms/entries", entry)
		require.Equal(t, 200, a.StatusCode, string(a.body))
	}
	var rows wire.Rows
	r.call("keeper", "GET", "/trackers/Damage/tabs/Reports/rows", nil).into(t, &rows)
	require.Len(t, rows.Rows, 1)
	assert.Equal(t, file.Value, rows.Rows[0].Cells["Photo"])
	a := r.call("keeper", "GET", at, nil)
	assert.Equal(t, picture(t), string(a.body))
	assert.Equal(t, "image/png", a.Header.Get("Content-Type"))
	assert.Equal(t, `attachment; filename="crack 1.png"`, a.Header.Get("Content-Disposition"))
	for _, who := range []string{"reader", "editor"} {
		assert.Equal(t, 404, r.call(who, "GET", at, nil).StatusCode, "the tab is hidden from them")
	}
	assert.Equal(t, 401, r.call("", "GET", at, nil, linkHeader, secret).StatusCode)
	for text, photo := range map[string]any{"used before": file.Value, "no file of Kavlo's": "x <https://example.org/x.png>", "of nobody": attach.Address + "abc"} {
		a := r.call("", "POST", "/forms/entries", wire.ByLink{Secret: secret, Key: "k" + text, Cells: map[string]any{"What": "Again", "Photo": photo}})
		assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode, text)
		p := a.problem(t)
		assert.Equal(t, "Photo", p.Field, text)
		assert.Contains(t, p.Hint, "choose the file anew", text)
	}
}

// Whoever has no open link, or sends what is too large, has nothing taken in.
func TestWhatAFormDoesNotTakeIsRefusedBeforeItComes(t *testing.T) {
	r, secret := damageRig(t)
	big := strings.Repeat("x", attach.MaxSize+1)
	for name, got := range map[string]struct {
		status int
		a      answer
	}{
		"no link":         {404, r.upload("", byLink+"x.png", "x", linkHeader, "guess")},
		"no header":       {404, r.upload("", byLink+"x.png", "x")},
		"too large":       {413, r.upload("", byLink+"x.png", big, linkHeader, secret)},
		"large, editor":   {413, r.upload("keeper", "/trackers/Damage/tabs/Reports/columns/Photo/attachments?name=x", big)},
		"empty":           {422, r.upload("", byLink+"x.png", "", linkHeader, secret)},
		"another field":   {404, r.upload("", "/forms/attachments?field=Estimate&name=x.png", "x", linkHeader, secret)},
		"no file's field": {422, r.upload("", "/forms/attachments?field=What&name=x.png", "x", linkHeader, secret)},
		"hidden":          {404, r.upload("editor", "/trackers/Damage/tabs/Reports/columns/Photo/attachments?name=x", "x")},
		"reader":          {403, r.upload("reader", "/trackers/Damage/tabs/Open/columns/What/attachments?name=x", "x")},
	} {
		assert.Equal(t, got.status, got.a.StatusCode, "%s: %s", name, got.a.body)
	}
	many := 0
	for range 200 { // thrice what a form takes an hour, a third of that at once
		if a := r.upload("", byLink+"x.txt", "x", linkHeader, secret); a.StatusCode == http.StatusTooManyRequests {
			break
		}
		many++
	}
	assert.Less(t, many, 100)
	require.NoError(t, r.workspace.Attachments.Sweep(t.Context(), r.workspace.Now().Add(25*time.Hour), true))
	n, _, err := r.workspace.Store().AttachmentsWaiting(t.Context(), 2, 0)
	require.NoError(t, err)
	assert.Zero(t, n)
}

// Somebody who may not see the tab fills in a form that names them, and sees no more of it.
func TestAFormForThoseWhoMayNotSeeItsTab(t *testing.T) {
	r, _ := damageRig(t)
	var names []wire.FormName
	r.call("reader", "GET", "/trackers/Damage/entry-forms", nil).into(t, &names)
	require.Len(t, names, 1)
	assert.Equal(t, "Report", names[0].Name)
	r.call("editor", "GET", "/trackers/Damage/entry-forms", nil).into(t, &names)
	assert.Empty(t, names, "it names another")
	var shown wire.EntryForm
	one := "/trackers/Damage/forms/" + "Report"
	r.call("reader", "GET", one+"/fields", nil).into(t, &shown)
	require.Len(t, shown.Fields, 2)
	file := r.attached(r.upload("reader", one+"/attachments?field=Photo&name=note.txt", "<script>alert(1)</script>"))
	a := r.call("reader", "POST", one+"/entries", wire.NewEntry{Cells: map[string]any{"What": "Dent", "Photo": file.Value}})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	for _, path := range []string{"/trackers/Damage/tabs/Reports/rows", one, one + "/links"} {
		assert.GreaterOrEqual(t, r.call("reader", "GET", path, nil).StatusCode, 403, path)
	}
	assert.Equal(t, 404, r.call("editor", "GET", one+"/fields", nil).StatusCode)
	a = r.call("keeper", "GET", "/attachments/"+attach.ID(file.Value), nil)
	assert.Equal(t, "application/octet-stream", a.Header.Get("Content-Type"), "nothing that a browser would run")
	assert.Contains(t, string(r.call("keeper", "GET", "/trackers/Damage/setup", nil).body), "filled in by:")
}

// An editor keeps a file in a cell, and it goes with its row to another tracker.
func TestAFileGoesWithItsRow(t *testing.T) {
	r := newRig(t)
	require.Equal(t, 200, r.call("keeper", "POST", "/setup", wire.Setup{Text: strings.Replace(damage, "access:", "# ", 1)}).StatusCode)
	require.Equal(t, 200, r.call("keeper", "POST", "/setup", wire.Setup{Text: "tracker: Past\nzone: UTC\ntabs:\n  Old: { columns: { What: { type: text }, Photo: { type: file } } }\n"}).StatusCode)
	file := r.attached(r.upload("editor", "/trackers/Damage/tabs/Reports/columns/Photo/attachments?name=a.png", picture(t)))
	require.Equal(t, 200, r.call("editor", "POST", "/trackers/Past/tabs/Old/rows", wire.NewRows{Rows: []map[string]any{{"What": "Dent", "Photo": file.Value}}}).StatusCode)
	require.Equal(t, 200, r.call("reader", "GET", "/attachments/"+attach.ID(file.Value), nil).StatusCode)
	require.Equal(t, 200, r.call("keeper", "DELETE", "/trackers/Damage", nil).StatusCode)
	assert.Equal(t, 200, r.call("reader", "GET", "/attachments/"+attach.ID(file.Value), nil).StatusCode)
}
