package reconcile

import (
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
)

// A setup is read by everybody who may read the tracker, so no secret stands in
// it: ${NAME} stands for one, which is kept apart.

const keepSecret = "write ${NAME} in its place, and keep the secret with kavlo access secret NAME"

// secretParams are the parameters of addresses whose values are secrets.
var secretParams = []string{"token", "access_token", "auth_token", "api_key", "apikey", "password", "passwd", "pwd", "secret", "client_secret"}

// openSecret says which part of an address is a secret that stands there openly, or "".
func openSecret(address string) string {
	const mark = "kavlo-secret" // ${NAME} is no part of an address until it is replaced
	u, err := url.Parse(strings.TrimSpace(anySecret.ReplaceAllString(address, mark)))
	if err != nil {
		if openPassword.MatchString(anySecret.ReplaceAllString(address, mark)) {
			return "the password"
		}
		return ""
	}
	if password, _ := u.User.Password(); password != "" && password != mark {
		return "the password"
	}
	for name, values := range u.Query() {
		if slices.Contains(secretParams, strings.ToLower(name)) && slices.ContainsFunc(values, func(v string) bool { return v != "" && v != mark }) {
			return name
		}
	}
	return ""
}

var (
	anySecret    = regexp.MustCompile(`\$\{[A-Za-z_][A-Za-z0-9_]*\}`)
	openPassword = regexp.MustCompile(`//[^/@]*:[^/@]+@`)
)

// veiled gives an address with what stands openly in it and should not left out:
// earlier versions took it.
func veiled(address string) string {
	if openSecret(address) == "" {
		return address
	}
	u, err := url.Parse(address)
	if err != nil {
		return "(an address with a secret in it)"
	}
	if _, has := u.User.Password(); has {
		u.User = url.UserPassword(u.User.Username(), "…")
	}
	q := u.Query()
	for name := range q {
		if slices.Contains(secretParams, strings.ToLower(name)) {
			q.Set(name, "…")
		}
	}
	u.RawQuery = q.Encode()
	return u.String()
}

// CheckQuery says why a query for the records of a list is none, or nil: it is
// one statement that reads.
func CheckQuery(query string) error {
	bare := strings.TrimSpace(bareSQL(query))
	if bare == "" {
		return nil
	}
	if first, rest, several := strings.Cut(bare, ";"); several && strings.Trim(rest, "; \t\r\n") != "" {
		return fmt.Errorf("a list's query is one statement, and more follow %q", clip(first))
	}
	word := strings.ToUpper(firstWord.FindString(bare))
	if !slices.Contains([]string{"SELECT", "WITH", "VALUES", "TABLE"}, word) {
		return errors.New("a list's query only reads: it begins with SELECT")
	}
	return nil
}

var firstWord = regexp.MustCompile(`[A-Za-z]*`)

func clip(s string) string {
	if len(s) > 40 {
		return strings.ToValidUTF8(s[:40], "") + "…"
	}
	return s
}

// bareSQL gives a query without its comments, and with its quoted texts and names
// empty.
func bareSQL(query string) string {
	var b strings.Builder
	for i := 0; i < len(query); {
		rest := query[i:]
		switch c := query[i]; {
		case strings.HasPrefix(rest, "--"):
			i += lengthTo(rest, 2, "\n")
			b.WriteByte(' ')
		case strings.HasPrefix(rest, "/*"):
			i += lengthTo(rest, 2, "*/")
			b.WriteByte(' ')
		case c == '\'' || c == '"' || c == '`':
			i += lengthTo(rest, 1, string(c))
			b.WriteString("''")
		case c == '[':
			i += lengthTo(rest, 1, "]")
			b.WriteString("''")
		default:
			b.WriteByte(c)
			i++
		}
	}
	return b.String()
}

// lengthTo gives how many bytes there are up to and with an end, looked for from
// an offset on; all of them where it does not come.
func lengthTo(s string, from int, end string) int {
	if i := strings.Index(s[from:], end); i >= 0 {
		return from + i + len(end)
	}
	return len(s)
}
