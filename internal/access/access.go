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
	keeper, err := gate.store.PutPerson(ctx, store.Person{Name: "Admin", Address: keeperAddress, Access: "keeper"})
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
	var secret string
	err := gate.Journaled(ctx, fmt.Sprintf("%s has a token %q", gate.nameOf(ctx, person), name), func(ctx context.Context) (err error) {
		secret, err = gate.Issue(ctx, person, "token", name, lasts)
		return err
	})
	return secret, err
}

// IssueLink gives a person a secret that opens one session, once.
func (gate *Gate) IssueLink(ctx context.Context, person int64) (string, error) {
	var secret string
	err := gate.Journaled(ctx, gate.nameOf(ctx, person)+" has a link to sign in once", func(ctx context.Context) (err error) {
		secret, err = gate.Issue(ctx, person, "link", "sign-in", LinkLasts)
		return err
	})
	return secret, err
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

// PutPerson adds a person or changes one, by address. Of a name or access that is not given,
// a known one keeps theirs; somebody new is called by the address, and an editor.
func (gate *Gate) PutPerson(ctx context.Context, name, address, access string) (store.Person, error) {
	v, err := value.Parse(address, value.Type{Kind: value.Person})
	if err != nil {
		return store.Person{}, err
	}
	if strings.ContainsFunc(v.Raw(), value.Invisible) {
		return store.Person{}, &value.Misfit{Text: address, Reason: "is not a mail address"}
	}
	before, err := gate.personAt(ctx, v.Raw())
	if err != nil {
		return store.Person{}, err
	}
	if name = strings.TrimSpace(name); name == "" {
		name = before.Name
	}
	if access == "" {
		access = before.Access
	}
	if err := CheckName(name); err != nil {
		return store.Person{}, err
	}
	role := policy.AccessNamed(access)
	if role == policy.Nobody {
		return store.Person{}, fmt.Errorf("access is admin, editor or reader, not %q", access)
	}
	if role == policy.Keeper {
		access = "keeper" // as records name it
	}
	defer gate.accessChanged()
	p := store.Person{Name: name, Address: v.Raw(), Access: access}
	err = gate.Journaled(ctx, fmt.Sprintf("%s (%s) is %s", name, v.Raw(), role), func(ctx context.Context) (err error) {
		p, err = gate.store.PutPerson(ctx, p)
		return err
	})
	return p, err
}

// Journaled does something to who may come in, to a secret or to what lists may reach,
// and tells of it in the journal, in one transaction.
func (gate *Gate) Journaled(ctx context.Context, says string, do func(context.Context) error) error {
	by, known := policy.Asker(ctx)
	if !known {
		by = policy.Itself("the service")
	}
	by.Access = policy.Keeper // whoever lets it come so far has asked
	_, err := gate.Commit(ctx, engine.Request{By: by, Alone: true, Cause: sheet.Cause{Kind: sheet.ByAccess, Name: says}, Work: func(t *engine.Turn) error {
		t.Store(func(ctx context.Context, b *store.Batch, _ *engine.Result) error { return do(b.Within(ctx)) })
		return t.Draft.Apply(sheet.Change{Kind: sheet.Grant, After: value.OfText(says)})
	}})
	return err
}

// PutSecret keeps a secret that lists use, or with "" forgets it; it reports whether
// there was one.
func (gate *Gate) PutSecret(ctx context.Context, name, secret string) (had bool, err error) {
	says := "the secret " + name + " is kept"
	if secret == "" {
		says = "the secret " + name + " is forgotten"
	}
	err = gate.Journaled(ctx, says, func(ctx context.Context) (err error) {
		had, err = gate.store.PutSecret(ctx, name, secret, gate.Now())
		return err
	})
	return had, err
}

// SetAllowedHost lets lists reach an address, or not any more.
func (gate *Gate) SetAllowedHost(ctx context.Context, address string, allowed bool) (had bool, err error) {
	says := "lists may reach " + address
	if !allowed {
		says += " no more"
	}
	err = gate.Journaled(ctx, says, func(ctx context.Context) (err error) {
		had, err = gate.store.SetAllowedHost(ctx, address, allowed)
		return err
	})
	return had, err
}

// nameOf gives a person's name, for the journal.
func (gate *Gate) nameOf(ctx context.Context, person int64) string {
	people, err := gate.store.People(ctx)
	if err == nil {
		for _, p := range people {
			if p.ID == person {
				return p.Name
			}
		}
	}
	return fmt.Sprintf("person %d", person)
}

// personAt gives whoever has an address; of somebody new, what they are unless more is said.
func (gate *Gate) personAt(ctx context.Context, address string) (store.Person, error) {
	people, err := gate.store.People(ctx)
	if err != nil {
		return store.Person{}, err
	}
	for _, p := range people {
		if p.Address == address {
			return p, nil
		}
	}
	return store.Person{Name: address, Access: policy.Editor.String()}, nil
}

// RemovePerson removes a person: no secret stands for them any more, links in
// their mails are no use, and no round counts on their name. What they did stays
// in the journal under it.
func (gate *Gate) RemovePerson(ctx context.Context, person int64) error {
	defer gate.accessChanged()
	return gate.Journaled(ctx, gate.nameOf(ctx, person)+" is removed", func(ctx context.Context) error {
		return gate.store.RemovePerson(ctx, person, gate.Now())
	})
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
	tokens, err := gate.store.TokensOf(ctx, person, gate.Now())
	if err != nil {
		return err
	}
	at := slices.IndexFunc(tokens, func(t store.Token) bool { return t.ID == id })
	if at < 0 {
		return fmt.Errorf("token %s: %w", id, store.ErrNotFound)
	}
	says := fmt.Sprintf("the %s %q of %s is revoked", tokens[at].Kind, tokens[at].Name, gate.nameOf(ctx, person))
	return gate.Journaled(ctx, says, func(ctx context.Context) error {
		_, err := gate.store.DropTokenOf(ctx, person, id)
		return err
	})
}

// RevokeAll makes every secret of a person invalid, or those of some kinds, and
// gives how many there were.
func (gate *Gate) RevokeAll(ctx context.Context, person int64, kinds ...string) (int64, error) {
	defer gate.accessChanged()
	var n int64
	says := "every secret of " + gate.nameOf(ctx, person) + " is revoked"
	if len(kinds) > 0 {
		says = fmt.Sprintf("every %s of %s is revoked", strings.Join(kinds, " and "), gate.nameOf(ctx, person))
	}
	err := gate.Journaled(ctx, says, func(ctx context.Context) (err error) {
		n, err = gate.store.DropTokensOf(ctx, person, kinds...)
		return err
	})
	return n, err
}

// RenewLinks makes the links of all mails and all calendar addresses invalid.
func (gate *Gate) RenewLinks(ctx context.Context) error {
	defer gate.accessChanged()
	return gate.Journaled(ctx, "the links of all mails and all calendars are renewed", func(ctx context.Context) error {
		_, err := gate.store.DropTokens(ctx, "feed")
		return errors.Join(err, gate.store.RenewKey(ctx, "link key"))
	})
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
	return secret, gate.Journaled(ctx, fmt.Sprintf("calls of rule %s of %s are signed with a new secret", r.Name, t.Name), func(ctx context.Context) error {
		return gate.store.PutCaller(ctx, t.ID, r.ID, secret, gate.Now())
	})
}

// IssueFormLink makes a secret that lets whoever has it fill a form in, on behalf of a
// person; says is for the journal.
func (gate *Gate) IssueFormLink(ctx context.Context, person int64, name, says string, lasts time.Duration) (string, error) {
	var secret string
	err := gate.Journaled(ctx, says, func(ctx context.Context) (err error) {
		secret, err = gate.Issue(ctx, person, "form", name, lasts)
		return err
	})
	return secret, err
}

// CloseFormLinks makes the secrets of a form invalid.
func (gate *Gate) CloseFormLinks(ctx context.Context, name, says string) (int64, error) {
	var n int64
	err := gate.Journaled(ctx, says, func(ctx context.Context) (err error) {
		n, err = gate.store.CloseFormLinks(ctx, name)
		return err
	})
	return n, err
}

// HashSecret gives what a secret is kept as.
func HashSecret(secret string) string { return hashSecret(secret) }
