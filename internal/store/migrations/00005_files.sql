-- +goose Up
-- the files of the intake as they were last seen; a file keeps its id when it
-- is renamed or saved anew
CREATE TABLE file (
  id       TEXT PRIMARY KEY,
  path     TEXT NOT NULL UNIQUE,
  hash     TEXT NOT NULL,
  size     INTEGER NOT NULL,
  version  INTEGER NOT NULL,
  created  TEXT NOT NULL,
  modified TEXT NOT NULL,
  gone     INTEGER NOT NULL DEFAULT 0
) WITHOUT ROWID;
-- +goose Down
DROP TABLE file;
