package api

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/wire"
)

// A route without an access rule would be open to nobody but a keeper; that no
// route lacks one is held here.
func TestEveryRouteSaysWhoMayUseIt(t *testing.T) {
	r := newRig(t)
	var doc struct {
		Paths map[string]map[string]struct {
			OperationID string `json:"operationId"`
			Security    []map[string][]string
			Tags        []string
		}
	}
	res, err := r.server.Client().Get(r.server.URL + "/api/openapi.json")
	require.NoError(t, err)
	defer res.Body.Close()
	require.NoError(t, json.NewDecoder(res.Body).Decode(&doc))
	former, err := r.workspace.PutPerson(t.Context(), "Former", "former@example.org", "keeper")
	require.NoError(t, err)
	r.tokens["former"], err = r.workspace.IssueToken(t.Context(), former.ID, "test", 0)
	require.NoError(t, err)
	require.Equal(t, 204, r.call("keeper", "DELETE", "/people/Former", nil).StatusCode)
	open := []string{"sign-in", "sign-out", "call-rule", "show-form-by-link", "fill-form-by-link", "attach-to-form-by-link"} // a call is known by its signature
	readers := []string{"check-clause", "read-file", "revoke-own", "sign-out-everywhere", "fill-form", "attach-to-form", "put-present", "delete-present"}
	editors := []string{"set-row", "set-rows", "add-rows", "move-row", "move-rows", "place-rows", "remove-row", "remove-rows", "remove-rows-named", "set-cells", "import", "run-rule", "run-round", "try-round", "run-sync", "settle-conflicts", "resend-mail", "undo", "open-pages", "close-pages", "set-page", "add-entry", "mend", "attach-file"}
	keepersGet := []string{"list-form-links", "get-mail-server", "backup", "check", "list-access", "list-access-journal", "list-reach", "list-secrets"}
	needs := func(method, op string) int {
		switch {
		case slices.Contains(readers, op), method == "get" && !slices.Contains(keepersGet, op):
			return 1
		case slices.Contains(editors, op):
			return 2
		}
		return 3
	}
	tried := map[int]int{}
	for path, methods := range doc.Paths {
		for method, op := range methods {
			assert.Equal(t, slices.Contains(open, op.OperationID), len(op.Security) == 1 && len(op.Security[0]) == 0, op.OperationID)
			assert.NotEmpty(t, op.Security, op.OperationID)
			assert.NotEmpty(t, op.Tags[0], "subjects of document.go lack what %s is about", op.OperationID)
			if slices.Contains(open, op.OperationID) {
				continue
			}
			least := needs(method, op.OperationID)
			tried[least]++
			at := strings.TrimPrefix(strings.NewReplacer("{tracker}", "Loans", "{tab}", "Requested", "{row}", "x", "{definition}", "Move", "{run}", "x", "{seq}", "1", "{what}", "999", "{person}", "x", "{token}", "x", "{column}", "x", "{attachment}", "x").Replace(path), "/api/v1")
			for _, nobody := range []string{"", "former"} {
				assert.Equal(t, http.StatusUnauthorized, r.call(nobody, strings.ToUpper(method), at, nil).StatusCode, "%s as %q", op.OperationID, nobody)
			}
			for i, role := range []string{"reader", "editor", "keeper"} {
				if op.OperationID == "events" { // goes on without end
					continue
				}
				status := r.call(role, strings.ToUpper(method), at, nil).StatusCode
				if i+1 < least {
					assert.Equal(t, http.StatusForbidden, status, "%s as %s", op.OperationID, role)
				} else {
					assert.NotContains(t, []int{http.StatusUnauthorized, http.StatusForbidden}, status, "%s as %s", op.OperationID, role)
				}
			}
		}
	}
	assert.Greater(t, tried[1], 20)
	assert.Equal(t, len(editors), tried[2])
	assert.Greater(t, tried[3], 20)
}

func TestKeepersAloneChangeTheSetup(t *testing.T) {
	r := newRig(t)
	a := r.call("editor", "POST", "/setup", wire.Setup{Text: loans})
	assert.Equal(t, http.StatusForbidden, a.StatusCode)
	a = r.call("keeper", "POST", "/setup", wire.Setup{Text: loans})
	assert.Equal(t, http.StatusOK, a.StatusCode, string(a.body))
}

func TestSessionsOpenOnceAndStayOnTheirSite(t *testing.T) {
	r := newRig(t)
	var link wire.Secret
	r.call("keeper", "POST", "/people/Editor/link", nil).into(t, &link)
	assert.Equal(t, "http://kavlo.example.org/sign-in#"+link.Secret, link.Link)
	a := r.call("", "POST", "/session", wire.Secret{Secret: link.Secret})
	require.Equal(t, 200, a.StatusCode, string(a.body))
	cookie := a.Header.Get("Set-Cookie")
	for _, part := range []string{"kavlo_session=", "HttpOnly", "SameSite=Strict"} {
		assert.Contains(t, cookie, part)
	}
	assert.Equal(t, 401, r.call("", "POST", "/session", wire.Secret{Secret: link.Secret}).StatusCode)
	session, _, _ := strings.Cut(cookie, ";")
	assert.Equal(t, 200, r.call("", "GET", "/session", nil, "Cookie", session).StatusCode)
	body := wire.NewRows{Rows: []map[string]any{{"Object": "Bell"}}}
	a = r.call("", "POST", "/trackers/Loans/tabs/Requested/rows", body, "Cookie", session, "Sec-Fetch-Site", "cross-site")
	assert.Equal(t, 403, a.StatusCode)
	assert.Contains(t, a.problem(t).Title, "another site")
	assert.Equal(t, 200, r.call("", "POST", "/trackers/Loans/tabs/Requested/rows", body, "Cookie", session, "Sec-Fetch-Site", "same-origin").StatusCode)
	r.call("", "DELETE", "/session", nil, "Cookie", session)
	assert.Equal(t, 401, r.call("", "GET", "/session", nil, "Cookie", session).StatusCode)
}

func TestSignedCallsWakeTheirRuleOnce(t *testing.T) {
	r := newRig(t)
	rule := map[string]any{"name": "From outside", "wake": map[string]any{"call": "yes"}, "in": "Requested", "steps": []any{map[string]any{"set": map[string]any{"Value": "{if Value is blank then 1 else Value + 1}"}}}}
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/rules", rule).StatusCode)
	assert.Equal(t, 422, r.call("keeper", "POST", "/trackers/Loans/rules/Move/secret", nil).StatusCode, "a rule that calls do not wake")
	var secret wire.Secret
	r.call("keeper", "POST", "/trackers/Loans/rules/From%20outside/secret", nil).into(t, &secret)
	r.add("Bell")
	r.add("Lamp")
	const path = "/calls/Loans/From%20outside"
	call := func(body, signed []byte, path, key string, at time.Time) answer {
		var more []string
		for k, v := range SignCall(http.MethodPost, "/api/v1"+path, signed, key, at) {
			more = append(more, k, v)
		}
		return r.call("", "POST", path, body, more...)
	}
	now, body := time.Now(), []byte(`{"rows":["Bell"]}`)
	a := call(body, body, path, secret.Secret, now)
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var first, again wire.ChangeSet
	a.into(t, &first)
	assert.Equal(t, map[string]int{"set": 1}, first.Counts)
	assert.Equal(t, policy.ByCall, first.Who)
	call(body, body, path, secret.Secret, now).into(t, &again)
	assert.Equal(t, first.Seq, again.Seq, "the same call again changes nothing")

	for what, a := range map[string]answer{
		"another secret":     call(body, body, path, "x", now),
		"another body":       call([]byte(`{"rows":[]}`), body, path, secret.Secret, now),
		"an old signature":   call(body, body, path, secret.Secret, now.Add(-time.Hour)),
		"no signature":       r.call("", "POST", path, body),
		"another rule":       call(body, body, "/calls/Loans/Move", secret.Secret, now),
		"no such rule":       call(body, body, "/calls/Loans/Nothing", secret.Secret, now),
		"no such tracker":    call(body, body, "/calls/Nothing/Nothing", secret.Secret, now),
		"no signature of it": r.call("", "POST", path, body, "Signature", "call=:AAAA:", "Signature-Input", `call=("@method");created=1`, "Content-Digest", contentDigest(body)),
	} {
		assert.Equal(t, 401, a.StatusCode, what)
	}
	wrong := []byte(`{"rows":["Horn"]}`)
	assert.Equal(t, 404, call(wrong, wrong, path, secret.Secret, now).StatusCode)
	bad := []byte(`{"rows":`)
	assert.Equal(t, 400, call(bad, bad, path, secret.Secret, now).StatusCode)
}

// A former person, and one whose secrets were revoked, is let in nowhere; live
// events end.
func TestWhoWasRemovedOrRevokedIsLetInNowhere(t *testing.T) {
	r := newRig(t)
	link := func() string {
		var s wire.Secret
		r.call("keeper", "POST", "/people/Editor/link", nil).into(t, &s)
		return s.Secret
	}
	signIn := func() string {
		a := r.call("", "POST", "/session", wire.Secret{Secret: link()})
		require.Equal(t, 200, a.StatusCode)
		session, _, _ := strings.Cut(a.Header.Get("Set-Cookie"), ";")
		return session
	}
	session, unused := signIn(), link()
	events := r.listen("editor", "")
	var feed wire.Secret
	r.call("keeper", "POST", "/people/Editor/feed", nil).into(t, &feed)
	var tokens []wire.Token
	r.call("keeper", "GET", "/people/Editor/access", nil).into(t, &tokens)
	kinds := []string{}
	for _, k := range tokens {
		kinds = append(kinds, k.Kind)
		if k.Kind == "token" {
			require.NotNil(t, k.Used)
			assert.Equal(t, "test", k.Name)
		}
	}
	assert.ElementsMatch(t, []string{"token", "session", "link", "calendar"}, kinds)
	assert.NotContains(t, fmt.Sprint(tokens), r.tokens["editor"])

	assert.Equal(t, 404, r.call("keeper", "DELETE", "/people/Keeper/access/"+tokens[0].ID, nil).StatusCode, "it is somebody else's")
	assert.Equal(t, 404, r.call("reader", "DELETE", "/session/access/"+tokens[0].ID, nil).StatusCode)
	var revoked wire.Revoked
	r.call("", "DELETE", "/session/access", nil, "Cookie", session).into(t, &revoked)
	assert.Equal(t, int64(2), revoked.Revoked, "the session and the unused link")
	assert.Equal(t, 401, r.call("", "GET", "/session", nil, "Cookie", session).StatusCode)
	assert.Equal(t, 401, r.call("", "POST", "/session", wire.Secret{Secret: unused}).StatusCode)
	assert.Equal(t, 200, r.call("editor", "GET", "/session", nil).StatusCode, "a script's token goes on")

	session, unused = signIn(), link()
	r.call("editor", "GET", "/session/access", nil).into(t, &tokens)
	for _, k := range tokens {
		if k.Kind == "link" {
			assert.Equal(t, 204, r.call("editor", "DELETE", "/session/access/"+k.ID, nil).StatusCode)
		}
		if k.Kind == "session" {
			assert.Equal(t, 204, r.call("keeper", "DELETE", "/people/Editor/access/"+k.ID, nil).StatusCode)
		}
	}
	assert.Equal(t, 401, r.call("", "POST", "/session", wire.Secret{Secret: unused}).StatusCode, "one revoked by its person")
	assert.Equal(t, 401, r.call("", "GET", "/session", nil, "Cookie", session).StatusCode, "one revoked by a keeper")
	session, unused = signIn(), link()
	require.Equal(t, 204, r.call("keeper", "DELETE", "/people/Editor", nil).StatusCode)
	assert.Equal(t, 401, r.call("editor", "GET", "/session", nil).StatusCode)
	assert.Equal(t, 401, r.call("", "GET", "/session", nil, "Cookie", session).StatusCode)
	assert.Equal(t, 401, r.call("", "POST", "/session", wire.Secret{Secret: unused}).StatusCode)
	assert.Equal(t, 401, r.call("", "POST", "/session", wire.Secret{Secret: r.tokens["editor"]}).StatusCode)
	status, _, _ := r.page("GET", strings.TrimPrefix(feed.Link, "http://kavlo.example.org"), nil)
	assert.Equal(t, 404, status)
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/tabs/Requested/rows", wire.NewRows{Rows: []map[string]any{{"Object": "Bell"}}}).StatusCode)
	assert.NotContains(t, events.rest(), "Bell", "live events of a former person end")
	var people []wire.Person
	r.call("reader", "GET", "/people", nil).into(t, &people)
	assert.NotContains(t, fmt.Sprint(people), "editor@example.org")
	for _, path := range r.reads() {
		assert.Equal(t, 401, r.call("editor", "GET", path, nil).StatusCode, path)
	}
}

func TestTokensExpireWhenTheyShould(t *testing.T) {
	r := newRig(t)
	var s wire.Secret
	r.call("keeper", "POST", "/people/Editor/token?name=night&days=3", nil).into(t, &s)
	var tokens []wire.Token
	r.call("editor", "GET", "/session/access", nil).into(t, &tokens)
	for _, k := range tokens {
		if k.Name == "night" {
			assert.InDelta(t, 72, k.Expires.Sub(k.Made).Hours(), 0.1)
		}
	}
	assert.Equal(t, 422, r.call("keeper", "POST", "/people/Editor/token?days=-1", nil).StatusCode)
}

func TestAKeeperThereAlwaysIs(t *testing.T) {
	r := newRig(t)
	a := r.call("keeper", "PUT", "/people", wire.NewPerson{Name: "Keeper", Address: "keeper@example.org", Access: "reader"})
	assert.Equal(t, 409, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, "make another person an admin first")
	assert.Equal(t, 409, r.call("keeper", "DELETE", "/people/Keeper", nil).StatusCode)
	require.Equal(t, 200, r.call("keeper", "PUT", "/people", wire.NewPerson{Name: "Editor", Address: "editor@example.org", Access: "keeper"}).StatusCode)
	require.Equal(t, 204, r.call("editor", "DELETE", "/people/Keeper", nil).StatusCode)
	assert.Equal(t, 401, r.call("keeper", "GET", "/session", nil).StatusCode)
	// who comes back is the same person, with nothing of before
	require.Equal(t, 200, r.call("editor", "PUT", "/people", wire.NewPerson{Name: "Keeper", Address: "keeper@example.org", Access: "keeper"}).StatusCode)
	assert.Equal(t, 401, r.call("keeper", "GET", "/session", nil).StatusCode)
}

func TestWhatIsNotSaidOfAPersonStaysAsItIs(t *testing.T) {
	r := newRig(t)
	put := func(body wire.NewPerson) (p wire.Person) {
		a := r.call("keeper", "PUT", "/people", body)
		require.Equal(t, 200, a.StatusCode, string(a.body))
		a.into(t, &p)
		return p
	}
	assert.Equal(t, "Teo Marsh", put(wire.NewPerson{Name: "Teo Marsh", Address: "teo@example.org", Access: "editor"}).Name)
	p := put(wire.NewPerson{Address: "teo@example.org", Access: "reader"})
	assert.Equal(t, []string{"Teo Marsh", "reader"}, []string{p.Name, p.Access})
	p = put(wire.NewPerson{Name: "Teo Marsh-Teal", Address: "teo@example.org"})
	assert.Equal(t, []string{"Teo Marsh-Teal", "reader"}, []string{p.Name, p.Access})
	assert.Equal(t, "editor", put(wire.NewPerson{Address: "somebody@example.org"}).Access)
	assert.Equal(t, "new@example.org", put(wire.NewPerson{Address: "new@example.org", Access: "reader"}).Name)
}

func TestNamesThatForgeAreRefused(t *testing.T) {
	r := newRig(t)
	for _, name := range []string{"Ines\nSubject: paid", "the clock", "The  Intake", "A call from outside", "Marta, by mail", "Ines\u202egro", "In\u200bes", "x\x00", "In\u2028es", strings.Repeat("x", 121)} {
		a := r.call("keeper", "PUT", "/people", wire.NewPerson{Name: name, Address: "x@example.org", Access: "reader"})
		assert.Equal(t, 422, a.StatusCode, "%q", name)
		assert.Contains(t, a.problem(t).Detail, "cannot be a person's name", "%q", name)
	}
	for _, name := range []string{"Inês Valadar", "O’Brien-Şahin", "", "名前"} {
		assert.Equal(t, 200, r.call("keeper", "PUT", "/people", wire.NewPerson{Name: name, Address: "x@example.org", Access: "reader"}).StatusCode, name)
	}
}

// What undoing does is asked as doing it would be: an editor once undid a
// keeper's change of the setup.
func TestUndoingNeedsWhatDoingNeeded(t *testing.T) {
	r := newRig(t)
	keeps := func(method, path string, body any) string {
		t.Helper()
		a := r.call("keeper", method, path, body)
		require.Equal(t, 200, a.StatusCode, string(a.body))
		var set wire.ChangeSet
		a.into(t, &set)
		return fmt.Sprint(set.Seq)
	}
	column := keeps("POST", "/trackers/Loans/tabs/Requested/columns", wire.NewColumn{Name: "Shelf", Definition: map[string]any{"type": "text"}})
	undone := keeps("POST", "/undo/"+column, nil)
	tracker := keeps("POST", "/trackers", wire.NewTracker{Name: "Other", Zone: "UTC"})
	paused := keeps("POST", "/trackers/Loans/rules/Move/pause", nil)
	for what, seq := range map[string]string{"a column": column, "an undo of a change of setup": undone, "a tracker": tracker, "a pause": paused} {
		for _, query := range []string{"", "?preview=yes", "?force=yes"} {
			a := r.call("editor", "POST", "/undo/"+seq+query, nil)
			if what == "a column" {
				assert.Equal(t, 409, a.StatusCode, what) // it is undone
				continue
			}
			assert.Equal(t, 403, a.StatusCode, what+query)
		}
	}
	a := r.upload("editor", "/trackers/Loans/imports?name=more.csv", "No,Name\n1,Bell\n2,Lamp\n")
	require.Equal(t, 200, a.StatusCode, string(a.body))
	var set wire.ChangeSet
	a.into(t, &set)
	assert.Equal(t, 200, r.call("editor", "POST", "/undo/"+fmt.Sprint(set.Seq), nil).StatusCode, "an editor's own import")
}

// A key that came with another request once answered for the first and dropped
// the second; keys belonged to names.
func TestAnIdempotencyKeyIsGoodForOneRequestOfOnePerson(t *testing.T) {
	r := newRig(t)
	add := func(as, object string) answer {
		return r.call(as, "POST", "/trackers/Loans/tabs/Requested/rows", wire.NewRows{Rows: []map[string]any{{"Object": object}}}, "Idempotency-Key", "k")
	}
	var first, again, others wire.ChangeSet
	add("editor", "Bell").into(t, &first)
	add("editor", "Bell").into(t, &again)
	assert.Equal(t, first.Seq, again.Seq)
	a := add("editor", "Lamp")
	assert.Equal(t, 422, a.StatusCode)
	assert.Contains(t, a.problem(t).Detail, "another request")
	add("keeper", "Lamp").into(t, &others)
	assert.NotEqual(t, first.Seq, others.Seq, "a key is one's own")
	a = r.call("editor", "PATCH", "/trackers/Loans/tabs/Requested/rows/Bell", wire.RowEdit{Cells: map[string]any{"Object": "Bell"}}, "Idempotency-Key", "k")
	assert.Equal(t, 422, a.StatusCode, "another operation")
	up := func(text string) answer {
		return r.upload("editor", "/trackers/Loans/imports?name=more.csv", text, "Idempotency-Key", "file")
	}
	require.Equal(t, 200, up("No,Name\n1,Bell\n2,Lamp\n").StatusCode)
	require.Equal(t, 200, up("No,Name\n1,Bell\n2,Lamp\n").StatusCode)
	assert.Equal(t, 422, up("No,Name\n1,Bell\n2,Horn\n").StatusCode, "another file")
	// a person who takes another's name does not take their keys
	require.Equal(t, 200, r.call("keeper", "PUT", "/people", wire.NewPerson{Name: "Editor", Address: "keeper@example.org", Access: "keeper"}).StatusCode)
	assert.Equal(t, 200, add("keeper", "Lamp").StatusCode)
}

// A signed call once went through again under another spelling.
func TestASignedCallIsOneCallHoweverItIsSpelled(t *testing.T) {
	r := newRig(t)
	rule := map[string]any{"name": "From outside", "wake": map[string]any{"call": "yes"}, "in": "Requested", "steps": []any{map[string]any{"set": map[string]any{"Value": "{if Value is blank then 1 else Value + 1}"}}}}
	require.Equal(t, 200, r.call("keeper", "POST", "/trackers/Loans/rules", rule).StatusCode)
	var secret wire.Secret
	r.call("keeper", "POST", "/trackers/Loans/rules/From%20outside/secret", nil).into(t, &secret)
	r.add("Bell")
	const path = "/calls/Loans/From%20outside"
	body := []byte(`{"rows":["Bell"]}`)
	good := SignCall(http.MethodPost, "/api/v1"+path, body, secret.Secret, time.Now())
	send := func(alter func(h map[string]string)) int {
		h := map[string]string{"Content-Digest": good["Content-Digest"], "Signature-Input": good["Signature-Input"], "Signature": good["Signature"]}
		alter(h)
		var more []string
		for k, v := range h {
			more = append(more, k, v)
		}
		return r.call("", "POST", path, body, more...).StatusCode
	}
	require.Equal(t, 200, send(func(map[string]string) {}))
	relabel := func(to string) func(map[string]string) {
		return func(h map[string]string) {
			for _, k := range []string{"Signature-Input", "Signature"} {
				h[k] = strings.Replace(h[k], "call=", to+"=", 1)
			}
		}
	}
	for what, alter := range map[string]func(map[string]string){
		"another label":      relabel("sig1"),
		"a label with signs": relabel("a-b_c.d*"),
	} {
		assert.Equal(t, 200, send(alter), what)
	}
	mac := strings.TrimSuffix(strings.TrimPrefix(good["Signature"], "call=:"), ":")
	for what, alter := range map[string]func(map[string]string){
		"a trailing colon":    func(h map[string]string) { h["Signature"] += ":" },
		"no padding":          func(h map[string]string) { h["Signature"] = "call=:" + strings.TrimRight(mac, "=") + ":" },
		"a parameter":         func(h map[string]string) { h["Signature"] += ";x=1" },
		"two labels":          func(h map[string]string) { h["Signature"] += ", other=" + h["Signature"][5:] },
		"a label twice":       func(h map[string]string) { h["Signature"] += ", " + h["Signature"] },
		"spaces":              func(h map[string]string) { h["Signature-Input"] = strings.ReplaceAll(h["Signature-Input"], ";", "; ") },
		"upper case":          func(h map[string]string) { relabel("CALL")(h) },
		"other labels":        func(h map[string]string) { h["Signature"] = strings.Replace(h["Signature"], "call", "sig", 1) },
		"more than one field": func(h map[string]string) { h["Signature-Input"] += ", more=(\"@method\")" },
		"another algorithm": func(h map[string]string) {
			h["Signature-Input"] = strings.Replace(h["Signature-Input"], "hmac-sha256", "none", 1)
		},
	} {
		assert.Equal(t, 401, send(alter), what)
	}
	var row wire.Row
	r.call("reader", "GET", "/trackers/Loans/tabs/Requested/rows/Bell", nil).into(t, &row)
	assert.EqualValues(t, 1, row.Cells["Value"], "one call, however often and however spelled")
}

// Whoever changes who may come in, a secret or what lists may reach stands in the
// journal, with what it was; nothing else does, and it is not undone.
func TestChangesOfAccessAreInTheJournal(t *testing.T) {
	r := newRig(t)
	do := func(method, at string, body any) {
		t.Helper()
		require.Less(t, r.call("keeper", method, at, body).StatusCode, 300, at)
	}
	do("PUT", "/people", map[string]any{"name": "Marta", "address": "marta@example.org", "access": "editor"})
	do("POST", "/people/Marta/token?name=script", nil)
	do("PUT", "/access/secrets/REGISTER", map[string]any{"value": "s3cret"})
	do("PUT", "/access/reach?address=lists.example.org", nil)
	do("DELETE", "/access/reach?address=lists.example.org", nil)
	do("DELETE", "/access/secrets/REGISTER", nil)
	do("DELETE", "/people/Marta", nil)
	a := r.call("keeper", "GET", "/access/journal?limit=7", nil)
	assert.NotContains(t, string(a.body), "s3cret")
	var entries []wire.JournalEntry
	a.into(t, &entries)
	var says []string
	for _, e := range entries {
		assert.Equal(t, "Keeper", e.Who)
		says = append(says, e.Says)
	}
	assert.Equal(t, []string{"Marta is removed", "the secret REGISTER is forgotten", "lists may reach lists.example.org no more", "lists may reach lists.example.org",
		"the secret REGISTER is kept", `Marta has a token "script"`, "Marta (marta@example.org) is editor"}, says)
	undo := r.call("keeper", "POST", fmt.Sprintf("/undo/%d", entries[0].Seq), nil).problem(t)
	assert.Contains(t, undo.Detail, "change it anew")
	found, _, err := r.workspace.Check(t.Context(), true)
	require.NoError(t, err)
	assert.Empty(t, found, "the journal plays to what is there")

	last := r.call("keeper", "PUT", "/people", map[string]any{"name": "Keeper", "address": "keeper@example.org", "access": "reader"})
	assert.Equal(t, http.StatusConflict, last.StatusCode, "the last keeper stays")
	r.call("keeper", "GET", "/access/journal?limit=1", nil).into(t, &entries)
	assert.Equal(t, "Marta is removed", entries[0].Says, "what failed is not in the journal")
}

// Admins were called keepers: the older word makes one still, and all answers say admin.
func TestBothWordsMakeAnAdmin(t *testing.T) {
	r := newRig(t)
	for _, word := range []string{"admin", "keeper"} {
		var p wire.Person
		a := r.call("keeper", "PUT", "/people", wire.NewPerson{Name: "Marta " + word, Address: word + "@example.org", Access: word})
		require.Equal(t, 200, a.StatusCode, string(a.body))
		a.into(t, &p)
		assert.Equal(t, "admin", p.Access)
	}
	assert.Equal(t, 422, r.call("keeper", "PUT", "/people", wire.NewPerson{Address: "king@example.org", Access: "king"}).StatusCode)
}
