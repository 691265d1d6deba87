package desk

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
	"strings"
	"time"

	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

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
func (d *Desk) EnsureKeeper(ctx context.Context) (string, error) {
	path := filepath.Join(d.Dir, KeeperFile)
	if text, err := os.ReadFile(path); err == nil {
		if _, err := d.Bearer(ctx, string(text), "token"); err == nil {
			return strings.TrimSpace(string(text)), nil
		}
	}
	keeper, err := d.store.PutPerson(ctx, store.Person{Name: "Keeper", Address: keeperAddress, Access: "keeper"})
	if err != nil {
		return "", err
	}
	secret, err := d.issue(ctx, keeper.ID, "token", "first start", 0)
	if err != nil {
		return "", err
	}
	if err := os.WriteFile(path, []byte(secret+"\n"), 0o600); err != nil {
		return "", fmt.Errorf("leaving the keeper's token in the data folder: %w", err)
	}
	return secret, nil
}

func (d *Desk) issue(ctx context.Context, person int64, kind, name string, lasts time.Duration) (string, error) {
	secret, hash := newSecret()
	now := d.Now()
	var expires time.Time
	if lasts > 0 {
		expires = now.Add(lasts)
	}
	return secret, d.store.PutToken(ctx, hash, person, kind, name, now, expires)
}

// IssueToken gives a person a token for scripts.
func (d *Desk) IssueToken(ctx context.Context, person int64, name string) (string, error) {
	return d.issue(ctx, person, "token", name, 0)
}

// IssueLink gives a person a secret that opens one session, once.
func (d *Desk) IssueLink(ctx context.Context, person int64) (string, error) {
	return d.issue(ctx, person, "link", "sign-in", LinkLasts)
}

// OpenSession exchanges a one-time link or a token for a session.
func (d *Desk) OpenSession(ctx context.Context, secret string) (string, store.Person, error) {
	p, err := d.Bearer(ctx, secret, "link", "token")
	if err != nil {
		return "", p, err
	}
	if _, err := d.Bearer(ctx, secret, "link"); err == nil {
		if was, err := d.store.DropToken(ctx, hashSecret(secret)); err != nil || !was {
			return "", p, errors.Join(ErrNoAccess, err)
		}
	}
	session, err := d.issue(ctx, p.ID, "session", "console", SessionLasts)
	return session, p, err
}

// CloseSession ends a session.
func (d *Desk) CloseSession(ctx context.Context, secret string) error {
	_, err := d.store.DropToken(ctx, hashSecret(secret))
	return err
}

// Bearer gives the person for whom a secret stands, or ErrNoAccess.
func (d *Desk) Bearer(ctx context.Context, secret string, kinds ...string) (store.Person, error) {
	p, err := d.store.Bearer(ctx, hashSecret(secret), d.Now(), kinds...)
	if errors.Is(err, store.ErrNotFound) {
		return p, ErrNoAccess
	}
	return p, err
}

// PutPerson adds a person or changes one, by address.
func (d *Desk) PutPerson(ctx context.Context, name, address, access string) (store.Person, error) {
	v, err := value.Parse(address, value.Type{Kind: value.Person})
	if err != nil {
		return store.Person{}, err
	}
	if strings.TrimSpace(name) == "" {
		name = v.Raw()
	}
	switch access {
	case "keeper", "editor", "reader":
	default:
		return store.Person{}, fmt.Errorf("access is keeper, editor or reader, not %q", access)
	}
	return d.store.PutPerson(ctx, store.Person{Name: strings.TrimSpace(name), Address: v.Raw(), Access: access})
}

// SignInLink gives the console's address that signs in with a link's secret,
// kept behind the # so that it stands in no server's log.
func (d *Desk) SignInLink(secret string) string { return d.Console + "/sign-in#" + secret }
