-- +goose Up
-- what mails say stands apart from what becomes of them, which changes often
CREATE TABLE letter (
  id   TEXT PRIMARY KEY,
  text TEXT NOT NULL,
  html TEXT NOT NULL
);
INSERT INTO letter(id, text, html) SELECT id, text, html FROM outbox;
CREATE TABLE outbox_now (
  id         TEXT PRIMARY KEY,
  tracker    INTEGER NOT NULL,
  round      INTEGER NOT NULL,
  occurrence TEXT NOT NULL,
  recipient  TEXT NOT NULL,
  subject    TEXT NOT NULL,
  run        TEXT NOT NULL,
  state      TEXT NOT NULL,
  tries      INTEGER NOT NULL DEFAULT 0,
  made       TEXT NOT NULL,
  next_try   TEXT NOT NULL,
  sent       TEXT NOT NULL DEFAULT '',
  problem    TEXT NOT NULL DEFAULT '',
  UNIQUE (tracker, round, occurrence, recipient)
) WITHOUT ROWID;
INSERT INTO outbox_now SELECT id, tracker, round, occurrence, recipient, subject, run, state, tries, made, next_try, sent, problem FROM outbox;
DROP TABLE outbox;
ALTER TABLE outbox_now RENAME TO outbox;
-- +goose Down
ALTER TABLE outbox ADD COLUMN text TEXT NOT NULL DEFAULT '';
ALTER TABLE outbox ADD COLUMN html TEXT NOT NULL DEFAULT '';
UPDATE outbox SET text=(SELECT text FROM letter WHERE letter.id=outbox.id), html=(SELECT html FROM letter WHERE letter.id=outbox.id);
DROP TABLE letter;
