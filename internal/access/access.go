// Package access says who may come in: people, tokens, sessions, links, signed calls.
package access

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
	"github.com/google/renameio/v2"
)

// Gate is who may come into a workspace.
type Gate struct {
	*engine.Engine
	Console  string // address of the console
	store    *store.Store
	used     sync.Map // by hash of a secret: when it was last used
	accesses atomic.Int64
}

// New gives the gate of an engine's workspace.
func New(e *engine.Engine, console string) *Gate {
	return &Gate{Engine: e, Console: console, store: e.Store()}
}

// KeeperFile is the file of the data folder in which the first start leaves
// the keeper's token, readable by the owner alone.
const KeeperFile = "keeper-token"

// keeperAddress stands for whoever owns the service's machine.
const keeperAddress = "keeper@localhost"

// How long sessions and one-time links last.
const (
	SessionLasts = 30 * 24 * time.Hour
	LinkLasts    = 24 * time.Hour
)

// ErrNoAccess says that a secret stands for nobody.
var ErrNoAccess = errors.New("this token, session or link is not known or has expired")

// newSecret gives 256 random bits as text, and the hash under which they are kept.
func newSecret() (secret, hash string) {
	b := make([]byte, 32)
	_, _ = rand.Read(b) // never fails
	secret = base64.RawURLEncoding.EncodeToString(b)
	return secret, hashSecret(secret)
}

// hashSecret needs no salt or slowness: the secrets are random and long.
func hashSecret(s string) string {
	h := sha256.Sum256([]byte(strings.TrimSpace(s)))
	return hex.EncodeToString(h[:])
}

// EnsureKeeper makes, at the first start, the keeper and a token for whoever
// can read the data folder.
func (gate *Gate) EnsureKeeper(ctx context.Context) (string, error) {
	path := filepath.Join(gate.Dir, KeeperFile)
	if text, err := os.ReadFile(path); err == nil {
		if _, err := gate.Bearer(ctx, string(text), "token"); err == nil {
			return strings.TrimSpace(string(text)), nil
		}
	}
	if _, err := os.Stat(path); err == nil { // somebody has taken the owner's access away, and not the file
		former, err := gate.store.Former(ctx)
		if err != nil || slices.ContainsFunc(former, func(p store.Person) bool { return p.Address == keeperAddress }) {
			return "", err
		}
	}
	keeper, err := gate.store.PutPerson(ctx, store.Person{Name: "Keeper", Address: keeperAddress, Access: "keeper"})
	if err != nil {
		return "", err
	}
	secret, err := gate.Issue(ctx, keeper.ID, "token", "first start", 0)
	if err != nil {
		return "", err
	}
	if err := renameio.WriteFile(path, []byte(secret+"\n"), 0o600); err != nil {
		return "", fmt.Errorf("leaving the keeper's token in the data folder: %w", err)
	}
	return secret, nil
}

// Issue gives a person a secret of a kind, which lasts so long; 0: until it is revoked.
func (gate *Gate) Issue(ctx context.Context, person int64, kind, name string, lasts time.Duration) (string, error) {
	secret, hash := newSecret()
	now := gate.Now()
	var expires time.Time
	if lasts > 0 {
		expires = now.Add(lasts)
	}
	return secret, gate.store.PutToken(ctx, hash, person, kind, name, now, expires)
}

// IssueToken gives a person a token for scripts, which lasts so long; 0: until
// it is revoked.
func (gate *Gate) IssueToken(ctx context.Context, person int64, name string, lasts time.Duration) (string, error) {
	return gate.Issue(ctx, person, "token", name, lasts)
}

// IssueLink gives a person a secret that opens one session, once.
func (gate *Gate) IssueLink(ctx context.Context, person int64) (string, error) {
	return gate.Issue(ctx, person, "link", "sign-in", LinkLasts)
}

// OpenSession exchanges a one-time link or a token for a session.
func (gate *Gate) OpenSession(ctx context.Context, secret string) (string, store.Person, error) {
	p, err := gate.Bearer(ctx, secret, "link", "token")
	if err != nil {
		return "", p, err
	}
	if _, err := gate.Bearer(ctx, secret, "link"); err == nil {
		if was, err := gate.store.DropToken(ctx, hashSecret(secret)); err != nil || !was {
			return "", p, errors.Join(ErrNoAccess, err)
		}
	}
	session, err := gate.Issue(ctx, p.ID, "session", "console", SessionLasts)
	return session, p, err
}

// CloseSession ends a session.
func (gate *Gate) CloseSession(ctx context.Context, secret string) error {
	_, err := gate.store.DropToken(ctx, hashSecret(secret))
	gate.accessChanged()
	return err
}

// Bearer gives the person for whom a secret stands, or ErrNoAccess.
func (gate *Gate) Bearer(ctx context.Context, secret string, kinds ...string) (store.Person, error) {
	hash, now := hashSecret(secret), gate.Now()
	p, err := gate.store.Bearer(ctx, hash, now, kinds...)
	if errors.Is(err, store.ErrNotFound) {
		return p, ErrNoAccess
	}
	if err == nil {
		gate.used.Store(hash, now)
	}
	return p, err
}

// NoteUsed keeps when secrets were last used. It is written down now and then,
// not at each use.
func (gate *Gate) NoteUsed(ctx context.Context, _ time.Time, _ bool) error {
	at := map[string]time.Time{}
	gate.used.Range(func(hash, t any) bool {
		at[hash.(string)] = t.(time.Time)
		gate.used.Delete(hash)
		return true
	})
	return gate.store.Used(ctx, at)
}

// ErrName says why a name cannot be a person's.
type ErrName struct{ Name, Why string }

func (e *ErrName) Error() string {
	return fmt.Sprintf("%q cannot be a person's name: %s", e.Name, e.Why)
}

// longestName is how many letters a person's name may have.
const longestName = 120

// CheckName says why a name cannot be a person's, or nil. A name stands in mails,
// messages and the journal, where it must neither begin a line of its own nor be
// taken for somebody else or for the service.
func CheckName(name string) error {
	switch {
	case name == "":
		return &ErrName{name, "it is blank"}
	case len([]rune(name)) > longestName:
		return &ErrName{name, fmt.Sprintf("it is longer than %d letters", longestName)}
	case strings.ContainsFunc(name, value.Invisible):
		return &ErrName{name, "it holds a line break or a character that cannot be seen"}
	}
	folded := value.Fold(strings.Join(strings.Fields(name), " "))
	for _, own := range policy.ServiceNames {
		if folded == value.Fold(own) {
			return &ErrName{name, "the service itself goes by it"}
		}
	}
	if strings.HasSuffix(folded, value.Fold(policy.ByMail)) {
		return &ErrName{name, fmt.Sprintf("what is done from mails ends in %q", strings.TrimPrefix(policy.ByMail, ", "))}
	}
	return nil
}

// PutPerson adds a person or changes one, by address.
func (gate *Gate) PutPerson(ctx context.Context, name, address, access string) (store.Person, error) {
	v, err := value.Parse(address, value.Type{Kind: value.Person})
	if err != nil {
		return store.Person{}, err
	}
	if strings.ContainsFunc(v.Raw(), value.Invisible) {
		return store.Person{}, &value.Misfit{Text: address, Reason: "is not a mail address"}
	}
	if name = strings.TrimSpace(name); name == "" {
		name = v.Raw()
	}
	if err := CheckName(name); err != nil {
		return store.Person{}, err
	}
	switch access {
	case "keeper", "editor", "reader":
	default:
		return store.Person{}, fmt.Errorf("access is keeper, editor or reader, not %q", access)
	}
	defer gate.accessChanged()
	return gate.store.PutPerson(ctx, store.Person{Name: name, Address: v.Raw(), Access: access})
}

// RemovePerson removes a person: no secret stands for them any more, links in
// their mails are no use, and no round counts on their name. What they did stays
// in the journal under it.
func (gate *Gate) RemovePerson(ctx context.Context, person int64) error {
	defer gate.accessChanged()
	return gate.store.RemovePerson(ctx, person, gate.Now())
}

// Tokens gives the secrets that stand for a person: tokens, sessions, one-time
// links and calendars, without the secrets themselves.
func (gate *Gate) Tokens(ctx context.Context, person int64) ([]store.Token, error) {
	if err := gate.NoteUsed(ctx, gate.Now(), false); err != nil {
		return nil, err
	}
	return gate.store.TokensOf(ctx, person, gate.Now())
}

// Revoke makes one secret of a person invalid; store.ErrNotFound if there is none.
func (gate *Gate) Revoke(ctx context.Context, person int64, id string) error {
	defer gate.accessChanged()
	was, err := gate.store.DropTokenOf(ctx, person, id)
	if err == nil && !was {
		return fmt.Errorf("token %s: %w", id, store.ErrNotFound)
	}
	return err
}

// RevokeAll makes every secret of a person invalid, or those of some kinds, and
// gives how many there were.
func (gate *Gate) RevokeAll(ctx context.Context, person int64, kinds ...string) (int64, error) {
	defer gate.accessChanged()
	return gate.store.DropTokensOf(ctx, person, kinds...)
}

// RenewLinks makes the links of all mails and all calendar addresses invalid.
func (gate *Gate) RenewLinks(ctx context.Context) error {
	defer gate.accessChanged()
	_, err := gate.store.DropTokens(ctx, "feed")
	return errors.Join(err, gate.store.RenewKey(ctx, "link key"))
}

// accessChanged lets what is open for somebody, such as live events, ask again
// whether it still may be.
func (gate *Gate) accessChanged() { gate.accesses.Add(1) }

// Accesses counts changes of who may do what.
func (gate *Gate) Accesses() int64 { return gate.accesses.Load() }

// SignInLink gives the console's address that signs in with a link's secret,
// kept behind the # so that it stands in no server's log.
func (gate *Gate) SignInLink(secret string) string { return gate.Console + "/sign-in#" + secret }

// IssueCaller gives the secret with which calls of a rule are signed from now on.
func (gate *Gate) IssueCaller(ctx context.Context, t *sheet.Tracker, r *rule.Compiled) (string, error) {
	secret, _ := newSecret()
	return secret, gate.store.PutCaller(ctx, t.ID, r.ID, secret, gate.Now())
}
