package api

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// A call from outside is signed as RFC 9421 has it (HTTP Message Signatures,
// hmac-sha256), over the method, the path and the digest of the body (RFC 9530).
// SignCall and checkCall are the two ends of it.

// callFresh is how old, or how far ahead of our clock, a signature may be.
const callFresh = 5 * time.Minute

var (
	signatureInput = regexp.MustCompile(`^([a-z][a-z0-9_-]*)=(\("@method" "@path" "content-digest"\)((?:;[a-z]+=(?:[0-9]+|"[^"]*"))*))$`)
	createdParam   = regexp.MustCompile(`;created=([0-9]+)`)
)

var errSignature = errors.New("the call is not signed as it should be: sign method, path and content-digest with hmac-sha256 and the rule's secret (RFC 9421)")

// signedCall is what a call brings with it.
type signedCall struct {
	method, path             string
	digest, input, signature string // header fields
	body                     []byte
}

func contentDigest(body []byte) string {
	sum := sha256.Sum256(body)
	return "sha-256=:" + base64.StdEncoding.EncodeToString(sum[:]) + ":"
}

// signatureOf gives the signature of a call with parameters as Signature-Input
// writes them.
func signatureOf(method, path, digest, params, secret string) []byte {
	base := fmt.Sprintf("\"@method\": %s\n\"@path\": %s\n\"content-digest\": %s\n\"@signature-params\": %s", method, path, digest, params)
	mac := hmac.New(sha256.New, []byte(secret))
	mac.Write([]byte(base))
	return mac.Sum(nil)
}

// SignCall gives the header fields that sign a call: Content-Digest,
// Signature-Input and Signature.
func SignCall(method, path string, body []byte, secret string, at time.Time) map[string]string {
	digest := contentDigest(body)
	params := fmt.Sprintf(`("@method" "@path" "content-digest");created=%d;alg="hmac-sha256"`, at.Unix())
	mac := signatureOf(method, path, digest, params, secret)
	return map[string]string{"Content-Digest": digest, "Signature-Input": "call=" + params, "Signature": "call=:" + base64.StdEncoding.EncodeToString(mac) + ":"}
}

// check says whether the call was signed with the secret, lately.
func (c *signedCall) check(secret string, now time.Time) error {
	m := signatureInput.FindStringSubmatch(strings.TrimSpace(c.input))
	if m == nil || !hmac.Equal([]byte(strings.TrimSpace(c.digest)), []byte(contentDigest(c.body))) {
		return errSignature
	}
	created := createdParam.FindStringSubmatch(m[3])
	if created == nil {
		return errSignature
	}
	seconds, err := strconv.ParseInt(created[1], 10, 64)
	if err != nil {
		return errSignature
	}
	if age := now.Sub(time.Unix(seconds, 0)); age > callFresh || age < -callFresh {
		return fmt.Errorf("the call was signed %s ago: sign it anew", age.Round(time.Second))
	}
	encoded, ok := strings.CutPrefix(strings.TrimSpace(c.signature), m[1]+"=:")
	given, err := base64.StdEncoding.DecodeString(strings.TrimSuffix(encoded, ":"))
	if !ok || err != nil || !hmac.Equal(given, signatureOf(c.method, c.path, strings.TrimSpace(c.digest), m[2], secret)) {
		return errSignature
	}
	return nil
}
