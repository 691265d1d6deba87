-- +goose Up
CREATE TABLE tracker (
  id      INTEGER PRIMARY KEY,
  name    TEXT NOT NULL,
  version INTEGER NOT NULL,
  shape   TEXT NOT NULL CHECK (json_valid(shape))
);
-- cells: JSON keyed by column id; text, numbers and ticks as themselves, other
-- kinds tagged: {"date":"2026-03-31"}, {"choice":"Agreed"}, {"odd":"TBC"}.
CREATE TABLE row (
  id      INTEGER PRIMARY KEY,
  tracker INTEGER NOT NULL REFERENCES tracker(id),
  tab     INTEGER NOT NULL,
  pos     INTEGER NOT NULL,
  version INTEGER NOT NULL,
  cells   TEXT NOT NULL,
  notes   TEXT,
  origin  TEXT
);
CREATE INDEX row_by_tracker ON row(tracker);
CREATE TABLE journal (
  seq    INTEGER PRIMARY KEY,
  at     TEXT NOT NULL,
  who    TEXT NOT NULL,
  run    TEXT NOT NULL,
  undoes INTEGER NOT NULL,
  tracker INTEGER NOT NULL,
  causes TEXT NOT NULL,
  counts TEXT NOT NULL
);
-- the changes of a change set, some hundreds to a part
CREATE TABLE change (
  seq  INTEGER NOT NULL,
  part INTEGER NOT NULL,
  body TEXT NOT NULL,
  PRIMARY KEY (seq, part)
) WITHOUT ROWID;
-- which change sets touched a row, and in which part
CREATE TABLE history (
  row  INTEGER NOT NULL,
  seq  INTEGER NOT NULL,
  part INTEGER NOT NULL,
  PRIMARY KEY (row, seq, part)
) WITHOUT ROWID;
CREATE TABLE run (
  id      TEXT PRIMARY KEY,
  at      TEXT NOT NULL,
  tracker INTEGER NOT NULL,
  kind    TEXT NOT NULL,
  name    TEXT NOT NULL,
  who     TEXT NOT NULL,
  outcome TEXT NOT NULL,
  seq     INTEGER NOT NULL,
  body    TEXT NOT NULL
) WITHOUT ROWID;
-- when each clocked part last ran, as the occurrence it ran for
CREATE TABLE clocked (
  tracker INTEGER NOT NULL,
  part    INTEGER NOT NULL,
  last    TEXT NOT NULL,
  PRIMARY KEY (tracker, part)
) WITHOUT ROWID;
CREATE TABLE outbox (
  id         TEXT PRIMARY KEY,
  tracker    INTEGER NOT NULL,
  round      INTEGER NOT NULL,
  occurrence TEXT NOT NULL,
  recipient  TEXT NOT NULL,
  subject    TEXT NOT NULL,
  text       TEXT NOT NULL,
  html       TEXT NOT NULL,
  run        TEXT NOT NULL,
  state      TEXT NOT NULL,
  tries      INTEGER NOT NULL DEFAULT 0,
  made       TEXT NOT NULL,
  next_try   TEXT NOT NULL,
  sent       TEXT NOT NULL DEFAULT '',
  problem    TEXT NOT NULL DEFAULT '',
  UNIQUE (tracker, round, occurrence, recipient)
) WITHOUT ROWID;
CREATE TABLE person (
  id      INTEGER PRIMARY KEY,
  name    TEXT NOT NULL,
  address TEXT NOT NULL UNIQUE,
  access  TEXT NOT NULL CHECK (access IN ('keeper', 'editor', 'reader'))
);
CREATE TABLE token (
  hash    TEXT PRIMARY KEY,
  person  INTEGER NOT NULL REFERENCES person(id),
  kind    TEXT NOT NULL CHECK (kind IN ('token', 'session', 'link')),
  name    TEXT NOT NULL,
  made    TEXT NOT NULL,
  expires TEXT NOT NULL
) WITHOUT ROWID;
-- answers already given to writes that carried an Idempotency-Key
CREATE TABLE answered (
  key    TEXT PRIMARY KEY,
  at     TEXT NOT NULL,
  seq    INTEGER NOT NULL,
  answer TEXT NOT NULL
) WITHOUT ROWID;
CREATE TABLE counter (
  name TEXT PRIMARY KEY,
  next INTEGER NOT NULL
) WITHOUT ROWID;
INSERT INTO counter VALUES ('row', 1), ('part', 1), ('seq', 1);
-- +goose Down
DROP TABLE counter; DROP TABLE answered; DROP TABLE token; DROP TABLE person; DROP TABLE outbox; DROP TABLE clocked;
DROP TABLE run; DROP TABLE history; DROP TABLE change; DROP TABLE journal; DROP TABLE row; DROP TABLE tracker;
