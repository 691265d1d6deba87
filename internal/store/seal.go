package store

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// Secrets that must be sent on, or checked as they are, cannot be kept as hashes.
// They are sealed in the file with a key that lies beside it (AES-256-GCM), so
// that a copy of the file alone, a backup for one, tells nobody.

// KeyFile is the file of the data folder that holds the key.
const KeyFile = "secret-key"

// ErrSealed says that something kept cannot be opened with the folder's key.
var ErrSealed = errors.New("it was sealed with another key than the one in the file " + KeyFile + " of the data folder")

const sealedMark = "sealed:"

type sealer struct{ cipher.AEAD }

// keyOf reads the folder's key, or makes it.
func keyOf(dir string) (*sealer, error) {
	path := filepath.Join(dir, KeyFile)
	text, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		fresh := make([]byte, 32)
		_, _ = rand.Read(fresh) // never fails
		text = []byte(base64.StdEncoding.EncodeToString(fresh) + "\n")
		err = writeOwn(path, text)
	}
	if err != nil {
		return nil, fmt.Errorf("reading the key of secrets: %w", err)
	}
	key, err := base64.StdEncoding.DecodeString(strings.TrimSpace(string(text)))
	if err != nil || len(key) != 32 {
		return nil, fmt.Errorf("the file %s holds no key: put back the one there was, or take the file away and keep every secret anew", path)
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	gcm, err := cipher.NewGCM(block)
	return &sealer{gcm}, err
}

// writeOwn writes a new file that its owner alone may read, and sees it on disk.
func writeOwn(path string, text []byte) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = f.Write(text)
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return errors.Join(err, os.Remove(path)) // half a file would be in the way of the next try
	}
	return nil
}

// seal seals a text for one place: elsewhere it does not open.
func (s *sealer) seal(place, text string) string {
	nonce := make([]byte, s.NonceSize())
	_, _ = rand.Read(nonce)
	return sealedMark + base64.RawStdEncoding.EncodeToString(s.Seal(nonce, nonce, []byte(text), []byte(place)))
}

// open gives back what was sealed for a place. What earlier versions kept openly
// is given as it is.
func (s *sealer) open(place, kept string) (string, error) {
	coded, is := strings.CutPrefix(kept, sealedMark)
	if !is {
		return kept, nil
	}
	raw, err := base64.RawStdEncoding.DecodeString(coded)
	if err != nil || len(raw) < s.NonceSize() {
		return "", ErrSealed
	}
	text, err := s.Open(nil, raw[:s.NonceSize()], raw[s.NonceSize():], []byte(place))
	if err != nil {
		return "", ErrSealed
	}
	return string(text), nil
}

// What is sealed, by where it stands.
func placeOfSecret(name string) string { return "secret " + name }

func placeOfCaller(tracker, part int64) string { return fmt.Sprintf("caller %d %d", tracker, part) }

func placeOfOwn(name string) string { return "own " + name }

// sealOpen seals what earlier versions kept openly, and leaves no trace of it.
func (s *Store) sealOpen(ctx context.Context) error {
	if _, err := s.write.ExecContext(ctx, "PRAGMA secure_delete=ON"); err != nil {
		return err
	}
	defer func() { _, _ = s.write.ExecContext(ctx, "PRAGMA secure_delete=OFF") }()
	b, err := s.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	n := 0
	for _, t := range []struct{ find, set string }{
		{"SELECT 'secret ' || name, name, value FROM secret", "UPDATE secret SET value=? WHERE name=?"},
		{"SELECT 'own ' || name, name, value FROM own", "UPDATE own SET value=? WHERE name=?"},
		{"SELECT 'caller ' || tracker || ' ' || part, tracker || ' ' || part, secret FROM caller", "UPDATE caller SET secret=? WHERE tracker || ' ' || part=?"},
	} {
		kept, err := openOnes(ctx, b, t.find)
		if err != nil {
			return err
		}
		for _, k := range kept {
			if _, err := b.tx.ExecContext(ctx, t.set, s.key.seal(k[0], k[2]), k[1]); err != nil {
				return fmt.Errorf("sealing %s: %w", k[0], err)
			}
			n++
		}
	}
	if n == 0 {
		return nil
	}
	if err := b.tx.Commit(); err != nil {
		return err
	}
	_, err = s.write.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)") // the log holds them openly
	return err
}

func openOnes(ctx context.Context, b *Batch, query string) ([][3]string, error) {
	rows, err := b.tx.QueryContext(ctx, query)
	if err != nil {
		return nil, fmt.Errorf("reading what is kept openly: %w", err)
	}
	defer rows.Close()
	var out [][3]string
	for rows.Next() {
		var k [3]string
		if err := rows.Scan(&k[0], &k[1], &k[2]); err != nil {
			return nil, err
		}
		if !strings.HasPrefix(k[2], sealedMark) {
			out = append(out, k)
		}
	}
	return out, rows.Err()
}

// ownAlone lets the owner alone read every file of the workspace that lies in
// its folder itself, whatever the folder allows.
func ownAlone(dir string) error {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	for _, e := range entries {
		info, err := e.Info()
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			return err
		}
		if info.Mode().IsRegular() && info.Mode().Perm()&0o077 != 0 {
			if err := os.Chmod(filepath.Join(dir, e.Name()), 0o600); err != nil && !errors.Is(err, fs.ErrNotExist) {
				return err
			}
		}
	}
	return nil
}
