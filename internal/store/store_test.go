package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

func open1(t testing.TB) (*Store, string) {
	t.Helper()
	dir := t.TempDir()
	s, err := Open(t.Context(), dir, Options{})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s, dir
}

// anyStored draws a value of any kind, odd ones too.
func anyStored(t *rapid.T) value.Value {
	text := rapid.StringN(1, 12, -1).Draw(t, "text")
	switch rapid.IntRange(0, 8).Draw(t, "kind") {
	case 0:
		return value.Value{}
	case 1:
		return value.OfOdd(text)
	case 2:
		return value.OfInt(rapid.Int64Range(-999_999_999_999_999_999, 999_999_999_999_999_999).Draw(t, "n"))
	case 3:
		v, _ := value.ParseNumber(rapid.StringMatching(`-?[0-9]{1,9}\.[0-9]{1,9}`).Draw(t, "decimal"))
		return v
	case 4:
		return value.OfBool(rapid.Bool().Draw(t, "b"))
	case 5:
		return value.OfDays(rapid.Int64Range(-1000, 100_000).Draw(t, "day"))
	case 6:
		return value.OfChoice(text, "b;c")
	case 7:
		return value.OfLink("https://example.org", "a label")
	}
	return value.OfText(text)
}

func TestEveryValueComesBackFromTheStore(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := anyStored(t)
		text := appendValue(nil, v)
		if !json.Valid(text) {
			t.Fatalf("%s is not JSON", text)
		}
		got, err := readValue(text)
		if err != nil || got != v {
			t.Fatalf("%s came back as %q %s (%v)", text, got, got.Kind(), err)
		}
		cells := map[sheet.ColumnID]value.Value{1: v, 22: v}
		back, err := readCells(appendCells(nil, sheet.NewImage(cells, sheet.Besides{})))
		if err != nil || back[1] != cells[1] || back[22] != cells[22] {
			t.Fatalf("%v came back as %v (%v)", cells, back, err)
		}
	})
}

func TestEveryKindOfChangeComesBackFromTheJournal(t *testing.T) {
	shape := &sheet.Shape{Name: "T", Zone: "UTC"}
	img := sheet.NewImage(map[sheet.ColumnID]value.Value{2: value.OfText("x")}, sheet.Besides{Notes: map[sheet.ColumnID]string{2: "n"}, Styles: map[sheet.ColumnID]string{2: "bold"}, Origin: "o"}).At(5)
	changes := []sheet.Change{
		{Kind: sheet.Add, Tracker: 1, Tab: 2, Row: 3, Image: img},
		{Kind: sheet.Remove, Tracker: 1, Tab: 2, Row: 3, Image: img, Because: 1},
		{Kind: sheet.Set, Tracker: 1, Tab: 2, Row: 3, Column: 4, Before: value.OfOdd("TBC"), After: value.OfDays(20_000)},
		{Kind: sheet.Note, Tracker: 1, Tab: 2, Row: 3, Column: 4, After: value.OfText("a \"note\"")},
		{Kind: sheet.Style, Tracker: 1, Tab: 2, Row: 3, Column: 4, After: value.OfText("fill #F6E7CC, bold")},
		{Kind: sheet.Move, Tracker: 1, Tab: 2, Row: 3, ToTracker: 1, ToTab: 5, Pos: 7, ToPos: 8, Because: 2},
		{Kind: sheet.Reshape, Tracker: 1, ShapeBefore: shape, ShapeAfter: shape},
		{Kind: sheet.Grant, After: value.OfText("lists may reach 10.0.0.7")},
	}
	s, _ := open1(t)
	set := &sheet.ChangeSet{Seq: 1, At: time.Date(2026, 3, 25, 9, 0, 0, 0, time.UTC), Who: "Ines", Run: "R", Undoes: 0, Causes: []sheet.Cause{{Kind: sheet.ByEdit, Woke: -1}, {Kind: sheet.ByRule, Name: "M", Step: 1}}, Changes: changes}
	b, err := s.Begin(t.Context())
	require.NoError(t, err)
	require.NoError(t, b.Journal(t.Context(), set, nil))
	require.NoError(t, b.Commit())
	got, err := s.ChangeSet(t.Context(), 1)
	require.NoError(t, err)
	assert.Equal(t, set, got)
	history, err := s.RowHistory(t.Context(), 3, 10)
	require.NoError(t, err)
	require.Len(t, history, 1)
	assert.Len(t, history[0].Changes, 6)
	_, err = s.ChangeSet(t.Context(), 2)
	require.ErrorIs(t, err, ErrNotFound)
}

func TestAMailIsEnqueuedOnceAnOccurrenceAndPerson(t *testing.T) {
	s, _ := open1(t)
	now := time.Date(2026, 3, 25, 9, 0, 0, 0, time.UTC)
	put := func(id, occurrence, to string) bool {
		b, err := s.Begin(t.Context())
		require.NoError(t, err)
		put, err := b.Enqueue(t.Context(), &Outgoing{ID: id, Tracker: 1, Round: 2, Occurrence: occurrence, Recipient: to, Made: now, NextTry: now})
		require.NoError(t, err)
		require.NoError(t, b.Commit())
		return put
	}
	assert.True(t, put("a", "one", "x@example.org"))
	assert.False(t, put("b", "one", "x@example.org"))
	assert.True(t, put("c", "two", "x@example.org"))
	assert.True(t, put("d", "one", "y@example.org"))
	due, err := s.Due(t.Context(), now, 10)
	require.NoError(t, err)
	assert.Len(t, due, 3)
	due[0].State, due[0].Sent = "sent", now
	require.NoError(t, s.Tried(t.Context(), due[0]))
	n, err := s.Waiting(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 2, n)
}

func TestSecretsServeTheirKindUntilTheyExpire(t *testing.T) {
	s, _ := open1(t)
	now := time.Date(2026, 3, 25, 9, 0, 0, 0, time.UTC)
	p, err := s.PutPerson(t.Context(), Person{Name: "Ines", Address: "ines@example.org", Access: "keeper"})
	require.NoError(t, err)
	require.NoError(t, s.PutToken(t.Context(), "h", p.ID, "link", "x", now, now.Add(time.Hour)))
	got, err := s.Bearer(t.Context(), "h", now, "link")
	require.NoError(t, err)
	assert.Equal(t, p, got)
	_, err = s.Bearer(t.Context(), "h", now, "token")
	require.ErrorIs(t, err, ErrNotFound)
	_, err = s.Bearer(t.Context(), "h", now.Add(time.Hour), "link")
	require.ErrorIs(t, err, ErrNotFound)
	was, err := s.DropToken(t.Context(), "h")
	require.NoError(t, err)
	assert.True(t, was)
	was, err = s.DropToken(t.Context(), "h")
	require.NoError(t, err)
	assert.False(t, was, "a link serves once")
}

func TestABackupIsWholeAndNeverOverAFile(t *testing.T) {
	s, dir := open1(t)
	_, err := s.PutPerson(t.Context(), Person{Name: "Ines", Address: "ines@example.org", Access: "keeper"})
	require.NoError(t, err)
	to := filepath.Join(dir, "copy.db")
	require.NoError(t, s.Backup(t.Context(), to))
	require.ErrorContains(t, s.Backup(t.Context(), to), "already exists")
	db, err := sql.Open("sqlite", to)
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, db.Close()) })
	var n int
	require.NoError(t, db.QueryRow("SELECT count(*) FROM person").Scan(&n))
	assert.Equal(t, 1, n)
	require.NoError(t, s.Check(t.Context()))
}

func TestTheStoreIsDurable(t *testing.T) {
	s, _ := open1(t)
	for pragma, want := range map[string]string{"journal_mode": "wal", "synchronous": "2", "foreign_keys": "1"} {
		var got string
		require.NoError(t, s.write.QueryRow("PRAGMA "+pragma).Scan(&got))
		assert.Equal(t, want, got, pragma)
	}
	assert.Equal(t, 1, s.write.Stats().MaxOpenConnections)
}

// A workspace of every earlier version opens, with what was in it.
func TestEarlierVersionsAreBroughtUpToDate(t *testing.T) {
	files, err := fs.Glob(migrations, "migrations/*.sql")
	require.NoError(t, err)
	for version := int64(1); version < int64(len(files)); version++ {
		dir := t.TempDir()
		db, err := sql.Open("sqlite", fileName(filepath.Join(dir, dbFile), "rwc", Options{}))
		require.NoError(t, err)
		sub, err := fs.Sub(migrations, "migrations")
		require.NoError(t, err)
		p, err := goose.NewProvider(goose.DialectSQLite3, db, sub)
		require.NoError(t, err)
		_, err = p.UpTo(t.Context(), version)
		require.NoError(t, err)
		_, err = db.Exec(`INSERT INTO tracker VALUES (7, 'T', 1, '{"name":"T","zone":"UTC","working":{},"tabs":[{"id":2,"name":"A","columns":[{"id":3,"name":"X","type":{"kind":"text"}}]}]}');
			INSERT INTO row(id, tracker, tab, pos, version, cells, notes, origin) VALUES (5, 7, 2, 65536, 1, '{"c3":"bell"}', NULL, NULL);
			INSERT INTO journal(seq, at, who, run, undoes, tracker, causes, counts) VALUES (1, '2026-03-25T09:00:00.000Z', 'Ines', '', 0, 7, '[{"kind":"edit","woke":-1}]', '{"set":1}');
			INSERT INTO change VALUES (1, 0, '[{"kind":"set","tracker":7,"tab":2,"row":5,"column":3,"before":null,"after":"bell"}]');
			INSERT INTO history VALUES (5, 1, 0);
			INSERT INTO run VALUES ('01JQ6A0000000000000000000A', '2026-03-25T09:00:00.000Z', 7, 'rule', 'Late', 'Ines', 'done', 1, '{}')`)
		require.NoError(t, err)
		require.NoError(t, db.Close())
		s, err := Open(t.Context(), dir, Options{})
		require.NoError(t, err)
		w := whole(t, s)
		assert.Equal(t, "bell", w.Tracker(7).Row(5).At(0).String())
		history, err := s.RowHistory(t.Context(), 5, 10)
		require.NoError(t, err)
		require.Len(t, history, 1)
		assert.Equal(t, value.OfText("bell"), history[0].Changes[0].After)
		run, err := s.Run(t.Context(), "01JQ6A0000000000000000000A")
		require.NoError(t, err)
		assert.Equal(t, "Late", run.Name)
		last, err := s.LastSeq(t.Context())
		require.NoError(t, err)
		assert.Equal(t, int64(1), last)
		require.NoError(t, s.Close())
	}
}

// A change set of many parts comes back whole, and a row's part of it alone.
func TestLargeChangeSetsComeBackWhole(t *testing.T) {
	s, _ := open1(t)
	set := &sheet.ChangeSet{Seq: 1, At: time.Date(2026, 3, 25, 9, 0, 0, 0, time.UTC), Who: "Ines", Causes: []sheet.Cause{{Kind: sheet.ByEdit, Woke: -1}}}
	for i := range 3*changesPerPart + 7 {
		set.Changes = append(set.Changes, sheet.Change{Kind: sheet.Move, Tracker: 1, Tab: 2, Row: sheet.RowID(i + 1), ToTracker: 1, ToTab: 3, Pos: 1, ToPos: 2})
	}
	b, err := s.Begin(t.Context())
	require.NoError(t, err)
	require.NoError(t, b.Journal(t.Context(), set, nil))
	require.NoError(t, b.Commit())
	got, err := s.ChangeSet(t.Context(), 1)
	require.NoError(t, err)
	assert.Equal(t, set.Changes, got.Changes)
	for _, row := range []sheet.RowID{1, changesPerPart, changesPerPart + 1, sheet.RowID(len(set.Changes))} {
		history, err := s.RowHistory(t.Context(), row, 10)
		require.NoError(t, err)
		require.Len(t, history, 1, row)
		require.Len(t, history[0].Changes, 1)
		assert.Equal(t, row, history[0].Changes[0].Row)
	}
}

func journalOne(t *testing.T, s *Store, seq int64, at time.Time, row sheet.RowID, run *Run) {
	t.Helper()
	set := &sheet.ChangeSet{Seq: seq, At: at, Who: "Ines", Causes: []sheet.Cause{{Kind: sheet.ByEdit, Woke: -1}},
		Changes: []sheet.Change{{Kind: sheet.Move, Tracker: 7, Tab: 2, Row: row, ToTracker: 7, ToTab: 3, Pos: 1, ToPos: 2}}}
	if run != nil {
		set.Run = run.ID
	}
	b, err := s.Begin(t.Context())
	require.NoError(t, err)
	defer b.Rollback()
	require.NoError(t, b.Journal(t.Context(), set, run))
	require.NoError(t, b.Commit())
}

// The index of histories lags behind the journal; nobody who asks sees that,
// and a stop in between loses none of it.
func TestHistoryIsWhole(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(t.Context(), dir, Options{})
	require.NoError(t, err)
	at := time.Date(2026, 3, 25, 9, 0, 0, 0, time.UTC)
	const edits = 2*historyLag + historyLag/2
	for i := range edits {
		journalOne(t, s, int64(i+1), at, sheet.RowID(i%3+1), nil)
	}
	check := func(want int) {
		t.Helper()
		history, err := s.RowHistory(t.Context(), 2, edits)
		require.NoError(t, err)
		assert.Len(t, history, want)
		for i := 1; i < len(history); i++ {
			assert.Less(t, history[i].Seq, history[i-1].Seq)
		}
		few, err := s.RowHistory(t.Context(), 2, 3)
		require.NoError(t, err)
		require.Len(t, few, 3)
		assert.Equal(t, history[0].Seq, few[0].Seq)
	}
	written := 0
	require.NoError(t, s.read.QueryRow("SELECT count(*) FROM history").Scan(&written))
	assert.Equal(t, 2*historyLag, written, "the rest waits")
	check((edits + 1) / 3)
	require.NoError(t, errors.Join(s.read.Close(), s.write.Close(), s.held.Close())) // as if killed: nothing is written on the way out
	s, err = Open(t.Context(), dir, Options{})
	require.NoError(t, err)
	check((edits + 1) / 3)
	for i := range historyLag {
		journalOne(t, s, int64(edits+i+1), at, 2, nil)
	}
	check((edits+1)/3 + historyLag)
	require.NoError(t, s.Close())
}

func TestRunsStandBesideTheirChangeSets(t *testing.T) {
	s, _ := open1(t)
	at := func(day int) time.Time { return time.Date(2026, 3, day, 9, 0, 0, 0, time.UTC) }
	var ids []string
	for day := 1; day <= 8; day++ { // those of even days change nothing
		seq := int64(day+1) / 2
		r := &Run{ID: s.NewRunID(at(day), seq), At: at(day), Tracker: 7, Kind: "rule", Name: fmt.Sprint("day ", day), Who: "Ines", Outcome: "done", Body: []byte(`{"x":1}`)}
		if ids = append(ids, r.ID); day%2 == 1 {
			r.Seq = seq
			journalOne(t, s, seq, at(day), 1, r)
		} else {
			r.Outcome = "failed"
			b, err := s.Begin(t.Context())
			require.NoError(t, err)
			require.NoError(t, b.PutRun(t.Context(), r))
			require.NoError(t, b.Commit())
		}
		got, err := s.Run(t.Context(), r.ID)
		require.NoError(t, err)
		assert.Equal(t, r, got)
	}
	assert.IsIncreasing(t, ids)
	names := func(before string, limit int) (out []string) {
		runs, err := s.Runs(t.Context(), 7, before, limit)
		require.NoError(t, err)
		for _, r := range runs {
			out = append(out, strings.TrimPrefix(r.Name, "day "))
		}
		return out
	}
	assert.Equal(t, []string{"8", "7", "6"}, names("", 3))
	assert.Equal(t, []string{"5", "4", "3"}, names(ids[5], 3))
	_, err := s.Run(t.Context(), s.NewRunID(at(1), 1))
	require.ErrorIs(t, err, ErrNotFound)
	_, err = s.Run(t.Context(), "not an id")
	require.ErrorIs(t, err, ErrNotFound)

	partly := &Run{ID: s.NewRunID(at(9), 5), At: at(9), Tracker: 7, Kind: "sync", Name: "day 9", Who: "Ines", Outcome: "partly done", Seq: 5, Body: []byte(`{"x":1}`)}
	journalOne(t, s, 5, at(9), 1, partly)
	assert.Equal(t, []string{"9", "8", "7"}, names("", 3), "each run once")
	trouble, err := s.FailedSince(t.Context(), at(7), 10)
	require.NoError(t, err)
	require.Len(t, trouble, 2)
	assert.Equal(t, partly, trouble[0], "what was partly done, though it changed something")

	require.NoError(t, s.PruneRuns(t.Context(), at(4)))
	assert.Equal(t, []string{"9", "8", "7", "6", "5", "4"}, names("", 50))
	require.NoError(t, s.PruneRuns(t.Context(), at(4)))
	require.NoError(t, s.PruneRuns(t.Context(), at(30)))
	assert.Empty(t, names("", 50))
	kept, err := s.ChangeSet(t.Context(), 2)
	require.NoError(t, err, "the journal itself stays")
	assert.Len(t, kept.Changes, 1)
}

// whole loads a workspace of which every record can be read.
func whole(t testing.TB, s *Store) *sheet.Workspace {
	t.Helper()
	w, aside, err := s.Load(t.Context())
	require.NoError(t, err)
	require.Empty(t, aside)
	return w
}

func TestOldMailsAreForgottenUnlessTheyWait(t *testing.T) {
	s, _ := open1(t)
	b, err := s.Begin(t.Context())
	require.NoError(t, err)
	at := func(day int) time.Time { return time.Date(2026, time.March, day, 8, 30, 0, 0, time.UTC) }
	states := map[string]string{"old sent": "sent", "old given up": "given up", "old waiting": "waiting", "new sent": "sent"}
	var mails []*Outgoing
	for id, state := range states {
		made := at(1)
		if id == "new sent" {
			made = at(20)
		}
		m := &Outgoing{ID: id, Tracker: 1, Round: 2, Occurrence: id, Recipient: "x@example.org", Subject: id, Text: "of " + id, Made: made, NextTry: made, State: state}
		_, err := b.Enqueue(t.Context(), m)
		require.NoError(t, err)
		mails = append(mails, m)
	}
	require.NoError(t, b.Commit())
	require.NoError(t, s.Tried(t.Context(), mails...))
	for range 2 {
		require.NoError(t, s.ForgetMails(t.Context(), at(10)))
		left, err := s.Outbox(t.Context(), 10)
		require.NoError(t, err)
		var ids []string
		for _, m := range left {
			ids = append(ids, m.ID)
			assert.Equal(t, "of "+m.ID, m.Text)
		}
		assert.ElementsMatch(t, []string{"old waiting", "new sent"}, ids)
	}
	var letters int
	require.NoError(t, s.read.QueryRowContext(t.Context(), "SELECT count(*) FROM letter").Scan(&letters))
	assert.Equal(t, 2, letters)
}
