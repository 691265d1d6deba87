package api

import (
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/desk"
	"example.org/kavlo/internal/wire"
)

// A route without an access rule would be open to nobody but a keeper; that no
// route lacks one is held here.
func TestEveryRouteSaysWhoMayUseIt(t *testing.T) {
	r := newRig(t)
	var doc struct {
		Paths map[string]map[string]struct {
			OperationID string `json:"operationId"`
			Security    []any
		}
	}
	res, err := r.server.Client().Get(r.server.URL + "/api/openapi.json")
	require.NoError(t, err)
	defer res.Body.Close()
	require.NoError(t, json.NewDecoder(res.Body).Decode(&doc))
	asking := []string{"check-clause", "read-file"}                               // which change nothing
	open := map[string]bool{"sign-in": true, "sign-out": true, "call-rule": true} // a call is known by its signature
	tried := 0
	for path, methods := range doc.Paths {
		for method, op := range methods {
			assert.Equal(t, open[op.OperationID], len(op.Security) == 0, op.OperationID)
			if open[op.OperationID] {
				continue
			}
			tried++
			at := strings.TrimPrefix(strings.NewReplacer("{tracker}", "Loans", "{tab}", "Requested", "{row}", "x", "{part}", "Move", "{run}", "x", "{seq}", "1", "{what}", "1", "{person}", "x").Replace(path), "/api/v1")
			a := r.call("", strings.ToUpper(method), at, nil)
			assert.Equal(t, http.StatusUnauthorized, a.StatusCode, op.OperationID)
			if method != "get" && !slices.Contains(asking, op.OperationID) {
				a = r.call("reader", strings.ToUpper(method), at, nil)
				assert.Equal(t, http.StatusForbidden, a.StatusCode, op.OperationID)
			}
		}
	}
	assert.Greater(t, tried, 40)
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
	assert.Equal(t, desk.Called, first.Who)
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
