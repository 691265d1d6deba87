-- +goose Up
-- private links to forms are secrets of whoever made them, and say of which form
CREATE TABLE token_now (
  hash    TEXT PRIMARY KEY,
  person  INTEGER NOT NULL REFERENCES person(id),
  kind    TEXT NOT NULL CHECK (kind IN ('token', 'session', 'link', 'feed', 'form')),
  name    TEXT NOT NULL,
  made    TEXT NOT NULL,
  expires TEXT NOT NULL,
  used    TEXT NOT NULL DEFAULT ''
) WITHOUT ROWID;
INSERT INTO token_now SELECT hash, person, kind, name, made, expires, used FROM token;
DROP TABLE token;
ALTER TABLE token_now RENAME TO token;
CREATE INDEX token_by_person ON token(person);
-- +goose Down
DELETE FROM token WHERE kind='form';
