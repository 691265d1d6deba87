package store

// What stands beside trackers and journal: agreements and conflicts of syncs,
// secrets, what reminders know, files and mails. Each is kept, replaced and
// forgotten, and nothing of a neighbour with it.

import (
	"encoding/json"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

var nine = time.Date(2026, 3, 25, 9, 0, 0, 0, time.UTC)

// inBatch makes writes in one transaction.
func inBatch(t *testing.T, s *Store, writes ...func(*Batch) error) {
	t.Helper()
	b, err := s.Begin(t.Context())
	require.NoError(t, err)
	defer b.Rollback()
	for _, w := range writes {
		require.NoError(t, w(b))
	}
	require.NoError(t, b.Commit())
}

func TestAgreementsOfSyncs(t *testing.T) {
	s, _ := open1(t)
	put := func(sync sheet.DefinitionID, a Baseline) func(*Batch) error {
		return func(b *Batch) error { return b.PutBaseline(t.Context(), 1, sync, &a) }
	}
	bell := Baseline{Key: "b", Name: "B", Row: 7, ID: "x1", Cells: map[sheet.ColumnID]value.Value{2: value.OfText("Bell"), 3: value.OfDays(20_000), 4: value.OfOdd("TBC")}}
	axe := Baseline{Key: "a", Name: "A", Row: 8, Gone: "list", Cells: map[sheet.ColumnID]value.Value{}}
	inBatch(t, s, put(5, bell), put(5, axe), put(6, bell))
	got, err := s.Baselines(t.Context(), 1, 5)
	require.NoError(t, err)
	assert.Equal(t, []Baseline{axe, bell}, got, "by key")
	bell.Name, bell.Gone = "Bb", "tab"
	inBatch(t, s, put(5, bell), func(b *Batch) error { return b.DropBaseline(t.Context(), 1, 5, "a") })
	got, err = s.Baselines(t.Context(), 1, 5)
	require.NoError(t, err)
	assert.Equal(t, []Baseline{bell}, got)
	other, err := s.Baselines(t.Context(), 1, 6)
	require.NoError(t, err)
	require.Len(t, other, 1)
	assert.Equal(t, "B", other[0].Name, "that of another sync stands")
}

func TestConflictsKeepTheTimeSinceWhichTheyWait(t *testing.T) {
	s, _ := open1(t)
	put := func(tracker sheet.TrackerID, key string, since time.Time, body string) func(*Batch) error {
		return func(b *Batch) error {
			return b.PutConflict(t.Context(), &PendingConflict{Tracker: tracker, Sync: 5, Key: key, Since: since, Body: json.RawMessage(body)})
		}
	}
	inBatch(t, s, put(1, "b", nine.Add(time.Hour), `{"n":1}`), put(1, "a", nine, `{"n":2}`), put(2, "c", nine, `{}`))
	inBatch(t, s, put(1, "a", nine.Add(9*time.Hour), `{"n":3}`))
	held, err := s.PendingConflicts(t.Context(), 1)
	require.NoError(t, err)
	require.Len(t, held, 2)
	assert.Equal(t, PendingConflict{1, 5, "a", nine, json.RawMessage(`{"n":3}`)}, held[0], "the oldest first, as it is now")
	inBatch(t, s, func(b *Batch) error { return b.DropConflict(t.Context(), 1, 5, "a") })
	all, err := s.PendingConflicts(t.Context(), 0)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, "c", all[0].Key)
}

func TestSecretsAndReachAreNamedAndForgotten(t *testing.T) {
	s, _ := open1(t)
	for _, step := range []struct {
		name, secret string
		changed      bool
	}{{"B", "one", true}, {"A", "two", true}, {"B", "three", true}, {"C", "", false}, {"A", "", true}} {
		changed, err := s.PutSecret(t.Context(), step.name, step.secret, nine)
		require.NoError(t, err)
		assert.Equal(t, step.changed, changed, "%+v", step)
	}
	names, err := s.SecretNames(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []string{"B"}, names)
	secret, err := s.Secret(t.Context(), "B")
	require.NoError(t, err)
	assert.Equal(t, "three", secret)
	_, err = s.Secret(t.Context(), "A")
	require.ErrorIs(t, err, ErrNotFound)

	for _, step := range []struct {
		address          string
		allowed, changed bool
	}{{"10.0.0.0/8", true, true}, {"10.0.0.0/8", true, false}, {"db.example.org", true, true}, {"10.0.0.0/8", false, true}, {"10.0.0.0/8", false, false}} {
		changed, err := s.SetAllowedHost(t.Context(), step.address, step.allowed)
		require.NoError(t, err)
		assert.Equal(t, step.changed, changed, "%+v", step)
	}
	reach, err := s.AllowedHosts(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []string{"db.example.org", "public"}, reach, "the public ones from the start")
}

func TestWhatRemindersKnow(t *testing.T) {
	s, _ := open1(t)
	put := func(reminder sheet.DefinitionID, row sheet.RowID) func(*Batch) error {
		return func(b *Batch) error { return b.PutReminded(t.Context(), 1, reminder, row, nine) }
	}
	told := func(reminder sheet.DefinitionID, row sheet.RowID, person string, what Told) func(*Batch) error {
		return func(b *Batch) error { return b.PutTold(t.Context(), 1, reminder, row, person, what) }
	}
	off := Told{At: nine, Until: 20_600, Mark: "x1"}
	inBatch(t, s, put(5, 3), put(5, 4), put(6, 3), told(5, 3, "a@example.org", Told{At: nine}), told(5, 4, "a@example.org", Told{At: nine}), told(6, 3, "b@example.org", off))
	later := Told{At: nine.Add(time.Hour)}
	inBatch(t, s, told(5, 3, "a@example.org", later), told(5, 3, "b@example.org", off), func(b *Batch) error { return b.DropReminded(t.Context(), 1, 5, 4) })
	got, err := s.Reminded(t.Context(), 1, 5)
	require.NoError(t, err)
	assert.Equal(t, map[sheet.RowID]Reminded{3: {Row: 3, Since: nine, Told: map[string]Told{"a@example.org": later, "b@example.org": off}}}, got)
	got, err = s.Reminded(t.Context(), 1, 6)
	require.NoError(t, err)
	assert.Equal(t, map[sheet.RowID]Reminded{3: {Row: 3, Since: nine, Told: map[string]Told{"b@example.org": off}}}, got)
}

func TestKeysAreMadeOnce(t *testing.T) {
	s, dir := open1(t)
	key, err := s.OwnKey(t.Context(), "links")
	require.NoError(t, err)
	other, err := s.OwnKey(t.Context(), "feeds")
	require.NoError(t, err)
	assert.NotEqual(t, key, other)
	require.NoError(t, s.Close())
	s, err = Open(t.Context(), dir, Options{})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	again, err := s.OwnKey(t.Context(), "links")
	require.NoError(t, err)
	assert.Equal(t, key, again)
}

func TestFilesWrittenAreListedAndTheirTimeIsUp(t *testing.T) {
	s, _ := open1(t)
	put := func(w Written) func(*Batch) error {
		return func(b *Batch) error { return b.PutWritten(t.Context(), &w) }
	}
	old := Written{Path: "a.xlsx", Tracker: 1, Rule: 5, Name: "Planner", At: nine.AddDate(0, 0, -40), Rows: 3, Keep: 30}
	kept := Written{Path: "b.xlsx", Tracker: 1, Rule: 5, Name: "Planner", At: nine.AddDate(0, 0, -400), Rows: 4}
	fresh := Written{Path: "c.csv", Tracker: 1, Rule: 6, Name: "List", At: nine, Rows: 5, Keep: 30}
	inBatch(t, s, put(old), put(kept), put(fresh), put(Written{Path: "d.csv", Tracker: 2, At: nine}))
	by, err := s.WrittenBy(t.Context(), 1)
	require.NoError(t, err)
	assert.Equal(t, []Written{fresh, old, kept}, by, "the newest first")
	past, err := s.WrittenPast(t.Context(), nine)
	require.NoError(t, err)
	assert.Equal(t, []Written{old}, past)
	require.NoError(t, s.DropWritten(t.Context(), "a.xlsx"))
	fresh.Rows = 6
	inBatch(t, s, put(fresh))
	by, err = s.WrittenBy(t.Context(), 1)
	require.NoError(t, err)
	assert.Equal(t, []Written{fresh, kept}, by)
}

func TestFilesKeepTheirIdWhenTheyAreRenamed(t *testing.T) {
	s, _ := open1(t)
	a := File{ID: "f1", Path: "intake/a.xlsx", Hash: "h1", Size: 10, Version: 1, Created: nine, Modified: nine}
	b := File{ID: "f2", Path: "intake/b.xlsx", Hash: "h2", Size: 20, Version: 1, Created: nine, Modified: nine}
	require.NoError(t, s.PutFiles(t.Context(), a, b))
	a.Path, a.Version, a.Hash, a.Modified = "intake/b.xlsx", 2, "h3", nine.Add(time.Hour) // it takes the place of the other
	require.NoError(t, s.PutFiles(t.Context(), a))
	files, err := s.Files(t.Context())
	require.NoError(t, err)
	assert.Equal(t, []File{a}, files)
}

func TestMailsWaitUntilTheyAreTried(t *testing.T) {
	s, _ := open1(t)
	_, err := s.NextDue(t.Context())
	require.ErrorIs(t, err, ErrNotFound)
	for i, id := range []string{"late", "soon"} {
		inBatch(t, s, func(b *Batch) error {
			_, err := b.Enqueue(t.Context(), &Outgoing{ID: id, Tracker: 1, Round: 2, Occurrence: id, Recipient: "x@example.org", Subject: "Two loans", Text: "t", HTML: "<p>h</p>",
				Attach: []string{"a.xlsx", "b.csv"}, Made: nine, NextTry: nine.Add(time.Duration(2-i) * time.Hour)})
			return err
		})
	}
	next, err := s.NextDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, nine.Add(time.Hour), next)
	m, err := s.OutgoingByID(t.Context(), "soon")
	require.NoError(t, err)
	assert.Equal(t, []string{"a.xlsx", "b.csv"}, m.Attach)
	assert.Equal(t, "<p>h</p>", m.HTML)
	m.State, m.Tries, m.Problem = "given up", 5, "550 no such mailbox"
	require.NoError(t, s.Tried(t.Context(), m))
	_, err = s.OutgoingByID(t.Context(), "never")
	require.ErrorIs(t, err, ErrNotFound)
	all, err := s.Outbox(t.Context(), 10)
	require.NoError(t, err)
	require.Len(t, all, 2)
	next, err = s.NextDue(t.Context())
	require.NoError(t, err)
	assert.Equal(t, nine.Add(2*time.Hour), next)
}

func TestTheClockAndAnswersAreKept(t *testing.T) {
	s, _ := open1(t)
	inBatch(t, s, func(b *Batch) error { return b.SetClocked(t.Context(), 1, 5, nine) }, func(b *Batch) error { return b.SetClocked(t.Context(), 1, 6, nine) },
		func(b *Batch) error { return b.SetClocked(t.Context(), 1, 5, nine.Add(time.Hour)) }, func(b *Batch) error { return b.Answer(t.Context(), "k", "h", nine, 7, "7") })
	clocked, err := s.ClockedAll(t.Context())
	require.NoError(t, err)
	assert.Equal(t, map[DefinitionKey]time.Time{{1, 5}: nine.Add(time.Hour), {1, 6}: nine}, clocked)
	answer, hash, found, err := s.Answered(t.Context(), "k")
	require.NoError(t, err)
	assert.True(t, found)
	assert.Equal(t, []string{"7", "h"}, []string{answer, hash})
	_, _, found, err = s.Answered(t.Context(), "other")
	require.NoError(t, err)
	assert.False(t, found)
	require.NoError(t, s.ForgetAnswers(t.Context(), nine))
	_, _, found, err = s.Answered(t.Context(), "k")
	require.NoError(t, err)
	assert.True(t, found)
	require.NoError(t, s.ForgetAnswers(t.Context(), nine.Add(time.Second)))
	_, _, found, err = s.Answered(t.Context(), "k")
	require.NoError(t, err)
	assert.False(t, found, "keys are forgotten")
}

func TestTheJournalIsListedFromTheNewest(t *testing.T) {
	s, _ := open1(t)
	for i := range 5 {
		journalOne(t, s, int64(i+1), nine.Add(time.Duration(i)*time.Hour), sheet.RowID(i+1), nil)
	}
	sets, err := s.Journaled(t.Context(), Which{Tracker: 7, Who: "", Before: 4, Limit: 2})
	require.NoError(t, err)
	require.Len(t, sets, 2)
	assert.Equal(t, int64(3), sets[0].Seq)
	assert.Equal(t, int64(2), sets[1].Seq)
	assert.Equal(t, map[string]int{"move": 1}, sets[0].Counts)
	hers, err := s.Journaled(t.Context(), Which{Tracker: 7, Who: sets[0].Who, Before: 0, Limit: 9})
	require.NoError(t, err)
	assert.Len(t, hers, 5)
	his, err := s.Journaled(t.Context(), Which{Tracker: 7, Who: "Nobody", Before: 0, Limit: 9})
	require.NoError(t, err)
	assert.Empty(t, his)
	none, err := s.Journaled(t.Context(), Which{Tracker: 8, Who: "", Before: 0, Limit: 9})
	require.NoError(t, err)
	assert.Empty(t, none, "of another tracker")
	both := &sheet.ChangeSet{Seq: 6, At: nine.Add(6 * time.Hour), Who: "Ines", Causes: []sheet.Cause{{Kind: sheet.ByEdit}}, Changes: []sheet.Change{{Kind: sheet.Move, Tracker: 7, Tab: 1, Row: 1, ToTracker: 8, ToTab: 2}}}
	b, err := s.Begin(t.Context())
	require.NoError(t, err)
	defer b.Rollback()
	require.NoError(t, b.Journal(t.Context(), both, nil))
	require.NoError(t, b.Commit())
	there, err := s.Journaled(t.Context(), Which{Tracker: 8, Who: "", Before: 0, Limit: 9})
	require.NoError(t, err)
	require.Len(t, there, 1, "what a row brings to another tracker is in its journal too")
	assert.Equal(t, sheet.TrackerID(7), there[0].Tracker)
	ofTab, err := s.Journaled(t.Context(), Which{Tracker: 7, Tab: 2, Limit: 9})
	require.NoError(t, err)
	assert.Len(t, ofTab, 6, "all of them move a row to that tab")
	ofNone, err := s.Journaled(t.Context(), Which{Tracker: 7, Tab: 22, Limit: 9})
	require.NoError(t, err)
	assert.Empty(t, ofNone)
	ofRow, err := s.Journaled(t.Context(), Which{Tracker: 7, Row: 1, Limit: 9})
	require.NoError(t, err)
	require.Len(t, ofRow, 2)
	assert.Equal(t, []int64{6, 1}, []int64{ofRow[0].Seq, ofRow[1].Seq})
	since, err := s.Since(t.Context(), 3, 10)
	require.NoError(t, err)
	assert.Equal(t, []int64{4, 5, 6}, since)
	newer, err := s.NewerThan(t.Context(), nine.Add(time.Hour), 4)
	require.NoError(t, err)
	assert.Equal(t, []int64{4, 3}, newer)
	at, err := s.TimeOf(t.Context(), 2)
	require.NoError(t, err)
	assert.Equal(t, nine.Add(time.Hour), at)
	by, err := s.UndoneBy(t.Context(), 2)
	require.NoError(t, err)
	assert.Zero(t, by)
}

// A backup takes the place of a workspace only where it is whole; what was there
// is put aside.
func TestABackupIsCheckedBeforeItTakesAPlace(t *testing.T) {
	s, dir := open1(t)
	k := &keeper{store: s, state: sheet.Empty(), next: 1}
	k.begin(t)
	backup := filepath.Join(t.TempDir(), "b.db")
	require.NoError(t, s.Backup(t.Context(), backup))
	k.save(t, func(d *sheet.Draft) {
		require.NoError(t, d.Apply(sheet.Change{Kind: sheet.Reshape, Tracker: 2, ShapeBefore: d.Tracker(2).Shape}))
	})
	_, err := Restore(t.Context(), dir, backup, nine)
	require.Error(t, err, "the service still runs on it")
	require.NoError(t, s.Close())
	broken := filepath.Join(t.TempDir(), "broken.db")
	require.NoError(t, copyFile(broken, filepath.Join("..", "formats", "testdata", "lender-register.csv")))
	_, err = Restore(t.Context(), dir, broken, nine)
	require.Error(t, err)
	_, err = Restore(t.Context(), dir, backup, nine)
	require.NoError(t, err)
	s, err = Open(t.Context(), dir, Options{})
	require.NoError(t, err)
	defer func() { assert.NoError(t, s.Close()) }()
	w := whole(t, s)
	assert.Len(t, w.Trackers(), 2, "as it was at the backup")
	aside, err := filepath.Glob(filepath.Join(dir, "*2026*"))
	require.NoError(t, err)
	assert.NotEmpty(t, aside)
}
