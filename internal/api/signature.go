package api

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/dunglas/httpsfv"
)

// A call from outside is signed as RFC 9421 has it (HTTP Message Signatures,
// hmac-sha256), over the method, the path and the digest of the body (RFC 9530).
// SignCall and signedCall.check are the two ends of it. The header fields are structured
// fields (RFC 8941) and are read strictly.

// callFresh is how old, or how far ahead of our clock, a signature may be.
const callFresh = 5 * time.Minute

// covered are the parts of a call that its signature covers, in this order.
var covered = []string{"@method", "@path", "content-digest"}

var errSignature = errors.New("the call is not signed as it should be: sign method, path and content-digest with hmac-sha256 and the rule's secret (RFC 9421)")

// signedCall is what a call brings with it.
type signedCall struct {
	method, path string
	header       http.Header
	body         []byte
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

// check says whether the call was signed with the secret, lately, and gives the
// signature itself: the same call has the same, however its header is written.
func (c *signedCall) check(secret string, now time.Time) ([]byte, error) {
	label, input, err := c.input()
	if err != nil {
		return nil, errSignature
	}
	if err := fresh(input.Params, now); err != nil {
		return nil, err
	}
	given, err := c.signature(label)
	if err != nil {
		return nil, errSignature
	}
	digest := contentDigest(c.body)
	if !slices.Equal(c.header.Values("Content-Digest"), []string{digest}) {
		return nil, errSignature
	}
	params, err := httpsfv.Marshal(httpsfv.List{input})
	if err != nil || !hmac.Equal(given, signatureOf(c.method, c.path, digest, params, secret)) {
		return nil, errSignature
	}
	return given, nil
}

// one gives the only member of a dictionary that comes in one header field.
func (c *signedCall) one(field string) (string, httpsfv.Member, error) {
	lines := c.header.Values(field)
	if len(lines) != 1 {
		return "", nil, errSignature
	}
	dict, err := httpsfv.UnmarshalDictionary(lines)
	if err != nil || len(dict.Names()) != 1 {
		return "", nil, errSignature
	}
	name := dict.Names()[0]
	member, _ := dict.Get(name)
	if again, err := httpsfv.Marshal(dict); err != nil || again != strings.TrimSpace(lines[0]) { // it has one way to be written
		return "", nil, errSignature
	}
	return name, member, nil
}

// input reads what the signature covers, and its parameters.
func (c *signedCall) input() (string, httpsfv.InnerList, error) {
	label, member, err := c.one("Signature-Input")
	list, is := member.(httpsfv.InnerList)
	if err != nil || !is || len(list.Items) != len(covered) {
		return "", list, errSignature
	}
	for i, item := range list.Items {
		if item.Value != covered[i] || len(item.Params.Names()) > 0 {
			return "", list, errSignature
		}
	}
	if alg, has := list.Params.Get("alg"); has && alg != "hmac-sha256" {
		return "", list, errSignature
	}
	return label, list, nil
}

// fresh says whether a signature was made lately and has not expired.
func fresh(params *httpsfv.Params, now time.Time) error {
	value, _ := params.Get("created")
	created, is := value.(int64)
	if !is {
		return errSignature
	}
	if age := now.Sub(time.Unix(created, 0)); age > callFresh || age < -callFresh {
		return fmt.Errorf("the call was signed %s ago: sign it anew", age.Round(time.Second))
	}
	if value, has := params.Get("expires"); has {
		if expires, is := value.(int64); !is || expires < now.Unix() {
			return errors.New("the call's signature has expired: sign it anew")
		}
	}
	return nil
}

func (c *signedCall) signature(label string) ([]byte, error) {
	name, member, err := c.one("Signature")
	item, is := member.(httpsfv.Item)
	if err != nil || name != label || !is || len(item.Params.Names()) > 0 {
		return nil, errSignature
	}
	mac, is := item.Value.([]byte)
	if !is {
		return nil, errSignature
	}
	return mac, nil
}
