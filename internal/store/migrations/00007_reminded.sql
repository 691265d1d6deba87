-- +goose Up
-- what is known of the rows that reminders hold: since when, when somebody was
-- last told, until which day a person put it off, whether one called it done
CREATE TABLE reminded (
  tracker  INTEGER NOT NULL,
  reminder INTEGER NOT NULL,
  row      INTEGER NOT NULL,
  since    TEXT NOT NULL,
  told     TEXT NOT NULL,
  until    INTEGER NOT NULL,
  done     INTEGER NOT NULL,
  PRIMARY KEY (tracker, reminder, row)
) WITHOUT ROWID;
-- people who want no rounds for now
CREATE TABLE paused (
  address TEXT PRIMARY KEY,
  at      TEXT NOT NULL
) WITHOUT ROWID;
-- what the workspace keeps for itself, such as the key with which links in mails
-- are signed
CREATE TABLE own (
  name  TEXT PRIMARY KEY,
  value TEXT NOT NULL
) WITHOUT ROWID;
-- calendars have secrets of their own
CREATE TABLE token_now (
  hash    TEXT PRIMARY KEY,
  person  INTEGER NOT NULL REFERENCES person(id),
  kind    TEXT NOT NULL CHECK (kind IN ('token', 'session', 'link', 'feed')),
  name    TEXT NOT NULL,
  made    TEXT NOT NULL,
  expires TEXT NOT NULL
) WITHOUT ROWID;
INSERT INTO token_now SELECT * FROM token;
DROP TABLE token;
ALTER TABLE token_now RENAME TO token;
-- +goose Down
DELETE FROM token WHERE kind='feed';
DROP TABLE own; DROP TABLE paused; DROP TABLE reminded;
