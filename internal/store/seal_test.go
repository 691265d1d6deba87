package store

import (
	"bytes"
	"database/sql"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// inFiles reports whether any file of a folder holds a text.
func inFiles(t *testing.T, dir, text string) bool {
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	for _, e := range entries {
		data, err := os.ReadFile(filepath.Join(dir, e.Name()))
		require.NoError(t, err)
		if bytes.Contains(data, []byte(text)) {
			return true
		}
	}
	return false
}

func TestSecretsAreSealedInTheFile(t *testing.T) {
	s, dir := open1(t)
	_, err := s.PutSecret(t.Context(), "REGISTER", "harbour-light", nine)
	require.NoError(t, err)
	require.NoError(t, s.PutCaller(t.Context(), 1, 5, "signing-lamp", nine))
	link, err := s.OwnKey(t.Context(), "link key")
	require.NoError(t, err)
	copied := filepath.Join(t.TempDir(), "copy.db")
	require.NoError(t, s.Backup(t.Context(), copied))
	for _, secret := range []string{"harbour-light", "signing-lamp", link} {
		assert.False(t, inFiles(t, dir, secret), secret)
		assert.False(t, inFiles(t, filepath.Dir(copied), secret), "%s in a backup", secret)
	}
	v, err := s.Secret(t.Context(), "REGISTER")
	require.NoError(t, err)
	assert.Equal(t, "harbour-light", v)
	v, err = s.Caller(t.Context(), 1, 5)
	require.NoError(t, err)
	assert.Equal(t, "signing-lamp", v)
	again, err := s.OwnKey(t.Context(), "link key")
	require.NoError(t, err)
	assert.Equal(t, link, again)
	// what is sealed for one place opens in no other
	_, err = s.write.Exec("INSERT INTO secret(name, value, made) SELECT 'OTHER', value, '' FROM secret WHERE name='REGISTER'")
	require.NoError(t, err)
	_, err = s.Secret(t.Context(), "OTHER")
	require.ErrorIs(t, err, ErrSealed)
}

func TestWhatEarlierVersionsKeptOpenlyIsSealedAndNoTraceIsLeft(t *testing.T) {
	s, dir := open1(t)
	_, err := s.write.Exec(`INSERT INTO secret VALUES ('REGISTER', 'harbour-light', ''); INSERT INTO own VALUES ('link key', 'lantern-coast'); INSERT INTO caller VALUES (1, 5, 'signing-lamp', '')`)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	require.True(t, inFiles(t, dir, "harbour-light"))
	s, err = Open(t.Context(), dir, Options{})
	require.NoError(t, err)
	for _, secret := range []string{"harbour-light", "lantern-coast", "signing-lamp"} {
		assert.False(t, inFiles(t, dir, secret), secret)
	}
	v, err := s.OwnKey(t.Context(), "link key")
	require.NoError(t, err)
	assert.Equal(t, "lantern-coast", v)
	v, err = s.Caller(t.Context(), 1, 5)
	require.NoError(t, err)
	assert.Equal(t, "signing-lamp", v)
	require.NoError(t, s.Close())

	// without its key a workspace opens, and says what to keep anew
	require.NoError(t, os.Remove(filepath.Join(dir, KeyFile)))
	s, err = Open(t.Context(), dir, Options{})
	require.NoError(t, err)
	_, err = s.Secret(t.Context(), "REGISTER")
	require.ErrorContains(t, err, "keep it anew with kavlo access secret REGISTER")
	_, err = s.Caller(t.Context(), 1, 5)
	require.ErrorContains(t, err, "make it anew with kavlo access caller")
	v, err = s.OwnKey(t.Context(), "link key")
	require.NoError(t, err)
	assert.NotEqual(t, "lantern-coast", v, "a new one: links of earlier mails are no use any more")
	require.NoError(t, s.Close())
	require.NoError(t, os.WriteFile(filepath.Join(dir, KeyFile), []byte("nonsense"), 0o600))
	_, err = Open(t.Context(), dir, Options{})
	require.ErrorContains(t, err, "holds no key")
}

func TestEveryFileIsItsOwnersAlone(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "open")
	require.NoError(t, os.Mkdir(dir, 0o777))
	require.NoError(t, os.Chmod(dir, 0o777))
	db, err := sql.Open("sqlite", filepath.Join(dir, "kavlo.db"))
	require.NoError(t, err)
	_, err = db.Exec("PRAGMA user_version=1")
	require.NoError(t, err)
	require.NoError(t, db.Close())
	require.NoError(t, os.WriteFile(filepath.Join(dir, "keeper-token"), []byte("x"), 0o644))
	s, err := Open(t.Context(), dir, Options{})
	require.NoError(t, err)
	_, err = s.PutSecret(t.Context(), "A", "b", nine)
	require.NoError(t, err)
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Greater(t, len(entries), 4)
	for _, e := range entries {
		info, err := e.Info()
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), e.Name())
	}
	require.NoError(t, s.Close())
}
